//! The parameters of an effect: declared as data, read from a show, and compiled to what drawing needs.

use std::collections::BTreeMap;

use serde::Serialize;

use crate::colour::Rgba;
use crate::ramp::{Ramp, Stop};
use crate::rate::Rate;
use crate::show::Param;

/// The longest text a parameter takes, in characters.
const LONGEST_TEXT: usize = 400;
/// The most stops a gradient has.
const MOST_STOPS: usize = 64;

/// One parameter of an effect.
#[derive(Debug, Clone, Copy, Serialize)]
pub struct ParamSpec {
    /// The name by which layers set it.
    pub name: &'static str,
    /// What it may be.
    #[serde(flatten)]
    pub kind: Kind,
    /// What it does, in one line.
    pub help: &'static str,
}

/// What a parameter may be.
#[derive(Debug, Clone, Copy, Serialize)]
#[serde(tag = "kind", rename_all = "lowercase")]
pub enum Kind {
    /// A number.
    Number {
        /// The smallest it may be.
        min: f32,
        /// The largest it may be.
        max: f32,
        /// What it is when nobody says.
        default: f32,
        /// Its unit, or nothing.
        unit: &'static str,
    },
    /// A rate; see [`Rate`].
    Rate {
        /// What it is when nobody says.
        default: &'static str,
    },
    /// The stops of a gradient; see [`Stop`].
    Colours {
        /// What they are when nobody says.
        default: &'static [&'static str],
    },
    /// One of some words.
    Choice {
        /// The words; the first is it when nobody says.
        options: &'static [&'static str],
    },
    /// A text.
    Text {
        /// What it is when nobody says.
        default: &'static str,
    },
}

/// Why a parameter of a show is not what its effect asks for.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ParamError {
    /// The parameter.
    pub name: String,
    /// What is wrong.
    pub message: String,
    /// How to mend it.
    pub mend: String,
}

/// A gradient, compiled both ways.
#[derive(Debug, Clone, PartialEq)]
struct Colours {
    open: Ramp,
    closed: Ramp,
}

#[derive(Debug, Clone, PartialEq)]
enum Value {
    Number(f32),
    Rate(Rate),
    Colours(Box<Colours>),
    Choice(usize),
    Text(String),
}

/// The compiled parameters of a layer, in the order of the effect's declaration. The getters take that index; one that
/// is of another kind than was asked for gives that kind's zero, which the test of every effect rules out.
#[derive(Debug, Clone, PartialEq)]
pub struct Params(Vec<Value>);

impl Params {
    /// Compiles what a layer says, and defaults for the rest.
    ///
    /// # Errors
    /// [`ParamError`] for a name the effect does not have, a value of the wrong kind or one out of range.
    pub fn compile(spec: &super::EffectSpec, given: &BTreeMap<String, Param>) -> Result<Self, ParamError> {
        if let Some(name) = given.keys().find(|name| !spec.params.iter().any(|p| p.name == **name)) {
            let known: Vec<_> = spec.params.iter().map(|p| p.name).collect();
            return Err(ParamError {
                name: name.clone(),
                message: format!("{} has no parameter \"{name}\"", spec.name),
                mend: format!("it has {}", known.join(", ")),
            });
        }
        let compiled = spec.params.iter().map(|param| {
            compile(param.kind, given.get(param.name)).map_err(|(message, mend)| ParamError {
                name: param.name.to_owned(),
                message: format!("{} {message}", param.name),
                mend,
            })
        });
        Ok(Self(compiled.collect::<Result<_, _>>()?))
    }

    /// A number.
    #[must_use]
    pub fn number(&self, index: usize) -> f32 {
        if let Some(Value::Number(number)) = self.0.get(index) { *number } else { 0.0 }
    }

    /// A rate.
    #[must_use]
    pub fn rate(&self, index: usize) -> Rate {
        if let Some(Value::Rate(rate)) = self.0.get(index) { *rate } else { Rate::Stopped }
    }

    /// The index of the chosen word.
    #[must_use]
    pub fn choice(&self, index: usize) -> usize {
        if let Some(Value::Choice(choice)) = self.0.get(index) { *choice } else { 0 }
    }

