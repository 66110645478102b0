//! The trait of all transports.

use std::fmt::Debug;
use std::net::{IpAddr, Ipv4Addr, SocketAddr};
use std::ops::RangeInclusive;

use crate::{Destination, Field, FieldValue, Numbering};

/// A way by which universes leave, with what only this way has.
pub trait Transport: Debug + Send + std::marker::Sync {
    // The way.

    /// How it leaves.
    fn leaves(&self) -> Leaves<'_>;

    // The numbers that universes have there.

    /// The numbers and the way out on a network; a serial port has none.
    fn numbering(&self) -> Option<&Numbering>;
    /// As [`Self::numbering`], to be changed.
    fn numbering_mut(&mut self) -> Option<&mut Numbering>;
    /// The numbers that a universe can have; none where universes have no numbers.
    fn numbers(&self) -> Option<RangeInclusive<u32>>;
    /// The number that a universe of the show usually has.
    fn usual_number(&self, universe: u32) -> u16;
    /// A number as the protocol writes it.
    fn number_form(&self, number: u16) -> String;
    /// The number that a text means, in any of the protocol's forms.
    fn read_number(&self, text: &str) -> Option<u16>;

    // Where it can go.

    /// True if it can go to a destination.
    fn reaches(&self, to: &Destination) -> bool;
    /// What is to be written where it cannot.
    fn destination_mend(&self) -> &'static str;
    /// The destinations in a few words.
    fn destination_hint(&self) -> &'static str;
    /// The destination that it usually has.
    fn usual_destination(&self) -> Destination;

    // What only it has.

    /// Its own fields.
    fn fields(&self) -> &'static [Field];
    /// The value of one of its fields.
    fn value(&self, field: &str) -> FieldValue;
    /// Changes one of its fields; others it leaves alone.
    fn set(&mut self, field: &str, value: FieldValue);

    // Words.

    /// The name as it is written everywhere.
    fn name(&self) -> &'static str;
    /// The name of one universe: `Art-Net 0:1:0`, `sACN 4`, `serial`.
    fn universe(&self, number: u16) -> String;
    /// That name with every other that boxes have for it, for drawings.
    fn universe_in_full(&self, number: u16) -> String {
        self.universe(number)
    }
    /// The name of a number alone, for a form: `port-address 16 = 0:1:0`.
    fn number_hint(&self, number: u16) -> String {
        format!("{} universe {number}", self.name())
    }
    /// The other names of a universe, as a person sets a box to it.
    fn other_names(&self, _number: u16) -> Vec<String> {
        Vec::new()
    }
    /// Some universes in a row, short, for a list.
    fn universes(&self, first: u16, last: u16) -> String;
    /// Some universes in a row, for a drawing.
    fn universes_in_full(&self, first: u16, last: u16) -> String {
        self.universes(first, last)
    }
    /// What a drawing says of it besides.
    fn options(&self) -> Vec<String> {
        Vec::new()
    }
}

/// How a transport leaves.
#[derive(Debug)]
pub enum Leaves<'a> {
    /// In packets by the network, one for each universe and destination.
    Packets(&'a dyn Packets),
    /// On a serial port, at a speed in bits a second.
    Port {
        /// The speed.
        baud: u32,
    },
}

/// The packets of a transport on a network.
pub trait Packets: Debug {
    /// The UDP port that they go to.
    fn port(&self) -> u16;
    /// The multicast group of a universe, of IPv6 or IPv4, where the protocol has one.
    fn group(&self, number: u16, v6: bool) -> Option<IpAddr>;
    /// The packet of a universe in the dark, with 512 slots at its end.
    fn blank(&self, number: u16, identity: &Identity) -> Vec<u8>;
    /// The place of the first slot in it.
    fn slots_at(&self) -> usize;
    /// The sequence number behind another.
    fn next_sequence(&self, sequence: u8) -> u8;
    /// Writes a sequence number into a packet.
    fn set_sequence(&self, packet: &mut [u8], sequence: u8);
    /// Has a packet say that its stream ends. False where the protocol cannot say so.
    fn terminate(&self, packet: &mut [u8]) -> bool;
    /// The synchronisation behind what goes to an address. `broadcast` has the broadcast address of the network that an address
    /// lies in, if it is one of ours.
    fn sync_to(&self, to: SocketAddr, broadcast: &dyn Fn(Ipv4Addr) -> Option<Ipv4Addr>) -> Sync;
    /// The packet of a synchronisation.
    fn sync_packet(&self, sync: Sync, identity: &Identity) -> Vec<u8>;
    /// Writes a sequence number into the packet of a synchronisation, where it has one.
    fn set_sync_sequence(&self, packet: &mut [u8], sequence: u8);
}

/// The identity of the sender.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Identity {
    /// The UUID of the source (sACN).
    pub cid: [u8; 16],
    /// The name of the source (sACN).
    pub name: String,
}

/// A synchronisation packet of a lane.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct Sync {
    /// The universe that it is of; 0 where the protocol has it without one.
    pub number: u16,
    /// The destination.
    pub to: SocketAddr,
}
