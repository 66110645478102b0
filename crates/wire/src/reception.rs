//! Reception: for each universe its sources and what they make together, held back where a synchronisation is
//! waited for, and frames, losses and gaps.

use std::collections::BTreeMap;
use std::net::IpAddr;

use splimo_base::histogram::{Histogram, Quantiles};

use crate::arbitration::{Arbiter, Merge, Taken};
use crate::message::Message;
use crate::{Data, Error, Protocol, SLOTS, artnet, sacn};

/// The most universes that are told apart, so that a flood of made-up ones cannot fill the memory.
pub const MOST_UNIVERSES: usize = 4096;
/// The time for which a universe is kept that nobody sends any more, in seconds.
const FORGOTTEN: f64 = 45.0;
/// Universes that are kept however long nobody sends them: no flood is that small.
const KEPT: usize = 64;
/// Time over which a rate is measured, in seconds.
const MEASURE: f64 = 1.0;

/// Everything that came in at one place.
#[derive(Debug, Clone, Default)]
pub struct Reception {
    universes: BTreeMap<(Protocol, u16), Universe>,
    /// The rule for equal priorities.
    pub merge: Merge,
    /// Packets of any kind.
    pub packets: u64,
    /// Packets that were no valid packet of either protocol.
    pub malformed: u64,
    /// Frames of universes beyond [`MOST_UNIVERSES`], or of too many sources.
    pub ignored: u64,
    /// Packets that made receivers put out what they had.
    pub syncs: u64,
    /// The sender of the last `ArtSync`, and its time.
    art_sync: Option<(IpAddr, f64)>,
    /// The time when each synchronisation address of sACN was last heard.
    sacn_syncs: BTreeMap<u16, f64>,
}

/// One universe as it came in.
#[derive(Debug, Clone)]
pub struct Universe {
    /// The number of frames.
    pub frames: u64,
    /// Bytes of packets.
    pub bytes: u64,
    /// The number of frames that never came, by their sequence numbers.
    pub lost: u64,
    /// The number of frames that came late or twice; they are counted, and their slots are not taken.
    pub reordered: u64,
    /// The number of frames that said that the stream ends.
    pub terminated: u64,
    /// The slots that are put out.
    pub slots: [u8; SLOTS],
    /// The time when it last became another.
    pub changed: f64,
    /// Frames a second, of late.
    pub rate: f32,
    arbiter: Arbiter,
    /// The synchronisation address of what waits.
    waits: Option<u16>,
    first: f64,
    last: f64,
    window: (f64, u32),
    gaps: Histogram,
}

impl Reception {
    /// An empty one that merges equal priorities in a way.
    #[must_use]
    pub fn merging(merge: Merge) -> Self {
        Self { merge, ..Self::default() }
    }

