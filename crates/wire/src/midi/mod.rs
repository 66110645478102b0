//! MIDI out of a stream of bytes and into one (MIDI 1.0 Detailed Specification 4.2).
//!
//! | bytes | message | values |
//! |---|---|---|
//! | 8n kk vv | note off | note, velocity |
//! | 9n kk vv | note on; velocity 0 is a note off | note, velocity |
//! | An kk vv | key pressure | note, pressure |
//! | Bn cc vv | control change | controller, value |
//! | Cn pp | program change | program |
//! | Dn vv | channel pressure | pressure |
//! | En ll mm | pitch bend | 14 bits, the low ones first; 8192 is the middle |
//! | F0 .. F7 | system exclusive | passed over, but for the full frame of time code |
//! | F1 0nnndddd | time code, a quarter frame | see [`time_code`] |
//! | F2 ll mm | song position | in sixteenths since the beginning, 14 bits |
//! | F8 | timing clock | 24 to a quarter note; one byte, which may stand within any other message |
//! | FA FB FC | start, continue, stop | |
//!
//! A status byte may be left out where it is that of the message before (running status). System common messages end it; system real
//! time ones do not.

pub mod time_code;

/// Clocks in a quarter note.
pub const CLOCKS_A_BEAT: f64 = 24.0;
/// The counts of a song position in a quarter note.
pub const POSITIONS_A_BEAT: f64 = 4.0;
/// The middle of the pitch bend.
pub const NO_BEND: u16 = 8192;
/// The bytes of a system exclusive message that are kept: those of a full frame of time code.
const KEPT: usize = 9;

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

/// A message of a channel.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Voice {
    /// A note begins: note and velocity, 1..127.
    NoteOn(u8, u8),
    /// A note ends: note and velocity.
    NoteOff(u8, u8),
    /// The pressure of a key: note and pressure.
    KeyPressure(u8, u8),
    /// A controller has another value: number and value.
    Control(u8, u8),
    /// A program is called.
    Program(u8),
    /// The pressure of the channel.
    Pressure(u8),
    /// The pitch is bent, 0..16383.
    Bend(u16),
}

/// A message.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Message {
    /// It concerns time.
    Timing(Timing),
    /// It is of a channel, 1..16.
    Channel(u8, Voice),
    /// A quarter of a frame of time code, as it comes: piece and nibble.
    QuarterFrame(u8),
    /// A whole frame of time code: hours with their kind, minutes, seconds, frames.
    FullFrame([u8; 4]),
}

/// Takes a stream apart, byte by byte.
#[derive(Debug, Clone, Default)]
pub struct Reader {
    status: Option<u8>,
    first: Option<u8>,
    exclusive: Option<(usize, [u8; KEPT])>,
    /// Data bytes that belonged to nothing, and messages that were broken off.
    pub malformed: u64,
}

impl Reader {
    /// Takes the next byte.
    pub fn byte(&mut self, byte: u8) -> Option<Message> {
        match byte {
            0xf8 => Some(Message::Timing(Timing::Clock)),
            0xfa => Some(Message::Timing(Timing::Start)),
            0xfb => Some(Message::Timing(Timing::Continue)),
            0xfc => Some(Message::Timing(Timing::Stop)),
            // Other real-time messages stand within others as well.
            0xf9 | 0xfd..=0xff => None,
            0x80..=0xf7 => self.begin(byte),
            data => self.data(data),
        }
    }

    fn begin(&mut self, status: u8) -> Option<Message> {
        let exclusive = self.exclusive.take();
        self.malformed += u64::from(self.first.take().is_some());
        match status {
            0xf0 => {
                self.exclusive = Some((0, [0; KEPT]));
                self.status = None;
                None
            }
            0xf7 => exclusive.and_then(|(count, bytes)| full_frame(&bytes[..count.min(KEPT)], count)),
            0xf1..=0xf3 => {
                self.status = Some(status);
                None
            }
            0xf4..=0xf6 => {
                self.status = None;
                None
            }
            channel => {
                self.status = Some(channel);
                None
            }
        }
    }

