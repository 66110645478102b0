//! The looks on a tier and how much there is of each. The weights always lead over from what is there to what landed last,
//! so that a fade that is interrupted goes on from where it is.

use super::fade::{Fade, Length};
use splimo_time::rate::Step;

#[derive(Debug, Clone, Copy, PartialEq)]
struct Entry {
    look: usize,
    weight: f32,
    /// The weight when the present fade began.
    from: f32,
}

/// The looks on a tier.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Stage {
    /// By their places in the show. There is room for every look of it, so that landing never allocates.
    entries: Vec<Entry>,
    /// The look that landed last; none where it is to be clear.
    target: Option<usize>,
    fade: Fade,
}

impl Stage {
    pub(super) fn new(looks: usize) -> Self {
        Self { entries: Vec::with_capacity(looks), target: None, fade: Fade::new(0.0, Length::NONE) }
    }

    /// The look that landed last.
    pub(super) fn target(&self) -> Option<usize> {
        self.target
    }

    /// Begins to fade to a look, or to nothing, at a beat.
    pub(super) fn land(&mut self, look: Option<usize>, beat: f64, length: Length) {
        if self.target == look {
            return;
        }
        for entry in &mut self.entries {
            entry.from = entry.weight;
        }
        if let Some(look) = look
            && let Err(place) = self.entries.binary_search_by_key(&look, |entry| entry.look)
        {
            self.entries.insert(place, Entry { look, weight: 0.0, from: 0.0 });
        }
        self.target = look;
        self.fade = Fade::new(beat, length);
        if length.count() <= 0.0 {
            self.advance(beat, Step::default());
        }
    }

    /// The same stage for another list of looks: `place` tells where each look of the present one stands in it.
    pub(super) fn moved(&self, place: &[Option<usize>], looks: usize) -> Self {
        let mut moved = Self { entries: Vec::with_capacity(looks), target: None, ..*self };
        let now = |look: usize| place.get(look).copied().flatten();
        moved.entries.extend(self.entries.iter().filter_map(|entry| Some(Entry { look: now(entry.look)?, ..*entry })));
        moved.entries.sort_unstable_by_key(|entry| entry.look);
        moved.target = self.target.and_then(now);
        moved
    }

    /// Goes on to a beat, by a step.
    pub(super) fn advance(&mut self, beat: f64, step: Step) {
        self.fade.advance(step);
        if self.entries.is_empty() {
            return;
        }
        let done = self.fade.done(beat);
        for entry in &mut self.entries {
            let to = if Some(entry.look) == self.target { 1.0 } else { 0.0 };
            // Exact at both ends, so that a look that is whole is so to the bit.
            entry.weight = if done >= 1.0 { to } else { entry.from + (to - entry.from) * done };
        }
        if done >= 1.0 {
            let target = self.target;
            self.entries.retain(|entry| Some(entry.look) == target);
        }
    }

    /// Ends the fade: what landed last is there, whole.
    pub(super) fn finish(&mut self, beat: f64) {
        self.fade.finish();
        self.advance(beat, Step::default());
    }

    /// Moves the count of beats.
    pub(super) fn shift(&mut self, beats: f64) {
        self.fade.shift(beats);
    }

    /// Holds the fade where it is, or lets it go on.
    pub(super) fn hold(&mut self, held: bool) {
        self.fade.hold(held);
    }

    /// Beats until the fade is over, at so many beats a second.
    pub(super) fn fade_left(&self, beat: f64, pace: f64) -> f64 {
        self.fade.left(beat, pace)
    }

    /// The looks that give any light, with their weights, which sum up to 1 once the tier is full.
    pub(super) fn weights(&self) -> impl Iterator<Item = (usize, f32)> {
        self.entries.iter().filter(|entry| entry.weight > 0.0).map(|entry| (entry.look, entry.weight))
    }

    /// The sum of all weights: 1, or less where it fades in from nothing or out to nothing.
    pub(super) fn whole(&self) -> f32 {
        self.weights().map(|(_, weight)| weight).sum::<f32>().min(1.0)
    }

    /// The weight of a look.
    pub(super) fn weight(&self, look: usize) -> f32 {
        self.entries.iter().find(|entry| entry.look == look).map_or(0.0, |entry| entry.weight)
    }

    /// The one look that gives all the light, if one does.
    pub(super) fn alone(&self) -> Option<usize> {
        let mut weights = self.weights();
        let (look, weight) = weights.next()?;
        (weight == 1.0 && weights.next().is_none()).then_some(look)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn weights(stage: &Stage) -> Vec<(usize, f32)> {
        stage.weights().collect()
    }

    #[test]
    fn a_fade_leads_from_one_look_to_the_next() {
        let mut stage = Stage::new(3);
        stage.land(Some(0), 0.0, Length::Beats(0.0));
        stage.land(Some(1), 4.0, Length::Beats(4.0));
        stage.advance(5.0, Step::default());
        assert_eq!((weights(&stage), stage.alone()), (vec![(0, 0.75), (1, 0.25)], None));
        stage.advance(8.0, Step::default());
        assert_eq!((weights(&stage), stage.alone()), (vec![(1, 1.0)], Some(1)));
    }

    #[test]
    fn a_fade_to_nothing_leaves_nothing() {
        let mut stage = Stage::new(3);
        stage.land(Some(2), 0.0, Length::Beats(0.0));
        stage.land(None, 0.0, Length::Beats(4.0));
        stage.advance(1.0, Step::default());
        assert_eq!((weights(&stage), stage.whole()), (vec![(2, 0.75)], 0.75));
        stage.advance(4.0, Step::default());
        assert_eq!(stage, Stage { fade: Fade::new(0.0, Length::Beats(4.0)), ..Stage::new(3) });
    }

    #[test]
    fn a_fade_that_is_interrupted_goes_on_from_where_it_is() {
        let mut stage = Stage::new(3);
        stage.land(Some(0), 0.0, Length::Beats(0.0));
        stage.land(Some(1), 0.0, Length::Beats(4.0));
        stage.advance(2.0, Step::default());
        let before = weights(&stage);
        stage.land(Some(2), 2.0, Length::Beats(4.0));
        stage.advance(2.0, Step::default());
        assert_eq!(weights(&stage), before);
        stage.advance(4.0, Step::default());
        assert_eq!(weights(&stage), [(0, 0.25), (1, 0.25), (2, 0.5)]);
        stage.land(Some(0), 4.0, Length::Beats(2.0));
        stage.advance(6.0, Step::default());
        assert_eq!(weights(&stage), [(0, 1.0)]);
    }

    #[test]
    fn looks_keep_their_weights_where_the_list_changes() {
        let mut stage = Stage::new(3);
        stage.land(Some(0), 0.0, Length::Beats(0.0));
        stage.land(Some(2), 0.0, Length::Beats(4.0));
        stage.advance(1.0, Step::default());
        let mut moved = stage.moved(&[Some(3), None, Some(0)], 4);
        assert_eq!(weights(&moved), [(0, 0.25), (3, 0.75)]);
        moved.advance(4.0, Step::default());
        assert_eq!(weights(&moved), [(0, 1.0)]);
        assert_eq!(stage.moved(&[None, None, None], 0).target, None);
    }

    #[test]
    fn landing_the_top_look_again_changes_nothing() {
        let mut stage = Stage::new(2);
        stage.land(Some(0), 0.0, Length::Beats(4.0));
        stage.advance(2.0, Step::default());
        stage.land(Some(0), 2.0, Length::Beats(4.0));
        stage.advance(3.0, Step::default());
        assert_eq!(weights(&stage), [(0, 0.75)]);
    }
}
