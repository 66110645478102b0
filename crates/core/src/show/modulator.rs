//! A modulator of a layer: what moves one of its parameters, as data.

use serde::{Deserialize, Serialize};

/// The most steps of a step list.
pub const MOST_STEPS: usize = 64;

/// What moves a parameter. The parameter is what the layer says, plus `offset`, plus `depth` times what the source gives.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Modulator {
    /// What it moves: a number of the effect by its name, `opacity`, or of a gradient `colours hue` (in degrees),
    /// `colours brightness` or `colours position` (in percent).
    pub param: String,
    /// What it gets its movement from.
    pub source: Source,
    /// How far it moves the parameter, in its unit; negative turns it round.
    pub depth: f32,
    /// What is added besides.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub offset: f32,
    /// How long a cycle takes; for onset and beat, how long they take to die away.
    #[serde(default = "four_beats", skip_serializing_if = "is_four_beats")]
    pub rate: String,
    /// Where in its cycle it begins, 0..1.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub phase: f32,
    /// The power to which the movement is raised: above 1 it stays low and shoots up, below 1 the other way round.
    #[serde(default = "one", skip_serializing_if = "is_one")]
    pub curve: f32,
    /// Over how many seconds it is smoothed.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub smooth: f32,
    /// The steps of a step list, -100..100 percent of the depth, one after the other in a cycle.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub steps: Vec<f32>,
    /// Which band (1..24) or which control (1..16).
    #[serde(default = "first", skip_serializing_if = "is_first")]
    pub number: u32,
    /// The formula; see [`crate::formula`].
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub formula: String,
    /// What moves a counter forward.
    #[serde(default = "on_beat", skip_serializing_if = "is_on_beat")]
    pub forward: CountEvent,
    /// What moves a counter backward.
    #[serde(default, skip_serializing_if = "CountEvent::is_never")]
    pub backward: CountEvent,
    /// What brings a counter back to its start.
    #[serde(default, skip_serializing_if = "CountEvent::is_never")]
    pub reset: CountEvent,
    /// How many steps a counter takes until it is round.
    #[serde(default = "eight", skip_serializing_if = "is_eight")]
    pub count: u32,
}

impl Modulator {
    /// A modulator with everything else at its default.
    #[must_use]
    pub fn new(param: &str, source: Source, depth: f32) -> Self {
        Self {
            param: param.to_owned(),
            source,
            depth,
            offset: 0.0,
            rate: four_beats(),
            phase: 0.0,
            curve: 1.0,
            smooth: 0.0,
            steps: Vec::new(),
            number: 1,
            formula: String::new(),
            forward: CountEvent::Beat,
            backward: CountEvent::Never,
            reset: CountEvent::Never,
            count: 8,
        }
    }
}

fn four_beats() -> String {
    "4 beats".to_owned()
}

fn is_four_beats(rate: &String) -> bool {
    rate == "4 beats"
}

fn is_zero(number: &f32) -> bool {
    *number == 0.0
}

fn one() -> f32 {
    1.0
}

fn is_one(number: &f32) -> bool {
    *number == 1.0
}

fn first() -> u32 {
    1
}

fn is_first(number: &u32) -> bool {
    *number == 1
}

fn eight() -> u32 {
    8
}

fn is_eight(number: &u32) -> bool {
    *number == 8
}

fn on_beat() -> CountEvent {
    CountEvent::Beat
}

fn is_on_beat(event: &CountEvent) -> bool {
    *event == CountEvent::Beat
}

macro_rules! words {
    ($(#[$doc:meta])* $name:ident { $($(#[$inner:meta])* $variant:ident = $word:literal,)* }) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
        pub enum $name {
            $($(#[$inner])* #[serde(rename = $word)] $variant,)*
        }

        impl $name {
            /// Every one.
            pub const ALL: &[Self] = &[$(Self::$variant),*];

            /// The word for it.
            #[must_use]
            pub fn name(self) -> &'static str {
                match self { $(Self::$variant => $word,)* }
            }

            /// The one of a word.
            #[must_use]
            pub fn named(word: &str) -> Option<Self> {
                Self::ALL.iter().copied().find(|one| one.name() == word)
            }
        }
    };
}

words! {
    /// Where a modulator gets its movement from. Waves, random numbers and steps give -1..1, what is heard and the counter 0..1.
    Source {
        /// A sine.
        Sine = "sine",
        /// Up and down in straight lines.
        Triangle = "triangle",
        /// Rises and falls back at once.
        SawUp = "saw up",
        /// Jumps up and falls.
        SawDown = "saw down",
        /// High for half of the cycle, then low.
        Square = "square",
        /// Another number drawn for each cycle.
        Random = "random",
        /// Wanders smoothly from one drawn number to the next.
        Drift = "drift",
        /// A number drawn on each beat.
        Draw = "draw",
        /// A list of steps of one's own.
        Steps = "steps",
        /// Loudness.
        Level = "level",
        /// The low bands.
        Bass = "bass",
        /// The middle bands.
        Mids = "mids",
        /// The high bands.
        Highs = "highs",
        /// One band.
        Band = "band",
        /// High at each attack that is heard, dying away.
        Onset = "onset",
        /// High on each beat, dying away.
        Beat = "beat",
        /// An incoming control.
        Control = "control",
        /// A counter that events move.
        Counter = "counter",
        /// A formula.
        Formula = "formula",
    }
}

words! {
    /// What moves a counter.
    #[derive(Default)]
    CountEvent {
        /// Nothing does.
        #[default]
        Never = "never",
        /// Each beat.
        Beat = "beat",
        /// Each bar.
        Bar = "bar",
        /// Each phrase.
        Phrase = "phrase",
        /// Each attack that is heard.
        Onset = "onset",
        /// Each look that lands.
        Landing = "landing",
        /// The action count-forward.
        Forward = "count-forward",
        /// The action count-back.
        Back = "count-back",
        /// The action count-reset.
        Reset = "count-reset",
    }
}

impl CountEvent {
    fn is_never(&self) -> bool {
        *self == Self::Never
    }
}

impl Source {
    /// Whether it runs round in cycles of a rate.
    #[must_use]
    pub fn has_rate(self) -> bool {
        use Source::{Beat, Drift, Onset, Random, SawDown, SawUp, Sine, Square, Steps, Triangle};
        matches!(self, Sine | Triangle | SawUp | SawDown | Square | Random | Drift | Steps | Onset | Beat)
    }
}