    fn data(&mut self, data: u8) -> Option<Message> {
        if let Some((count, bytes)) = &mut self.exclusive {
            if let Some(place) = bytes.get_mut(*count) {
                *place = data;
            }
            *count = count.saturating_add(1);
            return None;
        }
        let Some(status) = self.status else {
            self.malformed += 1;
            return None;
        };
        let two = matches!(status, 0x80..=0xbf | 0xe0..=0xef | 0xf2);
        if two && self.first.is_none() {
            self.first = Some(data);
            return None;
        }
        let first = self.first.take();
        if status >= 0xf0 {
            self.status = None;
        }
        message(status, first.unwrap_or(data), data)
    }
}

/// The message of a status and its data; of a message with one byte of data both are that.
fn message(status: u8, first: u8, last: u8) -> Option<Message> {
    let channel = (status & 0x0f) + 1;
    let fourteen = u16::from(last) << 7 | u16::from(first);
    let voice = match status & 0xf0 {
        0x80 => Voice::NoteOff(first, last),
        0x90 if last == 0 => Voice::NoteOff(first, 0),
        0x90 => Voice::NoteOn(first, last),
        0xa0 => Voice::KeyPressure(first, last),
        0xb0 => Voice::Control(first, last),
        0xc0 => Voice::Program(last),
        0xd0 => Voice::Pressure(last),
        0xe0 => Voice::Bend(fourteen),
        _ => {
            return match status {
                0xf1 => Some(Message::QuarterFrame(last)),
                0xf2 => Some(Message::Timing(Timing::Position(fourteen))),
                _ => None,
            };
        }
    };
    Some(Message::Channel(channel, voice))
}

/// The full frame of MIDI time code: F0 7F id 01 01 hh mm ss ff F7.
fn full_frame(bytes: &[u8], count: usize) -> Option<Message> {
    match bytes {
        [0x7f, _, 0x01, 0x01, hours, minutes, seconds, frames] if count == 8 => {
            Some(Message::FullFrame([*hours, *minutes, *seconds, *frames]))
        }
        _ => None,
    }
}

