//! Art-Net 4 (Artistic Licence Holdings, "Specification for the Art-Net 4 Ethernet Communication Protocol").
//!
//! Packets that would change us from outside (`ArtAddress`, `ArtInput`, `ArtIpProg`, firmware and the like) has no decoder here on
//! purpose: such packets are [`Error::NotThis`] and are left alone.

pub mod dmx;
pub mod poll;
pub mod poll_reply;
pub mod sync;
pub mod time_code;
mod transport;
pub mod trigger;

pub use transport::{ArtNet, USUAL};

use crate::{Error, field_of};

/// The UDP port of Art-Net.
pub const PORT: u16 = 6454;
/// The largest port-address: 7 bits of net, 4 of sub-net, 4 of universe.
pub const LAST_PORT_ADDRESS: u16 = 32_767;
/// The identifier that every packet begins with.
pub const ID: [u8; 8] = *b"Art-Net\0";
/// The version of the protocol, which has been 14 since Art-Net II.
pub const VERSION: u16 = 14;

const OP_CODE: std::ops::Range<usize> = 8..10;
const PROT_VER: std::ops::Range<usize> = 10..12;

/// A port-address of Art-Net (Art-Net 4, "Addressing"), as a number or as net, sub-net and universe.
#[must_use]
pub fn port_address(text: &str) -> Option<u16> {
    let parts: Option<Vec<u16>> = text.trim().split(':').map(|part| part.trim().parse().ok()).collect();
    match parts?.as_slice() {
        [number @ ..0x8000] => Some(*number),
        [net @ ..128, sub_net @ ..16, universe @ ..16] => Some(net << 8 | sub_net << 4 | universe),
        _ => None,
    }
}

/// Checks that bytes are a packet of Art-Net, of this code, and have a length at least.
fn check(bytes: &[u8], op_code: u16, least: usize) -> Result<(), Error> {
    let known = &bytes[..bytes.len().min(ID.len())];
    if known != &ID[..known.len()] {
        return Err(Error::NotThis);
    }
    if bytes.len() < OP_CODE.end {
        return Err(Error::Truncated);
    }
    if u16::from_le_bytes(field_of(bytes, OP_CODE)) != op_code {
        return Err(Error::NotThis);
    }
    if bytes.len() < least { Err(Error::Truncated) } else { Ok(()) }
}

/// Checks the version of a packet that has one.
fn check_version(bytes: &[u8]) -> Result<(), Error> {
    if u16::from_be_bytes(field_of(bytes, PROT_VER)) < VERSION { Err(Error::Field("ProtVer")) } else { Ok(()) }
}

/// Writes what every packet begins with.
fn emit_head(bytes: &mut [u8], op_code: u16) {
    bytes[..ID.len()].copy_from_slice(&ID);
    bytes[OP_CODE].copy_from_slice(&op_code.to_le_bytes());
}

/// Writes what every packet but `ArtPollReply` begins with.
fn emit_head_with_version(bytes: &mut [u8], op_code: u16) {
    emit_head(bytes, op_code);
    bytes[PROT_VER].copy_from_slice(&VERSION.to_be_bytes());
}
