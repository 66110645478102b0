//! Pixels on a serial port: a framed stream of Splimo's own, for small controllers. `docs/SERIAL.md` describes it for those
//! who build one.
//!
//! | bytes | field | |
//! |---|---|---|
//! | 0..2 | start mark | 0xf5 0x1e |
//! | 2 | kind | 1 ask, 2 ready, 3 pixels, 4 taken, 5 refused |
//! | 3 | sequence number | an answer has that of what it answers |
//! | 4..6 | length of the payload | high byte first, at most 2048 |
//! | 6.. | payload | |
//! | then 2 | checksum | CRC-16 of bytes 2 to the end of the payload, high byte first |
//!
//! The CRC is that of the polynomial 0x1021 with the initial value 0xffff, not reflected (CRC-16/CCITT-FALSE; its check
//! value is 0x29b1). A ready has a version (1), the number of channels that the controller has room for (4 bytes, high byte
//! first) and its name; pixels have the place of the first channel (4 bytes), whether they are the last of their frame, upon
//! which all of it is shown (1 byte), and the channels.

/// The most bytes of a payload.
pub const MOST_PAYLOAD: usize = 2048;
/// The most channels in one packet of pixels.
pub const MOST_CHANNELS: usize = 1024;
/// The version of the stream that this program speaks.
const VERSION: u8 = 1;

const MARK: [u8; 2] = [0xf5, 0x1e];
const HEADER: usize = 6;
const CHECKSUM: usize = 2;

/// A packet of the stream by its meaning.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Packet<'a> {
    /// The sender asks whether somebody is there.
    Ask,
    /// A controller is there.
    Ready {
        /// The number of channels that it has room for.
        channels: u32,
        /// Its name.
        name: &'a str,
    },
    /// A part of a frame.
    Pixels {
        /// The place of the first channel.
        first: u32,
        /// True if the frame is whole with it, and is to be shown.
        last: bool,
        /// The channels, at most [`MOST_CHANNELS`].
        channels: &'a [u8],
    },
    /// The packet was taken.
    Taken,
    /// The packet could not be taken: it was damaged, or there is no room for it.
    Refused,
}

impl Packet<'_> {
    /// Writes the packet behind `out`.
    pub fn emit(&self, sequence: u8, out: &mut Vec<u8>) {
        let start = out.len();
        out.extend(MARK);
        out.extend([self.kind(), sequence, 0, 0]);
        match self {
            Self::Ask | Self::Taken | Self::Refused => {}
            Self::Ready { channels, name } => {
                out.push(VERSION);
                out.extend(channels.to_be_bytes());
                out.extend(&name.as_bytes()[..name.floor_char_boundary(64)]);
            }
            Self::Pixels { first, last, channels } => {
                out.extend(first.to_be_bytes());
                out.push(u8::from(*last));
                out.extend(&channels[..channels.len().min(MOST_CHANNELS)]);
            }
        }
        let length = (out.len() - start - HEADER) as u16;
        out[start + 4..start + HEADER].copy_from_slice(&length.to_be_bytes());
        let sum = crc(&out[start + MARK.len()..]);
        out.extend(sum.to_be_bytes());
    }

    fn kind(&self) -> u8 {
        match self {
            Self::Ask => 1,
            Self::Ready { .. } => 2,
            Self::Pixels { .. } => 3,
            Self::Taken => 4,
            Self::Refused => 5,
        }
    }
}

fn parse(kind: u8, payload: &[u8]) -> Option<Packet<'_>> {
    Some(match (kind, payload) {
        (1, []) => Packet::Ask,
        (2, [VERSION, a, b, c, d, name @ ..]) => {
            Packet::Ready { channels: u32::from_be_bytes([*a, *b, *c, *d]), name: crate::text_of(name) }
        }
        (3, [a, b, c, d, last @ 0..=1, channels @ ..]) if channels.len() <= MOST_CHANNELS => {
            Packet::Pixels { first: u32::from_be_bytes([*a, *b, *c, *d]), last: *last == 1, channels }
        }
        (4, []) => Packet::Taken,
        (5, []) => Packet::Refused,
        _ => return None,
    })
}

/// CRC-16/CCITT-FALSE.
fn crc(bytes: &[u8]) -> u16 {
    bytes.iter().fold(0xffff, |crc, &byte| {
        (0..8)
            .fold(crc ^ (u16::from(byte) << 8), |crc, _| if crc & 0x8000 != 0 { (crc << 1) ^ 0x1021 } else { crc << 1 })
    })
}

/// Finds packets in a stream of bytes, of which any may be missing or wrong.
#[derive(Debug, Clone, Default)]
pub struct Reader {
    bytes: Vec<u8>,
    /// Bytes that belonged to no packet.
    pub skipped: u64,
    /// Packets whose checksum was wrong.
    pub damaged: u64,
}

