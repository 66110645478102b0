//! Routes: which universes of the show go where.

use std::fmt;
use std::net::Ipv4Addr;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

use super::UniverseRange;

/// A range of universes on its way to a destination.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Route {
    /// The name, unique among routes.
    pub name: String,
    /// Which universes of the show.
    pub universes: UniverseRange,
    /// By which protocol.
    pub protocol: Protocol,
    /// The number that the first of them has in the protocol: a port-address from 0 (Art-Net) or a universe from 1 (sACN).
    pub first: u16,
    /// To whom.
    pub to: Destination,
    /// The priority of the source, 0..200, where the protocol has one (sACN).
    #[serde(default = "usual_priority")]
    pub priority: u8,
    /// What is sent of a universe that does not change.
    #[serde(default)]
    pub unchanged: Unchanged,
    /// Whether anything is sent.
    #[serde(default = "on")]
    pub enabled: bool,
}

fn usual_priority() -> u8 {
    100
}

fn on() -> bool {
    true
}

/// The protocols of the network.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub enum Protocol {
    /// Art-Net 4.
    #[serde(rename = "art-net")]
    ArtNet,
    /// ANSI E1.31, streaming ACN.
    #[serde(rename = "sacn")]
    Sacn,
}

impl Protocol {
    /// The name as it is written everywhere.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::ArtNet => "Art-Net",
            Self::Sacn => "sACN",
        }
    }

    /// The numbers that a universe can have in the protocol.
    #[must_use]
    pub fn numbers(self) -> std::ops::RangeInclusive<u32> {
        match self {
            Self::ArtNet => 0..=32_767,
            Self::Sacn => 1..=63_999,
        }
    }
}

/// What is sent of a universe that does not change.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
pub enum Unchanged {
    /// A packet now and then, as the standards ask.
    #[default]
    #[serde(rename = "keep-alive")]
    KeepAlive,
    /// Every frame all the same, so that a receiver's frame rate tells of losses.
    #[serde(rename = "repeat")]
    Repeat,
}

/// To whom a route goes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub enum Destination {
    /// One address.
    Unicast(Ipv4Addr),
    /// The multicast address of each universe (ANSI E1.31, 9.3.1).
    Multicast,
}

/// What a destination may not be.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("\"{0}\" is not a destination: write an address such as \"10.20.0.11\", or \"multicast\"")]
pub struct BadDestination(String);

impl FromStr for Destination {
    type Err = BadDestination;

    fn from_str(text: &str) -> Result<Self, BadDestination> {
        if text == "multicast" {
            return Ok(Self::Multicast);
        }
        text.parse().map(Self::Unicast).map_err(|_| BadDestination(text.to_owned()))
    }
}

impl fmt::Display for Destination {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Unicast(address) => address.fmt(f),
            Self::Multicast => f.write_str("multicast"),
        }
    }
}

impl TryFrom<String> for Destination {
    type Error = BadDestination;
    fn try_from(text: String) -> Result<Self, BadDestination> {
        text.parse()
    }
}

impl From<Destination> for String {
    fn from(destination: Destination) -> Self {
        destination.to_string()
    }
}
