//! The E1.31 data packet (ANSI E1.31-2018, table 4-1): a root layer, a framing layer and a DMP layer.
//!
//! | bytes | field | value |
//! |---|---|---|
//! | 0..2, 2..4 | preamble, postamble size | 0x0010, 0x0000 |
//! | 4..16 | ACN packet identifier | `ASC-E1.17\0\0\0` |
//! | 16..18 | flags and length, root | 0x7 and the length from byte 16 on |
//! | 18..22 | vector, root | 0x00000004 |
//! | 22..38 | CID | the sender's UUID |
//! | 38..40 | flags and length, framing | 0x7 and the length from byte 38 on |
//! | 40..44 | vector, framing | 0x00000002 |
//! | 44..108 | source name | UTF-8, ended by a zero |
//! | 108 | priority | 0..200 |
//! | 109..111 | synchronisation address | a universe, or 0 |
//! | 111 | sequence number | |
//! | 112 | options | bit 7 preview, bit 6 terminated, bit 5 force synchronisation |
//! | 113..115 | universe | 1..63999 |
//! | 115..117 | flags and length, DMP | 0x7 and the length from byte 115 on |
//! | 117 | vector, DMP | 0x02 |
//! | 118 | address and data type | 0xa1 |
//! | 119..121 | first property address | 0x0000 |
//! | 121..123 | address increment | 0x0001 |
//! | 123..125 | property value count | 1 to 513 |
//! | 125 | start code | 0 for light levels |
//! | 126.. | property values | the slots |

use super::{
    FIRST_UNIVERSE, HIGHEST_PRIORITY, LAST_UNIVERSE, check, check_sizes, emit_name, emit_root, flags_and_length, root,
};
use crate::{Error, SLOTS, field_of};

/// The length of the packet without its slots.
pub const HEADER: usize = field::SLOTS;

const VECTOR_ROOT_DATA: u32 = 0x0000_0004;
const VECTOR_DATA_PACKET: u32 = 0x0000_0002;
const VECTOR_SET_PROPERTY: u8 = 0x02;
const ADDRESS_TYPE: u8 = 0xa1;
const PREVIEW: u8 = 0x80;
const TERMINATED: u8 = 0x40;
const FORCE_SYNC: u8 = 0x20;

mod field {
    use std::ops::Range;

    pub(super) const SOURCE_NAME: Range<usize> = 44..108;
    pub(super) const PRIORITY: usize = 108;
    pub(super) const SYNC_ADDRESS: Range<usize> = 109..111;
    pub(super) const SEQUENCE: usize = 111;
    pub(super) const OPTIONS: usize = 112;
    pub(super) const UNIVERSE: Range<usize> = 113..115;
    pub(super) const DMP_LENGTH: Range<usize> = 115..117;
    pub(super) const DMP_VECTOR: usize = 117;
    pub(super) const ADDRESS_TYPE: usize = 118;
    pub(super) const FIRST_ADDRESS: Range<usize> = 119..121;
    pub(super) const INCREMENT: Range<usize> = 121..123;
    pub(super) const COUNT: Range<usize> = 123..125;
    pub(super) const START_CODE: usize = 125;
    pub(super) const SLOTS: usize = 126;
}

/// A view of bytes as an E1.31 data packet.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Packet<T> {
    buffer: T,
}

impl<T: AsRef<[u8]>> Packet<T> {
    /// A view without a check; the getters panic where the bytes are too few.
    pub const fn new_unchecked(buffer: T) -> Self {
        Self { buffer }
    }

    /// A view of bytes that are long enough and are an E1.31 data packet.
    ///
    /// # Errors
    /// [`Error::Truncated`], or [`Error::NotThis`] for other packets of ACN and for anything else.
    pub fn new_checked(buffer: T) -> Result<Self, Error> {
        let packet = Self::new_unchecked(buffer);
        packet.check_len()?;
        Ok(packet)
    }

