//! `ArtTrigger`: sets something off in nodes and controllers (Art-Net 4, "ArtTrigger packet definition").
//!
//! | bytes | field | |
//! |---|---|---|
//! | 0..8 | ID | `Art-Net\0` |
//! | 8..10 | OpCode | 0x9900, low byte first |
//! | 10..12 | ProtVer | 14, high byte first |
//! | 12..14 | filler | 0 |
//! | 14..16 | Oem | high byte first; 0xffff for keys that everybody knows |
//! | 16 | Key | 0 ASCII, 1 macro, 2 soft key, 3 show |
//! | 17 | SubKey | |
//! | 18..530 | Data | |

use serde::{Deserialize, Serialize};

use super::{check, check_version, emit_head_with_version};
use crate::{Error, field_of};

/// The code of this packet.
pub const OP_TRIGGER: u16 = 0x9900;
/// The length of the packet.
pub const LENGTH: usize = 530;
/// The length without data, which some senders leave out.
const HEADER: usize = 18;
/// The code of keys that everybody knows.
const OEM_GENERAL: u16 = 0xffff;

mod field {
    use std::ops::Range;

    pub(super) const OEM: Range<usize> = 14..16;
    pub(super) const KEY: usize = 16;
    pub(super) const SUB_KEY: usize = 17;
}

/// A trigger.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub enum Repr {
    /// A character, as of a keyboard.
    Ascii(u8),
    /// A macro by its number.
    Macro(u8),
    /// A soft key by its number.
    SoftKey(u8),
    /// A show by its number.
    Show(u8),
}

impl Repr {
    /// Reads a packet. Keys of one product only are [`Error::NotThis`].
    ///
    /// # Errors
    /// [`Error::NotThis`], [`Error::Truncated`], or [`Error::Field`] for a version before 14 or a key that is not defined.
    pub fn parse(bytes: &[u8]) -> Result<Self, Error> {
        check(bytes, OP_TRIGGER, HEADER)?;
        check_version(bytes)?;
        if u16::from_be_bytes(field_of(bytes, field::OEM)) != OEM_GENERAL {
            return Err(Error::NotThis);
        }
        let which = bytes[field::SUB_KEY];
        match bytes[field::KEY] {
            0 => Ok(Self::Ascii(which)),
            1 => Ok(Self::Macro(which)),
            2 => Ok(Self::SoftKey(which)),
            3 => Ok(Self::Show(which)),
            _ => Err(Error::Field("Key")),
        }
    }

    /// The packet.
    #[must_use]
    pub fn emit(self) -> [u8; LENGTH] {
        let mut bytes = [0; LENGTH];
        emit_head_with_version(&mut bytes, OP_TRIGGER);
        bytes[field::OEM].copy_from_slice(&OEM_GENERAL.to_be_bytes());
        let (key, which) = match self {
            Self::Ascii(which) => (0, which),
            Self::Macro(which) => (1, which),
            Self::SoftKey(which) => (2, which),
            Self::Show(which) => (3, which),
        };
        (bytes[field::KEY], bytes[field::SUB_KEY]) = (key, which);
        bytes
    }
}

/// As one writes it: `ascii 65`, `macro 3`, `soft-key 2`, `show 1`.
impl std::str::FromStr for Repr {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let odd =
            || format!("\"{text}\" sets nothing off: write ascii, macro, soft-key or show, and a number from 0 to 255");
        let (kind, number) = text.trim().split_once(' ').ok_or_else(odd)?;
        let which = number.trim().parse().map_err(|_| odd())?;
        match kind {
            "ascii" => Ok(Self::Ascii(which)),
            "macro" => Ok(Self::Macro(which)),
            "soft-key" => Ok(Self::SoftKey(which)),
            "show" => Ok(Self::Show(which)),
            _ => Err(odd()),
        }
    }
}

impl std::fmt::Display for Repr {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Ascii(which) => write!(f, "ascii {which}"),
            Self::Macro(which) => write!(f, "macro {which}"),
            Self::SoftKey(which) => write!(f, "soft-key {which}"),
            Self::Show(which) => write!(f, "show {which}"),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn emits_the_bytes_of_the_table() {
        let bytes = Repr::Macro(7).emit();
        let head = [
            b'A', b'r', b't', b'-', b'N', b'e', b't', 0x00, 0x00, 0x99, 0x00, 0x0e, // ID, OpCode, ProtVer
            0x00, 0x00, 0xff, 0xff, 0x01, 0x07, // filler, Oem, Key, SubKey
        ];
        assert_eq!((&bytes[..18], &bytes[18..]), (&head[..], &[0; 512][..]));
        for length in 0..HEADER {
            assert_eq!(Repr::parse(&bytes[..length]), Err(Error::Truncated), "{length} bytes");
        }
        let mut theirs = bytes;
        theirs[14] = 0x12;
        assert_eq!(Repr::parse(&theirs), Err(Error::NotThis));
    }

    proptest! {
        #[test]
        fn what_is_emitted_is_parsed_again(which: u8, kind in 0usize..4) {
            let repr = [Repr::Ascii(which), Repr::Macro(which), Repr::SoftKey(which), Repr::Show(which)][kind];
            prop_assert_eq!(Repr::parse(&repr.emit()), Ok(repr));
            prop_assert_eq!(repr.to_string().parse(), Ok(repr));
        }
    }
}
