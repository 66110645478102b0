//! The arguments of commands: how each kind is written and read.

use std::str::FromStr;

use serde::{Deserialize, Serialize};

use crate::CONTROLS;
use crate::setting::{self, SettingValue};
use crate::{BadCue, Boundary, CueNumber, LONGEST_TIMELINE, Look};
use crate::{HeldSlot, LightTest};

/// The form of arguments that only programs write.
pub const JSON: &str = "JSON";

/// An argument that can stand behind a command's name.
pub trait Argument: Sized {
    /// The forms in which it is written, in words.
    const TAKES: &'static str;
    /// The argument of a text; none where it is of another form.
    fn parse(text: &str) -> Option<Self>;
    /// The text of the argument.
    fn text(&self) -> String;
}

/// What stands in the place of an edit where none can be: in the commands that a show holds.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub enum Unwritten {}

impl Argument for Unwritten {
    const TAKES: &'static str = JSON;
    fn parse(_text: &str) -> Option<Self> {
        None
    }
    fn text(&self) -> String {
        match *self {}
    }
}

/// A place in a list, counted from 1 as people do.
impl Argument for usize {
    const TAKES: &'static str = "a whole number from 1";
    fn parse(text: &str) -> Option<Self> {
        text.parse().ok().filter(|number| *number > 0)
    }
    fn text(&self) -> String {
        self.to_string()
    }
}

impl Argument for i32 {
    const TAKES: &'static str = "a whole number, 1 if there is none";
    fn parse(text: &str) -> Option<Self> {
        if text.is_empty() { Some(1) } else { text.parse().ok() }
    }
    fn text(&self) -> String {
        self.to_string()
    }
}

impl Argument for f32 {
    const TAKES: &'static str = "a number";
    fn parse(text: &str) -> Option<Self> {
        text.parse().ok().filter(|x: &f32| x.is_finite())
    }
    fn text(&self) -> String {
        self.to_string()
    }
}

impl Argument for String {
    const TAKES: &'static str = "its name";
    fn parse(text: &str) -> Option<Self> {
        (!text.is_empty()).then(|| text.to_owned())
    }
    fn text(&self) -> String {
        self.clone()
    }
}

/// A control and its level.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct ControlLevel {
    /// The control, from 1.
    pub control: u8,
    /// Its level in percent, 0..100.
    pub percent: f32,
}

impl Argument for ControlLevel {
    const TAKES: &'static str = "a control from 1 to 64 and a percentage, such as 3 50";
    fn parse(text: &str) -> Option<Self> {
        let (control, percent) = text.split_once(' ')?;
        let control = control.parse().ok().filter(|c| (1..=CONTROLS).contains(&usize::from(*c)))?;
        let percent = percent.trim().parse().ok().filter(|p: &f32| p.is_finite())?;
        Some(Self { control, percent })
    }
    fn text(&self) -> String {
        format!("{} {}", self.control, self.percent)
    }
}

/// A part of one of the two colours of the stage.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct ColourPart {
    /// The colour, 0 or 1.
    pub colour: u8,
    /// Red, green or blue, from 0.
    pub part: u8,
    /// Its level in percent, 0..100.
    pub percent: f32,
}

/// The parts of a colour.
const PARTS: [&str; 3] = ["red", "green", "blue"];

impl Argument for ColourPart {
    const TAKES: &'static str = "colour 1 or 2, red, green or blue, and a percentage, such as 1 red 50";
    fn parse(text: &str) -> Option<Self> {
        let words: Vec<&str> = text.split_whitespace().collect();
        let [colour, part, percent] = words.as_slice() else { return None };
        let colour = colour.parse::<u8>().ok()?.checked_sub(1).filter(|colour| *colour < 2)?;
        let part = PARTS.iter().position(|known| known == part)? as u8;
        let percent = percent.parse().ok().filter(|p: &f32| p.is_finite())?;
        Some(Self { colour, part, percent })
    }
    fn text(&self) -> String {
        let part = PARTS.get(usize::from(self.part)).unwrap_or(&PARTS[0]);
        format!("{} {part} {}", self.colour + 1, self.percent)
    }
}

/// A level of something that has a name.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct NamedLevel {
    /// The name.
    pub name: String,
    /// Its level in percent, 0..100, or by how much it moves, -100..100.
    pub percent: f32,
}

impl Argument for NamedLevel {
    const TAKES: &'static str = "its name and a percentage, such as top 50";
    fn parse(text: &str) -> Option<Self> {
        let (name, percent) = text.rsplit_once(' ')?;
        let percent = percent.parse().ok().filter(|p: &f32| p.is_finite())?;
        Some(Self { name: name.trim().to_owned(), percent })
    }
    fn text(&self) -> String {
        format!("{} {}", self.name, self.percent)
    }
}

/// A cue of a list.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct CuePlace {
    /// The name of the list.
    pub list: String,
    /// The number of the cue.
    pub number: CueNumber,
}

