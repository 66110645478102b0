//! The speed master: time and beats as effects see them, slower, faster or held.

use splimo_base::Seconds;
use splimo_show::command::MOST_SPEED;
use splimo_time::rate::Step;

/// The share of a beat that is caught up each beat, so that effects are in step with bars again.
const CATCH_UP: f64 = 0.25;

/// The speed master. At speed 1 and in step, time and beats are what they are, to the bit.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct SpeedMaster {
    speed: f64,
    /// By how much what effects see is ahead.
    seconds: f64,
    beats: f64,
    /// The step that was made besides, to catch up.
    caught_up: f64,
}

impl Default for SpeedMaster {
    fn default() -> Self {
        Self { speed: 1.0, seconds: 0.0, beats: 0.0, caught_up: 0.0 }
    }
}

impl SpeedMaster {
    /// The speed, in times.
    pub(super) fn speed(&self) -> f32 {
        self.speed as f32
    }

    /// Sets the speed, 0..8 times.
    pub(super) fn set(&mut self, times: f32) {
        self.speed = f64::from(times.clamp(0.0, MOST_SPEED));
    }

    /// Goes on by a step. At speed 1 again, what is out of step with the bars glides back.
    pub(super) fn advance(&mut self, step: Step, bar: f64) {
        self.caught_up = 0.0;
        if self.speed != 1.0 {
            self.seconds += step.seconds * (self.speed - 1.0);
            self.beats += step.beats * (self.speed - 1.0);
        } else if self.beats != 0.0 {
            let way = (self.beats / bar).round() * bar - self.beats;
            let most = CATCH_UP * step.beats;
            self.caught_up = way.clamp(-most, most);
            self.beats = if way.abs() <= most { self.beats + way } else { self.beats + self.caught_up };
            if (self.beats / bar).round() == 0.0 && way.abs() <= most {
                self.beats = 0.0;
            }
        }
    }

    /// Time, position in beats and step as effects see them.
    pub(super) fn seen(&self, time: Seconds, beat: f64, step: Step) -> (Seconds, f64, Step) {
        let step =
            Step { seconds: step.seconds * self.speed, beats: (step.beats * self.speed + self.caught_up).max(0.0) };
        (time + self.seconds, beat + self.beats, step)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The position in beats that effects see after so many frames of a hundredth of a beat, from a real one.
    fn run(master: &mut SpeedMaster, from: &mut f64, frames: usize) -> f64 {
        let step = Step { seconds: 0.005, beats: 0.01 };
        let mut summed = master.seen(0.0, *from, step).1;
        for _ in 0..frames {
            *from += step.beats;
            master.advance(step, 4.0);
            summed += master.seen(0.0, *from, step).2.beats;
        }
        let seen = master.seen(0.0, *from, step).1;
        assert!((seen - summed).abs() < 1e-6, "steps add up to the position: {seen} {summed}");
        seen
    }

    #[test]
    fn effects_run_at_the_speed_and_are_in_step_again_at_one() {
        let (mut master, mut beat) = (SpeedMaster::default(), 0.0);
        assert!((run(&mut master, &mut beat, 100) - 1.0).abs() < 1e-9);
        master.set(0.5);
        assert!((run(&mut master, &mut beat, 100) - 1.5).abs() < 1e-9);
        master.set(0.0);
        assert!((run(&mut master, &mut beat, 100) - 1.5).abs() < 1e-9);
        master.set(2.0);
        assert!((run(&mut master, &mut beat, 100) - 3.5).abs() < 1e-9);
        master.set(1.0);
        let seen = run(&mut master, &mut beat, 1000);
        let ahead = (seen - beat).rem_euclid(4.0);
        assert!(ahead.min(4.0 - ahead) < 1e-6, "{seen} at {beat}");
    }

    #[test]
    fn at_one_and_in_step_nothing_is_touched() {
        let step = Step { seconds: 0.1234567, beats: 0.7654321 };
        let mut master = SpeedMaster::default();
        master.advance(step, 4.0);
        assert_eq!(master.seen(1.1, 2.2, step), (1.1, 2.2, step));
    }
}
