//! Effects. Each is one file that declares its parameters as data; screens, files, checks and docs read the declaration
//! and need no code of their own for it. To add one: its file, and its line in [`EFFECTS`].

mod aim;
mod chase;
mod checker;
mod chroma;
mod clouds;
mod confetti;
mod edges;
mod embers;
mod flicker;
mod follow;
mod frame;
mod gradient;
mod helix;
mod level;
mod looks;
mod marquee;
mod moire;
mod movement;
mod noise;
mod params;
mod passage;
mod picture;
mod plasma;
mod pulse;
mod rain;
mod rainbow;
mod ripple;
mod scope;
mod shape;
mod solid;
mod sparkle;
mod spectrum;
mod still;
mod strobe;
mod sweep;
mod table;
mod vanes;
mod video;
mod waterfall;

pub use params::handle::{
    Choice, ChoiceParam, ColoursParam, FileParam, LooksParam, NumberParam, RateParam, TextParam, TimesParam,
};
pub use params::{Holds, ParamError, ParamKind, ParamSpec, Params, Tinge};
pub use passage::{BeatWatch, OnsetWatch, Passage};

use splimo_base::Seconds;
use splimo_base::colour::Rgba;
use splimo_time::music::Hearing;
use splimo_time::rate::{Phase, Step};

/// Every effect, by families.
pub static EFFECTS: &[&EffectSpec] = &[
    &solid::SPEC,
    &gradient::SPEC,
    &rainbow::SPEC,
    &still::SPEC,
    &sweep::SPEC,
    &chase::SPEC,
    &looks::SPEC,
    &ripple::SPEC,
    &helix::SPEC,
    &vanes::SPEC,
    &moire::SPEC,
    &plasma::SPEC,
    &clouds::SPEC,
    &confetti::SPEC,
    &sparkle::SPEC,
    &flicker::SPEC,
    &strobe::SPEC,
    &checker::SPEC,
    &embers::SPEC,
    &rain::SPEC,
    &marquee::SPEC,
    &picture::SPEC,
    &video::SPEC,
    &spectrum::SPEC,
    &level::SPEC,
    &scope::SPEC,
    &waterfall::SPEC,
    &pulse::SPEC,
    &chroma::SPEC,
    &aim::SPEC,
    &movement::SPEC,
];

/// The effect of a name.
#[must_use]
pub fn find(name: &str) -> Option<&'static EffectSpec> {
    EFFECTS.iter().copied().find(|spec| spec.name == name)
}

/// An effect as data.
pub struct EffectSpec {
    /// The name by which layers refer to it.
    pub name: &'static str,
    /// The family that it belongs to: colour, motion, texture, simulation, words, music or heads.
    pub family: &'static str,
    /// The help, in one line.
    pub help: &'static str,
    /// Its parameters.
    pub params: &'static [ParamSpec],
    /// Makes one at its start; the seed tells its random draws apart from those of other layers.
    pub start: fn(seed: u32) -> Box<dyn Effect>,
}

/// The present as an effect knows it.
#[derive(Debug, Clone, Copy)]
pub struct Moment<'a> {
    /// The step of time since the last tick.
    pub step: Step,
    /// The time.
    pub time: Seconds,
    /// The position in beats; a bar begins where it divides by `bar_beats`.
    pub beat: f64,
    /// The hearing at the moment.
    pub hearing: &'a Hearing,
    /// Beats in a bar.
    pub bar_beats: f64,
    /// Beats in a phrase.
    pub phrase_beats: f64,
    /// Beats a minute.
    pub tempo: f32,
    /// 1 at an onset, falling to 0 within a beat.
    pub onset: f32,
    /// The same for each kind of hit: low, middle, high.
    pub hits: [f32; 3],
    /// The controls, 0..1 each; those behind the last are 0.
    pub controls: &'a [f32],
    /// The counts of what a person may count with.
    pub counts: Counts,
    /// Seconds since midnight where the show is, if that is known.
    pub time_of_day: Option<f64>,
}

