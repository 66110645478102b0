//! The tiers of the stage at a moment: what each shows, what lies over that for a while, its level, and who put it there.

use super::fade::Length;
use super::snapshot::{OnStage, TierState};
use super::stage::Stage;
use super::wish::{Stay, Wish};
use splimo_show::command::Origin;
use splimo_time::rate::Step;

/// The state of a tier, as a person has set it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TierSetting {
    /// The look that it shows for good, by its place in the show.
    pub look: Option<usize>,
    /// The sender that put it there.
    pub by: Origin,
    /// The level, 0..1.
    pub level: f32,
    /// True if it is not seen.
    pub mute: bool,
    /// True if only it, and others that are solo, are seen.
    pub solo: bool,
}

impl TierSetting {
    /// The state of a tier that nobody has touched.
    pub const EMPTY: Self = Self { look: None, by: Origin::Session, level: 1.0, mute: false, solo: false };
}

/// The most flashes that lie over one another on a tier; one more ends the oldest.
const MOST_OVER: usize = 8;

/// The thing that a tier shows, and who put it there.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Shown {
    look: usize,
    fade_out: f32,
    by: Origin,
    pad: Option<usize>,
    /// The beat at which it goes by itself.
    until: Option<f64>,
}

/// A tier at a moment.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct TierNow {
    stage: Stage,
    /// The thing that it shows for good.
    below: Option<Shown>,
    /// Everything that lies over that for a while, the latest last.
    over: Vec<Shown>,
    /// The sender that changed it last.
    by: Origin,
    /// True if something that was to stay for some beats went, and nobody has taken note yet.
    ended: bool,
    /// The level, 0..1.
    pub(super) level: f32,
    /// True if it is not seen.
    pub(super) mute: bool,
    /// True if only it, and others that are solo, are seen.
    pub(super) solo: bool,
}

impl TierNow {
    pub(super) fn new(looks: usize) -> Self {
        Self {
            stage: Stage::new(looks),
            below: None,
            over: Vec::with_capacity(MOST_OVER),
            by: Origin::Session,
            ended: false,
            level: 1.0,
            mute: false,
            solo: false,
        }
    }

    /// The weights of its looks.
    pub(super) fn stage(&self) -> &Stage {
        &self.stage
    }

    fn top(&self) -> Option<&Shown> {
        self.over.last().or(self.below.as_ref())
    }

    /// True if it shows something, or is to.
    pub(super) fn is_taken(&self) -> bool {
        self.top().is_some()
    }

    /// The look that it shows for good.
    pub(super) fn look(&self) -> Option<usize> {
        self.below.map(|shown| shown.look)
    }

    /// True if it shows the look of a pad for good.
    pub(super) fn shows_pad(&self, pad: usize) -> bool {
        self.below.is_some_and(|shown| shown.pad == Some(pad))
    }

    /// Does what a wish says, from a beat on.
    pub(super) fn land(&mut self, wish: &Wish, beat: f64) {
        let fade_out = self.top().map_or(wish.fade_out, |top| top.fade_out);
        self.land_in(wish, beat, Length::Beats(f64::from(if wish.look.is_some() { wish.fade } else { fade_out })));
    }

    /// The same within another time than the wish says.
    pub(super) fn land_in(&mut self, wish: &Wish, beat: f64, fade: Length) {
        self.by = wish.by;
        let Some(look) = wish.look else {
            self.below = None;
            self.over.clear();
            return self.stage.land(None, beat, fade);
        };
        let until = match wish.stay {
            Stay::ForGood | Stay::Held => None,
            Stay::Beats(beats) => Some(beat + f64::from(beats)),
        };
        let shown = Shown { look, fade_out: wish.fade_out, by: wish.by, pad: wish.pad, until };
        if wish.stay == Stay::ForGood && wish.by == Origin::Rotation && !self.over.is_empty() {
            // What turns by itself ends no flash; it is there when that is over.
            self.below = Some(shown);
            return;
        }
        if wish.stay == Stay::ForGood {
            self.below = Some(shown);
            self.over.clear();
        } else {
            self.over.retain(|other| wish.pad.is_none() || other.pad != wish.pad);
            if self.over.len() == MOST_OVER {
                self.over.remove(0);
            }
            self.over.push(shown);
        }
        self.stage.land(Some(look), beat, fade);
    }

