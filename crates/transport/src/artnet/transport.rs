//! Art-Net as a transport.

use std::net::{IpAddr, Ipv4Addr, SocketAddr};
use std::ops::RangeInclusive;

use super::{LAST_PORT_ADDRESS, PORT, dmx, port_address, sync};
use crate::transport::{Identity, Sync};
use crate::{Destination, Field, FieldValue, Leaves, Numbering, Packets, SLOTS, Transport, net_form};

/// Art-Net 4; `first` of the numbering is a port-address from 0.
#[derive(Debug, Clone, PartialEq)]
pub struct ArtNet {
    /// The numbers and the way out.
    pub numbering: Numbering,
}

/// Art-Net as usual.
pub static USUAL: ArtNet = ArtNet { numbering: Numbering::USUAL };

impl Transport for ArtNet {
    fn leaves(&self) -> Leaves<'_> {
        Leaves::Packets(self)
    }

    fn numbering(&self) -> Option<&Numbering> {
        Some(&self.numbering)
    }

    fn numbering_mut(&mut self) -> Option<&mut Numbering> {
        Some(&mut self.numbering)
    }

    fn numbers(&self) -> Option<RangeInclusive<u32>> {
        Some(0..=u32::from(LAST_PORT_ADDRESS))
    }

    fn usual_number(&self, universe: u32) -> u16 {
        universe.saturating_sub(1).min(u32::from(LAST_PORT_ADDRESS)) as u16
    }

    fn number_form(&self, number: u16) -> String {
        net_form(number)
    }

    fn read_number(&self, text: &str) -> Option<u16> {
        port_address(text)
    }

    fn reaches(&self, to: &Destination) -> bool {
        match to {
            Destination::Unicast(address) => address.is_ipv4(),
            Destination::Host(_) | Destination::Broadcast | Destination::Nodes | Destination::OnlyNodes(_) => true,
            Destination::Multicast | Destination::MulticastV6 | Destination::Port(_) => false,
        }
    }

    fn destination_mend(&self) -> &'static str {
        "write the IPv4 address of the node, nodes or broadcast, or use protocol = \"sacn\""
    }

    fn destination_hint(&self) -> &'static str {
        "addresses or names with commas, nodes, or broadcast"
    }

    fn usual_destination(&self) -> Destination {
        Destination::Nodes
    }

    fn fields(&self) -> &'static [Field] {
        &[]
    }

    fn value(&self, _field: &str) -> FieldValue {
        FieldValue::Flag(false)
    }

    fn set(&mut self, _field: &str, _value: FieldValue) {}

    fn name(&self) -> &'static str {
        "Art-Net"
    }

    fn universe(&self, number: u16) -> String {
        format!("Art-Net {}", net_form(number))
    }

    fn universe_in_full(&self, number: u16) -> String {
        format!("{} (port-address {number})", self.universe(number))
    }

    fn number_hint(&self, number: u16) -> String {
        format!("port-address {number} = {}", net_form(number))
    }

    fn other_names(&self, number: u16) -> Vec<String> {
        vec![format!("port {number}")]
    }

    fn universes(&self, first: u16, last: u16) -> String {
        let end = match first >> 4 == last >> 4 {
            _ if first == last => return self.universe(first),
            true => (last & 15).to_string(),
            false => net_form(last),
        };
        format!("Art-Net {}-{end}", net_form(first))
    }

    fn universes_in_full(&self, first: u16, last: u16) -> String {
        match first == last {
            true => self.universe_in_full(first),
            false => format!("Art-Net {} to {} ({first}-{last})", net_form(first), net_form(last)),
        }
    }
}

impl Packets for ArtNet {
    fn port(&self) -> u16 {
        PORT
    }

    fn group(&self, _number: u16, _v6: bool) -> Option<IpAddr> {
        None
    }

    fn blank(&self, number: u16, _identity: &Identity) -> Vec<u8> {
        let port_address = number.min(LAST_PORT_ADDRESS);
        let repr = dmx::Repr { sequence: 0, physical: 0, port_address, data: &[0; SLOTS] };
        let mut packet = vec![0; repr.buffer_len()];
        repr.emit(&mut dmx::Packet::new_unchecked(&mut packet));
        packet
    }

    fn slots_at(&self) -> usize {
        dmx::HEADER
    }

    /// 0 is left out: it would say that there is none.
    fn next_sequence(&self, sequence: u8) -> u8 {
        sequence.wrapping_add(1).max(1)
    }

    fn set_sequence(&self, packet: &mut [u8], sequence: u8) {
        dmx::Packet::new_unchecked(packet).set_sequence(sequence);
    }

    fn terminate(&self, _packet: &mut [u8]) -> bool {
        false
    }

    /// The standard has ArtSync broadcast; where the node's network has no broadcast address, it goes to the node.
    fn sync_to(&self, to: SocketAddr, broadcast: &dyn Fn(Ipv4Addr) -> Option<Ipv4Addr>) -> Sync {
        let to = match to.ip() {
            IpAddr::V4(address) => IpAddr::V4(broadcast(address).unwrap_or(address)),
            v6 @ IpAddr::V6(_) => v6,
        };
        Sync { number: 0, to: SocketAddr::new(to, PORT) }
    }

    fn sync_packet(&self, _sync: Sync, _identity: &Identity) -> Vec<u8> {
        sync::emit().to_vec()
    }

    /// An ArtSync has none.
    fn set_sync_sequence(&self, _packet: &mut [u8], _sequence: u8) {}
}
