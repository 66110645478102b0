//! OSC in a stream (TCP): packets with their length before them (OSC 1.0), or between END bytes (SLIP, RFC 1055, as in OSC 1.1). Which
//! of the two it is tells the first byte: 192 is an END, and no packet is that long.

use super::LONGEST;

const END: u8 = 0xc0;
const ESCAPE: u8 = 0xdb;
const ESCAPED_END: u8 = 0xdc;
const ESCAPED_ESCAPE: u8 = 0xdd;

/// Finds packets in a stream.
#[derive(Debug, Clone, Default)]
pub struct Framing {
    kind: Option<Kind>,
    packet: Vec<u8>,
    escaped: bool,
    /// Packets that were too long, or could not be.
    pub malformed: u64,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Kind {
    Length { read: usize, length: usize },
    Slip,
}

/// The outcome of a byte.
#[derive(Debug, PartialEq, Eq)]
pub enum Framed {
    /// Nothing yet.
    More,
    /// A packet.
    Packet(Vec<u8>),
    /// The stream cannot be followed any more.
    Lost,
}

impl Framing {
    /// Takes the next byte.
    pub fn byte(&mut self, byte: u8) -> Framed {
        match self.kind {
            None if byte == END => self.kind = Some(Kind::Slip),
            None => self.kind = Some(Kind::Length { read: 1, length: usize::from(byte) }),
            Some(Kind::Slip) => return self.slip(byte),
            Some(Kind::Length { read, length }) => return self.counted(byte, read, length),
        }
        Framed::More
    }

    fn counted(&mut self, byte: u8, read: usize, length: usize) -> Framed {
        if read < 4 {
            let length = length << 8 | usize::from(byte);
            self.kind = Some(Kind::Length { read: read + 1, length });
            if read == 3 && !(1..=LONGEST).contains(&length) {
                self.malformed += 1;
                return Framed::Lost;
            }
            return Framed::More;
        }
        self.packet.push(byte);
        if self.packet.len() < length {
            return Framed::More;
        }
        self.kind = Some(Kind::Length { read: 0, length: 0 });
        Framed::Packet(std::mem::take(&mut self.packet))
    }

    fn slip(&mut self, byte: u8) -> Framed {
        let escaped = std::mem::take(&mut self.escaped);
        let data = match (byte, escaped) {
            (END, _) if self.packet.is_empty() => return Framed::More,
            (END, _) => {
                let packet = std::mem::take(&mut self.packet);
                if packet.len() <= LONGEST {
                    return Framed::Packet(packet);
                }
                self.malformed += 1;
                return Framed::More;
            }
            (ESCAPE, false) => {
                self.escaped = true;
                return Framed::More;
            }
            (ESCAPED_END, true) => END,
            (ESCAPED_ESCAPE, true) => ESCAPE,
            (other, _) => other,
        };
        // One byte more than can be says that it is too long.
        if self.packet.len() <= LONGEST {
            self.packet.push(data);
        }
        Framed::More
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn packets(bytes: &[u8]) -> Vec<Vec<u8>> {
        let mut framing = Framing::default();
        let framed = bytes.iter().map(|byte| framing.byte(*byte));
        framed.filter_map(|framed| if let Framed::Packet(packet) = framed { Some(packet) } else { None }).collect()
    }

    fn slip(packet: &[u8]) -> Vec<u8> {
        let mut bytes = vec![END];
        for byte in packet {
            match *byte {
                END => bytes.extend([ESCAPE, ESCAPED_END]),
                ESCAPE => bytes.extend([ESCAPE, ESCAPED_ESCAPE]),
                other => bytes.push(other),
            }
        }
        bytes.push(END);
        bytes
    }

    #[test]
    fn a_length_that_cannot_be_loses_the_stream() {
        let mut framing = Framing::default();
        let last = [0x7f, 0xff, 0xff, 0xff].map(|byte| framing.byte(byte)).into_iter().next_back();
        assert_eq!((last, framing.malformed), (Some(Framed::Lost), 1));
    }

    proptest! {
        #[test]
        fn packets_are_found_in_both_framings(all in proptest::collection::vec(proptest::collection::vec(any::<u8>(), 1..40), 1..5)) {
            let counted: Vec<u8> =
                all.iter().flat_map(|packet| [&(packet.len() as u32).to_be_bytes()[..], packet].concat()).collect();
            prop_assert_eq!(&packets(&counted), &all);
            let slipped: Vec<u8> = all.iter().flat_map(|packet| slip(packet)).collect();
            prop_assert_eq!(&packets(&slipped), &all);
        }

        #[test]
        fn any_bytes_are_taken(bytes in proptest::collection::vec(any::<u8>(), 0..3000)) {
            prop_assert!(packets(&bytes).iter().all(|packet| packet.len() <= LONGEST));
        }
    }
}