/// The bytes of a message of a channel, 1..16, and how many of them there are.
#[must_use]
pub fn emit(channel: u8, voice: Voice) -> ([u8; 3], usize) {
    let of = |kind: u8| kind | (channel.clamp(1, 16) - 1);
    let seven = |value: u8| value.min(127);
    match voice {
        Voice::NoteOn(note, velocity) => ([of(0x90), seven(note), seven(velocity)], 3),
        Voice::NoteOff(note, velocity) => ([of(0x80), seven(note), seven(velocity)], 3),
        Voice::KeyPressure(note, pressure) => ([of(0xa0), seven(note), seven(pressure)], 3),
        Voice::Control(number, value) => ([of(0xb0), seven(number), seven(value)], 3),
        Voice::Program(program) => ([of(0xc0), seven(program), 0], 2),
        Voice::Pressure(pressure) => ([of(0xd0), seven(pressure), 0], 2),
        Voice::Bend(bend) => ([of(0xe0), (bend & 0x7f) as u8, (bend.min(0x3fff) >> 7) as u8], 3),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn messages(bytes: &[u8]) -> Vec<Message> {
        let mut reader = Reader::default();
        bytes.iter().filter_map(|byte| reader.byte(*byte)).collect()
    }

    fn channel(channel: u8, voice: Voice) -> Message {
        Message::Channel(channel, voice)
    }

    #[test]
    fn messages_are_read_byte_by_byte_as_the_standard_has_them() {
        for (bytes, wanted) in [
            (&[0x90, 0x3c, 0x64][..], channel(1, Voice::NoteOn(60, 100))),
            (&[0x91, 0x3c, 0x00], channel(2, Voice::NoteOff(60, 0))),
            (&[0x8f, 0x3c, 0x40], channel(16, Voice::NoteOff(60, 64))),
            (&[0xa0, 0x3c, 0x10], channel(1, Voice::KeyPressure(60, 16))),
            (&[0xb2, 0x07, 0x7f], channel(3, Voice::Control(7, 127))),
            (&[0xc0, 0x05], channel(1, Voice::Program(5))),
            (&[0xd0, 0x22], channel(1, Voice::Pressure(34))),
            (&[0xe0, 0x00, 0x40], channel(1, Voice::Bend(NO_BEND))),
            (&[0xf1, 0x35], Message::QuarterFrame(0x35)),
            (&[0xf0, 0x7f, 0x7f, 0x01, 0x01, 0x21, 0x02, 0x03, 0x04, 0xf7], Message::FullFrame([0x21, 2, 3, 4])),
        ] {
            assert_eq!(messages(bytes), [wanted], "{bytes:02x?}");
        }
    }

    #[test]
    fn running_status_goes_on_until_another_message_ends_it() {
        let notes = [0x90, 60, 100, 61, 100, 0xf8, 62, 0xfe, 100];
        assert_eq!(messages(&notes).len(), 4, "three notes and a clock");
        let cut = [0x90, 60, 0xb0, 7, 100, 0xf6, 7, 90];
        let mut reader = Reader::default();
        let read: Vec<Message> = cut.iter().filter_map(|byte| reader.byte(*byte)).collect();
        assert_eq!(read, [channel(1, Voice::Control(7, 100))]);
        assert_eq!(reader.malformed, 3, "a note that was cut, and two bytes that are nobody's");
    }

    #[test]
    fn what_concerns_time_is_found_between_and_within_other_messages() {
        use Timing::{Clock, Position, Start, Stop};
        let timings = |bytes: &[u8]| -> Vec<Timing> {
            let all = messages(bytes).into_iter();
            all.filter_map(|m| if let Message::Timing(timing) = m { Some(timing) } else { None }).collect()
        };
        // A note, a position with a clock and active sensing within it, a system exclusive message with a start in it.
        let bytes = [0x90, 0x3c, 0x64, 0xf2, 0xf8, 0x05, 0xfe, 0x03, 0xf0, 0x01, 0xfa, 0x02, 0xf7, 0xfc];
        assert_eq!(timings(&bytes), [Clock, Position(3 * 128 + 5), Start, Stop]);
        // One that is broken off is none, and data without a status is nobody's.
        assert_eq!(timings(&[0xf2, 0x05, 0x90, 0x03, 0x04, 0x7f]), []);
    }

    #[test]
    fn a_megabyte_of_system_exclusive_is_passed_over_in_no_memory() {
        let mut reader = Reader::default();
        assert_eq!(reader.byte(0xf0), None);
        assert!((0..1 << 20).all(|n: u32| reader.byte((n % 128) as u8).is_none()));
        assert_eq!(reader.byte(0xf7), None);
        let note = [0x90, 60, 100].into_iter().find_map(|byte| reader.byte(byte));
        assert_eq!(note, Some(channel(1, Voice::NoteOn(60, 100))));
    }

    proptest! {
        #[test]
        fn any_bytes_are_taken(bytes in proptest::collection::vec(any::<u8>(), 0..200)) {
            let clocks = bytes.iter().filter(|byte| **byte == 0xf8).count();
            let read = messages(&bytes);
            prop_assert_eq!(read.iter().filter(|m| **m == Message::Timing(Timing::Clock)).count(), clocks);
        }

        #[test]
        fn what_is_emitted_is_read_again(on in 1u8..=16, a in 0u8..128, b in 1u8..128, bend in 0u16..16_384, which in 0usize..7) {
            let voice = [
                Voice::NoteOn(a, b), Voice::NoteOff(a, b), Voice::KeyPressure(a, b), Voice::Control(a, b),
                Voice::Program(a), Voice::Pressure(a), Voice::Bend(bend),
            ][which];
            let (bytes, count) = emit(on, voice);
            prop_assert_eq!(messages(&bytes[..count]), [channel(on, voice)]);
        }
    }
}
