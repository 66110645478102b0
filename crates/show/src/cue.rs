//! Cue lists: what follows what on the stage, in an order that was rehearsed.

use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

use super::cue_number::{BadCue, CueNumber};
use super::{Boundary, CommandTemplate};
use crate::event::EventAddress;

/// The most cue lists of a show.
pub const MOST_LISTS: usize = 16;
/// The most cues of a list.
pub const MOST_CUES: usize = 999;
/// The longest time of a cue, in its unit.
pub const LONGEST: f32 = 86_400.0;

/// A time in a list: in seconds, or in the music.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub enum CueTime {
    /// Seconds.
    Seconds(f32),
    /// Beats.
    Beats(f32),
    /// Bars.
    Bars(f32),
}

impl CueTime {
    /// No time at all.
    pub const NONE: Self = Self::Seconds(0.0);

    /// The number of its units.
    #[must_use]
    pub fn count(self) -> f32 {
        let (Self::Seconds(count) | Self::Beats(count) | Self::Bars(count)) = self;
        count
    }
}

impl Default for CueTime {
    fn default() -> Self {
        Self::NONE
    }
}

impl FromStr for CueTime {
    type Err = BadCue;
    fn from_str(text: &str) -> Result<Self, BadCue> {
        let bad = || BadCue::Time(text.to_owned());
        let text = text.trim();
        let end = text.find(|c: char| !(c.is_ascii_digit() || c == '.')).unwrap_or(text.len());
        let count: f32 = text[..end].parse().map_err(|_| bad())?;
        let count = Some(count).filter(|count| (0.0..=LONGEST).contains(count)).ok_or_else(bad)?;
        match text[end..].trim() {
            "" | "s" | "second" | "seconds" => Ok(Self::Seconds(count)),
            "min" | "minute" | "minutes" if count * 60.0 <= LONGEST => Ok(Self::Seconds(count * 60.0)),
            "b" | "beat" | "beats" => Ok(Self::Beats(count)),
            "bar" | "bars" => Ok(Self::Bars(count)),
            _ => Err(bad()),
        }
    }
}

impl fmt::Display for CueTime {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let s = |count: f32| if count == 1.0 { "" } else { "s" };
        match self {
            Self::Seconds(0.0) => f.write_str("0"),
            Self::Seconds(count) => write!(f, "{count} s"),
            Self::Beats(count) => write!(f, "{count} beat{}", s(*count)),
            Self::Bars(count) => write!(f, "{count} bar{}", s(*count)),
        }
    }
}

/// The way in which a list goes on from a cue.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub enum GoesOn {
    /// By a hand that says go.
    #[default]
    ByHand,
    /// After a time, counted from when the cue began.
    After(CueTime),
    /// At the next boundary.
    On(Boundary),
    /// When the pattern ends that one of its tiers shows.
    PatternEnd,
    /// When an event comes from an input, by the name of the input.
    OnEvent(String, EventAddress),
}

impl FromStr for GoesOn {
    type Err = BadCue;
    fn from_str(text: &str) -> Result<Self, BadCue> {
        let text = text.trim();
        if text.is_empty() || text == "by hand" {
            return Ok(Self::ByHand);
        }
        if let Some(time) = text.strip_prefix("after ") {
            return Ok(Self::After(time.parse()?));
        }
        let bad = || BadCue::GoesOn(text.to_owned());
        if text == "at the end of a pattern" {
            return Ok(Self::PatternEnd);
        }
        let on = text.strip_prefix("on ").ok_or_else(bad)?.trim();
        if let Some(boundary) = Boundary::ALL.into_iter().find(|one| *one != Boundary::Now && one.name() == on) {
            return Ok(Self::On(boundary));
        }
        // The name of an input may have several words: the longest event that stands at the end is meant.
        let spaces = on.match_indices(' ').map(|(at, _)| at);
        let split = spaces.filter_map(|at| Some((&on[..at], on[at + 1..].parse::<EventAddress>().ok()?)));
        let (source, event) = split.min_by_key(|(source, _)| source.len()).ok_or_else(bad)?;
        Ok(Self::OnEvent(source.trim().to_owned(), event))
    }
}

impl fmt::Display for GoesOn {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::ByHand => f.write_str("by hand"),
            Self::After(time) => write!(f, "after {time}"),
            Self::On(boundary) => write!(f, "on {}", boundary.name()),
            Self::PatternEnd => f.write_str("at the end of a pattern"),
            Self::OnEvent(source, event) => write!(f, "on {source} {event}"),
        }
    }
}

