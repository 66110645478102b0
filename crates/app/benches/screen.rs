//! The cost of a screen, in bytes to its terminal and time of the processor, view by view, at 158x48 in truecolour while everything
//! moves; and how long a key, or `splimo do`, takes to the packet that it causes, also behind a line of 30 kB/s.
//! `script/measure-screen` runs it in three minutes; behind it may stand `traffic`, `keys` or `do`, for these alone.

use std::fs::File;
use std::io::{Read, Write};
use std::net::{Ipv4Addr, UdpSocket};
use std::os::fd::OwnedFd;
use std::process::{Child, Command, Stdio};
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};
use std::time::{Duration, Instant};

use nix::pty::{Winsize, openpty};
use nix::sys::signal::{Signal, kill};
use nix::unistd::Pid;
use splimo::standin::node::{Node, NodeSpec};

/// Each view with the bytes of its key (xterm's control sequences).
const VIEWS: [(&str, &[u8]); 5] =
    [("rig", b"\x1bOQ"), ("output", b"\x1bOR"), ("looks", b"\x1bOS"), ("play", b"\x1b[17~"), ("inputs", b"\x1b[18~")];
const SETTLED: Duration = Duration::from_secs(3);
const MEASURED: Duration = Duration::from_secs(10);
const PRESSES: usize = 50;
/// The slow line, in bytes a second.
const SLOW: u64 = 30_000;
/// Clock ticks of the processor in a second, as in /proc (proc(5)).
const TICKS: f64 = 100.0;

fn main() {
    // Built along with the tests: only asked for by name it runs.
    if !std::env::args().any(|argument| argument == "--bench") {
        return;
    }
    let folder = tempfile::tempdir().expect("a folder");
    let nodes = [3, 4].map(|last| Node::start(NodeSpec::at(Ipv4Addr::new(127, 85, 1, last))).expect("free"));
    let socket = UdpSocket::bind("127.85.1.2:6454").expect("a node's port");
    let parts: Vec<String> = std::env::args().skip(1).filter(|argument| !argument.starts_with('-')).collect();
    let wanted = |part: &str| parts.is_empty() || parts.iter().any(|wanted| wanted == part);
    if wanted("traffic") {
        traffic(folder.path());
    }
    for (name, rate) in [("a fast terminal", u64::MAX), ("a terminal that takes 30 kB/s", SLOW)] {
        if wanted("keys") {
            presses(folder.path(), &socket, name, rate, b"");
        }
    }
    if wanted("keys") {
        // Ctrl-P opens the palette, into which one types.
        presses(folder.path(), &socket, "a fast terminal, while the palette is open", u64::MAX, b"\x10");
    }
    if wanted("do") {
        commands(folder.path(), &socket);
    }
    drop(nodes);
}

/// A terminal with the program in it.
struct Terminal {
    child: Child,
    keys: File,
    bytes: Arc<AtomicU64>,
}

impl Terminal {
    /// Opens the show in a terminal that takes at most `rate` bytes a second.
    fn open(folder: &std::path::Path, rate: u64) -> Self {
        let text = include_str!("../../../shows/lantern-quay.splimo").replace("127.0.0.", "127.85.1.");
        let path = folder.join("quay.splimo");
        std::fs::write(&path, text).expect("writes");
        std::fs::create_dir_all(folder.join("run")).expect("a folder");
        let size = Winsize { ws_row: 48, ws_col: 158, ws_xpixel: 0, ws_ypixel: 0 };
        let pty = openpty(&size, None).expect("a terminal");
        let end = |fd: &OwnedFd| Stdio::from(fd.try_clone().expect("the same"));
        let mut command = Command::new(env!("CARGO_BIN_EXE_splimo"));
        command.arg("open").arg(&path).args(["--audio", "set", "--with-screen"]);
        command.env("XDG_STATE_HOME", folder).env("XDG_RUNTIME_DIR", folder.join("run"));
        command.env("COLORTERM", "truecolor").env("TERM", "xterm-256color");
        command.stdin(end(&pty.slave)).stdout(end(&pty.slave)).stderr(end(&pty.slave));
        let child = command.spawn().expect("it runs");
        let (keys, bytes) = (File::from(pty.master), Arc::new(AtomicU64::new(0)));
        let (mut shown, count) = (keys.try_clone().expect("the same"), bytes.clone());
        std::thread::spawn(move || {
            let began = Instant::now();
            let mut buffer = vec![0; if rate == u64::MAX { 1 << 16 } else { 256 }];
            while let Ok(read @ 1..) = shown.read(&mut buffer) {
                let all = count.fetch_add(read as u64, Ordering::Relaxed) + read as u64;
                if rate != u64::MAX {
                    let due = Duration::from_secs_f64(all as f64 / rate as f64);
                    // What was not used up to now is lost, as on a line.
                    if due > began.elapsed() {
                        std::thread::sleep(Duration::from_secs_f64(read as f64 / rate as f64));
                    }
                }
            }
        });
        Self { child, keys, bytes }
    }

    fn press(&mut self, key: &[u8]) {
        self.keys.write_all(key).expect("the terminal is there");
    }

