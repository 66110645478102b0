//! Bindings: which event of an input asks for which command.

use serde::{Deserialize, Serialize};

use crate::CommandTemplate;
use crate::event::{Condition, EventAddress};

/// The most bindings of a show.
pub const MOST_BINDINGS: usize = 1024;

/// The way in which a binding answers to its event.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Answer {
    /// It asks for its commands at each press.
    #[default]
    Press,
    /// It asks for its commands at a press, and for others when that is let go.
    Held,
    /// It asks for its commands at one press, and for others at the next.
    Toggle,
    /// It follows the value.
    Value,
    /// It moves by what an encoder says.
    Relative,
}

impl Answer {
    /// Every way.
    pub const ALL: [Self; 5] = [Self::Press, Self::Held, Self::Toggle, Self::Value, Self::Relative];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Press => "press",
            Self::Held => "held",
            Self::Toggle => "toggle",
            Self::Value => "value",
            Self::Relative => "relative",
        }
    }
}

/// The code by which an encoder says how far it was turned, in 7 bits. The usual ones of makers of controllers.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Coding {
    /// 1..63 is up, 127..65 is down by 1..63.
    #[default]
    TwosComplement,
    /// 64 is none, 65..127 is up, 63..0 is down.
    Offset,
    /// 1..63 is up, 65..127 is down by 1..63.
    SignBit,
    /// 1..63 is down, 65..127 is up by 1..63.
    SignBitReversed,
}

impl Coding {
    /// Every code.
    pub const ALL: [Self; 4] = [Self::TwosComplement, Self::Offset, Self::SignBit, Self::SignBitReversed];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::TwosComplement => "two's complement",
            Self::Offset => "offset 64",
            Self::SignBit => "sign bit",
            Self::SignBitReversed => "sign bit reversed",
        }
    }

    /// The steps that a value means, 0..127.
    #[must_use]
    pub fn steps(self, raw: u16) -> i32 {
        let raw = i32::from(raw.min(127));
        let signed = if raw >= 64 { 64 - raw } else { raw };
        match self {
            Self::TwosComplement => {
                if raw >= 64 {
                    raw - 128
                } else {
                    raw
                }
            }
            Self::Offset => raw - 64,
            Self::SignBit => signed,
            Self::SignBitReversed => -signed,
        }
    }
}

/// The way in which the range follows a value.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Response {
    /// Evenly.
    #[default]
    Linear,
    /// Slowly at first: the square of the value.
    Square,
    /// Fast at first: the square root of the value.
    Root,
    /// Slowly at both ends.
    Smooth,
}

impl Response {
    /// Every way.
    pub const ALL: [Self; 4] = [Self::Linear, Self::Square, Self::Root, Self::Smooth];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Linear => "linear",
            Self::Square => "square",
            Self::Root => "root",
            Self::Smooth => "smooth",
        }
    }

    /// The answer to a value, both 0..1.
    #[must_use]
    pub fn of(self, value: f32) -> f32 {
        let value = value.clamp(0.0, 1.0);
        match self {
            Self::Linear => value,
            Self::Square => value * value,
            Self::Root => value.sqrt(),
            Self::Smooth => value * value * (3.0 - 2.0 * value),
        }
    }

    /// The value that gives an answer, both 0..1.
    #[must_use]
    pub fn value_of(self, answer: f32) -> f32 {
        let answer = answer.clamp(0.0, 1.0);
        match self {
            Self::Linear => answer,
            Self::Square => answer.sqrt(),
            Self::Root => answer * answer,
            Self::Smooth => {
                let (mut low, mut high) = (0.0f32, 1.0f32);
                for _ in 0..20 {
                    let middle = (low + high) / 2.0;
                    if self.of(middle) < answer { low = middle } else { high = middle }
                }
                (low + high) / 2.0
            }
        }
    }
}

/// A band of values that asks for something when the value comes into it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Band {
    /// Its lowest value, as it comes in; it goes up to the next band.
    pub from: u16,
    /// The commands that it asks for.
    #[serde(rename = "do", default, skip_serializing_if = "Vec::is_empty")]
    pub does: Vec<CommandTemplate>,
}