macro_rules! as_text {
    ($type:ty) => {
        impl TryFrom<String> for $type {
            type Error = BadCue;
            fn try_from(text: String) -> Result<Self, BadCue> {
                text.parse()
            }
        }

        impl From<$type> for String {
            fn from(value: $type) -> Self {
                value.to_string()
            }
        }
    };
}

as_text!(CueTime);
as_text!(GoesOn);

/// The thing that a cue says of a tier. What it does not say stays as it is.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct CueTier {
    /// The name of the tier.
    pub tier: String,
    /// The look that it shows from then on.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub look: Option<String>,
    /// True if it goes out.
    #[serde(default, skip_serializing_if = "is_not")]
    pub out: bool,
    /// Its level in percent, 0..100.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub level: Option<f32>,
}

/// The level that a cue gives to a control.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct CueControl {
    /// The control, 1..64.
    pub control: u8,
    /// Its level in percent, 0..100.
    pub percent: f32,
}

/// A cue of a list.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Cue {
    /// Its number; the cues of a list stand in the order of theirs.
    pub number: CueNumber,
    /// Its name.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub name: String,
    /// A note for whoever runs it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
    /// A colour of its own by which it is found in the list, such as `#ff8800`.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub colour: String,
    /// The tiers that it says something of.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub tiers: Vec<CueTier>,
    /// True if every tier that it does not name goes out.
    #[serde(default, skip_serializing_if = "is_not")]
    pub others_out: bool,
    /// The master in percent, 0..100.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub master: Option<f32>,
    /// The tempo in beats a minute, 20..400.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tempo: Option<f32>,
    /// The speed of effects in times of their own, 0..8.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub speed: Option<f32>,
    /// The levels of controls.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub controls: Vec<CueControl>,
    /// Commands that it gives when it begins, as `splimo do` takes them.
    #[serde(rename = "do", default, skip_serializing_if = "Vec::is_empty")]
    pub does: Vec<CommandTemplate>,
    /// The time in which what it brings comes, and levels move.
    #[serde(default, skip_serializing_if = "is_none")]
    pub fade_in: CueTime,
    /// The time in which what goes out goes.
    #[serde(default, skip_serializing_if = "is_none")]
    pub fade_out: CueTime,
    /// The time between go and the fades.
    #[serde(default, skip_serializing_if = "is_none")]
    pub delay: CueTime,
    /// The way in which the list goes on from it.
    #[serde(default, skip_serializing_if = "is_by_hand")]
    pub then: GoesOn,
    /// The cue with which the list goes on from it again, for a loop.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub back_to: Option<CueNumber>,
    /// The number of times that the loop is run through; 0 is until somebody says go.
    #[serde(default, skip_serializing_if = "is_nought")]
    pub times: u16,
    /// True if heads that are dark go ahead to where it points them, while the list waits for it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub ahead: bool,
}

impl Cue {
    /// A cue that says nothing yet.
    #[must_use]
    pub fn new(number: CueNumber, name: &str) -> Self {
        Self {
            number,
            name: name.to_owned(),
            note: String::new(),
            colour: String::new(),
            tiers: Vec::new(),
            others_out: false,
            master: None,
            tempo: None,
            speed: None,
            controls: Vec::new(),
            does: Vec::new(),
            fade_in: CueTime::NONE,
            fade_out: CueTime::NONE,
            delay: CueTime::NONE,
            then: GoesOn::ByHand,
            back_to: None,
            times: 0,
            ahead: false,
        }
    }

    /// A cue that puts a look on a tier.
    #[must_use]
    pub fn of_look(number: CueNumber, tier: &str, look: &str) -> Self {
        let said = CueTier { tier: tier.to_owned(), look: Some(look.to_owned()), ..CueTier::default() };
        Self { tiers: vec![said], ..Self::new(number, look) }
    }

    /// The thing that it says of a tier, if it says any.
    #[must_use]
    pub fn tier(&self, name: &str) -> Option<&CueTier> {
        self.tiers.iter().find(|one| one.tier == name)
    }
}

