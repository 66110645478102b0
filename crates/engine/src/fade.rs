//! Fades: the share of a way that is done, over beats or over seconds, and held where it is while somebody says so.

use splimo_time::rate::Step;

/// The time that a fade takes.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum Length {
    /// In the music.
    Beats(f64),
    /// On the wall, whatever the tempo does.
    Seconds(f64),
}

impl Length {
    /// No time at all.
    pub(super) const NONE: Self = Self::Beats(0.0);

    /// The number of its units.
    pub(super) fn count(self) -> f64 {
        let (Self::Beats(count) | Self::Seconds(count)) = self;
        count
    }
}

/// A fade that is under way, or over.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Fade {
    length: Length,
    /// The beat at which it began, and the seconds that have passed since.
    start: f64,
    passed: f64,
    held: bool,
}

impl Fade {
    /// One that begins at a beat.
    pub(super) fn new(start: f64, length: Length) -> Self {
        Self { length, start, passed: 0.0, held: false }
    }

    /// Holds it where it is, or lets it go on.
    pub(super) fn hold(&mut self, held: bool) {
        self.held = held;
    }

    /// Goes on by a step.
    pub(super) fn advance(&mut self, step: Step) {
        if self.held {
            self.start += step.beats;
        } else {
            self.passed += step.seconds;
        }
    }

    /// Moves the count of beats.
    pub(super) fn shift(&mut self, beats: f64) {
        self.start += beats;
    }

    /// The share that is done at a beat, 0..1.
    pub(super) fn done(&self, beat: f64) -> f32 {
        match self.length {
            Length::Beats(beats) if beats > 0.0 => ((beat - self.start) / beats).clamp(0.0, 1.0) as f32,
            Length::Seconds(seconds) if seconds > 0.0 => (self.passed / seconds).clamp(0.0, 1.0) as f32,
            Length::Beats(_) | Length::Seconds(_) => 1.0,
        }
    }

    /// Beats until it is over, at so many beats a second.
    pub(super) fn left(&self, beat: f64, pace: f64) -> f64 {
        match self.length {
            Length::Beats(beats) => (self.start + beats - beat).max(0.0),
            Length::Seconds(seconds) => (seconds - self.passed).max(0.0) * pace,
        }
    }

    /// The beats that it takes in all, at so many beats a second.
    pub(super) fn whole(&self, pace: f64) -> f64 {
        match self.length {
            Length::Beats(beats) => beats,
            Length::Seconds(seconds) => seconds * pace,
        }
    }

    /// The beats since it was over, if it is, at so many beats a second.
    pub(super) fn over_by(&self, beat: f64, pace: f64) -> Option<f64> {
        let by = match self.length {
            Length::Beats(beats) => beat - (self.start + beats),
            Length::Seconds(seconds) => (self.passed - seconds) * pace,
        };
        // Sums of many steps miss a whole number by a hair.
        (by >= -1e-9).then_some(by.max(0.0))
    }

    /// Ends it.
    pub(super) fn finish(&mut self) {
        self.length = Length::NONE;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn fades_take_their_time_in_beats_or_in_seconds_and_stand_while_they_are_held() {
        let step = Step { seconds: 0.5, beats: 1.0 };
        let (mut beats, mut seconds) = (Fade::new(4.0, Length::Beats(4.0)), Fade::new(4.0, Length::Seconds(4.0)));
        for (beat, held, wanted) in [(5.0, false, [0.25, 0.125]), (6.0, true, [0.25, 0.125]), (7.0, false, [0.5, 0.25])]
        {
            for fade in [&mut beats, &mut seconds] {
                fade.hold(held);
                fade.advance(step);
            }
            assert_eq!([beats.done(beat), seconds.done(beat)], wanted, "at {beat}");
        }
        assert_eq!([beats.left(7.0, 2.0), seconds.left(7.0, 2.0)], [2.0, 6.0]);
        beats.finish();
        assert_eq!(beats.done(0.0), 1.0);
    }
}
