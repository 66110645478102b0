//! The packets of a frame: built once, and then only their slots and sequence numbers are renewed. They stand in lanes: the
//! streams of a lane share a rate, leave together, and are followed by its synchronisation packets.

use std::collections::HashMap;
use std::net::SocketAddr;

pub use crate::transport::{Identity, Sync};
use crate::{AnyTransport, Leaves, Packets, SLOTS, TransportKind};

/// The most by which a frame may leave sooner than at an even rate, as a share of the time between two, while no more of them leave
/// in the long run: frames in step with music come a little sooner at times and a little later at others.
const EARLY: f64 = 0.3;
/// The most by which one may that shows something sudden: at 100 frames, those on a beat are not kept waiting by a lane of 44,
/// nor is what is heard of that beat a moment later.
const SUDDEN: f64 = 1.3;

/// The time that a universe that does not change may stay silent, in seconds: E1.31 (6.6.1) and Art-Net 4 ("Refresh rate") both
/// ask for a packet every 800 to 1000 ms.
pub const KEEP_ALIVE: f64 = 0.9;
/// The number of times that unchanged data is sent before it may pause (E1.31, 6.6.1).
const REPEATS: u32 = 3;
/// The number of packets that say that a stream ends (E1.31, 6.2.6).
pub const TERMINATIONS: u32 = 3;

/// One universe on its way to one destination.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Stream {
    /// The place among the blocks of 512 slots of the frame, from 0.
    pub source: usize,
    /// The number of the universe in the protocol of its lane.
    pub universe: u16,
    /// The destination.
    pub to: SocketAddr,
    /// True if a universe that does not change is sent only now and then.
    pub keep_alive: bool,
}

/// Streams that leave together, by one transport.
#[derive(Debug, Clone, PartialEq)]
pub struct Lane {
    /// The transport; one that leaves on a port has no packets.
    pub transport: AnyTransport,
    /// The streams, in the order in which they leave.
    pub streams: Vec<Stream>,
    /// Frames a second at the most; 0 for every frame.
    pub rate: f64,
    /// The synchronisation that follows them.
    pub syncs: Vec<Sync>,
}

impl Lane {
    /// Some streams that leave with every frame, with no synchronisation.
    #[must_use]
    pub fn new(transport: AnyTransport, streams: Vec<Stream>) -> Self {
        Self { transport, streams, rate: 0.0, syncs: Vec::new() }
    }
}

struct Prepared {
    stream: Stream,
    packet: Vec<u8>,
    sequence: u8,
    /// The number of times that the present slots have been sent.
    sent: u32,
    last_sent: f64,
}

struct PreparedSync {
    sync: Sync,
    packet: Vec<u8>,
    sequence: u8,
}

struct PreparedLane {
    transport: AnyTransport,
    streams: Vec<Prepared>,
    syncs: Vec<PreparedSync>,
    /// The indices of the streams that are due.
    due: Vec<usize>,
    /// True if synchronisation packets are due.
    synced: bool,
    period: f64,
    next: f64,
    /// True if something sudden has come since the last frame that left.
    sudden: bool,
}

/// All streams of a show.
#[derive(Default)]
pub struct Burst {
    lanes: Vec<PreparedLane>,
}

impl Burst {
    /// Builds the packets of some lanes.
    #[must_use]
    pub fn new(lanes: &[Lane], identity: &Identity) -> Self {
        Self { lanes: lanes.iter().map(|lane| PreparedLane::new(lane, identity)).collect() }
    }

    /// Renews the packets from the slots of a frame (512 for each universe), and decides which are due at `now`, in
    /// seconds; one that shows something `sudden` waits less. Returns how many. Allocates nothing.
    pub fn prepare(&mut self, slots: &[u8], now: f64, sudden: bool) -> usize {
        self.lanes.iter_mut().map(|lane| lane.prepare(slots, now, sudden)).sum()
    }