    /// Checks that the getters can be used.
    ///
    /// # Errors
    /// As [`Self::new_checked`].
    pub fn check_len(&self) -> Result<(), Error> {
        let bytes = self.buffer.as_ref();
        check(bytes, VECTOR_ROOT_DATA, VECTOR_DATA_PACKET, HEADER)?;
        if bytes.len() < field::START_CODE + usize::from(self.value_count()) {
            return Err(Error::Truncated);
        }
        Ok(())
    }

    fn u16(&self, range: std::ops::Range<usize>) -> u16 {
        u16::from_be_bytes(field_of(self.buffer.as_ref(), range))
    }

    fn byte(&self, at: usize) -> u8 {
        self.buffer.as_ref()[at]
    }

    /// The number of property values: the start code and the slots.
    #[must_use]
    pub fn value_count(&self) -> u16 {
        self.u16(field::COUNT)
    }

    /// The sequence number.
    #[must_use]
    pub fn sequence(&self) -> u8 {
        self.byte(field::SEQUENCE)
    }

    /// The universe.
    #[must_use]
    pub fn universe(&self) -> u16 {
        self.u16(field::UNIVERSE)
    }
}

impl<T: AsRef<[u8]> + AsMut<[u8]>> Packet<T> {
    /// Sets the sequence number.
    pub fn set_sequence(&mut self, sequence: u8) {
        self.buffer.as_mut()[field::SEQUENCE] = sequence;
    }

    /// Sets whether the stream ends.
    pub fn set_terminated(&mut self, terminated: bool) {
        let options = &mut self.buffer.as_mut()[field::OPTIONS];
        *options = if terminated { *options | TERMINATED } else { *options & !TERMINATED };
    }

    /// The slots, to be written.
    pub fn slots_mut(&mut self) -> &mut [u8] {
        let end = field::START_CODE + usize::from(self.value_count());
        &mut self.buffer.as_mut()[field::SLOTS..end]
    }
}

/// An E1.31 data packet by its meaning.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Repr<'a> {
    /// The sender's UUID.
    pub cid: [u8; 16],
    /// The name of the source, at most 63 bytes.
    pub source_name: &'a str,
    /// 0..200; the highest wins.
    pub priority: u8,
    /// The universe on which a synchronisation packet is waited for, or 0.
    pub sync_address: u16,
    /// The sequence number.
    pub sequence: u8,
    /// Not for live output.
    pub preview: bool,
    /// The stream ends.
    pub terminated: bool,
    /// True if receivers go on without synchronisation where it gets lost; else they hold what they have until it comes back.
    pub force_sync: bool,
    /// The universe, 1..63999.
    pub universe: u16,
    /// The start code: 0 for light levels.
    pub start_code: u8,
    /// Up to 512 slots.
    pub slots: &'a [u8],
}

impl<'a> Repr<'a> {
    /// Reads a packet.
    ///
    /// # Errors
    /// [`Error::Field`] for a field that the standard gives one value and that holds another, or that is out of range.
    pub fn parse<T: AsRef<[u8]> + ?Sized>(packet: &Packet<&'a T>) -> Result<Self, Error> {
        let is = |right: bool, name: &'static str| if right { Ok(()) } else { Err(Error::Field(name)) };
        let bytes: &'a [u8] = packet.buffer.as_ref();
        let count = usize::from(packet.value_count());
        let end = field::START_CODE + count;
        is((1..=SLOTS + 1).contains(&count), "property value count")?;
        check_sizes(bytes, end)?;
        let length = flags_and_length(end - field::DMP_LENGTH.start);
        is(packet.u16(field::DMP_LENGTH) == length, "DMP flags and length")?;
        is(packet.byte(field::DMP_VECTOR) == VECTOR_SET_PROPERTY, "DMP vector")?;
        is(packet.byte(field::ADDRESS_TYPE) == ADDRESS_TYPE, "address and data type")?;
        is(packet.u16(field::FIRST_ADDRESS) == 0, "first property address")?;
        is(packet.u16(field::INCREMENT) == 1, "address increment")?;
        is(packet.byte(field::PRIORITY) <= HIGHEST_PRIORITY, "priority")?;
        is((FIRST_UNIVERSE..=LAST_UNIVERSE).contains(&packet.universe()), "universe")?;
        let name = &bytes[field::SOURCE_NAME];
        let name = &name[..name.iter().position(|&b| b == 0).unwrap_or(name.len())];
        let options = packet.byte(field::OPTIONS);
        Ok(Self {
            cid: field_of(bytes, root::CID),
            source_name: std::str::from_utf8(name).map_err(|_| Error::Field("source name"))?,
            priority: packet.byte(field::PRIORITY),
            sync_address: packet.u16(field::SYNC_ADDRESS),
            sequence: packet.sequence(),
            preview: options & PREVIEW != 0,
            terminated: options & TERMINATED != 0,
            force_sync: options & FORCE_SYNC != 0,
            universe: packet.universe(),
            start_code: packet.byte(field::START_CODE),
            slots: &bytes[field::SLOTS..end],
        })
    }