impl Argument for CuePlace {
    const TAKES: &'static str = "a list and a cue of it, such as Opening/4.5";
    fn parse(text: &str) -> Option<Self> {
        let (list, number) = text.rsplit_once('/')?;
        Some(Self { list: Some(list.trim()).filter(|list| !list.is_empty())?.to_owned(), number: number.parse().ok()? })
    }
    fn text(&self) -> String {
        format!("{}/{}", self.list, self.number)
    }
}

impl FromStr for CuePlace {
    type Err = BadCue;
    fn from_str(text: &str) -> Result<Self, BadCue> {
        Self::parse(text).ok_or_else(|| BadCue::Number(text.to_owned()))
    }
}

/// A lane of a pattern.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct LanePlace {
    /// The name of the pattern.
    pub pattern: String,
    /// The number of the lane, from 1.
    pub lane: usize,
}

impl Argument for LanePlace {
    const TAKES: &'static str = "a pattern and the number of a lane of it, such as Drop Hits/2";
    fn parse(text: &str) -> Option<Self> {
        let (pattern, lane) = text.rsplit_once('/')?;
        let lane = lane.trim().parse().ok().filter(|lane| *lane > 0)?;
        let pattern = Some(pattern.trim()).filter(|pattern| !pattern.is_empty())?.to_owned();
        Some(Self { pattern, lane })
    }
    fn text(&self) -> String {
        format!("{}/{}", self.pattern, self.lane)
    }
}

/// Some cues of a list.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct CueSet {
    /// The name of the list.
    pub list: String,
    /// The numbers of the cues.
    pub numbers: Vec<CueNumber>,
}

impl Argument for CueSet {
    const TAKES: &'static str = "a list and cues of it, such as Opening/4.5 5";
    fn parse(text: &str) -> Option<Self> {
        let (list, numbers) = text.rsplit_once('/')?;
        let list = Some(list.trim()).filter(|list| !list.is_empty())?.to_owned();
        let numbers: Vec<CueNumber> = numbers.split_whitespace().map(str::parse).collect::<Result<_, _>>().ok()?;
        (!numbers.is_empty()).then_some(Self { list, numbers })
    }
    fn text(&self) -> String {
        let numbers: Vec<String> = self.numbers.iter().map(CueNumber::to_string).collect();
        format!("{}/{}", self.list, numbers.join(" "))
    }
}

/// A cue to go to, and the time that it takes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct CueTarget {
    /// The cue.
    pub cue: CuePlace,
    /// The time in seconds, 0..3600.
    pub seconds: f32,
}

impl Argument for CueTarget {
    const TAKES: &'static str =
        "a list and a cue of it, and seconds if it is to take any, such as Opening/4.5 or Opening/4.5 3";
    fn parse(text: &str) -> Option<Self> {
        let at_once = || Some(Self { cue: CuePlace::parse(text)?, seconds: 0.0 });
        let Some((cue, seconds)) = text.rsplit_once(' ') else { return at_once() };
        match (CuePlace::parse(cue), seconds.parse().ok().filter(|s| (0.0..=3600.0).contains(s))) {
            (Some(cue), Some(seconds)) => Some(Self { cue, seconds }),
            _ => at_once(),
        }
    }
    fn text(&self) -> String {
        let cue = self.cue.text();
        if self.seconds > 0.0 { format!("{cue} {}", self.seconds) } else { cue }
    }
}

/// A place of a timeline.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct TimelinePlace {
    /// The name of the timeline.
    pub name: String,
    /// The place, in its unit, from 0.
    pub at: f64,
}

impl Argument for TimelinePlace {
    const TAKES: &'static str = "a timeline and a place in its seconds or bars, such as Anchor Song 12.5";
    fn parse(text: &str) -> Option<Self> {
        let (name, at) = text.rsplit_once(' ')?;
        let at = at.parse().ok().filter(|at| (0.0..=f64::from(LONGEST_TIMELINE)).contains(at))?;
        Some(Self { name: name.trim().to_owned(), at })
    }
    fn text(&self) -> String {
        format!("{} {}", self.name, self.at)
    }
}

impl Argument for Boundary {
    const TAKES: &'static str = "one of now, beat, bar, 4 bars, phrase";
    fn parse(text: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|boundary| boundary.name() == text)
    }
    fn text(&self) -> String {
        self.name().to_owned()
    }
}

impl Argument for bool {
    const TAKES: &'static str = "on or off";
    fn parse(text: &str) -> Option<Self> {
        match text {
            "on" => Some(true),
            "off" => Some(false),
            _ => None,
        }
    }
    fn text(&self) -> String {
        if *self { "on" } else { "off" }.to_owned()
    }
}

/// A look, or one of its layers.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct LayerPlace {
    /// The name of the look.
    pub look: String,
    /// The layer, from 0; none means all.
    pub layer: Option<usize>,
}

