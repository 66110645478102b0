//! The perceived loudness: the K-weighted mean square of the last 0.4 s (ITU-R BS.1770-4, annex 1, for one channel).

use crate::{HOP, HOPS_PER_SECOND};

/// The loudness of silence.
pub const SILENT: f32 = -90.0;
/// Hops of the window: 0.4 s.
const HOPS: usize = (0.4 * HOPS_PER_SECOND) as usize;

/// A filter of two poles and two zeros.
#[derive(Debug, Clone)]
struct Biquad {
    b: [f64; 3],
    a: [f64; 2],
    past: [f64; 2],
}

impl Biquad {
    fn pass(&mut self, x: f64) -> f64 {
        let y = self.b[0] * x + self.past[0];
        self.past[0] = self.b[1] * x - self.a[0] * y + self.past[1];
        self.past[1] = self.b[2] * x - self.a[1] * y;
        y
    }
}

/// Measures loudness.
#[derive(Debug, Clone)]
pub struct LoudnessMeter {
    head: Biquad,
    rumble: Biquad,
    powers: [f32; HOPS],
    next: usize,
}

impl Default for LoudnessMeter {
    fn default() -> Self {
        // The coefficients of BS.1770-4, tables 1 and 2, which are for 48 kHz.
        let head = Biquad {
            b: [1.535_124_859_586_97, -2.691_696_189_406_38, 1.198_392_810_852_85],
            a: [-1.690_659_293_182_41, 0.732_480_774_215_85],
            past: [0.0; 2],
        };
        let rumble = Biquad { b: [1.0, -2.0, 1.0], a: [-1.990_047_454_833_98, 0.990_072_250_366_21], past: [0.0; 2] };
        Self { head, rumble, powers: [0.0; HOPS], next: 0 }
    }
}

impl LoudnessMeter {
    /// Takes a hop of samples; returns the loudness in LUFS. Allocates nothing.
    pub fn hop(&mut self, samples: &[f32; HOP]) -> f32 {
        let square = |sample: &f32| {
            let weighted = self.rumble.pass(self.head.pass(f64::from(*sample)));
            weighted * weighted
        };
        let power = samples.iter().map(square).sum::<f64>() / HOP as f64;
        // Loud nonsense leaves the filters as they were made.
        if !power.is_finite() {
            *self = Self::default();
            return SILENT;
        }
        self.powers[self.next] = power as f32;
        self.next = (self.next + 1) % HOPS;
        let mean = self.powers.iter().sum::<f32>() / HOPS as f32;
        (-0.691 + 10.0 * mean.max(1e-12).log10()).max(SILENT)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::SAMPLE_RATE;

    #[test]
    fn a_tone_of_a_kilohertz_at_full_scale_has_about_minus_three() {
        let mut meter = LoudnessMeter::default();
        let mut loudness = 0.0;
        for hop in 0..100 {
            let sample = |i: usize| {
                (((hop * HOP + i) as f32 / SAMPLE_RATE as f32 * 997.0).fract() * std::f32::consts::TAU).sin()
            };
            loudness = meter.hop(&std::array::from_fn(sample));
        }
        // BS.1770-4: a 997 Hz sine at 0 dB full scale in one front channel reads -3.01 LKFS.
        assert!((loudness + 3.01).abs() < 0.05, "{loudness}");
        assert_eq!(LoudnessMeter::default().hop(&[0.0; HOP]), SILENT);
    }

    /// The loudness of a second of a tone.
    fn of_tone(hertz: f32, level: f32) -> f32 {
        let mut meter = LoudnessMeter::default();
        let turn = |at: usize| (at as f64 / f64::from(SAMPLE_RATE) * f64::from(hertz)).fract() as f32;
        let hop = |hop: usize| std::array::from_fn(|i| level * (turn(hop * HOP + i) * std::f32::consts::TAU).sin());
        (0..94).map(|index| meter.hop(&hop(index))).last().expect("a second")
    }

    #[test]
    fn twice_the_level_is_six_decibels_more() {
        let [soft, loud] = [0.1, 0.2].map(|level| of_tone(997.0, level));
        assert!((loud - soft - 6.02).abs() < 0.05, "{soft} {loud}");
    }

    #[test]
    fn high_tones_count_more_and_the_lowest_less() {
        // BS.1770-4, annex 1: the shelf adds 4 dB far above 2 kHz, the filter behind it takes away what is below 38 Hz.
        let [low, middle, high] = [25.0, 997.0, 12_000.0].map(|hertz| of_tone(hertz, 0.5));
        assert!((high - middle - 3.3).abs() < 0.3, "{middle} {high}");
        assert!(middle - low > 6.0, "{low} {middle}");
    }
}
