//! The thread that listens to the network: it polls and answers polls, keeps the directory of who is there, looks for
//! sources that share our universes, and tells everybody what we send.

use std::collections::{BTreeMap, BTreeSet};
use std::io;
use std::net::{IpAddr, Ipv4Addr, SocketAddr};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::{Builder, JoinHandle};
use std::time::Duration;

use crossbeam_channel::Sender;
use splimo_show::AddressBlock;
use splimo_show::command::{EngineCommand, Origin};
use splimo_time::sync::{MusicPlace, SyncPosition, SyncSource};
use splimo_wire::arbitration::SourceId;
use splimo_wire::artnet::poll_reply::{self, Style};
use splimo_wire::artnet::{self, poll, time_code, trigger};
use splimo_wire::belief;
use splimo_wire::directory::{Device, Directory, POLL_INTERVAL};
use splimo_wire::guard::Guard;
use splimo_wire::interface::Interface;
use splimo_wire::message::Message;
use splimo_wire::reception::{Reception, Universe};
use splimo_wire::sacn::{self, DISCOVERY_INTERVAL, DISCOVERY_UNIVERSE, discovery};
use splimo_wire::socket::{self, Outlet, Receiver};
use splimo_wire::{Protocol, USUAL_PRIORITY};

use super::dmx_input::DmxInputs;
use super::names::Names;
use super::senders::Senders;
use super::{Exchange, Network, NetworkStatus, Received, SourceSeen, Timed};
use crate::asked::Asked;
use crate::clock::Instant;
use crate::engine::frames::EngineInput;
use crate::inputs::inbox::Inbox;
use crate::trouble::{Troubles, keep_alive};

/// The number of times that the interfaces are looked at, in seconds.
const INTERFACES: f64 = 0.5;
/// The number of times that screens are told, in seconds.
const TELL: f64 = 0.2;
/// Packets of one socket that are read before the others have their turn.
const A_TURN: usize = 64;
/// Over which time packets are counted, in seconds, and how many are read in it at the most: a flood must not take the
/// machine from the lights.
const WINDOW: f64 = 0.1;
const A_WINDOW: u32 = 1500;
/// Universes that are told to screens at the most.
const MOST_TOLD: usize = 1024;
/// Universes that others announce and that are listened to, at the most: each takes a socket on each network, and has switches send
/// it here.
const MOST_ANNOUNCED: usize = 64;
/// Nodes that get a universe because they ask for it, at the most; beyond that Art-Net 4 advises to broadcast.
const MOST_TAKERS: usize = 40;
/// The time after packets were lost for which nobody counts as silent, in seconds: until those that were not heard spoke again.
const DEAF: f64 = 1.0;
/// The time for which packets have to be lost before a flood is told of, so that its rate is known, and the time after the last loss
/// after which it is over, in seconds.
const FLOODED: f64 = 1.2;
const FLOOD_OVER: f64 = 3.0;
/// The broadcast address of loopback, on which stand-ins listen.
const LOOPBACK_BROADCAST: Ipv4Addr = Ipv4Addr::new(127, 255, 255, 255);

/// Everything that the thread has in its hands.
pub struct Listener {
    /// The exchange with other threads.
    pub exchange: Arc<Exchange>,
    /// Time zero.
    pub epoch: Instant,
    /// Set when it is to end.
    pub stop: Arc<AtomicBool>,
    /// The troubles, where failures are told.
    pub troubles: Troubles,
    /// The engine, which is told of time code.
    pub engine: Option<Sender<EngineInput>>,
    /// The session, which is asked for what others set off.
    pub asks: Option<Sender<Asked>>,
    /// To the session, which is told of universes that are inputs.
    pub inbox: Arc<Inbox>,
    /// Told when routes have to be laid out anew.
    pub refresh: Option<Sender<()>>,
}

/// The time that time code may tell the same time before it counts as state, in seconds.
const STANDS: f64 = 0.2;

