//! ANSI E1.31-2018, "Lightweight streaming protocol for transport of DMX512 using ACN".

pub mod data;
pub mod discovery;
pub mod sync;
mod transport;

pub use transport::{Sacn, USUAL};

use std::net::{Ipv4Addr, Ipv6Addr};

use crate::{Error, field_of};

/// The UDP port of E1.31 (section 9: the port of SDT, ANSI E1.17).
pub const PORT: u16 = 5568;
/// The first universe (section 6.2.7).
pub const FIRST_UNIVERSE: u16 = 1;
/// The last universe (section 6.2.7).
pub const LAST_UNIVERSE: u16 = 63_999;
/// The universe on whose groups universes are announced (appendix A, `E131_DISCOVERY_UNIVERSE`).
pub const DISCOVERY_UNIVERSE: u16 = 64_214;
/// The number of times that universes are announced, in seconds (appendix A, `E131_UNIVERSE_DISCOVERY_INTERVAL`).
pub const DISCOVERY_INTERVAL: f64 = 10.0;
/// The time that a source may be silent before it is lost, in seconds (appendix A, `E131_NETWORK_DATA_LOSS_TIMEOUT`).
pub const DATA_LOSS: f64 = 2.5;
/// The priority of a source that does not say (section 6.2.3).
pub const USUAL_PRIORITY: u8 = 100;
/// The highest priority (section 6.2.3).
pub const HIGHEST_PRIORITY: u8 = 200;

const IDENTIFIER: [u8; 12] = *b"ASC-E1.17\0\0\0";
/// `VECTOR_ROOT_E131_EXTENDED`: synchronisation and discovery.
const VECTOR_ROOT_EXTENDED: u32 = 0x0000_0008;

mod root {
    use std::ops::Range;

    pub(super) const PREAMBLE: Range<usize> = 0..2;
    pub(super) const POSTAMBLE: Range<usize> = 2..4;
    pub(super) const IDENTIFIER: Range<usize> = 4..16;
    pub(super) const LENGTH: Range<usize> = 16..18;
    pub(super) const VECTOR: Range<usize> = 18..22;
    pub(super) const CID: Range<usize> = 22..38;
    pub(super) const FRAMING_LENGTH: Range<usize> = 38..40;
    pub(super) const FRAMING_VECTOR: Range<usize> = 40..44;
}

/// The IPv4 multicast group of a universe (section 9.3.1, table 9-10).
#[must_use]
pub fn multicast(universe: u16) -> Ipv4Addr {
    let [high, low] = universe.to_be_bytes();
    Ipv4Addr::new(239, 255, high, low)
}

/// The IPv6 multicast group of a universe (section 9.3.2, table 9-12).
#[must_use]
pub fn multicast_v6(universe: u16) -> Ipv6Addr {
    Ipv6Addr::new(0xff18, 0, 0, 0, 0, 0, 0x8300, universe)
}

/// The high nibble 0x7 and the length of the rest of the packet (E1.31, 4.1).
fn flags_and_length(length: usize) -> u16 {
    0x7000 | length as u16
}

fn u16_at(bytes: &[u8], range: std::ops::Range<usize>) -> u16 {
    u16::from_be_bytes(field_of(bytes, range))
}

fn u32_at(bytes: &[u8], range: std::ops::Range<usize>) -> u32 {
    u32::from_be_bytes(field_of(bytes, range))
}

/// Checks the root layer of bytes, and that they are of two vectors and have a length at least.
fn check(bytes: &[u8], root: u32, framing: u32, least: usize) -> Result<(), Error> {
    let given = bytes.get(root::IDENTIFIER.start..).unwrap_or_default();
    let known = &given[..given.len().min(IDENTIFIER.len())];
    if known != &IDENTIFIER[..known.len()] {
        return Err(Error::NotThis);
    }
    if bytes.len() < root::FRAMING_VECTOR.end {
        return Err(Error::Truncated);
    }
    if (u32_at(bytes, root::VECTOR), u32_at(bytes, root::FRAMING_VECTOR)) != (root, framing) {
        return Err(Error::NotThis);
    }
    if bytes.len() < least { Err(Error::Truncated) } else { Ok(()) }
}

/// Checks the sizes that a packet gives itself, which ends at `end`.
fn check_sizes(bytes: &[u8], end: usize) -> Result<(), Error> {
    let is = |right: bool, name: &'static str| if right { Ok(()) } else { Err(Error::Field(name)) };
    is(u16_at(bytes, root::PREAMBLE) == 0x0010, "preamble size")?;
    is(u16_at(bytes, root::POSTAMBLE) == 0, "postamble size")?;
    let fits = |range: std::ops::Range<usize>| {
        let start = range.start;
        u16_at(bytes, range) == flags_and_length(end - start)
    };
    is(fits(root::LENGTH), "root flags and length")?;
    is(fits(root::FRAMING_LENGTH), "framing flags and length")
}

/// Writes the root layer and the beginning of the framing layer of a packet that fills the buffer.
fn emit_root(bytes: &mut [u8], root: u32, framing: u32, cid: [u8; 16]) {
    let end = bytes.len();
    bytes[root::PREAMBLE].copy_from_slice(&0x0010u16.to_be_bytes());
    bytes[root::POSTAMBLE].fill(0);
    bytes[root::IDENTIFIER].copy_from_slice(&IDENTIFIER);
    bytes[root::LENGTH].copy_from_slice(&flags_and_length(end - root::LENGTH.start).to_be_bytes());
    bytes[root::VECTOR].copy_from_slice(&root.to_be_bytes());
    bytes[root::CID].copy_from_slice(&cid);
    bytes[root::FRAMING_LENGTH].copy_from_slice(&flags_and_length(end - root::FRAMING_LENGTH.start).to_be_bytes());
    bytes[root::FRAMING_VECTOR].copy_from_slice(&framing.to_be_bytes());
}

/// Writes the name of a source into its field, cut at a character, with zeros behind it.
fn emit_name(field: &mut [u8], name: &str) {
    let name = &name[..name.floor_char_boundary(field.len() - 1)];
    field.fill(0);
    field[..name.len()].copy_from_slice(name.as_bytes());
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn groups_are_those_of_the_tables() {
        assert_eq!(multicast(0x1234).to_string(), "239.255.18.52");
        assert_eq!(multicast_v6(0x1234).to_string(), "ff18::8300:1234");
        assert_eq!(multicast(DISCOVERY_UNIVERSE).to_string(), "239.255.250.214");
    }
}
