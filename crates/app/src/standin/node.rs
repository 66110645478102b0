//! Stand-in lighting nodes: they receive both protocols at an address of this machine and keep count.

use std::io;
use std::net::Ipv4Addr;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::{Builder, JoinHandle};
use std::time::Duration;

use serde::Serialize;
use splimo_core::histogram::Quantiles;
use splimo_wire::Protocol;
use splimo_wire::reception::Reception;
use splimo_wire::socket::Receiver;

use crate::runtime::clock::Instant;

/// A node on a thread of its own.
pub struct Node {
    address: Ipv4Addr,
    reception: Arc<Mutex<Reception>>,
    stop: Arc<AtomicBool>,
    thread: Option<JoinHandle<io::Result<()>>>,
}

/// What nodes report.
#[derive(Debug, Clone, Serialize)]
pub struct Report {
    /// Each node.
    pub nodes: Vec<NodeReport>,
    /// Packets that were no valid frame, at all of them.
    pub malformed: u64,
}

/// What one node reports.
#[derive(Debug, Clone, Serialize)]
pub struct NodeReport {
    /// Where it listens.
    pub address: Ipv4Addr,
    /// What came in.
    pub universes: Vec<UniverseReport>,
}

/// What a node reports of a universe.
#[derive(Debug, Clone, Serialize)]
pub struct UniverseReport {
    /// Its number in the protocol.
    pub universe: u16,
    /// `art-net` or `sacn`.
    pub protocol: &'static str,
    /// Frames that came.
    pub frames: u64,
    /// Frames a second between the first and the last.
    pub fps: f64,
    /// Frames that did not come, by their sequence numbers.
    pub lost: u64,
    /// Frames that came late or twice.
    pub reordered: u64,
    /// Packets that said that the stream ends.
    pub terminated: u64,
    /// The time between frames.
    pub gap_ms: Quantiles,
}

impl Node {
    /// Starts a node at an address, in the multicast groups of some sACN universes.
    ///
    /// # Errors
    /// Where a port is taken, the address is not this machine's, or a group cannot be joined.
    pub fn start(address: Ipv4Addr, groups: impl Iterator<Item = u16>) -> io::Result<Self> {
        let mut receiver = Receiver::bind(address)?;
        for universe in groups {
            receiver.join(universe)?;
        }
        let reception = Arc::new(Mutex::new(Reception::default()));
        let stop = Arc::new(AtomicBool::new(false));
        let (kept, stopped) = (reception.clone(), stop.clone());
        let epoch = Instant::now();
        let receive = move || {
            while !stopped.load(Ordering::Relaxed) {
                receiver.receive(Duration::from_millis(50), |bytes| {
                    let now = Instant::now().seconds_since(epoch);
                    kept.lock().unwrap_or_else(PoisonError::into_inner).receive(bytes, now);
                })?;
            }
            Ok(())
        };
        let thread = Builder::new().name(format!("node {address}")).spawn(receive)?;
        Ok(Self { address, reception, stop, thread: Some(thread) })
    }

    /// Where it listens.
    #[must_use]
    pub fn address(&self) -> Ipv4Addr {
        self.address
    }

    /// What came in so far.
    #[must_use]
    pub fn reception(&self) -> Reception {
        self.reception.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }

    fn report(&self) -> (NodeReport, u64) {
        let reception = self.reception();
        let universes = reception.universes().map(|(protocol, universe, seen)| UniverseReport {
            universe,
            protocol: match protocol {
                Protocol::ArtNet => "art-net",
                Protocol::Sacn => "sacn",
            },
            frames: seen.frames,
            fps: (seen.fps() * 100.0).round() / 100.0,
            lost: seen.lost,
            reordered: seen.reordered,
            terminated: seen.terminated,
            gap_ms: seen.gap_ms(),
        });
        (NodeReport { address: self.address, universes: universes.collect() }, reception.malformed)
    }
}

impl Drop for Node {
    fn drop(&mut self) {
        self.stop.store(true, Ordering::Relaxed);
        if let Some(thread) = self.thread.take() {
            let _ = thread.join();
        }
    }
}

/// The report of some nodes.
#[must_use]
pub fn report(nodes: &[Node]) -> Report {
    let reports: Vec<_> = nodes.iter().map(Node::report).collect();
    let malformed = reports.iter().map(|(_, malformed)| malformed).sum();
    Report { nodes: reports.into_iter().map(|(node, _)| node).collect(), malformed }
}

/// Waits until nothing comes in any more, such as what was sent just before, for a second at the most.
pub fn settle(nodes: &[Node]) {
    let count = || nodes.iter().map(|node| node.reception().packets).sum::<u64>();
    let mut before = count();
    for _ in 0..10 {
        std::thread::sleep(Duration::from_millis(100));
        let now = count();
        if now == before {
            return;
        }
        before = now;
    }
}

/// Starts as many nodes as there are addresses, all in one block of loopback that is free: `127.0.0.2` and up, or where
/// another demo has these, `127.0.1.2` and up, and so on. Returns them in the order of `wanted`.
///
/// # Errors
/// The last block's error where none of 100 is free.
pub fn start_block(wanted: &[Ipv4Addr]) -> io::Result<Vec<Node>> {
    let mut last = None;
    for block in 0..100 {
        let start = |address: &Ipv4Addr| {
            let [a, b, _, d] = address.octets();
            Node::start(Ipv4Addr::new(a, b, block, d), std::iter::empty())
        };
        match wanted.iter().map(start).collect::<io::Result<Vec<_>>>() {
            Ok(nodes) => return Ok(nodes),
            Err(error) => last = Some(error),
        }
    }
    Err(last.unwrap_or_else(|| io::Error::other("no address was asked for")))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_second_demo_gets_a_block_of_its_own() {
        let wanted = [Ipv4Addr::new(127, 84, 0, 2), Ipv4Addr::new(127, 84, 0, 3)];
        let first = start_block(&wanted).expect("free addresses");
        let second = start_block(&wanted).expect("free addresses");
        let addresses = |nodes: &[Node]| nodes.iter().map(|n| n.address().octets()[2]).collect::<Vec<_>>();
        assert_ne!(addresses(&first)[0], addresses(&second)[0]);
        for nodes in [&first, &second] {
            assert!(addresses(nodes).windows(2).all(|pair| pair[0] == pair[1]), "a block stays together");
        }
    }

    #[test]
    fn what_was_just_sent_is_in_the_report() {
        let nodes = start_block(&[Ipv4Addr::new(127, 84, 0, 9)]).expect("a free address");
        let socket = std::net::UdpSocket::bind("127.0.0.1:0").expect("a socket");
        for _ in 0..50 {
            socket.send_to(b"noise", (nodes[0].address(), 5568)).expect("sends");
        }
        settle(&nodes);
        let report = report(&nodes);
        assert_eq!((report.malformed, report.nodes[0].universes.len()), (50, 0));
    }
}