/// Starts the thread.
///
/// # Errors
/// If the system gives none.
pub fn start(listener: Listener) -> io::Result<JoinHandle<()>> {
    Builder::new().name("network".into()).spawn(move || {
        let troubles = listener.troubles.clone();
        keep_alive("network", &troubles, || {
            if let Err(error) = listener.listen() {
                listener.troubles.tell("network", format!("nobody listens ({error}); start Splimo again"));
            }
        });
    })
}

/// Deadlines of what is done again and again.
#[derive(Default)]
struct Due {
    interfaces: f64,
    poll: f64,
    announce: f64,
    tell: f64,
    time_code: f64,
}

/// Everything that the thread knows.
struct Ears {
    receiver: Receiver,
    interfaces: Vec<Interface>,
    /// The loopback address at which it listens, one that no other program has taken.
    loopback: Option<Ipv4Addr>,
    names: Names,
    hosts: Vec<String>,
    directory: Directory,
    reception: Reception,
    watched: Option<(Protocol, u16)>,
    /// The universes that others announce and that are listened to, ascending.
    announced: Vec<u16>,
    /// True if nothing is sent to other machines.
    local: bool,
    /// The groups that are joined, each with the address of its interface.
    joined: BTreeSet<(Ipv4Addr, Ipv4Addr)>,
    inputs: DmxInputs,
    /// The nodes of which it is told that they are silent.
    silent: BTreeSet<Ipv4Addr>,
    guard: Guard,
    /// The triggers that fire pads.
    triggers: Guard,
    time_code: Guard,
    status: NetworkStatus,
    /// The last time code in seconds, and since when it is that.
    code: (f64, f64),
    /// The time of the time code that the engine was told of last.
    led: f64,
    window: (f64, u32),
    senders: Senders,
    /// The time when packets were last lost because too many came, and since when they have been.
    deaf: f64,
    deaf_since: f64,
    /// The networks and addresses whose answers are believed.
    nodes_from: Vec<AddressBlock>,
    /// Those whose time code is followed.
    time_code_from: Vec<AddressBlock>,
    counted: (f64, u64),
    due: Due,
}

impl Listener {
    fn listen(&self) -> io::Result<()> {
        let mut ears = Ears {
            receiver: Receiver::default(),
            interfaces: Vec::new(),
            loopback: None,
            names: Names::start()?,
            hosts: Vec::new(),
            directory: Directory::default(),
            reception: Reception::default(),
            watched: None,
            announced: Vec::new(),
            local: false,
            joined: BTreeSet::new(),
            inputs: DmxInputs::default(),
            silent: BTreeSet::new(),
            guard: Guard::answers(),
            triggers: Guard::triggers(),
            time_code: Guard::time_code(),
            status: NetworkStatus::default(),
            code: (0.0, f64::MIN),
            led: f64::MIN,
            window: (0.0, 0),
            senders: Senders::default(),
            deaf: f64::MIN,
            deaf_since: f64::MIN,
            nodes_from: Vec::new(),
            time_code_from: Vec::new(),
            counted: (0.0, 0),
            due: Due::default(),
        };
        while !self.stop.load(Ordering::Relaxed) {
            let now = Instant::now().seconds_since(self.epoch);
            self.do_what_is_due(&mut ears, now);
            self.hear(&mut ears, now)?;
        }
        Ok(())
    }

