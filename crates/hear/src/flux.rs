//! Spectral flux over log-frequency bands: how much louder the bands became (after S. Böck, F. Krebs and M. Schedl,
//! "Evaluating the online capabilities of onset detection methods", ISMIR 2012), and the onsets in it.

use crate::bands::FilterBank;

/// Bands that the flux is summed over.
const FLUX_BANDS: usize = 72;
/// The bands below this are weighed more: about 160 Hz, where the kick is.
const LOW_BANDS: usize = 16;
/// How much more.
const LOW_WEIGHT: f32 = 2.0;
/// Hops that the flux is compared over, so that an attack that falls between two windows counts whole.
const LAG: usize = 2;
/// How far the magnitudes are lifted before the logarithm.
const LIFT: f32 = 300.0;
/// Hops of the mean that an onset has to rise above: 0.75 s.
const MEAN_HOPS: f32 = 70.0;
/// Hops between two onsets, at the least: 50 ms.
const REST: u32 = 5;

/// The flux of one hop.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Flux {
    /// The novelty, 0 or more; about 1 at a clear attack.
    pub novelty: f32,
    /// The strength of the onset that was found in this hop, 0..1, if there was one.
    pub onset: Option<f32>,
}

/// Follows the flux.
#[derive(Debug, Clone)]
pub struct FluxMeter {
    bank: FilterBank,
    bands: [[f32; FLUX_BANDS]; LAG + 1],
    next: usize,
    mean: f32,
    peak: f32,
    last: [f32; 2],
    rest: u32,
}

impl Default for FluxMeter {
    fn default() -> Self {
        Self {
            bank: FilterBank::new(FLUX_BANDS),
            bands: [[0.0; FLUX_BANDS]; LAG + 1],
            next: 0,
            mean: 0.0,
            peak: 0.05,
            last: [0.0; 2],
            rest: 0,
        }
    }
}

impl FluxMeter {
    /// Takes the magnitudes of a hop.
    pub fn hop(&mut self, magnitudes: &[f32]) -> Flux {
        let now = self.next;
        let before = (self.next + 1) % (LAG + 1);
        self.next = before;
        let mut bands = [0.0; FLUX_BANDS];
        self.bank.apply(magnitudes, &mut bands);
        bands.iter_mut().for_each(|band| *band = (1.0 + LIFT * *band).log2());
        self.bands[now] = bands;
        let rise = |i: usize| (bands[i] - self.bands[before][i]).max(0.0);
        let low: f32 = (0..LOW_BANDS).map(rise).sum();
        let high: f32 = (LOW_BANDS..FLUX_BANDS).map(rise).sum();
        let flux = (LOW_WEIGHT * low + high) / FLUX_BANDS as f32;
        self.peak = flux.max(self.peak * 0.9985).max(0.05);
        let novelty = flux / self.peak;
        Flux { novelty, onset: self.onset(novelty) }
    }

    /// An onset is a peak of the novelty that stands out; it is known one hop after it was there.
    fn onset(&mut self, novelty: f32) -> Option<f32> {
        let [before, candidate] = self.last;
        self.last = [candidate, novelty];
        let threshold = self.mean * 1.6 + 0.12;
        self.mean += (novelty - self.mean) / MEAN_HOPS;
        self.rest = self.rest.saturating_sub(1);
        let stands_out = candidate >= before && candidate > novelty && candidate > threshold;
        if stands_out && self.rest == 0 {
            self.rest = REST;
            return Some(candidate.min(1.0));
        }
        None
    }
}
