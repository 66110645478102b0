//! The messages of OSC (Open Sound Control 1.0) that Splimo understands, with the addresses of its own that tell of time:
//!
//! | address | argument | |
//! |---|---|---|
//! | `/splimo/beat` | none, or the number of the beat | a beat is now; beat 0 begins a bar |
//! | `/splimo/tempo` | beats a minute, 20..400 | |
//! | `/splimo/tap` | none, or whatever a button sends | as the key |
//! | `/splimo/stop` | the same | whoever sends beats stands |
//!
//! A button on a screen sends 1 where it is pressed and 0 (or false) where it is let go, which is no tap and no stop.

use rosc::{OscMessage, OscPacket, OscType};

use crate::Error;

/// The most bytes of a packet: far more than any of ours has, and few enough that bundles within bundles are bounded.
pub const LONGEST: usize = 1472;

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

/// Hands on what a packet tells, in order; what is at other addresses is passed over.
///
/// # Errors
/// If it is no OSC, or one of our addresses has an argument that it cannot have.
pub fn parse(bytes: &[u8], mut told: impl FnMut(TempoMessage)) -> Result<(), Error> {
    if bytes.len() > LONGEST {
        return Err(Error::NotThis);
    }
    let (_, packet) = rosc::decoder::decode_udp(bytes).map_err(|_| Error::NotThis)?;
    each(&packet, &mut told)
}

fn each(packet: &OscPacket, told: &mut impl FnMut(TempoMessage)) -> Result<(), Error> {
    match packet {
        OscPacket::Message(message) => {
            if let Some(what) = of(message)? {
                told(what);
            }
            Ok(())
        }
        OscPacket::Bundle(bundle) => bundle.content.iter().try_for_each(|packet| each(packet, told)),
    }
}

fn of(message: &OscMessage) -> Result<Option<TempoMessage>, Error> {
    let number = match message.args.first() {
        None => None,
        Some(OscType::Float(number)) => Some(f64::from(*number)),
        Some(OscType::Double(number)) => Some(*number),
        Some(OscType::Int(number)) => Some(f64::from(*number)),
        Some(OscType::Long(number)) => Some(*number as f64),
        Some(_) => Some(f64::NAN),
    };
    Ok(Some(match (message.addr.as_str(), number) {
        ("/splimo/beat", None) => TempoMessage::Beat(None),
        ("/splimo/beat", Some(beat)) if beat.abs() < 1e9 => TempoMessage::Beat(Some(beat)),
        ("/splimo/tempo", Some(bpm)) if (20.0..=400.0).contains(&bpm) => TempoMessage::Tempo(bpm),
        ("/splimo/beat" | "/splimo/tempo", _) => return Err(Error::Field("the argument")),
        ("/splimo/tap" | "/splimo/stop", number) if number == Some(0.0) || is_false(message) => return Ok(None),
        ("/splimo/tap", _) => TempoMessage::Tap,
        ("/splimo/stop", _) => TempoMessage::Stop,
        _ => return Ok(None),
    }))
}

fn is_false(message: &OscMessage) -> bool {
    message.args.first() == Some(&OscType::Bool(false))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn told(bytes: &[u8]) -> Result<Vec<TempoMessage>, Error> {
        let mut list = Vec::new();
        parse(bytes, |what| list.push(what)).map(|()| list)
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
        for bad in [
            &b"/splimo/tempo\0\0\0,f\0\0\x46\0\0\0"[..],
            b"/splimo/beat\0\0\0\0,T\0\0",
            b"/splimo/tempo\0\0\0,\0\0\0",
            b"GET / HTTP",
            b"",
        ] {
            assert!(told(bad).is_err(), "{bad:?}");
        }
        assert!(told(&[b'/'; LONGEST + 1]).is_err());
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
