//! The parameters of an effect: declared as data, read from a show, and compiled to what drawing needs.

pub(super) mod handle;

use std::collections::BTreeMap;
use std::sync::Arc;

use serde::Serialize;

use crate::media::{Film, Font, Media, Picture};
use handle::{Choice, ChoiceParam, ColoursParam, FileParam, LooksParam, NumberParam, RateParam, TextParam, TimesParam};
use splimo_base::colour::{CLEAR, Rgba};
use splimo_base::ramp::{Mixing, MovableRamp, PATHS, Path};
use splimo_show::palette;
use splimo_show::{Param, Swatch};
use splimo_time::rate::Rate;

/// The longest text a parameter takes, in characters.
const LONGEST_TEXT: usize = 400;
/// The most looks that may take turns.
const MOST_LOOKS: usize = 64;
/// The word for a time of nothing.
const CUT: &str = "cut";
/// The most stops a gradient has.
const MOST_STOPS: usize = 64;

/// One parameter of an effect.
#[derive(Debug, Clone, Copy, Serialize)]
pub struct ParamSpec {
    /// The name by which layers set it.
    pub name: &'static str,
    /// The kind of its values.
    #[serde(flatten)]
    pub kind: ParamKind,
    /// The help, in one line.
    pub help: &'static str,
}

/// A number from `min` to `max`.
pub(super) const fn number(
    name: &'static str,
    [min, default, max]: [f32; 3],
    unit: &'static str,
    help: &'static str,
) -> ParamSpec {
    ParamSpec { name, kind: ParamKind::Number { min, max, default, unit }, help }
}

/// A rate.
pub(super) const fn rate(name: &'static str, default: &'static str, help: &'static str) -> ParamSpec {
    ParamSpec { name, kind: ParamKind::Rate { default }, help }
}

/// The stops of a gradient.
pub(super) const fn colours(default: &'static [&'static str], help: &'static str) -> ParamSpec {
    ParamSpec { name: "colours", kind: ParamKind::Colours { default }, help }
}

/// One of some words, of which the first is the default.
pub(super) const fn choice(name: &'static str, options: &'static [&'static str], help: &'static str) -> ParamSpec {
    ParamSpec { name, kind: ParamKind::Choice { options }, help }
}

/// The name of a file.
pub(super) const fn file(name: &'static str, holds: Holds, help: &'static str) -> ParamSpec {
    ParamSpec { name, kind: ParamKind::File { holds }, help }
}

/// Names of looks.
pub(super) const fn looks(name: &'static str, help: &'static str) -> ParamSpec {
    ParamSpec { name, kind: ParamKind::Looks, help }
}

/// A time for each look that is named.
pub(super) const fn times(name: &'static str, help: &'static str) -> ParamSpec {
    ParamSpec { name, kind: ParamKind::Times, help }
}

/// The name of an aim.
pub(super) const fn aim(name: &'static str, help: &'static str) -> ParamSpec {
    ParamSpec { name, kind: ParamKind::Aim, help }
}

/// A text.
pub(super) const fn text(name: &'static str, default: &'static str, help: &'static str) -> ParamSpec {
    ParamSpec { name, kind: ParamKind::Text { default }, help }
}

/// The kind of a parameter's values.
#[derive(Debug, Clone, Copy, Serialize)]
#[serde(tag = "kind", rename_all = "lowercase")]
pub enum ParamKind {
    /// A number.
    Number {
        /// The smallest it may be.
        min: f32,
        /// The largest it may be.
        max: f32,
        /// The default.
        default: f32,
        /// Its unit, or nothing.
        unit: &'static str,
    },
    /// A rate; see [`Rate`].
    Rate {
        /// The default.
        default: &'static str,
    },
    /// The stops of a gradient; see [`splimo_base::ramp::Stop`].
    Colours {
        /// The default.
        default: &'static [&'static str],
    },
    /// One of some words.
    Choice {
        /// The words; the first is it when nobody says.
        options: &'static [&'static str],
    },
    /// A text.
    Text {
        /// The default.
        default: &'static str,
    },
    /// Names of looks, none when nobody says.
    Looks,
    /// Times as rates are written, one for each of some looks; empty, or missing behind the last, where the layer's own counts.
    Times,
    /// The name of an aim of heads, or nothing.
    Aim,
    /// The name of a file, or nothing.
    File {
        /// The kind of file.
        holds: Holds,
    },
}

