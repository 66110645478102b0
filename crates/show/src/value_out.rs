//! Values out: levels and colours of a show that leave as channels, OSC or MIDI, for somebody else's picture.

use std::fmt;
use std::net::SocketAddr;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

use super::{Address, SLOTS};

/// The most values of a show that leave.
pub const MOST_VALUES_OUT: usize = 256;

/// The source of a value that leaves.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub enum OutSource {
    /// The master.
    Master,
    /// A control, from 1.
    Control(u8),
    /// The level of a tier.
    Tier(String),
    /// The level of a group of lights.
    Group(String),
    /// The colour of an entry of the palette; of a gradient its first.
    Colour(String),
    /// The light of a cell of a fixture, from 1, as it goes out.
    Light(String, u32),
}

impl OutSource {
    /// The forms in which it is written.
    pub const TAKES: &'static str =
        "master, control 3, tier-level top, group-level Sails, colour Foam, or light Sail 1 / 5";

    /// True if it has red, green and blue.
    #[must_use]
    pub fn is_colour(&self) -> bool {
        match self {
            Self::Colour(_) | Self::Light(..) => true,
            Self::Master | Self::Control(_) | Self::Tier(_) | Self::Group(_) => false,
        }
    }
}

impl fmt::Display for OutSource {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Master => f.write_str("master"),
            Self::Control(number) => write!(f, "control {number}"),
            Self::Tier(name) => write!(f, "tier-level {name}"),
            Self::Group(name) => write!(f, "group-level {name}"),
            Self::Colour(name) => write!(f, "colour {name}"),
            Self::Light(fixture, cell) => write!(f, "light {fixture} / {cell}"),
        }
    }
}

impl FromStr for OutSource {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let odd = || format!("\"{text}\" is nothing that can leave; write {}", Self::TAKES);
        let (kind, rest) = text.trim().split_once(' ').unwrap_or((text.trim(), ""));
        let name = rest.trim().to_owned();
        match kind {
            "master" if name.is_empty() => Ok(Self::Master),
            "control" => {
                let number = name.parse().ok().filter(|n| (1..=crate::CONTROLS as u8).contains(n));
                number.map(Self::Control).ok_or_else(odd)
            }
            _ if name.is_empty() => Err(odd()),
            "tier-level" => Ok(Self::Tier(name)),
            "group-level" => Ok(Self::Group(name)),
            "colour" => Ok(Self::Colour(name)),
            "light" => {
                let (fixture, cell) = name.rsplit_once('/').ok_or_else(odd)?;
                let cell = cell.trim().parse().ok().filter(|cell| *cell > 0).ok_or_else(odd)?;
                Ok(Self::Light(fixture.trim().to_owned(), cell))
            }
            _ => Err(odd()),
        }
    }
}

/// The destination of a value.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub enum OutTarget {
    /// Slots of a universe of the show, from an address on.
    Dmx(Address),
    /// An address of OSC at a machine.
    Osc(SocketAddr, String),
    /// A controller of an input, its number, and the MIDI channel.
    Midi(String, u8, u8),
}

impl OutTarget {
    /// The forms in which it is written.
    pub const TAKES: &'static str = "dmx 3.10, osc 10.0.0.5:9001 /colour, or midi pad box control 7 channel 1";
}

impl fmt::Display for OutTarget {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Dmx(address) => write!(f, "dmx {address}"),
            Self::Osc(to, path) => write!(f, "osc {to} {path}"),
            Self::Midi(input, number, channel) => write!(f, "midi {input} control {number} channel {channel}"),
        }
    }
}

impl FromStr for OutTarget {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let odd = || format!("\"{text}\" is no place for a value; write {}", Self::TAKES);
        let (kind, rest) = text.trim().split_once(' ').ok_or_else(odd)?;
        match kind {
            "dmx" => rest.trim().parse().map(Self::Dmx).map_err(|why| format!("{why}")),
            "osc" => {
                let (to, path) = rest.trim().split_once(' ').ok_or_else(odd)?;
                let to = to.parse().map_err(|_| odd())?;
                let path = path.trim().to_owned();
                if path.starts_with('/') { Ok(Self::Osc(to, path)) } else { Err(odd()) }
            }
            "midi" => {
                let (rest, channel) = rest.rsplit_once(" channel ").unwrap_or((rest, "1"));
                let (input, number) = rest.rsplit_once(" control ").ok_or_else(odd)?;
                let number = number.trim().parse().ok().filter(|n| *n < 128).ok_or_else(odd)?;
                let channel = channel.trim().parse().ok().filter(|n| (1..=16).contains(n)).ok_or_else(odd)?;
                Ok(Self::Midi(input.trim().to_owned(), number, channel))
            }
            _ => Err(odd()),
        }
    }
}

macro_rules! as_text {
    ($kind:ty) => {
        impl TryFrom<String> for $kind {
            type Error = String;
            fn try_from(text: String) -> Result<Self, String> {
                text.parse()
            }
        }
        impl From<$kind> for String {
            fn from(value: $kind) -> Self {
                value.to_string()
            }
        }
    };
}

as_text!(OutSource);
as_text!(OutTarget);

/// The range in which a value leaves.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum OutRange {
    /// 0 to 255.
    #[default]
    Byte,
    /// 0 to 65535: of DMX two slots, the coarse one first.
    Word,
    /// 0 to 100.
    Percent,
    /// 0 to 1.
    Unit,
}

