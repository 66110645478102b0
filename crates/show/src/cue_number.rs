//! The numbers of cues, with room for others between any two.

use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

/// The number of a cue: 0.001 to 9999.999, with three digits behind the point, so that others fit between two.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(try_from = "f64", into = "f64")]
pub struct CueNumber(u32);

impl CueNumber {
    /// The first number of a new list.
    pub const ONE: Self = Self(1000);
    const MOST: u32 = 9_999_999;

    /// The number a whole step after this one, if there is one.
    #[must_use]
    pub fn next(self) -> Option<Self> {
        let next = (self.0 / 1000 + 1) * 1000;
        (next <= Self::MOST).then_some(Self(next))
    }

    /// A number between this and another one, with as few digits as it can have.
    #[must_use]
    pub fn between(self, other: Self) -> Option<Self> {
        for step in [1000, 500, 100, 50, 10, 5, 1] {
            let at = (self.0 / step + 1) * step;
            if at < other.0 {
                return Some(Self(at));
            }
        }
        None
    }
}

impl TryFrom<f64> for CueNumber {
    type Error = BadCue;
    fn try_from(number: f64) -> Result<Self, BadCue> {
        let thousandths = (number * 1000.0).round();
        match (1.0..=f64::from(Self::MOST)).contains(&thousandths) && (thousandths - number * 1000.0).abs() < 1e-6 {
            true => Ok(Self(thousandths as u32)),
            false => Err(BadCue::Number(number.to_string())),
        }
    }
}

impl From<CueNumber> for f64 {
    fn from(number: CueNumber) -> Self {
        Self::from(number.0) / 1000.0
    }
}

impl FromStr for CueNumber {
    type Err = BadCue;
    fn from_str(text: &str) -> Result<Self, BadCue> {
        text.trim().parse::<f64>().map_err(|_| BadCue::Number(text.to_owned()))?.try_into()
    }
}

impl fmt::Display for CueNumber {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}", f64::from(*self))
    }
}

/// A text that tells no part of a cue.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum BadCue {
    /// It is no number of a cue.
    #[error("\"{0}\" is no number of a cue; write one from 0.001 to 9999.999, such as 4 or 4.5")]
    Number(String),
    /// It is no time.
    #[error("\"{0}\" is no time; write 3 s, 2 beats, 4 bars, or 0")]
    Time(String),
    /// It is no way of going on.
    #[error(
        "\"{0}\" is no way to go on; write by hand, after 3 s, after 16 bars, on bar, at the end of a pattern, on music part drop, or on INPUT EVENT"
    )]
    GoesOn(String),
}
