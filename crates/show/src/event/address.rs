//! Addresses of events: which control of an input, in words that a person can type.
//!
//! | kind | words |
//! |---|---|
//! | MIDI | `note 36`, `control 7`, `control 7 fine`, `program`, `bend`, `pressure`, `pressure 36`, `start`, `stop`, `continue`; each with `channel 2` behind it, or of any channel |
//! | DMX | `slot 5`, `slot 5 fine` (16 bits, with the slot behind it), `macro 3`, `ascii 65`, `soft-key 2`, `show 1` |
//! | OSC | `/path`, and `/path 2` for its second argument |
//! | keys | `key F5` |
//! | music | `beat`, `bar`, `phrase`, `onset`, `kick`, `snare`, `hat`, `part drop` |
//! | time | `at 21:30`, `at 21:30:15` |
//! | any | `silent`, `back` |

use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

use splimo_time::music::Section;

/// A kind of hit in the music.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Hit {
    /// A low one.
    Kick,
    /// A middle one.
    Snare,
    /// A high one.
    Hat,
}

/// A kind of thing that a trigger of Art-Net sets off.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum TriggerKey {
    /// A character.
    Ascii,
    /// A macro.
    Macro,
    /// A soft key.
    SoftKey,
    /// A show.
    Show,
}

/// The address of an event within its input.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub enum EventAddress {
    /// A note, 0..127, of a MIDI channel, 1..16, or of any.
    Note(Option<u8>, u8),
    /// A controller, 0..127; fine means 14 bits, of which the number is the coarse one (0..31).
    Control(Option<u8>, u8, bool),
    /// A program that is called.
    Program(Option<u8>),
    /// The pitch bend.
    Bend(Option<u8>),
    /// The pressure of the channel, or of one note.
    Pressure(Option<u8>, Option<u8>),
    /// A sequencer starts.
    Start,
    /// A sequencer stops.
    Stop,
    /// A sequencer goes on.
    Continue,
    /// A slot of DMX, 1..512; fine means 16 bits, with the slot behind it.
    Slot(u16, bool),
    /// A trigger of Art-Net.
    Trigger(TriggerKey, u8),
    /// An address of OSC, and which of its arguments, from 1.
    Osc(String, u8),
    /// A key of the keyboard.
    Key(String),
    /// A beat.
    Beat,
    /// The beginning of a bar.
    Bar,
    /// The beginning of a phrase.
    Phrase,
    /// An onset of any kind.
    Onset,
    /// A hit.
    Hit(Hit),
    /// The beginning of a part of the music.
    Part(Section),
    /// A time of day, in seconds since midnight.
    At(u32),
    /// The input has fallen silent.
    Silent,
    /// The input is back.
    Back,
}

impl EventAddress {
    /// The same without the MIDI channel, where it has one.
    #[must_use]
    pub fn of_any_channel(&self) -> Option<Self> {
        match self {
            Self::Note(Some(_), note) => Some(Self::Note(None, *note)),
            Self::Control(Some(_), number, fine) => Some(Self::Control(None, *number, *fine)),
            Self::Program(Some(_)) => Some(Self::Program(None)),
            Self::Bend(Some(_)) => Some(Self::Bend(None)),
            Self::Pressure(Some(_), note) => Some(Self::Pressure(None, *note)),
            Self::Note(None, _)
            | Self::Control(None, ..)
            | Self::Program(None)
            | Self::Bend(None)
            | Self::Pressure(None, _)
            | Self::Start
            | Self::Stop
            | Self::Continue
            | Self::Slot(..)
            | Self::Trigger(..)
            | Self::Osc(..)
            | Self::Key(_)
            | Self::Beat
            | Self::Bar
            | Self::Phrase
            | Self::Onset
            | Self::Hit(_)
            | Self::Part(_)
            | Self::At(_)
            | Self::Silent
            | Self::Back => None,
        }
    }

    /// True if it is of an input that falls silent or is back, whatever its kind.
    #[must_use]
    pub fn is_of_any_input(&self) -> bool {
        matches!(self, Self::Silent | Self::Back)
    }

    /// The highest value that comes from there.
    #[must_use]
    pub fn most(&self) -> f32 {
        match self {
            Self::Note(..) | Self::Control(_, _, false) | Self::Program(_) | Self::Pressure(..) => 127.0,
            Self::Control(_, _, true) | Self::Bend(_) => 16_383.0,
            Self::Slot(_, false) => 255.0,
            Self::Slot(_, true) => 65_535.0,
            Self::Start
            | Self::Stop
            | Self::Continue
            | Self::Trigger(..)
            | Self::Osc(..)
            | Self::Key(_)
            | Self::Beat
            | Self::Bar
            | Self::Phrase
            | Self::Onset
            | Self::Hit(_)
            | Self::Part(_)
            | Self::At(_)
            | Self::Silent
            | Self::Back => 1.0,
        }
    }
}