    /// The length of the packet.
    #[must_use]
    pub fn buffer_len(&self) -> usize {
        HEADER + self.slots.len()
    }

    /// Writes the packet into the first [`Self::buffer_len`] bytes of a buffer. A source name that is too long is cut at
    /// a character.
    ///
    /// # Panics
    /// Where the buffer is shorter, or the representation breaks its own ranges.
    pub fn emit<T: AsRef<[u8]> + AsMut<[u8]>>(&self, packet: &mut Packet<T>) {
        assert!((FIRST_UNIVERSE..=LAST_UNIVERSE).contains(&self.universe) && self.slots.len() <= SLOTS);
        assert!(self.priority <= HIGHEST_PRIORITY);
        let end = self.buffer_len();
        let bytes = &mut packet.buffer.as_mut()[..end];
        emit_root(bytes, VECTOR_ROOT_DATA, VECTOR_DATA_PACKET, self.cid);
        emit_name(&mut bytes[field::SOURCE_NAME], self.source_name);
        let length = flags_and_length(end - field::DMP_LENGTH.start);
        bytes[field::DMP_LENGTH].copy_from_slice(&length.to_be_bytes());
        bytes[field::PRIORITY] = self.priority;
        bytes[field::SYNC_ADDRESS].copy_from_slice(&self.sync_address.to_be_bytes());
        bytes[field::SEQUENCE] = self.sequence;
        let bit = |set: bool, bit: u8| if set { bit } else { 0 };
        bytes[field::OPTIONS] =
            bit(self.preview, PREVIEW) | bit(self.terminated, TERMINATED) | bit(self.force_sync, FORCE_SYNC);
        bytes[field::UNIVERSE].copy_from_slice(&self.universe.to_be_bytes());
        bytes[field::DMP_VECTOR] = VECTOR_SET_PROPERTY;
        bytes[field::ADDRESS_TYPE] = ADDRESS_TYPE;
        bytes[field::FIRST_ADDRESS].fill(0);
        bytes[field::INCREMENT].copy_from_slice(&1u16.to_be_bytes());
        bytes[field::COUNT].copy_from_slice(&(self.slots.len() as u16 + 1).to_be_bytes());
        bytes[field::START_CODE] = self.start_code;
        bytes[field::SLOTS..].copy_from_slice(self.slots);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn repr() -> Repr<'static> {
        Repr {
            cid: *b"0123456789abcdef",
            source_name: "Lantern Quay",
            priority: 100,
            sync_address: 0x1f40,
            sequence: 0x9a,
            preview: false,
            terminated: true,
            force_sync: false,
            universe: 0x0102,
            start_code: 0,
            slots: &[0xff, 0x00, 0x7f],
        }
    }

    fn bytes() -> Vec<u8> {
        let mut bytes = vec![0xa5; repr().buffer_len()];
        repr().emit(&mut Packet::new_unchecked(&mut bytes));
        bytes
    }