impl Argument for LayerPlace {
    const TAKES: &'static str = "a look, or a layer of one, such as 2/Undertow";
    fn parse(text: &str) -> Option<Self> {
        let numbered = text.split_once('/').and_then(|(number, look)| Some((number.parse::<usize>().ok()?, look)));
        match numbered {
            Some((number, look)) if number > 0 => Some(Self { look: look.to_owned(), layer: Some(number - 1) }),
            _ => (!text.is_empty()).then(|| Self { look: text.to_owned(), layer: None }),
        }
    }
    fn text(&self) -> String {
        match self.layer {
            Some(layer) => format!("{}/{}", layer + 1, self.look),
            None => self.look.clone(),
        }
    }
}

/// A setting and the value it is to have.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct SettingChange {
    /// The name of the setting; see [`crate::setting`].
    pub name: String,
    /// The value.
    pub value: SettingValue,
}

impl Argument for SettingChange {
    const TAKES: &'static str = "a setting and its value, such as fade 2";
    fn parse(text: &str) -> Option<Self> {
        let (name, value) = text.split_once(' ')?;
        let value = setting::find(name)?.parse(value.trim())?;
        Some(Self { name: name.to_owned(), value })
    }
    fn text(&self) -> String {
        format!("{} {}", self.name, self.value)
    }
}

/// A setting and the steps by which it is to move.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct SettingNudge {
    /// The name of the setting; see [`crate::setting`].
    pub name: String,
    /// The steps upwards; below zero, downwards.
    pub by: i32,
}

impl Argument for SettingNudge {
    const TAKES: &'static str = "a setting, and steps if it is not one, such as fade -1";
    fn parse(text: &str) -> Option<Self> {
        let (name, by) = text.split_once(' ').unwrap_or((text, ""));
        setting::find(name)?;
        Some(Self { name: name.to_owned(), by: i32::parse(by.trim())? })
    }
    fn text(&self) -> String {
        format!("{} {}", self.name, self.by)
    }
}

/// Fixtures count from 1 here, as on the list of the view Rig. What the short form cannot say is written as JSON.
impl Argument for LightTest {
    const TAKES: &'static str = "off, flash, identify 3 4, walk 3 4, or hold 1.10 255 (universe.channel and value)";
    fn parse(text: &str) -> Option<Self> {
        if text.starts_with(['{', '"']) {
            return serde_json::from_str(text).ok();
        }
        let mut words = text.split_whitespace();
        let kind = words.next()?;
        let mut fixtures = || -> Option<Vec<u32>> {
            let numbers: Option<Vec<u32>> =
                words.by_ref().map(|word| word.parse::<u32>().ok()?.checked_sub(1)).collect();
            numbers.filter(|numbers| !numbers.is_empty())
        };
        match kind {
            "off" => Some(Self::Off).filter(|_| words.next().is_none()),
            "flash" => Some(Self::Flash).filter(|_| words.next().is_none()),
            "identify" => fixtures().map(Self::Identify),
            "walk" => fixtures().map(|fixtures| Self::Walk { fixtures, at: 0, speed: 0.0 }),
            "hold" => {
                let words: Vec<&str> = words.collect();
                let (pairs, rest) = words.as_chunks::<2>();
                let held: Option<Vec<HeldSlot>> = pairs.iter().map(|[place, value]| held(place, value)).collect();
                held.filter(|held| rest.is_empty() && !held.is_empty()).map(Self::Hold)
            }
            _ => None,
        }
    }
    fn text(&self) -> String {
        let numbers =
            |fixtures: &[u32]| -> String { fixtures.iter().map(|fixture| format!(" {}", fixture + 1)).collect() };
        match self {
            Self::Off => "off".to_owned(),
            Self::Flash => "flash".to_owned(),
            Self::Identify(fixtures) if !fixtures.is_empty() => format!("identify{}", numbers(fixtures)),
            Self::Walk { fixtures, at: 0, speed: 0.0 } if !fixtures.is_empty() => format!("walk{}", numbers(fixtures)),
            Self::Identify(_) | Self::Walk { .. } | Self::Hold(_) => serde_json::to_string(self).unwrap_or_default(),
        }
    }
}

fn held(place: &str, value: &str) -> Option<HeldSlot> {
    let (universe, channel) = place.split_once('.')?;
    let channel = channel.parse().ok().filter(|channel| (1..=512).contains(channel))?;
    Some(HeldSlot { universe: universe.parse().ok()?, channel, value: value.parse().ok()? })
}

/// Writes arguments without a shorter text form as JSON.
macro_rules! as_json {
    ($kind:ty) => {
        impl Argument for $kind {
            const TAKES: &'static str = JSON;
            fn parse(text: &str) -> Option<Self> {
                serde_json::from_str(text).ok()
            }
            fn text(&self) -> String {
                serde_json::to_string(self).unwrap_or_default()
            }
        }
    };
}

as_json!(Vec<(String, Look)>);
