//! The speed of something, and the phase it has reached. A phase is summed up from steps, so that no change of rate
//! or tempo ever makes it jump.

use std::fmt;
use std::str::FromStr;

/// Beats in a bar, where nobody says otherwise.
pub const BEATS_PER_BAR: f64 = 4.0;

/// The rates that one goes through when one nudges: note values from 1/32 to 32 bars, as they are written.
pub const LADDER: [&str; 14] = [
    "stopped",
    "32 bars",
    "16 bars",
    "8 bars",
    "4 bars",
    "2 bars",
    "1 bar",
    "2 beats",
    "1 beat",
    "1/8 note",
    "1/16 note",
    "1/32 note",
    "1/64 note",
    "1/128 note",
];

/// The speed at which a cycle goes round.
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

/// A text that is no rate.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("\"{0}\" is not a rate: write \"4 beats\", \"1/16 note\", \"8 bars\", \"2 s\", \"0.5 hz\" or \"stopped\"")]
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
            "bar" | "bars" => Ok(Self::Beats(value * BEATS_PER_BAR as f32)),
            // A whole note is a bar of four beats.
            "note" => Ok(Self::Beats(value * BEATS_PER_BAR as f32)),
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

/// The step of time in one tick.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Step {
    /// Seconds since the last tick, never negative.
    pub seconds: f64,
    /// Beats since the last tick, never negative.
    pub beats: f64,
}

/// The place of something in its cycles: how many are over, and the share of the present one.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Phase {
    whole: i64,
    part: f64,
    /// The way that it still glides to where it was asked to be, in turns.
    glide: f64,
}

/// The time that a phase takes to glide to where it was asked to be, in seconds.
const GLIDE: f64 = 0.4;

impl Phase {
    /// A phase of so many turns since its start.
    #[must_use]
    pub fn of(turns: f64) -> Self {
        let whole = turns.floor();
        Self { whole: whole as i64, part: turns - whole, glide: 0.0 }
    }

    /// Goes on by one step at a rate.
    pub fn advance(&mut self, rate: Rate, step: Step) {
        let share = (step.seconds / GLIDE).min(1.0);
        let glided = if self.glide.abs() < 1e-4 { self.glide } else { self.glide * share };
        self.glide -= glided;
        self.go_on(rate.cycles(step) + glided);
    }

    fn go_on(&mut self, turns: f64) {
        let part = self.part + turns;
        let over = part.floor();
        self.whole += over as i64;
        // A hair below zero rounds up to a whole one.
        self.part = (part - over).clamp(0.0, 1.0 - f64::EPSILON);
    }

    /// The share of the present cycle, 0..1.
    #[must_use]
    pub fn turns(self) -> f32 {
        self.part as f32
    }

    /// The number of cycles that are over since the start; negative where it went backward.
    #[must_use]
    pub fn whole(self) -> i64 {
        self.whole
    }

    /// All turns since the start.
    #[must_use]
    pub fn total(self) -> f64 {
        self.whole as f64 + self.part
    }

    /// The phase some turns before this one.
    #[must_use]
    pub fn behind(self, turns: f32) -> Self {
        let mut phase = self;
        phase.go_on(-f64::from(turns));
        phase
    }

    /// Moves to a place in its cycle (0..1) by the shortest way, gliding.
    pub fn glide_to(&mut self, place: f64) {
        let way = (place - self.part).rem_euclid(1.0);
        self.glide = if way > 0.5 { way - 1.0 } else { way };
    }

    /// Steps on by whole cycles, or back.
    pub fn step(&mut self, by: i64) {
        self.whole = self.whole.saturating_add(by);
    }

    /// Moves to so many turns since its start at once. What it still has to glide goes on from there.
    pub fn move_to(&mut self, turns: f64) {
        *self = Self { glide: self.glide, ..Self::of(turns) };
    }

    /// Goes on by some cycles, not gliding.
    pub fn add(&mut self, turns: f64) {
        self.go_on(turns);
    }

    /// Begins anew.
    pub fn restart(&mut self) {
        *self = Self::default();
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
        assert_eq!("1/32 note".parse(), Ok(Rate::Beats(0.125)));
        assert_eq!("32 bars".parse(), Ok(Rate::Beats(128.0)));
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

    #[test]
    fn the_ladder_goes_from_32_bars_to_a_128th() {
        let rates: Vec<Rate> = LADDER.iter().map(|text| text.parse().expect("a rate")).collect();
        assert_eq!((rates[0], rates[1], rates[13]), (Rate::Stopped, Rate::Beats(128.0), Rate::Beats(4.0 / 128.0)));
    }

    #[test]
    fn cycles_are_counted_both_ways() {
        let mut phase = Phase::default();
        for _ in 0..10 {
            phase.advance(Rate::Seconds(-1.0), Step { seconds: 0.25, beats: 0.0 });
        }
        assert_eq!((phase.whole(), phase.turns()), (-3, 0.5));
        assert_eq!(phase.behind(0.75).total(), -3.25);
        assert_eq!(Phase::of(-3.25).turns(), 0.75);
    }

    #[test]
    fn a_phase_glides_to_its_middle_by_the_shortest_way() {
        let mut phase = Phase::of(7.9);
        phase.glide_to(0.0);
        let mut before = phase.total();
        for _ in 0..200 {
            phase.advance(Rate::Stopped, Step { seconds: 0.02, beats: 0.0 });
            assert!(phase.total() >= before && phase.total() - before < 0.02, "{before} {}", phase.total());
            before = phase.total();
        }
        assert!((phase.total() - 8.0).abs() < 1e-3, "{}", phase.total());
    }
}
