//! Messages of OSC (Open Sound Control 1.0; its framing in a stream is that of 1.0, or SLIP as in 1.1), and the addresses of Splimo's
//! own that tell of time:
//!
//! | address | argument | |
//! |---|---|---|
//! | `/splimo/beat` | none, or the number of the beat | a beat is now; beat 0 begins a bar |
//! | `/splimo/tempo` | beats a minute, 20..400 | |
//! | `/splimo/tap` | none, or whatever a button sends | as the key |
//! | `/splimo/stop` | the same | whoever sends beats stands |
//!
//! A button on a screen sends 1 where it is pressed and 0 (or false) where it is let go, which is no tap and no stop.

mod stream;

use rosc::address::{Matcher, OscAddress};
use rosc::{OscMessage, OscPacket, OscType};

pub use stream::{Framed, Framing};

use crate::Error;

/// The most bytes of a packet: far more than any of ours has, and few enough that bundles within bundles are bounded.
pub const LONGEST: usize = 1472;
/// The most messages that are taken out of a packet.
pub const MOST_MESSAGES: usize = 128;

/// An argument of a message.
#[derive(Debug, Clone, PartialEq)]
pub enum Argument {
    /// A number of any type.
    Number(f64),
    /// A text.
    Text(String),
    /// True or false.
    Flag(bool),
    /// Something that means nothing here, as a blob.
    Other,
}

impl Argument {
    /// It as a number; a flag is 1 or 0.
    #[must_use]
    pub fn number(&self) -> Option<f64> {
        match self {
            Self::Number(number) => Some(*number),
            Self::Flag(flag) => Some(f64::from(u8::from(*flag))),
            Self::Text(_) | Self::Other => None,
        }
    }

    fn of(argument: &OscType) -> Self {
        match argument {
            OscType::Float(number) => Self::Number(f64::from(*number)),
            OscType::Double(number) => Self::Number(*number),
            OscType::Int(number) => Self::Number(f64::from(*number)),
            OscType::Long(number) => Self::Number(*number as f64),
            OscType::String(text) => Self::Text(text.clone()),
            OscType::Char(letter) => Self::Text(letter.to_string()),
            OscType::Bool(flag) => Self::Flag(*flag),
            OscType::Blob(_)
            | OscType::Time(_)
            | OscType::Color(_)
            | OscType::Midi(_)
            | OscType::Array(_)
            | OscType::Nil
            | OscType::Inf => Self::Other,
        }
    }
}

/// A message, and the time at which it is to count.
#[derive(Debug, Clone, PartialEq)]
pub struct Message {
    /// The address, which may be a pattern.
    pub address: String,
    /// The arguments.
    pub arguments: Vec<Argument>,
    /// The time of its bundle in seconds since 1900 (NTP); none means at once.
    pub at: Option<f64>,
}

/// A message that tells of tempo.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum TempoMessage {
    /// A beat is now, and perhaps which one.
    Beat(Option<f64>),
    /// Beats a minute.
    Tempo(f64),
    /// A tap.
    Tap,
    /// It stands.
    Stop,
}

/// The messages of a packet, in order.
///
/// # Errors
/// If it is no OSC, or longer than [`LONGEST`].
pub fn messages(bytes: &[u8]) -> Result<Vec<Message>, Error> {
    if bytes.len() > LONGEST {
        return Err(Error::NotThis);
    }
    let (_, packet) = rosc::decoder::decode_udp(bytes).map_err(|_| Error::NotThis)?;
    let mut all = Vec::new();
    collect(packet, None, &mut all);
    Ok(all)
}

fn collect(packet: OscPacket, at: Option<f64>, all: &mut Vec<Message>) {
    match packet {
        OscPacket::Message(OscMessage { addr, args }) if all.len() < MOST_MESSAGES => {
            all.push(Message { address: addr, arguments: args.iter().map(Argument::of).collect(), at });
        }
        OscPacket::Message(_) => {}
        OscPacket::Bundle(bundle) => {
            // The time 1/2^32 after zero means at once (OSC 1.0, "Temporal Semantics and OSC Time Tags").
            let time = bundle.timetag;
            let at_once = time.seconds == 0 && time.fractional <= 1;
            let own = (!at_once).then(|| f64::from(time.seconds) + f64::from(time.fractional) / 4_294_967_296.0);
            // A bundle within another is no earlier than that.
            let at = [at, own].into_iter().flatten().reduce(f64::max);
            bundle.content.into_iter().for_each(|packet| collect(packet, at, all));
        }
    }
}

impl Message {
    /// The tempo that it tells of, if it is one of those.
    ///
    /// # Errors
    /// If its argument cannot be.
    pub fn tempo(&self) -> Result<Option<TempoMessage>, Error> {
        let number = self.arguments.first().map(|argument| match argument {
            Argument::Number(number) => *number,
            Argument::Text(_) | Argument::Flag(_) | Argument::Other => f64::NAN,
        });
        let let_go = number == Some(0.0) || self.arguments.first() == Some(&Argument::Flag(false));
        Ok(Some(match (self.address.as_str(), number) {
            ("/splimo/beat", None) => TempoMessage::Beat(None),
            ("/splimo/beat", Some(beat)) if beat.abs() < 1e9 => TempoMessage::Beat(Some(beat)),
            // Without an argument it is a question.
            ("/splimo/tempo", None) => return Ok(None),
            ("/splimo/tempo", Some(bpm)) if (20.0..=400.0).contains(&bpm) => TempoMessage::Tempo(bpm),
            ("/splimo/beat" | "/splimo/tempo", _) => return Err(Error::Field("the argument")),
            ("/splimo/tap" | "/splimo/stop", _) if let_go => return Ok(None),
            ("/splimo/tap", _) => TempoMessage::Tap,
            ("/splimo/stop", _) => TempoMessage::Stop,
            _ => return Ok(None),
        }))
    }
}