impl fmt::Display for EventAddress {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let fine = |fine: &bool| if *fine { " fine" } else { "" };
        let channel = match self {
            Self::Note(channel, note) => {
                write!(f, "note {note}")?;
                channel
            }
            Self::Control(channel, number, is_fine) => {
                write!(f, "control {number}{}", fine(is_fine))?;
                channel
            }
            Self::Program(channel) => {
                f.write_str("program")?;
                channel
            }
            Self::Bend(channel) => {
                f.write_str("bend")?;
                channel
            }
            Self::Pressure(channel, note) => {
                f.write_str("pressure")?;
                if let Some(note) = note {
                    write!(f, " {note}")?;
                }
                channel
            }
            Self::Start => return f.write_str("start"),
            Self::Stop => return f.write_str("stop"),
            Self::Continue => return f.write_str("continue"),
            Self::Slot(slot, is_fine) => return write!(f, "slot {slot}{}", fine(is_fine)),
            Self::Trigger(key, number) => return write!(f, "{} {number}", key.name()),
            Self::Osc(path, 1) => return f.write_str(path),
            Self::Osc(path, argument) => return write!(f, "{path} {argument}"),
            Self::Key(name) => return write!(f, "key {name}"),
            Self::Beat => return f.write_str("beat"),
            Self::Bar => return f.write_str("bar"),
            Self::Phrase => return f.write_str("phrase"),
            Self::Onset => return f.write_str("onset"),
            Self::Hit(hit) => return f.write_str(hit.name()),
            Self::Part(part) => return write!(f, "part {}", part.name()),
            Self::At(seconds) => {
                write!(f, "at {:02}:{:02}", seconds / 3600, seconds / 60 % 60)?;
                return if seconds % 60 == 0 { Ok(()) } else { write!(f, ":{:02}", seconds % 60) };
            }
            Self::Silent => return f.write_str("silent"),
            Self::Back => return f.write_str("back"),
        };
        channel.map_or(Ok(()), |channel| write!(f, " channel {channel}"))
    }
}

impl Hit {
    /// Every kind, the lowest first.
    pub const ALL: [Self; 3] = [Self::Kick, Self::Snare, Self::Hat];

    fn name(self) -> &'static str {
        match self {
            Self::Kick => "kick",
            Self::Snare => "snare",
            Self::Hat => "hat",
        }
    }
}

impl TriggerKey {
    const ALL: [Self; 4] = [Self::Ascii, Self::Macro, Self::SoftKey, Self::Show];

    fn name(self) -> &'static str {
        match self {
            Self::Ascii => "ascii",
            Self::Macro => "macro",
            Self::SoftKey => "soft-key",
            Self::Show => "show",
        }
    }
}

/// A text that is no address of an event.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("\"{0}\" is no event; write one such as note 36, control 7, slot 5, /path, key F5, bar, part drop or at 21:30")]
pub struct BadEvent(String);

impl FromStr for EventAddress {
    type Err = BadEvent;

    fn from_str(text: &str) -> Result<Self, BadEvent> {
        parse(text.trim()).ok_or_else(|| BadEvent(text.to_owned()))
    }
}

fn parse(text: &str) -> Option<EventAddress> {
    if text.starts_with('/') {
        return Some(osc(text));
    }
    if let Some(key) = text.strip_prefix("key ") {
        return Some(EventAddress::Key(key.trim().to_owned())).filter(|_| !key.trim().is_empty());
    }
    let words: Vec<&str> = text.split_whitespace().collect();
    let (words, channel) = match words.as_slice() {
        [rest @ .., "channel", number] => {
            let channel = number.parse().ok().filter(|channel| (1..=16).contains(channel))?;
            (rest, Some(channel))
        }
        rest => (rest, None),
    };
    let seven = |text: &str| text.parse::<u8>().ok().filter(|number| *number < 128);
    if let Some(address) = match words {
        ["note", note] => Some(EventAddress::Note(channel, seven(note)?)),
        ["control", number] => Some(EventAddress::Control(channel, seven(number)?, false)),
        ["control", number, "fine"] => {
            Some(EventAddress::Control(channel, seven(number).filter(|number| *number < 32)?, true))
        }
        ["program"] => Some(EventAddress::Program(channel)),
        ["bend"] => Some(EventAddress::Bend(channel)),
        ["pressure"] => Some(EventAddress::Pressure(channel, None)),
        ["pressure", note] => Some(EventAddress::Pressure(channel, Some(seven(note)?))),
        _ => None,
    } {
        return Some(address);
    }
    if channel.is_some() { None } else { parse_plain(words) }
}