    /// Takes the bytes of a packet that came in from an address at `now`, in seconds, and gives back what is not for this.
    pub fn receive<'b>(&mut self, bytes: &'b [u8], from: IpAddr, now: f64) -> Option<Message<'b>> {
        self.packets += 1;
        match Message::parse(bytes) {
            Ok(Message::Data(data)) => self.take(&data, bytes.len(), from, now),
            Ok(Message::ArtSync) => self.art_sync(from, now),
            Ok(Message::SacnSync(sync)) => self.sacn_sync(sync.address, now),
            Ok(other) => return Some(other),
            // Other packets of the protocols are nobody's mistake.
            Err(Error::NotThis) if bytes.starts_with(&artnet::ID) && bytes.len() > 10 => {}
            Err(_) => self.malformed += 1,
        }
        None
    }

    fn take(&mut self, data: &Data<'_>, length: usize, from: IpAddr, now: f64) {
        let key = (data.protocol, data.universe);
        if !self.universes.contains_key(&key) && self.universes.len() >= MOST_UNIVERSES {
            self.ignored += 1;
            return;
        }
        let waits = self.waits_for_sync(data, from, now);
        let merge = self.merge;
        let universe = self.universes.entry(key).or_insert_with(|| Universe::new(now));
        universe.arbiter.merge = merge;
        let taken = universe.take(data, length, from, now);
        self.ignored += u64::from(taken == Taken::Crowded);
        if waits && universe.arbiter.sources().len() == 1 {
            universe.waits = Some(data.sync_address);
        } else {
            universe.put_out(now);
        }
    }

    /// True if a frame is put out only when a synchronisation says so.
    fn waits_for_sync(&self, data: &Data<'_>, from: IpAddr, now: f64) -> bool {
        match data.protocol {
            Protocol::ArtNet => self.art_sync.is_some_and(|(who, when)| who == from && now - when < artnet::sync::LOSS),
            Protocol::Sacn => self
                .sacn_syncs
                .get(&data.sync_address)
                .is_some_and(|&when| data.sync_address != 0 && (!data.force_sync || now - when < sacn::DATA_LOSS)),
        }
    }

    fn art_sync(&mut self, from: IpAddr, now: f64) {
        self.syncs += 1;
        self.art_sync = Some((from, now));
        self.put_out(Protocol::ArtNet, 0, now);
    }

    fn sacn_sync(&mut self, address: u16, now: f64) {
        self.syncs += 1;
        if self.sacn_syncs.contains_key(&address) || self.sacn_syncs.len() < MOST_UNIVERSES {
            self.sacn_syncs.insert(address, now);
        }
        self.put_out(Protocol::Sacn, address, now);
    }

    fn put_out(&mut self, protocol: Protocol, address: u16, now: f64) {
        for ((_, _), universe) in self.universes.range_mut((protocol, 0)..=(protocol, u16::MAX)) {
            if universe.waits == Some(address) {
                universe.put_out(now);
            }
        }
    }

    /// Forgets sources that have been silent for too long, and measures rates anew. To be called a few times a second.
    pub fn pass_time(&mut self, now: f64) {
        for universe in self.universes.values_mut() {
            if universe.arbiter.forget_lost(now) {
                universe.put_out(now);
            }
            universe.measure(now);
        }
        if self.universes.len() > KEPT {
            // After a flood there is room again for what is really sent, and memory for others.
            let full = self.universes.len() >= MOST_UNIVERSES;
            let patience = if full { 0.0 } else { FORGOTTEN };
            self.universes.retain(|_, u| !u.arbiter.sources().is_empty() || now - u.last <= patience);
        }
        self.sacn_syncs.retain(|_, when| now - *when <= FORGOTTEN);
    }

    /// Lets so many seconds not count in which packets were lost on this machine: nobody falls silent while nobody listens.
    pub fn hold(&mut self, seconds: f64) {
        self.universes.values_mut().for_each(|universe| universe.arbiter.hold(seconds));
    }

    /// The universes that came in.
    pub fn universes(&self) -> impl Iterator<Item = (Protocol, u16, &Universe)> {
        self.universes.iter().map(|(&(protocol, number), universe)| (protocol, number, universe))
    }

    /// One of them.
    #[must_use]
    pub fn universe(&self, protocol: Protocol, number: u16) -> Option<&Universe> {
        self.universes.get(&(protocol, number))
    }
}

impl Universe {
    fn new(now: f64) -> Self {
        Self {
            frames: 0,
            bytes: 0,
            lost: 0,
            reordered: 0,
            terminated: 0,
            slots: [0; SLOTS],
            changed: now,
            rate: 0.0,
            arbiter: Arbiter::default(),
            waits: None,
            first: now,
            last: now,
            window: (now, 0),
            gaps: Histogram::default(),
        }
    }

