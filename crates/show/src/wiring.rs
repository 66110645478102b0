//! The way the cells of a shape hang on their wire.

use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

/// The order in which the cells of a lattice are wired.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct Wiring {
    /// The corner of the first cell.
    pub start: Corner,
    /// The direction of the runs: along rows or along columns.
    pub along: Run,
    /// True if every second run goes back the other way.
    pub turns: bool,
    /// True if the wire comes in at the other end: the whole order is turned about.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub reversed: bool,
    /// The number of pixels that are on the wire, but dark, after each run.
    #[serde(skip_serializing_if = "is_zero")]
    pub gap: u32,
    /// The pixels of the wire, counted from 1, that are skipped: they take channels and give no light.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub skip: Vec<u32>,
}

fn is_zero(x: &u32) -> bool {
    *x == 0
}

impl Wiring {
    /// The most pixels that can be skipped one by one.
    pub const MOST_SKIPPED: usize = 4096;
    /// The longest gap after a run.
    pub const LONGEST_GAP: u32 = 512;

    pub(super) fn is_usual(&self) -> bool {
        *self == Self::default()
    }

    /// The fault in it, as a message and its mend, if there is one.
    #[must_use]
    pub fn fault(&self) -> Option<(String, String)> {
        if self.gap > Self::LONGEST_GAP {
            let message = format!("a gap of {} pixels after each run is too long", self.gap);
            return Some((message, format!("write 0 to {}", Self::LONGEST_GAP)));
        }
        if self.skip.len() > Self::MOST_SKIPPED || self.skip.first() == Some(&0) {
            let mend = format!("list at most {} of them, counted from 1", Self::MOST_SKIPPED);
            return Some(("the skipped pixels cannot be as they are".to_owned(), mend));
        }
        let rises = self.skip.windows(2).all(|pair| pair[0] < pair[1]);
        (!rises).then(|| ("the skipped pixels do not rise".to_owned(), "write each once, the lowest first".to_owned()))
    }
}

/// A corner of a lattice.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
pub enum Corner {
    /// Top left.
    #[default]
    #[serde(rename = "top left")]
    TopLeft,
    /// Top right.
    #[serde(rename = "top right")]
    TopRight,
    /// Bottom left.
    #[serde(rename = "bottom left")]
    BottomLeft,
    /// Bottom right.
    #[serde(rename = "bottom right")]
    BottomRight,
}

impl Corner {
    /// Every corner.
    pub const ALL: [Self; 4] = [Self::TopLeft, Self::TopRight, Self::BottomLeft, Self::BottomRight];

    /// The words for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::TopLeft => "top left",
            Self::TopRight => "top right",
            Self::BottomLeft => "bottom left",
            Self::BottomRight => "bottom right",
        }
    }
}

/// The direction that the wire runs along.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Run {
    /// Row after row.
    #[default]
    Rows,
    /// Column after column.
    Columns,
}

impl Run {
    /// Both.
    pub const ALL: [Self; 2] = [Self::Rows, Self::Columns];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Rows => "rows",
            Self::Columns => "columns",
        }
    }
}

/// A wiring as one writes it: `top left, rows`, and behind it `turns`, `reversed`, `gap 2` and `skip 5 17-20` where it is so.
impl fmt::Display for Wiring {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}, {}", self.start.name(), self.along.name())?;
        if self.turns {
            f.write_str(", turns")?;
        }
        if self.reversed {
            f.write_str(", reversed")?;
        }
        if self.gap > 0 {
            write!(f, ", gap {}", self.gap)?;
        }
        if !self.skip.is_empty() {
            write!(f, ", skip {}", Numbers(&self.skip))?;
        }
        Ok(())
    }
}

/// The reason why a text is not a wiring.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("\"{0}\" is not a wiring: write such as top left, rows, turns, reversed, gap 2, skip 5 17-20")]
pub struct BadWiring(String);

impl FromStr for Wiring {
    type Err = BadWiring;

    fn from_str(text: &str) -> Result<Self, BadWiring> {
        let bad = || BadWiring(text.chars().take(60).collect());
        let mut wiring = Self::default();
        for part in text.split(',').map(str::trim).filter(|part| !part.is_empty()) {
            let corner = Corner::ALL.into_iter().find(|c| c.name() == part);
            let run = Run::ALL.into_iter().find(|r| r.name() == part);
            match (corner, run, part.split_once(' ')) {
                (Some(start), ..) => wiring.start = start,
                (_, Some(along), _) => wiring.along = along,
                _ if part == "turns" => wiring.turns = true,
                _ if part == "reversed" => wiring.reversed = true,
                (.., Some(("gap", number))) => wiring.gap = number.trim().parse().map_err(|_| bad())?,
                (.., Some(("skip", numbers))) => wiring.skip = numbers_of(numbers).ok_or_else(bad)?,
                _ => return Err(bad()),
            }
        }
        Ok(wiring)
    }
}

/// Ascending numbers with ranges: `5 17-20`.
pub struct Numbers<'a>(pub &'a [u32]);

impl fmt::Display for Numbers<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let mut rest = self.0;
        while let Some(&first) = rest.first() {
            let run = rest.iter().zip(first..).take_while(|(is, wanted)| **is == *wanted).count();
            let space = if rest.len() < self.0.len() { " " } else { "" };
            if run > 1 {
                write!(f, "{space}{first}-{}", rest[run - 1])?;
            } else {
                write!(f, "{space}{first}")?;
            }
            rest = &rest[run..];
        }
        Ok(())
    }
}

/// Reads numbers with ranges, in any order; none where the text is something else or names too many.
#[must_use]
pub fn numbers_of(text: &str) -> Option<Vec<u32>> {
    let mut numbers = Vec::new();
    for word in text.split([' ', ',']).filter(|word| !word.is_empty()) {
        let (first, last) = word.split_once('-').unwrap_or((word, word));
        let (first, last): (u32, u32) = (first.parse().ok()?, last.parse().ok()?);
        if first == 0 || last < first || (last - first) as usize >= Wiring::MOST_SKIPPED {
            return None;
        }
        numbers.extend(first..=last);
        if numbers.len() > Wiring::MOST_SKIPPED {
            return None;
        }
    }
    numbers.sort_unstable();
    numbers.dedup();
    Some(numbers)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn numbers_are_read_in_any_order_and_written_as_ranges() {
        let numbers = numbers_of("17-20 5, 6 3").expect("numbers");
        assert_eq!(numbers, [3, 5, 6, 17, 18, 19, 20]);
        assert_eq!(Numbers(&numbers).to_string(), "3 5-6 17-20");
        for text in ["0", "x", "5-3", "1-999999", "-"] {
            assert_eq!(numbers_of(text), None, "{text}");
        }
    }

    proptest! {
        #[test]
        fn wirings_round_trip_as_text(
            start in 0usize..4, along in 0usize..2, turns: bool, reversed: bool, gap in 0u32..600,
            skip in proptest::collection::btree_set(1u32..500, 0..20),
        ) {
            let wiring = Wiring {
                start: Corner::ALL[start], along: Run::ALL[along], turns, reversed, gap, skip: skip.into_iter().collect(),
            };
            prop_assert_eq!(wiring.to_string().parse(), Ok(wiring));
        }
    }
}
