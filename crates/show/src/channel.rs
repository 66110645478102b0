//! The channels of a profile: what each does, how wide it is, and where it rests.

use std::fmt;

use serde::de::value::MapAccessDeserializer;
use serde::de::{Deserializer, IntoDeserializer, MapAccess, Visitor};
use serde::ser::Serializer;
use serde::{Deserialize, Serialize};

/// The function of a channel.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Function {
    /// Red light.
    Red,
    /// Green light.
    Green,
    /// Blue light.
    Blue,
    /// White light: takes over what red, green and blue have in common.
    White,
    /// Amber light: takes over what red and half as much green have in common.
    Amber,
    /// Ultraviolet light: comes with violet.
    Uv,
    /// Warm white light.
    #[serde(rename = "warm white")]
    WarmWhite,
    /// Cool white light.
    #[serde(rename = "cool white")]
    CoolWhite,
    /// The amount of light. Alone in a cell it carries the light; beside colours it rests at full.
    #[serde(alias = "intensity")]
    Dimmer,
    /// A shutter or strobe, which rests where its default is.
    Shutter,
    /// The direction of the light, from left to right.
    Pan,
    /// The direction of the light, up and down.
    Tilt,
    /// A value that never changes.
    Fixed,
}

impl Function {
    /// Every function.
    pub const ALL: [Self; 13] = [
        Self::Red,
        Self::Green,
        Self::Blue,
        Self::White,
        Self::Amber,
        Self::Uv,
        Self::WarmWhite,
        Self::CoolWhite,
        Self::Dimmer,
        Self::Shutter,
        Self::Pan,
        Self::Tilt,
        Self::Fixed,
    ];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Red => "red",
            Self::Green => "green",
            Self::Blue => "blue",
            Self::White => "white",
            Self::Amber => "amber",
            Self::Uv => "uv",
            Self::WarmWhite => "warm white",
            Self::CoolWhite => "cool white",
            Self::Dimmer => "dimmer",
            Self::Shutter => "shutter",
            Self::Pan => "pan",
            Self::Tilt => "tilt",
            Self::Fixed => "fixed",
        }
    }

    /// True if it gives light of a colour of its own, white included.
    #[must_use]
    pub fn is_colour(self) -> bool {
        !matches!(self, Self::Dimmer | Self::Shutter | Self::Pan | Self::Tilt | Self::Fixed)
    }

    /// The value at which it rests if nothing else is said, as a share of its range.
    fn rest(self) -> f32 {
        match self {
            Self::Dimmer | Self::Shutter => 1.0,
            Self::Pan | Self::Tilt => 0.5,
            _ => 0.0,
        }
    }
}

/// One channel. In a file it is the word for what it does, or a table where there is more to say.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Channel {
    /// Its function.
    pub does: Function,
    /// True if it is two slots, the coarse one first.
    pub wide: bool,
    /// The value at which it rests, 0..255, or 0..65535 where it is wide; without it, where its function says.
    pub default: Option<u16>,
    /// The cell of the block that it belongs to, from 1; 0 is the fixture as a whole.
    pub cell: u16,
}

impl Channel {
    /// A channel of 8 bits in the first cell.
    #[must_use]
    pub fn new(does: Function) -> Self {
        Self { does, wide: false, default: None, cell: 1 }
    }

    /// The number of slots that it takes.
    #[must_use]
    pub fn slots(self) -> u16 {
        1 + u16::from(self.wide)
    }

    /// The greatest value.
    #[must_use]
    pub fn full(self) -> u16 {
        if self.wide { u16::MAX } else { 255 }
    }

    /// The value at which it rests.
    #[must_use]
    pub fn rest(self) -> u16 {
        self.default.unwrap_or_else(|| self.at(self.does.rest()))
    }

    /// The value at a share of its range, 0..1.
    #[must_use]
    pub fn at(self, share: f32) -> u16 {
        (share.clamp(0.0, 1.0) * f32::from(self.full()) + 0.5) as u16
    }

    fn is_plain(self) -> bool {
        self == Self::new(self.does)
    }
}

#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Table {
    does: Function,
    #[serde(default = "eight", skip_serializing_if = "is_eight")]
    bits: u8,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    default: Option<u16>,
    #[serde(default = "first", skip_serializing_if = "is_first")]
    cell: u16,
}

fn eight() -> u8 {
    8
}

fn is_eight(bits: &u8) -> bool {
    *bits == 8
}

fn first() -> u16 {
    1
}

fn is_first(cell: &u16) -> bool {
    *cell == 1
}

impl Serialize for Channel {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        if self.is_plain() {
            return self.does.serialize(serializer);
        }
        let bits = if self.wide { 16 } else { 8 };
        Table { does: self.does, bits, default: self.default, cell: self.cell }.serialize(serializer)
    }
}

impl<'de> Deserialize<'de> for Channel {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Either;

        impl<'de> Visitor<'de> for Either {
            type Value = Channel;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("what the channel does, such as \"red\", or { does = \"pan\", bits = 16 }")
            }

            fn visit_str<E: serde::de::Error>(self, word: &str) -> Result<Channel, E> {
                Function::deserialize(word.into_deserializer()).map(Channel::new)
            }

            fn visit_map<A: MapAccess<'de>>(self, map: A) -> Result<Channel, A::Error> {
                let table = Table::deserialize(MapAccessDeserializer::new(map))?;
                if !matches!(table.bits, 8 | 16) {
                    return Err(serde::de::Error::custom("bits is 8 or 16"));
                }
                Ok(Channel { does: table.does, wide: table.bits == 16, default: table.default, cell: table.cell })
            }
        }

        deserializer.deserialize_any(Either)
    }
}
