//! A network interface, as data.

use std::net::{Ipv4Addr, Ipv6Addr};

use serde::{Deserialize, Serialize};

/// A network interface.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Interface {
    /// Its name.
    pub name: String,
    /// Its number in the system.
    pub index: u32,
    /// Its first IPv4 address.
    pub v4: Option<Ipv4Addr>,
    /// The bits of that which are the network's.
    pub netmask: Option<Ipv4Addr>,
    /// The directed broadcast address of that.
    pub broadcast: Option<Ipv4Addr>,
    /// Its first IPv6 address.
    pub v6: Option<Ipv6Addr>,
    /// True if it is switched on.
    pub up: bool,
    /// True if there is a link: a cable, or a wireless network.
    pub link: bool,
    /// True if it only leads back to this machine.
    pub loopback: bool,
}

impl Interface {
    /// True if an address lies in its network.
    #[must_use]
    pub fn reaches(&self, address: Ipv4Addr) -> bool {
        let network = |a: Ipv4Addr, mask: Ipv4Addr| u32::from(a) & u32::from(mask);
        matches!((self.v4, self.netmask), (Some(own), Some(mask)) if network(own, mask) == network(address, mask))
    }
}
