//! The time from an event that comes in to the packet that it changes, for MIDI, OSC and DMX, as a node on loopback sees it; alone, and
//! while each of them brings ten thousand events a second. `cargo bench -p splimo --bench event_to_packet`; it takes two minutes.

use std::fs::{File, OpenOptions};
use std::io::Write;
use std::net::{Ipv4Addr, SocketAddr, UdpSocket};
use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

use splimo_document::file;
use splimo_runtime::session::{Session, Start};
use splimo_wire::osc::{Argument, emit};
use splimo_wire::{Data, Protocol, data_of, sacn};

/// Events that are measured of each kind.
const EVENTS: usize = 150;
/// The time that a frame may take beyond its own period, in milliseconds.
const MARGIN: f64 = 5.0;
const NODE: &str = "127.94.8.1:6454";
const OSC: &str = "127.94.8.2:9099";
const UNIVERSE: u16 = 61_234;

fn main() {
    // Built along with the tests: only asked for by name it runs.
    if !std::env::args().any(|argument| argument == "--bench") {
        return;
    }
    for fps in [44.0, 100.0] {
        for flood in [false, true] {
            measure(fps, flood);
        }
    }
}

fn show(fps: f64, pipe: &Path) -> String {
    format!(
        r##"version = 1
name = "Event to packet"
settings = {{ rate = {fps:.1}, dither = false, strobe_limit = 0 }}
[[fixtures]]
name = "Bar"
profile = "rgb"
address = "1.1"
x = 1.0
y = 1.0
shape = {{ line = {{ cells = 4 }} }}
[[looks]]
name = "white"
[[looks.layers]]
effect = "solid"
params = {{ colours = ["#ffffff"] }}
[[routes]]
name = "Node"
universes = "1"
protocol = "art-net"
unchanged = "repeat"
to = "127.94.8.1"
rate = {fps:.1}
first = 0
[[inputs]]
name = "midi"
kind = "midi"
address = "{}"
on = true
[[inputs]]
name = "osc"
kind = "osc"
address = "{OSC}"
on = true
[[inputs]]
name = "desk"
kind = "sacn"
address = "{UNIVERSE}"
on = true
[[bindings]]
source = "midi"
event = "note 1"
answer = "held"
do = ["set-blackout on"]
let_go = ["set-blackout off"]
[[bindings]]
source = "midi"
event = "control 20"
answer = "value"
do = ["control 1 {{}}"]
[[bindings]]
source = "osc"
event = "/flood"
answer = "value"
do = ["control 2 {{}}"]
[[bindings]]
source = "desk"
event = "slot 1"
answer = "held"
do = ["set-blackout on"]
let_go = ["set-blackout off"]
{}"##,
        pipe.display(),
        (100..150)
            .map(|slot| format!("[[bindings]]\nsource = \"desk\"\nevent = \"slot {slot}\"\nanswer = \"value\"\ndo = [\"control 3 {{}}\"]\n"))
            .collect::<String>()
    )
}

/// A way to have it dark, or light.
type Send = fn(&mut Senders, bool);

/// Those who send.
struct Senders {
    midi: File,
    osc: UdpSocket,
    desk: UdpSocket,
    slots: [u8; 512],
    sequence: u8,
}

impl Senders {
    fn midi(&mut self, dark: bool) {
        let bytes = if dark { [0x90, 1, 100] } else { [0x80, 1, 0] };
        self.midi.write_all(&bytes).expect("written");
    }

    fn osc(&mut self, dark: bool) {
        let packet = emit("/splimo/set-blackout", &[Argument::Flag(dark)]).expect("a packet");
        self.osc.send_to(&packet, OSC).expect("sent");
    }

    fn desk(&mut self, dark: bool) {
        self.slots[0] = if dark { 255 } else { 0 };
        send_slots(&self.desk, &self.slots, &mut self.sequence, [1; 16]);
    }
}

fn send_slots(socket: &UdpSocket, slots: &[u8; 512], sequence: &mut u8, cid: [u8; 16]) {
    *sequence = sequence.wrapping_add(1);
    let data = Data { source: Some((cid, "desk")), slots, ..data_of(Protocol::Sacn, UNIVERSE, *sequence) };
    socket.send_to(&data.emit(), (Ipv4Addr::new(127, 255, 255, 255), sacn::PORT)).expect("sent");
}

