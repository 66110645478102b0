//! The packets of a frame: built once, and then only their slots and sequence numbers are renewed.

use std::net::{Ipv4Addr, SocketAddrV4};

use crate::artnet::{self, dmx};
use crate::sacn::{self, data};
use crate::{Protocol, SLOTS};

/// How long a universe that does not change may stay silent, in seconds. E1.31 (6.6.1) asks for a packet every 800 to
/// 1000 ms, which is well within the 4 s of Art-Net.
pub const KEEP_ALIVE: f64 = 0.9;
/// How often unchanged data is sent before it may pause (E1.31, 6.6.1).
const REPEATS: u32 = 3;
/// How many packets say that a stream ends (E1.31, 6.2.6).
pub const TERMINATIONS: u32 = 3;

/// One universe on its way to one destination.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Stream {
    /// Which universe of the frame, from 0.
    pub source: usize,
    /// By which protocol.
    pub protocol: Protocol,
    /// The port-address (Art-Net) or the universe (sACN).
    pub universe: u16,
    /// To whom; none is the multicast group of the universe (sACN).
    pub to: Option<Ipv4Addr>,
    /// The priority (sACN).
    pub priority: u8,
    /// Whether a universe that does not change is sent only now and then.
    pub keep_alive: bool,
}

impl Stream {
    /// The address that its packets go to.
    #[must_use]
    pub fn destination(&self) -> SocketAddrV4 {
        match self.protocol {
            Protocol::ArtNet => SocketAddrV4::new(self.to.unwrap_or(Ipv4Addr::BROADCAST), artnet::PORT),
            Protocol::Sacn => SocketAddrV4::new(self.to.unwrap_or(sacn::multicast(self.universe)), sacn::PORT),
        }
    }
}

/// Who sends.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Identity {
    /// The UUID of the source (sACN).
    pub cid: [u8; 16],
    /// The name of the source (sACN).
    pub name: String,
}

struct Prepared {
    stream: Stream,
    packet: Vec<u8>,
    sequence: u8,
    /// How often the present slots have been sent.
    sent: u32,
    last_sent: f64,
}

/// All streams of a show.
pub struct Burst {
    streams: Vec<Prepared>,
    /// The indices of the streams that are due.
    due: Vec<usize>,
}

impl Burst {
    /// Builds the packets of some streams.
    #[must_use]
    pub fn new(streams: &[Stream], identity: &Identity) -> Self {
        let prepared = |stream: &Stream| Prepared {
            stream: *stream,
            packet: blank(stream, identity),
            sequence: 0,
            sent: 0,
            last_sent: f64::NEG_INFINITY,
        };
        Self { streams: streams.iter().map(prepared).collect(), due: Vec::with_capacity(streams.len()) }
    }

    /// Renews the packets from the slots of a frame (512 for each universe), and decides which are due at `now`, in
    /// seconds. Returns how many. Allocates nothing.
    pub fn prepare(&mut self, slots: &[u8], now: f64) -> usize {
        self.due.clear();
        for (index, prepared) in self.streams.iter_mut().enumerate() {
            let start = prepared.stream.source * SLOTS;
            let Some(fresh) = slots.get(start..start + SLOTS) else { continue };
            if prepared.renew(fresh, now) {
                self.due.push(index);
            }
        }
        self.due.len()
    }

    /// Makes every sACN packet say that its stream ends, and makes just these due. To be sent [`TERMINATIONS`] times.
    pub fn terminate(&mut self) -> usize {
        self.due.clear();
        for (index, prepared) in self.streams.iter_mut().enumerate() {
            if prepared.stream.protocol == Protocol::Sacn {
                data::Packet::new_unchecked(&mut prepared.packet).set_terminated(true);
                prepared.count();
                self.due.push(index);
            }
        }
        self.due.len()
    }

    /// Goes over to other streams. Those that were there before go on counting; what is returned are those that ended.
    pub fn replace(&mut self, mut next: Self) -> Self {
        let before = std::mem::take(&mut self.streams);
        let mut ended = Vec::new();
        for old in before {
            let same = |new: &&mut Prepared| {
                let (a, b) = (&new.stream, &old.stream);
                a.protocol == b.protocol && a.universe == b.universe && a.destination() == b.destination()
            };
            match next.streams.iter_mut().find(same) {
                Some(new) => new.sequence = old.sequence,
                None => ended.push(old),
            }
        }
        *self = next;
        let due = Vec::with_capacity(ended.len());
        Self { streams: ended, due }
    }

    /// The packets that are due, in the order of the streams.
    pub fn packets(&self) -> impl Iterator<Item = (&[u8], SocketAddrV4)> {
        self.due.iter().map(|&index| {
            let prepared = &self.streams[index];
            (prepared.packet.as_slice(), prepared.stream.destination())
        })
    }

    /// The streams that are due, by index.
    #[must_use]
    pub fn due(&self) -> &[usize] {
        &self.due
    }

    /// How many streams there are.
    #[must_use]
    pub fn len(&self) -> usize {
        self.streams.len()
    }

    /// Whether there is no stream.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.streams.is_empty()
    }
}

impl Prepared {
    /// Takes new slots over, and tells whether the packet is due.
    fn renew(&mut self, fresh: &[u8], now: f64) -> bool {
        let keep_alive = self.stream.keep_alive;
        let slots = self.slots_mut();
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
        self.count();
        true
    }