    fn do_what_is_due(&self, ears: &mut Ears, now: f64) {
        let outgoing = self.exchange.outgoing.load_full();
        if ears.nodes_from != outgoing.nodes_from {
            ears.nodes_from.clone_from(&outgoing.nodes_from);
            // Who is not believed any more is forgotten; the others stay lit.
            let (interfaces, allowed) = (&ears.interfaces, &ears.nodes_from);
            ears.directory.keep(|address| belief::doubt(address, address, interfaces, allowed).is_none());
            ears.due.poll = now;
        }
        if ears.time_code_from != outgoing.time_code_from {
            ears.time_code_from.clone_from(&outgoing.time_code_from);
        }
        if self.exchange.forget.swap(false, Ordering::Relaxed) {
            ears.directory.forget_gone(now);
        }
        if now >= ears.due.interfaces {
            ears.due.interfaces = now + INTERFACES;
            let watched = self.exchange.watched.load().as_deref().copied();
            self.look_at_interfaces(ears, watched);
            if outgoing.hosts != ears.hosts {
                ears.hosts.clone_from(&outgoing.hosts);
                ears.names.want(outgoing.hosts.clone());
            }
        }
        if now >= ears.due.poll {
            ears.due.poll = now + POLL_INTERVAL;
            ears.poll(&outgoing.art_net);
        }
        if now >= ears.due.announce {
            ears.due.announce = now + DISCOVERY_INTERVAL;
            ears.announce(&outgoing);
        }
        if let Some(kind) = outgoing.time_code {
            let period = 1.0 / f64::from(kind.frames());
            if now >= ears.due.time_code {
                ears.due.time_code = (ears.due.time_code + period).max(now);
                let packet = time_code::Repr::at(now, kind).emit();
                ears.send_to_all(&packet, &outgoing.art_net);
            }
        }
        while let Ok(what) = self.exchange.triggers.1.try_recv() {
            ears.send_to_all(&what.emit(), &outgoing.art_net);
        }
        if now >= ears.due.tell {
            ears.due.tell = now + TELL;
            ears.directory.pass_time(now);
            ears.reception.pass_time(now);
            ears.inputs.pass_time(now, &self.inbox);
            self.tell(ears, &outgoing, now);
        }
    }

    /// Waits for packets, and takes them.
    fn hear(&self, ears: &mut Ears, now: f64) -> io::Result<()> {
        if now - ears.window.0 >= WINDOW {
            ears.end_window(now);
        }
        if ears.window.1 >= A_WINDOW {
            // The rest of the window belongs to the lights.
            let rest = (ears.window.0 + WINDOW - now).clamp(0.0, WINDOW);
            std::thread::sleep(Duration::from_secs_f64(rest));
            return Ok(());
        }
        let busy = self.exchange.outgoing.load().time_code.is_some();
        let patience = Duration::from_millis(if busy { 5 } else { 50 });
        let outgoing = self.exchange.outgoing.load_full();
        let mut receiver = std::mem::take(&mut ears.receiver);
        let mut answers: Vec<(SocketAddr, SocketAddr)> = Vec::new();
        let result = receiver.receive(patience, A_TURN, |bytes, from, own| {
            let now = Instant::now().seconds_since(self.epoch);
            ears.window.1 += 1;
            ears.senders.count(from.ip());
            if ears.is_own(from.ip()) && !from.ip().is_loopback() && own.port() == artnet::PORT {
                return;
            }
            ears.inputs.take(bytes, from.ip(), now, outgoing.identity.cid, &self.inbox);
            // What goes to everybody on this machine is for inputs alone: this session is asked and answered at its own address.
            if own.ip() == LOOPBACK_BROADCAST {
                return;
            }
            if ears.take(bytes, from, now, outgoing.identity.cid) {
                answers.push((own, from));
            }
            let trusted = |from| AddressBlock::allow(&outgoing.triggers_from, from);
            if let Some(heard) = ears.status.trigger.filter(|t| t.at == now && outgoing.triggers && trusted(t.from))
                && ears.triggers.lets(heard.from, now)
            {
                self.set_off(heard.what, now);
            }
        });
        ears.receiver = receiver;
        self.lead(ears);
        for (own, from) in answers {
            if ears.guard.lets(from.ip(), now) {
                ears.answer(own, from, &outgoing.identity.name);
            }
        }
        result
    }

    /// Tells the engine of time code that has just come.
    fn lead(&self, ears: &mut Ears) {
        let (Some(heard), Some(engine)) = (ears.status.time_code.filter(|code| code.at > ears.led), &self.engine)
        else {
            return;
        };
        let now = heard.at;
        ears.led = now;
        let seconds = heard.what.seconds_since_zero();
        if ears.code.0 != seconds {
            ears.code = (seconds, now);
        }
        // Who pauses sends the same time again and again.
        let stands = now - ears.code.1 > STANDS;
        let place = if stands { MusicPlace::Stopped } else { MusicPlace::Seconds(seconds + now - ears.code.1) };
        let _ =
            engine.try_send(EngineInput::SyncPosition(SyncPosition { source: SyncSource::TimeCode, time: now, place }));
    }

