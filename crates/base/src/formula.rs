//! The language of formulas, in which a modulator can be written: numbers, names for the present and the music, and a few
//! functions. Angles are in turns, as everywhere in Splimo. A formula is compiled once, to steps for a small stack; running
//! it allocates nothing and always ends.
//!
//! ```text
//! formula    = or
//! or         = and { "or" and }
//! and        = not { "and" not }
//! not        = "not" not | comparison
//! comparison = sum [ ("<" | "<=" | ">" | ">=" | "==" | "!=") sum ]
//! sum        = product { ("+" | "-") product }
//! product    = sign { ("*" | "/" | "%") sign }
//! sign       = "-" sign | power
//! power      = atom [ "^" sign ]
//! atom       = number | name | name "(" formula { "," formula } ")" | "(" formula ")"
//! ```

mod names;
mod parse;

pub use names::{FUNCTIONS, Heard, NAMES, Present};

use crate::maths;

/// The longest formula, in characters.
pub const LONGEST: usize = 400;
/// The number of values that may wait for each other.
const DEPTH: usize = 24;

/// The reason why a text is not a formula.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("column {column}: {message}")]
pub struct BadFormula {
    /// The place, counted from 1, in characters.
    pub column: usize,
    /// The fault and the way to mend it.
    pub message: String,
}

/// One step of a compiled formula.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Op {
    Number(f64),
    Name(usize),
    Call(usize),
    Negate,
    Not,
    Two(Two),
}

/// An operation on two values.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Two {
    Add,
    Subtract,
    Multiply,
    Divide,
    Remainder,
    Power,
    Less,
    LessOrEqual,
    Greater,
    GreaterOrEqual,
    Equal,
    Unequal,
    And,
    Or,
}

/// A compiled formula.
#[derive(Debug, Clone, PartialEq)]
pub struct Formula {
    ops: Vec<Op>,
}

impl Formula {
    /// Compiles a text.
    ///
    /// # Errors
    /// [`BadFormula`] with the column.
    pub fn compile(text: &str) -> Result<Self, BadFormula> {
        parse::compile(text).map(|ops| Self { ops })
    }

    /// Its value at present; 0 where it has none, as of a division by 0.
    #[must_use]
    pub fn value(&self, present: &Present<'_>) -> f64 {
        let mut stack = [0.0f64; DEPTH];
        let mut top = 0;
        for op in &self.ops {
            let (taken, value) = match *op {
                Op::Number(number) => (0, number),
                Op::Name(name) => (0, names::value(name, present)),
                Op::Negate => (1, -stack[top - 1]),
                Op::Not => (1, truth(stack[top - 1] == 0.0)),
                Op::Two(two) => (2, two.of(stack[top - 2], stack[top - 1])),
                Op::Call(function) => {
                    let taken = FUNCTIONS[function].arguments;
                    (taken, (FUNCTIONS[function].run)(&stack[top - taken..top], present))
                }
            };
            top = top + 1 - taken;
            stack[top - 1] = if value.is_finite() { value } else { 0.0 };
        }
        stack[0]
    }
}

fn truth(holds: bool) -> f64 {
    f64::from(u8::from(holds))
}

impl Two {
    fn of(self, a: f64, b: f64) -> f64 {
        match self {
            Self::Add => a + b,
            Self::Subtract => a - b,
            Self::Multiply => a * b,
            Self::Divide => a / b,
            Self::Remainder => a - b * (a / b).floor(),
            // By our own powers, which give the same bits on every machine.
            Self::Power if a < 0.0 && b.fract() == 0.0 && b.abs() < 64.0 => whole_power(a, b as i32),
            Self::Power => f64::from(maths::powf(a.max(0.0) as f32, b.clamp(-64.0, 64.0) as f32)),
            Self::Less => truth(a < b),
            Self::LessOrEqual => truth(a <= b),
            Self::Greater => truth(a > b),
            Self::GreaterOrEqual => truth(a >= b),
            Self::Equal => truth(a == b),
            Self::Unequal => truth(a != b),
            Self::And => truth(a != 0.0 && b != 0.0),
            Self::Or => truth(a != 0.0 || b != 0.0),
        }
    }
}

