//! The arguments of commands. A kind of argument knows how it is read and written, which numbers it takes, what of a show it names,
//! and which part of it is a file; whatever is said about commands elsewhere is derived from that.

mod name;
mod number;
mod place;
mod switch;

use std::fmt;

use serde::Serialize;
use serde::de::DeserializeOwned;

use crate::reference::ReferenceKind;

pub use name::{
    AimCalled, File, Input, InputModel, Key, LightsNamed, List, ListAndFile, LookOnTier, NewAim, NewCue, NewLook,
    ProgramNamed, Target, TierNamed, TimelineAndFile, TimelineNamed, Word,
};
pub use number::{
    BeatStep, BeatTimes, Bpm, FadeBeats, FlashRate, GroupLevel, HeadPlace, HeadStep, MOST_SPEED, MOST_STROBE,
    MasterLevel, MasterStep, MusicSeconds, NamedLevel, Recolouring, TierLevel, TierStep, Times,
};
pub use place::{
    ColourPart, ControlLevel, CuePlace, CueSet, CueTarget, LanePlace, LayerPlace, SettingChange, SettingNudge,
    TimelinePlace,
};
pub(super) use switch::BlindLooks;

/// The form of arguments that only programs write.
pub const JSON: &str = "JSON";

/// The number in an argument: what a fader may move.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Number {
    /// The words for it before the number, as in `a master of`.
    pub called: &'static str,
    /// The lowest and the highest that is taken.
    pub range: [f32; 2],
    /// The lowest and the highest that a fader gives, where one may be bound to the command without more ado.
    pub fader: Option<[f32; 2]>,
    /// True if the command sets something to the number, whatever it was before: of several the last counts.
    pub sets: bool,
    /// True if it is moved on and on, as by a fader, and is not asked for once.
    pub gradual: bool,
}

impl Number {
    /// A number of a range that a command sets something to, gradually, by a fader of another range.
    const fn set(called: &'static str, range: [f32; 2], fader: [f32; 2]) -> Self {
        Self { called, range, fader: Some(fader), sets: true, gradual: true }
    }

    /// A number by which something is moved.
    const fn step(called: &'static str, range: [f32; 2]) -> Self {
        Self { called, range, fader: None, sets: false, gradual: true }
    }

    /// The reason why a number is not taken, with the range.
    fn refusal(&self, number: f32) -> Option<String> {
        let [from, to] = self.range;
        let within = (from..=to).contains(&number);
        (!within).then(|| format!("{} {number} is out of range; give it a number from {from} to {to}", self.called))
    }
}

/// Whoever looks at what an argument names, and may change it.
pub trait Visitor {
    /// Something that is named, which may be any of some kinds. Whether the command stays.
    fn name(&mut self, kinds: &'static [ReferenceKind], name: &mut String) -> bool;
    /// The name of something that the command makes, or makes anew where it is there. Whether the command stays.
    fn new_name(&mut self, kinds: &'static [ReferenceKind], name: &mut String) -> bool;
    /// The path of a file.
    fn file(&mut self, path: &mut String);
    /// True if something of one of some kinds has a name: where marks may be part of a name, it says where one ends.
    fn is_known(&mut self, kinds: &'static [ReferenceKind], name: &str) -> bool;
}

/// A kind of argument that can stand behind a command's name.
pub trait Argument {
    /// The argument as a program has it.
    type Value: Clone + fmt::Debug + PartialEq + Serialize + DeserializeOwned;
    /// The forms in which it is written, in words.
    const TAKES: &'static str;
    /// The number in it, if there is one that can be moved.
    const NUMBER: Option<Number> = None;
    /// The kinds of things that it names, in the order in which they stand there: what completes it.
    const NAMES: &'static [ReferenceKind] = &[];

    /// The argument of a text; none where it is of another form.
    fn parse(text: &str) -> Option<Self::Value>;
    /// The text of an argument.
    fn text(value: &Self::Value) -> String;
    /// Its number.
    fn number(_value: &Self::Value) -> Option<f32> {
        None
    }
    /// Puts another number into it, rounded to what it takes. False if it has none, or does not take this one.
    fn set_number(_value: &mut Self::Value, _number: f32) -> bool {
        false
    }
    /// Shows what it names to a visitor. Whether the command stays.
    fn visit(_value: &mut Self::Value, _visitor: &mut dyn Visitor) -> bool {
        true
    }

    /// The reason why its number is out of range, with the range.
    fn refusal(value: &Self::Value) -> Option<String> {
        Self::NUMBER?.refusal(Self::number(value)?)
    }
}

/// What stands in the place of an edit where none can be: in the commands that a show holds.
#[derive(Debug, Clone, PartialEq, Serialize, serde::Deserialize)]
pub enum Unwritten {}

impl Argument for Unwritten {
    type Value = Self;
    const TAKES: &'static str = JSON;
    fn parse(_text: &str) -> Option<Self> {
        None
    }
    fn text(value: &Self) -> String {
        match *value {}
    }
}
