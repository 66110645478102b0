//! Beats that are passed, wherever the clock counts them from.

use super::Moment;

/// From which beat to which time went on in one step, both as they are counted at its end.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Passage {
    from: i64,
    to: i64,
}

impl Passage {
    /// The one to `to` in so many beats, from what was counted as `from`. A count may begin elsewhere, by whole beats, as where a
    /// bar is set by hand: that alone passes nothing.
    #[must_use]
    pub fn new(from: f64, to: f64, beats: f64) -> Self {
        // In whole numbers, so that no rounding passes a beat twice or never.
        Self { from: from.floor() as i64 + (to - from - beats).round() as i64, to: to.floor() as i64 }
    }

    /// Whether a place that divides by so many whole beats was passed.
    #[must_use]
    pub fn over(self, every: f64) -> bool {
        let every = (every.round() as i64).max(1);
        self.to.div_euclid(every) != self.from.div_euclid(every)
    }

    /// How many beats began.
    #[must_use]
    pub fn beats(self) -> i64 {
        self.to - self.from
    }
}

/// Watches beats go by.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct BeatWatch {
    last: Option<f64>,
    count: i64,
}

impl BeatWatch {
    /// Goes on to a moment. The first one passes nothing.
    pub fn advance(&mut self, moment: &Moment<'_>) -> Passage {
        let from = self.last.replace(moment.beat);
        let Some(from) = from else {
            self.count = moment.beat.floor() as i64;
            return Passage { from: self.count, to: self.count };
        };
        let passage = Passage::new(from, moment.beat, moment.step.beats);
        self.count += passage.beats();
        passage
    }

    /// The number of the beat: the clock's at the first moment, and one more with each that began since.
    #[must_use]
    pub fn count(&self) -> i64 {
        self.count
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::music::Hearing;
    use crate::rate::Step;

    proptest! {
        // However long the steps are and wherever beats are counted from: each is passed once.
        #[test]
        fn each_beat_is_passed_once(steps in proptest::collection::vec((0u32..80, -40i32..40), 1..200)) {
            let (mut watch, mut gone, mut shifted) = (BeatWatch::default(), 0.0f64, 0.0);
            let hearing = Hearing::SILENCE;
            watch.advance(&Moment::at(0.0, 0.0, Step::default(), &hearing));
            let (mut beats, mut bars) = (0, 0);
            for (hundredths, shift) in steps {
                // Beats fall on moments as well, which is where rounding would tell.
                let beats_on = f64::from(hundredths) / 50.0;
                gone += beats_on;
                shifted += f64::from(shift / 8 * 4);
                let step = Step { seconds: beats_on / 2.0, beats: beats_on };
                let passage = watch.advance(&Moment::at(gone / 2.0, gone + shifted, step, &hearing));
                beats += passage.beats();
                bars += u32::from(passage.over(4.0));
                prop_assert_eq!(passage.over(1.0), passage.beats() > 0);
            }
            // What is added up misses a place by less than a billionth.
            prop_assert!((beats as f64 - gone.floor()).abs() <= f64::from(u8::from((gone - gone.round()).abs() < 1e-9)));
            prop_assert_eq!(watch.count(), beats);
            prop_assert!((f64::from(bars) - (gone / 4.0).floor()).abs() <= 1.0);
        }
    }
}
