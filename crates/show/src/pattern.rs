//! Patterns: some bars of events on a grid of note values, in lanes for level, colour, look and strobe.

use std::fmt;

use serde::{Deserialize, Deserializer, Serialize, Serializer};

use super::{Repeat, Span};

/// Ticks in a beat: those of a note of 1/32 and of its triplet are whole.
pub const TICKS: u32 = 96;
/// Beats in a bar of a pattern.
pub const PATTERN_BAR: u32 = 4;
/// The most bars, lanes and events of a lane.
pub const MOST_BARS: u32 = 64;
/// The most lanes of a pattern.
pub const MOST_LANES: usize = 32;
/// The most events of a lane: one on every place of the finest grid.
pub const MOST_LANE_EVENTS: usize = (MOST_BARS * PATTERN_BAR * TICKS / 8) as usize;
/// The fastest strobe of a lane, in flashes a second.
pub const FASTEST_STROBE: f32 = 25.0;

/// A place in a pattern, or a length, in ticks; in a file it is a number of beats.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Default, Hash)]
pub struct Ticks(pub u32);

impl Ticks {
    /// So many beats, to the nearest tick; none below zero and above the longest pattern.
    #[must_use]
    pub fn of_beats(beats: f64) -> Option<Self> {
        let ticks = (beats * f64::from(TICKS)).round();
        (0.0..=f64::from(MOST_BARS * PATTERN_BAR * TICKS)).contains(&ticks).then_some(Self(ticks as u32))
    }

    /// The same in beats.
    #[must_use]
    pub fn beats(self) -> f64 {
        f64::from(self.0) / f64::from(TICKS)
    }
}

impl Serialize for Ticks {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        // Four digits tell every tick from the next.
        serializer.serialize_f64((self.beats() * 10_000.0).round() / 10_000.0)
    }
}

impl<'de> Deserialize<'de> for Ticks {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let beats = f64::deserialize(deserializer)?;
        let most = MOST_BARS * PATTERN_BAR;
        let refused =
            || serde::de::Error::custom(format!("{beats} beats are not 0 to {most}, as long as a pattern is"));
        Self::of_beats(beats).ok_or_else(refused)
    }
}

