//! OSC from the network, over UDP and TCP: what tells of time leads the clock, addresses of commands ask for them, and all others are
//! events for bindings.

use std::io::{self, Read, Write};
use std::net::{SocketAddr, TcpListener, TcpStream, UdpSocket};
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::{Duration, SystemTime, UNIX_EPOCH};

use splimo_show::InputKind;
use splimo_show::command::EngineCommand;
use splimo_show::event::{Edge, EventAddress};
use splimo_time::sync::{Pulses, SyncSource};
use splimo_wire::guard::Guard;
use splimo_wire::osc::{Argument, Framed, Framing, LONGEST, Message, TempoMessage, emit, messages};

use super::osc_command::{Meaning, meaning};
use super::{Follower, InputSource, spawn};

/// The time that one waits for a packet before one looks whether one is still wanted, and tells of a tempo that lasts.
const PATIENCE: Duration = Duration::from_millis(100);
/// The same while something waits for its time.
const SHORT: Duration = Duration::from_millis(2);
/// Taps that are closer than this are no person's, in seconds.
const TAPS: f64 = 0.1;
/// Connections at a time.
const MOST_CONNECTIONS: usize = 8;
/// Messages that wait for their time at the most, and how far ahead that may lie, in seconds.
const MOST_WAITING: usize = 256;
const AHEAD: f64 = 10.0;
/// Seconds from 1900, where OSC begins to count, to 1970.
const FROM_1900: f64 = 2_208_988_800.0;
/// The beginning of the addresses that are ours.
const OURS: &str = "/splimo/";

/// OSC from the network.
pub(super) const SOURCE: InputSource = InputSource {
    kind: InputKind::Osc,
    name: "osc",
    takes: "ADDRESS:PORT",
    help: "Where OSC messages come to, such as 0.0.0.0:9000, or tcp:0.0.0.0:9000",
    check: |text| address_of(text).map(|_| ()),
    start: |follower, text| {
        let (address, tcp) = address_of(text)?;
        let failed = |e: io::Error| format!("OSC cannot be listened for at {address}: {e}; choose another port");
        if tcp {
            let listener = TcpListener::bind(address).map_err(failed)?;
            listener.set_nonblocking(true).map_err(failed)?;
            return spawn("osc", follower, move |follower| accept(follower, &listener));
        }
        let socket = UdpSocket::bind(address).map_err(failed)?;
        spawn("osc", follower, move |follower| follow(follower, &socket))
    },
};

fn address_of(text: &str) -> Result<(SocketAddr, bool), String> {
    let (plain, tcp) = text.strip_prefix("tcp:").map_or((text, false), |plain| (plain, true));
    let address =
        plain.parse().map_err(|_| "it is no address with a port; write one, such as 0.0.0.0:9000".to_owned())?;
    Ok((address, tcp))
}

/// The address that is to get the answer to a question.
#[derive(Clone)]
enum Back {
    Udp(Arc<UdpSocket>, SocketAddr),
    Tcp(Arc<TcpStream>),
}

impl Back {
    fn send(&self, bytes: &[u8]) {
        // Who does not take an answer goes without.
        match self {
            Self::Udp(socket, to) => drop(socket.send_to(bytes, to)),
            Self::Tcp(stream) => {
                let framed = [&(bytes.len() as u32).to_be_bytes(), bytes].concat();
                drop((&**stream).write_all(&framed));
            }
        }
    }
}

/// Takes the messages of one sender after the other.
struct Ear<'f> {
    follower: &'f Follower,
    pulses: Pulses,
    /// True while a tempo lasts: until there are beats. Beats have to go on.
    lasts: bool,
    last: f64,
    tapped: f64,
    /// The limits of what a sender may tell in a second, and of what it may have done at once, such as pads fired.
    told: Guard,
    done: Guard,
    /// Messages that wait for their time, with when that is.
    waiting: Vec<(f64, Message, Back)>,
}

impl<'f> Ear<'f> {
    fn new(follower: &'f Follower) -> Self {
        let pulses = Pulses::new(SyncSource::Osc, 1.0);
        let (told, done) = (Guard::messages(), Guard::triggers());
        Self { follower, pulses, told, done, lasts: false, last: f64::MIN, tapped: f64::MIN, waiting: Vec::new() }
    }

    fn take(&mut self, bytes: &[u8], from: SocketAddr, back: &Back) {
        let now = self.follower.now();
        let Ok(all) = messages(bytes) else {
            self.follower.malformed(format!("a packet from {from} is not understood: it is no OSC"));
            return;
        };
        let mut well = true;
        for message in all {
            if !self.told.lets(from.ip(), now) || (self.is_done_once(&message) && !self.done.lets(from.ip(), now)) {
                self.follower.inbox.leave_out(&self.follower.name);
                continue;
            }
            let due = message.at.map_or(now, |at| now + (at - FROM_1900 - seconds_since_1970()));
            if due > now && due < now + AHEAD && self.waiting.len() < MOST_WAITING {
                self.waiting.push((due, message, back.clone()));
            } else if let Err(why) = self.message(&message, now, back) {
                well = false;
                let address = message.address.escape_debug();
                self.follower.malformed(format!("{address} from {from} is not understood: {why}"));
            }
        }
        if well {
            self.follower.well();
        }
        self.tell();
    }