impl Reader {
    /// Takes bytes as they come, and hands each packet with its sequence number to `take`.
    pub fn push(&mut self, bytes: &[u8], mut take: impl FnMut(Packet<'_>, u8)) {
        self.bytes.extend_from_slice(bytes);
        let mut at = 0;
        loop {
            let rest = &self.bytes[at..];
            match whole(rest) {
                Found::Packet(kind, sequence, payload) => {
                    let length = HEADER + payload.len() + CHECKSUM;
                    match parse(kind, payload) {
                        Some(packet) => take(packet, sequence),
                        None => self.damaged += 1,
                    }
                    at += length;
                }
                Found::Damaged => {
                    self.damaged += 1;
                    self.skipped += 1;
                    at += 1;
                }
                Found::Nothing => {
                    self.skipped += 1;
                    at += 1;
                }
                Found::More => break,
            }
        }
        self.bytes.drain(..at);
    }
}

enum Found<'a> {
    Packet(u8, u8, &'a [u8]),
    /// A packet seems to begin here, and is none.
    Damaged,
    /// No packet begins here.
    Nothing,
    /// There are too few bytes to tell.
    More,
}

fn whole(bytes: &[u8]) -> Found<'_> {
    let known = bytes.len().min(MARK.len());
    if bytes[..known] != MARK[..known] {
        return Found::Nothing;
    }
    let Some(header) = bytes.get(..HEADER) else { return Found::More };
    let length = usize::from(u16::from_be_bytes([header[4], header[5]]));
    if length > MOST_PAYLOAD {
        return Found::Damaged;
    }
    let end = HEADER + length;
    let Some(sum) = bytes.get(end..end + CHECKSUM) else { return Found::More };
    if crc(&bytes[MARK.len()..end]).to_be_bytes() != *sum {
        return Found::Damaged;
    }
    Found::Packet(header[2], header[3], &bytes[HEADER..end])
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn bytes_of(packet: &Packet<'_>, sequence: u8) -> Vec<u8> {
        let mut bytes = Vec::new();
        packet.emit(sequence, &mut bytes);
        bytes
    }

    fn read(bytes: &[u8], at_a_time: usize) -> (Vec<(String, u8)>, Reader) {
        let (mut reader, mut found) = (Reader::default(), Vec::new());
        for part in bytes.chunks(at_a_time) {
            reader.push(part, |packet, sequence| found.push((format!("{packet:?}"), sequence)));
        }
        (found, reader)
    }

    #[test]
    fn emits_the_bytes_of_the_table() {
        let pixels = Packet::Pixels { first: 0x0001_0203, last: true, channels: &[9, 8] };
        let bytes = bytes_of(&pixels, 7);
        assert_eq!(bytes[..13], [0xf5, 0x1e, 3, 7, 0, 7, 0, 1, 2, 3, 1, 9, 8]);
        assert_eq!(bytes[13..], crc(&bytes[2..13]).to_be_bytes());
        assert_eq!(bytes_of(&Packet::Ask, 1)[..6], [0xf5, 0x1e, 1, 1, 0, 0]);
    }

    #[test]
    fn the_checksum_has_its_check_value() {
        assert_eq!(crc(b"123456789"), 0x29b1);
    }

    #[test]
    fn a_damaged_packet_is_passed_over_and_the_next_is_found() {
        let mut bytes = bytes_of(&Packet::Pixels { first: 0, last: true, channels: &[1, 2, 3] }, 1);
        bytes[12] ^= 0x10;
        bytes.extend(bytes_of(&Packet::Taken, 2));
        let (found, reader) = read(&bytes, 5);
        assert_eq!((found, reader.damaged), (vec![("Taken".to_owned(), 2)], 1));
    }

    proptest! {
        #[test]
        fn what_is_emitted_is_found_in_any_noise(
            noise in proptest::collection::vec(any::<u8>(), 0..40), channels in proptest::collection::vec(any::<u8>(), 0..1024),
            first: u32, last: bool, sequence: u8, name in "[a-z ]{0,20}", room: u32, at_a_time in 1usize..100,
        ) {
            let packets = [
                Packet::Pixels { first, last, channels: &channels }, Packet::Ready { channels: room, name: &name },
                Packet::Ask, Packet::Refused,
            ];
            // Noise may look like the beginning of a packet, and then hides what follows; it ends with enough that does not.
            let mut bytes = [noise, vec![0; HEADER + MOST_PAYLOAD + CHECKSUM]].concat();
            packets.iter().for_each(|packet| packet.emit(sequence, &mut bytes));
            let (found, _) = read(&bytes, at_a_time);
            let wanted: Vec<_> = packets.iter().map(|packet| (format!("{packet:?}"), sequence)).collect();
            prop_assert_eq!(found, wanted);
        }

        #[test]
        fn any_bytes_are_packets_or_passed_over(bytes in proptest::collection::vec(any::<u8>(), 0..5000), mark: bool) {
            let bytes = if mark { [&MARK[..], &bytes].concat() } else { bytes };
            let (_, reader) = read(&bytes, 64);
            prop_assert!(reader.bytes.len() <= HEADER + MOST_PAYLOAD + CHECKSUM + 64);
        }
    }
}
