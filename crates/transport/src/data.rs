//! A frame of one universe as it came in by a protocol of the network.

use serde::{Deserialize, Serialize};

use crate::sacn::USUAL_PRIORITY;
use crate::{Error, Transport, TransportKind, artnet, sacn};

/// A frame of one universe, of either protocol.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Data<'a> {
    /// The protocol by which it came.
    pub protocol: Protocol,
    /// A port-address, 0..32767 (Art-Net), or a universe, 1..63999 (sACN).
    pub universe: u16,
    /// The sequence number; 0 in Art-Net says that there is none.
    pub sequence: u8,
    /// The UUID and the name of the source (sACN).
    pub source: Option<([u8; 16], &'a str)>,
    /// The priority; that of Art-Net, which has none, is the usual one of sACN.
    pub priority: u8,
    /// True if the source said that the stream ends (sACN).
    pub terminated: bool,
    /// True if it is not for live output (sACN).
    pub preview: bool,
    /// The universe on which a synchronisation packet is waited for, or 0 (sACN).
    pub sync_address: u16,
    /// True if a receiver goes on without synchronisation where that is lost (sACN).
    pub force_sync: bool,
    /// True if the slots are no levels but the priority of each, 0 for one that the source leaves to others (sACN, start code 0xDD).
    pub priorities: bool,
    /// The slots, at most 512.
    pub slots: &'a [u8],
}

/// The start code of levels, and that of the priority of each slot.
const LEVELS: u8 = 0;
const PRIORITIES: u8 = 0xdd;

/// A protocol of the network.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
pub enum Protocol {
    /// Art-Net 4.
    ArtNet,
    /// ANSI E1.31.
    Sacn,
}

impl Protocol {
    /// The transport that speaks it, as usual.
    #[must_use]
    pub fn transport(self) -> &'static dyn Transport {
        self.kind().usual()
    }

    /// That of a transport, where frames of it can come in.
    #[must_use]
    pub fn of(transport: TransportKind) -> Option<Self> {
        [Self::ArtNet, Self::Sacn].into_iter().find(|one| one.kind() == transport)
    }

    /// The kind of transport that it is.
    #[must_use]
    pub fn kind(self) -> TransportKind {
        match self {
            Self::ArtNet => TransportKind::ArtNet,
            Self::Sacn => TransportKind::Sacn,
        }
    }

    /// The UDP port.
    #[must_use]
    pub fn port(self) -> u16 {
        match self {
            Self::ArtNet => artnet::PORT,
            Self::Sacn => sacn::PORT,
        }
    }
}

/// Reads a frame of either protocol; other packets of the two, and slots that are not light levels, are
/// [`Error::NotThis`].
///
/// # Errors
/// [`Error`] where the bytes are not a valid data packet of one of them.
pub fn parse(bytes: &[u8]) -> Result<Data<'_>, Error> {
    if let Ok(packet) = artnet::dmx::Packet::new_checked(bytes) {
        let repr = artnet::dmx::Repr::parse(&packet)?;
        return Ok(Data {
            protocol: Protocol::ArtNet,
            universe: repr.port_address,
            sequence: repr.sequence,
            source: None,
            priority: USUAL_PRIORITY,
            terminated: false,
            preview: false,
            sync_address: 0,
            force_sync: true,
            priorities: false,
            slots: repr.data,
        });
    }
    let packet = sacn::data::Packet::new_checked(bytes)?;
    let repr = sacn::data::Repr::parse(&packet)?;
    if !matches!(repr.start_code, LEVELS | PRIORITIES) {
        return Err(Error::NotThis);
    }
    Ok(Data {
        protocol: Protocol::Sacn,
        universe: repr.universe,
        sequence: repr.sequence,
        source: Some((repr.cid, repr.source_name)),
        priority: repr.priority,
        terminated: repr.terminated,
        preview: repr.preview,
        sync_address: repr.sync_address,
        force_sync: repr.force_sync,
        priorities: repr.start_code == PRIORITIES,
        slots: repr.slots,
    })
}

impl Data<'_> {
    /// The packet. One without a source has an identity of zeros in sACN.
    ///
    /// # Panics
    /// Where the universe is out of the range of the protocol, or there are no slots or more than 512.
    #[must_use]
    pub fn emit(&self) -> Vec<u8> {
        match self.protocol {
            Protocol::ArtNet => {
                let repr = artnet::dmx::Repr {
                    sequence: self.sequence,
                    physical: 0,
                    port_address: self.universe,
                    data: self.slots,
                };
                let mut bytes = vec![0; repr.buffer_len()];
                repr.emit(&mut artnet::dmx::Packet::new_unchecked(&mut bytes));
                bytes
            }
            Protocol::Sacn => {
                let (cid, source_name) = self.source.unwrap_or_default();
                let repr = sacn::data::Repr {
                    cid,
                    source_name,
                    priority: self.priority,
                    sync_address: self.sync_address,
                    sequence: self.sequence,
                    preview: self.preview,
                    terminated: self.terminated,
                    force_sync: self.force_sync,
                    universe: self.universe,
                    start_code: if self.priorities { PRIORITIES } else { LEVELS },
                    slots: self.slots,
                };
                let mut bytes = vec![0; repr.buffer_len()];
                repr.emit(&mut sacn::data::Packet::new_unchecked(&mut bytes));
                bytes
            }
        }
    }
}

/// A frame of no slots, to begin from.
#[must_use]
pub fn data_of(protocol: Protocol, universe: u16, sequence: u8) -> Data<'static> {
    Data {
        protocol,
        universe,
        sequence,
        source: None,
        priority: USUAL_PRIORITY,
        terminated: false,
        preview: false,
        sync_address: 0,
        force_sync: true,
        priorities: false,
        slots: &[],
    }
}
