//! Whether an answer to a poll is believed. Whoever answers makes Splimo send frames there, so an answer counts only for the
//! address that it came from, and only within the networks of this machine, or where a person allows it.

use std::fmt;
use std::net::{IpAddr, Ipv4Addr};

use serde::{Deserialize, Serialize};
use splimo_show::AddressBlock;

use crate::interface::Interface;

/// The reason why an answer is not believed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub enum Doubt {
    /// It claims another address than the one that it came from.
    OtherAddress,
    /// It claims an address of everybody, of a group, or of nobody.
    NoSingleAddress,
    /// It claims an address of this machine.
    Ours,
    /// It claims an address outside the networks of this machine, or outside those that a person allows.
    Elsewhere,
}

impl fmt::Display for Doubt {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::OtherAddress => "it sends from another address",
            Self::NoSingleAddress => "that is no address of one device",
            Self::Ours => "that is this machine",
            Self::Elsewhere => "that is on none of our networks, and nobody allowed it",
        })
    }
}

/// The reason not to believe an answer that came from one address and claims another (an unspecified one claims none). A list of
/// allowed addresses replaces the networks of this machine; it cannot allow an address that is not one device's.
#[must_use]
pub fn doubt(claimed: Ipv4Addr, from: Ipv4Addr, interfaces: &[Interface], allowed: &[AddressBlock]) -> Option<Doubt> {
    let claimed = if claimed.is_unspecified() { from } else { claimed };
    let near = || interfaces.iter().any(|i| i.reaches(claimed));
    if !is_single(claimed, interfaces) {
        Some(Doubt::NoSingleAddress)
    } else if claimed != from {
        Some(Doubt::OtherAddress)
    } else if interfaces.iter().any(|i| i.v4 == Some(claimed)) {
        Some(Doubt::Ours)
    } else if allowed.is_empty() && !near() || !AddressBlock::allow(allowed, IpAddr::V4(claimed)) {
        Some(Doubt::Elsewhere)
    } else {
        None
    }
}

/// True if an address can be that of one device on our networks.
fn is_single(address: Ipv4Addr, interfaces: &[Interface]) -> bool {
    let of_network = |i: &Interface| {
        let (Some(own), Some(mask)) = (i.v4, i.netmask) else { return false };
        let (own, mask) = (u32::from(own), u32::from(mask));
        // Networks of two addresses or one have none for everybody (RFC 3021).
        let ends = [own & mask, own | !mask];
        mask.leading_ones() < 31 && ends.contains(&u32::from(address))
    };
    let everybody = address.is_broadcast() || address.is_multicast() || address.octets()[0] == 0;
    !everybody && !interfaces.iter().any(|i| i.broadcast == Some(address) || of_network(i))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn interface() -> Interface {
        Interface {
            name: "eth0".into(),
            index: 2,
            v4: Some(Ipv4Addr::new(10, 0, 1, 99)),
            netmask: Some(Ipv4Addr::new(255, 255, 255, 0)),
            broadcast: Some(Ipv4Addr::new(10, 0, 1, 255)),
            v6: None,
            up: true,
            link: true,
            loopback: false,
        }
    }

    fn of(claimed: [u8; 4], from: [u8; 4], allowed: &str) -> Option<Doubt> {
        let allowed = AddressBlock::list(allowed).expect("a list");
        doubt(claimed.into(), from.into(), &[interface()], &allowed)
    }

    #[test]
    fn an_answer_counts_only_for_the_address_that_it_came_from() {
        assert_eq!(of([10, 0, 1, 7], [10, 0, 1, 7], ""), None);
        assert_eq!(of([0, 0, 0, 0], [10, 0, 1, 7], ""), None, "an empty field claims nothing");
        assert_eq!(of([10, 0, 1, 7], [10, 0, 1, 66], ""), Some(Doubt::OtherAddress));
        assert_eq!(of([10, 0, 1, 99], [10, 0, 1, 99], ""), Some(Doubt::Ours));
    }

    #[test]
    fn nobody_can_have_us_send_to_everybody_or_far_away() {
        for all in [[10, 0, 1, 255], [10, 0, 1, 0], [255, 255, 255, 255], [239, 255, 0, 1], [0, 0, 0, 7]] {
            assert_eq!(of(all, [10, 0, 1, 66], ""), Some(Doubt::NoSingleAddress), "{all:?}");
            assert_eq!(
                of(all, all, "0.0.0.0/0").is_some(),
                all != [0, 0, 0, 0],
                "{all:?}: not even where it is allowed"
            );
        }
        assert_eq!(of([203, 0, 113, 9], [203, 0, 113, 9], ""), Some(Doubt::Elsewhere));
        assert_eq!(of([203, 0, 113, 9], [203, 0, 113, 9], "203.0.113.0/24"), None, "a person allowed it");
        assert_eq!(of([10, 0, 1, 7], [10, 0, 1, 7], "10.0.1.8"), Some(Doubt::Elsewhere), "and not this one");
    }
}
