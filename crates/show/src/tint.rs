//! A colour by which things are told apart on a screen or on paper; it never reaches a light.

use serde::{Deserialize, Serialize};

use splimo_base::colour::Hex;
use splimo_base::colour_words;

/// Red, green and blue as a screen shows them (sRGB), read as [`colour_words`] reads it and written `#rrggbb`.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub struct Tint(pub [u8; 3]);

/// The reason why a text is not a tint.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("\"{0}\" is not a colour: write \"#40a0ff\", a name such as \"orange\", or a white such as \"3200 K\"")]
pub struct BadTint(String);

impl Tint {
    /// The tint that the thing at a place in its list gets: neighbours differ in hue and in brightness, so that they are
    /// told apart without colour as well.
    #[must_use]
    pub fn of(index: usize) -> Self {
        // Steps of the golden angle never come close to each other for long.
        let hue = (index as f32 * 0.381_966).fract() * 6.0;
        let light = [0.95, 0.62, 0.8][index % 3];
        let channel = |offset: f32| {
            let ramp = ((hue + offset).rem_euclid(6.0) - 3.0).abs() - 1.0;
            (light * (0.3 + 0.7 * ramp.clamp(0.0, 1.0)) * 255.0) as u8
        };
        Self([channel(0.0), channel(4.0), channel(2.0)])
    }
}

impl std::str::FromStr for Tint {
    type Err = BadTint;

    fn from_str(text: &str) -> Result<Self, BadTint> {
        match colour_words::parse(text) {
            Some(Hex([r, g, b, 255])) => Ok(Self([r, g, b])),
            _ => Err(BadTint(text.to_owned())),
        }
    }
}

impl std::fmt::Display for Tint {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let [r, g, b] = self.0;
        write!(f, "#{r:02x}{g:02x}{b:02x}")
    }
}

impl TryFrom<String> for Tint {
    type Error = BadTint;
    fn try_from(text: String) -> Result<Self, BadTint> {
        text.parse()
    }
}

impl From<Tint> for String {
    fn from(tint: Tint) -> Self {
        tint.to_string()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn tints_are_read_as_people_write_colours() {
        assert_eq!("#40a0ff".parse(), Ok(Tint([0x40, 0xa0, 0xff])));
        assert_eq!(Tint([1, 2, 3]).to_string(), "#010203");
        assert_eq!("Tomato".parse(), Ok(Tint([0xff, 0x63, 0x47])));
        for text in ["", "40a0ff", "#40a0f", "#40a0fg", "#ééé", "#40a0ff80"] {
            assert!(text.parse::<Tint>().is_err(), "{text}");
        }
    }

    #[test]
    fn neighbours_are_told_apart() {
        for index in 0..200 {
            let (a, b) = (Tint::of(index).0, Tint::of(index + 1).0);
            let apart: i32 = a.iter().zip(b).map(|(&a, b)| (i32::from(a) - i32::from(b)).abs()).sum();
            assert!(apart > 90, "{index}: {a:?} {b:?}");
        }
    }
}
