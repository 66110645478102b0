//! Lengths of time as they are written on the command line.

use std::str::FromStr;

/// A length of time, in seconds, above 0.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Span(pub f64);

/// A text that is no length of time.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("\"{0}\" is not a length of time: write 30s, 1.5m or 2h")]
pub struct BadSpan(String);

impl FromStr for Span {
    type Err = BadSpan;

    fn from_str(text: &str) -> Result<Self, BadSpan> {
        let bad = || BadSpan(text.to_owned());
        let (number, unit) = match text.char_indices().find(|(_, c)| c.is_ascii_alphabetic()) {
            Some((at, _)) => text.split_at(at),
            None => (text, "s"),
        };
        let factor = match unit {
            "ms" => 0.001,
            "s" => 1.0,
            "m" => 60.0,
            "h" => 3600.0,
            _ => return Err(bad()),
        };
        let seconds = number.trim().parse::<f64>().map_err(|_| bad())? * factor;
        if seconds > 0.0 && seconds <= 1e7 { Ok(Self(seconds)) } else { Err(bad()) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lengths_are_read_as_people_write_them() {
        for (text, seconds) in [("10s", 10.0), ("10", 10.0), ("1.5m", 90.0), ("2h", 7200.0), ("250ms", 0.25)] {
            assert_eq!(text.parse(), Ok(Span(seconds)));
        }
        for bad in ["", "s", "-1s", "0", "10 parsecs", "nan", "inf", "1e99h"] {
            assert!(bad.parse::<Span>().is_err(), "{bad}");
        }
    }
}
