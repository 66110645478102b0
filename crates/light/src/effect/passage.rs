//! Beats that are passed, wherever the clock counts them from, and onsets that come while one listens.

use super::Moment;
use splimo_base::Seconds;
use splimo_time::rate::Step;

/// From which beat to which time went on in one step, both as they are counted at its end.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Passage {
    from: i64,
    to: i64,
}

impl Passage {
    /// True if a place that divides by so many whole beats was passed.
    #[must_use]
    pub fn over(self, every: f64) -> bool {
        let every = (every.round() as i64).max(1);
        self.to.div_euclid(every) != self.from.div_euclid(every)
    }

    /// The number of beats that began.
    #[must_use]
    pub fn beats(self) -> i64 {
        self.to - self.from
    }
}

/// The most that time may be off its step, in seconds, for nothing to be missing between two moments.
const GAPLESS: f64 = 1e-4;

/// Watches beats go by.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct BeatWatch {
    last: Option<Last>,
    count: i64,
}

/// The last look: the time, where the clock was in beats, and the beat that had begun, which rounding does not take back.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Last {
    time: Seconds,
    place: f64,
    beat: i64,
}

impl BeatWatch {
    /// Goes on to a moment, in a step. The first one passes nothing, and neither does one before which it did not look, as while
    /// its look was not on stage: it goes by the clock's count from there on. Nor does it pass a beat that the clock counts from
    /// elsewhere, by whole beats, as where a bar is set by hand.
    pub fn pass(&mut self, time: Seconds, place: f64, step: Step) -> Passage {
        let now = place.floor() as i64;
        let Some(last) = self.last.filter(|last| gapless(last.time, time, step)) else {
            (self.last, self.count) = (Some(Last { time, place, beat: now }), now);
            return Passage { from: now, to: now };
        };
        let from = last.beat + (place - last.place - step.beats).round() as i64;
        let passage = Passage { from, to: now.max(from) };
        self.last = Some(Last { time, place, beat: passage.to });
        self.count += passage.beats();
        passage
    }

    /// The same for an effect.
    pub fn advance(&mut self, moment: &Moment<'_>) -> Passage {
        self.pass(moment.time, moment.beat, moment.step)
    }

    /// The number of the beat: the clock's at first, and one more with each that began since.
    #[must_use]
    pub fn count(&self) -> i64 {
        self.count
    }
}

/// True if nothing is missing between the time at which one looked last and a moment.
fn gapless(last: Seconds, time: Seconds, step: Step) -> bool {
    (time - last - step.seconds).abs() < GAPLESS
}

/// Watches onsets come.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct OnsetWatch {
    last: Option<(Seconds, u64)>,
}

impl OnsetWatch {
    /// Goes on to a moment; whether anything set in since the one before. What set in while its look was not on stage counts
    /// for nothing.
    pub fn advance(&mut self, moment: &Moment<'_>) -> bool {
        let onsets = moment.hearing.onsets;
        let last = self.last.replace((moment.time, onsets));
        last.is_some_and(|(time, before)| before != onsets && gapless(time, moment.time, moment.step))
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use splimo_time::music::Hearing;

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
    #[test]
    fn what_goes_by_while_nobody_looks_is_not_counted() {
        let mut watch = BeatWatch::default();
        let hearing = Hearing::SILENCE;
        let step = Step { seconds: 0.02, beats: 0.04 };
        let mut at =
            |time: f64, beat: f64| (watch.advance(&Moment::at(time, beat, step, &hearing)).beats(), watch.count());
        assert_eq!(at(1.0, 8.98), (0, 8));
        assert_eq!(at(1.02, 9.02), (1, 9));
        assert_eq!(at(5.0, 17.0), (0, 17));
        // Counted from elsewhere: the clock's numbers are others, and this one goes on.
        assert_eq!(at(5.02, 1.04), (0, 17));
        assert_eq!(at(5.04, 1.08), (0, 17));
    }

    #[test]
    fn an_onset_is_one_only_where_it_comes_while_somebody_watches() {
        let mut watch = OnsetWatch::default();
        let step = Step { seconds: 0.02, beats: 0.04 };
        let mut at = |time: f64, onsets: u64| {
            let hearing = Hearing { onsets, ..Hearing::SILENCE };
            watch.advance(&Moment::at(time, time * 2.0, step, &hearing))
        };
        assert!(!at(1.0, 40), "what came before is not its own");
        assert_eq!([at(1.02, 40), at(1.04, 41), at(1.06, 41), at(1.08, 43)], [false, true, false, true]);
        // Its look was away for four seconds.
        assert_eq!([at(5.08, 60), at(5.1, 60), at(5.12, 61)], [false, false, true]);
    }
}