impl<'a> Moment<'a> {
    /// A moment at a time and a position in beats, at 120 beats a minute, with nothing else going on.
    #[must_use]
    pub fn at(time: Seconds, beat: f64, step: Step, hearing: &'a Hearing) -> Self {
        Self {
            step,
            time,
            beat,
            hearing,
            bar_beats: splimo_time::rate::BEATS_PER_BAR,
            phrase_beats: 64.0,
            tempo: 120.0,
            onset: 0.0,
            hits: [0.0; 3],
            controls: &[],
            counts: Counts::default(),
            time_of_day: None,
        }
    }
}

/// The counts, since the start, of what a person may count with.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, serde::Serialize, serde::Deserialize)]
pub struct Counts {
    /// Looks that landed.
    pub landings: u64,
    /// Times it was asked to count on.
    pub forward: u64,
    /// Times it was asked to count back.
    pub back: u64,
    /// Times it was asked to begin anew.
    pub reset: u64,
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
    /// The delay of the effect here against others, in turns of its cycle.
    pub late: f32,
    /// The angle of each around its fixture, in turns from the middle of its front (-0.5..0.5), where it hangs on a cone; NaN
    /// elsewhere. Empty where nothing does.
    pub around: &'a [f32],
    /// The number of lights that a whole turn around has; 0 where nothing goes around.
    pub lights_around: f32,
    /// The colours that the layer holds for these LEDs; empty where it holds none.
    pub held: &'a [Rgba],
}

impl<'a> Cells<'a> {
    /// LEDs on a plane, with nothing else to it.
    #[must_use]
    pub fn on_plane(x: &'a [f32], y: &'a [f32], width: f32, height: f32) -> Self {
        Self { x, y, width, height, late: 0.0, around: &[], lights_around: 0.0, held: &[] }
    }
}

impl EffectSpec {
    /// True if it turns heads and gives no light.
    #[must_use]
    pub fn turns_heads(&self) -> bool {
        self.params.iter().any(|param| matches!(param.kind, ParamKind::Aim))
    }
}

/// The place of a head among those of its layer.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct HeadPlace {
    /// Its place in the order of the layer's span, from 0.
    pub index: u32,
    /// The number of heads there.
    pub count: u32,
    /// The delay of the effect here against others, in turns of its cycle.
    pub late: f32,
}

/// The turn of a head away from its aim.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct HeadTurn {
    /// Pan and tilt, in degrees.
    pub by: [f64; 2],
    /// The farthest that it ever is turned, in degrees.
    pub reach: f64,
}

/// One of the looks that an effect shows.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Turn {
    /// Its place among those that the layer names.
    pub look: usize,
    /// Its share of the light, 0..1.
    pub share: f32,
}

/// An effect that runs. Its parameters are handed in anew each time, since anything may have moved them.
pub trait Effect: Send + Sync {
    /// Goes on to a moment. Called once a tick, and must not allocate.
    fn advance(&mut self, params: &Params, moment: &Moment<'_>);

    /// Lights some LEDs: as many as `out` has, which are at most [`crate::rig::TILE`]. Colours are straight linear light,
    /// components not negative, alpha 0..1. Must not allocate.
    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]);

    /// The phase of the effect, if it goes round in cycles.
    fn phase(&mut self) -> Option<&mut Phase> {
        None
    }

    /// Steps on by whole cycles, or back. Must not allocate.
    fn step(&mut self, _params: &Params, by: i64) {
        if let Some(phase) = self.phase() {
            phase.step(by);
        }
    }

    /// True if it has prepared something for its parameters, as letters. Where a show is edited such an effect goes on in the
    /// phase of the older one and not as that one, or it would have to prepare again in the middle of a frame.
    fn has_prepared(&self) -> bool {
        false
    }

    /// For an effect that shows other looks: which of them, and how much of each. `late` as in [`Cells`].
    fn turns(&self, _params: &Params, _late: f32) -> [Turn; 2] {
        [Turn { look: 0, share: 0.0 }; 2]
    }

    /// For an effect that turns heads: how one is turned away from its aim.
    fn turn_head(&self, _params: &Params, _head: &HeadPlace) -> Option<HeadTurn> {
        None
    }

    /// The place in a cycle at which its picture is centred, 0..1.
    fn centre(&self) -> f64 {
        0.0
    }
}