    /// Asks for what somebody else set off: a macro fires the pad of its number.
    fn set_off(&self, what: trigger::Repr, now: f64) {
        if let (trigger::Repr::Macro(number @ 1..), Some(asks)) = (what, &self.asks) {
            let command = EngineCommand::FirePad(usize::from(number)).into();
            let _ = asks.try_send(Asked { command, origin: Origin::ArtNet, at: now });
        }
    }

    fn look_at_interfaces(&self, ears: &mut Ears, watched: Option<(Protocol, u16)>) {
        let interfaces = socket::interfaces();
        let others = ears.inputs.adopt(&self.exchange.inputs.load_full());
        let announced = announced(&ears.directory);
        let local = self.exchange.outgoing.load().local;
        let other_reach = std::mem::replace(&mut ears.local, local) != local;
        let moved = interfaces != ears.interfaces;
        if others
            || moved
            || other_reach
            || watched != ears.watched
            || announced != ears.announced
            || ears.loopback.is_none()
        {
            if moved || other_reach {
                ears.joined.clear();
            }
            ears.interfaces = interfaces;
            ears.watched = watched;
            ears.announced = announced;
            ears.listen_everywhere(&self.troubles);
        }
        self.tell_of_links(&ears.interfaces);
    }

    /// Tells of interfaces that have an address and no link.
    fn tell_of_links(&self, interfaces: &[Interface]) {
        for interface in interfaces.iter().filter(|i| i.v4.is_some() && !i.loopback) {
            let subject = format!("network {}", interface.name);
            if interface.up && interface.link {
                self.troubles.over(&subject);
            } else {
                let state =
                    if interface.up { "has no link: plug the cable in" } else { "is switched off: switch it on" };
                self.troubles.tell(&subject, format!("{state}; what leaves through it waits for nothing and is lost"));
            }
        }
    }

    /// Tells of nodes that routes go to, that answered, and that are silent. A route to `nodes` leaves such a one at once, so that it is
    /// told of until it answers or is forgotten.
    fn tell_of_nodes(&self, ears: &mut Ears, routed: &[Ipv4Addr], now: f64) {
        let devices = ears.directory.devices().iter();
        let silent: BTreeMap<Ipv4Addr, f64> = devices
            .filter(|d| d.is_gone(now) && (routed.contains(&d.address) || ears.silent.contains(&d.address)))
            .map(|d| (d.address, now - d.last))
            .collect();
        let subject = |address: &Ipv4Addr| format!("node {address}");
        for address in ears.silent.iter().filter(|address| !silent.contains_key(address)) {
            self.troubles.over(&subject(address));
        }
        for (address, seconds) in silent.iter().filter(|(address, _)| !ears.silent.contains(address)) {
            let mend = "see to its power and its cable";
            self.troubles.tell(&subject(address), format!("has not answered for {seconds:.0} s: {mend}"));
        }
        ears.silent = silent.into_keys().collect();
    }

