//! A second-order phase-locked loop (F. M. Gardner, "Phaselock techniques"): follows phase and tempo of the [`crate::beat`]
//! states' estimate, and averages its steps of a whole hop out.

use crate::HOPS_PER_SECOND;

/// The summary of what the states tell of the beat.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Estimate {
    /// Hops a beat.
    pub(crate) interval: f32,
    /// Place within the beat, 0..1.
    pub(crate) phase: f32,
    /// The certainty of both, 0..1: the share of the belief near the best tempo, and how far its places agree.
    pub(crate) agreement: f32,
}

/// The loop.
#[derive(Debug, Clone, Default)]
pub(crate) struct PhaseLoop {
    /// Beats a hop.
    pace: f64,
    position: f64,
    /// Hops for which the estimate has been far from the loop.
    astray: u32,
}

impl PhaseLoop {
    /// Hops after which the loop gives way to an estimate that stays elsewhere: 0.4 s.
    const PATIENCE: u32 = 40;
    /// The share of an error that counts in each hop, for the position and for the pace: within a hop of the estimate, which
    /// is no finer than that, and where it is three hops off.
    const CALM: [f64; 2] = [0.006, 0.000_01];
    const HASTY: [f64; 2] = [0.05, 0.000_3];

    /// Takes the estimate of a hop and how far it is trusted, 0..1. Returns beats a minute and the position in beats.
    pub(crate) fn hop(&mut self, estimate: &Estimate, confidence: f32) -> (f32, f64) {
        let interval = f64::from(estimate.interval.max(1.0));
        let measured = 1.0 / interval;
        self.position += self.pace;
        let error = f64::from(estimate.phase) - self.position;
        let error = error - (error + 0.5).floor();
        let far = error.abs() > 0.12 || (self.pace / measured - 1.0).abs() > 0.04;
        self.astray = if far && estimate.agreement > 0.2 { self.astray + 1 } else { 0 };
        if self.pace == 0.0 || confidence < 0.1 || self.astray > Self::PATIENCE {
            self.pace = measured;
            // By the shorter way, and never so far back that a beat would come again.
            let least = self.position.floor() - self.position;
            self.position += error.max(least);
            self.astray = 0;
        } else if estimate.agreement > 0.15 {
            let haste = ((error.abs() * interval - 1.0) / 2.0).clamp(0.0, 1.0);
            let [place, pace] = [0, 1].map(|i| Self::CALM[i] + (Self::HASTY[i] - Self::CALM[i]) * haste);
            self.position += (place * error).max(-0.5 * self.pace);
            self.pace += pace * error;
            self.pace += (measured - self.pace) * 0.000_5;
            self.pace = self.pace.clamp(measured * 0.94, measured * 1.06);
        }
        ((self.pace * HOPS_PER_SECOND * 60.0) as f32, self.position)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The outcome of some hops of a tempo, told in steps of a whole hop, from where the loop is.
    fn follow(pace: &mut PhaseLoop, bpm: f64, hops: u32) -> (f32, f64) {
        let interval = 60.0 / bpm * HOPS_PER_SECOND;
        let mut last = (0.0, pace.position);
        let from = pace.position * interval;
        for hop in 1..=hops {
            let phase = (from + f64::from(hop)).rem_euclid(interval).floor() / interval;
            let estimate = Estimate { interval: interval.round() as f32, phase: phase as f32, agreement: 0.8 };
            let next = pace.hop(&estimate, 0.9);
            assert!(next.1.floor() >= last.1.floor(), "no beat comes again: {last:?} {next:?}");
            last = next;
        }
        last
    }

    #[test]
    fn a_tempo_between_whole_hops_is_found_to_a_fraction() {
        // 44.29 hops a beat, told as 44.
        let (bpm, _) = follow(&mut PhaseLoop::default(), 127.0, 3000);
        assert!((bpm - 127.0).abs() < 0.3, "{bpm}");
    }

    #[test]
    fn what_is_off_is_slewed_and_no_beat_comes_again() {
        for ahead in [0.05, 0.1, -0.1, 0.4, -0.3] {
            let mut pace = PhaseLoop::default();
            let (_, before) = follow(&mut pace, 120.0, 2000);
            let mut last = before;
            for hop in 1..=120 {
                let truth = before + f64::from(hop) / 46.875 + ahead;
                let phase = truth.rem_euclid(1.0) as f32;
                let (_, position) = pace.hop(&Estimate { interval: 46.875, phase, agreement: 0.8 }, 0.9);
                assert!(
                    position.floor() >= last.floor() && position - last < 0.08,
                    "{ahead}: from {last} to {position}"
                );
                last = position;
            }
            let off = last - (before + 120.0 / 46.875 + ahead);
            assert!((off - off.round()).abs() < 0.05, "{ahead}: {off}");
        }
    }

    #[test]
    fn another_tempo_is_nearly_there_at_once_and_soon_whole() {
        let mut pace = PhaseLoop::default();
        follow(&mut pace, 120.0, 1000);
        let (at_once, _) = follow(&mut pace, 150.0, 2);
        assert!((at_once / 150.0 - 1.0).abs() < 0.08, "{at_once}");
        let (soon, _) = follow(&mut pace, 150.0, 4 * PhaseLoop::PATIENCE);
        assert!((soon - 150.0).abs() < 3.0, "{soon}");
    }

    #[test]
    fn one_that_nobody_is_sure_of_is_not_followed() {
        let mut pace = PhaseLoop::default();
        let (bpm, before) = follow(&mut pace, 120.0, 1000);
        for hop in 0..200u16 {
            let phase = (f32::from(hop) / 30.0 + 0.5).fract();
            pace.hop(&Estimate { interval: 30.0, phase, agreement: 0.05 }, 0.5);
        }
        let after = pace.pace * HOPS_PER_SECOND * 60.0;
        assert!((after - f64::from(bpm)).abs() < 0.01, "{after}");
        assert!((pace.position - before - 200.0 * pace.pace).abs() < 1e-6, "it goes on as it went");
    }
}
