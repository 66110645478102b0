//! The subscription of a screen: what it wants to be told of what is large or often another.

use serde::{Deserialize, Serialize};
use splimo_wire::Protocol;

use crate::light::LedSet;

/// The fastest that anything is told, times a second.
pub const FASTEST: f32 = 60.0;

/// A screen's subscription.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Subscription {
    /// The number of times that the engine, light and slots are told, times a second.
    pub rate: f32,
    /// The lights whose light is shown.
    pub light: Option<LedSet>,
    /// The slots that are shown: which 512 of the frame, and the one that is traced (0..511).
    pub slots: Option<(usize, u16)>,
    /// The light whose numbers are shown.
    pub led: Option<u32>,
    /// True if it is shown what each fixture takes.
    pub loads: bool,
    /// The universe of others whose slots are shown.
    pub received: Option<(Protocol, u16)>,
    /// True if pictures, films and fonts are shown.
    pub media: bool,
}

impl Default for Subscription {
    fn default() -> Self {
        Self { rate: 22.0, light: None, slots: None, led: None, loads: false, received: None, media: false }
    }
}

impl Subscription {
    /// The same, but for what no screen has the room to show: more ranges of LEDs than [`LedSet::MOST_RANGES`].
    #[must_use]
    pub fn bounded(mut self) -> Self {
        if let Some(LedSet::Ranges(ranges)) = &mut self.light {
            ranges.truncate(LedSet::MOST_RANGES);
        }
        self
    }

    /// The time between two of what is told often, in seconds.
    #[must_use]
    pub fn period(&self) -> f64 {
        let rate = if self.rate.is_finite() { self.rate.clamp(0.2, FASTEST) } else { FASTEST };
        1.0 / f64::from(rate)
    }
}
