//! A limit on what one address can have this program do in a second, and on what all can: answer polls, so that nobody can have it
//! flood a third party, or fire pads.

use std::collections::HashMap;
use std::net::IpAddr;

/// Addresses that are told apart in a second.
const MOST: usize = 256;

/// Counts by the second.
#[derive(Debug)]
pub struct Guard {
    /// As much as one address may.
    most: u32,
    /// As much as all may.
    most_of_all: u32,
    since: f64,
    all: u32,
    each: HashMap<IpAddr, u32>,
}

impl Guard {
    /// The limit of answers to polls.
    #[must_use]
    pub fn answers() -> Self {
        Self::new(2, 50)
    }

    /// The limit of triggers that fire pads: faster than anybody plays, slower than a flood.
    #[must_use]
    pub fn triggers() -> Self {
        Self::new(40, 80)
    }

    /// The limit of time code: four times the frames that the fastest kind has in a second.
    #[must_use]
    pub fn time_code() -> Self {
        Self::new(120, 240)
    }

    /// The limit of what an input is told in a second: more than all faders of a desk at once.
    #[must_use]
    pub fn messages() -> Self {
        Self::new(1_000, 2_000)
    }

    fn new(most: u32, most_of_all: u32) -> Self {
        Self { most, most_of_all, since: 0.0, all: 0, each: HashMap::new() }
    }

    /// True if one more of an address is within the limit.
    pub fn lets(&mut self, to: IpAddr, now: f64) -> bool {
        if !(0.0..1.0).contains(&(now - self.since)) {
            (self.since, self.all) = (now, 0);
            self.each.clear();
        }
        if self.all == self.most_of_all || (self.each.len() == MOST && !self.each.contains_key(&to)) {
            return false;
        }
        let count = self.each.entry(to).or_default();
        if *count == self.most {
            return false;
        }
        *count += 1;
        self.all += 1;
        true
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::net::Ipv4Addr;

    #[test]
    fn a_flood_of_questions_gets_few_answers() {
        let mut guard = Guard::answers();
        let victim = IpAddr::V4(Ipv4Addr::new(10, 0, 0, 7));
        let answers = (0..100_000).filter(|i| guard.lets(victim, f64::from(*i) / 100_000.0)).count();
        assert_eq!(answers, 2);
        let made_up = |i: u32| IpAddr::V4(Ipv4Addr::from(0x0a00_0000 + i));
        let answers = (0..100_000).filter(|i| guard.lets(made_up(*i), 2.0 + f64::from(*i) / 100_000.0)).count();
        assert_eq!(answers, 50);
        assert!(guard.lets(victim, 3.5), "the next second begins anew");
        let mut guard = Guard::time_code();
        let taken = |guard: &mut Guard, frames: u32| {
            (0..frames).filter(|i| guard.lets(victim, f64::from(*i) / f64::from(frames))).count()
        };
        assert_eq!(
            (taken(&mut guard, 30), taken(&mut Guard::time_code(), 10_000)),
            (30, 120),
            "as much as plays, and no flood"
        );
    }
}