macro_rules! words {
    ($(#[$doc:meta])* $name:ident { $($(#[$variant_doc:meta])* $variant:ident = $word:literal),* $(,)? }) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Hash, Serialize, Deserialize)]
        pub enum $name {
            $($(#[$variant_doc])* #[serde(rename = $word)] $variant),*
        }

        impl $name {
            /// Every one.
            pub const ALL: &'static [Self] = &[$(Self::$variant),*];

            /// The word for it.
            #[must_use]
            pub fn name(self) -> &'static str {
                match self { $(Self::$variant => $word),* }
            }
        }

        impl fmt::Display for $name {
            fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str(self.name())
            }
        }
    };
}

words! {
    /// A note value: the grid of a pattern, and by how much each light of a lane is later than the one before. A `t` is a triplet's.
    Note {
        /// A whole bar.
        Bar = "bar",
        /// Half a bar.
        Half = "1/2",
        /// A beat.
        #[default]
        Quarter = "1/4",
        /// Two thirds of a beat.
        QuarterTriplet = "1/4t",
        /// Half a beat.
        Eighth = "1/8",
        /// A third of a beat.
        EighthTriplet = "1/8t",
        /// A quarter of a beat.
        Sixteenth = "1/16",
        /// A sixth of a beat.
        SixteenthTriplet = "1/16t",
        /// An eighth of a beat.
        ThirtySecond = "1/32",
        /// A twelfth of a beat.
        ThirtySecondTriplet = "1/32t",
    }
}

impl Note {
    /// Its length.
    #[must_use]
    pub fn ticks(self) -> Ticks {
        Ticks(match self {
            Self::Bar => PATTERN_BAR * TICKS,
            Self::Half => 2 * TICKS,
            Self::Quarter => TICKS,
            Self::QuarterTriplet => TICKS * 2 / 3,
            Self::Eighth => TICKS / 2,
            Self::EighthTriplet => TICKS / 3,
            Self::Sixteenth => TICKS / 4,
            Self::SixteenthTriplet => TICKS / 6,
            Self::ThirtySecond => TICKS / 8,
            Self::ThirtySecondTriplet => TICKS / 12,
        })
    }
}

words! {
    /// The thing that the events of a lane set.
    LaneKind {
        /// The level of what the pattern shows, and of what is below it.
        #[default]
        Level = "level",
        /// A colour.
        Colour = "colour",
        /// A look.
        Look = "look",
        /// Flashes of what the pattern shows, and of what is below it.
        Strobe = "strobe",
        /// The direction of heads.
        Aim = "aim",
    }
}

words! {
    /// The course of a level over an event.
    EventShape {
        /// It is there all along.
        #[default]
        On = "on",
        /// It rises from nothing.
        Up = "up",
        /// It falls to nothing.
        Down = "down",
        /// It rises and falls.
        Pulse = "pulse",
        /// It is there at once and dies away.
        Decay = "decay",
        /// It follows points of its own.
        Curve = "curve",
    }
}

/// An event of a lane.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct PatternEvent {
    /// The place at which it begins, in beats.
    pub at: Ticks,
    /// Its length, in beats.
    pub length: Ticks,
    /// In a level lane: the highest level, in percent, 0..100.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub level: Option<f32>,
    /// In a level lane: its course.
    #[serde(default, skip_serializing_if = "is_on")]
    pub shape: EventShape,
    /// In a level lane: the points of its course at even distances, in percent of the level.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub curve: Vec<f32>,
    /// In a colour lane: the colour, such as `#ff8000` or `{Foam}`. A gradient of the palette, and `rainbow`, run over its length.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub colour: Option<String>,
    /// In a colour lane: true if it fades to the colour of the next event over its length.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub fades: bool,
    /// In a look lane: the look.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub look: Option<String>,
    /// In a strobe lane: flashes a second, above 0 to 25.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rate: Option<f32>,
    /// In an aim lane: the aim.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub aim: Option<String>,
    /// In an aim lane: the time in which heads glide there from where they were, in beats; without it, as fast as they can.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub glide: Option<Ticks>,
}

fn is_on(shape: &EventShape) -> bool {
    *shape == EventShape::On
}

impl PatternEvent {
    /// The place at which it ends.
    #[must_use]
    pub fn end(&self) -> Ticks {
        Ticks(self.at.0 + self.length.0)
    }

    /// The level at a place in it, 0..1 from its beginning to its end, in percent.
    #[must_use]
    pub fn level_at(&self, share: f32) -> f32 {
        let level = self.level.unwrap_or(100.0);
        let part = match self.shape {
            EventShape::On => 1.0,
            EventShape::Up => share,
            EventShape::Down => 1.0 - share,
            EventShape::Pulse => 16.0 * (share * (1.0 - share)).powi(2),
            EventShape::Decay => (1.0 - share).powi(4),
            EventShape::Curve => {
                let last = self.curve.len().saturating_sub(1);
                let place = share.clamp(0.0, 1.0) * last as f32;
                let point = |at: usize| self.curve.get(at.min(last)).copied().unwrap_or(100.0) / 100.0;
                let (from, to) = (point(place as usize), point(place as usize + 1));
                from + (to - from) * place.fract()
            }
        };
        level * part
    }
}