    /// Makes every packet say that its stream ends whose protocol has a way to, and makes just these due. To be sent [`TERMINATIONS`] times.
    pub fn terminate(&mut self) -> usize {
        self.lanes.iter_mut().map(PreparedLane::terminate).sum()
    }

    /// Goes over to other streams. Those that were there before go on counting; what is returned are those that ended, in
    /// the lanes where they were.
    pub fn replace(&mut self, mut next: Self) -> Self {
        let counted: HashMap<_, _> = self
            .lanes
            .iter()
            .flat_map(|l| l.syncs.iter().map(|s| ((l.transport.kind(), s.sync), s.sequence)))
            .collect();
        let key = |kind: TransportKind, s: &Stream| (kind, s.universe, s.to);
        let mut places: HashMap<_, &mut Prepared> = HashMap::new();
        for lane in &mut next.lanes {
            let kind = lane.transport.kind();
            for sync in &mut lane.syncs {
                sync.sequence = counted.get(&(kind, sync.sync)).copied().unwrap_or(sync.sequence);
            }
            for prepared in &mut lane.streams {
                places.entry(key(kind, &prepared.stream)).or_insert(prepared);
            }
        }
        for lane in &mut self.lanes {
            lane.due.clear();
            lane.synced = false;
            let kind = lane.transport.kind();
            lane.streams.retain(|old| match places.get_mut(&key(kind, &old.stream)) {
                Some(new) => {
                    new.sequence = old.sequence;
                    false
                }
                None => true,
            });
        }
        std::mem::replace(self, next)
    }

    /// The number of lanes.
    #[must_use]
    pub fn lanes(&self) -> usize {
        self.lanes.len()
    }

    /// The number of packets of a lane that are due.
    #[must_use]
    pub fn due_of(&self, lane: usize) -> usize {
        self.lanes[lane].due.len()
    }

    /// Packets of a lane that are due, in the order of its streams, as a range of them.
    pub fn packets(
        &self,
        lane: usize,
        range: std::ops::Range<usize>,
    ) -> impl Iterator<Item = (&[u8], SocketAddr)> + Clone {
        let lane = &self.lanes[lane];
        lane.due[range].iter().map(|&index| {
            let prepared = &lane.streams[index];
            (prepared.packet.as_slice(), prepared.stream.to)
        })
    }

    /// The synchronisation packets of a lane that are due.
    pub fn syncs(&self, lane: usize) -> impl Iterator<Item = (&[u8], SocketAddr)> {
        let lane = &self.lanes[lane];
        lane.syncs.iter().filter(|_| lane.synced).map(|sync| (sync.packet.as_slice(), sync.sync.to))
    }

    /// The streams that are due, each by its place among all streams.
    pub fn due(&self) -> impl Iterator<Item = usize> {
        let mut first = 0;
        self.lanes.iter().flat_map(move |lane| {
            let before = first;
            first += lane.streams.len();
            lane.due.iter().map(move |index| before + index)
        })
    }

    /// The number of streams.
    #[must_use]
    pub fn len(&self) -> usize {
        self.lanes.iter().map(|lane| lane.streams.len()).sum()
    }

    /// True if there is no stream.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }
}

impl PreparedLane {
    fn new(lane: &Lane, identity: &Identity) -> Self {
        let packets = packets_of(&lane.transport);
        let prepared = |packets: &dyn Packets, stream: &Stream| Prepared {
            stream: *stream,
            packet: packets.blank(stream.universe, identity),
            sequence: 0,
            sent: 0,
            last_sent: f64::NEG_INFINITY,
        };
        let sync = |packets: &dyn Packets, sync: &Sync| PreparedSync {
            sync: *sync,
            packet: packets.sync_packet(*sync, identity),
            sequence: 0,
        };
        Self {
            streams: packets.iter().flat_map(|p| lane.streams.iter().map(|one| prepared(*p, one))).collect(),
            syncs: packets.iter().flat_map(|p| lane.syncs.iter().map(|one| sync(*p, one))).collect(),
            due: Vec::with_capacity(lane.streams.len()),
            synced: false,
            period: if lane.rate > 0.0 { 1.0 / lane.rate } else { 0.0 },
            next: f64::NEG_INFINITY,
            sudden: false,
            transport: lane.transport.clone(),
        }
    }