/// The kind of a file.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Holds {
    /// A picture: PNG, JPEG or GIF.
    Picture,
    /// A film: YUV4MPEG2, from a file, a pipe or standard input (`-`).
    Film,
    /// A TrueType or OpenType font.
    Font,
}

/// The reason why a parameter of a show is not what its effect asks for.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ParamError {
    /// The parameter.
    pub name: String,
    /// The fault.
    pub message: String,
    /// The way to mend it.
    pub mend: String,
}

/// A gradient, compiled both ways.
#[derive(Debug, Clone, PartialEq)]
struct Colours {
    open: MovableRamp,
    closed: MovableRamp,
    stops: usize,
    /// The distance by which it is moved along, in its lengths.
    shift: f32,
}

#[derive(Debug, Clone, PartialEq)]
enum Value {
    Number(f32),
    Rate(Rate),
    Colours(Box<Colours>),
    Choice(usize),
    Text(String),
    Looks(Vec<String>),
    Times(Vec<Option<Rate>>),
    Aim(String),
    File(String, Held),
}

/// The content of a file.
#[derive(Debug, Clone)]
enum Held {
    Nothing,
    Picture(Arc<Picture>),
    Film(Arc<Film>),
    Font(Arc<Font>),
}

impl PartialEq for Held {
    fn eq(&self, other: &Self) -> bool {
        match (self, other) {
            (Self::Nothing, Self::Nothing) => true,
            (Self::Picture(a), Self::Picture(b)) => Arc::ptr_eq(a, b),
            (Self::Film(a), Self::Film(b)) => Arc::ptr_eq(a, b),
            (Self::Font(a), Self::Font(b)) => Arc::ptr_eq(a, b),
            _ => false,
        }
    }
}

/// The way a gradient is moved away from what it says.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Tinge {
    /// Turns round the hue circle.
    pub hue: f32,
    /// The share of its light.
    pub brightness: f32,
    /// The distance by which it is moved along, in its lengths.
    pub position: f32,
}

impl Tinge {
    /// As it says.
    pub const NONE: Self = Self { hue: 0.0, brightness: 1.0, position: 0.0 };
}

/// The compiled parameters of a layer, in the order of the effect's declaration. The getters take the handle of a parameter.
#[derive(Debug, Clone, PartialEq)]
pub struct Params(Vec<Value>);

impl Params {
    /// Compiles what a layer says, and defaults for the rest.
    ///
    /// # Errors
    /// [`ParamError`] for a name the effect does not have, a value of the wrong kind or one out of range.
    pub fn compile(
        spec: &super::EffectSpec,
        given: &BTreeMap<String, Param>,
        palette: &[Swatch],
    ) -> Result<Self, ParamError> {
        if let Some(name) = given.keys().find(|name| !spec.params.iter().any(|p| p.name == **name)) {
            let known: Vec<_> = spec.params.iter().map(|p| p.name).collect();
            return Err(ParamError {
                name: name.clone(),
                message: format!("{} has no parameter \"{name}\"", spec.name),
                mend: format!("it has {}", known.join(", ")),
            });
        }
        let mixing = mixing(spec, given);
        let compiled = spec.params.iter().map(|param| {
            compile(param.kind, given.get(param.name), palette, mixing).map_err(|(message, mend)| ParamError {
                name: param.name.to_owned(),
                message: format!("{} {message}", param.name),
                mend,
            })
        });
        Ok(Self(compiled.collect::<Result<_, _>>()?))
    }

    /// A number.
    #[must_use]
    pub fn number(&self, param: NumberParam) -> f32 {
        if let Some(Value::Number(number)) = self.0.get(param.0) { *number } else { 0.0 }
    }

