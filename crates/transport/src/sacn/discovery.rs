//! The E1.31 universe discovery packet (ANSI E1.31-2018, table 4-3 and section 8): a source says what it sends.
//!
//! | bytes | field | value |
//! |---|---|---|
//! | 0..38 | root layer | as of the data packet, with vector 0x00000008 |
//! | 38..40 | flags and length, framing | 0x7 and the length from byte 38 on |
//! | 40..44 | vector, framing | 0x00000002 |
//! | 44..108 | source name | UTF-8, ended by a zero |
//! | 108..112 | reserved | 0 |
//! | 112..114 | flags and length, discovery | 0x7 and the length from byte 112 on |
//! | 114..118 | vector, discovery | 0x00000001 |
//! | 118 | page | |
//! | 119 | last page | |
//! | 120.. | universes | two bytes each, ascending, at most 512 |

use super::{VECTOR_ROOT_EXTENDED, check, check_sizes, emit_name, emit_root, flags_and_length, root, u16_at, u32_at};
use crate::{Error, field_of};

/// Universes of a page at the most.
pub const A_PAGE: usize = 512;
/// The length without universes.
const HEADER: usize = 120;

const VECTOR_DISCOVERY: u32 = 0x0000_0002;
const VECTOR_LIST: u32 = 0x0000_0001;

mod field {
    use std::ops::Range;

    pub(super) const SOURCE_NAME: Range<usize> = 44..108;
    pub(super) const LENGTH: Range<usize> = 112..114;
    pub(super) const VECTOR: Range<usize> = 114..118;
    pub(super) const PAGE: usize = 118;
    pub(super) const LAST_PAGE: usize = 119;
}

/// A universe discovery packet by its meaning.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Repr<'a> {
    /// The sender's UUID.
    pub cid: [u8; 16],
    /// The name of the source, at most 63 bytes.
    pub source_name: &'a str,
    /// The page, from 0.
    pub page: u8,
    /// The number of the last page.
    pub last_page: u8,
    /// The universes of the page, as bytes.
    list: &'a [u8],
}

impl<'a> Repr<'a> {
    /// Reads a packet.
    ///
    /// # Errors
    /// [`Error`] where the bytes are not this packet, or a field is out of range.
    pub fn parse(bytes: &'a [u8]) -> Result<Self, Error> {
        check(bytes, VECTOR_ROOT_EXTENDED, VECTOR_DISCOVERY, HEADER)?;
        let length = usize::from(u16_at(bytes, field::LENGTH) & 0x0fff);
        let end = field::LENGTH.start + length;
        if end < HEADER || !(end - HEADER).is_multiple_of(2) || end - HEADER > 2 * A_PAGE {
            return Err(Error::Field("discovery flags and length"));
        }
        if bytes.len() < end {
            return Err(Error::Truncated);
        }
        check_sizes(bytes, end)?;
        if u32_at(bytes, field::VECTOR) != VECTOR_LIST {
            return Err(Error::Field("discovery vector"));
        }
        if bytes[field::PAGE] > bytes[field::LAST_PAGE] {
            return Err(Error::Field("page"));
        }
        Ok(Self {
            cid: field_of(bytes, root::CID),
            source_name: crate::text_of(&bytes[field::SOURCE_NAME]),
            page: bytes[field::PAGE],
            last_page: bytes[field::LAST_PAGE],
            list: &bytes[HEADER..end],
        })
    }

    /// The universes of the page.
    pub fn universes(&self) -> impl Iterator<Item = u16> + use<'a> {
        self.list.as_chunks::<2>().0.iter().map(|two| u16::from_be_bytes(*two))
    }
}

/// The packets that announce some universes, which are ascending: at least one, and one for each 512. More than 256 pages
/// cannot be told, and the rest is left out.
#[must_use]
pub fn pages(cid: [u8; 16], source_name: &str, universes: &[u16]) -> Vec<Vec<u8>> {
    let lists: Vec<&[u16]> =
        if universes.is_empty() { vec![&[]] } else { universes.chunks(A_PAGE).take(256).collect() };
    let last = lists.len() as u8 - 1;
    let page = |(page, list): (usize, &&[u16])| {
        let mut bytes = vec![0; HEADER + 2 * list.len()];
        emit_root(&mut bytes, VECTOR_ROOT_EXTENDED, VECTOR_DISCOVERY, cid);
        emit_name(&mut bytes[field::SOURCE_NAME], source_name);
        let length = flags_and_length(bytes.len() - field::LENGTH.start);
        bytes[field::LENGTH].copy_from_slice(&length.to_be_bytes());
        bytes[field::VECTOR].copy_from_slice(&VECTOR_LIST.to_be_bytes());
        (bytes[field::PAGE], bytes[field::LAST_PAGE]) = (page as u8, last);
        for (place, universe) in bytes[HEADER..].as_chunks_mut::<2>().0.iter_mut().zip(*list) {
            *place = universe.to_be_bytes();
        }
        bytes
    };
    lists.iter().enumerate().map(page).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn emits_the_bytes_of_the_table() {
        let mut wanted = b"\x00\x10\x00\x00ASC-E1.17\0\0\0\x70\x6c\x00\x00\x00\x08".to_vec(); // root: 124 - 16 = 0x6c
        wanted.extend(b"0123456789abcdef");
        wanted.extend([0x70, 0x56, 0x00, 0x00, 0x00, 0x02]); // framing: 124 - 38 = 0x56
        wanted.extend(b"Lantern Quay");
        wanted.extend([0; 52 + 4]);
        wanted.extend([0x70, 0x0c, 0x00, 0x00, 0x00, 0x01, 0x00, 0x00]); // discovery: 124 - 112 = 0x0c, pages
        wanted.extend([0x00, 0x01, 0x1f, 0x40]);
        assert_eq!(pages(*b"0123456789abcdef", "Lantern Quay", &[1, 8000]), [wanted.clone()]);
        for length in 0..wanted.len() {
            assert_eq!(Repr::parse(&wanted[..length]), Err(Error::Truncated), "{length} bytes");
        }
        for (at, name) in [
            (112, "discovery flags and length"),
            (117, "discovery vector"),
            (118, "page"),
            (17, "root flags and length"),
        ] {
            let mut bytes = wanted.clone();
            bytes[at] = 0x7f;
            assert_eq!(Repr::parse(&bytes), Err(Error::Field(name)));
        }
    }

    proptest! {
        #[test]
        fn what_is_announced_is_read_again(count in 0usize..3000, name in "[a-z]{0,63}") {
            let universes: Vec<u16> = (1..=count as u16).collect();
            let packets = pages([3; 16], &name, &universes);
            let mut read = Vec::new();
            for (page, packet) in packets.iter().enumerate() {
                let repr = Repr::parse(packet).expect("a packet");
                prop_assert_eq!((usize::from(repr.page), usize::from(repr.last_page)), (page, packets.len() - 1));
                prop_assert_eq!(repr.source_name, &name);
                read.extend(repr.universes());
            }
            prop_assert_eq!(read, universes);
        }
    }
}
