//! The looks on stage and how much there is of each. The weights always lead over from what is there to what landed last,
//! so that a fade that is interrupted goes on from where it is.

use super::snapshot::OnStage;

#[derive(Debug, Clone, Copy, PartialEq, Default)]
struct Entry {
    weight: f32,
    /// The weight when the present fade began.
    from: f32,
}

/// The looks on stage.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Stage {
    /// One for each look of the show.
    entries: Vec<Entry>,
    /// The look that landed last.
    top: Option<usize>,
    fade_start: f64,
    fade_beats: f64,
}

impl Stage {
    pub(super) fn new(looks: usize) -> Self {
        Self { entries: vec![Entry::default(); looks], top: None, fade_start: 0.0, fade_beats: 0.0 }
    }

    /// The look that landed last.
    pub(super) fn top(&self) -> Option<usize> {
        self.top
    }

    /// Begins to fade to a look at a beat.
    pub(super) fn land(&mut self, look: usize, beat: f64, fade_beats: f64) {
        if self.top == Some(look) {
            return;
        }
        for entry in &mut self.entries {
            entry.from = entry.weight;
        }
        self.top = Some(look);
        (self.fade_start, self.fade_beats) = (beat, fade_beats);
        if fade_beats <= 0.0 {
            self.advance(beat);
        }
    }

    /// The same stage for another list of looks: `place` tells where each look of the present one stands in it.
    pub(super) fn moved(&self, place: &[Option<usize>], looks: usize) -> Self {
        let mut moved = Self { entries: vec![Entry::default(); looks], top: None, ..*self };
        for (before, after) in place.iter().enumerate() {
            if let Some(after) = *after {
                moved.entries[after] = self.entries[before];
            }
        }
        moved.top = self.top.and_then(|top| place[top]);
        moved
    }

    /// Goes on to a beat.
    pub(super) fn advance(&mut self, beat: f64) {
        let Some(top) = self.top else { return };
        let done = if self.fade_beats > 0.0 {
            ((beat - self.fade_start) / self.fade_beats).clamp(0.0, 1.0) as f32
        } else {
            1.0
        };
        for (look, entry) in self.entries.iter_mut().enumerate() {
            let to = if look == top { 1.0 } else { 0.0 };
            // Exact at both ends, so that a look that is whole is so to the bit.
            entry.weight = if done >= 1.0 { to } else { entry.from + (to - entry.from) * done };
        }
    }

    /// Moves the count of beats.
    pub(super) fn shift(&mut self, beats: f64) {
        self.fade_start += beats;
    }

    /// The looks that give any light, with their weights, which sum up to 1 once the stage is full.
    pub(super) fn weights(&self) -> impl Iterator<Item = (usize, f32)> {
        self.entries.iter().enumerate().filter(|(_, e)| e.weight > 0.0).map(|(look, e)| (look, e.weight))
    }

    /// The one look that gives all the light, if one does.
    pub(super) fn alone(&self) -> Option<usize> {
        let mut weights = self.weights();
        let (look, weight) = weights.next()?;
        (weight == 1.0 && weights.next().is_none()).then_some(look)
    }

    /// The same for a screen, what landed last first.
    pub(super) fn entries(&self, beat: f64) -> impl Iterator<Item = OnStage> {
        let left = (self.fade_start + self.fade_beats - beat).max(0.0);
        let top = self.top.into_iter();
        let rest =
            (0..self.entries.len()).filter(move |&look| Some(look) != self.top && self.entries[look].weight > 0.0);
        top.chain(rest).map(move |look| OnStage {
            look,
            weight: self.entries[look].weight,
            comes: Some(look) == self.top,
            fade_left: left,
        })
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
        stage.land(0, 0.0, 0.0);
        stage.land(1, 4.0, 4.0);
        stage.advance(5.0);
        assert_eq!((weights(&stage), stage.alone()), (vec![(0, 0.75), (1, 0.25)], None));
        stage.advance(8.0);
        assert_eq!((weights(&stage), stage.alone()), (vec![(1, 1.0)], Some(1)));
    }

    #[test]
    fn a_fade_that_is_interrupted_goes_on_from_where_it_is() {
        let mut stage = Stage::new(3);
        stage.land(0, 0.0, 0.0);
        stage.land(1, 0.0, 4.0);
        stage.advance(2.0);
        let before = weights(&stage);
        stage.land(2, 2.0, 4.0);
        stage.advance(2.0);
        assert_eq!(weights(&stage), before);
        stage.advance(4.0);
        assert_eq!(weights(&stage), [(0, 0.25), (1, 0.25), (2, 0.5)]);
        stage.land(0, 4.0, 2.0);
        stage.advance(6.0);
        assert_eq!(weights(&stage), [(0, 1.0)]);
    }

    #[test]
    fn looks_keep_their_weights_where_the_list_changes() {
        let mut stage = Stage::new(3);
        stage.land(0, 0.0, 0.0);
        stage.land(2, 0.0, 4.0);
        stage.advance(1.0);
        let mut moved = stage.moved(&[Some(3), None, Some(0)], 4);
        assert_eq!(weights(&moved), [(0, 0.25), (3, 0.75)]);
        moved.advance(4.0);
        assert_eq!(weights(&moved), [(0, 1.0)]);
        assert_eq!(stage.moved(&[None, None, None], 0).top, None);
    }

    #[test]
    fn landing_the_top_look_again_changes_nothing() {
        let mut stage = Stage::new(2);
        stage.land(0, 0.0, 4.0);
        stage.advance(2.0);
        stage.land(0, 2.0, 4.0);
        stage.advance(3.0);
        assert_eq!(weights(&stage), [(0, 0.75)]);
    }
}
