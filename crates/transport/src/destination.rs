//! Destinations of routes.

use std::fmt;
use std::net::{IpAddr, Ipv4Addr};
use std::str::FromStr;

use serde::{Deserialize, Serialize};

/// A destination of a route.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub enum Destination {
    /// One address.
    Unicast(IpAddr),
    /// A machine by its name.
    Host(String),
    /// The IPv4 group of each universe (ANSI E1.31, 9.3.1).
    Multicast,
    /// The IPv6 group of each universe (ANSI E1.31, 9.3.2).
    MulticastV6,
    /// Everybody on the network of the interface (Art-Net).
    Broadcast,
    /// Whatever nodes said that they put the port-address out (Art-Net).
    Nodes,
    /// Those of some nodes that put the port-address out, and all of them where none says so: whoever else answers gets nothing
    /// (Art-Net).
    OnlyNodes(Vec<Ipv4Addr>),
    /// A serial port by its path.
    Port(String),
}

/// A text that is no destination.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error(
    "\"{0}\" is not a destination: write an address such as 10.20.0.11, a name such as box.local, nodes, only these nodes such as nodes 10.20.0.11, broadcast, multicast, multicast v6, or a serial port such as /dev/ttyUSB0"
)]
pub struct BadDestination(String);

impl FromStr for Destination {
    type Err = BadDestination;

    fn from_str(text: &str) -> Result<Self, BadDestination> {
        let text = text.trim();
        match text {
            "multicast" => return Ok(Self::Multicast),
            "multicast v6" => return Ok(Self::MulticastV6),
            "broadcast" => return Ok(Self::Broadcast),
            "nodes" => return Ok(Self::Nodes),
            _ if text.starts_with('/') && text.len() > 1 => return Ok(Self::Port(text.to_owned())),
            _ => {}
        }
        if let Some(nodes) = text.strip_prefix("nodes ") {
            let addresses = nodes.split_whitespace().map(str::parse).collect::<Result<Vec<_>, _>>();
            return addresses.map(Self::OnlyNodes).map_err(|_| BadDestination(text.chars().take(80).collect()));
        }
        if let Ok(address) = text.parse() {
            return Ok(Self::Unicast(address));
        }
        let letter = |c: char| c.is_ascii_alphanumeric() || c == '-' || c == '.' || c == '_';
        // Digits and points alone were meant to be an address.
        let named = text.len() <= 253 && text.chars().all(letter) && text.chars().any(|c| c.is_ascii_alphabetic());
        if named { Ok(Self::Host(text.to_owned())) } else { Err(BadDestination(text.chars().take(80).collect())) }
    }
}

impl fmt::Display for Destination {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Unicast(address) => address.fmt(f),
            Self::Host(name) | Self::Port(name) => f.write_str(name),
            Self::Multicast => f.write_str("multicast"),
            Self::MulticastV6 => f.write_str("multicast v6"),
            Self::Broadcast => f.write_str("broadcast"),
            Self::Nodes => f.write_str("nodes"),
            Self::OnlyNodes(nodes) => {
                f.write_str("nodes")?;
                nodes.iter().try_for_each(|address| write!(f, " {address}"))
            }
        }
    }
}

/// One destination or more, written with commas between them.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub struct Destinations(pub Vec<Destination>);

impl From<Destination> for Destinations {
    fn from(destination: Destination) -> Self {
        Self(vec![destination])
    }
}

impl FromStr for Destinations {
    type Err = BadDestination;

    fn from_str(text: &str) -> Result<Self, BadDestination> {
        text.split(',').map(str::parse).collect::<Result<_, _>>().map(Self)
    }
}

impl fmt::Display for Destinations {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for (index, destination) in self.0.iter().enumerate() {
            let comma = if index == 0 { "" } else { ", " };
            write!(f, "{comma}{destination}")?;
        }
        Ok(())
    }
}

impl TryFrom<String> for Destinations {
    type Error = BadDestination;
    fn try_from(text: String) -> Result<Self, BadDestination> {
        text.parse()
    }
}

impl From<Destinations> for String {
    fn from(destinations: Destinations) -> Self {
        destinations.to_string()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn each_form_is_known() {
        let text = "10.20.0.11, fd00::7, box.local, multicast, multicast v6, broadcast, nodes, nodes 10.20.0.11 10.20.0.12, /dev/ttyUSB0";
        let read: Destinations = text.parse().expect("destinations");
        assert_eq!((read.0.len(), read.to_string().as_str()), (9, text));
        assert_eq!(read.0[2], Destination::Host("box.local".into()));
        for bad in ["", "10.20.0", "10.0.0.300", "a b", "nodes box", "nodes fd00::7", "box!", "/", "10.0.0.1,,10.0.0.2"]
        {
            assert!(bad.parse::<Destinations>().is_err(), "{bad}");
        }
    }

    proptest! {
        #[test]
        fn any_text_is_destinations_or_an_error(text in "\\PC{0,30}") {
            if let Ok(read) = text.parse::<Destinations>() {
                prop_assert_eq!(read.to_string().parse(), Ok(read));
            }
        }
    }
}
