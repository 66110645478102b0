//! The E1.31 synchronisation packet (ANSI E1.31-2018, table 4-2 and section 6.3): receivers put out what waits for it.
//!
//! | bytes | field | value |
//! |---|---|---|
//! | 0..38 | root layer | as of the data packet, with vector 0x00000008 |
//! | 38..40 | flags and length, framing | 0x7 and 11 |
//! | 40..44 | vector, framing | 0x00000001 |
//! | 44 | sequence number | |
//! | 45..47 | synchronisation address | a universe, 1..63999 |
//! | 47..49 | reserved | 0 |

use super::{FIRST_UNIVERSE, LAST_UNIVERSE, VECTOR_ROOT_EXTENDED, check, check_sizes, emit_root, root, u16_at};
use crate::{Error, field_of};

/// The length of the packet.
pub const LENGTH: usize = 49;

const VECTOR_SYNC: u32 = 0x0000_0001;
const SEQUENCE: usize = 44;
const ADDRESS: std::ops::Range<usize> = 45..47;

/// A synchronisation packet by its meaning.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Repr {
    /// The sender's UUID.
    pub cid: [u8; 16],
    /// The sequence number.
    pub sequence: u8,
    /// The universe for which data waits, 1..63999.
    pub address: u16,
}

impl Repr {
    /// Reads a packet.
    ///
    /// # Errors
    /// [`Error`] where the bytes are not this packet, or a field is out of range.
    pub fn parse(bytes: &[u8]) -> Result<Self, Error> {
        check(bytes, VECTOR_ROOT_EXTENDED, VECTOR_SYNC, LENGTH)?;
        check_sizes(bytes, LENGTH)?;
        let address = u16_at(bytes, ADDRESS);
        if !(FIRST_UNIVERSE..=LAST_UNIVERSE).contains(&address) {
            return Err(Error::Field("synchronisation address"));
        }
        Ok(Self { cid: field_of(bytes, root::CID), sequence: bytes[SEQUENCE], address })
    }

    /// The packet.
    #[must_use]
    pub fn emit(&self) -> [u8; LENGTH] {
        let mut bytes = [0; LENGTH];
        emit_root(&mut bytes, VECTOR_ROOT_EXTENDED, VECTOR_SYNC, self.cid);
        bytes[SEQUENCE] = self.sequence;
        bytes[ADDRESS].copy_from_slice(&self.address.to_be_bytes());
        bytes
    }
}

/// Renews the sequence number of a packet.
pub fn set_sequence(bytes: &mut [u8], sequence: u8) {
    bytes[SEQUENCE] = sequence;
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn emits_the_bytes_of_the_table() {
        let repr = Repr { cid: *b"0123456789abcdef", sequence: 0x9a, address: 0x1f40 };
        let mut wanted = b"\x00\x10\x00\x00ASC-E1.17\0\0\0\x70\x21\x00\x00\x00\x08".to_vec(); // root: 49 - 16 = 0x21
        wanted.extend(b"0123456789abcdef");
        wanted.extend([0x70, 0x0b, 0x00, 0x00, 0x00, 0x01]); // framing: 49 - 38 = 0x0b
        wanted.extend([0x9a, 0x1f, 0x40, 0x00, 0x00]);
        assert_eq!(repr.emit()[..], wanted);
        for length in 0..LENGTH {
            assert_eq!(Repr::parse(&wanted[..length]), Err(Error::Truncated), "{length} bytes");
        }
        for (at, name) in [
            (0, "preamble size"),
            (16, "root flags and length"),
            (39, "framing flags and length"),
            (45, "synchronisation address"),
        ] {
            let mut bytes = wanted.clone();
            bytes[at] = 0xff;
            assert_eq!(Repr::parse(&bytes), Err(Error::Field(name)));
        }
    }

    proptest! {
        #[test]
        fn what_is_emitted_is_parsed_again(cid: [u8; 16], sequence: u8, address in 1u16..=63_999) {
            let repr = Repr { cid, sequence, address };
            let mut bytes = Repr { sequence: 0, ..repr }.emit();
            set_sequence(&mut bytes, sequence);
            prop_assert_eq!(Repr::parse(&bytes), Ok(repr));
        }
    }
}
