//! Arguments that are a place in the show: a cue, a lane, a layer, a control, a setting; some with a number behind it.

use std::str::FromStr;

use serde::{Deserialize, Serialize};

use super::number::{finite, hundredths, put};
use super::{Argument, Number, Visitor};
use crate::reference::ReferenceKind;
use crate::setting::{self, SettingKind, SettingValue};
use crate::{BadCue, CONTROLS, CueNumber, LONGEST_TIMELINE};

/// The longest fade to a cue, in seconds.
const LONGEST_FADE: f32 = 3600.0;

/// A control and its level.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct ControlLevel {
    /// The control, from 1.
    pub control: u8,
    /// Its level in percent, 0..100.
    pub percent: f32,
}

impl Argument for ControlLevel {
    type Value = Self;
    const TAKES: &'static str = "a control from 1 to 64 and a percentage, such as 3 50";
    const NUMBER: Option<Number> = Some(Number::set("a level of", [0.0, 100.0], [0.0, 100.0]));
    const NAMES: &'static [ReferenceKind] = &[ReferenceKind::Control];
    fn parse(text: &str) -> Option<Self> {
        let (control, percent) = text.split_once(' ')?;
        let control = control.parse().ok().filter(|c| (1..=CONTROLS).contains(&usize::from(*c)))?;
        let percent = finite(percent.trim())?;
        Some(Self { control, percent })
    }
    fn text(value: &Self) -> String {
        format!("{} {}", value.control, value.percent)
    }
    fn number(value: &Self) -> Option<f32> {
        Some(value.percent)
    }
    fn set_number(value: &mut Self, number: f32) -> bool {
        put(&mut value.percent, number, Self::NUMBER)
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
    type Value = Self;
    const TAKES: &'static str = "colour 1 or 2, red, green or blue, and a percentage, such as 1 red 50";
    const NUMBER: Option<Number> = Some(Number { fader: None, ..Number::set("a part of", [0.0, 100.0], [0.0, 100.0]) });
    fn parse(text: &str) -> Option<Self> {
        let words: Vec<&str> = text.split_whitespace().collect();
        let [colour, part, percent] = words.as_slice() else { return None };
        let colour = colour.parse::<u8>().ok()?.checked_sub(1).filter(|colour| *colour < 2)?;
        let part = PARTS.iter().position(|known| known == part)? as u8;
        let percent = finite(percent)?;
        Some(Self { colour, part, percent })
    }
    fn text(value: &Self) -> String {
        let part = PARTS.get(usize::from(value.part)).unwrap_or(&PARTS[0]);
        format!("{} {part} {}", value.colour + 1, value.percent)
    }
    fn number(value: &Self) -> Option<f32> {
        Some(value.percent)
    }
    fn set_number(value: &mut Self, number: f32) -> bool {
        put(&mut value.percent, number, Self::NUMBER)
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
    type Value = Self;
    const TAKES: &'static str = "a list and a cue of it, such as Opening/4.5";
    const NAMES: &'static [ReferenceKind] = &[ReferenceKind::CueList];
    fn parse(text: &str) -> Option<Self> {
        let (list, number) = text.rsplit_once('/')?;
        Some(Self { list: Some(list.trim()).filter(|list| !list.is_empty())?.to_owned(), number: number.parse().ok()? })
    }
    fn text(value: &Self) -> String {
        format!("{}/{}", value.list, value.number)
    }
    fn visit(value: &mut Self, visitor: &mut dyn Visitor) -> bool {
        visitor.name(&[ReferenceKind::CueList], &mut value.list)
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
    type Value = Self;
    const TAKES: &'static str = "a pattern and the number of a lane of it, such as Drop Hits/2";
    const NAMES: &'static [ReferenceKind] = &[ReferenceKind::Look];
    fn parse(text: &str) -> Option<Self> {
        let (pattern, lane) = text.rsplit_once('/')?;
        let lane = lane.trim().parse().ok().filter(|lane| *lane > 0)?;
        let pattern = Some(pattern.trim()).filter(|pattern| !pattern.is_empty())?.to_owned();
        Some(Self { pattern, lane })
    }
    fn text(value: &Self) -> String {
        format!("{}/{}", value.pattern, value.lane)
    }
    fn visit(value: &mut Self, visitor: &mut dyn Visitor) -> bool {
        visitor.name(&[ReferenceKind::Look], &mut value.pattern)
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
    type Value = Self;
    const TAKES: &'static str = "a list and cues of it, such as Opening/4.5 5";
    const NAMES: &'static [ReferenceKind] = &[ReferenceKind::CueList];
    fn parse(text: &str) -> Option<Self> {
        let (list, numbers) = text.rsplit_once('/')?;
        let list = Some(list.trim()).filter(|list| !list.is_empty())?.to_owned();
        let numbers: Vec<CueNumber> = numbers.split_whitespace().map(str::parse).collect::<Result<_, _>>().ok()?;
        (!numbers.is_empty()).then_some(Self { list, numbers })
    }
    fn text(value: &Self) -> String {
        let numbers: Vec<String> = value.numbers.iter().map(CueNumber::to_string).collect();
        format!("{}/{}", value.list, numbers.join(" "))
    }
    fn visit(value: &mut Self, visitor: &mut dyn Visitor) -> bool {
        visitor.name(&[ReferenceKind::CueList], &mut value.list)
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
    type Value = Self;
    const TAKES: &'static str =
        "a list and a cue of it, and seconds if it is to take any, such as Opening/4.5 or Opening/4.5 3";
    const NAMES: &'static [ReferenceKind] = &[ReferenceKind::CueList];
    fn parse(text: &str) -> Option<Self> {
        let at_once = || Some(Self { cue: CuePlace::parse(text)?, seconds: 0.0 });
        let Some((cue, seconds)) = text.rsplit_once(' ') else { return at_once() };
        match (CuePlace::parse(cue), seconds.parse().ok().filter(|s| (0.0..=LONGEST_FADE).contains(s))) {
            (Some(cue), Some(seconds)) => Some(Self { cue, seconds }),
            _ => at_once(),
        }
    }
    fn text(value: &Self) -> String {
        let cue = CuePlace::text(&value.cue);
        if value.seconds > 0.0 { format!("{cue} {}", value.seconds) } else { cue }
    }
    fn number(value: &Self) -> Option<f32> {
        Some(value.seconds)
    }
    fn set_number(value: &mut Self, number: f32) -> bool {
        let taken = (0.0..=LONGEST_FADE).contains(&number);
        value.seconds = if taken { hundredths(number) } else { value.seconds };
        taken
    }
    fn visit(value: &mut Self, visitor: &mut dyn Visitor) -> bool {
        CuePlace::visit(&mut value.cue, visitor)
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
    type Value = Self;
    const TAKES: &'static str = "a timeline and a place in its seconds or bars, such as Anchor Song 12.5";
    const NAMES: &'static [ReferenceKind] = &[ReferenceKind::Timeline];
    fn parse(text: &str) -> Option<Self> {
        let (name, at) = text.rsplit_once(' ')?;
        let at = at.parse().ok().filter(|at| (0.0..=f64::from(LONGEST_TIMELINE)).contains(at))?;
        Some(Self { name: name.trim().to_owned(), at })
    }
    fn text(value: &Self) -> String {
        format!("{} {}", value.name, value.at)
    }
    fn number(value: &Self) -> Option<f32> {
        Some(value.at as f32)
    }
    fn set_number(value: &mut Self, number: f32) -> bool {
        let at = (f64::from(number) * 100.0).round() / 100.0;
        let taken = (0.0..=f64::from(LONGEST_TIMELINE)).contains(&at);
        value.at = if taken { at } else { value.at };
        taken
    }
    fn visit(value: &mut Self, visitor: &mut dyn Visitor) -> bool {
        visitor.name(&[ReferenceKind::Timeline], &mut value.name)
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
    type Value = Self;
    const TAKES: &'static str = "a look, or a layer of one, such as 2/Undertow";
    const NAMES: &'static [ReferenceKind] = &[ReferenceKind::Look];
    fn parse(text: &str) -> Option<Self> {
        let numbered = text.split_once('/').and_then(|(number, look)| Some((number.parse::<usize>().ok()?, look)));
        match numbered {
            Some((number, look)) if number > 0 => Some(Self { look: look.to_owned(), layer: Some(number - 1) }),
            _ => (!text.is_empty()).then(|| Self { look: text.to_owned(), layer: None }),
        }
    }
    fn text(value: &Self) -> String {
        match value.layer {
            Some(layer) => format!("{}/{}", layer + 1, value.look),
            None => value.look.clone(),
        }
    }
    fn visit(value: &mut Self, visitor: &mut dyn Visitor) -> bool {
        visitor.name(&[ReferenceKind::Look], &mut value.look)
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
    type Value = Self;
    const TAKES: &'static str = "a setting and its value, such as fade 2";
    const NAMES: &'static [ReferenceKind] = &[ReferenceKind::Setting];
    fn parse(text: &str) -> Option<Self> {
        let (name, value) = text.split_once(' ')?;
        let value = setting::find(name)?.parse(value.trim())?;
        Some(Self { name: name.to_owned(), value })
    }
    fn text(value: &Self) -> String {
        format!("{} {}", value.name, value.value)
    }
    fn number(value: &Self) -> Option<f32> {
        match value.value {
            SettingValue::Number(number) => Some(number),
            SettingValue::Word(_) | SettingValue::Flag(_) => None,
        }
    }
    fn set_number(value: &mut Self, number: f32) -> bool {
        let is_number = matches!(value.value, SettingValue::Number(_));
        if is_number {
            value.value = SettingValue::Number(hundredths(number));
        }
        is_number
    }
    fn visit(value: &mut Self, visitor: &mut dyn Visitor) -> bool {
        let is_look = setting::find(&value.name).is_some_and(|spec| spec.kind == SettingKind::Look);
        match &mut value.value {
            SettingValue::Word(look) if is_look && !look.is_empty() => visitor.name(&[ReferenceKind::Look], look),
            SettingValue::Word(_) | SettingValue::Number(_) | SettingValue::Flag(_) => true,
        }
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
    type Value = Self;
    const TAKES: &'static str = "a setting, and steps if it is not one, such as fade -1";
    const NUMBER: Option<Number> = Some(Number::step("a nudge of", [i32::MIN as f32, i32::MAX as f32]));
    const NAMES: &'static [ReferenceKind] = &[ReferenceKind::Setting];
    fn parse(text: &str) -> Option<Self> {
        let (name, by) = text.split_once(' ').unwrap_or((text, ""));
        setting::find(name)?;
        Some(Self { name: name.to_owned(), by: <i32 as Argument>::parse(by.trim())? })
    }
    fn text(value: &Self) -> String {
        format!("{} {}", value.name, value.by)
    }
    fn number(value: &Self) -> Option<f32> {
        Some(value.by as f32)
    }
    fn set_number(value: &mut Self, number: f32) -> bool {
        value.by = number.round() as i32;
        number.is_finite()
    }
}
