//! A quarter of the samples, for what looks at low frequencies only: a low pass (a sinc under a Hann window; A. V. Oppenheim and
//! R. W. Schafer, "Discrete-time signal processing", 7.5) of which each fourth value is made.

use std::f32::consts::{PI, TAU};

use crate::{HOP, SAMPLE_RATE};

/// Of how many samples one stays.
const BY: usize = 4;
/// Samples of a hop that stay.
pub const QUARTER_HOP: usize = HOP / BY;
/// Samples a second that stay.
pub const QUARTER_RATE: f32 = SAMPLE_RATE as f32 / BY as f32;
/// Samples that each one is made of.
const TAPS: usize = 64;
/// Above this it is quiet, in hertz: half the rate less what the low pass needs.
const EDGE: f32 = 4_800.0;

/// Makes quarters of hops.
#[derive(Debug, Clone)]
pub struct Quarter {
    taps: [f32; TAPS],
    /// The samples that are left of the hop before, and this one.
    samples: [f32; TAPS + HOP],
}

impl Default for Quarter {
    fn default() -> Self {
        let tap = |index: usize| {
            let from_middle = index as f32 - (TAPS - 1) as f32 / 2.0;
            let turn = TAU * EDGE / SAMPLE_RATE as f32 * from_middle;
            let hann = 0.5 - 0.5 * (TAU * (index as f32 + 0.5) / TAPS as f32).cos();
            turn.sin() / (PI * from_middle) * hann
        };
        let taps: [f32; TAPS] = std::array::from_fn(tap);
        let sum: f32 = taps.iter().sum();
        Self { taps: taps.map(|tap| tap / sum), samples: [0.0; TAPS + HOP] }
    }
}

impl Quarter {
    /// The samples of a hop that stay, 0.7 ms late: each is the middle of the 64 that it is made of. Allocates nothing.
    pub fn hop(&mut self, samples: &[f32; HOP]) -> [f32; QUARTER_HOP] {
        self.samples.copy_within(HOP.., 0);
        self.samples[TAPS..].copy_from_slice(samples);
        std::array::from_fn(|index| {
            let from = &self.samples[(index + 1) * BY..][..TAPS];
            from.iter().zip(&self.taps).map(|(sample, tap)| sample * tap).sum()
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The strength of a sine in what stays, once it is there.
    fn kept(hertz: f32) -> f32 {
        let mut quarter = Quarter::default();
        let sample = |hop: usize, i: usize| (TAU * hertz * (hop * HOP + i) as f32 / SAMPLE_RATE as f32).sin();
        let hops = (0..8).map(|hop| quarter.hop(&std::array::from_fn(|i| sample(hop, i))));
        let power: f32 = hops.skip(1).flatten().map(|sample| sample * sample).sum();
        (2.0 * power / (7 * QUARTER_HOP) as f32).sqrt()
    }

    #[test]
    fn what_is_low_stays_and_nothing_else_comes_back_as_low() {
        for hertz in [60.0, 440.0, 2_500.0] {
            assert!((kept(hertz) - 1.0).abs() < 0.02, "{hertz}: {}", kept(hertz));
        }
        for hertz in [7_500.0, 11_900.0, 12_100.0, 20_000.0] {
            assert!(kept(hertz) < 0.02, "{hertz}: {}", kept(hertz));
        }
    }

    #[test]
    fn hops_follow_each_other_without_a_seam() {
        let mut quarter = Quarter::default();
        let sample = |i: usize| (TAU * 300.0 * i as f32 / SAMPLE_RATE as f32).sin();
        let all: Vec<f32> =
            (0..6).flat_map(|hop| quarter.hop(&std::array::from_fn(|i| sample(hop * HOP + i)))).collect();
        // From one to the next it moves no faster than the sine does.
        let fastest = TAU * 300.0 / QUARTER_RATE;
        assert!(all[QUARTER_HOP..].windows(2).all(|pair| (pair[1] - pair[0]).abs() < 1.02 * fastest));
    }
}