    /// Shows a look at once and whole, and nothing else.
    pub(super) fn cut_to(&mut self, look: Option<usize>, by: Origin, beat: f64) {
        self.by = by;
        self.over.clear();
        self.below = look.map(|look| Shown { look, fade_out: 0.0, by, pad: None, until: None });
        self.stage.land(look, beat, Length::NONE);
        self.stage.finish(beat);
    }

    /// Ends what a pad holds. Whether it held anything.
    pub(super) fn let_go(&mut self, pad: usize, beat: f64) -> bool {
        self.end_over(beat, |shown| shown.pad == Some(pad) && shown.until.is_none())
    }

    fn end_over(&mut self, beat: f64, ends: impl Fn(&Shown) -> bool) -> bool {
        let Some(last) = self.over.iter().rev().find(|shown| ends(shown)).copied() else { return false };
        self.over.retain(|shown| !ends(shown));
        let back = self.top().map(|top| top.look);
        // Where several things lie over one another, the one that is seen may stay.
        if self.stage.target() != back {
            self.stage.land(back, beat, Length::Beats(f64::from(last.fade_out)));
        }
        true
    }

    /// Sets the level, as far as there is one.
    pub(super) fn set_level(&mut self, level: f32) {
        self.level = level.clamp(0.0, 1.0);
    }

    /// True if something that was to stay for some beats went since it was last asked.
    pub(super) fn take_ended(&mut self) -> bool {
        std::mem::take(&mut self.ended)
    }

    /// Holds the fade where it is, or lets it go on.
    pub(super) fn hold(&mut self, held: bool) {
        self.stage.hold(held);
    }

    /// The thing that it shows for good: the look, who put it there, and with which pad.
    pub(super) fn for_good(&self) -> (Option<usize>, Origin, Option<usize>) {
        self.below.map_or((None, self.by, None), |shown| (Some(shown.look), shown.by, shown.pad))
    }

    /// Goes on to a beat, by a step.
    pub(super) fn advance(&mut self, beat: f64, step: Step) {
        while let Some(until) = self.over.iter().filter_map(|shown| shown.until).min_by(f64::total_cmp)
            && until <= beat
        {
            self.stage.advance(until, Step::default());
            self.ended |= self.end_over(until, |shown| shown.until.is_some_and(|own| own <= until));
        }
        self.stage.advance(beat, step);
    }

    /// Moves the count of beats.
    pub(super) fn shift(&mut self, beats: f64) {
        self.stage.shift(beats);
        for until in self.over.iter_mut().filter_map(|shown| shown.until.as_mut()) {
            *until += beats;
        }
    }

    /// The same tier for another list of looks.
    pub(super) fn moved(&self, place: &[Option<usize>], looks: usize) -> Self {
        let now = |shown: &Shown| Some(Shown { look: place.get(shown.look).copied().flatten()?, ..*shown });
        let mut over = Vec::with_capacity(MOST_OVER);
        over.extend(self.over.iter().filter_map(now));
        let below = self.below.as_ref().and_then(now);
        Self { stage: self.stage.moved(place, looks), below, over, ..*self }
    }

    /// The state of it, as a person has set it.
    pub(super) fn setting(&self) -> TierSetting {
        TierSetting { look: self.look(), by: self.by, level: self.level, mute: self.mute, solo: self.solo }
    }

    /// Goes on from the state of another one; its look is there at once and whole.
    pub(super) fn set(&mut self, setting: &TierSetting, beat: f64) {
        (self.level, self.mute, self.solo) = (setting.level, setting.mute, setting.solo);
        self.cut_to(setting.look, setting.by, beat);
    }

