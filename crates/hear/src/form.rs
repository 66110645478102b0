//! The form of the sound for drawing: a piece of the last samples that begins where they rise through zero, so that a steady
//! tone stands still.

use splimo_time::music::{WAVE, Wave};

use crate::HOP;

/// Samples that are kept, and how many of them are drawn: 32 ms.
const KEPT: usize = 2 * DRAWN;
const DRAWN: usize = 1536;
/// Below this everything is drawn as silence.
const QUIET: f32 = 1e-4;

/// Keeps the last samples.
pub struct FormMeter {
    samples: Vec<f32>,
    /// The loudest of the recent past, falling slowly.
    loudest: f32,
}

impl Default for FormMeter {
    fn default() -> Self {
        Self { samples: vec![0.0; KEPT], loudest: QUIET }
    }
}

impl FormMeter {
    /// Takes one hop of samples; returns the form of what was heard until now. Allocates nothing.
    pub fn hop(&mut self, samples: &[f32; HOP]) -> Wave {
        self.samples.copy_within(HOP.., 0);
        self.samples[KEPT - HOP..].copy_from_slice(samples);
        let peak = samples.iter().fold(0.0f32, |peak, s| peak.max(s.abs()));
        self.loudest = peak.max(self.loudest * 0.99).max(QUIET);
        if self.loudest <= QUIET {
            return Wave::SILENCE;
        }
        let start = self.start();
        let each = DRAWN / WAVE;
        Wave(std::array::from_fn(|point| {
            let from = start + point * each;
            let mean = self.samples[from..from + each].iter().sum::<f32>() / each as f32;
            (mean / self.loudest).clamp(-1.0, 1.0)
        }))
    }

    /// The place where the samples rise through zero with the most behind it; at the latest where a whole piece is still left.
    fn start(&self) -> usize {
        let rises = |at: &usize| self.samples[*at - 1] <= 0.0 && self.samples[*at] > 0.0;
        // The rise before the highest peak: overtones rise through zero more often than their tone.
        let highest = (1..DRAWN).max_by(|a, b| self.samples[*a].total_cmp(&self.samples[*b])).unwrap_or(1);
        (1..=highest).rev().find(rises).unwrap_or(0)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_steady_tone_stands_still() {
        let mut meter = FormMeter::default();
        let mut waves = Vec::new();
        for hop in 0..20 {
            let sample = |i: usize| ((hop * HOP + i) as f32 * 0.02).sin() * 0.5;
            waves.push(meter.hop(&std::array::from_fn(sample)));
        }
        let (a, b) = (&waves[18].0, &waves[19].0);
        for (a, b) in a.iter().zip(b) {
            assert!((a - b).abs() < 0.05, "{a} {b}");
        }
        assert!(a.iter().any(|p| *p > 0.9) && a[0].abs() < 0.3);
    }

    #[test]
    fn silence_is_flat() {
        assert_eq!(FormMeter::default().hop(&[0.0; HOP]), Wave::SILENCE);
    }
}
