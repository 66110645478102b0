//! Arbitration of a universe: its sources, of which the highest priority wins and equal ones merge (ANSI E1.31-2018, 6.2.3;
//! Art-Net 4, "Data merging"), their sequence numbers, and their loss.

use std::net::IpAddr;

use crate::{Data, Protocol, SLOTS, sacn, shown};

/// Sources of a universe that are told apart, so that a flood of made-up ones cannot fill the memory.
pub const MOST_SOURCES: usize = 8;
/// The time that a source of Art-Net may be silent before it is lost, in seconds: what a merge waits for it.
pub const ART_NET_LOSS: f64 = 10.0;
/// The steps back up to which a sequence number counts as late and not as a new start (E1.31, 6.7.2).
const LATE: i16 = 20;

/// The rule for equal priorities.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Merge {
    /// Of each slot the highest value.
    #[default]
    Highest,
    /// The one that came last.
    Latest,
}

/// The identity of a source.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum SourceId {
    /// An address (Art-Net).
    Address(IpAddr),
    /// A UUID (sACN).
    Cid([u8; 16]),
}

/// A source of a universe.
#[derive(Debug, Clone, PartialEq)]
pub struct Source {
    /// Its identity.
    pub id: SourceId,
    /// The address that its packets come from.
    pub address: IpAddr,
    /// Its name; empty where the protocol has none.
    pub name: String,
    /// Its priority.
    pub priority: u8,
    /// True if it is not for live output.
    pub preview: bool,
    /// The time of its last frame, in the caller's seconds.
    pub last: f64,
    /// Its frames.
    pub frames: u64,
    /// Its last slots.
    pub slots: [u8; SLOTS],
    /// The priority of each slot, where it says one, and when it did last.
    priorities: Option<([u8; SLOTS], f64)>,
    sequence: Option<u8>,
    protocol: Protocol,
}

impl Source {
    /// The time that it may be silent, in seconds.
    fn patience(&self) -> f64 {
        match self.protocol {
            Protocol::ArtNet => ART_NET_LOSS,
            Protocol::Sacn => sacn::DATA_LOSS,
        }
    }
}

/// The fate of a frame.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Taken {
    /// It is its source's newest; so many before it never came.
    Fresh(u64),
    /// It came late or twice, and is left.
    Late,
    /// Its source ends.
    End,
    /// There are too many sources already.
    Crowded,
}

/// The sources of one universe.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Arbiter {
    sources: Vec<Source>,
    /// The rule for equal priorities.
    pub merge: Merge,
}

impl Arbiter {
    /// Takes a frame from an address.
    pub fn take(&mut self, data: &Data<'_>, from: IpAddr, now: f64) -> Taken {
        let id = data.source.map_or(SourceId::Address(from), |(cid, _)| SourceId::Cid(cid));
        let known = self.sources.iter().position(|s| s.id == id);
        if data.terminated {
            if let Some(index) = known {
                self.sources.remove(index);
            }
            return Taken::End;
        }
        let index = match known {
            Some(index) => index,
            None if self.sources.len() == MOST_SOURCES => return Taken::Crowded,
            None => {
                self.sources.push(Source {
                    id,
                    address: from,
                    name: data.source.map_or_else(String::new, |(_, name)| shown(name)),
                    priority: data.priority,
                    preview: data.preview,
                    last: now,
                    frames: 0,
                    slots: [0; SLOTS],
                    priorities: None,
                    sequence: None,
                    protocol: data.protocol,
                });
                self.sources.len() - 1
            }
        };
        self.sources[index].take(data, from, now)
    }

    /// Forgets sources that have been silent for too long. Returns whether there were any.
    pub fn forget_lost(&mut self, now: f64) -> bool {
        let before = self.sources.len();
        self.sources.retain(|source| now - source.last <= source.patience());
        let mut others = self.sources.len() != before;
        for source in &mut self.sources {
            // One that says no priorities any more has that of its packets.
            others |= source.priorities.take_if(|(_, said)| now - *said > sacn::DATA_LOSS).is_some();
        }
        others
    }

    /// Lets so many seconds not count in which packets were lost on this machine.
    pub fn hold(&mut self, seconds: f64) {
        for source in &mut self.sources {
            source.last += seconds;
            if let Some((_, said)) = &mut source.priorities {
                *said += seconds;
            }
        }
    }

    /// The sources, in the order in which they came.
    #[must_use]
    pub fn sources(&self) -> &[Source] {
        &self.sources
    }

    /// The sources that have the universe: those of the highest priority that are for live output.
    pub fn winners(&self) -> impl Iterator<Item = &Source> {
        let highest = self.sources.iter().filter(|s| !s.preview).map(|s| s.priority).max();
        self.sources.iter().filter(move |s| !s.preview && Some(s.priority) == highest)
    }