fn whole_power(base: f64, exponent: i32) -> f64 {
    let power = (0..exponent.abs()).fold(1.0, |product, _| product * base);
    if exponent < 0 { 1.0 / power } else { power }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn value(text: &str) -> f64 {
        let heard = Heard { level: 0.5, bass: 0.25, mids: 0.25, highs: 0.25, bands: &[0.25; 24], ..Heard::default() };
        let present = Present {
            bar_beats: 4.0,
            time: 3.0,
            beat: 9.5,
            tempo: 120.0,
            heard,
            controls: &[0.0, 0.75],
            onset: 0.5,
            hits: [0.0; 3],
        };
        Formula::compile(text).unwrap_or_else(|e| panic!("{text}: {e}")).value(&present)
    }

    #[test]
    fn arithmetic_has_its_usual_order() {
        for (text, wanted) in [
            ("1 + 2 * 3", 7.0),
            ("(1 + 2) * 3", 9.0),
            ("-2 ^ 2", -4.0),
            ("2 ^ -1", 0.5),
            ("2 ^ 3 ^ 0", 2.0),
            ("7 % 4 - 10 / 4", 0.5),
            ("-1 % 4", 3.0),
            ("1 < 2 and not 3 <= 2", 1.0),
            ("0 or 2 == 2", 1.0),
            ("1 / 0", 0.0),
            (".5 + 1e1", 10.5),
        ] {
            assert!((value(text) - wanted).abs() < 1e-5, "{text} is {}", value(text));
        }
    }

    #[test]
    fn names_are_the_present() {
        for (text, wanted) in [
            ("beat", 9.5),
            ("bar", 2.375),
            ("time * 2", 6.0),
            ("level", 0.5),
            ("band(3) + bass", 0.5),
            ("control(2)", 0.75),
            ("control(99)", 0.0),
            ("tempo", 120.0),
            ("sin(0.25)", 1.0),
            ("tri(0.5) + saw(1.75) + square(0.6)", -1.0 + 0.5 - 1.0),
            ("if(level > 0.4, 3, 4)", 3.0),
            ("clamp(5, 0, 2) + mix(0, 10, 0.3)", 5.0),
            ("fract(beat)", 0.5),
        ] {
            assert!((value(text) - wanted).abs() < 1e-4, "{text} is {}", value(text));
        }
        let (a, b) = (value("rand(4)"), value("rand(5)"));
        assert!(a != b && (0.0..1.0).contains(&a) && value("rand(4.9)") == a);
        assert!((value("noise(4)") - value("noise(4.001)")).abs() < 0.01);
    }

    #[test]
    fn errors_name_the_column() {
        for (text, column, word) in [
            ("", 1, "empty"),
            ("1 +", 4, "ends"),
            ("2 * bananas", 5, "bananas"),
            ("sin 3", 5, "("),
            ("sin(1, 2)", 1, "takes 1"),
            ("(1 + 2", 7, ")"),
            ("1 2", 3, "operator"),
            ("3 $ 4", 3, "$"),
            ("1.2.3", 1, "1.2.3"),
            ("max(1)", 1, "takes 2"),
            ("level()", 1, "level"),
        ] {
            let bad = Formula::compile(text).expect_err(text);
            assert!(bad.column == column && bad.message.contains(word), "{text}: {bad}");
        }
        assert!(Formula::compile(&"(".repeat(390)).is_err());
        assert!(Formula::compile(&"1+(".repeat(100)).is_err());
        assert!(Formula::compile(&"1".repeat(401)).is_err());
    }

    #[test]
    fn every_name_and_function_has_its_help() {
        for (name, help) in NAMES {
            assert!(!help.is_empty() && Formula::compile(name).is_ok(), "{name}");
        }
        for function in FUNCTIONS {
            let arguments = vec!["0.5"; function.arguments].join(", ");
            assert!(!function.help.is_empty() && value(&format!("{}({arguments})", function.name)).is_finite());
        }
    }

    proptest! {
        #[test]
        fn any_text_is_a_formula_or_an_error_in_it(text in "[ -~é\n]{0,60}") {
            if let Err(bad) = Formula::compile(&text) {
                prop_assert!(bad.column >= 1 && bad.column <= text.chars().count() + 1, "{:?}: {}", text, bad);
            }
        }

        #[test]
        fn what_compiles_always_has_a_value(words in prop::collection::vec(
            prop::sample::select(vec!["1", "beat", "(", ")", "+", "-", "*", "/", "%", "^", "<", "sin(", "max(", ",", "level", "if(", "rand("]), 0..16)
        ) {
            let text = words.join(" ");
            if let Ok(formula) = Formula::compile(&text) {
                let heard = Heard::default();
                let present = Present { bar_beats: 4.0, time: 1e6, beat: -3.0, tempo: 0.0, heard, controls: &[], onset: 0.0, hits: [0.0; 3] };
                prop_assert!(formula.value(&present).is_finite());
            }
        }
    }
}
