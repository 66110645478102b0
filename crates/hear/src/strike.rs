//! The moments at which somebody who hears this would strike, live.

use crate::{HOPS_PER_SECOND, Hearing};

/// The confidence from which somebody would strike.
pub const SURE: f32 = 0.3;

/// A beat, as it was struck.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Strike {
    /// When, in seconds.
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
