//! The way a stand-in node misbehaves when it is told to, so that one can see what becomes of it.

use std::str::FromStr;
use std::time::Duration;

use splimo_base::maths::{hash, unit};

/// The faults of a node.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct FaultSpec {
    /// The share of packets that it never takes, 0..1.
    pub drop: f32,
    /// The time that it takes over each turn of reading.
    pub delay: Duration,
    /// After how many seconds it falls silent, and for how many.
    pub vanish: Option<(f64, f64)>,
    /// True if it answers polls wrongly.
    pub wrong: bool,
}

impl FaultSpec {
    /// True if it is silent at a time since its start, in seconds.
    #[must_use]
    pub fn is_away(&self, now: f64) -> bool {
        self.vanish.is_some_and(|(after, long)| now >= after && now < after + long)
    }

    /// True if it never takes the packet of a number: always the same ones, spread evenly.
    #[must_use]
    pub fn drops(&self, packet: u64) -> bool {
        self.drop > 0.0 && unit(hash(packet as u32)) < self.drop
    }
}

/// As one types it: `drop 10%`, `delay 50`, `vanish 5 10`, `wrong`, with commas between.
impl FromStr for FaultSpec {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let mut faults = Self::default();
        for part in text.split(',').map(str::trim) {
            let odd = || {
                format!(
                    "\"{part}\" is no way to misbehave: write drop 10%, delay 50 (milliseconds), vanish 5 10 (after 5 seconds, for 10), or wrong"
                )
            };
            let number =
                |word: &str| word.trim_end_matches('%').parse::<f64>().ok().filter(|n| (0.0..=1e6).contains(n));
            let words: Vec<&str> = part.split_whitespace().collect();
            match words[..] {
                ["drop", share] => {
                    faults.drop = (number(share).filter(|n| *n <= 100.0).ok_or_else(odd)? / 100.0) as f32;
                }
                ["delay", long] => faults.delay = Duration::from_secs_f64(number(long).ok_or_else(odd)? / 1000.0),
                ["vanish", after] => faults.vanish = Some((number(after).ok_or_else(odd)?, f64::INFINITY)),
                ["vanish", after, long] => {
                    faults.vanish = Some((number(after).ok_or_else(odd)?, number(long).ok_or_else(odd)?));
                }
                ["wrong"] => faults.wrong = true,
                _ => return Err(odd()),
            }
        }
        Ok(faults)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn mischief_is_read_as_it_is_written() {
        let read: FaultSpec = "drop 10%, delay 50, vanish 5 10, wrong".parse().expect("faults");
        let delay = Duration::from_millis(50);
        assert_eq!(read, FaultSpec { drop: 0.1, delay, vanish: Some((5.0, 10.0)), wrong: true });
        assert!(!read.is_away(4.9) && read.is_away(5.0) && read.is_away(14.9) && !read.is_away(15.0));
        let dropped = (0..10_000).filter(|packet| read.drops(*packet)).count();
        assert!((900..1100).contains(&dropped), "{dropped} of 10000");
        for bad in ["", "drop", "drop 101%", "delay x", "sing"] {
            assert!(bad.parse::<FaultSpec>().is_err(), "{bad}");
        }
    }
}
