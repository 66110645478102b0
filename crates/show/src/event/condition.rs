//! Conditions on the value of an event.

use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

/// A condition on a value as it comes in.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub enum Condition {
    /// It is this one.
    Equal(f32),
    /// It is above this one.
    Above(f32),
    /// It is below this one.
    Below(f32),
    /// It is one of these, or between them.
    Between(f32, f32),
    /// It rises past this one; once more only after it has been below.
    Rising(f32),
}

impl Condition {
    /// The forms in which it is written.
    pub const TAKES: &'static str = "equal 5, above 64, below 10, between 10 20, or rising 64";

    /// True if a value meets it.
    #[must_use]
    pub fn holds(self, raw: f32) -> bool {
        match self {
            Self::Equal(value) => (raw - value).abs() < 0.5,
            Self::Above(level) | Self::Rising(level) => raw > level,
            Self::Below(level) => raw < level,
            Self::Between(from, to) => (from..=to).contains(&raw),
        }
    }
}

impl fmt::Display for Condition {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Equal(value) => write!(f, "equal {value}"),
            Self::Above(level) => write!(f, "above {level}"),
            Self::Below(level) => write!(f, "below {level}"),
            Self::Between(from, to) => write!(f, "between {from} {to}"),
            Self::Rising(level) => write!(f, "rising {level}"),
        }
    }
}

impl FromStr for Condition {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let odd = || format!("\"{text}\" is no condition; write {}", Self::TAKES);
        let mut words = text.split_whitespace();
        let kind = words.next().ok_or_else(odd)?;
        let numbers: Vec<f32> = words
            .map(|word| word.parse().ok().filter(|n: &f32| n.is_finite()).ok_or_else(odd))
            .collect::<Result<_, _>>()?;
        match (kind, numbers.as_slice()) {
            ("equal", [value]) => Ok(Self::Equal(*value)),
            ("above", [level]) => Ok(Self::Above(*level)),
            ("below", [level]) => Ok(Self::Below(*level)),
            ("between", [from, to]) if from <= to => Ok(Self::Between(*from, *to)),
            ("rising", [level]) => Ok(Self::Rising(*level)),
            _ => Err(odd()),
        }
    }
}

impl TryFrom<String> for Condition {
    type Error = String;
    fn try_from(text: String) -> Result<Self, String> {
        text.parse()
    }
}

impl From<Condition> for String {
    fn from(condition: Condition) -> Self {
        condition.to_string()
    }
}
