//! A modulator of a layer: what moves one of its parameters, as data.

mod fields;
mod kinds;

use serde::{Deserialize, Serialize};

pub use fields::ModulatorFields;
pub use kinds::{CountEvent, ModulatorKind};

/// The most steps of a step list.
pub const MOST_STEPS: usize = 64;

/// A mover of a parameter. The parameter is what the layer says, plus `offset`, plus `depth` times what the source gives.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(from = "ModulatorFields", into = "ModulatorFields")]
pub struct Modulator {
    /// The name of what it moves: a number of the effect by its name, `opacity`, or of a gradient `colours hue` (in degrees),
    /// `colours brightness` or `colours position` (in percent).
    pub param: String,
    /// The source of its movement.
    pub source: ModulatorSource,
    /// The most by which it moves the parameter, in its unit; negative turns it round.
    pub depth: f32,
    /// An addition to it.
    pub offset: f32,
    /// The power to which the movement is raised: above 1 it stays low and shoots up, below 1 the other way round.
    pub curve: f32,
    /// Over how many seconds it is smoothed.
    pub smooth: f32,
}

impl Modulator {
    /// A modulator with everything else at its default.
    #[must_use]
    pub fn new(param: &str, kind: ModulatorKind, depth: f32) -> Self {
        ModulatorFields { param: param.to_owned(), source: kind, depth, ..ModulatorFields::default() }.into()
    }
}

/// The source of a modulator's movement, with what only this source needs.
#[derive(Debug, Clone, PartialEq)]
pub enum ModulatorSource {
    /// A sine.
    Sine(Cycle),
    /// Up and down in straight lines.
    Triangle(Cycle),
    /// Rises and falls back at once.
    SawUp(Cycle),
    /// Jumps up and falls.
    SawDown(Cycle),
    /// High for half of the cycle, then low.
    Square(Cycle),
    /// Another number drawn for each cycle.
    Random(Cycle),
    /// Wanders smoothly from one drawn number to the next.
    Drift(Cycle),
    /// A number drawn on each beat.
    Draw,
    /// A list of steps, -100..100 percent of the depth, one after the other in a cycle.
    Steps(Cycle, Vec<f32>),
    /// Loudness.
    Level,
    /// The low bands.
    Bass,
    /// The middle bands.
    Mids,
    /// The high bands.
    Highs,
    /// One band, 1..24.
    Band(u32),
    /// High at each attack that is heard; it dies away within this time, a rate.
    Onset(String),
    /// High on each beat; it dies away within this time, a rate.
    Beat(String),
    /// An incoming control, 1..16.
    Control(u32),
    /// A counter that events move.
    Counter(Counter),
    /// A formula; see [`splimo_base::formula`].
    Formula(String),
}

impl ModulatorSource {
    /// The kind of source.
    #[must_use]
    pub fn kind(&self) -> ModulatorKind {
        match self {
            Self::Sine(_) => ModulatorKind::Sine,
            Self::Triangle(_) => ModulatorKind::Triangle,
            Self::SawUp(_) => ModulatorKind::SawUp,
            Self::SawDown(_) => ModulatorKind::SawDown,
            Self::Square(_) => ModulatorKind::Square,
            Self::Random(_) => ModulatorKind::Random,
            Self::Drift(_) => ModulatorKind::Drift,
            Self::Draw => ModulatorKind::Draw,
            Self::Steps(..) => ModulatorKind::Steps,
            Self::Level => ModulatorKind::Level,
            Self::Bass => ModulatorKind::Bass,
            Self::Mids => ModulatorKind::Mids,
            Self::Highs => ModulatorKind::Highs,
            Self::Band(_) => ModulatorKind::Band,
            Self::Onset(_) => ModulatorKind::Onset,
            Self::Beat(_) => ModulatorKind::Beat,
            Self::Control(_) => ModulatorKind::Control,
            Self::Counter(_) => ModulatorKind::Counter,
            Self::Formula(_) => ModulatorKind::Formula,
        }
    }

    /// The cycle that it runs round in, if it does.
    #[must_use]
    pub fn cycle(&self) -> Option<&Cycle> {
        match self {
            Self::Sine(cycle)
            | Self::Triangle(cycle)
            | Self::SawUp(cycle)
            | Self::SawDown(cycle)
            | Self::Square(cycle)
            | Self::Random(cycle)
            | Self::Drift(cycle)
            | Self::Steps(cycle, _) => Some(cycle),
            Self::Draw
            | Self::Level
            | Self::Bass
            | Self::Mids
            | Self::Highs
            | Self::Band(_)
            | Self::Onset(_)
            | Self::Beat(_)
            | Self::Control(_)
            | Self::Counter(_)
            | Self::Formula(_) => None,
        }
    }

    /// The time that it takes, as a rate: a cycle, or dying away.
    #[must_use]
    pub fn rate(&self) -> Option<&str> {
        match self {
            Self::Onset(decay) | Self::Beat(decay) => Some(decay),
            other => other.cycle().map(|cycle| cycle.rate.as_str()),
        }
    }
}

/// The way a source runs round.
#[derive(Debug, Clone, PartialEq)]
pub struct Cycle {
    /// The time that a cycle takes; see [`splimo_time::rate::Rate`].
    pub rate: String,
    /// The place in its cycle at which it begins, in turns.
    pub phase: f32,
}

/// The events that move a counter, and when it is round.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Counter {
    /// The event that moves it forward.
    pub forward: CountEvent,
    /// The event that moves it backward.
    pub backward: CountEvent,
    /// The event that brings it back to its start.
    pub reset: CountEvent,
    /// The number of steps that it takes until it is round.
    pub count: u32,
}
