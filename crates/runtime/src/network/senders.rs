//! Senders to this machine, counted by what each sends, so that a flood has a name.

use std::collections::HashMap;
use std::net::IpAddr;

use splimo_link::network::Flood;

/// Addresses that are told apart in a window; a flood from more of them comes from made-up ones.
const MOST: usize = 256;
/// The time over which packets are counted, in seconds.
const WINDOW: f64 = 1.0;

/// Counts packets by their senders.
#[derive(Debug, Default)]
pub(super) struct Senders {
    since: f64,
    read: u64,
    dropped: u64,
    each: HashMap<IpAddr, u64>,
    /// The window before: who sent most, and everything of it.
    before: Option<Flood>,
}

impl Senders {
    /// Takes note of a packet.
    pub(super) fn count(&mut self, from: IpAddr) {
        self.read += 1;
        if self.each.len() < MOST || self.each.contains_key(&from) {
            *self.each.entry(from).or_default() += 1;
        }
    }

    /// Takes note of packets for which there was no room, and that nobody read.
    pub(super) fn drop(&mut self, count: u64) {
        self.dropped += count;
    }

    /// Begins another window where one is over.
    pub(super) fn pass_time(&mut self, now: f64) {
        let span = now - self.since;
        if span < WINDOW {
            return;
        }
        let all = (self.read + self.dropped) as f64 / span;
        let busiest = self.each.iter().max_by_key(|(_, count)| **count);
        self.before = busiest.map(|(address, count)| {
            // What was dropped came from the same ones as what was read.
            let share = *count as f64 / self.read.max(1) as f64;
            Flood { address: *address, rate: (all * share) as f32, all: all as f32, senders: self.each.len() }
        });
        (self.since, self.read, self.dropped) = (now, 0, 0);
        self.each.clear();
        self.each.shrink_to(MOST / 4);
    }

    /// The busiest sender of the window before, and how much came from all.
    pub(super) fn busiest(&self) -> Option<Flood> {
        self.before
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_busiest_is_named_with_its_rate_and_what_was_dropped() {
        let mut senders = Senders::default();
        senders.pass_time(10.0);
        for i in 0..10_000u32 {
            let flooder = IpAddr::from([10, 0, 0, 66]);
            senders.count(if i % 10 == 0 { IpAddr::from((0x0a00_0100 + i % 1000).to_be_bytes()) } else { flooder });
        }
        senders.drop(40_000);
        assert!(senders.busiest().is_none(), "not yet");
        senders.pass_time(12.0);
        let flood = senders.busiest().expect("one");
        assert_eq!((flood.address, flood.rate, flood.all), (IpAddr::from([10, 0, 0, 66]), 22_500.0, 25_000.0));
        senders.pass_time(13.1);
        assert!(senders.busiest().is_none(), "and it is over");
    }

    #[test]
    fn many_made_up_senders_take_no_memory() {
        let mut senders = Senders::default();
        for i in 0..100_000u32 {
            senders.count(IpAddr::from(i.to_be_bytes()));
        }
        assert_eq!(senders.each.len(), MOST);
    }
}
