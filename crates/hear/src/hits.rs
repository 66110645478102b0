//! Strokes of drums, and whether each was low, in the middle or high: the peaks of what the network tells (peak picking
//! after S. Böck, F. Krebs and M. Schedl, ISMIR 2012).

use crate::features::HOPS_A_VIEW;
use crate::network::Activations;
use crate::{HOPS_PER_SECOND, TOLD_LATE};

/// The certainty that a stroke needs.
const SURE: f32 = 0.4;
/// Views between two of the same kind, at the least: 64 ms.
const REST: u32 = 3;
/// The delay with which a hit is known, in seconds: what it is told late, half a view, and the view after it.
pub const HIT_AGO: f64 = TOLD_LATE + 1.5 * HOPS_A_VIEW as f64 / HOPS_PER_SECOND;

/// The strokes of a view.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Struck {
    /// The certainty of each kind (low, middle, high), where it was struck.
    pub kinds: [Option<f32>; 3],
    /// The certainty that anything set in, where it did.
    pub any: Option<f32>,
    /// The time since, in seconds.
    pub ago: f64,
}

/// Finds hits.
#[derive(Debug, Clone, Default)]
pub struct HitMeter {
    /// The last two views of each.
    past: [[f32; 2]; 4],
    rest: [u32; 4],
}

impl HitMeter {
    /// Takes what was told of a view. A hit is known one view after it was told.
    pub fn view(&mut self, told: &Activations) -> Struck {
        let mut found = [None; 4];
        for (kind, now) in [told.low, told.mid, told.high, told.any].into_iter().enumerate() {
            let [before, candidate] = self.past[kind];
            self.past[kind] = [candidate, now];
            self.rest[kind] = self.rest[kind].saturating_sub(1);
            let peak = candidate > before && candidate >= now && candidate > SURE;
            if peak && self.rest[kind] == 0 {
                self.rest[kind] = REST;
                found[kind] = Some(candidate.min(1.0));
            }
        }
        let [low, mid, high, any] = found;
        Struck { kinds: [low, mid, high], any, ago: HIT_AGO }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_peak_is_one_hit_and_a_plateau_is_none() {
        let mut meter = HitMeter::default();
        let told = |low: f32| Activations { low, ..Activations::default() };
        let heard: Vec<bool> =
            [0.1, 0.5, 0.9, 0.6, 0.1, 0.2, 0.1].map(|low| meter.view(&told(low)).kinds[0].is_some()).into();
        assert_eq!(heard, [false, false, false, true, false, false, false]);
        assert!((0..50).filter(|_| meter.view(&told(0.8)).kinds[0].is_some()).count() <= 1);
    }

    #[test]
    fn kinds_are_told_apart_and_may_come_together() {
        let mut meter = HitMeter::default();
        let mut heard = [0; 3];
        for view in 0..60 {
            let peak = |every: usize| if view % every == 0 { 0.9 } else { 0.05 };
            let told = Activations { low: peak(20), mid: peak(10), high: peak(5), ..Activations::default() };
            let kinds = meter.view(&told).kinds;
            heard.iter_mut().zip(kinds).for_each(|(heard, kind)| *heard += usize::from(kind.is_some()));
        }
        // What is told in the first view has none before it; it may count or not.
        assert!(
            (2..=3).contains(&heard[0]) && (5..=6).contains(&heard[1]) && (11..=12).contains(&heard[2]),
            "{heard:?}"
        );
    }
}