/// Which event asks for which commands, and how.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Binding {
    /// The name of the input; `keys`, `music` and `time` are always there.
    pub source: String,
    /// The event of it.
    pub event: EventAddress,
    /// The condition on its value.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub when: Option<Condition>,
    /// The shift layer in which it counts; without one, it counts where no other binding of the event has the layer.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub layer: String,
    /// The shift layer that is on while the event is held.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub shifts: String,
    /// The commands that it asks for; `{}` is where the value stands.
    #[serde(rename = "do", default, skip_serializing_if = "Vec::is_empty")]
    pub does: Vec<CommandTemplate>,
    /// The commands when what is held is let go, or at every second press.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub let_go: Vec<CommandTemplate>,
    /// The way in which it answers.
    #[serde(default, skip_serializing_if = "is_usual")]
    pub answer: Answer,
    /// The code of an encoder.
    #[serde(default, skip_serializing_if = "is_usual")]
    pub coding: Coding,
    /// The lowest and the highest number that the value gives. The first may be the higher one.
    #[serde(default = "percent", skip_serializing_if = "is_percent")]
    pub range: [f32; 2],
    /// The way in which the range follows the value.
    #[serde(default, skip_serializing_if = "is_usual")]
    pub curve: Response,
    /// True if the highest value gives the lowest number.
    #[serde(default, skip_serializing_if = "is_usual")]
    pub invert: bool,
    /// True if it moves nothing until it has come past where that is.
    #[serde(default, skip_serializing_if = "is_usual")]
    pub soft: bool,
    /// Bands of the value, each of which asks for something.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub bands: Vec<Band>,
    /// The counts by which a value has to leave its band, so that noise does not.
    #[serde(default = "two", skip_serializing_if = "is_two")]
    pub hysteresis: u16,
}

impl Binding {
    /// One that asks for a command at each press.
    #[must_use]
    pub fn new(source: &str, event: EventAddress, does: &str) -> Self {
        Self {
            source: source.to_owned(),
            event,
            when: None,
            layer: String::new(),
            shifts: String::new(),
            does: if does.is_empty() { Vec::new() } else { vec![does.into()] },
            let_go: Vec::new(),
            answer: Answer::Press,
            coding: Coding::default(),
            range: percent(),
            curve: Response::default(),
            invert: false,
            soft: false,
            bands: Vec::new(),
            hysteresis: two(),
        }
    }

    /// Everything that it may ask for.
    pub fn commands(&self) -> impl Iterator<Item = &CommandTemplate> {
        self.does.iter().chain(&self.let_go).chain(self.bands.iter().flat_map(|band| &band.does))
    }

    /// The request, in a few words.
    #[must_use]
    pub fn asks_for(&self) -> String {
        match (self.bands.len(), self.does.as_slice()) {
            (0, []) if !self.shifts.is_empty() => format!("the layer {}", self.shifts),
            (0, []) => "nothing".to_owned(),
            (0, [one]) => one.to_string(),
            (0, [one, rest @ ..]) => format!("{one}, and {} more", rest.len()),
            (bands, _) => format!("one of {bands} by its value"),
        }
    }

    /// The number that a value of 0..1 gives.
    #[must_use]
    pub fn number(&self, value: f32) -> f32 {
        let value = if self.invert { 1.0 - value } else { value };
        self.range[0] + (self.range[1] - self.range[0]) * self.curve.of(value)
    }

    /// The value of 0..1 that gives a number.
    #[must_use]
    pub fn value(&self, number: f32) -> f32 {
        let width = self.range[1] - self.range[0];
        let answer = if width == 0.0 { 0.0 } else { (number - self.range[0]) / width };
        let value = self.curve.value_of(answer);
        if self.invert { 1.0 - value } else { value }
    }
}

fn percent() -> [f32; 2] {
    [0.0, 100.0]
}

fn is_percent(range: &[f32; 2]) -> bool {
    *range == percent()
}

fn two() -> u16 {
    2
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks by reference")]
fn is_two(counts: &u16) -> bool {
    *counts == 2
}

fn is_usual<T: Default + PartialEq>(value: &T) -> bool {
    *value == T::default()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn the_four_codings_of_encoders_tell_steps_as_their_makers_mean_them() {
        for (coding, up, down, three_down) in [
            (Coding::TwosComplement, 1, 127, 125),
            (Coding::Offset, 65, 63, 61),
            (Coding::SignBit, 1, 65, 67),
            (Coding::SignBitReversed, 65, 1, 3),
        ] {
            let steps = [up, down, three_down].map(|raw| coding.steps(raw));
            assert_eq!(steps, [1, -1, -3], "{}", coding.name());
        }
    }

    proptest! {
        #[test]
        fn a_number_and_its_value_go_both_ways(value in 0.0f32..=1.0, which in 0usize..4, invert: bool, low in -10f32..10.0) {
            let binding = Binding {
                curve: Response::ALL[which], invert, range: [low, low + 40.0],
                ..Binding::new("box", EventAddress::Beat, "master {}")
            };
            let number = binding.number(value);
            prop_assert!((low..=low + 40.001).contains(&number));
            prop_assert!((binding.number(binding.value(number)) - number).abs() < 0.05);
        }
    }
}