fn measure(fps: f64, flood: bool) {
    let folder = tempfile::tempdir().expect("a folder");
    let pipe = folder.path().join("midi");
    nix::unistd::mkfifo(&pipe, nix::sys::stat::Mode::S_IRWXU).expect("a pipe");
    let node = UdpSocket::bind(NODE).expect("a node's port");
    node.set_read_timeout(Some(Duration::from_millis(500))).expect("a socket");
    let show = file::read(&show(fps, &pipe)).expect("a good show").show;
    let session =
        Session::start(Start { look: Some("white".into()), ..Start::within_process(show) }).expect("it starts");
    let over = Arc::new(AtomicBool::new(false));
    let until = over.clone();
    let running = std::thread::spawn(move || session.run(|| until.load(Ordering::Relaxed)));
    let socket = || UdpSocket::bind("127.0.0.1:0").expect("a socket");
    let desk = socket();
    desk.set_broadcast(true).expect("a socket");
    let midi = OpenOptions::new().write(true).open(&pipe).expect("somebody reads");
    let mut senders = Senders { midi, osc: socket(), desk, slots: [0; 512], sequence: 0 };
    // Until the desk is heard.
    for _ in 0..100 {
        senders.desk(false);
        std::thread::sleep(Duration::from_millis(20));
    }
    let floods = if flood { start_floods(&pipe, &over) } else { Vec::new() };
    println!("{fps} frames a second{}", if flood { ", with 10,000 events a second from each source" } else { "" });
    let kinds: [(&str, Send); 3] = [("MIDI", Senders::midi), ("OSC", Senders::osc), ("DMX", Senders::desk)];
    for (name, send) in kinds {
        let mut took = Vec::new();
        let mut random = 7u32;
        for n in 0..EVENTS {
            random = random.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            let pause = Instant::now() + Duration::from_millis(40 + u64::from(random >> 24) / 6);
            while Instant::now() < pause {
                let _ = next(&node);
            }
            let dark = n % 2 == 0;
            let start = Instant::now();
            send(&mut senders, dark);
            let mut seen = next(&node);
            while seen.is_some_and(|light| (light == 0) != dark) && start.elapsed() < Duration::from_secs(2) {
                seen = next(&node);
            }
            took.push(start.elapsed().as_secs_f64() * 1000.0);
        }
        took.sort_by(f64::total_cmp);
        let at = |share: f64| took[((took.len() as f64 * share) as usize).min(took.len() - 1)];
        let limit = 1000.0 / fps + MARGIN;
        let lost = took.iter().filter(|ms| **ms > 1900.0).count();
        println!(
            "  {name:<5} p50 {:5.1}  p95 {:5.1}  most {:5.1} ms (a frame and {MARGIN} ms are {limit:.1}); {lost} lost",
            at(0.5),
            at(0.95),
            at(1.0)
        );
    }
    over.store(true, Ordering::Relaxed);
    floods.into_iter().for_each(|flood| drop(flood.join()));
    if let Ok((totals, _)) = running.join() {
        let late = totals.output.late.quantiles();
        println!("  frames late by {:.2} ms at the median, {:.2} at p99, {:.2} at most", late.p50, late.p99, late.max);
    }
}

/// The first slot of the next frame.
fn next(node: &UdpSocket) -> Option<u8> {
    let mut packet = [0; 2048];
    let count = node.recv(&mut packet).ok()?;
    Some(splimo_wire::parse(&packet[..count]).ok()?.slots[0])
}

/// Ten thousand events a second from each source, a hundred times a second a hundred of them.
fn start_floods(pipe: &Path, over: &Arc<AtomicBool>) -> Vec<std::thread::JoinHandle<()>> {
    let again = |work: Box<dyn FnMut(u32) + std::marker::Send>| {
        let (over, mut work) = (over.clone(), work);
        std::thread::spawn(move || {
            let start = Instant::now();
            for n in 0.. {
                if over.load(Ordering::Relaxed) {
                    return;
                }
                work(n);
                std::thread::sleep(
                    (start + Duration::from_millis(10) * (n + 1)).saturating_duration_since(Instant::now()),
                );
            }
        })
    };
    let mut midi = OpenOptions::new().write(true).open(pipe).expect("somebody reads");
    let (osc, desk): (UdpSocket, UdpSocket) =
        (UdpSocket::bind("127.0.0.1:0").expect("a socket"), UdpSocket::bind("127.0.0.1:0").expect("a socket"));
    desk.set_broadcast(true).expect("a socket");
    let to: SocketAddr = OSC.parse().expect("an address");
    let (mut slots, mut sequence) = ([0u8; 512], 0u8);
    vec![
        again(Box::new(move |n| {
            // Whole messages in one write: nobody else's come between.
            let bytes: Vec<u8> = (0..100).flat_map(|m| [0xb0, 20, ((n + m) % 128) as u8]).collect();
            let _ = midi.write_all(&bytes);
        })),
        again(Box::new(move |n| {
            for m in 0..100 {
                let packet = emit("/flood", &[Argument::Number(f64::from((n + m) % 100) / 100.0)]).expect("a packet");
                let _ = osc.send_to(&packet, to);
            }
        })),
        again(Box::new(move |n| {
            // Fifty slots that all change, twice; another source of the universe, whose first slot is the lower.
            for m in 0..2 {
                slots[99..149].fill((n * 2 + m) as u8);
                send_slots(&desk, &slots, &mut sequence, [2; 16]);
            }
        })),
    ]
}