    fn take(&mut self, data: &Data<'_>, length: usize, from: IpAddr, now: f64) -> Taken {
        let taken = self.arbiter.take(data, from, now);
        match taken {
            // The end of a stream is said several times over; these are no frames.
            Taken::End => self.terminated += 1,
            Taken::Crowded => {}
            Taken::Late => {
                self.reordered += 1;
                self.frames += 1;
            }
            Taken::Fresh(lost) if data.priorities => self.lost += lost,
            Taken::Fresh(lost) => {
                self.lost += lost;
                if self.frames > 0 {
                    self.gaps.add(((now - self.last) * 1000.0) as f32);
                }
                self.frames += 1;
                self.window.1 += 1;
                self.bytes += length as u64;
                self.last = now;
            }
        }
        self.measure(now);
        taken
    }

    fn put_out(&mut self, now: f64) {
        self.waits = None;
        let mut slots = self.slots;
        self.arbiter.merge_into(&mut slots);
        if slots != self.slots {
            self.slots = slots;
            self.changed = now;
        }
    }

    fn measure(&mut self, now: f64) {
        let (since, frames) = self.window;
        if now - since >= MEASURE {
            self.rate = (f64::from(frames) / (now - since)) as f32;
            self.window = (now, 0);
        }
    }

    /// Its sources.
    #[must_use]
    pub fn arbiter(&self) -> &Arbiter {
        &self.arbiter
    }

    /// Frames a second between the first and the last.
    #[must_use]
    pub fn fps(&self) -> f64 {
        if self.last > self.first { (self.frames.saturating_sub(1)) as f64 / (self.last - self.first) } else { 0.0 }
    }