    fn prepare(&mut self, slots: &[u8], now: f64, sudden: bool) -> usize {
        self.due.clear();
        self.synced = false;
        self.sudden |= sudden;
        let early = if self.sudden { SUDDEN } else { EARLY };
        if now + self.period * early < self.next {
            return 0;
        }
        self.sudden = false;
        self.next = (self.next + self.period).max(now);
        let Some(packets) = packets_of(&self.transport) else { return 0 };
        let slots_at = packets.slots_at();
        for (index, prepared) in self.streams.iter_mut().enumerate() {
            let start = prepared.stream.source * SLOTS;
            let Some(fresh) = slots.get(start..start + SLOTS) else { continue };
            if prepared.renew(fresh, slots_at, now) {
                prepared.count(packets);
                self.due.push(index);
            }
        }
        self.synced = !self.due.is_empty();
        if self.synced {
            for sync in &mut self.syncs {
                sync.sequence = sync.sequence.wrapping_add(1);
                packets.set_sync_sequence(&mut sync.packet, sync.sequence);
            }
        }
        self.due.len()
    }

    fn terminate(&mut self) -> usize {
        self.due.clear();
        self.synced = false;
        let Some(packets) = packets_of(&self.transport) else { return 0 };
        for (index, prepared) in self.streams.iter_mut().enumerate() {
            if packets.terminate(&mut prepared.packet) {
                prepared.count(packets);
                self.due.push(index);
            }
        }
        self.due.len()
    }
}

fn packets_of(transport: &AnyTransport) -> Option<&dyn Packets> {
    match transport.leaves() {
        Leaves::Packets(packets) => Some(packets),
        Leaves::Port { .. } => None,
    }
}

impl Prepared {
    /// Takes new slots over, and tells whether the packet is due.
    fn renew(&mut self, fresh: &[u8], slots_at: usize, now: f64) -> bool {
        let keep_alive = self.stream.keep_alive;
        let slots = &mut self.packet[slots_at..];
        if slots != fresh {
            slots.copy_from_slice(fresh);
            self.sent = 0;
        }
        let rests = keep_alive && self.sent >= REPEATS && now - self.last_sent < KEEP_ALIVE;
        if rests {
            return false;
        }
        self.sent = self.sent.saturating_add(1);
        self.last_sent = now;
        true
    }

    /// Gives the packet its next sequence number.
    fn count(&mut self, packets: &dyn Packets) {
        self.sequence = packets.next_sequence(self.sequence);
        packets.set_sequence(&mut self.packet, self.sequence);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Numbering, Protocol, sacn};
    use std::net::Ipv4Addr;

    fn stream(keep_alive: bool) -> Stream {
        let to = SocketAddr::from((Ipv4Addr::new(127, 0, 0, 2), 5568));
        Stream { source: 0, universe: 7, to, keep_alive }
    }

    fn lane(kind: TransportKind, streams: &[Stream]) -> Lane {
        Lane::new(AnyTransport::of(kind), streams.to_vec())
    }

    fn identity() -> Identity {
        Identity { cid: [7; 16], name: "Test".into() }
    }

    /// A lane of streams of sACN.
    fn burst(streams: &[Stream]) -> Burst {
        Burst::new(&[lane(TransportKind::Sacn, streams)], &identity())
    }

    /// A stream each of Art-Net and sACN.
    fn both() -> Burst {
        let lanes = [TransportKind::ArtNet, TransportKind::Sacn].map(|kind| lane(kind, &[stream(false)]));
        Burst::new(&lanes, &identity())
    }

    fn packets(burst: &Burst) -> impl Iterator<Item = (&[u8], SocketAddr)> {
        (0..burst.lanes()).flat_map(|lane| burst.packets(lane, 0..burst.due_of(lane)))
    }