    /// Writes what the winners make together. Without any, `slots` stays as it is: the last look is held.
    pub fn merge_into(&self, slots: &mut [u8; SLOTS]) {
        if self.sources.iter().any(|source| source.priorities.is_some()) {
            self.merge_slot_by_slot(slots);
            return;
        }
        match self.merge {
            Merge::Latest => {
                if let Some(latest) = self.winners().max_by(|a, b| a.last.total_cmp(&b.last)) {
                    *slots = latest.slots;
                }
            }
            Merge::Highest => {
                let mut winners = self.winners();
                let Some(first) = winners.next() else { return };
                *slots = first.slots;
                for source in winners {
                    slots.iter_mut().zip(&source.slots).for_each(|(slot, other)| *slot = (*slot).max(*other));
                }
            }
        }
    }
}

impl Arbiter {
    /// The same where sources have priorities for single slots.
    fn merge_slot_by_slot(&self, slots: &mut [u8; SLOTS]) {
        for (place, slot) in slots.iter_mut().enumerate() {
            let live = self.sources.iter().filter(|source| !source.preview);
            let candidates = live.map(|source| (source.priority_of(place), source));
            let highest = candidates.clone().filter_map(|(priority, _)| priority).max();
            let winners = candidates.filter(|(priority, _)| priority.is_some() && *priority == highest);
            let value = match self.merge {
                Merge::Highest => winners.map(|(_, source)| source.slots[place]).max(),
                Merge::Latest => {
                    winners.max_by(|(_, a), (_, b)| a.last.total_cmp(&b.last)).map(|(_, source)| source.slots[place])
                }
            };
            *slot = value.unwrap_or(*slot);
        }
    }
}

impl Source {
    /// Its priority for a slot; none where it leaves the slot to others.
    fn priority_of(&self, slot: usize) -> Option<u8> {
        match &self.priorities {
            Some((priorities, _)) => Some(priorities[slot]).filter(|priority| *priority > 0),
            None => Some(self.priority),
        }
    }

    fn take(&mut self, data: &Data<'_>, from: IpAddr, now: f64) -> Taken {
        let counts = data.protocol == Protocol::Sacn || data.sequence != 0;
        let mut lost = 0;
        if let Some(last) = self.sequence.filter(|_| counts) {
            let ahead = ahead(data.protocol, last, data.sequence);
            if (-LATE..=0).contains(&ahead) {
                return Taken::Late;
            }
            lost = u64::try_from(ahead - 1).unwrap_or(0);
        }
        self.sequence = counts.then_some(data.sequence);
        (self.address, self.priority, self.preview) = (from, data.priority, data.preview);
        if let Some((_, name)) = data.source
            && self.name != name
        {
            self.name = shown(name);
        }
        self.last = now;
        if data.priorities {
            let mut priorities = [0; SLOTS];
            priorities[..data.slots.len()].copy_from_slice(data.slots);
            self.priorities = Some((priorities, now));
            return Taken::Fresh(lost);
        }
        self.frames += 1;
        self.slots[..data.slots.len()].copy_from_slice(data.slots);
        Taken::Fresh(lost)
    }
}

