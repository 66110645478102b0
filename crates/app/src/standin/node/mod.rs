//! Stand-in lighting nodes: they answer discovery, receive both protocols at an address of this machine, keep count, and
//! misbehave when they are told to.

mod answer;
mod fault_spec;
mod report;

use std::io;
use std::net::{IpAddr, Ipv4Addr, SocketAddr};
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::{Builder, JoinHandle};
use std::time::Duration;

use splimo_wire::arbitration::Merge;
use splimo_wire::guard::Guard;
use splimo_wire::message::Message;
use splimo_wire::reception::Reception;
use splimo_wire::socket::{Receiver, interfaces};
use splimo_wire::{artnet, sacn};

use splimo_runtime::clock::Instant;

pub use fault_spec::FaultSpec;
pub use report::{Report, report};

/// The broadcast address of loopback.
const LOOPBACK_BROADCAST: Ipv4Addr = Ipv4Addr::new(127, 255, 255, 255);
/// sACN universes whose groups a node joins at the most; each takes a socket.
const MOST_GROUPS: usize = 200;
/// Packets that are read in a turn.
const A_TURN: usize = 256;

/// The arguments of a node.
#[derive(Debug, Clone, PartialEq)]
pub struct NodeSpec {
    /// The address at which it listens.
    pub address: Ipv4Addr,
    /// Its name.
    pub name: String,
    /// The port-addresses that it says it puts out, ascending.
    pub ports: Vec<u16>,
    /// The sACN universes whose multicast groups it joins.
    pub groups: Vec<u16>,
    /// The rule for sources of equal priority.
    pub merge: Merge,
    /// Its faults.
    pub faults: FaultSpec,
}

impl NodeSpec {
    /// A node that behaves, with no ports of its own.
    #[must_use]
    pub fn at(address: Ipv4Addr) -> Self {
        Self {
            address,
            name: format!("Stand-in {}", address.octets()[3]),
            ports: Vec::new(),
            groups: Vec::new(),
            merge: Merge::Highest,
            faults: FaultSpec::default(),
        }
    }
}

/// A node on a thread of its own.
pub struct Node {
    spec: NodeSpec,
    reception: Arc<Mutex<Reception>>,
    polls: Arc<AtomicU64>,
    stop: Arc<AtomicBool>,
    thread: Option<JoinHandle<io::Result<()>>>,
}

impl Node {
    /// Starts a node.
    ///
    /// # Errors
    /// If a port is taken, the address is not this machine's, or a group cannot be joined.
    pub fn start(spec: NodeSpec) -> io::Result<Self> {
        let receiver = listening(&spec)?;
        let reception = Arc::new(Mutex::new(Reception::merging(spec.merge)));
        let (stop, polls) = (Arc::new(AtomicBool::new(false)), Arc::new(AtomicU64::new(0)));
        let work = Work {
            spec: spec.clone(),
            receiver,
            reception: reception.clone(),
            polls: polls.clone(),
            stop: stop.clone(),
            epoch: Instant::now(),
        };
        let thread = Builder::new().name(format!("node {}", spec.address)).spawn(move || work.run())?;
        Ok(Self { spec, reception, polls, stop, thread: Some(thread) })
    }

    /// The address at which it listens.
    #[must_use]
    pub fn address(&self) -> Ipv4Addr {
        self.spec.address
    }

    /// Its name.
    #[must_use]
    pub fn name(&self) -> &str {
        &self.spec.name
    }

    /// The reception so far.
    #[must_use]
    pub fn reception(&self) -> Reception {
        self.reception.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }

