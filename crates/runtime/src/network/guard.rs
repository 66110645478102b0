//! A limit of answers to each address: so few that nobody can have us flood a third party.

use std::collections::HashMap;
use std::net::IpAddr;

/// Answers to one address in a second.
const EACH: u32 = 2;
/// Answers in a second in all.
const ALL: u32 = 50;
/// Addresses that are told apart in a second.
const MOST: usize = 256;

/// Counts answers by the second.
#[derive(Debug, Default)]
pub(super) struct Guard {
    since: f64,
    all: u32,
    each: HashMap<IpAddr, u32>,
}

impl Guard {
    /// True if an address may be answered now.
    pub(super) fn lets(&mut self, to: IpAddr, now: f64) -> bool {
        if !(0.0..1.0).contains(&(now - self.since)) {
            (self.since, self.all) = (now, 0);
            self.each.clear();
        }
        if self.all == ALL || (self.each.len() == MOST && !self.each.contains_key(&to)) {
            return false;
        }
        let count = self.each.entry(to).or_default();
        if *count == EACH {
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
        let mut guard = Guard::default();
        let victim = IpAddr::V4(Ipv4Addr::new(10, 0, 0, 7));
        let answers = (0..100_000).filter(|i| guard.lets(victim, f64::from(*i) / 100_000.0)).count();
        assert_eq!(answers, 2);
        let made_up = |i: u32| IpAddr::V4(Ipv4Addr::from(0x0a00_0000 + i));
        let answers = (0..100_000).filter(|i| guard.lets(made_up(*i), 2.0 + f64::from(*i) / 100_000.0)).count();
        assert_eq!(answers, 50);
        assert!(guard.lets(victim, 3.5), "the next second begins anew");
    }
}