    #[test]
    fn emits_the_bytes_of_the_table() {
        let mut wanted = vec![
            0x00, 0x10, 0x00, 0x00, // preamble and postamble size
            0x41, 0x53, 0x43, 0x2d, 0x45, 0x31, 0x2e, 0x31, 0x37, 0x00, 0x00, 0x00, // ACN packet identifier
            0x70, 0x71, // root: 129 - 16 = 0x71
            0x00, 0x00, 0x00, 0x04, // VECTOR_ROOT_E131_DATA
        ];
        wanted.extend(b"0123456789abcdef"); // CID
        wanted.extend([0x70, 0x5b, 0x00, 0x00, 0x00, 0x02]); // framing: 129 - 38 = 0x5b, VECTOR_E131_DATA_PACKET
        wanted.extend(b"Lantern Quay"); // source name
        wanted.extend([0; 52]);
        wanted.extend([0x64, 0x1f, 0x40, 0x9a, 0x40, 0x01, 0x02]); // priority, sync, sequence, options, universe
        wanted.extend([0x70, 0x0e, 0x02, 0xa1, 0x00, 0x00, 0x00, 0x01, 0x00, 0x04]); // DMP: 129 - 115 = 0x0e
        wanted.extend([0x00, 0xff, 0x00, 0x7f]); // start code and slots
        assert_eq!(bytes(), wanted);
    }

    #[test]
    fn a_full_universe_is_638_bytes() {
        assert_eq!(Repr { slots: &[0; 512], ..repr() }.buffer_len(), 638);
    }

    #[test]
    fn every_cut_of_a_packet_is_an_error() {
        let bytes = bytes();
        for length in 0..bytes.len() {
            assert_eq!(Packet::new_checked(&bytes[..length]).err(), Some(Error::Truncated), "{length} bytes");
        }
    }

    #[test]
    fn the_header_is_not_taken_on_trust() {
        for (at, error) in [
            (0, Error::Field("preamble size")),
            (5, Error::NotThis),
            (17, Error::Field("root flags and length")),
            (21, Error::NotThis),
            (39, Error::Field("framing flags and length")),
            (108, Error::Field("priority")),
            (113, Error::Field("universe")),
            (117, Error::Field("DMP vector")),
            (118, Error::Field("address and data type")),
            (122, Error::Field("address increment")),
        ] {
            let mut bytes = bytes();
            bytes[at] = 0xff;
            let result = Packet::new_checked(&bytes[..]).and_then(|p| Repr::parse(&p).map(|_| ()));
            assert_eq!(result, Err(error), "byte {at}");
        }
    }

    #[test]
    fn long_names_are_cut_at_a_character() {
        let name = "é".repeat(40);
        let repr = Repr { source_name: &name, ..repr() };
        let mut bytes = vec![0; repr.buffer_len()];
        repr.emit(&mut Packet::new_unchecked(&mut bytes));
        let packet = Packet::new_checked(&bytes[..]).expect("a packet");
        assert_eq!(Repr::parse(&packet).map(|r| r.source_name.chars().count()), Ok(31));
    }

    proptest! {
        #[test]
        fn what_is_emitted_is_parsed_again(
            cid: [u8; 16], name in "[a-zA-Zäöü ]{0,30}", priority in 0u8..=200, sync_address: u16, sequence: u8,
            preview: bool, terminated: bool, force_sync: bool, universe in 1u16..=63_999, start_code: u8,
            slots in proptest::collection::vec(any::<u8>(), 0..=512),
        ) {
            let repr = Repr {
                cid, source_name: &name, priority, sync_address, sequence, preview, terminated, force_sync, universe,
                start_code, slots: &slots,
            };
            let mut bytes = vec![0; repr.buffer_len()];
            repr.emit(&mut Packet::new_unchecked(&mut bytes));
            prop_assert_eq!(Repr::parse(&Packet::new_checked(&bytes[..]).expect("a packet")), Ok(repr));
        }

        #[test]
        fn any_bytes_are_a_frame_or_an_error(mut bytes in proptest::collection::vec(any::<u8>(), 0..700), like in 0u8..3) {
            // Pure noise never gets past the identifiers: lend some of it a good beginning.
            let head: &[u8] = match like {
                0 => b"Art-Net\0\0\x50\0\x0e",
                1 => &self::bytes()[..44],
                _ => &[],
            };
            let shared = head.len().min(bytes.len());
            bytes[..shared].copy_from_slice(&head[..shared]);
            let _ = crate::parse(&bytes);
        }
    }
}