/// The steps that a sequence number lies ahead of the last one; Art-Net counts 1..255, sACN 0..255.
fn ahead(protocol: Protocol, last: u8, next: u8) -> i16 {
    let round = match protocol {
        Protocol::ArtNet => 255,
        Protocol::Sacn => 256,
    };
    let distance = (i16::from(next) - i16::from(last)).rem_euclid(round);
    if distance > round / 2 { distance - round } else { distance }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::data_of;
    use proptest::prelude::*;

    const HERE: IpAddr = IpAddr::V4(std::net::Ipv4Addr::new(10, 0, 0, 1));
    const THERE: IpAddr = IpAddr::V4(std::net::Ipv4Addr::new(10, 0, 0, 2));

    /// A frame of one of several sACN sources.
    fn sacn<'a>(source: u8, priority: u8, sequence: u8, slots: &'a [u8]) -> Data<'a> {
        Data { source: Some(([source; 16], "desk")), priority, slots, ..data_of(Protocol::Sacn, 1, sequence) }
    }

    fn merged(arbiter: &Arbiter) -> [u8; 3] {
        let mut slots = [7; SLOTS];
        arbiter.merge_into(&mut slots);
        [slots[0], slots[1], slots[2]]
    }

    #[test]
    fn the_highest_priority_wins_and_equals_merge() {
        let mut arbiter = Arbiter::default();
        assert_eq!(merged(&arbiter), [7; 3], "without a source the last look is held");
        arbiter.take(&sacn(1, 100, 0, &[10, 200, 0]), HERE, 0.0);
        arbiter.take(&sacn(2, 100, 0, &[90, 20, 0]), THERE, 0.1);
        assert_eq!(merged(&arbiter), [90, 200, 0]);
        arbiter.merge = Merge::Latest;
        assert_eq!(merged(&arbiter), [90, 20, 0]);
        arbiter.take(&sacn(3, 101, 0, &[1, 2, 3]), THERE, 0.2);
        arbiter.take(&sacn(1, 100, 1, &[255; 3]), HERE, 0.3);
        assert_eq!(merged(&arbiter), [1, 2, 3]);
        let preview = Data { preview: true, ..sacn(4, 200, 0, &[99; 3]) };
        arbiter.take(&preview, THERE, 0.4);
        assert_eq!((merged(&arbiter), arbiter.sources().len()), ([1, 2, 3], 4));
    }

    #[test]
    fn a_source_may_have_a_priority_for_each_slot_and_leave_slots_to_others() {
        let mut arbiter = Arbiter::default();
        arbiter.take(&sacn(1, 100, 0, &[10, 20, 30]), HERE, 0.0);
        arbiter.take(&sacn(2, 90, 0, &[1, 2, 3]), THERE, 0.0);
        let of = |sequence, priorities: &'static [u8]| Data { priorities: true, ..sacn(2, 90, sequence, priorities) };
        assert_eq!(arbiter.take(&of(1, &[150, 100, 0]), THERE, 0.1), Taken::Fresh(0));
        assert_eq!(merged(&arbiter), [1, 20, 30], "higher, equal, and left to others");
        arbiter.take(&sacn(1, 100, 1, &[10, 20, 30]), HERE, 2.4);
        arbiter.take(&sacn(2, 90, 2, &[1, 2, 3]), THERE, 2.4);
        assert!(arbiter.forget_lost(2.7), "it says no priorities any more");
        assert_eq!(merged(&arbiter), [10, 20, 30]);
    }

    #[test]
    fn names_of_sources_tell_a_terminal_nothing() {
        let mut arbiter = Arbiter::default();
        let data = Data { source: Some(([1; 16], "desk\u{1b}[2J\u{7}")), ..sacn(1, 100, 0, &[]) };
        arbiter.take(&data, HERE, 0.0);
        assert_eq!(arbiter.sources()[0].name, "desk\\u001b[2J\\u0007");
    }

    #[test]
    fn a_source_that_ends_or_falls_silent_gives_way() {
        let mut arbiter = Arbiter::default();
        arbiter.take(&sacn(1, 100, 0, &[10]), HERE, 0.0);
        arbiter.take(&sacn(2, 150, 0, &[20]), HERE, 0.0);
        let end = Data { terminated: true, ..sacn(2, 150, 1, &[0]) };
        assert_eq!((arbiter.take(&end, HERE, 0.1), merged(&arbiter)[0]), (Taken::End, 10));
        arbiter.take(&sacn(2, 150, 2, &[20]), HERE, 1.0);
        assert!(!arbiter.forget_lost(2.5) && merged(&arbiter)[0] == 20);
        assert!(arbiter.forget_lost(2.6), "the first has been silent for more than 2.5 s");
        assert_eq!(arbiter.sources().len(), 1);
        let mut art_net = Arbiter::default();
        art_net.take(&data_of(Protocol::ArtNet, 1, 1), HERE, 0.0);
        assert!(!art_net.forget_lost(9.9) && art_net.forget_lost(10.1));
    }

    #[test]
    fn two_addresses_are_two_sources_of_art_net() {
        let mut arbiter = Arbiter::default();
        for from in [HERE, THERE] {
            assert_eq!(arbiter.take(&data_of(Protocol::ArtNet, 1, 9), from, 0.0), Taken::Fresh(0));
        }
        assert_eq!(arbiter.winners().count(), 2);
    }

    #[test]
    fn sources_are_bounded() {
        let mut arbiter = Arbiter::default();
        for source in 0..=255 {
            arbiter.take(&sacn(source, 100, 0, &[]), HERE, 0.0);
        }
        assert_eq!((arbiter.sources().len(), arbiter.take(&sacn(99, 100, 0, &[]), HERE, 0.0)), (8, Taken::Crowded));
    }

    proptest! {
        #[test]
        fn a_number_ahead_is_so_many_ahead(last: u8, by in 1i16..100) {
            let next = last.wrapping_add(by as u8);
            prop_assert_eq!(ahead(Protocol::Sacn, last, next), by);
            prop_assert_eq!(ahead(Protocol::Sacn, next, last), -by);
        }
    }
}