    /// True for what is done once, such as a pad that is fired: a message without a value, or a command that moves nothing.
    fn is_done_once(&self, message: &Message) -> bool {
        match message.address.strip_prefix(OURS) {
            None => message.arguments.is_empty(),
            Some(path) => match meaning(path, &message.arguments) {
                Ok(Meaning::Command(command)) => !command.is_gradual(),
                Ok(Meaning::Nothing | Meaning::Query(_)) | Err(_) => false,
            },
        }
    }

    /// Takes what has waited for its time.
    fn take_due(&mut self) {
        let now = self.follower.now();
        while let Some(place) = self.waiting.iter().position(|(due, ..)| *due <= now) {
            let (due, message, back) = self.waiting.remove(place);
            if let Err(why) = self.message(&message, due, &back) {
                self.follower.malformed(format!("{}: {why}", message.address.escape_debug()));
            }
        }
        if self.lasts {
            self.tell();
        }
    }

    fn tell(&mut self) {
        let position = self.pulses.position(self.follower.now());
        self.follower.tell(position, &mut self.last);
    }

    fn message(&mut self, message: &Message, now: f64, back: &Back) -> Result<(), String> {
        match message.tempo() {
            Ok(None) => {}
            Ok(Some(told)) => {
                self.tempo(told, now);
                return Ok(());
            }
            Err(error) => return Err(error.to_string()),
        }
        match message.address.strip_prefix(OURS) {
            Some("tap" | "stop") => Ok(()),
            Some(path) => self.command(path, &message.arguments, now, back),
            None => {
                self.events(message, now);
                Ok(())
            }
        }
    }

    fn command(&self, path: &str, arguments: &[Argument], now: f64, back: &Back) -> Result<(), String> {
        match meaning(path, arguments)? {
            Meaning::Command(command) => self.follower.ask(*command, now),
            Meaning::Nothing => {}
            Meaning::Query(command) => {
                let (back, address) = (back.clone(), format!("{OURS}{}", path.trim_end_matches('/')));
                let given: Vec<Argument> = arguments.to_vec();
                let reply = Box::new(move |reading: Option<f32>| {
                    let answer = reading.map(|number| Argument::Number(f64::from(number)));
                    let all: Vec<Argument> = given.into_iter().chain(answer).collect();
                    if let Ok(bytes) = emit(&address, &all) {
                        back.send(&bytes);
                    }
                });
                self.follower.inbox.query(&self.follower.name, command, reply);
            }
        }
        Ok(())
    }

    /// Events for bindings: one for each argument, or a press where there is none.
    fn events(&self, message: &Message, now: f64) {
        let path = &message.address;
        if message.arguments.is_empty() {
            self.follower.event(EventAddress::Osc(path.clone(), 1), 1.0, Edge::Press, now);
        }
        for (place, argument) in (1..=u8::MAX).zip(&message.arguments) {
            if let Some(number) = argument.number().filter(|number| number.is_finite()) {
                self.follower.event(EventAddress::Osc(path.clone(), place), number as f32, Edge::Value, now);
            }
        }
    }

    fn tempo(&mut self, told: TempoMessage, now: f64) {
        match told {
            TempoMessage::Beat(number) => {
                if let Some(number) = number {
                    self.pulses.seek(number);
                }
                self.pulses.run(true);
                self.pulses.pulse(now);
                self.lasts = false;
            }
            TempoMessage::Tempo(bpm) => {
                // Where OSC does not lead, it is the command of this name.
                self.follower.ask(EngineCommand::Tempo(bpm as f32).into(), now);
                self.pulses.set(now, bpm);
                self.pulses.run(true);
                self.lasts = true;
            }
            TempoMessage::Tap if now - self.tapped > TAPS => {
                self.tapped = now;
                self.follower.ask(EngineCommand::Tap.into(), now);
            }
            TempoMessage::Tap => {}
            TempoMessage::Stop => {
                self.pulses.run(false);
                (self.lasts, self.last) = (false, f64::MIN);
            }
        }
    }
}

fn seconds_since_1970() -> f64 {
    SystemTime::now().duration_since(UNIX_EPOCH).map_or(0.0, |since| since.as_secs_f64())
}

