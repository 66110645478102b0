//! Power: what the cells of a profile take, and what feeds them.

use serde::{Deserialize, Serialize};

/// The current that a cell takes, as an estimate: its emitters take current in proportion to their light.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Power {
    /// The voltage, above 0.
    pub volts: f32,
    /// The current of one emitter at full, in amperes.
    pub full: f32,
    /// The current of a cell when it is dark, in amperes.
    #[serde(default)]
    pub idle: f32,
}

impl Power {
    /// The usual current of small LED pixels on 5 V: 20 mA an emitter, and 1 mA for the pixel itself.
    pub const PIXEL: Self = Self { volts: 5.0, full: 0.02, idle: 0.001 };

    /// The fault in it, if there is one.
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

/// As one types it: `5 V 20 mA 1 mA`, the voltage, what an emitter takes at full, and what a dark cell takes.
impl std::fmt::Display for Power {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{} V {} mA {} mA", self.volts, self.full * 1000.0, self.idle * 1000.0)
    }
}

impl std::str::FromStr for Power {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let odd = || {
            let text: String = text.chars().take(60).collect();
            format!(
                "\"{text}\" is no power: write volts, the current of an emitter at full and that of a dark cell, such as 5 V 20 mA 1 mA"
            )
        };
        let words: Vec<&str> = text.split_whitespace().collect();
        let number = |word: &str| word.parse::<f32>().map_err(|_| odd());
        let power = match words[..] {
            [volts, "V", full, "mA"] => Self { volts: number(volts)?, full: number(full)? / 1000.0, idle: 0.0 },
            [volts, "V", full, "mA", idle, "mA"] => {
                Self { volts: number(volts)?, full: number(full)? / 1000.0, idle: number(idle)? / 1000.0 }
            }
            _ => return Err(odd()),
        };
        power.fault().map_or(Ok(power), Err)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn power_is_read_as_it_is_written() {
        assert_eq!(Power::PIXEL.to_string(), "5 V 20 mA 1 mA");
        assert_eq!("5 V 20 mA 1 mA".parse(), Ok(Power::PIXEL));
        assert_eq!("24 V 350 mA".parse(), Ok(Power { volts: 24.0, full: 0.35, idle: 0.0 }));
        for bad in ["", "5 V", "5 20 1", "0 V 20 mA", "5 V x mA", "5 V -1 mA"] {
            assert!(bad.parse::<Power>().is_err(), "{bad}");
        }
    }
}