    /// A text.
    #[must_use]
    pub fn text(&self, index: usize) -> &str {
        if let Some(Value::Text(text)) = self.0.get(index) { text } else { "" }
    }

    /// Sets each LED to the colour at its place on a gradient that ends at 1.
    pub fn colour_along(&self, index: usize, places: &[f32], out: &mut [Rgba]) {
        if let Some(Value::Colours(colours)) = self.0.get(index) {
            colours.open.colour_along(places, out);
        }
    }

    /// Sets each LED to the colour at its place on a gradient that goes round without an edge once per 1.
    pub fn colour_around(&self, index: usize, places: &[f32], out: &mut [Rgba]) {
        if let Some(Value::Colours(colours)) = self.0.get(index) {
            colours.closed.colour_around(places, out);
        }
    }
}

type Refusal = (String, String);

fn compile(kind: Kind, given: Option<&Param>) -> Result<Value, Refusal> {
    match (kind, given) {
        (Kind::Number { default, .. }, None) => Ok(Value::Number(default)),
        (Kind::Number { min, max, .. }, Some(Param::Number(number))) => {
            let number = *number as f32;
            let fits = (min..=max).contains(&number);
            let refusal = || (format!("cannot be {number}"), format!("write a number from {min} to {max}"));
            if fits { Ok(Value::Number(number)) } else { Err(refusal()) }
        }
        (Kind::Number { min, max, .. }, _) => wrong(format!("a number from {min} to {max}")),
        (Kind::Rate { default }, None) => rate(default),
        (Kind::Rate { .. }, Some(Param::Text(text))) => rate(text),
        (Kind::Rate { .. }, _) => wrong("a rate such as \"4 beats\" or \"2 s\"".into()),
        (Kind::Colours { default }, None) => colours(default.iter().copied()),
        (Kind::Colours { .. }, Some(Param::List(list))) => colours(list.iter().map(String::as_str)),
        (Kind::Colours { .. }, Some(Param::Text(text))) => colours(std::iter::once(text.as_str())),
        (Kind::Colours { .. }, _) => wrong("a list of colours such as [\"#002040\", \"#40c0ff\"]".into()),
        (Kind::Choice { .. }, None) => Ok(Value::Choice(0)),
        (Kind::Choice { options }, Some(Param::Text(text))) => match options.iter().position(|o| o == text) {
            Some(choice) => Ok(Value::Choice(choice)),
            None => Err((format!("cannot be \"{text}\""), format!("write one of {}", options.join(", ")))),
        },
        (Kind::Choice { options }, _) => wrong(format!("one of {}", options.join(", "))),
        (Kind::Text { default }, None) => Ok(Value::Text(default.to_owned())),
        (Kind::Text { .. }, Some(Param::Text(text))) if text.chars().count() <= LONGEST_TEXT => {
            Ok(Value::Text(text.clone()))
        }
        (Kind::Text { .. }, _) => wrong(format!("a text of at most {LONGEST_TEXT} characters")),
    }
}

fn wrong(wanted: String) -> Result<Value, Refusal> {
    Err(("is of the wrong kind".into(), format!("write {wanted}")))
}

fn rate(text: &str) -> Result<Value, Refusal> {
    text.parse().map(Value::Rate).map_err(|e: crate::rate::BadRate| ("is not a rate".into(), e.to_string()))
}

fn colours<'a>(texts: impl Iterator<Item = &'a str>) -> Result<Value, Refusal> {
    let stops = texts.map(str::parse).collect::<Result<Vec<Stop>, _>>();
    let stops = stops.map_err(|e| ("has a colour that cannot be read".to_owned(), e.to_string()))?;
    if stops.is_empty() || stops.len() > MOST_STOPS {
        return Err((format!("has {} colours", stops.len()), format!("give it 1 to {MOST_STOPS}")));
    }
    Ok(Value::Colours(Box::new(Colours { open: Ramp::open(&stops), closed: Ramp::closed(&stops) })))
}