    /// A rate.
    #[must_use]
    pub fn rate(&self, param: RateParam) -> Rate {
        if let Some(Value::Rate(rate)) = self.0.get(param.0) { *rate } else { Rate::Stopped }
    }

    /// The chosen word.
    #[must_use]
    pub fn choice<C: Choice>(&self, param: ChoiceParam<C>) -> C {
        C::nth(if let Some(Value::Choice(choice)) = self.0.get(param.0) { *choice } else { 0 })
    }

    /// A text.
    #[must_use]
    pub fn text(&self, param: TextParam) -> &str {
        if let Some(Value::Text(text)) = self.0.get(param.0) { text } else { "" }
    }

    /// The picture of a file, if it is there.
    #[must_use]
    pub fn picture(&self, param: FileParam) -> Option<&Arc<Picture>> {
        if let Some(Value::File(_, Held::Picture(picture))) = self.0.get(param.0) { Some(picture) } else { None }
    }

    /// The film of a file, if it is there.
    #[must_use]
    pub fn film(&self, param: FileParam) -> Option<&Arc<Film>> {
        if let Some(Value::File(_, Held::Film(film))) = self.0.get(param.0) { Some(film) } else { None }
    }

    /// The font of a file, if it is there.
    #[must_use]
    pub fn font(&self, param: FileParam) -> Option<&Arc<Font>> {
        if let Some(Value::File(_, Held::Font(font))) = self.0.get(param.0) { Some(font) } else { None }
    }

    /// The same with files found among those that were read.
    #[must_use]
    pub fn with_media(mut self, media: &Media) -> Self {
        for value in &mut self.0 {
            let Value::File(name, held) = value else { continue };
            let picture = media.pictures.get(name).cloned().map(Held::Picture);
            let film = || media.films.get(name).cloned().map(Held::Film);
            let font = || media.fonts.get(name).cloned().map(Held::Font);
            *held = picture.or_else(film).or_else(font).unwrap_or(Held::Nothing);
        }
        self
    }

    /// Sets a number, as a modulator does; a parameter of another kind stays as it is.
    pub(crate) fn set_number(&mut self, param: NumberParam, number: f32) {
        if let Some(Value::Number(value)) = self.0.get_mut(param.0) {
            *value = number;
        }
    }

    /// Moves the colours of a gradient, as a modulator does. Allocates nothing.
    pub(crate) fn tinge(&mut self, param: ColoursParam, tinge: Tinge) {
        if let Some(Value::Colours(colours)) = self.0.get_mut(param.0) {
            colours.open.move_to(tinge.hue, tinge.brightness);
            colours.closed.move_to(tinge.hue, tinge.brightness);
            colours.shift = tinge.position;
        }
    }

    /// The names of looks.
    #[must_use]
    pub fn looks(&self, param: LooksParam) -> &[String] {
        if let Some(Value::Looks(names)) = self.0.get(param.0) { names } else { &[] }
    }

    /// The time of an entry, where it has one of its own.
    #[must_use]
    pub fn time(&self, param: TimesParam, entry: usize) -> Option<Rate> {
        if let Some(Value::Times(times)) = self.0.get(param.0) { times.get(entry).copied().flatten() } else { None }
    }

    /// All looks that are named by any parameter, in their order.
    pub fn named_looks(&self) -> impl Iterator<Item = &str> {
        (0..self.0.len()).flat_map(|place| self.looks(LooksParam(place))).map(String::as_str)
    }

    /// The name of the aim that a parameter names, if one does.
    pub fn named_aim(&self) -> Option<&str> {
        let mut named = self.0.iter().filter_map(|value| if let Value::Aim(name) = value { Some(name) } else { None });
        named.find(|name| !name.is_empty()).map(String::as_str)
    }

    /// The number of stops that a gradient has.
    #[must_use]
    pub fn stops(&self, param: ColoursParam) -> usize {
        if let Some(Value::Colours(colours)) = self.0.get(param.0) { colours.stops } else { 0 }
    }

    /// Sets each LED to the colour at its place on a gradient that ends at 1.
    pub fn colour_along(&self, param: ColoursParam, places: &mut [f32], out: &mut [Rgba]) {
        if let Some(Value::Colours(colours)) = self.0.get(param.0) {
            colours.shifted(places);
            colours.open.colour_along(places, out);
        }
    }

