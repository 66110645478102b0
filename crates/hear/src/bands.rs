//! Bands in equal steps of the logarithm of frequency, as overlapping triangles (a filter bank as in S. Dixon, "Onset
//! detection revisited", DAFx 2006, on a scale of octaves).

use crate::BANDS;
use crate::spectrum::{BIN_HZ, BINS};

/// The middle of the lowest band, in hertz.
pub const LOWEST_HZ: f32 = 45.0;
/// The middle of the highest band, in hertz.
pub const HIGHEST_HZ: f32 = 15_000.0;

/// A bank of triangular filters.
#[derive(Debug, Clone)]
pub struct FilterBank {
    /// For each band its first bin, and the weights from there on.
    filters: Vec<(usize, Vec<f32>)>,
}

impl FilterBank {
    /// As many filters as asked for, from [`LOWEST_HZ`] to [`HIGHEST_HZ`]. A band narrower than a bin takes a share of it.
    #[must_use]
    pub fn new(count: usize) -> Self {
        Self::over(count, BIN_HZ, BINS)
    }

    /// The same over the bins of another spectrum, so many and so wide.
    #[must_use]
    pub fn over(count: usize, bin_hz: f32, bins: usize) -> Self {
        let octaves = (HIGHEST_HZ / LOWEST_HZ).log2();
        let step = octaves / (count.max(2) - 1) as f32;
        let hz = |band: f32| LOWEST_HZ * (band * step).exp2();
        let filter = |band: usize| {
            let middle = hz(band as f32) / bin_hz;
            let low = (hz(band as f32 - 1.0) / bin_hz).min(middle - 1.0);
            let high = (hz(band as f32 + 1.0) / bin_hz).max(middle + 1.0);
            let first = (low.floor().max(0.0) as usize).min(bins - 1);
            let last = (high.ceil() as usize).min(bins - 1);
            let weight = |bin: usize| {
                let bin = bin as f32;
                let slope = if bin < middle { (bin - low) / (middle - low) } else { (high - bin) / (high - middle) };
                slope.max(0.0)
            };
            (first, (first..=last).map(weight).collect::<Vec<_>>())
        };
        Self { filters: (0..count).map(filter).collect() }
    }

    /// The filtered magnitudes, one for each band.
    pub fn apply(&self, magnitudes: &[f32], bands: &mut [f32]) {
        for (band, (first, weights)) in bands.iter_mut().zip(&self.filters) {
            *band = weights.iter().zip(&magnitudes[*first..]).map(|(w, m)| w * m).sum();
        }
    }
}

impl Default for FilterBank {
    fn default() -> Self {
        Self::new(BANDS)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_bin_in_range_reaches_a_band() {
        let bank = FilterBank::default();
        for bin in 3..600 {
            let mut magnitudes = vec![0.0; BINS];
            magnitudes[bin] = 1.0;
            let mut bands = [0.0; BANDS];
            bank.apply(&magnitudes, &mut bands);
            assert!(bands.iter().sum::<f32>() > 0.4, "bin {bin}: {bands:?}");
        }
    }

    #[test]
    fn bands_rise_with_frequency() {
        let bank = FilterBank::default();
        let loudest = |hz: f32| {
            let mut magnitudes = vec![0.0; BINS];
            magnitudes[(hz / BIN_HZ).round() as usize] = 1.0;
            let mut bands = [0.0; BANDS];
            bank.apply(&magnitudes, &mut bands);
            bands.iter().enumerate().max_by(|a, b| a.1.total_cmp(b.1)).map(|(i, _)| i)
        };
        let found: Vec<_> = [50.0, 200.0, 1000.0, 5000.0, 14_000.0].map(loudest).into_iter().flatten().collect();
        assert!(found.is_sorted() && found[0] <= 1 && found[4] >= BANDS - 2, "{found:?}");
    }
}
