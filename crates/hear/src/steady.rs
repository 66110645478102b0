//! The time for which there has been one tempo that one can be sure of, which speaks for music where its sound does not: what
//! talks or rattles is not steady for long, and a piece for a lone reed is.

use crate::HOPS_PER_SECOND;
use crate::phase_loop::Estimate;

/// The certainty that a tempo needs, 0..1, in the mean over [`MEAN_HOPS`].
const SURE: f32 = 0.85;
const MEAN_HOPS: f32 = 70.0;
/// The share by which a tempo may move away from what it has been, and the share of that which is followed, each hop.
const MOVES: f32 = 0.04;
const FOLLOWED: f32 = 0.003;
/// Seconds after which it begins to speak for music, and those after which that is certain. Of 36 recordings of people who
/// talk none was steady for 15 s, of 298 of music one in twenty was not.
const SECONDS: [f32; 2] = [4.0, 14.0];
/// The factor by which that is forgotten faster than it was found out.
const FORGOTTEN: f32 = 100.0;
/// The most that it speaks for music, as the logarithm of odds: enough for what hardly sounds like it, and not for
/// what does not at all, as crickets do.
const SPEAKS: f32 = 6.0;

/// Watches whether the tempo is steady.
#[derive(Debug, Clone, Default)]
pub(crate) struct Steadiness {
    /// The mean of how sure it has been.
    sure: f32,
    /// The tempo so far, in hops a beat.
    interval: f32,
    /// The time for which it has been that, in seconds.
    seconds: f32,
}

impl Steadiness {
    /// The time for which there has been one tempo, in seconds, of which no more than 14 are counted.
    pub(crate) fn seconds(&self) -> f32 {
        self.seconds
    }

    /// Takes the estimate of a hop, how sure it is and how far it sounds like music, 0..1 each. Returns how far it is music, 0..1.
    pub(crate) fn hop(&mut self, estimate: &Estimate, sure: f32, music: f32) -> f32 {
        let hop = 1.0 / HOPS_PER_SECOND as f32;
        self.sure += (sure - self.sure) / MEAN_HOPS;
        if self.seconds <= 0.0 {
            self.interval = estimate.interval;
        }
        let moved = estimate.interval / self.interval.max(1.0) - 1.0;
        if self.sure > SURE && moved.abs() < MOVES {
            self.interval += (estimate.interval - self.interval) * FOLLOWED;
            self.seconds = (self.seconds + hop).min(SECONDS[1]);
        } else {
            self.seconds = (self.seconds - FORGOTTEN * hop).max(0.0);
        }
        let steady = ((self.seconds - SECONDS[0]) / (SECONDS[1] - SECONDS[0])).clamp(0.0, 1.0);
        let odds = music / (1.0 - music).max(1e-6) * (SPEAKS * steady).exp();
        odds / (1.0 + odds)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The probability of music, of what sounds so much like it, after so many seconds of a tempo that may change.
    fn told(seconds: f64, music: f32, sure: f32, interval: impl Fn(f64) -> f32) -> f32 {
        let mut steady = Steadiness::default();
        let hops = 0..(seconds * HOPS_PER_SECOND) as u32;
        let hop = |hop: u32| {
            let estimate =
                Estimate { interval: interval(f64::from(hop) / HOPS_PER_SECOND), phase: 0.0, agreement: 0.8 };
            steady.hop(&estimate, sure, music)
        };
        hops.map(hop).last().unwrap_or(0.0)
    }

    #[test]
    fn the_longer_one_tempo_is_sure_the_more_it_is_music() {
        let after = [3.0, 10.0, 18.0].map(|seconds| told(seconds, 0.04, 0.97, |_| 47.0));
        assert!((after[0] - 0.04).abs() < 1e-6 && after[2] > 0.9, "{after:?}");
        assert!((0.1..0.7).contains(&after[1]), "{after:?}");
        // What sounds like anything but music never is, and what does is so at once.
        let [crickets, band] =
            [(60.0, 0.001), (1.0, 0.99)].map(|(seconds, music)| told(seconds, music, 0.97, |_| 47.0));
        assert!(crickets < 0.4 && band > 0.98, "{crickets} {band}");
        assert!([0.0, 1.0].into_iter().all(|music| (told(60.0, music, 1.0, |_| 47.0) - music).abs() < 1e-4));
    }

    #[test]
    fn one_that_is_half_sure_or_that_jumps_says_nothing() {
        let jumps = |seconds: f64| if ((seconds / 3.0) as u32).is_multiple_of(2) { 47.0 } else { 62.0 };
        let [half, jumps] = [told(60.0, 0.04, 0.6, |_| 47.0), told(60.0, 0.04, 0.97, jumps)];
        assert!(half < 0.05 && jumps < 0.05, "{half} {jumps}");
    }

    #[test]
    fn one_that_drifts_as_a_band_does_is_steady() {
        assert!(told(60.0, 0.04, 0.97, |seconds| 47.0 + 0.1 * seconds as f32) > 0.9);
    }

    #[test]
    fn where_it_ends_it_is_soon_forgotten() {
        let ends = |seconds: f64| if seconds < 20.0 { 47.0 } else { 62.0 };
        let [before, after] = [20.0, 20.2].map(|seconds| told(seconds, 0.04, 0.97, ends));
        assert!(before > 0.9 && after < 0.05, "{before} {after}");
    }
}
