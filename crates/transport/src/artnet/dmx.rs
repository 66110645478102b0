//! `ArtDmx`: a frame of one universe (Art-Net 4, "ArtDmx packet definition").
//!
//! | bytes | field | |
//! |---|---|---|
//! | 0..8 | ID | `Art-Net\0` |
//! | 8..10 | OpCode | 0x5000, low byte first |
//! | 10..12 | ProtVer | 14, high byte first |
//! | 12 | Sequence | 1..255, or 0 for none |
//! | 13 | Physical | the input port it came from |
//! | 14 | SubUni | the low byte of the port-address |
//! | 15 | Net | its high 7 bits |
//! | 16..18 | Length | 2..512, even, high byte first |
//! | 18.. | Data | the slots |

use super::{LAST_PORT_ADDRESS, check, check_version, emit_head_with_version};
use crate::{Error, SLOTS, field_of};

/// The code of this packet.
pub const OP_DMX: u16 = 0x5000;
/// The length of the packet without its data.
pub const HEADER: usize = field::DATA;

mod field {
    use std::ops::Range;

    pub(super) const SEQUENCE: usize = 12;
    pub(super) const PHYSICAL: usize = 13;
    pub(super) const SUB_UNI: usize = 14;
    pub(super) const NET: usize = 15;
    pub(super) const LENGTH: Range<usize> = 16..18;
    pub(super) const DATA: usize = 18;
}

/// A view of bytes as an `ArtDmx` packet.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Packet<T> {
    buffer: T,
}

impl<T: AsRef<[u8]>> Packet<T> {
    /// A view without a check; the getters panic where the bytes are too few.
    pub const fn new_unchecked(buffer: T) -> Self {
        Self { buffer }
    }

    /// A view of bytes that are long enough and are an `ArtDmx` packet.
    ///
    /// # Errors
    /// [`Error::Truncated`] or [`Error::NotThis`].
    pub fn new_checked(buffer: T) -> Result<Self, Error> {
        let packet = Self::new_unchecked(buffer);
        packet.check_len()?;
        Ok(packet)
    }

    /// Checks that the getters can be used.
    ///
    /// # Errors
    /// [`Error::NotThis`] for bytes that begin otherwise, [`Error::Truncated`] for too few.
    pub fn check_len(&self) -> Result<(), Error> {
        let bytes = self.buffer.as_ref();
        check(bytes, OP_DMX, HEADER)?;
        if bytes.len() < HEADER + usize::from(self.length()) {
            return Err(Error::Truncated);
        }
        Ok(())
    }

    /// The sequence number.
    #[must_use]
    pub fn sequence(&self) -> u8 {
        self.buffer.as_ref()[field::SEQUENCE]
    }

    /// The input port.
    #[must_use]
    pub fn physical(&self) -> u8 {
        self.buffer.as_ref()[field::PHYSICAL]
    }

    /// The port-address, with the bit above it that has to be 0.
    #[must_use]
    pub fn port_address(&self) -> u16 {
        let bytes = self.buffer.as_ref();
        u16::from_be_bytes([bytes[field::NET], bytes[field::SUB_UNI]])
    }

    /// The number of slots, as it is written.
    #[must_use]
    pub fn length(&self) -> u16 {
        u16::from_be_bytes(field_of(self.buffer.as_ref(), field::LENGTH))
    }

    /// The slots.
    #[must_use]
    pub fn data(&self) -> &[u8] {
        &self.buffer.as_ref()[field::DATA..field::DATA + usize::from(self.length())]
    }
}

impl<T: AsRef<[u8]> + AsMut<[u8]>> Packet<T> {
    /// Sets the sequence number.
    pub fn set_sequence(&mut self, sequence: u8) {
        self.buffer.as_mut()[field::SEQUENCE] = sequence;
    }

    /// The slots, to be written.
    pub fn data_mut(&mut self) -> &mut [u8] {
        let end = field::DATA + usize::from(self.length());
        &mut self.buffer.as_mut()[field::DATA..end]
    }
}

/// An `ArtDmx` packet by its meaning.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Repr<'a> {
    /// 1..255, or 0 where the source does not count.
    pub sequence: u8,
    /// The input port it came from; for information.
    pub physical: u8,
    /// The universe, 0..32767.
    pub port_address: u16,
    /// 1..512 slots; an odd number is sent with a zero behind it.
    pub data: &'a [u8],
}

impl<'a> Repr<'a> {
    /// Reads a packet. Odd lengths are taken as they come, since the standard asks only the sender for even ones.
    ///
    /// # Errors
    /// [`Error::Field`] for a version before 14, a port-address over 32767 or a length outside 1..512.
    pub fn parse<T: AsRef<[u8]> + ?Sized>(packet: &Packet<&'a T>) -> Result<Self, Error> {
        check_version(packet.buffer.as_ref())?;
        if packet.port_address() > LAST_PORT_ADDRESS {
            return Err(Error::Field("Net"));
        }
        let length = usize::from(packet.length());
        if !(1..=SLOTS).contains(&length) {
            return Err(Error::Field("Length"));
        }
        let data = &packet.buffer.as_ref()[field::DATA..field::DATA + length];
        Ok(Self { sequence: packet.sequence(), physical: packet.physical(), port_address: packet.port_address(), data })
    }

