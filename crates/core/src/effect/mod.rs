//! Effects. Each is one file that declares its parameters as data; screens, files, checks and docs read the declaration
//! and need no code of their own for it. To add one: its file, and its line in [`EFFECTS`].

mod gradient;
mod marquee;
mod params;
mod plasma;
mod pulse;
mod rain;
mod ripple;
mod spectrum;

pub use params::{Kind, ParamError, ParamSpec, Params};

use crate::Seconds;
use crate::colour::Rgba;
use crate::music::Hearing;
use crate::rate::Step;

/// Every effect.
pub static EFFECTS: &[&EffectSpec] =
    &[&gradient::SPEC, &plasma::SPEC, &ripple::SPEC, &rain::SPEC, &spectrum::SPEC, &pulse::SPEC, &marquee::SPEC];

/// The effect of a name.
#[must_use]
pub fn find(name: &str) -> Option<&'static EffectSpec> {
    EFFECTS.iter().copied().find(|spec| spec.name == name)
}

/// An effect as data.
pub struct EffectSpec {
    /// The name by which layers refer to it.
    pub name: &'static str,
    /// What it is by nature: colour, motion, simulation, music or words.
    pub family: &'static str,
    /// What it does, in one line.
    pub help: &'static str,
    /// Its parameters.
    pub params: &'static [ParamSpec],
    /// Makes one at its start; the seed tells its random draws apart from those of other layers.
    pub start: fn(seed: u32) -> Box<dyn Effect>,
}

/// What an effect knows of the present.
#[derive(Debug, Clone, Copy)]
pub struct Moment<'a> {
    /// How far time went on since the last tick.
    pub step: Step,
    /// The time.
    pub time: Seconds,
    /// The position in beats; a bar begins where it divides by [`crate::tempo::BEATS_PER_BAR`].
    pub beat: f64,
    /// What is heard.
    pub hearing: &'a Hearing,
}

/// LEDs on a plane of a layer.
#[derive(Debug, Clone, Copy)]
pub struct Cells<'a> {
    /// Distance of each from the left edge of the plane, in pitches.
    pub x: &'a [f32],
    /// Distance of each from the top edge of the plane, in pitches.
    pub y: &'a [f32],
    /// The width of the plane, in pitches.
    pub width: f32,
    /// The height of the plane, in pitches.
    pub height: f32,
}

/// An effect that runs. Its parameters are handed in anew each time, since anything may have moved them.
pub trait Effect: Send + Sync {
    /// Goes on to a moment. Called once a tick, and must not allocate.
    fn advance(&mut self, params: &Params, moment: &Moment<'_>);

    /// Lights some LEDs: as many as `out` has, which are at most [`crate::rig::TILE`]. Colours are straight linear light,
    /// components not negative, alpha 0..1. Must not allocate.
    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]);
}
