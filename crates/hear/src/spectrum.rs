//! The magnitude spectrum of the last samples: a Hann window (R. B. Blackman and J. W. Tukey, 1958) and a real FFT.

use std::sync::Arc;

use realfft::num_complex::Complex;
use realfft::{RealFftPlanner, RealToComplex};

use crate::SAMPLE_RATE;

/// Samples in a window: 42.7 ms.
pub const WINDOW: usize = 2048;
/// Bins of a spectrum.
pub const BINS: usize = WINDOW / 2 + 1;
/// The width of a bin, in hertz.
pub const BIN_HZ: f32 = SAMPLE_RATE as f32 / WINDOW as f32;

/// Samples in a short window: 21.3 ms.
pub const SHORT_WINDOW: usize = 1024;

/// Spectra of the usual window.
pub type Spectrum = Windowed<WINDOW>;
/// Spectra of the short window, which tell sooner and less exactly.
pub type ShortSpectrum = Windowed<SHORT_WINDOW>;

/// Makes spectra of windows of so many samples that overlap.
pub struct Windowed<const SAMPLES: usize> {
    fft: Arc<dyn RealToComplex<f32>>,
    window: Vec<f32>,
    history: Vec<f32>,
    input: Vec<f32>,
    output: Vec<Complex<f32>>,
    scratch: Vec<Complex<f32>>,
    magnitudes: Vec<f32>,
}

impl<const SAMPLES: usize> Default for Windowed<SAMPLES> {
    fn default() -> Self {
        let fft = RealFftPlanner::new().plan_fft_forward(SAMPLES);
        let hann = |i: usize| 0.5 - 0.5 * (std::f32::consts::TAU * i as f32 / SAMPLES as f32).cos();
        Self {
            window: (0..SAMPLES).map(hann).collect(),
            history: vec![0.0; SAMPLES],
            input: fft.make_input_vec(),
            output: fft.make_output_vec(),
            scratch: fft.make_scratch_vec(),
            magnitudes: vec![0.0; SAMPLES / 2 + 1],
            fft,
        }
    }
}

impl<const SAMPLES: usize> Windowed<SAMPLES> {
    /// The number of bins.
    #[must_use]
    pub fn bins(&self) -> usize {
        SAMPLES / 2 + 1
    }

    /// The width of a bin, in hertz, of samples at [`SAMPLE_RATE`].
    #[must_use]
    pub fn bin_hz(&self) -> f32 {
        SAMPLE_RATE as f32 / SAMPLES as f32
    }

    /// Takes the next samples, no more than a window, and returns the [`Windowed::bins`] magnitudes of the window that ends with
    /// them, scaled so that a sine of full scale has a peak of about 1. Allocates nothing.
    ///
    /// # Panics
    /// Where they are more.
    pub fn hop(&mut self, samples: &[f32]) -> &[f32] {
        self.history.copy_within(samples.len().., 0);
        self.history[SAMPLES - samples.len()..].copy_from_slice(samples);
        for ((input, sample), weight) in self.input.iter_mut().zip(&self.history).zip(&self.window) {
            *input = sample * weight;
        }
        // It fails only for buffers of a wrong length, and these come from the plan itself.
        if self.fft.process_with_scratch(&mut self.input, &mut self.output, &mut self.scratch).is_ok() {
            let scale = 4.0 / SAMPLES as f32;
            for (magnitude, bin) in self.magnitudes.iter_mut().zip(&self.output) {
                *magnitude = (bin.re * bin.re + bin.im * bin.im).sqrt() * scale;
            }
        }
        &self.magnitudes
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::HOP;

    #[test]
    fn a_sine_stands_in_its_bin() {
        let mut spectrum = Spectrum::default();
        let hz = 100.0 * BIN_HZ;
        let mut peak = (0, 0.0);
        for hop in 0..8 {
            let samples: [f32; HOP] = std::array::from_fn(|i| {
                let t = (hop * HOP + i) as f32 / SAMPLE_RATE as f32;
                (std::f32::consts::TAU * hz * t).sin()
            });
            let magnitudes = spectrum.hop(&samples);
            peak = magnitudes.iter().enumerate().fold((0, 0.0), |best, (i, &m)| if m > best.1 { (i, m) } else { best });
        }
        assert_eq!(peak.0, 100);
        assert!((peak.1 - 1.0).abs() < 0.01, "{}", peak.1);
    }
}