/// A lane: events for some lights.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Lane {
    /// The thing that its events set.
    #[serde(rename = "of", default)]
    pub kind: LaneKind,
    /// Names of groups and fixtures; empty means every light.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub lights: Vec<String>,
    /// By how much each light is later than the one before; without it they are together.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub later: Option<Note>,
    /// The order in which lights are later: of all of them, of each group or of each fixture.
    #[serde(default = "in_order", skip_serializing_if = "is_in_order")]
    pub order: Span,
    /// The way round in which the order goes.
    #[serde(default, skip_serializing_if = "is_alike")]
    pub turned: Repeat,
    /// A number by which the order is mixed; without it, it is not.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mixed: Option<u32>,
    /// In a level lane: the level where there is no event, in percent; without it, as it is below.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rest: Option<f32>,
    /// True if it is left out.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub mute: bool,
    /// Its events, in the order of their places; none overlaps another.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub events: Vec<PatternEvent>,
}

fn in_order() -> Span {
    Span::Order
}

fn is_in_order(span: &Span) -> bool {
    *span == Span::Order
}

fn is_alike(repeat: &Repeat) -> bool {
    *repeat == Repeat::Alike
}

impl Lane {
    /// An empty lane of a kind for all lights.
    #[must_use]
    pub fn new(kind: LaneKind) -> Self {
        Self { kind, order: Span::Order, ..Self::default() }
    }

    /// The event that a place lies in, by its place in the lane.
    #[must_use]
    pub fn event_at(&self, at: Ticks) -> Option<usize> {
        let begun = self.events.partition_point(|event| event.at <= at);
        let last = begun.checked_sub(1)?;
        (at < self.events[last].end()).then_some(last)
    }
}

/// A pattern.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Pattern {
    /// Its length in bars of four beats, 1..64.
    pub bars: u32,
    /// The grid on which events are put.
    #[serde(default, skip_serializing_if = "is_quarter")]
    pub grid: Note,
    /// True if it plays once, and not over and over.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub once: bool,
    /// The times that it is faster than the clock, such as 0.5 or 2.
    #[serde(default = "one", skip_serializing_if = "is_one")]
    pub speed: f64,
    /// Its own tempo in beats a minute, where it does not follow the clock.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tempo: Option<f64>,
    /// Its lanes, the lowest first: each works on what those before it show.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub lanes: Vec<Lane>,
}

fn is_quarter(note: &Note) -> bool {
    *note == Note::Quarter
}

fn one() -> f64 {
    1.0
}

fn is_one(speed: &f64) -> bool {
    *speed == 1.0
}

impl Pattern {
    /// An empty pattern of so many bars on a grid of 1/16.
    #[must_use]
    pub fn new(bars: u32) -> Self {
        Self { bars, grid: Note::Sixteenth, once: false, speed: 1.0, tempo: None, lanes: Vec::new() }
    }

    /// Its length.
    #[must_use]
    pub fn length(&self) -> Ticks {
        Ticks(self.bars * PATTERN_BAR * TICKS)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_note_is_whole_ticks_and_stays_so_in_a_file() {
        for note in Note::ALL {
            for count in [1, 5, 7] {
                let ticks = Ticks(note.ticks().0 * count);
                let text = toml::Value::try_from(ticks).expect("a number").to_string();
                let value: toml::Value = text.parse::<f64>().expect("a number").into();
                assert_eq!(value.try_into::<Ticks>().expect("a place"), ticks, "{note} {text}");
            }
        }
        assert_eq!(Note::ThirtySecondTriplet.ticks().0 * 12, TICKS);
        assert_eq!((Ticks::of_beats(-0.1), Ticks::of_beats(257.0)), (None, None));
    }

    #[test]
    fn the_event_at_a_place_is_found() {
        let event = |at: u32, length: u32| PatternEvent { at: Ticks(at), length: Ticks(length), ..Default::default() };
        let lane = Lane { events: vec![event(0, 10), event(20, 10)], ..Lane::new(LaneKind::Level) };
        let found = |at| lane.event_at(Ticks(at));
        assert_eq!([0, 9, 10, 20, 30].map(found), [Some(0), Some(0), None, Some(1), None]);
    }
}
