//! What a receiver keeps count of: for each universe frames, losses by sequence number, and the gaps between frames.

use std::collections::BTreeMap;

use splimo_core::histogram::{Histogram, Quantiles};

use crate::{Data, Protocol, SLOTS};

/// The most universes that are told apart, so that a flood of made-up ones cannot fill the memory.
pub const MOST_UNIVERSES: usize = 4096;

/// How far back a sequence number counts as late and not as a new start (E1.31, 6.7.2).
const LATE: i16 = 20;

/// Everything that came in at one node.
#[derive(Debug, Clone, Default)]
pub struct Reception {
    universes: BTreeMap<(Protocol, u16), Universe>,
    /// Packets of any kind.
    pub packets: u64,
    /// Packets that were no valid frame.
    pub malformed: u64,
    /// Frames of universes beyond [`MOST_UNIVERSES`].
    pub ignored: u64,
}

/// One universe as it came in.
#[derive(Debug, Clone)]
pub struct Universe {
    /// How many frames.
    pub frames: u64,
    /// How many never came, by their sequence numbers.
    pub lost: u64,
    /// How many came late or twice; they are counted, and their slots are not taken.
    pub reordered: u64,
    /// How many said that the stream ends.
    pub terminated: u64,
    /// The last slots.
    pub slots: [u8; SLOTS],
    sequence: Option<u8>,
    first: f64,
    last: f64,
    gaps: Histogram,
}

impl Reception {
    /// Takes the bytes of a packet that came in at `now`, in seconds. Bytes that are no frame are counted.
    pub fn receive(&mut self, bytes: &[u8], now: f64) {
        self.packets += 1;
        match crate::parse(bytes) {
            Ok(data) => self.take(&data, now),
            Err(_) => self.malformed += 1,
        }
    }

    fn take(&mut self, data: &Data<'_>, now: f64) {
        let key = (data.protocol, data.universe);
        if !self.universes.contains_key(&key) && self.universes.len() >= MOST_UNIVERSES {
            self.ignored += 1;
            return;
        }
        self.universes.entry(key).or_insert_with(|| Universe::new(now)).take(data, now);
    }

    /// The universes that came in.
    pub fn universes(&self) -> impl Iterator<Item = (Protocol, u16, &Universe)> {
        self.universes.iter().map(|(&(protocol, number), universe)| (protocol, number, universe))
    }
}

impl Universe {
    fn new(now: f64) -> Self {
        Self {
            frames: 0,
            lost: 0,
            reordered: 0,
            terminated: 0,
            slots: [0; SLOTS],
            sequence: None,
            first: now,
            last: now,
            gaps: Histogram::default(),
        }
    }

    fn take(&mut self, data: &Data<'_>, now: f64) {
        if data.terminated {
            // The end of a stream is said several times over; these are no frames.
            self.terminated += 1;
            self.sequence = None;
            return;
        }
        let counts = data.protocol == Protocol::Sacn || data.sequence != 0;
        if let Some(last) = self.sequence.filter(|_| counts) {
            let ahead = ahead(data.protocol, last, data.sequence);
            if (-LATE..=0).contains(&ahead) {
                self.reordered += 1;
                self.frames += 1;
                return;
            }
            self.lost += u64::try_from(ahead - 1).unwrap_or(0);
        }
        self.sequence = Some(data.sequence);
        if self.frames > 0 {
            self.gaps.add(((now - self.last) * 1000.0) as f32);
        }
        self.frames += 1;
        self.last = now;
        self.slots[..data.slots.len()].copy_from_slice(data.slots);
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

    /// When the last frame came, in the caller's seconds.
    #[must_use]
    pub fn last_seen(&self) -> f64 {
        self.last
    }
}

/// How far a sequence number lies ahead of the last one; Art-Net counts 1..255, sACN 0..255.
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

    fn feed(protocol: Protocol, sequences: &[u8]) -> Universe {
        let mut reception = Reception::default();
        for (i, &sequence) in sequences.iter().enumerate() {
            let data = Data { protocol, universe: 3, sequence, terminated: false, slots: &[sequence; 4] };
            reception.take(&data, i as f64 * 0.025);
        }
        let (_, _, universe) = reception.universes().next().expect("a universe");
        universe.clone()
    }

    #[test]
    fn a_steady_stream_loses_nothing_where_it_wraps() {
        let art_net: Vec<u8> = (0..1000u32).map(|i| (i % 255 + 1) as u8).collect();
        let sacn: Vec<u8> = (0..1000u32).map(|i| i as u8).collect();
        for universe in [feed(Protocol::ArtNet, &art_net), feed(Protocol::Sacn, &sacn)] {
            assert_eq!((universe.frames, universe.lost, universe.reordered), (1000, 0, 0));
            assert!((universe.fps() - 40.0).abs() < 0.1);
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
    fn a_flood_of_universes_is_bounded() {
        let mut reception = Reception::default();
        for universe in 0..10_000 {
            let data = Data { protocol: Protocol::ArtNet, universe, sequence: 0, terminated: false, slots: &[] };
            reception.take(&data, 0.0);
        }
        assert_eq!((reception.universes().count(), reception.ignored), (4096, 10_000 - 4096));
    }

    #[test]
    fn noise_is_counted_as_malformed() {
        let mut reception = Reception::default();
        reception.receive(b"Art-Net\0 but not quite", 0.0);
        reception.receive(&[], 0.0);
        assert_eq!((reception.malformed, reception.universes().count()), (2, 0));
    }
}
