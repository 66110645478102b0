//! The network interfaces of this machine.

use std::net::{Ipv4Addr, Ipv6Addr};

use nix::ifaddrs::getifaddrs;
use nix::net::if_::{InterfaceFlags, if_nametoindex};

/// A network interface.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub struct Interface {
    /// Its name.
    pub name: String,
    /// Its number in the system.
    pub index: u32,
    /// Its first IPv4 address.
    pub v4: Option<Ipv4Addr>,
    /// Which bits of that are the network's.
    pub netmask: Option<Ipv4Addr>,
    /// The directed broadcast address of that.
    pub broadcast: Option<Ipv4Addr>,
    /// Its first IPv6 address.
    pub v6: Option<Ipv6Addr>,
    /// Whether it is switched on.
    pub up: bool,
    /// Whether there is a link: a cable, or a wireless network.
    pub link: bool,
    /// Whether it only leads back to this machine.
    pub loopback: bool,
}

impl Interface {
    /// Whether an address lies in its network.
    #[must_use]
    pub fn reaches(&self, address: Ipv4Addr) -> bool {
        let network = |a: Ipv4Addr, mask: Ipv4Addr| u32::from(a) & u32::from(mask);
        matches!((self.v4, self.netmask), (Some(own), Some(mask)) if network(own, mask) == network(address, mask))
    }
}

/// The interfaces, by name.
#[must_use]
pub fn interfaces() -> Vec<Interface> {
    let mut all: Vec<Interface> = Vec::new();
    let Ok(addresses) = getifaddrs() else { return all };
    for found in addresses {
        let index = match all.iter().position(|i| i.name == found.interface_name) {
            Some(index) => index,
            None => {
                let flags = found.flags;
                all.push(Interface {
                    index: if_nametoindex(found.interface_name.as_str()).unwrap_or(0),
                    name: found.interface_name.clone(),
                    v4: None,
                    netmask: None,
                    broadcast: None,
                    v6: None,
                    up: flags.contains(InterfaceFlags::IFF_UP),
                    link: flags.contains(InterfaceFlags::IFF_RUNNING),
                    loopback: flags.contains(InterfaceFlags::IFF_LOOPBACK),
                });
                all.len() - 1
            }
        };
        let interface = &mut all[index];
        let Some(address) = found.address else { continue };
        if let Some(v4) = address.as_sockaddr_in() {
            if interface.v4.is_none() {
                interface.v4 = Some(v4.ip());
                interface.netmask = found.netmask.as_ref().and_then(|m| m.as_sockaddr_in()).map(|m| m.ip());
                let directed = found.broadcast.as_ref().and_then(|b| b.as_sockaddr_in()).map(|b| b.ip());
                interface.broadcast = directed.filter(|_| found.flags.contains(InterfaceFlags::IFF_BROADCAST));
            }
        } else if let Some(v6) = address.as_sockaddr_in6() {
            interface.v6 = interface.v6.or(Some(v6.ip()));
        }
    }
    all.sort_by(|a, b| a.name.cmp(&b.name));
    all
}
