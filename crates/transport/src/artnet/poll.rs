//! `ArtPoll`: asks who is there (Art-Net 4, "ArtPoll packet definition").
//!
//! | bytes | field | |
//! |---|---|---|
//! | 0..8 | ID | `Art-Net\0` |
//! | 8..10 | OpCode | 0x2000, low byte first |
//! | 10..12 | ProtVer | 14, high byte first |
//! | 12 | Flags | bit 1: reply whenever something changes; bit 5: only nodes within the range below reply |
//! | 13 | DiagPriority | |
//! | 14..16 | TargetPortAddressTop | high byte first |
//! | 16..18 | TargetPortAddressBottom | high byte first |
//! | 18..20 | EstaMan | high byte first |
//! | 20..22 | Oem | high byte first |
//!
//! Controllers of before Art-Net 4 send the first 14 bytes only.

use super::{check, check_version, emit_head_with_version};
use crate::{Error, field_of};

/// The code of this packet.
pub const OP_POLL: u16 = 0x2000;
/// The length of the packet.
pub const LENGTH: usize = 22;
/// The length before Art-Net 4.
const OLD_LENGTH: usize = 14;

const ON_CHANGE: u8 = 0x02;
const TARGETED: u8 = 0x20;

mod field {
    use std::ops::Range;

    pub(super) const FLAGS: usize = 12;
    pub(super) const DIAG_PRIORITY: usize = 13;
    pub(super) const TOP: Range<usize> = 14..16;
    pub(super) const BOTTOM: Range<usize> = 16..18;
    pub(super) const ESTA_MAN: Range<usize> = 18..20;
    pub(super) const OEM: Range<usize> = 20..22;
}

/// An `ArtPoll` packet by its meaning.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Repr {
    /// True if replies are wanted whenever something changes.
    pub on_change: bool,
    /// The lowest and the highest port-address whose nodes are to reply; all without it.
    pub range: Option<(u16, u16)>,
}

impl Repr {
    /// Reads a packet.
    ///
    /// # Errors
    /// [`Error::NotThis`], [`Error::Truncated`], or [`Error::Field`] for a version before 14.
    pub fn parse(bytes: &[u8]) -> Result<Self, Error> {
        check(bytes, OP_POLL, OLD_LENGTH)?;
        check_version(bytes)?;
        let flags = bytes[field::FLAGS];
        let targeted = flags & TARGETED != 0 && bytes.len() >= field::BOTTOM.end;
        let range = targeted.then(|| {
            let number = |range| u16::from_be_bytes(field_of(bytes, range));
            (number(field::BOTTOM), number(field::TOP))
        });
        Ok(Self { on_change: flags & ON_CHANGE != 0, range })
    }

    /// The packet.
    #[must_use]
    pub fn emit(&self) -> [u8; LENGTH] {
        let mut bytes = [0; LENGTH];
        emit_head_with_version(&mut bytes, OP_POLL);
        bytes[field::FLAGS] = if self.on_change { ON_CHANGE } else { 0 };
        bytes[field::DIAG_PRIORITY] = 0;
        if let Some((bottom, top)) = self.range {
            bytes[field::FLAGS] |= TARGETED;
            bytes[field::TOP].copy_from_slice(&top.to_be_bytes());
            bytes[field::BOTTOM].copy_from_slice(&bottom.to_be_bytes());
        }
        // Neither a manufacturer's code nor a product's was given to this program.
        bytes[field::ESTA_MAN].fill(0);
        bytes[field::OEM].copy_from_slice(&super::poll_reply::OEM_UNKNOWN.to_be_bytes());
        bytes
    }

    /// True if a node with such a port-address is to reply.
    #[must_use]
    pub fn asks(&self, port_address: u16) -> bool {
        self.range.is_none_or(|(bottom, top)| (bottom..=top).contains(&port_address))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn emits_the_bytes_of_the_table() {
        let repr = Repr { on_change: true, range: Some((0x0102, 0x0304)) };
        let wanted = [
            b'A', b'r', b't', b'-', b'N', b'e', b't', 0x00, 0x00, 0x20, 0x00, 0x0e, // ID, OpCode, ProtVer
            0x22, 0x00, // Flags, DiagPriority
            0x03, 0x04, 0x01, 0x02, // TargetPortAddressTop, -Bottom
            0x00, 0x00, 0x00, 0xff, // EstaMan, Oem
        ];
        assert_eq!(repr.emit(), wanted);
        assert!(repr.asks(0x0200) && !repr.asks(0x0305));
    }

    #[test]
    fn every_cut_is_an_older_poll_or_an_error() {
        let bytes = Repr { on_change: true, range: None }.emit();
        for length in 0..LENGTH {
            let wanted =
                if length < OLD_LENGTH { Err(Error::Truncated) } else { Ok(Repr { on_change: true, range: None }) };
            assert_eq!(Repr::parse(&bytes[..length]), wanted, "{length} bytes");
        }
    }

    proptest! {
        #[test]
        fn what_is_emitted_is_parsed_again(on_change: bool, range: Option<(u16, u16)>) {
            let repr = Repr { on_change, range };
            prop_assert_eq!(Repr::parse(&repr.emit()), Ok(repr));
        }
    }
}