    fn tell(&self, ears: &mut Ears, outgoing: &super::Outgoing, now: f64) {
        let (since, before) = ears.counted;
        if now - since >= 1.0 {
            ears.status.packets = ((ears.reception.packets - before) as f64 / (now - since)) as f32;
            ears.counted = (now, ears.reception.packets);
        }
        ears.status.now = now;
        let flooded = ears.is_deaf(now) && now - ears.deaf_since > FLOODED;
        ears.status.flood = ears.senders.busiest().filter(|_| flooded);
        ears.status.directory = ears.directory.in_reading_order(now);
        ears.status.listening = ears.receiver.addresses().collect();
        ears.status.interfaces.clone_from(&ears.interfaces);
        ears.status.received = ears.received(outgoing.identity.cid);
        self.exchange.status.store(Arc::new(ears.status.clone()));
        if let Some(flood) = ears.status.flood {
            let words = flood.words();
            let mend =
                "keep that off this network; until then some packets are lost, and nodes and sources stay as they were";
            self.troubles.tell("flood", format!("{words}, more than is read: {mend}"));
        } else if now - ears.deaf > FLOOD_OVER {
            self.troubles.over("flood");
        }
        self.tell_of_nodes(ears, &outgoing.art_net, now);
        let network = Network {
            interfaces: ears.interfaces.clone(),
            hosts: ears.names.found(),
            takers: takers(&ears.directory, &ears.interfaces, &ears.nodes_from, now),
        };
        if *self.exchange.network.load_full() != network {
            self.exchange.network.store(Arc::new(network));
            if let Some(refresh) = &self.refresh {
                // One that waits already does for this as well.
                let _ = refresh.try_send(());
            }
        }
    }
}

/// Port-addresses, and the addresses of the nodes that put them out. Only those on our own networks count, or where a person allows
/// it, and not very many: a made-up answer must not have us send frames to somebody far away.
fn takers(
    directory: &Directory,
    interfaces: &[Interface],
    allowed: &[AddressBlock],
    now: f64,
) -> BTreeMap<u16, Vec<Ipv4Addr>> {
    let mut all: BTreeMap<u16, Vec<Ipv4Addr>> = BTreeMap::new();
    let near = |address: Ipv4Addr| !allowed.is_empty() || interfaces.iter().any(|i| i.reaches(address));
    let mut devices: Vec<&Device> = directory.devices().iter().filter(|d| !d.is_gone(now) && near(d.address)).collect();
    // Those that have been there longest come first, so that newcomers cannot push them out.
    devices.sort_by(|a, b| b.is_known().cmp(&a.is_known()).then(a.since.total_cmp(&b.since)));
    for device in devices {
        for &port_address in &device.outputs {
            let takers = all.entry(port_address).or_default();
            if takers.len() < MOST_TAKERS {
                takers.push(device.address);
            }
        }
    }
    all
}

/// The universes that others announce, ascending: the first [`MOST_ANNOUNCED`].
fn announced(directory: &Directory) -> Vec<u16> {
    let all: BTreeSet<u16> = directory.sources().iter().flat_map(|source| source.universes.iter().copied()).collect();
    all.into_iter().take(MOST_ANNOUNCED).collect()
}

impl Ears {
    /// Listens at every address of this machine, and at the groups that tell something.
    fn listen_everywhere(&mut self, troubles: &Troubles) {
        // A show that sends to this machine alone opens nothing to others, unless it has inputs from them.
        let away = !self.local || self.inputs.ports().next().is_some();
        let there: Vec<Interface> = self.interfaces.iter().filter(|i| away && i.up && !i.loopback).cloned().collect();
        let own: Vec<Ipv4Addr> = there.iter().filter_map(|i| i.v4).collect();
        let loopback = self.loopback;
        let groups = self.groups();
        self.joined.retain(|(group, _)| groups.contains(group));
        let joined = &self.joined;
        let takes_sacn = self.takes_sacn();
        self.receiver.keep(|at| match at.ip() {
            IpAddr::V4(v4) if at.port() == sacn::PORT && !v4.is_multicast() && !takes_sacn => false,
            IpAddr::V4(v4) => own.contains(&v4) || Some(v4) == loopback || joined.iter().any(|(group, _)| *group == v4),
            IpAddr::V6(_) => false,
        });
        for interface in &there {
            self.listen_on(interface, &groups, troubles);
        }
        if self.loopback.is_none() {
            // Any address of loopback does: others may have the first ones.
            let addresses = (0..200).map(|i| if i == 0 { Ipv4Addr::LOCALHOST } else { Ipv4Addr::new(127, 1, 0, i) });
            self.loopback = addresses.into_iter().find(|a| self.listen_at(*a, artnet::PORT, false).is_ok());
        }
        // A desk on this machine sends to everybody on it.
        for port in self.inputs.ports().collect::<BTreeSet<u16>>() {
            let _ = self.listen_at(LOOPBACK_BROADCAST, port, true);
        }
        // Sources on this machine, and what they announce.
        if let Some(loopback) = self.loopback {
            if self.takes_sacn() {
                let _ = self.listen_at(loopback, sacn::PORT, true);
            }
            self.join(&groups, Ipv4Addr::LOCALHOST, "loopback");
        }
    }

