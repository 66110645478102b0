//! How fast something moves, and the phase it has reached. A phase is summed up from steps, so that no change of rate
//! or tempo ever makes it jump.

use std::fmt;
use std::str::FromStr;

/// How fast a cycle goes round.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Rate {
    /// Not at all.
    Stopped,
    /// Seconds a cycle.
    Seconds(f32),
    /// Cycles a second.
    Hertz(f32),
    /// Beats a cycle.
    Beats(f32),
}

impl Rate {
    /// The cycles gone round in a step.
    #[must_use]
    pub fn cycles(self, step: Step) -> f64 {
        match self {
            Self::Stopped => 0.0,
            Self::Seconds(s) => step.seconds / f64::from(s),
            Self::Hertz(hz) => step.seconds * f64::from(hz),
            Self::Beats(beats) => step.beats / f64::from(beats),
        }
    }
}

/// What a rate may not be.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("\"{0}\" is not a rate: write \"4 beats\", \"1/2 beat\", \"2 s\", \"0.5 hz\" or \"stopped\"")]
pub struct BadRate(String);

impl FromStr for Rate {
    type Err = BadRate;

    fn from_str(text: &str) -> Result<Self, BadRate> {
        let bad = || BadRate(text.to_owned());
        let lower = text.trim().to_ascii_lowercase();
        if lower == "stopped" {
            return Ok(Self::Stopped);
        }
        let (number, unit) = lower.split_once(' ').ok_or_else(bad)?;
        let value = match number.split_once('/') {
            Some((over, under)) => over.parse::<f32>().map_err(|_| bad())? / under.parse::<f32>().map_err(|_| bad())?,
            None => number.parse().map_err(|_| bad())?,
        };
        // Below a millisecond a cycle, or above an hour, a number is a slip of the finger.
        if !(0.001..=3600.0).contains(&f32::abs(value)) {
            return Err(bad());
        }
        match unit.trim() {
            "beat" | "beats" => Ok(Self::Beats(value)),
            "s" => Ok(Self::Seconds(value)),
            "hz" => Ok(Self::Hertz(value)),
            _ => Err(bad()),
        }
    }
}

impl fmt::Display for Rate {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Stopped => f.write_str("stopped"),
            Self::Seconds(s) => write!(f, "{s} s"),
            Self::Hertz(hz) => write!(f, "{hz} hz"),
            Self::Beats(beats) if beats.abs() == 1.0 => write!(f, "{beats} beat"),
            Self::Beats(beats) => write!(f, "{beats} beats"),
        }
    }
}

/// How far time went on in one tick.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Step {
    /// Seconds since the last tick, never negative.
    pub seconds: f64,
    /// Beats since the last tick, never negative.
    pub beats: f64,
}

/// Where in its cycle something is.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Phase(f64);

impl Phase {
    /// Goes on by one step at a rate.
    pub fn advance(&mut self, rate: Rate, step: Step) {
        self.0 = (self.0 + rate.cycles(step)).rem_euclid(1.0);
    }

    /// The phase, 0..1.
    #[must_use]
    pub fn turns(self) -> f32 {
        self.0 as f32
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rates_are_read_as_people_write_them() {
        assert_eq!("4 beats".parse(), Ok(Rate::Beats(4.0)));
        assert_eq!("1/4 beat".parse(), Ok(Rate::Beats(0.25)));
        assert_eq!("-2 s".parse(), Ok(Rate::Seconds(-2.0)));
        assert_eq!("0.5 Hz".parse(), Ok(Rate::Hertz(0.5)));
        assert_eq!("stopped".parse(), Ok(Rate::Stopped));
        for bad in ["", "4", "4 bars of it", "x s", "0 s", "1/0 beat", "nan s", "inf hz", "1e9 s"] {
            assert!(bad.parse::<Rate>().is_err(), "{bad}");
        }
    }

    #[test]
    fn rates_round_trip() {
        for text in ["4 beats", "1 beat", "2.5 s", "0.5 hz", "stopped"] {
            assert_eq!(text.parse::<Rate>().map(|r| r.to_string()), Ok(text.to_owned()));
        }
    }

    #[test]
    fn a_change_of_tempo_does_not_move_the_phase() {
        let mut phase = Phase::default();
        phase.advance(Rate::Beats(4.0), Step { seconds: 0.5, beats: 1.0 });
        let before = phase;
        phase.advance(Rate::Beats(1.0), Step::default());
        assert_eq!(phase, before);
        assert_eq!(phase.turns(), 0.25);
    }
}