    /// The same for a screen.
    pub(super) fn state(&self, beat: f64, pace: f64) -> TierState {
        TierState {
            look: self.top().map(|top| top.look),
            below: self.below.filter(|_| !self.over.is_empty()).map(|shown| shown.look),
            held: !self.over.is_empty(),
            by: self.top().map_or(self.by, |top| top.by),
            pad: self.top().and_then(|top| top.pad),
            until: self.top().and_then(|top| top.until),
            fade_left: self.stage.fade_left(beat, pace),
            level: self.level,
            mute: self.mute,
            solo: self.solo,
        }
    }
}

/// The tiers of the stage at a moment, the lowest first, over the light that is on when nothing else is.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Tiers {
    pub(super) tiers: Vec<TierNow>,
    fallback: Stage,
    /// The look that was on the stage last.
    last: Option<usize>,
}

impl Tiers {
    pub(super) fn new(tiers: usize, looks: usize) -> Self {
        Self { tiers: (0..tiers).map(|_| TierNow::new(looks)).collect(), fallback: Stage::new(looks), last: None }
    }

    /// The weights of the looks that are on when nothing else is.
    pub(super) fn fallback(&self) -> &Stage {
        &self.fallback
    }

    /// The look that was on the stage last.
    pub(super) fn last(&self) -> Option<usize> {
        self.last
    }

    /// True if any tier shows something, or is to.
    pub(super) fn is_taken(&self) -> bool {
        self.tiers.iter().any(TierNow::is_taken)
    }

    /// Shows another look where nothing else is on.
    pub(super) fn fall_back_on(&mut self, look: Option<usize>, beat: f64, fade: f64) {
        self.fallback.land(look, beat, Length::Beats(fade));
    }

    /// Goes on to a beat, by a step.
    pub(super) fn advance(&mut self, beat: f64, step: Step) {
        self.tiers.iter_mut().for_each(|tier| tier.advance(beat, step));
        self.fallback.advance(beat, step);
        self.last = self.tiers.iter().find_map(|tier| tier.top().map(|top| top.look)).or(self.last);
    }

    /// Moves the count of beats.
    pub(super) fn shift(&mut self, beats: f64) {
        self.tiers.iter_mut().for_each(|tier| tier.shift(beats));
        self.fallback.shift(beats);
    }

    /// The same for other lists of looks and tiers: the places tell where each stands there.
    pub(super) fn moved(&self, looks: &[Option<usize>], count: usize, tiers: &[Option<usize>], stack: usize) -> Self {
        let mut moved = Self::new(stack, count);
        for (before, after) in tiers.iter().enumerate() {
            if let Some(after) = *after {
                moved.tiers[after] = self.tiers[before].moved(looks, count);
            }
        }
        moved.fallback = self.fallback.moved(looks, count);
        moved.last = self.last.and_then(|last| looks.get(last).copied().flatten());
        moved
    }

    /// Every look that gives light, maybe several times.
    pub(super) fn looks(&self) -> impl Iterator<Item = usize> {
        let stages = self.tiers.iter().map(|tier| &tier.stage).chain([&self.fallback]);
        stages.flat_map(Stage::weights).map(|(look, _)| look)
    }

    /// Writes what is on stage for a screen: tier by tier from the lowest, what landed last first.
    pub(super) fn publish(&self, beat: f64, pace: f64, stage: &mut Vec<OnStage>, tiers: &mut Vec<TierState>) {
        stage.clear();
        tiers.clear();
        for (place, tier) in self.tiers.iter().enumerate() {
            tiers.push(tier.state(beat, pace));
            let fade_left = tier.stage.fade_left(beat, pace);
            let target = tier.stage.target();
            let first = target.into_iter().map(|look| (look, tier.stage.weight(look)));
            let rest = tier.stage.weights().filter(move |(look, _)| Some(*look) != target);
            stage.extend(first.chain(rest).map(|(look, weight)| OnStage {
                tier: place,
                look,
                weight,
                comes: Some(look) == target,
                fade_left,
                place: None,
            }));
        }
    }
}