    /// Sets each LED to the colour at its place on a gradient that goes round without an edge once per 1.
    pub fn colour_around(&self, param: ColoursParam, places: &mut [f32], out: &mut [Rgba]) {
        if let Some(Value::Colours(colours)) = self.0.get(param.0) {
            colours.shifted(places);
            colours.closed.colour_around(places, out);
        }
    }

    /// As [`Self::colour_along`], with a share of the alpha of each LED.
    pub fn covered_along(&self, param: ColoursParam, places: &mut [f32], cover: &[f32], out: &mut [Rgba]) {
        if let Some(Value::Colours(colours)) = self.0.get(param.0) {
            colours.shifted(places);
            colours.open.covered_along(places, cover, out);
        }
    }

    /// As [`Self::colour_around`], with a share of the alpha of each LED.
    pub fn covered_around(&self, param: ColoursParam, places: &mut [f32], cover: &[f32], out: &mut [Rgba]) {
        if let Some(Value::Colours(colours)) = self.0.get(param.0) {
            colours.shifted(places);
            colours.closed.covered_around(places, cover, out);
        }
    }

    /// The colour at a place on a gradient that ends at 1.
    #[must_use]
    pub fn colour_at(&self, param: ColoursParam, place: f32) -> Rgba {
        if let Some(Value::Colours(colours)) = self.0.get(param.0) {
            return colours.open.at(place + colours.shift);
        }
        CLEAR
    }

    /// The colour whose turn it is: that of the `turn`th stop, round and round.
    #[must_use]
    pub fn colour_in_turn(&self, param: ColoursParam, turn: i64) -> Rgba {
        if let Some(Value::Colours(colours)) = self.0.get(param.0) {
            let stops = colours.stops.max(1) as i64;
            return colours.closed.around(turn.rem_euclid(stops) as f32 / stops as f32 + colours.shift);
        }
        CLEAR
    }
}

impl Colours {
    fn shifted(&self, places: &mut [f32]) {
        if self.shift != 0.0 {
            places.iter_mut().for_each(|place| *place += self.shift);
        }
    }
}

/// The way the colours of an effect meet: what its parameters of these names say, if it has them.
fn mixing(spec: &super::EffectSpec, given: &BTreeMap<String, Param>) -> Mixing {
    let has = |name: &str| spec.params.iter().any(|param| param.name == name);
    let mut mixing = Mixing::default();
    if let (true, Some(Param::Text(word))) = (has("mix"), given.get("mix")) {
        mixing.path = Path::nth(PATHS.iter().position(|path| path == word).unwrap_or(0));
    }
    if let (true, Some(Param::Number(percent))) = (has("sharpness"), given.get("sharpness")) {
        mixing.sharpness = (*percent as f32 / 100.0).clamp(0.0, 1.0);
    }
    mixing
}

type Refusal = (String, String);

