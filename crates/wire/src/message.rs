//! Any packet of either protocol that Splimo understands.

use crate::artnet::{poll, poll_reply, sync as art_sync, time_code, trigger};
use crate::sacn::{discovery, sync as sacn_sync};
use crate::{Data, Error};

/// A packet by its meaning.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Message<'a> {
    /// A frame of a universe.
    Data(Data<'a>),
    /// Somebody asks who is there (Art-Net).
    Poll(poll::Repr),
    /// Somebody says that they are there (Art-Net).
    PollReply(Box<poll_reply::Repr<'a>>),
    /// The request to put out now what was received (Art-Net).
    ArtSync,
    /// A time code (Art-Net).
    TimeCode(time_code::Repr),
    /// Something is set off (Art-Net).
    Trigger(trigger::Repr),
    /// The request to put out now what was received (sACN).
    SacnSync(sacn_sync::Repr),
    /// A source says what it sends (sACN).
    Discovery(discovery::Repr<'a>),
}

type Parse<'a> = fn(&'a [u8]) -> Result<Message<'a>, Error>;

impl<'a> Message<'a> {
    /// Reads a packet.
    ///
    /// # Errors
    /// [`Error::NotThis`] for other packets of both protocols and anything else; any [`Error`] for a bad one.
    pub fn parse(bytes: &'a [u8]) -> Result<Self, Error> {
        // Frames first: nearly everything is one.
        let tries: [Parse<'a>; 8] = [
            |b| crate::parse(b).map(Self::Data),
            |b| art_sync::parse(b).map(|()| Self::ArtSync),
            |b| sacn_sync::Repr::parse(b).map(Self::SacnSync),
            |b| poll::Repr::parse(b).map(Self::Poll),
            |b| poll_reply::Repr::parse(b).map(|reply| Self::PollReply(Box::new(reply))),
            |b| time_code::Repr::parse(b).map(Self::TimeCode),
            |b| trigger::Repr::parse(b).map(Self::Trigger),
            |b| discovery::Repr::parse(b).map(Self::Discovery),
        ];
        let mut result = Err(Error::NotThis);
        for parse in tries {
            result = parse(bytes);
            if result != Err(Error::NotThis) {
                return result;
            }
        }
        result
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn each_packet_is_known_for_what_it_is() {
        let kinds = |bytes: &[u8]| match Message::parse(bytes) {
            Ok(Message::Poll(_)) => "poll",
            Ok(Message::ArtSync) => "sync",
            Ok(Message::TimeCode(_)) => "time",
            Ok(Message::Trigger(_)) => "trigger",
            Ok(Message::SacnSync(_)) => "sacn sync",
            Ok(Message::Discovery(_)) => "discovery",
            Ok(Message::Data(_) | Message::PollReply(_)) => "other",
            Err(_) => "error",
        };
        assert_eq!(kinds(&poll::Repr::default().emit()), "poll");
        assert_eq!(kinds(&art_sync::emit()), "sync");
        assert_eq!(kinds(&time_code::Repr::at(1.0, time_code::CountingKind::Ebu).emit()), "time");
        assert_eq!(kinds(&trigger::Repr::Show(1).emit()), "trigger");
        assert_eq!(kinds(&sacn_sync::Repr { cid: [1; 16], sequence: 0, address: 1 }.emit()), "sacn sync");
        assert_eq!(kinds(&discovery::pages([1; 16], "x", &[1])[0]), "discovery");
    }

    #[test]
    fn what_would_change_us_is_left_alone() {
        // ArtAddress, ArtInput, ArtIpProg, firmware master, ArtTodRequest and ArtCommand.
        for op_code in [0x6000u16, 0x7000, 0xf800, 0xf200, 0x8000, 0x2400] {
            let mut bytes = b"Art-Net\0".to_vec();
            bytes.extend(op_code.to_le_bytes());
            bytes.resize(300, 0x0e);
            assert_eq!(Message::parse(&bytes), Err(Error::NotThis), "{op_code:#x}");
        }
    }

    proptest! {
        #[test]
        fn any_bytes_are_a_message_or_an_error(mut bytes in proptest::collection::vec(any::<u8>(), 0..700), like in 0usize..8) {
            // Pure noise never gets past the identifiers: lend some of it a good beginning.
            let good = [
                poll::Repr::default().emit().to_vec(),
                art_sync::emit().to_vec(),
                time_code::Repr::at(1.0, time_code::CountingKind::Ebu).emit().to_vec(),
                trigger::Repr::Show(1).emit().to_vec(),
                sacn_sync::Repr { cid: [1; 16], sequence: 0, address: 1 }.emit().to_vec(),
                discovery::pages([1; 16], "x", &[1]).remove(0),
                b"Art-Net\0\x00\x21".to_vec(),
                Vec::new(),
            ];
            let head = &good[like][..good[like].len().min(44)];
            let shared = head.len().min(bytes.len());
            bytes[..shared].copy_from_slice(&head[..shared]);
            let _ = Message::parse(&bytes);
        }
    }
}
