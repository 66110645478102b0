//! The spread of durations: a fixed number of buckets in equal steps of the logarithm, filled without allocating.

use serde::{Deserialize, Serialize};

use crate::maths;

/// Buckets an octave: a quantile is right to within 1.1 %.
const PER_OCTAVE: f32 = 32.0;
/// The smallest duration that is told from none, in milliseconds.
const SMALLEST: f32 = 0.001;
/// Up to 2^27 times the smallest, which is 134 s.
const BUCKETS: usize = 27 * 32;

/// Counted durations.
#[derive(Debug, Clone, PartialEq)]
pub struct Histogram {
    buckets: Box<[u32; BUCKETS]>,
    count: u64,
    max: f32,
}

/// Quantiles of counted durations, in milliseconds.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
pub struct Quantiles {
    /// Half are below.
    pub p50: f32,
    /// All but one in a hundred are below.
    pub p99: f32,
    /// The largest.
    pub max: f32,
}

impl Default for Histogram {
    fn default() -> Self {
        Self { buckets: Box::new([0; BUCKETS]), count: 0, max: 0.0 }
    }
}

impl Histogram {
    /// Counts a duration in milliseconds; below 0 counts as 0.
    pub fn add(&mut self, ms: f32) {
        let place = maths::log2(ms.max(SMALLEST) / SMALLEST) * PER_OCTAVE;
        self.buckets[(place as usize).min(BUCKETS - 1)] += 1;
        self.count += 1;
        self.max = self.max.max(ms);
    }

    /// The number of durations that have been counted.
    #[must_use]
    pub fn count(&self) -> u64 {
        self.count
    }

    /// The duration that a share (0..1) of all do not exceed, in milliseconds.
    #[must_use]
    pub fn quantile(&self, share: f64) -> f32 {
        let wanted = (share * self.count as f64).ceil().max(1.0) as u64;
        let mut seen = 0;
        for (bucket, &count) in self.buckets.iter().enumerate() {
            seen += u64::from(count);
            if seen >= wanted {
                // The middle of the bucket, on the scale of the logarithm.
                return (SMALLEST * maths::exp2((bucket as f32 + 0.5) / PER_OCTAVE)).min(self.max);
            }
        }
        self.max
    }

    /// The usual three.
    #[must_use]
    pub fn quantiles(&self) -> Quantiles {
        let round = |ms: f32| (ms * 1000.0).round() / 1000.0;
        Quantiles { p50: round(self.quantile(0.5)), p99: round(self.quantile(0.99)), max: round(self.max) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn quantiles_are_within_a_bucket() {
        let mut histogram = Histogram::default();
        for i in 1..=1000 {
            histogram.add(i as f32 * 0.1);
        }
        let q = histogram.quantiles();
        assert!((q.p50 / 50.0 - 1.0).abs() < 0.03 && (q.p99 / 99.0 - 1.0).abs() < 0.03, "{q:?}");
        assert_eq!(q.max, 100.0);
    }

    #[test]
    fn nothing_and_extremes_are_counted() {
        let mut histogram = Histogram::default();
        assert_eq!(histogram.quantiles(), Quantiles::default());
        for ms in [-5.0, 0.0, 1e9] {
            histogram.add(ms);
        }
        assert_eq!((histogram.count(), histogram.quantiles().max), (3, 1e9));
    }
}