fn compile(kind: ParamKind, given: Option<&Param>, palette: &[Swatch], mixing: Mixing) -> Result<Value, Refusal> {
    match (kind, given) {
        (ParamKind::Number { default, .. }, None) => Ok(Value::Number(default)),
        (ParamKind::Number { min, max, .. }, Some(Param::Number(number))) => {
            let number = *number as f32;
            let fits = (min..=max).contains(&number);
            let refusal = || (format!("cannot be {number}"), format!("write a number from {min} to {max}"));
            if fits { Ok(Value::Number(number)) } else { Err(refusal()) }
        }
        (ParamKind::Number { min, max, .. }, _) => wrong(format!("a number from {min} to {max}")),
        (ParamKind::Rate { default }, None) => read_rate(default),
        (ParamKind::Rate { .. }, Some(Param::Text(text))) => read_rate(text),
        (ParamKind::Rate { .. }, _) => wrong("a rate such as \"4 beats\" or \"2 s\"".into()),
        (ParamKind::Colours { default }, None) => read_colours(default.iter().copied(), palette, mixing),
        (ParamKind::Colours { .. }, Some(Param::List(list))) => {
            read_colours(list.iter().map(String::as_str), palette, mixing)
        }
        (ParamKind::Colours { .. }, Some(Param::Text(text))) => {
            read_colours(std::iter::once(text.as_str()), palette, mixing)
        }
        (ParamKind::Colours { .. }, _) => wrong("a list of colours such as [\"#002040\", \"#40c0ff\"]".into()),
        (ParamKind::Choice { .. }, None) => Ok(Value::Choice(0)),
        (ParamKind::Choice { options }, Some(Param::Text(text))) => match options.iter().position(|o| o == text) {
            Some(choice) => Ok(Value::Choice(choice)),
            None => Err((format!("cannot be \"{text}\""), format!("write one of {}", options.join(", ")))),
        },
        (ParamKind::Choice { options }, _) => wrong(format!("one of {}", options.join(", "))),
        (ParamKind::Text { default }, None) => Ok(Value::Text(default.to_owned())),
        (ParamKind::Text { .. }, Some(Param::Text(text))) if text.chars().count() <= LONGEST_TEXT => {
            Ok(Value::Text(text.clone()))
        }
        (ParamKind::Text { .. }, _) => wrong(format!("a text of at most {LONGEST_TEXT} characters")),
        (ParamKind::Looks, None) => Ok(Value::Looks(Vec::new())),
        (ParamKind::Looks, Some(Param::List(names))) if names.len() <= MOST_LOOKS => Ok(Value::Looks(names.clone())),
        (ParamKind::Looks, _) => wrong(format!("a list of at most {MOST_LOOKS} names of looks")),
        (ParamKind::Times, None) => Ok(Value::Times(Vec::new())),
        (ParamKind::Times, Some(Param::List(times))) if times.len() <= MOST_LOOKS => read_times(times),
        (ParamKind::Times, _) => wrong(format!("a list of at most {MOST_LOOKS} times such as \"2 bars\"")),
        (ParamKind::Aim, None) => Ok(Value::Aim(String::new())),
        (ParamKind::Aim, Some(Param::Text(name))) => Ok(Value::Aim(name.clone())),
        (ParamKind::Aim, _) => wrong("the name of an aim".into()),
        (ParamKind::File { .. }, None) => Ok(Value::File(String::new(), Held::Nothing)),
        (ParamKind::File { .. }, Some(Param::Text(name))) => Ok(Value::File(name.clone(), Held::Nothing)),
        (ParamKind::File { .. }, _) => wrong("the name of a file".into()),
    }
}

fn wrong(wanted: String) -> Result<Value, Refusal> {
    Err(("is of the wrong kind".into(), format!("write {wanted}")))
}

fn read_rate(text: &str) -> Result<Value, Refusal> {
    text.parse().map(Value::Rate).map_err(|e: splimo_time::rate::BadRate| ("is not a rate".into(), e.to_string()))
}

fn read_times(texts: &[String]) -> Result<Value, Refusal> {
    let read = |text: &String| match text.trim() {
        "" => Ok(None),
        CUT => Ok(Some(Rate::Stopped)),
        text => text
            .parse()
            .map(Some)
            .map_err(|e: splimo_time::rate::BadRate| ("has what is no time".to_owned(), e.to_string())),
    };
    texts.iter().map(read).collect::<Result<_, _>>().map(Value::Times)
}

fn read_colours<'a>(
    texts: impl Iterator<Item = &'a str>,
    palette: &[Swatch],
    mixing: Mixing,
) -> Result<Value, Refusal> {
    let stops = palette::stops(texts, palette).map_err(|e| ("has a colour that cannot be read".to_owned(), e))?;
    if stops.is_empty() || stops.len() > MOST_STOPS {
        return Err((format!("has {} colours", stops.len()), format!("give it 1 to {MOST_STOPS}")));
    }
    Ok(Value::Colours(Box::new(Colours {
        open: MovableRamp::new(&stops, mixing, false),
        closed: MovableRamp::new(&stops, mixing, true),
        stops: stops.len(),
        shift: 0.0,
    })))
}