    /// The groups of what is to be heard: who announces what, the universe that is looked at, inputs, and what was announced.
    fn groups(&self) -> Vec<Ipv4Addr> {
        let watched = self.watched.filter(|(protocol, _)| *protocol == Protocol::Sacn).map(|(_, universe)| universe);
        let universes = [Some(DISCOVERY_UNIVERSE), watched].into_iter().flatten().chain(self.announced.iter().copied());
        let mut groups: Vec<Ipv4Addr> = universes.map(sacn::multicast).chain(self.inputs.groups()).collect();
        groups.sort_unstable();
        groups.dedup();
        groups
    }

    fn join(&mut self, groups: &[Ipv4Addr], own: Ipv4Addr, name: &str) {
        for &group in groups.iter().filter(|group| !self.joined.contains(&(**group, own))).collect::<Vec<_>>() {
            match self.receiver.join_v4(group, sacn::PORT, own) {
                Ok(()) => drop(self.joined.insert((group, own))),
                Err(error) => tracing::info!(%error, %group, interface = name, "cannot join the group"),
            }
        }
    }

    fn listen_on(&mut self, interface: &Interface, groups: &[Ipv4Addr], troubles: &Troubles) {
        let Some(own) = interface.v4 else { return };
        let subject = format!("discovery on {}", interface.name);
        match self.listen_at(own, artnet::PORT, false) {
            Ok(()) => troubles.over(&subject),
            Err(error) => {
                let port = artnet::PORT;
                let message = format!(
                    "port {port} at {own} cannot be listened at ({error}): end the other program that uses it; until then nodes are not found there, and output goes on"
                );
                troubles.tell(&subject, message);
            }
        }
        if let Some(broadcast) = interface.broadcast {
            let _ = self.listen_at(broadcast, artnet::PORT, true);
        }
        if self.takes_sacn() {
            let _ = self.listen_at(own, sacn::PORT, true);
        }
        self.join(groups, own, &interface.name);
    }

    /// True if frames of sACN that are sent to this machine alone are wanted: for an input, or to look at them.
    fn takes_sacn(&self) -> bool {
        let watched = self.watched.is_some_and(|(protocol, _)| protocol == Protocol::Sacn);
        watched || self.inputs.groups().next().is_some()
    }

    fn listen_at(&mut self, address: Ipv4Addr, port: u16, shared: bool) -> io::Result<()> {
        let at = SocketAddr::from((address, port));
        if self.receiver.listens(&at) { Ok(()) } else { self.receiver.listen(at, shared) }
    }

    fn is_own(&self, address: IpAddr) -> bool {
        self.interfaces.iter().any(|i| i.v4.map(IpAddr::V4) == Some(address))
            || self.loopback.map(IpAddr::V4) == Some(address)
    }

    /// Takes a packet; true where its sender is to be answered.
    fn take(&mut self, bytes: &[u8], from: SocketAddr, now: f64, cid: [u8; 16]) -> bool {
        match self.reception.receive(bytes, from.ip(), now) {
            Some(Message::Poll(_)) => return !self.is_own(from.ip()),
            Some(Message::PollReply(reply)) => {
                if let IpAddr::V4(from) = from.ip()
                    && !self.is_own(IpAddr::V4(from))
                {
                    match belief::doubt(reply.address, from, &self.interfaces, &self.nodes_from) {
                        None => drop(self.directory.answered(&reply, from, now)),
                        Some(why) => self.directory.doubt(&reply, from, why, now),
                    }
                }
            }
            Some(Message::Discovery(page)) if page.cid != cid => self.directory.announced(&page, from.ip(), now),
            // The main stream; the others are for somebody else.
            Some(Message::TimeCode(what))
                if what.stream == 0
                    && !self.is_own(from.ip())
                    && AddressBlock::allow(&self.time_code_from, from.ip())
                    && self.time_code.lets(from.ip(), now) =>
            {
                self.status.time_code = Some(Timed { what, from: from.ip(), at: now });
            }
            Some(Message::Trigger(what)) => self.status.trigger = Some(Timed { what, from: from.ip(), at: now }),
            _ => {}
        }
        false
    }