/// A list of cues.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct CueList {
    /// Its name, unique among lists.
    pub name: String,
    /// Its priority, 0..100: it keeps its tiers from lists of lower ones, and above 0 from pads and other hands. Of the same, the latest
    /// has a tier.
    #[serde(default, skip_serializing_if = "is_low")]
    pub priority: u8,
    /// True if the first cue follows the last, and the last comes before the first.
    #[serde(default, skip_serializing_if = "is_not")]
    pub wrap: bool,
    /// The way in which it goes on from cues that say nothing of their own.
    #[serde(default, skip_serializing_if = "is_by_hand")]
    pub then: GoesOn,
    /// Its cues, in the order of their numbers.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub cues: Vec<Cue>,
}

impl CueList {
    /// An empty list.
    #[must_use]
    pub fn new(name: &str) -> Self {
        Self { name: name.to_owned(), priority: 0, wrap: false, then: GoesOn::ByHand, cues: Vec::new() }
    }

    /// The place of a cue in it.
    #[must_use]
    pub fn place(&self, number: CueNumber) -> Option<usize> {
        self.cues.binary_search_by_key(&number, |cue| cue.number).ok()
    }

    /// The way in which it goes on from the cue at a place.
    #[must_use]
    pub fn goes_on(&self, place: usize) -> &GoesOn {
        match self.cues.get(place).map(|cue| &cue.then) {
            None | Some(GoesOn::ByHand) => &self.then,
            Some(own) => own,
        }
    }

    /// A number for a new cue behind the one at a place, or at the end.
    #[must_use]
    pub fn free_number(&self, behind: Option<usize>) -> Option<CueNumber> {
        let Some(before) = behind.and_then(|place| self.cues.get(place)).or(self.cues.last()) else {
            return Some(CueNumber::ONE);
        };
        let after = behind.and_then(|place| self.cues.get(place + 1));
        match after {
            Some(after) => before.number.between(after.number),
            None => before.number.next(),
        }
    }
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks by reference")]
fn is_not(flag: &bool) -> bool {
    !*flag
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks by reference")]
fn is_none(time: &CueTime) -> bool {
    time.count() == 0.0
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks by reference")]
fn is_nought(times: &u16) -> bool {
    *times == 0
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks by reference")]
fn is_low(priority: &u8) -> bool {
    *priority == 0
}

fn is_by_hand(way: &GoesOn) -> bool {
    *way == GoesOn::ByHand
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn number(text: &str) -> CueNumber {
        text.parse().expect(text)
    }

    #[test]
    fn numbers_have_room_between_them_and_say_what_they_cannot_be() {
        assert_eq!(number("4").between(number("5")), Some(number("4.5")));
        assert_eq!(number("4").between(number("4.5")), Some(number("4.1")));
        assert_eq!(number("4").between(number("4.001")), None);
        assert_eq!(number("4").between(number("7")), Some(number("5")));
        assert_eq!(number("4.5").next(), Some(number("5")));
        assert_eq!(number("9999").next(), None);
        for bad in ["0", "-1", "10000", "4.0001", "four", ""] {
            assert!(bad.parse::<CueNumber>().is_err(), "{bad}");
        }
    }

    #[test]
    fn times_and_ways_to_go_on_are_read_as_people_write_them() {
        for (text, wanted) in [
            ("3", CueTime::Seconds(3.0)),
            ("1.5 s", CueTime::Seconds(1.5)),
            ("2 min", CueTime::Seconds(120.0)),
            ("2b", CueTime::Beats(2.0)),
            ("16 bars", CueTime::Bars(16.0)),
        ] {
            assert_eq!(text.parse(), Ok(wanted), "{text}");
        }
        for text in ["by hand", "after 3 s", "after 16 bars", "on 4 bars", "on music part drop", "on pad box note 36"] {
            assert_eq!(text.parse::<GoesOn>().expect(text).to_string(), text);
        }
        for bad in ["on now", "after", "on nothing at all", "soon", "after -3 s"] {
            assert!(bad.parse::<GoesOn>().is_err(), "{bad}");
        }
    }

    proptest! {
        #[test]
        fn a_number_is_itself_in_words_and_in_files(thousandths in 1u32..=9_999_999) {
            let number = CueNumber::try_from(f64::from(thousandths) / 1000.0).expect("in range");
            prop_assert_eq!(number.to_string().parse(), Ok(number));
            prop_assert_eq!(CueNumber::try_from(f64::from(number)), Ok(number));
        }

        #[test]
        fn a_time_is_itself_in_words(count in 0f32..1000.0, unit in 0usize..3) {
            let time = [CueTime::Seconds, CueTime::Beats, CueTime::Bars][unit](count);
            let read: CueTime = time.to_string().parse().expect("it is one");
            prop_assert_eq!(read.count(), count);
        }
    }
}
