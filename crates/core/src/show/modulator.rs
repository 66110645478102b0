//! A modulator of a layer: what moves one of its parameters, as data.

use serde::{Deserialize, Serialize};

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
    /// A formula; see [`crate::formula`].
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
    /// The time that a cycle takes; see [`crate::rate::Rate`].
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

/// A modulator as files and forms have it: the fields of all sources side by side, of which its own are taken.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct ModulatorFields {
    /// The name of the parameter that it moves.
    pub param: String,
    /// The kind of its source.
    pub source: ModulatorKind,
    /// The most by which it moves the parameter.
    pub depth: f32,
    /// An addition to it.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub offset: f32,
    /// The time that a cycle takes; for onset and beat, how long they take to die away.
    #[serde(default = "four_beats", skip_serializing_if = "is_four_beats")]
    pub rate: String,
    /// The place in its cycle at which it begins, in turns.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub phase: f32,
    /// The power to which the movement is raised.
    #[serde(default = "one", skip_serializing_if = "is_one")]
    pub curve: f32,
    /// Over how many seconds it is smoothed.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub smooth: f32,
    /// The steps of a step list.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub steps: Vec<f32>,
    /// The number of the band (1..24) or of the control (1..16).
    #[serde(default = "first", skip_serializing_if = "is_first")]
    pub number: u32,
    /// The formula.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub formula: String,
    /// The event that moves a counter forward.
    #[serde(default = "on_beat", skip_serializing_if = "is_on_beat")]
    pub forward: CountEvent,
    /// The event that moves a counter backward.
    #[serde(default, skip_serializing_if = "CountEvent::is_never")]
    pub backward: CountEvent,
    /// The event that brings a counter back to its start.
    #[serde(default, skip_serializing_if = "CountEvent::is_never")]
    pub reset: CountEvent,
    /// The number of steps that a counter takes until it is round.
    #[serde(default = "eight", skip_serializing_if = "is_eight")]
    pub count: u32,
}

impl Default for ModulatorFields {
    fn default() -> Self {
        Self {
            param: String::new(),
            source: ModulatorKind::Sine,
            depth: 0.0,
            offset: 0.0,
            rate: four_beats(),
            phase: 0.0,
            curve: one(),
            smooth: 0.0,
            steps: Vec::new(),
            number: first(),
            formula: String::new(),
            forward: on_beat(),
            backward: CountEvent::Never,
            reset: CountEvent::Never,
            count: eight(),
        }
    }
}

impl From<ModulatorFields> for Modulator {
    fn from(fields: ModulatorFields) -> Self {
        let ModulatorFields { param, source, depth, offset, curve, smooth, .. } = fields;
        let ModulatorFields { rate, phase, steps, number, formula, forward, backward, reset, count, .. } = fields;
        let cycle = Cycle { rate: rate.clone(), phase };
        let source = match source {
            ModulatorKind::Sine => ModulatorSource::Sine(cycle),
            ModulatorKind::Triangle => ModulatorSource::Triangle(cycle),
            ModulatorKind::SawUp => ModulatorSource::SawUp(cycle),
            ModulatorKind::SawDown => ModulatorSource::SawDown(cycle),
            ModulatorKind::Square => ModulatorSource::Square(cycle),
            ModulatorKind::Random => ModulatorSource::Random(cycle),
            ModulatorKind::Drift => ModulatorSource::Drift(cycle),
            ModulatorKind::Draw => ModulatorSource::Draw,
            ModulatorKind::Steps => ModulatorSource::Steps(cycle, steps),
            ModulatorKind::Level => ModulatorSource::Level,
            ModulatorKind::Bass => ModulatorSource::Bass,
            ModulatorKind::Mids => ModulatorSource::Mids,
            ModulatorKind::Highs => ModulatorSource::Highs,
            ModulatorKind::Band => ModulatorSource::Band(number),
            ModulatorKind::Onset => ModulatorSource::Onset(rate),
            ModulatorKind::Beat => ModulatorSource::Beat(rate),
            ModulatorKind::Control => ModulatorSource::Control(number),
            ModulatorKind::Counter => ModulatorSource::Counter(Counter { forward, backward, reset, count }),
            ModulatorKind::Formula => ModulatorSource::Formula(formula),
        };
        Self { param, source, depth, offset, curve, smooth }
    }
}

impl From<Modulator> for ModulatorFields {
    fn from(modulator: Modulator) -> Self {
        let Modulator { param, source, depth, offset, curve, smooth } = modulator;
        let mut fields = Self { param, source: source.kind(), depth, offset, curve, smooth, ..Self::default() };
        if let Some(cycle) = source.cycle() {
            fields.phase = cycle.phase;
        }
        if let Some(rate) = source.rate() {
            rate.clone_into(&mut fields.rate);
        }
        match source {
            ModulatorSource::Steps(_, steps) => fields.steps = steps,
            ModulatorSource::Band(number) | ModulatorSource::Control(number) => fields.number = number,
            ModulatorSource::Formula(formula) => fields.formula = formula,
            ModulatorSource::Counter(Counter { forward, backward, reset, count }) => {
                (fields.forward, fields.backward, fields.reset, fields.count) = (forward, backward, reset, count);
            }
            ModulatorSource::Sine(_)
            | ModulatorSource::Triangle(_)
            | ModulatorSource::SawUp(_)
            | ModulatorSource::SawDown(_)
            | ModulatorSource::Square(_)
            | ModulatorSource::Random(_)
            | ModulatorSource::Drift(_)
            | ModulatorSource::Draw
            | ModulatorSource::Level
            | ModulatorSource::Bass
            | ModulatorSource::Mids
            | ModulatorSource::Highs
            | ModulatorSource::Onset(_)
            | ModulatorSource::Beat(_) => {}
        }
        fields
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
    /// The kind of a modulator's source. Waves, random numbers and steps give -1..1, what is heard and the counter 0..1.
    ModulatorKind {
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
    /// An event that moves a counter.
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_source_comes_back_from_its_fields_with_all_that_it_needs() {
        for &source in ModulatorKind::ALL {
            let fields = ModulatorFields {
                param: "zoom".into(),
                source,
                depth: 2.0,
                rate: "3 s".into(),
                phase: 0.25,
                steps: vec![10.0],
                number: 7,
                formula: "beat".into(),
                backward: CountEvent::Onset,
                count: 5,
                ..ModulatorFields::default()
            };
            let modulator = Modulator::from(fields);
            assert_eq!(modulator.source.kind(), source);
            let written = toml::to_string(&modulator).expect("it is written");
            assert_eq!(toml::from_str::<Modulator>(&written).expect(&written), modulator, "{written}");
        }
        let steps = Modulator::from(ModulatorFields {
            source: ModulatorKind::Steps,
            steps: vec![1.0, 2.0],
            number: 3,
            ..ModulatorFields::default()
        });
        let written = toml::to_string(&steps).expect("it is written");
        assert!(written.contains("steps = [1.0, 2.0]") && !written.contains("number"), "{written}");
    }
}
