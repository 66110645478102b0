//! MIDI clock out of a stream of bytes (MIDI 1.0 Detailed Specification: System Real Time and System Common messages).
//!
//! | byte | message | |
//! |---|---|---|
//! | 0xF2 l m | song position | in sixteenths since the beginning, 7 bits each, the low ones first |
//! | 0xF8 | timing clock | 24 to a quarter note; one byte, which may stand within any other message |
//! | 0xFA | start | from the beginning, with the next clock |
//! | 0xFB | continue | from where it is, with the next clock |
//! | 0xFC | stop | |

/// Clocks in a quarter note.
pub const CLOCKS_A_BEAT: f64 = 24.0;
/// The counts of a song position in a quarter note.
pub const POSITIONS_A_BEAT: f64 = 4.0;

/// A message of MIDI that concerns time.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Timing {
    /// A 24th of a beat is over.
    Clock,
    /// It begins with the next clock.
    Start,
    /// It goes on with the next clock.
    Continue,
    /// It stands.
    Stop,
    /// The next clock is at so many sixteenths from the beginning, 0..16383.
    Position(u16),
}

/// Takes a stream apart, byte by byte. Whatever is not about time is passed over.
#[derive(Debug, Clone, Default)]
pub struct Reader {
    /// The number of bytes of a song position that have come, with the first of them.
    position: Option<Option<u8>>,
}

impl Reader {
    /// Takes the next byte.
    pub fn byte(&mut self, byte: u8) -> Option<Timing> {
        match byte {
            0xf8 => Some(Timing::Clock),
            0xfa => Some(Timing::Start),
            0xfb => Some(Timing::Continue),
            0xfc => Some(Timing::Stop),
            // Other real-time messages stand within others as well.
            0xf9 | 0xfd..=0xff => None,
            0xf2 => {
                self.position = Some(None);
                None
            }
            0x80..=0xf7 => {
                self.position = None;
                None
            }
            data => self.data(data),
        }
    }

    fn data(&mut self, data: u8) -> Option<Timing> {
        match self.position.take()? {
            None => {
                self.position = Some(Some(data));
                None
            }
            Some(low) => Some(Timing::Position(u16::from(data) << 7 | u16::from(low))),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn timings(bytes: &[u8]) -> Vec<Timing> {
        let mut reader = Reader::default();
        bytes.iter().filter_map(|byte| reader.byte(*byte)).collect()
    }

    #[test]
    fn what_concerns_time_is_found_between_and_within_other_messages() {
        use Timing::{Clock, Position, Start, Stop};
        // A note, a position with a clock and active sensing within it, a system exclusive message with a start in it.
        let bytes = [0x90, 0x3c, 0x64, 0xf2, 0xf8, 0x05, 0xfe, 0x03, 0xf0, 0x01, 0xfa, 0x02, 0xf7, 0xfc];
        assert_eq!(timings(&bytes), [Clock, Position(3 * 128 + 5), Start, Stop]);
        // One that is broken off is none, and data without a status is nobody's.
        assert_eq!(timings(&[0xf2, 0x05, 0x90, 0x03, 0x04, 0x7f]), []);
    }

    proptest! {
        #[test]
        fn any_bytes_are_taken(bytes in proptest::collection::vec(any::<u8>(), 0..200)) {
            let clocks = bytes.iter().filter(|byte| **byte == 0xf8).count();
            prop_assert_eq!(timings(&bytes).iter().filter(|t| **t == Timing::Clock).count(), clocks);
        }
    }
}