    #[test]
    fn packets_carry_the_slots_and_count() {
        let mut burst = both();
        let mut slots = [0; 512];
        for frame in 0..600u32 {
            slots[3] = frame as u8;
            assert_eq!(burst.prepare(&slots, 0.0, false), 2);
            for (packet, _) in packets(&burst) {
                let data = crate::parse(packet).expect("a frame");
                assert_eq!((data.universe, data.slots), (7, &slots[..]));
                let wanted = match data.protocol {
                    Protocol::ArtNet => (frame % 255 + 1) as u8,
                    Protocol::Sacn => (frame + 1) as u8,
                };
                assert_eq!(data.sequence, wanted, "frame {frame}");
            }
        }
    }

    #[test]
    fn a_universe_that_rests_is_repeated_thrice_and_then_kept_alive() {
        let mut burst = burst(&[stream(true)]);
        let slots = [9; 512];
        let due: Vec<f64> = (0..440)
            .map(|frame| f64::from(frame) / 44.0)
            .filter(|&now| burst.prepare(&slots, now, false) > 0)
            .collect();
        assert_eq!(due[..3], [0.0, 1.0 / 44.0, 2.0 / 44.0]);
        for pair in due[2..].windows(2) {
            assert!((0.8..=1.0).contains(&(pair[1] - pair[0])), "{due:?}");
        }
        assert_eq!(burst.prepare(&[8; 512], 10.01, false), 1, "a change goes out at once");
    }

    #[test]
    fn a_lane_keeps_its_rate_and_the_newest_slots() {
        let lane = |rate| Lane { rate, ..lane(TransportKind::Sacn, &[stream(false)]) };
        let mut burst = Burst::new(&[lane(0.0), lane(30.0), lane(44.0), lane(100.0)], &identity());
        let mut counts = [0; 4];
        for frame in 0..440 {
            let now = f64::from(frame) / 44.0;
            burst.prepare(&[frame as u8; 512], now, false);
            for (lane, count) in counts.iter_mut().enumerate() {
                for (packet, _) in burst.packets(lane, 0..burst.due_of(lane)) {
                    *count += 1;
                    assert_eq!(crate::parse(packet).map(|d| d.slots[0]), Ok(frame as u8));
                }
            }
        }
        assert!(
            counts[0] == 440 && (299..=301).contains(&counts[1]) && counts[2] == 440 && counts[3] == 440,
            "{counts:?}"
        );
    }

    /// The frames of a minute, a hundred a second, that a lane of 44 lets leave, where those are sudden that have one of these
    /// places among 47: 127 of them a minute, as beats are.
    fn left_of_a_minute(sudden: [u32; 2]) -> Vec<u32> {
        let lane = Lane { rate: 44.0, ..lane(TransportKind::ArtNet, &[stream(false)]) };
        let mut burst = Burst::new(&[lane], &identity());
        let mut leaves = |frame: &u32| {
            burst.prepare(&[*frame as u8; 512], f64::from(*frame) / 100.0, sudden.contains(&(frame % 47))) > 0
        };
        let left: Vec<u32> = (0..6000).filter(|frame| leaves(frame)).collect();
        assert!((2638..=2642).contains(&left.len()), "{} in a minute", left.len());
        left
    }

    /// The number of frames between a sudden one, the latest of its place among 47, and the next one that left.
    fn latest(left: &[u32], place: u32) -> Option<u32> {
        let late = |heard: u32| left.iter().find(|frame| **frame >= heard).map_or(u32::MAX, |frame| frame - heard);
        (place..5900).step_by(47).map(late).max()
    }

    #[test]
    fn what_is_sudden_is_not_kept_waiting_and_no_more_of_it_leaves() {
        // A beat, and two frames later it has been heard.
        let left = left_of_a_minute([5, 7]);
        assert_eq!([5, 7].map(|place| latest(&left, place)), [Some(0); 2]);
    }

