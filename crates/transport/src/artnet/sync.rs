//! `ArtSync`: nodes that wait put out together what they have received (Art-Net 4, "ArtSync packet definition").
//!
//! | bytes | field | |
//! |---|---|---|
//! | 0..8 | ID | `Art-Net\0` |
//! | 8..10 | OpCode | 0x5200, low byte first |
//! | 10..12 | ProtVer | 14, high byte first |
//! | 12..14 | Aux1, Aux2 | 0 |

use super::{check, check_version, emit_head_with_version};
use crate::Error;

/// The code of this packet.
pub const OP_SYNC: u16 = 0x5200;
/// The length of the packet.
pub const LENGTH: usize = 14;
/// The time that after the last `ArtSync` a node goes back to putting out at once what comes, in seconds.
pub const LOSS: f64 = 4.0;

/// The packet.
#[must_use]
pub fn emit() -> [u8; LENGTH] {
    let mut bytes = [0; LENGTH];
    emit_head_with_version(&mut bytes, OP_SYNC);
    bytes
}

/// Checks that bytes are the packet.
///
/// # Errors
/// [`Error::NotThis`], [`Error::Truncated`], or [`Error::Field`] for a version before 14.
pub fn parse(bytes: &[u8]) -> Result<(), Error> {
    check(bytes, OP_SYNC, LENGTH)?;
    check_version(bytes)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn is_the_bytes_of_the_table_and_nothing_less() {
        let wanted = [b'A', b'r', b't', b'-', b'N', b'e', b't', 0x00, 0x00, 0x52, 0x00, 0x0e, 0x00, 0x00];
        assert_eq!((emit(), parse(&wanted)), (wanted, Ok(())));
        for length in 0..LENGTH {
            assert_eq!(parse(&wanted[..length]), Err(Error::Truncated), "{length} bytes");
        }
    }
}