/// Addresses that have no channel.
fn parse_plain(words: &[&str]) -> Option<EventAddress> {
    let slot = |text: &str, last: u16| text.parse::<u16>().ok().filter(|slot| (1..=last).contains(slot));
    match words {
        ["start"] => Some(EventAddress::Start),
        ["stop"] => Some(EventAddress::Stop),
        ["continue"] => Some(EventAddress::Continue),
        ["slot", number] => Some(EventAddress::Slot(slot(number, 512)?, false)),
        ["slot", number, "fine"] => Some(EventAddress::Slot(slot(number, 511)?, true)),
        ["beat"] => Some(EventAddress::Beat),
        ["bar"] => Some(EventAddress::Bar),
        ["phrase"] => Some(EventAddress::Phrase),
        ["onset"] => Some(EventAddress::Onset),
        ["silent"] => Some(EventAddress::Silent),
        ["back"] => Some(EventAddress::Back),
        ["part", name] => Section::ALL.into_iter().find(|part| part.name() == *name).map(EventAddress::Part),
        ["at", time] => time_of_day(time).map(EventAddress::At),
        [key, number] => {
            let key = TriggerKey::ALL.into_iter().find(|known| known.name() == *key)?;
            Some(EventAddress::Trigger(key, number.parse().ok()?))
        }
        [hit] => Hit::ALL.into_iter().find(|known| known.name() == *hit).map(EventAddress::Hit),
        _ => None,
    }
}

fn osc(text: &str) -> EventAddress {
    if let Some((path, argument)) = text.rsplit_once(' ')
        && let Ok(argument @ 1..) = argument.parse()
    {
        return EventAddress::Osc(path.trim_end().to_owned(), argument);
    }
    EventAddress::Osc(text.to_owned(), 1)
}

fn time_of_day(text: &str) -> Option<u32> {
    let numbers: Option<Vec<u32>> = text.split(':').map(|part| part.parse().ok()).collect();
    match numbers?.as_slice() {
        [hours @ ..24, minutes @ ..60] => Some(hours * 3600 + minutes * 60),
        [hours @ ..24, minutes @ ..60, seconds @ ..60] => Some(hours * 3600 + minutes * 60 + seconds),
        _ => None,
    }
}

impl TryFrom<String> for EventAddress {
    type Error = BadEvent;
    fn try_from(text: String) -> Result<Self, BadEvent> {
        text.parse()
    }
}

impl From<EventAddress> for String {
    fn from(address: EventAddress) -> Self {
        address.to_string()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn addresses_are_written_and_read_the_same_way() {
        for text in [
            "note 36",
            "note 36 channel 2",
            "control 7",
            "control 7 fine channel 16",
            "program",
            "bend channel 1",
            "pressure",
            "pressure 36 channel 3",
            "start",
            "stop",
            "continue",
            "slot 5",
            "slot 511 fine",
            "macro 3",
            "ascii 65",
            "soft-key 2",
            "show 1",
            "/deck/1/level",
            "/xy 2",
            "key F5",
            "key x",
            "beat",
            "bar",
            "phrase",
            "onset",
            "kick",
            "snare",
            "hat",
            "part drop",
            "at 21:30",
            "at 06:05:09",
            "silent",
            "back",
        ] {
            assert_eq!(text.parse::<EventAddress>().map(|address| address.to_string()).as_deref(), Ok(text));
        }
        for bad in [
            "",
            "note",
            "note 128",
            "note 3 channel 17",
            "note 3 channel 0",
            "control 40 fine",
            "slot 0",
            "slot 513",
            "slot 512 fine",
            "bar channel 1",
            "part nowhere",
            "at 24:00",
            "at 12",
            "key ",
            "macro 256",
            "dance",
        ] {
            assert!(bad.parse::<EventAddress>().is_err(), "{bad}");
        }
    }

    proptest! {
        #[test]
        fn any_text_is_read_or_refused(text in ".{0,40}") {
            if let Ok(address) = text.parse::<EventAddress>() {
                prop_assert_eq!(address.to_string().parse(), Ok(address));
            }
        }
    }
}
