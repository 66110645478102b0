//! The strongest pitch: the highest clear peak of the normalised square difference of the last 85 ms (P. McLeod and G. Wyvill,
//! "A smarter way to find pitch", ICMC 2005), computed through an FFT at half the sample rate.

use std::sync::Arc;

use realfft::num_complex::Complex;
use realfft::{ComplexToReal, RealFftPlanner, RealToComplex};

use crate::{HOP, SAMPLE_RATE};

/// Samples a second of what is looked at.
const RATE: f32 = SAMPLE_RATE as f32 / 2.0;
/// Samples of a window: 85 ms.
const WINDOW: usize = 2048;
const PADDED: usize = 2 * WINDOW;
/// The delay of the pitch that is found, in seconds: the middle of the window.
pub const PITCH_AGO: f64 = WINDOW as f64 / 2.0 / RATE as f64;
/// The lowest and the highest pitch, in hertz.
const LOWEST: f32 = 50.0;
const HIGHEST: f32 = 1600.0;
/// The clearness that a peak needs, 1 a pure tone.
const CLEAR: f32 = 0.62;
/// The share of the way to each sample that the low end goes, which is taken away: what is below 850 Hz is weaker by 6 dB an
/// octave, about as the ear has it (ISO 226). By power alone bass and kick are the strongest, and nobody sings along to them;
/// one that sounds alone has its pitch all the same.
const LOW: f32 = 0.2;
/// The power below which it is silent, of full scale, without the low end.
const SILENT: f32 = 1e-7;
/// The first peak that is so much of the highest is taken.
const FIRST: f32 = 0.9;

/// Finds the pitch.
pub struct PitchMeter {
    forward: Arc<dyn RealToComplex<f32>>,
    inverse: Arc<dyn ComplexToReal<f32>>,
    history: Vec<f32>,
    padded: Vec<f32>,
    spectrum: Vec<Complex<f32>>,
    scratch: Vec<Complex<f32>>,
    back_scratch: Vec<Complex<f32>>,
    nsdf: Vec<f32>,
    /// The low end.
    low: f32,
}

impl Default for PitchMeter {
    fn default() -> Self {
        let mut planner = RealFftPlanner::new();
        let (forward, inverse) = (planner.plan_fft_forward(PADDED), planner.plan_fft_inverse(PADDED));
        Self {
            history: vec![0.0; WINDOW],
            padded: forward.make_input_vec(),
            spectrum: forward.make_output_vec(),
            scratch: forward.make_scratch_vec(),
            back_scratch: inverse.make_scratch_vec(),
            nsdf: vec![0.0; WINDOW / 2],
            low: 0.0,
            forward,
            inverse,
        }
    }
}

impl PitchMeter {
    /// Takes a hop of samples; returns the pitch in hertz, or 0 where none stands out. Allocates nothing.
    pub fn hop(&mut self, samples: &[f32; HOP]) -> f32 {
        self.history.copy_within(HOP / 2.., 0);
        for (out, pair) in self.history[WINDOW - HOP / 2..].iter_mut().zip(samples.as_chunks::<2>().0) {
            let sample = (pair[0] + pair[1]) / 2.0;
            self.low += (sample - self.low) * LOW;
            *out = sample - self.low;
        }
        let energy: f32 = self.history.iter().map(|s| s * s).sum();
        if energy < SILENT * WINDOW as f32 || !energy.is_finite() {
            return 0.0;
        }
        self.compare(energy);
        self.peak().map_or(0.0, |lag| RATE / lag).clamp(0.0, HIGHEST * 1.1)
    }

    /// The likeness of the window to itself some samples later, -1..1 for each lag.
    fn compare(&mut self, energy: f32) {
        self.padded[..WINDOW].copy_from_slice(&self.history);
        self.padded[WINDOW..].fill(0.0);
        // They fail only for buffers of a wrong length, and these come from the plans themselves.
        let _ = self.forward.process_with_scratch(&mut self.padded, &mut self.spectrum, &mut self.scratch);
        self.spectrum.iter_mut().for_each(|bin| *bin = Complex::new(bin.norm_sqr(), 0.0));
        let _ = self.inverse.process_with_scratch(&mut self.spectrum, &mut self.padded, &mut self.back_scratch);
        let mut both = 2.0 * energy;
        for (lag, out) in self.nsdf.iter_mut().enumerate() {
            if lag > 0 {
                let (first, last) = (self.history[lag - 1], self.history[WINDOW - lag]);
                both -= first * first + last * last;
            }
            *out = 2.0 * self.padded[lag] / PADDED as f32 / both.max(1e-9);
        }
    }

