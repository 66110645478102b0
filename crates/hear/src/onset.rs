//! Onsets of anything, at once: the rise of the spectrum of a short window, against what is usual, without a look ahead
//! (S. Böck and G. Widmer, "Maximum filter vibrato suppression for onset detection", DAFx 2013; online peak picking after
//! S. Böck, F. Krebs and M. Schedl, ISMIR 2012).

use crate::bands::FilterBank;
use crate::spectrum::ShortSpectrum;
use crate::{HOP, HOPS_PER_SECOND};

/// Samples between one look and the next: half a hop, 5.33 ms, since a flash waits for it.
pub const LOOK: usize = HOP / 2;
/// Looks a second.
const LOOKS_PER_SECOND: f64 = HOPS_PER_SECOND * (HOP / LOOK) as f64;

/// Bands that are looked at.
const BANDS: usize = 40;
/// Looks that a band is compared over: two hops.
const LAG: usize = 4;
/// The lift of the magnitudes before the logarithm.
const LIFT: f32 = 60.0;
/// The level below which nothing is turned up any further: about -70 dB of full scale.
const FLOOR: f32 = 3e-4;
/// The share of the level that stays from one look to the next: it halves in about 5 s.
const HOLD: f32 = 0.999_25;
/// The excess of a rise over what is usual, as a mean of all bands, and as a multiple of that.
const MORE: f32 = 0.12;
const TIMES: f32 = 0.6;
/// Seconds over which the usual is averaged.
const USUAL: f64 = 0.5;
/// Looks between two onsets, at the least: 43 ms.
const REST: u32 = 8;
/// The delay with which an onset is told, in seconds, in the median of made pieces: half a look, and what of the window
/// has to be filled.
pub const ONSET_AGO: f64 = 0.010;

/// Finds onsets.
pub struct OnsetMeter {
    spectrum: ShortSpectrum,
    bank: FilterBank,
    /// The last looks, each band the highest of its neighbours.
    past: [[f32; BANDS]; LAG],
    level: f32,
    usual: f32,
    before: f32,
    rest: u32,
    looks: usize,
}

impl Default for OnsetMeter {
    fn default() -> Self {
        let spectrum = ShortSpectrum::default();
        Self {
            bank: FilterBank::over(BANDS, spectrum.bin_hz(), spectrum.bins()),
            spectrum,
            past: [[0.0; BANDS]; LAG],
            level: FLOOR,
            usual: 0.0,
            before: 0.0,
            rest: 0,
            looks: 0,
        }
    }
}

impl OnsetMeter {
    /// Takes the samples of a look; returns how strong an onset was, 0..1, where there was one just before. Allocates nothing.
    pub fn look(&mut self, samples: &[f32; LOOK]) -> Option<f32> {
        let mut bands = [0.0; BANDS];
        self.bank.apply(self.spectrum.hop(samples), &mut bands);
        let loudest = bands.iter().copied().fold(0.0, f32::max);
        self.level = loudest.max(self.level * HOLD).max(FLOOR);
        let lift = LIFT / self.level;
        bands.iter_mut().for_each(|band| *band = (1.0 + lift * *band).ln());
        let before = self.past[self.looks % LAG];
        let rise = bands.iter().zip(before).map(|(now, before)| (now - before).max(0.0)).sum::<f32>() / BANDS as f32;
        self.past[self.looks % LAG] = std::array::from_fn(|band| {
            let neighbours = band.saturating_sub(1)..(band + 2).min(BANDS);
            bands[neighbours].iter().copied().fold(0.0, f32::max)
        });
        self.looks += 1;
        self.rest = self.rest.saturating_sub(1);
        let wanted = MORE + TIMES * self.usual;
        let found = self.rest == 0 && self.looks > LAG && rise > wanted && rise > self.before;
        self.usual += (rise - self.usual) / (USUAL * LOOKS_PER_SECOND) as f32;
        self.before = rise;
        found.then(|| {
            self.rest = REST;
            ((rise - wanted) * 1.5 + 0.3).clamp(0.0, 1.0)
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::SAMPLE_RATE;

    /// The onsets of a signal, in seconds.
    fn onsets(seconds: f64, signal: impl Fn(f64) -> f32) -> Vec<f64> {
        let mut meter = OnsetMeter::default();
        let samples = |look: usize| std::array::from_fn(|i| signal((look * LOOK + i) as f64 / f64::from(SAMPLE_RATE)));
        let heard = |look: usize| (look + 1) as f64 / LOOKS_PER_SECOND;
        let looks = 0..(seconds * LOOKS_PER_SECOND) as usize;
        looks.filter(|look| meter.look(&samples(*look)).is_some()).map(heard).collect()
    }

    #[test]
    fn a_click_is_told_of_within_two_hops() {
        let found = onsets(6.0, |t| {
            let since = (t - 0.25).rem_euclid(0.5);
            if since < 0.02 { ((1.0 - since * 50.0) * (since * 9000.0).sin()) as f32 * 0.5 } else { 0.0 }
        });
        assert_eq!(found.len(), 12, "{found:?}");
        for (index, told) in found.iter().enumerate() {
            let late = told - (0.25 + 0.5 * index as f64);
            assert!((0.0..0.0214).contains(&late), "{late}");
        }
    }

    #[test]
    fn what_only_goes_on_sets_in_once_even_where_it_trembles() {
        let found = onsets(4.0, |t| {
            let hz = 440.0 + 6.0 * (t * 5.0 * std::f64::consts::TAU).sin() / 5.0;
            if t < 1.0 { 0.0 } else { (t * hz * std::f64::consts::TAU).sin() as f32 * 0.4 }
        });
        assert_eq!(found.len(), 1, "{found:?}");
        assert!(onsets(4.0, |_| 0.0).is_empty());
    }
}