    /// The time that the program has used the processor, in seconds.
    fn busy(&self) -> f64 {
        let stat = std::fs::read_to_string(format!("/proc/{}/stat", self.child.id())).expect("it runs");
        let after = stat.rsplit(')').next().unwrap_or_default();
        let field = |n: usize| after.split_whitespace().nth(n).and_then(|word| word.parse::<f64>().ok()).unwrap_or(0.0);
        (field(11) + field(12)) / TICKS
    }
}

impl Drop for Terminal {
    fn drop(&mut self) {
        let _ = kill(Pid::from_raw(self.child.id() as i32), Signal::SIGTERM);
        let _ = self.child.wait();
        // The session ends with its screen.
        std::thread::sleep(Duration::from_millis(600));
    }
}

fn traffic(folder: &std::path::Path) {
    println!("traffic and processor of a screen of 158x48 in truecolour");
    let mut terminal = Terminal::open(folder, u64::MAX);
    std::thread::sleep(SETTLED);
    for (name, key) in VIEWS {
        terminal.press(key);
        std::thread::sleep(SETTLED);
        let (bytes, busy, began) = (terminal.bytes.load(Ordering::Relaxed), terminal.busy(), Instant::now());
        std::thread::sleep(MEASURED);
        let seconds = began.elapsed().as_secs_f64();
        let sent = (terminal.bytes.load(Ordering::Relaxed) - bytes) as f64 / seconds / 1000.0;
        println!("  {name:<8} {sent:6.1} kB/s  {:5.2} % of a core", (terminal.busy() - busy) / seconds * 100.0);
    }
}

/// Receives a packet: true if all slots of the first universe are 0, none if it is another packet (ArtDmx: the universe is in
/// bytes 14 and 15, the first slot in byte 18; Art-Net 4).
fn dark(socket: &UdpSocket) -> Option<bool> {
    let mut packet = [0; 600];
    let count = socket.recv(&mut packet).ok()?;
    let light = count > 18 && &packet[..10] == b"Art-Net\0\x00\x50" && packet[14] == 0 && packet[15] == 0;
    light.then(|| packet[18..count].iter().all(|slot| *slot == 0))
}

fn wait_for(socket: &UdpSocket, wanted: bool) {
    while dark(socket) != Some(wanted) {}
}

/// Blacks out again and again on the view that sends the most, after some first keys, and measures how long it takes to the first dark packet.
fn presses(folder: &std::path::Path, socket: &UdpSocket, name: &str, rate: u64, first: &[u8]) {
    let mut terminal = Terminal::open(folder, rate);
    std::thread::sleep(SETTLED);
    terminal.press(first);
    let mut times = Vec::new();
    for press in 0..PRESSES {
        wait_for(socket, false);
        // Not in step with frames.
        std::thread::sleep(Duration::from_millis(300 + 7 * press as u64 % 50));
        socket.set_nonblocking(true).expect("a socket");
        while socket.recv(&mut [0; 600]).is_ok() {}
        socket.set_nonblocking(false).expect("a socket");
        let pressed = Instant::now();
        terminal.press(b"`");
        wait_for(socket, true);
        times.push(pressed.elapsed().as_secs_f64() * 1000.0);
        std::thread::sleep(Duration::from_millis(300));
        terminal.press(b"`");
    }
    tell(&format!("key to packet behind {name}"), times);
}

fn tell(what: &str, mut times: Vec<f64>) {
    times.sort_by(f64::total_cmp);
    let at = |share: f64| times[((times.len() as f64 * share) as usize).min(times.len() - 1)];
    println!("{what}: p50 {:.1} ms, p95 {:.1} ms, most {:.1} ms", at(0.5), at(0.95), at(1.0));
}

/// Blacks out by `splimo do` again and again: how long from the start of that process to the first dark packet.
fn commands(folder: &std::path::Path, socket: &UdpSocket) {
    let _terminal = Terminal::open(folder, u64::MAX);
    std::thread::sleep(SETTLED);
    let blackout = || {
        let mut command = Command::new(env!("CARGO_BIN_EXE_splimo"));
        command.env("XDG_STATE_HOME", folder).env("XDG_RUNTIME_DIR", folder.join("run"));
        let began = Instant::now();
        assert!(command.args(["do", "blackout"]).status().expect("it runs").success());
        (began, Instant::now())
    };
    let (mut whole, mut after) = (Vec::new(), Vec::new());
    for press in 0..PRESSES {
        wait_for(socket, false);
        std::thread::sleep(Duration::from_millis(100 + 7 * press as u64 % 50));
        socket.set_nonblocking(true).expect("a socket");
        while socket.recv(&mut [0; 600]).is_ok() {}
        socket.set_nonblocking(false).expect("a socket");
        let watch = socket.try_clone().expect("the same");
        let dark = std::thread::spawn(move || {
            wait_for(&watch, true);
            Instant::now()
        });
        let (began, done) = blackout();
        let dark = dark.join().expect("it comes");
        whole.push((dark - began).as_secs_f64() * 1000.0);
        after.push(dark.saturating_duration_since(done).as_secs_f64() * 1000.0);
        blackout();
    }
    tell("`splimo do blackout` to the dark packet, with the start of the process", whole);
    tell("`splimo do blackout` to the dark packet, after it has answered", after);
}