    fn peak(&self) -> Option<f32> {
        let from = (RATE / HIGHEST) as usize;
        let to = ((RATE / LOWEST) as usize).min(self.nsdf.len() - 1);
        // Not before it has fallen below zero once: the beginning is alike in any case.
        let fallen = (1..to).find(|lag| self.nsdf[*lag] < 0.0)?;
        let is_peak = |lag: &usize| {
            let [a, b, c] = [self.nsdf[lag - 1], self.nsdf[*lag], self.nsdf[lag + 1]];
            b > a && b >= c && b > 0.0
        };
        let peaks = || (from.max(fallen).max(1)..to).filter(is_peak);
        let highest = peaks().map(|lag| self.nsdf[lag]).fold(0.0, f32::max);
        let lag = peaks().find(|lag| self.nsdf[*lag] >= FIRST * highest).filter(|_| highest > CLEAR)?;
        let [a, b, c] = [self.nsdf[lag - 1], self.nsdf[lag], self.nsdf[lag + 1]];
        let bend = a - 2.0 * b + c;
        let off = if bend.abs() > 1e-9 { 0.5 * (a - c) / bend } else { 0.0 };
        Some(lag as f32 + off.clamp(-0.5, 0.5))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A tone with overtones at a sample.
    fn tone(hz: f32, overtones: u32, sample: usize) -> f32 {
        let turn = sample as f64 / f64::from(SAMPLE_RATE) * f64::from(hz);
        let overtone = |n: u32| ((turn * f64::from(n)).fract() * std::f64::consts::TAU).sin() as f32 / n as f32;
        (1..=overtones).map(overtone).sum()
    }

    /// The pitch after 0.2 s of these samples.
    fn found(sample: impl Fn(usize) -> f32) -> f32 {
        let mut meter = PitchMeter::default();
        let hops = (0..20).map(|hop| meter.hop(&std::array::from_fn(|i| sample(hop * HOP + i))));
        hops.last().expect("some")
    }

    #[test]
    fn tones_with_overtones_have_the_pitch_of_their_ground() {
        for hz in [65.4f32, 110.0, 220.0, 440.0, 987.8, 1400.0] {
            let pitch = found(|i| 0.2 * tone(hz, 5, i));
            assert!((pitch / hz - 1.0).abs() < 0.005, "{hz}: {pitch}");
        }
    }

    #[test]
    fn what_is_sung_is_heard_over_a_bass_that_is_as_loud() {
        for (sung, bass) in [(440.0, 55.0), (330.0, 73.4), (587.3, 98.0)] {
            let pitch = found(|i| 0.2 * tone(sung, 8, i) + 0.2 * tone(bass, 2, i));
            assert!((pitch / sung - 1.0).abs() < 0.02, "{sung} over {bass}: {pitch}");
        }
        // Alone, and soft, it has its own.
        let bass = found(|i| 0.02 * tone(55.0, 1, i));
        assert!((bass / 55.0 - 1.0).abs() < 0.01, "{bass}");
    }

    #[test]
    fn a_glide_was_at_its_pitch_in_the_middle_of_the_window() {
        let mut meter = PitchMeter::default();
        // From 300 Hz on, 400 Hz a second higher.
        let hertz = |time: f64| 300.0 + 400.0 * time;
        let turns = |time: f64| 300.0 * time + 200.0 * time * time;
        for hop in 0..80 {
            let sample = |i: usize| {
                let time = (hop * HOP + i) as f64 / f64::from(SAMPLE_RATE);
                (turns(time).fract() * std::f64::consts::TAU).sin() as f32 * 0.3
            };
            let pitch = f64::from(meter.hop(&std::array::from_fn(sample)));
            let then = ((hop + 1) * HOP) as f64 / f64::from(SAMPLE_RATE) - PITCH_AGO;
            assert!(hop < 10 || (pitch / hertz(then) - 1.0).abs() < 0.005, "{hop}: {pitch} and {}", hertz(then));
        }
    }

    #[test]
    fn noise_and_silence_have_none() {
        let mut meter = PitchMeter::default();
        let mut seed = 7u32;
        for _ in 0..60 {
            let noise = std::array::from_fn(|_| {
                seed = seed.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
                (seed >> 8) as f32 / 8_388_608.0 - 1.0
            });
            assert_eq!(meter.hop(&noise), 0.0);
        }
        assert_eq!(PitchMeter::default().hop(&[0.0; HOP]), 0.0);
    }
}