    fn slots_mut(&mut self) -> &mut [u8] {
        let header = match self.stream.protocol {
            Protocol::ArtNet => dmx::HEADER,
            Protocol::Sacn => data::HEADER,
        };
        &mut self.packet[header..]
    }

    /// Gives the packet its next sequence number; Art-Net leaves out 0, which would say that there is none.
    fn count(&mut self) {
        self.sequence = self.sequence.wrapping_add(1);
        match self.stream.protocol {
            Protocol::ArtNet => {
                self.sequence = self.sequence.max(1);
                dmx::Packet::new_unchecked(&mut self.packet).set_sequence(self.sequence);
            }
            Protocol::Sacn => data::Packet::new_unchecked(&mut self.packet).set_sequence(self.sequence),
        }
    }
}

fn blank(stream: &Stream, identity: &Identity) -> Vec<u8> {
    match stream.protocol {
        Protocol::ArtNet => {
            let repr = dmx::Repr {
                sequence: 0,
                physical: 0,
                port_address: stream.universe.min(artnet::LAST_PORT_ADDRESS),
                data: &[0; SLOTS],
            };
            let mut packet = vec![0; repr.buffer_len()];
            repr.emit(&mut dmx::Packet::new_unchecked(&mut packet));
            packet
        }
        Protocol::Sacn => {
            let repr = data::Repr {
                cid: identity.cid,
                source_name: &identity.name,
                priority: stream.priority.min(sacn::HIGHEST_PRIORITY),
                sync_address: 0,
                sequence: 0,
                preview: false,
                terminated: false,
                force_sync: false,
                universe: stream.universe.clamp(sacn::FIRST_UNIVERSE, sacn::LAST_UNIVERSE),
                start_code: 0,
                slots: &[0; SLOTS],
            };
            let mut packet = vec![0; repr.buffer_len()];
            repr.emit(&mut data::Packet::new_unchecked(&mut packet));
            packet
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn stream(protocol: Protocol, keep_alive: bool) -> Stream {
        Stream { source: 0, protocol, universe: 7, to: Some(Ipv4Addr::new(127, 0, 0, 2)), priority: 100, keep_alive }
    }

    fn burst(streams: &[Stream]) -> Burst {
        Burst::new(streams, &Identity { cid: [7; 16], name: "Test".into() })
    }

    #[test]
    fn packets_carry_the_slots_and_count() {
        let mut burst = burst(&[stream(Protocol::ArtNet, false), stream(Protocol::Sacn, false)]);
        let mut slots = [0; 512];
        for frame in 0..600u32 {
            slots[3] = frame as u8;
            assert_eq!(burst.prepare(&slots, 0.0), 2);
            for (packet, _) in burst.packets() {
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
        let mut burst = burst(&[stream(Protocol::Sacn, true)]);
        let slots = [9; 512];
        let due: Vec<f64> =
            (0..440).map(|frame| f64::from(frame) / 44.0).filter(|&now| burst.prepare(&slots, now) > 0).collect();
        assert_eq!(due[..3], [0.0, 1.0 / 44.0, 2.0 / 44.0]);
        for pair in due[2..].windows(2) {
            assert!((0.8..=1.0).contains(&(pair[1] - pair[0])), "{due:?}");
        }
        assert_eq!(burst.prepare(&[8; 512], 10.01), 1, "a change goes out at once");
    }

    #[test]
    fn only_sacn_streams_are_terminated() {
        let mut burst = burst(&[stream(Protocol::ArtNet, false), stream(Protocol::Sacn, false)]);
        burst.prepare(&[1; 512], 0.0);
        let mut last = 1;
        for _ in 0..TERMINATIONS {
            assert_eq!(burst.terminate(), 1);
            let (packet, to) = burst.packets().next().expect("a packet");
            let data = crate::parse(packet).expect("a frame");
            assert!(data.terminated && data.sequence == last + 1 && to.port() == sacn::PORT);
            last = data.sequence;
        }
    }

    #[test]
    fn streams_that_stay_go_on_counting_and_the_others_end() {
        let (first, second) = (stream(Protocol::Sacn, false), Stream { universe: 8, ..stream(Protocol::Sacn, false) });
        let mut now = burst(&[first, second]);
        for _ in 0..5 {
            now.prepare(&[1; 512], 0.0);
        }
        let mut ended = now.replace(burst(&[Stream { universe: 9, ..first }, first]));
        assert_eq!((now.len(), ended.len(), ended.terminate()), (2, 1, 1));
        now.prepare(&[1; 512], 0.0);
        let sequences: Vec<(u16, u8)> =
            now.packets().map(|(p, _)| crate::parse(p).map(|d| (d.universe, d.sequence)).expect("a frame")).collect();
        assert_eq!(sequences, [(9, 1), (7, 6)]);
        let (packet, _) = ended.packets().next().expect("a packet");
        assert!(crate::parse(packet).is_ok_and(|d| d.terminated && d.universe == 8 && d.sequence == 6));
    }

    #[test]
    fn multicast_goes_to_the_group_of_the_universe() {
        let stream = Stream { to: None, universe: 0x1234, ..stream(Protocol::Sacn, false) };
        assert_eq!(stream.destination().to_string(), "239.255.18.52:5568");
    }
}
