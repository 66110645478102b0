//! sACN as a transport.

use std::net::{IpAddr, Ipv4Addr, SocketAddr};
use std::ops::RangeInclusive;

use super::{
    FIRST_UNIVERSE, HIGHEST_PRIORITY, LAST_UNIVERSE, PORT, USUAL_PRIORITY, data, multicast, multicast_v6, sync,
};
use crate::transport::{Identity, Sync};
use crate::{Destination, Field, FieldKind, FieldValue, Leaves, Numbering, Packets, SLOTS, Transport};

/// ANSI E1.31, streaming ACN; `first` of the numbering is a universe from 1.
#[derive(Debug, Clone, PartialEq)]
pub struct Sacn {
    /// The numbers and the way out.
    pub numbering: Numbering,
    /// The priority of the source, 0..200.
    pub priority: u8,
    /// True if receivers are told that it is not for live output.
    pub preview: bool,
}

/// sACN as usual.
pub static USUAL: Sacn = Sacn { numbering: Numbering::USUAL, priority: USUAL_PRIORITY, preview: false };

static FIELDS: [Field; 2] = [
    Field {
        name: "priority",
        label: "priority",
        about: "The priority of the source (sACN).",
        hint: "",
        behind: "interface",
        kind: FieldKind::Whole { from: 0, to: HIGHEST_PRIORITY as u32, offered: &[] },
    },
    Field {
        name: "preview",
        label: "preview only",
        about: "True if receivers are told that it is not for live output (sACN).",
        hint: "",
        behind: "priority",
        kind: FieldKind::Flag,
    },
];

impl Sacn {
    /// The universe on which its synchronisation packets follow, or 0.
    fn sync_address(&self) -> u16 {
        if self.numbering.sync { self.numbering.first } else { 0 }
    }
}

impl Transport for Sacn {
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
        Some(u32::from(FIRST_UNIVERSE)..=u32::from(LAST_UNIVERSE))
    }

    fn usual_number(&self, universe: u32) -> u16 {
        universe.clamp(u32::from(FIRST_UNIVERSE), u32::from(LAST_UNIVERSE)) as u16
    }

    fn number_form(&self, number: u16) -> String {
        number.to_string()
    }

    fn read_number(&self, text: &str) -> Option<u16> {
        text.trim().parse().ok().filter(|number| (FIRST_UNIVERSE..=LAST_UNIVERSE).contains(number))
    }

    fn reaches(&self, to: &Destination) -> bool {
        match to {
            Destination::Unicast(_) | Destination::Host(_) | Destination::Multicast | Destination::MulticastV6 => true,
            Destination::Broadcast | Destination::Nodes | Destination::OnlyNodes(_) | Destination::Port(_) => false,
        }
    }

    fn destination_mend(&self) -> &'static str {
        "write an address, multicast or multicast v6, or use protocol = \"art-net\""
    }

    fn destination_hint(&self) -> &'static str {
        "multicast, multicast v6, or addresses with commas"
    }

    fn usual_destination(&self) -> Destination {
        Destination::Multicast
    }

    fn fields(&self) -> &'static [Field] {
        &FIELDS
    }

    fn value(&self, field: &str) -> FieldValue {
        if field == "priority" { FieldValue::Whole(self.priority.into()) } else { FieldValue::Flag(self.preview) }
    }

    fn set(&mut self, field: &str, value: FieldValue) {
        match field {
            "priority" => self.priority = value.whole().min(u32::from(u8::MAX)) as u8,
            "preview" => self.preview = value.flag(),
            _ => {}
        }
    }

    fn name(&self) -> &'static str {
        "sACN"
    }

    fn universe(&self, number: u16) -> String {
        format!("sACN {number}")
    }

    fn universes(&self, first: u16, last: u16) -> String {
        if first == last { self.universe(first) } else { format!("sACN {first}-{last}") }
    }

    fn options(&self) -> Vec<String> {
        vec![format!("priority {}", self.priority)]
    }
}

impl Packets for Sacn {
    fn port(&self) -> u16 {
        PORT
    }

    fn group(&self, number: u16, v6: bool) -> Option<IpAddr> {
        Some(if v6 { multicast_v6(number).into() } else { multicast(number).into() })
    }

    fn blank(&self, number: u16, identity: &Identity) -> Vec<u8> {
        let repr = data::Repr {
            cid: identity.cid,
            source_name: &identity.name,
            priority: self.priority.min(HIGHEST_PRIORITY),
            sync_address: self.sync_address(),
            sequence: 0,
            preview: self.preview,
            terminated: false,
            // Lights that go on by themselves when a synchronisation is lost are better than lights that stand still.
            force_sync: true,
            universe: number.clamp(FIRST_UNIVERSE, LAST_UNIVERSE),
            start_code: 0,
            slots: &[0; SLOTS],
        };
        let mut packet = vec![0; repr.buffer_len()];
        repr.emit(&mut data::Packet::new_unchecked(&mut packet));
        packet
    }

    fn slots_at(&self) -> usize {
        data::HEADER
    }

    fn next_sequence(&self, sequence: u8) -> u8 {
        sequence.wrapping_add(1)
    }

    fn set_sequence(&self, packet: &mut [u8], sequence: u8) {
        data::Packet::new_unchecked(packet).set_sequence(sequence);
    }

    fn terminate(&self, packet: &mut [u8]) -> bool {
        data::Packet::new_unchecked(packet).set_terminated(true);
        true
    }

    /// Where the data went to a group, to the group of the synchronisation's universe, else to the receiver.
    fn sync_to(&self, to: SocketAddr, _broadcast: &dyn Fn(Ipv4Addr) -> Option<Ipv4Addr>) -> Sync {
        let number = self.numbering.first;
        let group = self.group(number, to.is_ipv6()).filter(|_| to.ip().is_multicast());
        Sync { number, to: group.map_or(to, |group| SocketAddr::new(group, PORT)) }
    }

    fn sync_packet(&self, sync: Sync, identity: &Identity) -> Vec<u8> {
        sync::Repr { cid: identity.cid, sequence: 0, address: sync.number }.emit().to_vec()
    }

    fn set_sync_sequence(&self, packet: &mut [u8], sequence: u8) {
        sync::set_sequence(packet, sequence);
    }
}