    /// Ends a window of counted packets. Where packets were lost in it, or left unread, its time does not count: nobody falls
    /// silent while nobody listens.
    fn end_window(&mut self, now: f64) {
        let dropped = self.receiver.take_dropped();
        self.senders.drop(dropped);
        if dropped > 0 || self.window.1 >= A_WINDOW {
            if now - self.deaf > FLOOD_OVER {
                self.deaf_since = now;
            }
            self.deaf = now;
        }
        if self.is_deaf(now) {
            let span = (now - self.window.0).min(DEAF);
            self.directory.hold(span);
            self.reception.hold(span);
            self.inputs.hold(span);
        }
        self.senders.pass_time(now);
        self.window = (now, 0);
    }

    /// True if packets were lost of late because too many came.
    fn is_deaf(&self, now: f64) -> bool {
        now - self.deaf < DEAF
    }

    /// Asks who is there: everybody on each network, and whom routes go to.
    fn poll(&mut self, routed: &[Ipv4Addr]) {
        let packet = poll::Repr { on_change: true, range: None }.emit();
        self.send_to_all(&packet, routed);
    }

    /// Sends an Art-Net packet to everybody on each network, and to single addresses, from the port of Art-Net.
    fn send_to_all(&mut self, packet: &[u8], routed: &[Ipv4Addr]) {
        let port = artnet::PORT;
        let mut reached = Vec::new();
        for interface in self.interfaces.iter().filter(|i| i.up && !i.loopback) {
            if let (Some(own), Some(broadcast)) = (interface.v4, interface.broadcast) {
                let to = SocketAddr::from((broadcast, port));
                let _ = self.receiver.send_from(&SocketAddr::from((own, port)), packet, to);
                reached.push(interface.clone());
            }
        }
        if let Some(own) = self.loopback {
            let to = SocketAddr::from((LOOPBACK_BROADCAST, port));
            let _ = self.receiver.send_from(&SocketAddr::from((own, port)), packet, to);
        }
        // What lies behind a router does not hear a broadcast.
        let missed = routed.iter().filter(|to| !to.is_loopback() && reached.iter().all(|i| !i.reaches(**to)));
        let first = reached.first().and_then(|i| i.v4);
        for to in missed {
            if let Some(own) = first {
                let _ = self.receiver.send_from(&SocketAddr::from((own, port)), packet, SocketAddr::from((*to, port)));
            }
        }
    }

    /// Says who we are: a controller without ports.
    fn answer(&self, own: SocketAddr, to: SocketAddr, name: &str) {
        let IpAddr::V4(ask) = to.ip() else { return };
        let mine = self.interfaces.iter().find(|i| i.reaches(ask)).and_then(|i| i.v4).or(self.loopback);
        let address = mine.unwrap_or(Ipv4Addr::LOCALHOST);
        let reply = poll_reply::Repr {
            address,
            version: 1,
            oem: poll_reply::OEM_UNKNOWN,
            short_name: "Splimo",
            long_name: name,
            report: "#0001 [0000] sending",
            switch: 0,
            ports: Default::default(),
            port_count: 0,
            style: Style::Controller,
            mac: [0; 6],
            bind_address: address,
            bind_index: 1,
            refresh_rate: 0,
        };
        let from = SocketAddr::from((address, artnet::PORT));
        let from = if self.receiver.listens(&from) { from } else { own };
        // The reply goes to the port of Art-Net, wherever the question came from.
        let _ = self.receiver.send_from(&from, &reply.emit(), SocketAddr::new(to.ip(), artnet::PORT));
    }

