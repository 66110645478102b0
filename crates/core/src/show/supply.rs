//! Power: what the cells of a profile take, and what feeds them.

use serde::{Deserialize, Serialize};

/// What a cell takes, as an estimate: its emitters take current in proportion to their light.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Power {
    /// The voltage, above 0.
    pub volts: f32,
    /// What one emitter takes at full, in amperes.
    pub full: f32,
    /// What a cell takes when it is dark, in amperes.
    #[serde(default)]
    pub idle: f32,
}

impl Power {
    /// What small LED pixels on 5 V usually take: 20 mA an emitter, and 1 mA for the pixel itself.
    pub const PIXEL: Self = Self { volts: 5.0, full: 0.02, idle: 0.001 };

    /// What is wrong with it, if anything.
    #[must_use]
    pub fn fault(&self) -> Option<String> {
        let right = (0.1..=1000.0).contains(&self.volts)
            && (0.0..=1000.0).contains(&self.full)
            && (0.0..=1000.0).contains(&self.idle);
        (!right).then(|| "its power is out of range: write 0.1 to 1000 volts, and 0 to 1000 amperes".to_owned())
    }
}

/// A power supply and what it feeds.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Supply {
    /// The name, unique among supplies.
    pub name: String,
    /// Names of groups and fixtures.
    pub feeds: Vec<String>,
    /// The most that it gives, in amperes; without it, nothing is dimmed for its sake.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub limit: Option<f32>,
}
