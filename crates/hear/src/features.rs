//! The view of the network: each second hop, how loud each band is and how much louder it became, on a scale of loudness
//! that does not know how far the volume is turned up.

use crate::HOPS_PER_SECOND;
use crate::bands::FilterBank;

/// Bands that the network is shown.
pub const BANDS_SHOWN: usize = 48;
/// Numbers in a view: the bands, and their rises.
pub const VIEW: usize = 2 * BANDS_SHOWN;
/// Hops from one view to the next.
pub const HOPS_A_VIEW: usize = 2;
/// Views a second.
pub const VIEWS_PER_SECOND: f64 = HOPS_PER_SECOND / HOPS_A_VIEW as f64;

/// Hops that a band is compared over: an attack that falls between two windows counts whole.
const LAG: usize = 2;
/// The lift of the magnitudes before the logarithm.
const LIFT: f32 = 100.0;
/// The level below which nothing is turned up any more: about -75 dB of full scale.
const FLOOR: f32 = 2e-4;
/// The share of the level that stays from one hop to the next: it halves in about 7 s.
const HOLD: f32 = 0.9989;

/// Makes views of magnitudes.
#[derive(Debug, Clone)]
pub struct Features {
    bank: FilterBank,
    past: [[f32; BANDS_SHOWN]; LAG],
    level: f32,
    hops: usize,
    view: [f32; VIEW],
}

impl Default for Features {
    fn default() -> Self {
        Self {
            bank: FilterBank::new(BANDS_SHOWN),
            past: [[0.0; BANDS_SHOWN]; LAG],
            level: FLOOR,
            hops: 0,
            view: [0.0; VIEW],
        }
    }
}

impl Features {
    /// Takes the magnitudes of a hop; each [`HOPS_A_VIEW`] hops there is a view. Allocates nothing.
    pub fn hop(&mut self, magnitudes: &[f32]) -> Option<&[f32; VIEW]> {
        let mut bands = [0.0; BANDS_SHOWN];
        self.bank.apply(magnitudes, &mut bands);
        self.bands(bands)
    }

    /// The loudness of each band in the last hop, as views have it.
    #[must_use]
    pub fn loud(&self) -> &[f32; BANDS_SHOWN] {
        self.view.first_chunk().expect("the bands stand first")
    }

    /// The same as [`Self::hop`], of bands that were made before by a [`FilterBank`] of [`BANDS_SHOWN`].
    pub fn bands(&mut self, mut bands: [f32; BANDS_SHOWN]) -> Option<&[f32; VIEW]> {
        let loudest = bands.iter().copied().fold(0.0, f32::max);
        self.level = loudest.max(self.level * HOLD).max(FLOOR);
        let lift = LIFT / self.level;
        bands.iter_mut().for_each(|band| *band = (1.0 + lift * *band).ln());
        let first = self.hops.is_multiple_of(HOPS_A_VIEW);
        let before = self.past[self.hops % LAG];
        for band in 0..BANDS_SHOWN {
            let rise = (bands[band] - before[band]).max(0.0);
            let kept = if first { 0.0 } else { self.view[BANDS_SHOWN + band] };
            self.view[BANDS_SHOWN + band] = kept + rise * 0.5;
            self.view[band] = bands[band] * 0.4;
        }
        self.past[self.hops % LAG] = bands;
        self.hops += 1;
        self.hops.is_multiple_of(HOPS_A_VIEW).then_some(&self.view)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Bands in which one is struck now and then, so many times as loud as usual.
    fn played(loud: f32, hops: usize) -> Vec<[f32; VIEW]> {
        let mut features = Features::default();
        let bands = |hop: usize| {
            let mut bands = [0.02 * loud; BANDS_SHOWN];
            bands[7] = if hop % 40 < 4 { 0.8 * loud } else { 0.05 * loud };
            bands
        };
        (0..hops).filter_map(|hop| features.bands(bands(hop)).copied()).collect()
    }

    #[test]
    fn each_second_hop_is_a_view_and_how_far_it_is_turned_up_makes_no_difference() {
        let [loud, soft] = [1.0, 0.02].map(|loud| played(loud, 400));
        assert_eq!(loud.len(), 200);
        for (loud, soft) in loud.iter().zip(&soft) {
            assert!(loud.iter().zip(soft).all(|(loud, soft)| (loud - soft).abs() < 1e-3));
        }
    }

    #[test]
    fn what_becomes_louder_is_shown_where_it_does_and_nowhere_else() {
        let views = played(1.0, 400);
        for (index, view) in views.iter().enumerate().skip(40) {
            let rises: Vec<usize> = (0..BANDS_SHOWN).filter(|band| view[BANDS_SHOWN + band] > 0.05).collect();
            // Struck every forty hops, which is every twenty views; both hops of that view see it.
            assert_eq!(rises, if index % 20 == 0 { vec![7] } else { Vec::new() }, "view {index}");
        }
    }

    #[test]
    fn silence_is_not_turned_up() {
        let mut features = Features::default();
        let view = (0..2000).filter_map(|_| features.bands([1e-6; BANDS_SHOWN]).copied()).last().expect("a view");
        assert!(view.iter().all(|shown| *shown < 0.2), "{view:?}");
    }
}