    #[test]
    fn what_is_sudden_and_had_to_wait_leaves_with_the_first_frame_that_may() {
        // Heard so soon after the beat that the lane may have had its share.
        let left = left_of_a_minute([5, 6]);
        assert!(latest(&left, 6) <= Some(1), "{:?} frames late", latest(&left, 6));
    }

    #[test]
    fn a_synchronisation_follows_what_was_sent_and_counts() {
        let to = stream(true).to;
        let numbering = Numbering { first: 7, sync: true, ..Numbering::USUAL };
        let transport = AnyTransport::Sacn(sacn::Sacn { numbering, ..sacn::USUAL.clone() });
        let lane = Lane { syncs: vec![Sync { number: 7, to }], ..Lane::new(transport, vec![stream(true)]) };
        let mut burst = Burst::new(std::slice::from_ref(&lane), &identity());
        let mut sequences = Vec::new();
        for frame in 0..5 {
            burst.prepare(&[9; 512], f64::from(frame) / 44.0, false);
            assert!(packets(&burst).all(|(p, _)| crate::parse(p).is_ok_and(|d| d.sync_address == 7 && d.force_sync)));
            for (packet, _) in burst.syncs(0) {
                let sync = sacn::sync::Repr::parse(packet).expect("a synchronisation");
                assert_eq!((sync.address, sync.cid), (7, [7; 16]));
                sequences.push(sync.sequence);
            }
        }
        assert_eq!(sequences, [1, 2, 3], "what rests is not synchronised");
        // After an edit it goes on counting: receivers leave out numbers that go back.
        drop(burst.replace(Burst::new(&[lane], &identity())));
        burst.prepare(&[1; 512], 1.0, false);
        let last = burst.syncs(0).filter_map(|(packet, _)| sacn::sync::Repr::parse(packet).ok()).last();
        assert_eq!(last.map(|sync| sync.sequence), Some(4));
    }

    #[test]
    fn an_art_sync_follows_art_net() {
        let to = stream(true).to;
        let lane = Lane { syncs: vec![Sync { number: 0, to }], ..lane(TransportKind::ArtNet, &[stream(false)]) };
        let mut burst = Burst::new(&[lane], &identity());
        burst.prepare(&[9; 512], 0.0, false);
        let sent: Vec<Vec<u8>> = burst.syncs(0).map(|(packet, _)| packet.to_vec()).collect();
        assert_eq!(sent, [crate::artnet::sync::emit().to_vec()]);
    }

    #[test]
    fn only_sacn_streams_are_terminated() {
        let mut burst = both();
        burst.prepare(&[1; 512], 0.0, false);
        let mut last = 1;
        for _ in 0..TERMINATIONS {
            assert_eq!(burst.terminate(), 1);
            let (packet, _) = packets(&burst).next().expect("a packet");
            let data = crate::parse(packet).expect("a frame");
            assert!(data.terminated && data.sequence == last + 1);
            last = data.sequence;
        }
    }

    #[test]
    fn streams_that_stay_go_on_counting_and_the_others_end() {
        let (first, second) = (stream(false), Stream { universe: 8, ..stream(false) });
        let mut now = burst(&[first, second]);
        for _ in 0..5 {
            now.prepare(&[1; 512], 0.0, false);
        }
        let mut ended = now.replace(burst(&[Stream { universe: 9, ..first }, first]));
        assert_eq!((now.len(), ended.len(), ended.terminate()), (2, 1, 1));
        now.prepare(&[1; 512], 0.0, false);
        let sequences: Vec<(u16, u8)> =
            packets(&now).map(|(p, _)| crate::parse(p).map(|d| (d.universe, d.sequence)).expect("a frame")).collect();
        assert_eq!(sequences, [(9, 1), (7, 6)]);
        let (packet, _) = packets(&ended).next().expect("a packet");
        assert!(crate::parse(packet).is_ok_and(|d| d.terminated && d.universe == 8 && d.sequence == 6));
    }
}
