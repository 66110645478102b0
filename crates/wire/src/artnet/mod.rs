//! Art-Net 4 (Artistic Licence Holdings, "Specification for the Art-Net 4 Ethernet Communication Protocol").

pub mod dmx;

/// The UDP port of Art-Net.
pub const PORT: u16 = 6454;
/// The largest port-address: 7 bits of net, 4 of sub-net, 4 of universe.
pub const LAST_PORT_ADDRESS: u16 = 32_767;
/// What every packet begins with.
pub const ID: [u8; 8] = *b"Art-Net\0";
/// The version of the protocol, which has been 14 since Art-Net II.
pub const VERSION: u16 = 14;
