//! DMX addresses as the show counts them.

use std::fmt;
use std::ops::RangeInclusive;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

/// Slots of a universe (ANSI E1.11: 512 after the start code).
pub const SLOTS: u16 = 512;

/// The largest universe number, which is that of ANSI E1.31 (section 6.2.7).
pub const LAST_UNIVERSE: u32 = 63_999;

/// The start of a fixture: a universe of the show (from 1) and a channel (1..512), written `universe.channel`.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub struct Address {
    /// Universe, 1..63999.
    pub universe: u32,
    /// Channel, 1..512.
    pub channel: u16,
}

/// A text that is no address or range of universes.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum BadAddress {
    /// Not `universe.channel`.
    #[error("\"{0}\" is not an address: write universe.channel, such as \"1.1\" or \"12.481\"")]
    Form(String),
    /// A universe that does not exist.
    #[error("universe {0} does not exist: universes go from 1 to {LAST_UNIVERSE}")]
    Universe(u32),
    /// A channel that does not exist.
    #[error("channel {0} does not exist: a universe has channels 1 to {SLOTS}")]
    Channel(u32),
    /// Not an address in any form.
    #[error(
        "\"{0}\" is not an address: write universe.channel (8.1), net:subnet:universe/channel (0:0:7/1), port-address/channel (7/1) or one running number (3585)"
    )]
    AnyForm(String),
    /// A port-address that does not exist.
    #[error("port-address {0} does not exist: they go from 0 to 32767, or 0:0:0 to 127:15:15")]
    PortAddress(String),
    /// A running number that does not exist.
    #[error("running number {0} does not exist: they go from 1 to {last}", last = LAST_UNIVERSE * SLOTS as u32)]
    Running(u32),
    /// A number of a protocol that no route sends, where the universe that it would usually be leaves as another.
    #[error(
        "no route sends {asked}: universe {universe} leaves as {sent}; write {universe}.1, or change the route (F7)"
    )]
    SentElsewhere {
        /// The number that was asked for, in words.
        asked: String,
        /// The universe of the show that it would usually be.
        universe: u32,
        /// The number under which that universe leaves, in words.
        sent: String,
    },
    /// Not a range of universes.
    #[error("\"{0}\" is not a range of universes: write one number or first-last, such as \"1-7\"")]
    Range(String),
}

impl FromStr for Address {
    type Err = BadAddress;

    fn from_str(text: &str) -> Result<Self, BadAddress> {
        let form = || BadAddress::Form(text.to_owned());
        let (universe, channel) = text.trim().split_once('.').ok_or_else(form)?;
        Self::checked(universe.parse().map_err(|_| form())?, channel.parse().map_err(|_| form())?)
    }
}

impl Address {
    /// An address, if there is one with these numbers.
    ///
    /// # Errors
    /// [`BadAddress::Universe`] or [`BadAddress::Channel`].
    pub fn checked(universe: u32, channel: u32) -> Result<Self, BadAddress> {
        let universe = checked_universe(universe)?;
        let fits = u16::try_from(channel).ok().filter(|c| (1..=SLOTS).contains(c));
        Ok(Self { universe, channel: fits.ok_or(BadAddress::Channel(channel))? })
    }
}

fn checked_universe(number: u32) -> Result<u32, BadAddress> {
    if (1..=LAST_UNIVERSE).contains(&number) { Ok(number) } else { Err(BadAddress::Universe(number)) }
}

impl fmt::Display for Address {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}.{}", self.universe, self.channel)
    }
}

impl TryFrom<String> for Address {
    type Error = BadAddress;
    fn try_from(text: String) -> Result<Self, BadAddress> {
        text.parse()
    }
}

impl From<Address> for String {
    fn from(address: Address) -> Self {
        address.to_string()
    }
}

/// Universes of the show from a first to a last, written `1-7` or `8`.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub struct UniverseRange {
    /// The first, 1..63999.
    pub first: u32,
    /// The last, not before the first.
    pub last: u32,
}

impl UniverseRange {
    /// Every universe in it.
    #[must_use]
    pub fn numbers(self) -> RangeInclusive<u32> {
        self.first..=self.last
    }

    /// The number of them.
    #[must_use]
    pub fn count(self) -> u32 {
        self.last - self.first + 1
    }
}

impl FromStr for UniverseRange {
    type Err = BadAddress;

    fn from_str(text: &str) -> Result<Self, BadAddress> {
        let form = || BadAddress::Range(text.to_owned());
        let (first, last) = text.split_once('-').unwrap_or((text, text));
        let number = |word: &str| word.trim().parse::<u32>().map_err(|_| form()).and_then(checked_universe);
        let (first, last) = (number(first)?, number(last)?);
        if first <= last { Ok(Self { first, last }) } else { Err(form()) }
    }
}

impl fmt::Display for UniverseRange {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.first == self.last { write!(f, "{}", self.first) } else { write!(f, "{}-{}", self.first, self.last) }
    }
}

impl TryFrom<String> for UniverseRange {
    type Error = BadAddress;
    fn try_from(text: String) -> Result<Self, BadAddress> {
        text.parse()
    }
}

impl From<UniverseRange> for String {
    fn from(range: UniverseRange) -> Self {
        range.to_string()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn what_does_not_exist_is_refused_with_its_reason() {
        assert_eq!("1.513".parse::<Address>(), Err(BadAddress::Channel(513)));
        assert_eq!("0.1".parse::<Address>(), Err(BadAddress::Universe(0)));
        assert_eq!("70000.1".parse::<Address>(), Err(BadAddress::Universe(70_000)));
        assert_eq!("1".parse::<Address>(), Err(BadAddress::Form("1".into())));
        assert_eq!("7-1".parse::<UniverseRange>(), Err(BadAddress::Range("7-1".into())));
        assert_eq!("0-1".parse::<UniverseRange>(), Err(BadAddress::Universe(0)));
    }

    proptest! {
        #[test]
        fn addresses_round_trip(universe in 1..=LAST_UNIVERSE, channel in 1..=SLOTS) {
            let address = Address { universe, channel };
            prop_assert_eq!(address.to_string().parse(), Ok(address));
        }

        #[test]
        fn any_text_is_an_address_or_an_error(text in "\\PC{0,12}") {
            let _ = text.parse::<Address>();
            let _ = text.parse::<UniverseRange>();
        }
    }
}