/// True if an address has letters in it that make a pattern of it.
#[must_use]
pub fn is_pattern(address: &str) -> bool {
    address.contains(['*', '?', '[', '{'])
}

/// The addresses that a pattern means, among those that are known. A pattern that is none means nothing.
pub fn matching<'k>(pattern: &str, known: impl Iterator<Item = &'k str>) -> Vec<String> {
    let Ok(matcher) = Matcher::new(pattern) else { return Vec::new() };
    let fits =
        |address: &&str| OscAddress::new((*address).to_owned()).is_ok_and(|address| matcher.match_address(&address));
    known.filter(fits).map(str::to_owned).collect()
}

/// The bytes of a message with numbers and texts.
///
/// # Errors
/// If the address is none.
pub fn emit(address: &str, arguments: &[Argument]) -> Result<Vec<u8>, Error> {
    let args = arguments.iter().map(|argument| match argument {
        Argument::Number(number) => OscType::Float(*number as f32),
        Argument::Text(text) => OscType::String(text.clone()),
        Argument::Flag(flag) => OscType::Bool(*flag),
        Argument::Other => OscType::Nil,
    });
    let message = OscMessage { addr: address.to_owned(), args: args.collect() };
    rosc::encoder::encode(&OscPacket::Message(message)).map_err(|_| Error::Field("the address"))
}

/// The bytes of a message with whole numbers.
///
/// # Errors
/// If the address is none.
pub fn emit_whole(address: &str, numbers: &[i32]) -> Result<Vec<u8>, Error> {
    let args = numbers.iter().map(|number| OscType::Int(*number)).collect();
    let message = OscMessage { addr: address.to_owned(), args };
    rosc::encoder::encode(&OscPacket::Message(message)).map_err(|_| Error::Field("the address"))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn told(bytes: &[u8]) -> Result<Vec<TempoMessage>, Error> {
        let all: Result<Vec<Option<TempoMessage>>, Error> = messages(bytes)?.iter().map(Message::tempo).collect();
        all.map(|all| all.into_iter().flatten().collect())
    }

    #[test]
    fn messages_are_read_byte_by_byte_as_the_standard_has_them() {
        assert_eq!(told(b"/splimo/tempo\0\0\0,f\0\0\x43\0\0\0"), Ok(vec![TempoMessage::Tempo(128.0)]));
        assert_eq!(told(b"/splimo/beat\0\0\0\0,i\0\0\0\0\0\x08"), Ok(vec![TempoMessage::Beat(Some(8.0))]));
        assert_eq!(told(b"/splimo/beat\0\0\0\0,\0\0\0"), Ok(vec![TempoMessage::Beat(None)]));
        let bundle = b"#bundle\0\0\0\0\0\0\0\0\x01\0\0\0\x10/splimo/tap\0,\0\0\0\0\0\0\x08/xy\0,\0\0\0";
        assert_eq!(told(bundle), Ok(vec![TempoMessage::Tap]));
    }

    #[test]
    fn a_button_taps_where_it_is_pressed_and_not_where_it_is_let_go() {
        for (pressed, let_go) in [
            (&b"/splimo/tap\0,f\0\0\x3f\x80\0\0"[..], &b"/splimo/tap\0,f\0\0\0\0\0\0"[..]),
            (b"/splimo/tap\0,i\0\0\0\0\0\x01", b"/splimo/tap\0,i\0\0\0\0\0\0"),
            (b"/splimo/tap\0,T\0\0", b"/splimo/tap\0,F\0\0"),
        ] {
            assert_eq!((told(pressed), told(let_go)), (Ok(vec![TempoMessage::Tap]), Ok(vec![])));
        }
        assert_eq!(told(b"/splimo/stop\0\0\0\0,f\0\0\0\0\0\0"), Ok(vec![]));
    }

    #[test]
    fn what_cannot_be_is_refused() {
        for bad in [&b"/splimo/tempo\0\0\0,f\0\0\x46\0\0\0"[..], b"/splimo/beat\0\0\0\0,T\0\0", b"GET / HTTP", b""] {
            assert!(told(bad).is_err(), "{bad:?}");
        }
        assert!(told(&[b'/'; LONGEST + 1]).is_err());
    }

    #[test]
    fn bundles_have_times_and_patterns_mean_what_they_fit() {
        let bundle = b"#bundle\0\0\0\x01\0\x80\0\0\0\0\0\0\x0c/xy\0,f\0\0\x3f\0\0\0";
        let all = messages(bundle).expect("a bundle");
        assert_eq!((all[0].at, all[0].arguments[0].number()), (Some(256.5), Some(0.5)));
        let known = ["/deck/1/level", "/deck/2/level", "/deck/1/cue"];
        let fit = |pattern: &str| matching(pattern, known.into_iter());
        assert_eq!(fit("/deck/*/level"), ["/deck/1/level", "/deck/2/level"]);
        assert_eq!(fit("/deck/{1,3}/*"), ["/deck/1/level", "/deck/1/cue"]);
        assert_eq!(fit("/deck/[2-3]/level"), ["/deck/2/level"]);
        assert!(fit("/deck/[").is_empty() && fit("no").is_empty());
    }

    proptest! {
        #[test]
        fn any_bytes_are_taken(bytes in proptest::collection::vec(any::<u8>(), 0..300), bundle: bool) {
            let mut packet = if bundle { b"#bundle\0\0\0\0\0\0\0\0\x01".to_vec() } else { b"/splimo/".to_vec() };
            packet.extend(bytes);
            let _ = told(&packet);
        }
    }
}