/// Follows what comes by UDP.
fn follow(follower: &Follower, socket: &UdpSocket) {
    let Ok(shared) = socket.try_clone().map(Arc::new) else { return };
    let mut ear = Ear::new(follower);
    let mut bytes = [0; LONGEST + 1];
    while !follower.stopped() {
        let patience = if ear.waiting.is_empty() { PATIENCE } else { SHORT };
        let received = socket.set_read_timeout(Some(patience)).and_then(|()| socket.recv_from(&mut bytes));
        if let Ok((count, from)) = received
            && follower.allows(from.ip())
        {
            ear.take(&bytes[..count], from, &Back::Udp(shared.clone(), from));
        }
        ear.take_due();
    }
}

/// Takes connections, each on a thread of its own.
fn accept(follower: &Follower, listener: &TcpListener) {
    let open = Arc::new(AtomicUsize::new(0));
    while !follower.stopped() {
        match listener.accept() {
            Ok((stream, from)) if follower.allows(from.ip()) && open.load(Ordering::Relaxed) < MOST_CONNECTIONS => {
                let (own, count) = (follower.clone(), open.clone());
                count.fetch_add(1, Ordering::Relaxed);
                let work = move || {
                    let _ = converse(&own, stream, from);
                    count.fetch_sub(1, Ordering::Relaxed);
                };
                if std::thread::Builder::new().name("osc tcp".into()).spawn(work).is_err() {
                    open.fetch_sub(1, Ordering::Relaxed);
                }
            }
            Ok(_) => {}
            Err(_) => follower.wait(0.02),
        }
    }
}

/// Follows one connection until it ends.
fn converse(follower: &Follower, stream: TcpStream, from: SocketAddr) -> io::Result<()> {
    stream.set_nonblocking(false)?;
    stream.set_read_timeout(Some(PATIENCE))?;
    stream.set_write_timeout(Some(PATIENCE))?;
    let shared = Arc::new(stream);
    let back = Back::Tcp(shared.clone());
    let (mut framing, mut ear, mut bytes) = (Framing::default(), Ear::new(follower), [0; 2048]);
    while !follower.stopped() {
        match (&*shared).read(&mut bytes) {
            Ok(0) => return Ok(()),
            Ok(count) => {
                for byte in &bytes[..count] {
                    match framing.byte(*byte) {
                        Framed::More => {}
                        Framed::Packet(packet) => ear.take(&packet, from, &back),
                        Framed::Lost => {
                            follower.malformed(format!("the stream from {from} is no OSC; it was ended"));
                            return Ok(());
                        }
                    }
                }
            }
            Err(error) if matches!(error.kind(), io::ErrorKind::WouldBlock | io::ErrorKind::TimedOut) => {}
            Err(error) => return Err(error),
        }
        ear.take_due();
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use std::sync::atomic::AtomicBool;

    use splimo_show::Input;

    use super::*;
    use crate::clock::Instant;
    use crate::inputs::Counts;
    use crate::inputs::inbox::{Arrival, Inbox};
    use crate::trouble::Troubles;

    fn follower() -> Follower {
        let (engine, _) = crossbeam_channel::bounded(4);
        Follower {
            input: Arc::new(Input::new("tablet", InputKind::Osc, "127.0.0.1:9000")),
            name: "tablet".into(),
            epoch: Instant::now(),
            engine,
            inbox: Arc::new(Inbox::default()),
            counts: Arc::new(Counts::default()),
            stop: Arc::new(AtomicBool::new(false)),
            troubles: Troubles::default(),
        }
    }

    #[test]
    fn a_stranger_cannot_fire_thousands_of_pads_a_second_and_a_fader_runs_on() {
        let follower = follower();
        let mut ear = Ear::new(&follower);
        let from = SocketAddr::from(([10, 0, 0, 66], 50_000));
        let back = Back::Udp(Arc::new(UdpSocket::bind("127.0.0.1:0").expect("a socket")), from);
        let packet = |address: &str, number: f64| emit(address, &[Argument::Number(number)]).expect("OSC");
        let start = follower.now();
        for i in 0..4_000 {
            ear.take(&packet("/splimo/fire-pad", f64::from(i % 30 + 1)), from, &back);
            if i % 20 == 0 {
                ear.take(&packet("/splimo/master", f64::from(i % 100)), from, &back);
            }
        }
        let seconds = (follower.now() - start).ceil() as usize + 1;
        let mut all = Vec::new();
        follower.inbox.drain(&mut all);
        let asked = |name: &str| {
            all.iter().filter(|one| matches!(one, Arrival::Ask(_, command, _) if command.name() == name)).count()
        };
        assert!(asked("fire-pad") >= 1 && asked("fire-pad") <= 40 * seconds, "{}", asked("fire-pad"));
        assert!(asked("master") > 20, "a fader has its own measure: {}", asked("master"));
        assert!(follower.inbox.left_out()["tablet"] > 1_000);
    }
}
