//! The network interfaces of this machine.

use nix::ifaddrs::getifaddrs;
use nix::net::if_::{InterfaceFlags, if_nametoindex};

use crate::interface::Interface;

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