    /// The time between a frame and the next, in milliseconds.
    #[must_use]
    pub fn gap_ms(&self) -> Quantiles {
        self.gaps.quantiles()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::data_of;

    const HERE: IpAddr = IpAddr::V4(std::net::Ipv4Addr::new(10, 0, 0, 1));
    const THERE: IpAddr = IpAddr::V4(std::net::Ipv4Addr::new(10, 0, 0, 2));

    fn feed(protocol: Protocol, sequences: &[u8]) -> Universe {
        let mut reception = Reception::default();
        for (i, &sequence) in sequences.iter().enumerate() {
            let data = Data { slots: &[sequence; 4], ..data_of(protocol, 3, sequence) };
            reception.take(&data, 18, HERE, i as f64 * 0.025);
        }
        reception.universe(protocol, 3).expect("a universe").clone()
    }

    fn slot(reception: &Reception, protocol: Protocol) -> u8 {
        reception.universe(protocol, 3).expect("a universe").slots[0]
    }

    #[test]
    fn a_steady_stream_loses_nothing_where_it_wraps() {
        let art_net: Vec<u8> = (0..1000u32).map(|i| (i % 255 + 1) as u8).collect();
        let sacn: Vec<u8> = (0..1000u32).map(|i| i as u8).collect();
        for universe in [feed(Protocol::ArtNet, &art_net), feed(Protocol::Sacn, &sacn)] {
            assert_eq!((universe.frames, universe.lost, universe.reordered), (1000, 0, 0));
            assert!((universe.fps() - 40.0).abs() < 0.1 && (universe.rate - 40.0).abs() < 1.1);
            assert!((universe.gap_ms().p50 - 25.0).abs() < 0.5);
        }
    }

    #[test]
    fn losses_and_late_packets_are_counted() {
        let universe = feed(Protocol::Sacn, &[250, 251, 254, 253, 255, 0, 0, 1]);
        assert_eq!((universe.lost, universe.reordered), (2, 2));
        assert_eq!(universe.slots[0], 1);
    }

    #[test]
    fn a_source_that_starts_anew_or_does_not_count_loses_nothing() {
        assert_eq!(feed(Protocol::Sacn, &[100, 101, 1, 2, 3]).lost, 0);
        assert_eq!(feed(Protocol::ArtNet, &[0, 0, 0]).lost, 0);
    }

    #[test]
    fn art_sync_holds_frames_back_as_long_as_it_comes() {
        let mut reception = Reception::default();
        let frame = |reception: &mut Reception, value: u8, now: f64| {
            reception.take(&Data { slots: &[value], ..data_of(Protocol::ArtNet, 3, 0) }, 18, HERE, now);
            slot(reception, Protocol::ArtNet)
        };
        assert_eq!(frame(&mut reception, 1, 0.0), 1, "until the first nothing waits");
        reception.receive(&artnet::sync::emit(), HERE, 0.1);
        assert_eq!(frame(&mut reception, 2, 0.2), 1);
        reception.receive(&artnet::sync::emit(), HERE, 0.3);
        assert_eq!(slot(&reception, Protocol::ArtNet), 2);
        reception.receive(&artnet::sync::emit(), THERE, 0.4);
        assert_eq!(frame(&mut reception, 3, 0.5), 3, "somebody else's does not count");
        reception.receive(&artnet::sync::emit(), HERE, 1.0);
        assert_eq!((frame(&mut reception, 4, 4.9), frame(&mut reception, 5, 5.1)), (3, 5), "4 s later it is over");
    }

    #[test]
    fn sacn_waits_for_its_address_only() {
        let mut reception = Reception::default();
        let frame = |reception: &mut Reception, sequence: u8, force_sync: bool, now: f64| {
            let data = Data {
                source: Some(([1; 16], "desk")),
                sync_address: 9,
                force_sync,
                slots: &[sequence],
                ..data_of(Protocol::Sacn, 3, sequence)
            };
            reception.take(&data, 127, HERE, now);
            slot(reception, Protocol::Sacn)
        };
        let sync = |address| sacn::sync::Repr { cid: [1; 16], sequence: 0, address }.emit();
        assert_eq!(frame(&mut reception, 1, true, 0.0), 1);
        reception.receive(&sync(9), HERE, 0.1);
        assert_eq!(frame(&mut reception, 2, true, 0.2), 1);
        reception.receive(&sync(8), HERE, 0.3);
        assert_eq!(slot(&reception, Protocol::Sacn), 1);
        reception.receive(&sync(9), HERE, 0.3);
        assert_eq!(slot(&reception, Protocol::Sacn), 2);
        assert_eq!((frame(&mut reception, 3, false, 4.0), frame(&mut reception, 4, true, 4.1)), (2, 4));
    }

    #[test]
    fn a_flood_of_universes_is_bounded() {
        let mut reception = Reception::default();
        for universe in 0..10_000 {
            reception.take(&data_of(Protocol::ArtNet, universe, 0), 18, HERE, 0.0);
        }
        assert_eq!((reception.universes().count(), reception.ignored), (4096, 10_000 - 4096));
        // Once it is over and its source is lost, others have room; one whose source is there stays.
        reception.take(&data_of(Protocol::ArtNet, 7, 0), 18, HERE, 11.0);
        reception.pass_time(12.0);
        reception.take(&data_of(Protocol::ArtNet, 9_000, 0), 18, HERE, 12.0);
        assert_eq!(reception.universes().map(|(_, number, _)| number).collect::<Vec<_>>(), [7, 9_000]);
    }

    #[test]
    fn noise_is_counted_as_malformed_and_the_rest_is_handed_on() {
        let mut reception = Reception::default();
        assert_eq!(reception.receive(b"Art-Net\0", HERE, 0.0), None);
        assert_eq!(reception.receive(&[], HERE, 0.0), None);
        assert_eq!((reception.malformed, reception.universes().count()), (2, 0));
        let poll = artnet::poll::Repr::default();
        assert_eq!(reception.receive(&poll.emit(), HERE, 0.0), Some(Message::Poll(poll)));
        reception.receive(b"Art-Net\0\x00\x60\x00\x0eaddress", HERE, 0.0);
        assert_eq!((reception.malformed, reception.packets), (2, 4), "an ArtAddress is left alone");
    }
}
