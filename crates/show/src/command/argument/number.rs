//! Arguments that are numbers, alone or behind the name of what they move.

use serde::{Deserialize, Serialize};

use super::name::LIGHTS;
use super::{Argument, Number, Visitor};
use crate::reference::ReferenceKind;
use splimo_time::tempo::{FASTEST, SLOWEST};

/// The highest speed of effects, in times their own.
pub const MOST_SPEED: f32 = 8.0;
/// The highest rate of the strobe, in flashes a second.
pub const MOST_STROBE: f32 = 25.0;

/// All of a percentage.
const PERCENT: [f32; 2] = [0.0, 100.0];
/// All of a percentage, up or down.
const UP_AND_DOWN: [f32; 2] = [-100.0, 100.0];

/// A number rounded to hundredths, as texts have it.
pub(super) fn hundredths(number: f32) -> f32 {
    (number * 100.0).round() / 100.0
}

/// A number of a text.
pub(super) fn finite(text: &str) -> Option<f32> {
    text.parse().ok().filter(|number: &f32| number.is_finite())
}

/// Puts a number into its place as a text would say it: in hundredths, or else whole, where it is taken.
pub(super) fn put(place: &mut f32, number: f32, of: Option<Number>) -> bool {
    let taken = |number: &f32| of.is_none_or(|of| of.refusal(*number).is_none());
    let Some(number) = [hundredths(number), number.round()].into_iter().find(taken) else { return false };
    *place = number;
    true
}

/// A place in a list, counted from 1 as people do.
impl Argument for usize {
    type Value = Self;
    const TAKES: &'static str = "a whole number from 1";
    fn parse(text: &str) -> Option<Self> {
        text.parse().ok().filter(|number| *number > 0)
    }
    fn text(value: &Self) -> String {
        value.to_string()
    }
    fn number(value: &Self) -> Option<f32> {
        Some(*value as f32)
    }
    fn set_number(value: &mut Self, number: f32) -> bool {
        let taken = number.round() >= 1.0;
        *value = if taken { number.round() as Self } else { *value };
        taken
    }
}

/// Declares arguments that are whole steps, one where there is none.
macro_rules! steps {
    ($($(#[doc = $doc:literal])* $name:ty, $number:expr;)*) => {
        $(
            $(#[doc = $doc])*
            impl Argument for $name {
                type Value = i32;
                const TAKES: &'static str = "a whole number, 1 if there is none";
                const NUMBER: Option<Number> = $number;
                fn parse(text: &str) -> Option<i32> {
                    if text.is_empty() { Some(1) } else { text.parse().ok() }
                }
                fn text(value: &i32) -> String {
                    value.to_string()
                }
                fn number(value: &i32) -> Option<f32> {
                    Some(*value as f32)
                }
                fn set_number(value: &mut i32, number: f32) -> bool {
                    *value = number.round() as i32;
                    number.is_finite()
                }
            }
        )*
    };
}

/// Hundredths of a beat by which the beat is moved.
pub struct BeatStep;

steps! {
    /// Steps, or cycles, or pixels.
    i32, None;
    BeatStep, Some(Number::step("a nudge of", [i32::MIN as f32, i32::MAX as f32]));
}

/// Declares arguments that are one number.
macro_rules! numbers {
    ($($(#[doc = $doc:literal])* $name:ident, $number:expr;)*) => {
        $(
            $(#[doc = $doc])*
            pub struct $name;

            impl Argument for $name {
                type Value = f32;
                const TAKES: &'static str = "a number";
                const NUMBER: Option<Number> = Some($number);
                fn parse(text: &str) -> Option<f32> {
                    finite(text)
                }
                fn text(value: &f32) -> String {
                    value.to_string()
                }
                fn number(value: &f32) -> Option<f32> {
                    Some(*value)
                }
                fn set_number(value: &mut f32, number: f32) -> bool {
                    put(value, number, Self::NUMBER)
                }
            }
        )*
    };
}

numbers! {
    /// The level of the master, in percent.
    MasterLevel, Number::set("a master of", PERCENT, PERCENT);
    /// A step of the master, in percent.
    MasterStep, Number::step("a nudge of", UP_AND_DOWN);
    /// How much of the stage has its two colours, in percent.
    Recolouring, Number { fader: None, ..Number::set("a recolouring of", PERCENT, PERCENT) };
    /// The speed of effects, in times of their own.
    Times, Number::set("a speed of", [0.0, MOST_SPEED], [0.0, 2.0]);
    /// Beats a minute.
    Bpm, Number { gradual: false, ..Number::set("a tempo of", [SLOWEST as f32, FASTEST as f32], [60.0, 180.0]) };
    /// Times as many beats as are heard.
    BeatTimes, Number { gradual: false, ..Number::step("a tempo times", [0.125, 8.0]) };
    /// Flashes a second.
    FlashRate, Number::set("a strobe of", [0.0, MOST_STROBE], [0.0, 12.0]);
    /// A fade, in beats.
    FadeBeats, Number { sets: false, gradual: false, ..Number::set("a fade of", [0.0, 64.0], [0.0, 16.0]) };
    /// Seconds of a recording, on or back.
    MusicSeconds, Number {
        fader: Some([-30.0, 30.0]), gradual: false, ..Number::step("seconds", [f32::MIN, f32::MAX])
    };
}

/// A level of something that has a name.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct NamedLevel {
    /// The name.
    pub name: String,
    /// Its level in percent, 0..100, or by how much it moves, -100..100.
    pub percent: f32,
}

/// Declares arguments that are a percentage behind the name of something.
macro_rules! named_levels {
    ($($(#[doc = $doc:literal])* $name:ident of $kinds:expr, $number:expr;)*) => {
        $(
            $(#[doc = $doc])*
            pub struct $name;

            impl Argument for $name {
                type Value = NamedLevel;
                const TAKES: &'static str = "its name and a percentage, such as top 50";
                const NUMBER: Option<Number> = Some($number);
                const NAMES: &'static [ReferenceKind] = $kinds;
                fn parse(text: &str) -> Option<NamedLevel> {
                    let (name, percent) = text.rsplit_once(' ')?;
                    Some(NamedLevel { percent: finite(percent)?, name: name.trim().to_owned() })
                }
                fn text(value: &NamedLevel) -> String {
                    format!("{} {}", value.name, value.percent)
                }
                fn number(value: &NamedLevel) -> Option<f32> {
                    Some(value.percent)
                }
                fn set_number(value: &mut NamedLevel, number: f32) -> bool {
                    put(&mut value.percent, number, Self::NUMBER)
                }
                fn visit(value: &mut NamedLevel, visitor: &mut dyn Visitor) -> bool {
                    visitor.name($kinds, &mut value.name)
                }
            }
        )*
    };
}

named_levels! {
    /// The level of a tier.
    TierLevel of &[ReferenceKind::Tier], Number::set("a level of", PERCENT, PERCENT);
    /// A step of the level of a tier.
    TierStep of &[ReferenceKind::Tier], Number::step("a nudge of", UP_AND_DOWN);
    /// The level of a group.
    GroupLevel of &[ReferenceKind::Group], Number::set("a level of", PERCENT, PERCENT);
    /// Where heads turn, in percent of what they can.
    HeadPlace of LIGHTS, Number::set("a level of", PERCENT, PERCENT);
    /// A step by which heads turn, in percent of what they can.
    HeadStep of LIGHTS, Number::step("a nudge of", UP_AND_DOWN);
}