    /// The length of the packet.
    #[must_use]
    pub fn buffer_len(&self) -> usize {
        HEADER + self.data.len().next_multiple_of(2)
    }

    /// Writes the packet into the first [`Self::buffer_len`] bytes of a buffer.
    ///
    /// # Panics
    /// Where the buffer is shorter, or the representation breaks its own ranges.
    pub fn emit<T: AsRef<[u8]> + AsMut<[u8]>>(&self, packet: &mut Packet<T>) {
        assert!(self.port_address <= LAST_PORT_ADDRESS && (1..=SLOTS).contains(&self.data.len()));
        let length = self.data.len().next_multiple_of(2);
        let bytes = &mut packet.buffer.as_mut()[..HEADER + length];
        emit_head_with_version(bytes, OP_DMX);
        bytes[field::SEQUENCE] = self.sequence;
        bytes[field::PHYSICAL] = self.physical;
        let [net, sub_uni] = self.port_address.to_be_bytes();
        bytes[field::SUB_UNI] = sub_uni;
        bytes[field::NET] = net;
        bytes[field::LENGTH].copy_from_slice(&(length as u16).to_be_bytes());
        bytes[field::DATA + self.data.len()..].fill(0);
        bytes[field::DATA..field::DATA + self.data.len()].copy_from_slice(self.data);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Net 1, sub-net 2, universe 3, four slots: field by field as the standard's table has them.
    const BYTES: [u8; 22] = [
        b'A', b'r', b't', b'-', b'N', b'e', b't', 0x00, // ID
        0x00, 0x50, // OpCode, low byte first
        0x00, 0x0e, // ProtVer
        0x2a, // Sequence
        0x00, // Physical
        0x23, // SubUni
        0x01, // Net
        0x00, 0x04, // Length
        0xff, 0x80, 0x01, 0x00, // Data
    ];

    fn repr() -> Repr<'static> {
        Repr { sequence: 0x2a, physical: 0, port_address: 0x0123, data: &[0xff, 0x80, 0x01, 0x00] }
    }

    #[test]
    fn emits_the_bytes_of_the_table() {
        let mut bytes = [0xa5; 22];
        repr().emit(&mut Packet::new_unchecked(&mut bytes));
        assert_eq!(bytes, BYTES);
    }

    #[test]
    fn parses_the_bytes_of_the_table() {
        let packet = Packet::new_checked(&BYTES[..]).expect("a packet");
        assert_eq!(Repr::parse(&packet), Ok(repr()));
    }

    #[test]
    fn an_odd_number_of_slots_is_sent_as_an_even_one() {
        let repr = Repr { data: &[1, 2, 3], ..repr() };
        let mut bytes = vec![0xa5; repr.buffer_len()];
        repr.emit(&mut Packet::new_unchecked(&mut bytes));
        assert_eq!(bytes[16..], [0, 4, 1, 2, 3, 0]);
    }

    #[test]
    fn every_cut_of_a_packet_is_an_error() {
        for length in 0..BYTES.len() {
            assert_eq!(Packet::new_checked(&BYTES[..length]).err(), Some(Error::Truncated), "{length} bytes");
        }
    }

    #[test]
    fn wrong_fields_are_named() {
        let with = |at: usize, value: u8| {
            let mut bytes = BYTES;
            bytes[at] = value;
            Packet::new_checked(&bytes[..]).and_then(|p| Repr::parse(&p).map(|_| ()))
        };
        assert_eq!(with(0, b'B'), Err(Error::NotThis));
        assert_eq!(with(9, 0x20), Err(Error::NotThis));
        assert_eq!(with(11, 13), Err(Error::Field("ProtVer")));
        assert_eq!(with(15, 0x80), Err(Error::Field("Net")));
        assert_eq!(with(17, 0), Err(Error::Field("Length")));
        assert_eq!(with(16, 2), Err(Error::Truncated));
    }

    proptest! {
        #[test]
        fn what_is_emitted_is_parsed_again(
            sequence: u8, physical: u8, port_address in 0..=LAST_PORT_ADDRESS,
            data in proptest::collection::vec(any::<u8>(), 1..=256).prop_map(|half| [half.clone(), half].concat()),
        ) {
            let repr = Repr { sequence, physical, port_address, data: &data };
            let mut bytes = vec![0; repr.buffer_len()];
            repr.emit(&mut Packet::new_unchecked(&mut bytes));
            prop_assert_eq!(Repr::parse(&Packet::new_checked(&bytes[..]).expect("a packet")), Ok(repr));
        }
    }
}
