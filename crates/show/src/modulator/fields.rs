//! Modulators as files and forms have them.

use serde::{Deserialize, Serialize};

use super::{CountEvent, Counter, Cycle, Modulator, ModulatorKind, ModulatorSource};

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