impl OutRange {
    /// Every range.
    pub const ALL: [Self; 4] = [Self::Byte, Self::Word, Self::Percent, Self::Unit];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Byte => "0 to 255",
            Self::Word => "16 bits",
            Self::Percent => "percent",
            Self::Unit => "0 to 1",
        }
    }

    /// The highest number.
    #[must_use]
    pub fn most(self) -> f32 {
        match self {
            Self::Byte => 255.0,
            Self::Word => 65_535.0,
            Self::Percent => 100.0,
            Self::Unit => 1.0,
        }
    }

    /// The slots of DMX that one number takes.
    #[must_use]
    pub fn slots(self) -> u16 {
        match self {
            Self::Byte | Self::Percent | Self::Unit => 1,
            Self::Word => 2,
        }
    }

    /// The slots of a value of 0..1; the second counts where there are two.
    #[must_use]
    pub fn bytes(self, value: f32) -> [u8; 2] {
        let number = (value.clamp(0.0, 1.0) * self.most()).round();
        match self {
            Self::Word => (number as u16).to_be_bytes(),
            Self::Byte | Self::Percent | Self::Unit => [number as u8, 0],
        }
    }
}

/// A value of the show that leaves.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct ValueOut {
    /// Its source.
    pub what: OutSource,
    /// Where it goes.
    pub to: OutTarget,
    /// The parts of a colour, in their order: r, g, b, w for the white in it, i for the brightest of them.
    #[serde(default = "rgb", skip_serializing_if = "is_rgb")]
    pub order: String,
    /// The range in which it leaves.
    #[serde(default, skip_serializing_if = "is_byte")]
    pub range: OutRange,
}

impl ValueOut {
    /// One of a byte, of a colour red, green and blue.
    #[must_use]
    pub fn new(what: OutSource, to: OutTarget) -> Self {
        Self { what, to, order: rgb(), range: OutRange::Byte }
    }

    /// The number of parts that leave.
    #[must_use]
    pub fn parts(&self) -> usize {
        if self.what.is_colour() { self.order.len() } else { 1 }
    }

    /// A part of a value, 0..1. Colours are as screens have them (sRGB), so that pictures of others match what is chosen here.
    #[must_use]
    pub fn part(&self, place: usize, value: [f32; 3]) -> f32 {
        if !self.what.is_colour() {
            return value[0];
        }
        let [r, g, b] = value;
        match self.order.as_bytes().get(place) {
            Some(b'r') => r,
            Some(b'g') => g,
            Some(b'b') => b,
            Some(b'w') => r.min(g).min(b),
            Some(b'i') => r.max(g).max(b),
            Some(_) | None => 0.0,
        }
    }

    /// The fault in it, if there is one.
    #[must_use]
    pub fn fault(&self) -> Option<String> {
        let odd = self.order.is_empty() || self.order.len() > 8 || self.order.chars().any(|c| !"rgbwi".contains(c));
        if odd {
            return Some(format!(
                "\"{}\" is no order; write some of the letters r, g, b, w, i, such as grb",
                self.order
            ));
        }
        let OutTarget::Dmx(address) = &self.to else { return None };
        let needs = self.parts() as u16 * self.range.slots();
        let room = SLOTS + 1 - address.channel;
        (needs > room).then(|| format!("it takes {needs} slots, and behind {address} there are {room}"))
    }
}

fn rgb() -> String {
    "rgb".to_owned()
}

fn is_rgb(order: &str) -> bool {
    order == "rgb"
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks by reference")]
fn is_byte(range: &OutRange) -> bool {
    *range == OutRange::Byte
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sources_and_places_are_written_and_read_the_same_way() {
        for text in
            ["master", "control 3", "tier-level the top", "group-level Sails", "colour Deep water", "light Sail 1 / 5"]
        {
            assert_eq!(text.parse::<OutSource>().map(|what| what.to_string()).as_deref(), Ok(text));
        }
        for text in ["dmx 3.10", "osc 127.0.0.1:9001 /colour", "midi pad box control 7 channel 2"] {
            assert_eq!(text.parse::<OutTarget>().map(|to| to.to_string()).as_deref(), Ok(text));
        }
        for bad in ["", "moon", "control 65", "colour", "light Sail", "light Sail / 0"] {
            assert!(bad.parse::<OutSource>().is_err(), "{bad}");
        }
        for bad in ["", "dmx", "dmx 1.600", "osc nowhere /x", "osc 127.0.0.1:9 x", "midi box control 200"] {
            assert!(bad.parse::<OutTarget>().is_err(), "{bad}");
        }
    }

    #[test]
    fn parts_leave_in_their_order_and_range() {
        let colour = |order: &str| ValueOut {
            order: order.into(),
            ..ValueOut::new(OutSource::Colour("Foam".into()), "dmx 1.1".parse().expect("a place"))
        };
        let value = [0.2, 0.4, 1.0];
        let parts = |out: &ValueOut| (0..out.parts()).map(|place| out.part(place, value)).collect::<Vec<_>>();
        assert_eq!(parts(&colour("grb")), [0.4, 0.2, 1.0]);
        assert_eq!(parts(&colour("iw")), [1.0, 0.2]);
        assert_eq!(OutRange::Word.bytes(0.5), [0x80, 0x00]);
        assert_eq!([OutRange::Byte, OutRange::Percent, OutRange::Unit].map(|range| range.bytes(1.0)[0]), [255, 100, 1]);
        assert!(colour("xyz").fault().is_some() && colour("grb").fault().is_none());
        let late = ValueOut { to: "dmx 1.511".parse().expect("a place"), ..colour("rgb") };
        assert!(late.fault().expect("too late").contains("3 slots"));
    }
}