    /// The number of polls that it answered.
    #[must_use]
    pub fn polls(&self) -> u64 {
        self.polls.load(Ordering::Relaxed)
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

/// The sockets of a node.
fn listening(spec: &NodeSpec) -> io::Result<Receiver> {
    let mut receiver = Receiver::default();
    for port in [artnet::PORT, sacn::PORT] {
        receiver.listen(SocketAddr::from((spec.address, port)), false)?;
    }
    let all = interfaces();
    let interface = all.iter().find(|i| i.v4 == Some(spec.address));
    let broadcast =
        if spec.address.is_loopback() { Some(LOOPBACK_BROADCAST) } else { interface.and_then(|i| i.broadcast) };
    if let Some(broadcast) = broadcast {
        receiver.listen(SocketAddr::from((broadcast, artnet::PORT)), true)?;
    }
    for &universe in spec.groups.iter().take(MOST_GROUPS) {
        receiver.join_v4(sacn::multicast(universe), sacn::PORT, spec.address)?;
        if let Some(index) = interface.filter(|i| i.v6.is_some()).map(|i| i.index) {
            receiver.join_v6(sacn::multicast_v6(universe), sacn::PORT, index)?;
        }
    }
    Ok(receiver)
}

/// Everything that a node's thread has in its hands.
struct Work {
    spec: NodeSpec,
    receiver: Receiver,
    reception: Arc<Mutex<Reception>>,
    polls: Arc<AtomicU64>,
    stop: Arc<AtomicBool>,
    epoch: Instant,
}

impl Work {
    fn run(mut self) -> io::Result<()> {
        let mut packets = 0;
        // It is no help to whoever wants to flood a third party: an answer is many times as long as a question.
        let mut guard = Guard::answers();
        while !self.stop.load(Ordering::Relaxed) {
            let Self { spec, receiver, reception, polls, epoch, .. } = &mut self;
            let mut asked: Vec<(artnet::poll::Repr, IpAddr)> = Vec::new();
            receiver.receive(Duration::from_millis(50), A_TURN, |bytes, from, _| {
                let now = Instant::now().seconds_since(*epoch);
                packets += 1;
                if spec.faults.is_away(now) || spec.faults.drops(packets) {
                    return;
                }
                let mut reception = reception.lock().unwrap_or_else(PoisonError::into_inner);
                if let Some(Message::Poll(poll)) = reception.receive(bytes, from.ip(), now) {
                    asked.push((poll, from.ip()));
                }
            })?;
            let mut kept = reception.lock().unwrap_or_else(PoisonError::into_inner);
            kept.pass_time(Instant::now().seconds_since(*epoch));
            let own = SocketAddr::from((spec.address, artnet::PORT));
            let now = Instant::now().seconds_since(*epoch);
            for (poll, who) in asked {
                if !guard.lets(who, now) {
                    continue;
                }
                polls.fetch_add(1, Ordering::Relaxed);
                for answer in answer::answers(spec.address, &spec.name, &spec.ports, &poll, &kept, spec.faults.wrong) {
                    // Whoever asked may be gone by now.
                    let _ = receiver.send_from(&own, &answer, SocketAddr::new(who, artnet::PORT));
                }
            }
            drop(kept);
            if !spec.faults.delay.is_zero() {
                std::thread::sleep(spec.faults.delay);
            }
        }
        Ok(())
    }
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

/// Starts nodes, all in one block of loopback that is free: `127.0.0.2` and up, or where another demo has these,
/// `127.0.1.2` and up, and so on. Returns them in the order of `wanted`.
///
/// # Errors
/// The last block's error where none of 100 is free.
pub fn start_block(wanted: &[NodeSpec]) -> io::Result<Vec<Node>> {
    let mut last = None;
    for block in 0..100 {
        let start = |spec: &NodeSpec| {
            let [a, b, _, d] = spec.address.octets();
            Node::start(NodeSpec { address: Ipv4Addr::new(a, b, block, d), ..spec.clone() })
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
    use std::net::UdpSocket;

    #[test]
    fn a_second_demo_gets_a_block_of_its_own() {
        let wanted = [2, 3].map(|last| NodeSpec::at(Ipv4Addr::new(127, 84, 0, last)));
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
        let nodes = start_block(&[NodeSpec::at(Ipv4Addr::new(127, 84, 0, 9))]).expect("a free address");
        let socket = UdpSocket::bind("127.0.0.1:0").expect("a socket");
        for _ in 0..50 {
            socket.send_to(b"noise", (nodes[0].address(), 5568)).expect("sends");
        }
        settle(&nodes);
        let report = report(&nodes);
        assert_eq!((report.malformed, report.nodes[0].universes.len()), (50, 0));
    }

    #[test]
    fn a_flood_of_polls_gets_few_answers() {
        let asking = Ipv4Addr::new(127, 84, 10, 1);
        let mut ears = Receiver::default();
        let own = SocketAddr::from((asking, artnet::PORT));
        ears.listen(own, false).expect("a free address");
        let node = Node::start(NodeSpec::at(Ipv4Addr::new(127, 84, 10, 2))).expect("a free address");
        let (poll, start) = (artnet::poll::Repr::default().emit(), Instant::now());
        let mut answers = 0u64;
        for _ in 0..1_000 {
            ears.send_from(&own, &poll, SocketAddr::from((node.address(), artnet::PORT))).expect("sends");
            let _ = ears.receive(Duration::ZERO, 64, |_, _, _| answers += 1);
        }
        while node.reception().packets < 1_000 && Instant::now().seconds_since(start) < 60.0 {
            let _ = ears.receive(Duration::from_millis(20), 64, |_, _, _| answers += 1);
        }
        let seconds = Instant::now().seconds_since(start).ceil() as u64;
        assert!(answers <= 2 * (seconds + 1), "{answers} in {seconds} s");
        assert!(node.polls() >= 1 && node.reception().packets > 500);
    }

    #[test]
    fn a_poll_to_it_or_to_everybody_is_answered_at_the_port_of_art_net() {
        let asking = Ipv4Addr::new(127, 84, 9, 1);
        let mut ears = Receiver::default();
        let own = SocketAddr::from((asking, artnet::PORT));
        ears.listen(own, false).expect("a free address");
        let spec = NodeSpec { ports: vec![3, 4], ..NodeSpec::at(Ipv4Addr::new(127, 84, 9, 2)) };
        let node = Node::start(spec).expect("a free address");
        let poll = artnet::poll::Repr::default().emit();
        for to in [node.address(), LOOPBACK_BROADCAST] {
            ears.send_from(&own, &poll, SocketAddr::from((to, artnet::PORT))).expect("sends");
            let mut outputs = Vec::new();
            while outputs.is_empty() {
                ears.receive(Duration::from_secs(5), 64, |bytes, from, _| {
                    if let (Ok(Message::PollReply(reply)), true) = (Message::parse(bytes), from.ip() == node.address())
                    {
                        outputs.extend(reply.ports.iter().filter_map(|p| p.output));
                    }
                })
                .expect("waits");
            }
            assert_eq!(outputs, [3, 4]);
        }
        assert!(node.polls() >= 2);
    }
}
