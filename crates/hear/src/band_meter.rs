//! The levels of the bands: filtered magnitudes, turned up by themselves, rising and falling no faster than asked for.

use splimo_time::music::{Bands, MOST_BANDS};

use crate::HOPS_PER_SECOND;
use crate::bands::FilterBank;
use crate::gain::Gain;

/// The time that gains remember, in seconds.
const MEMORY: f64 = 10.0;

/// Meters any number of bands up to [`MOST_BANDS`].
pub(crate) struct BandMeter {
    count: usize,
    bank: FilterBank,
    gain: Gain,
    own_gains: Vec<Gain>,
    /// The bands as they are, and as they rise and fall.
    plain: Bands,
    levels: Bands,
}

impl BandMeter {
    pub(crate) fn new(count: usize) -> Self {
        let count = count.clamp(1, MOST_BANDS);
        Self {
            count,
            bank: FilterBank::new(count),
            gain: Gain::new(MEMORY * HOPS_PER_SECOND),
            own_gains: vec![Gain::new(MEMORY * HOPS_PER_SECOND); count],
            plain: Bands::silent(count),
            levels: Bands::silent(count),
        }
    }

    /// Another number of bands, which begin anew.
    pub(crate) fn set_count(&mut self, count: usize) {
        if count.clamp(1, MOST_BANDS) != self.count {
            *self = Self::new(count);
        }
    }

    /// The bands of a hop; `swing` is how long they take to rise and to fall, in seconds. Allocates nothing.
    pub(crate) fn hop(&mut self, magnitudes: &[f32], swing: [f32; 2]) -> Bands {
        let mut bands = [0.0; MOST_BANDS];
        let bands = &mut bands[..self.count];
        self.bank.apply(magnitudes, bands);
        // Half against the loudest band and half against the band's own past: quiet bands are seen, and the shape stays.
        let loudest = bands.iter().copied().fold(0.0, f32::max);
        let reach = self.gain.apply(loudest) / loudest.max(1e-6);
        let [rise, fall] = swing.map(share);
        for ((plain, band), own) in self.plain.iter_mut().zip(bands.iter()).zip(&mut self.own_gains) {
            *plain = (0.35 * (band * reach).sqrt() + 0.65 * own.apply(*band)).clamp(0.0, 1.0);
        }
        for (level, now) in self.levels.iter_mut().zip(self.plain.iter()) {
            *level += (now - *level) * if now > level { rise } else { fall };
        }
        self.levels
    }

    /// The bands of the last hop as they are, however slowly they are asked to rise and to fall.
    pub(crate) fn plain(&self) -> &Bands {
        &self.plain
    }
}

/// The share of the way that is gone in a hop, where so many seconds take it to within a third.
fn share(seconds: f32) -> f32 {
    if seconds > 0.0 { 1.0 - (-1.0 / (f64::from(seconds) * HOPS_PER_SECOND)).exp() as f32 } else { 1.0 }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::spectrum::BINS;

    #[test]
    fn bands_rise_and_fall_as_slowly_as_asked_and_there_are_as_many_as_asked() {
        let (loud, none) = (vec![0.3; BINS], vec![0.0; BINS]);
        for (count, swing, least) in [(16, [0.0, 0.0], 0.0), (40, [0.0, 0.2], 0.6), (64, [0.0, 1.0], 0.85)] {
            let mut meter = BandMeter::new(24);
            meter.set_count(count);
            let risen = (0..20).map(|_| meter.hop(&loud, swing)).last().expect("twenty");
            let fallen = (0..8).map(|_| meter.hop(&none, swing)).last().expect("eight");
            assert_eq!(fallen.len(), count);
            let stays = fallen.mean(0.0..1.0) / risen.mean(0.0..1.0);
            assert!(stays >= least && (least > 0.0 || stays == 0.0), "{count}: {stays}");
        }
        let mut slow = BandMeter::new(24);
        assert!(slow.hop(&loud, [0.5, 0.0]).mean(0.0..1.0) < 0.05, "it takes half a second");
        assert!(slow.plain().mean(0.0..1.0) > 0.3, "what phrases are told by is there at once");
    }
}
