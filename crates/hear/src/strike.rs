//! The moments at which somebody who hears this would strike, live.

use crate::{HOPS_PER_SECOND, Hearing};

/// The confidence from which somebody would strike.
pub const SURE: f32 = 0.3;

/// A beat, as it was struck.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Strike {
    /// The time, in seconds.
    pub time: f64,
    /// Whether it is the first of a bar.
    pub first: bool,
}

/// Strikes beats as they come.
#[derive(Debug, Clone, Copy, Default)]
pub struct Striker {
    last: Option<f64>,
}

impl Striker {
    /// Takes what was heard in a hop; returns the beat that fell in it, if one did.
    pub fn hop(&mut self, hearing: &Hearing) -> Option<Strike> {
        let now = hearing.beat;
        let last = self.last.replace(now)?;
        let sure = hearing.tempo_bpm > 0.0 && hearing.confidence > SURE;
        if !sure || now.floor() <= last.floor() {
            return None;
        }
        let share = ((now - now.floor()) / (now - last).max(1e-9)).min(1.0);
        let bars = (now.floor() - hearing.bar_start).rem_euclid(f64::from(hearing.bar_beats.max(1)));
        Some(Strike { time: hearing.time - share / HOPS_PER_SECOND, first: bars < 0.5 })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn strikes(confidence: f32) -> Vec<Strike> {
        let mut striker = Striker::default();
        let hop = |i: u32| {
            let time = f64::from(i) / HOPS_PER_SECOND;
            Hearing { time, beat: 1.2 + 2.0 * time, tempo_bpm: 120.0, confidence, bar_start: 2.0, ..Hearing::SILENCE }
        };
        (0..600).filter_map(|i| striker.hop(&hop(i))).collect()
    }

    #[test]
    fn beats_are_struck_where_the_position_is_whole_and_only_by_one_who_is_sure() {
        let struck = strikes(0.9);
        assert_eq!(struck.len(), 12);
        for (index, strike) in struck.iter().enumerate() {
            // The first whole beat is the second, 0.4 s on, and it begins a bar.
            assert!((strike.time - 0.4 - 0.5 * index as f64).abs() < 1e-9, "{strike:?}");
            assert_eq!(strike.first, index % 4 == 0);
        }
        assert!(strikes(0.2).is_empty());
    }

    #[test]
    fn a_position_that_stands_still_or_is_put_back_a_little_strikes_once() {
        let mut striker = Striker::default();
        let places = [1.8, 1.95, 2.02, 2.02, 2.01, 2.3, 2.9, 3.1];
        let struck: Vec<bool> = places
            .iter()
            .enumerate()
            .map(|(hop, &beat)| {
                let time = hop as f64 / HOPS_PER_SECOND;
                let hearing = Hearing { time, beat, tempo_bpm: 120.0, confidence: 0.9, ..Hearing::SILENCE };
                striker.hop(&hearing).is_some()
            })
            .collect();
        assert_eq!(struck, [false, false, true, false, false, false, false, true]);
    }
}
