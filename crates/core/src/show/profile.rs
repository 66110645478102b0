//! Profiles: what the channels of a cell do, and how its light answers to a value.

use serde::{Deserialize, Serialize};

/// What each channel of a cell does, in order.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Profile {
    /// The name by which fixtures refer to it.
    pub name: String,
    /// The emitters of a cell in the order of its channels, 1 to 512.
    pub channels: Vec<Emitter>,
    /// How the light answers to a value.
    #[serde(default)]
    pub curve: Curve,
}

/// What one channel drives.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Emitter {
    /// Red.
    Red,
    /// Green.
    Green,
    /// Blue.
    Blue,
    /// White: takes over what red, green and blue have in common.
    White,
    /// One lamp of no colour of its own, driven by the strongest of red, green and blue.
    Intensity,
}

/// How the light of an emitter answers to a value; its inverse makes values out of light.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Curve {
    /// Light rises with the value, as with LEDs driven by pulse width.
    #[default]
    Linear,
    /// Light is the square of the value, as with dimmers of a square law.
    Square,
    /// Light is a power of the value, 0.1..10.
    Gamma(f32),
}

impl Profile {
    /// The names of the built-in profiles.
    pub const BUILT_IN: [&str; 4] = ["rgb", "grb", "rgbw", "dimmer"];

    /// A built-in profile by its name.
    #[must_use]
    pub fn built_in(name: &str) -> Option<Self> {
        use Emitter::{Blue, Green, Intensity, Red, White};
        let (channels, curve): (&[Emitter], _) = match name {
            "rgb" => (&[Red, Green, Blue], Curve::Linear),
            "grb" => (&[Green, Red, Blue], Curve::Linear),
            "rgbw" => (&[Red, Green, Blue, White], Curve::Linear),
            "dimmer" => (&[Intensity], Curve::Square),
            _ => return None,
        };
        Some(Self { name: name.to_owned(), channels: channels.to_vec(), curve })
    }

    /// Channels a cell.
    #[must_use]
    pub fn footprint(&self) -> u16 {
        self.channels.len() as u16
    }
}