    /// Tells what we send (E1.31, section 8), on each interface through which it leaves.
    fn announce(&mut self, outgoing: &super::Outgoing) {
        for (name, universes) in &outgoing.announced {
            let interface = name.as_ref().and_then(|name| self.interfaces.iter().find(|i| i.name == *name));
            let outlets: Vec<Outlet> = match (name, interface) {
                (Some(_), Some(interface)) => vec![Outlet { interface: Some(interface.clone()), v6: false }],
                (Some(_), None) => continue,
                (None, _) => {
                    let leading = self.interfaces.iter().filter(|i| i.up && i.v4.is_some());
                    leading.map(|i| Outlet { interface: Some(i.clone()), v6: false }).collect()
                }
            };
            let to = SocketAddr::from((sacn::multicast(DISCOVERY_UNIVERSE), sacn::PORT));
            let pages = discovery::pages(outgoing.identity.cid, &outgoing.identity.name, universes);
            for outlet in outlets {
                if let Ok(socket) = socket::open(&outlet) {
                    pages.iter().for_each(|page| drop(socket.send_to(page, to)));
                }
            }
        }
    }

    /// The universes that come in, for screens.
    fn received(&self, cid: [u8; 16]) -> Vec<Received> {
        let told = self.reception.universes().filter(|(.., u)| !u.arbiter().sources().is_empty()).take(MOST_TOLD);
        told.map(|(protocol, number, universe)| {
            let watched = self.watched == Some((protocol, number));
            Received {
                protocol,
                universe: number,
                rate: universe.rate,
                counts: (universe.frames, universe.bytes, universe.lost),
                gap_ms: universe.gap_ms(),
                changed: universe.changed,
                sources: sources(universe, protocol, cid),
                slots: if watched { universe.slots.to_vec() } else { Vec::new() },
            }
        })
        .collect()
    }
}

fn sources(universe: &Universe, protocol: Protocol, cid: [u8; 16]) -> Vec<SourceSeen> {
    let arbiter = universe.arbiter();
    let wins = |id: SourceId| arbiter.winners().any(|w| w.id == id);
    let seen = arbiter.sources().iter().map(|source| SourceSeen {
        address: source.address,
        name: source.name.clone(),
        priority: (protocol == Protocol::Sacn || source.priority != USUAL_PRIORITY).then_some(source.priority),
        wins: wins(source.id),
        own: source.id == SourceId::Cid(cid),
    });
    seen.collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_wire::artnet::poll_reply::{OEM_UNKNOWN, Port, Repr};

    #[test]
    fn made_up_answers_do_not_make_us_send_far_away() {
        let mut directory = Directory::default();
        let near = (1..=60).map(|last| Ipv4Addr::new(10, 0, 1, last));
        for address in near.chain([Ipv4Addr::new(203, 0, 113, 9)]) {
            let mut ports = [Port::default(); 4];
            ports[0].output = Some(7);
            let reply = Repr {
                address,
                version: 1,
                oem: OEM_UNKNOWN,
                short_name: "",
                long_name: "",
                report: "",
                switch: 0,
                ports,
                port_count: 1,
                style: Style::Node,
                mac: [0; 6],
                bind_address: address,
                bind_index: 1,
                refresh_rate: 0,
            };
            directory.answered(&reply, address, 0.0);
        }
        let interface = Interface {
            name: "eth0".into(),
            index: 2,
            v4: Some(Ipv4Addr::new(10, 0, 1, 99)),
            netmask: Some(Ipv4Addr::new(255, 255, 255, 0)),
            broadcast: None,
            v6: None,
            up: true,
            link: true,
            loopback: false,
        };
        let takers = takers(&directory, &[interface], &[], 1.0);
        assert_eq!(takers[&7].len(), MOST_TAKERS);
        assert!(takers[&7].iter().all(|address| address.octets()[0] == 10));
    }
}
