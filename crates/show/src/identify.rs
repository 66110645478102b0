//! Tests of the lights, by which one finds out which is which: they flash, a pixel walks, slots are held.

use serde::{Deserialize, Serialize};

/// A test on the lights. Fixtures are meant by their index in the show.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum LightTest {
    /// Nothing: the show alone.
    #[default]
    Off,
    /// Everything is lit for a moment at each whole second, as much earlier as light is to be early: beside a click at the same
    /// seconds one sees how late light is.
    Flash,
    /// Fixtures flash at their profile's highlight.
    Identify(Vec<u32>),
    /// One pixel is lit of all that some fixtures have, in their order and each in its wiring order.
    Walk {
        /// The fixtures.
        fixtures: Vec<u32>,
        /// The pixel, from 0.
        at: u32,
        /// The number of pixels that it goes on by itself each second; 0 stands.
        speed: f32,
    },
    /// Slots are held.
    Hold(Vec<HeldSlot>),
}

/// A slot that is held at a value.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub struct HeldSlot {
    /// The universe of the show.
    pub universe: u32,
    /// The channel, 1..512.
    pub channel: u16,
    /// The value.
    pub value: u8,
}
