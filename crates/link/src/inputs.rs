//! The inputs: how each is, what came in last, and who is in charge of what.

use serde::{Deserialize, Serialize};
use splimo_show::Input;

/// The state of an input.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum InputState {
    /// It is switched off.
    #[default]
    Off,
    /// Nothing has come in yet.
    Waiting,
    /// Something came in a while ago at the most.
    Working,
    /// It has fallen silent.
    Silent,
    /// Nothing can come in; why.
    Failed(String),
}

/// An input as a screen sees it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct InputStatus {
    /// The input.
    pub input: Input,
    /// True if it is not of the show, but of the command line.
    pub extra: bool,
    /// Its state.
    pub state: InputState,
    /// Events a second, of late.
    pub rate: f32,
    /// The last event, in words; empty where there was none.
    pub last: String,
    /// The time of it.
    pub last_at: f64,
    /// The numbers of what could not be understood, what addresses sent that may not, and what was too much.
    pub malformed: u64,
    /// Packets of addresses that may not send.
    pub refused: u64,
    /// Events that were too many.
    pub left_out: u64,
    /// The last senders, as text.
    pub senders: Vec<String>,
    /// The events of its controls and what these are called, as the model of the controller has it.
    pub controls: Vec<(String, String)>,
}

/// An event that came in.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct EventLine {
    /// The time.
    pub at: f64,
    /// The time of day, in seconds since midnight.
    pub clock: Option<f64>,
    /// The input.
    pub source: String,
    /// The event, in words.
    pub event: String,
    /// Its value as it came in, and the highest that it can have.
    pub raw: [f32; 2],
    /// The number that its value gave, if a binding follows it.
    pub number: Option<f32>,
    /// The request, in words; empty where nothing answers to it.
    pub asked: String,
}

/// Everything that a screen may show of the inputs.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct InputsStatus {
    /// The time of it, on the time line of the show.
    pub now: f64,
    /// The inputs, those of the show first, in their order.
    pub inputs: Vec<InputStatus>,
    /// The last events, the latest last.
    pub events: Vec<EventLine>,
    /// The values and tiers that are in somebody's charge.
    pub charges: Vec<(String, String)>,
    /// The target that the next moved control is bound to, while somebody learns.
    pub learning: Option<String>,
    /// The names of inputs by the numbers under which they ask for things.
    pub names: Vec<String>,
    /// The origins that may start the programs of the show on this machine: `off`, `on` or `network`.
    pub allowed: String,
    /// The programs of it that run.
    pub running: Vec<String>,
    /// The values of slots, controllers and the like that came in last, by input and event, each 0..1.
    pub values: Vec<(String, String, f32)>,
}

/// Events that are told at the most.
pub const MOST_EVENTS: usize = 32;
/// Values that are told at the most.
pub const MOST_VALUES: usize = 64;
