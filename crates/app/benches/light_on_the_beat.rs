//! The distance of a flash from its click: a track of clicks comes in through a pipe in real time, as from a sound card, and a
//! node on loopback notes when packets come. One light flashes on what is heard, one on the beat that was predicted.
//! `cargo bench -p splimo --bench light_on_the_beat`; it takes a minute and a half.

use std::io::Write;
use std::net::UdpSocket;
use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

use splimo_document::file;
use splimo_runtime::Runtime;
use splimo_runtime::sound::SoundSource;

const RATE: usize = 48_000;
/// Samples that a sound card hands over at once: 5 ms.
const PIECE: usize = 240;
/// No whole number of frames, so that clicks fall anywhere between them.
const BPM: f64 = 127.0;
const SECONDS: f64 = 40.0;
/// The time for getting used to the clicks, in seconds.
const SETTLED: f64 = 12.0;
const NODE: &str = "127.94.7.1:6454";

fn main() {
    // Built along with the tests: only asked for by name it runs.
    if !std::env::args().any(|argument| argument == "--bench") {
        return;
    }
    for fps in [44.0, 100.0] {
        let [onset, beat] = measure(fps);
        println!("{fps} frames a second");
        tell("  flash on what is heard", &onset);
        tell("  flash on the predicted beat", &beat);
    }
}

fn tell(what: &str, late: &[f64]) {
    let mut sorted: Vec<f64> = late.iter().map(|late| late * 1000.0).collect();
    sorted.sort_by(f64::total_cmp);
    let at = |share: f64| sorted.get(((sorted.len() as f64 * share) as usize).min(sorted.len().max(1) - 1)).copied();
    let mut off: Vec<f64> = sorted.iter().map(|late| late.abs()).collect();
    off.sort_by(f64::total_cmp);
    let p95 = off.get((off.len() as f64 * 0.95) as usize).copied().unwrap_or(f64::NAN);
    let [least, median, most] = [0.0, 0.5, 1.0].map(|share| at(share).unwrap_or(f64::NAN));
    println!(
        "{what}: {} flashes, {least:+.1} .. {median:+.1} .. {most:+.1} ms after the click, p95 {p95:.1} ms off",
        off.len()
    );
}

fn show(fps: f64) -> String {
    let light = |n: u32, on: &str| {
        let fixture = format!(
            "[[fixtures]]\nname = \"Light {n}\"\nprofile = \"rgb\"\naddress = \"{n}.1\"\nx = {n}0.0\ny = 10.0\nshape = {{ line = {{ cells = 4 }} }}\n"
        );
        let layer = format!(
            "[[looks.layers]]\neffect = \"pulse\"\ntarget = [\"Light {n}\"]\nparams = {{ on = \"{on}\", decay = 0.25, colours = [\"#ffffff\", \"#000000\"] }}\n"
        );
        (fixture, layer)
    };
    let [(a, la), (b, lb)] = [light(1, "onset"), light(2, "beat")];
    format!(
        "version = 1\nname = \"Click\"\n[settings]\nrate = {fps:.1}\n{a}{b}[[looks]]\nname = \"Flash\"\n{la}{lb}[[routes]]\nname = \"Node\"\nuniverses = \"1-2\"\nprotocol = \"art-net\"\nto = \"127.94.7.1\"\nidle = \"repeat\"\n"
    )
}

/// A click, from its beginning on, in seconds.
fn click(since: f64) -> f32 {
    if !(0.0..0.03).contains(&since) {
        return 0.0;
    }
    let fade = (-since * 120.0).exp();
    (0.6 * fade * ((since * 1_100.0 * std::f64::consts::TAU).sin() + (since * 210.0 * std::f64::consts::TAU).sin()))
        as f32
}

/// Plays clicks into a pipe until it is told to stop; returns when the first sample was heard.
fn play(path: &Path, stop: Arc<AtomicBool>) -> Instant {
    let mut pipe = std::fs::OpenOptions::new().write(true).open(path).expect("somebody listens");
    let began = Instant::now();
    std::thread::spawn(move || {
        for piece in 0.. {
            let samples = (piece * PIECE..(piece + 1) * PIECE).map(|sample| {
                let time = sample as f64 / RATE as f64;
                click(time.rem_euclid(60.0 / BPM))
            });
            let bytes: Vec<u8> = samples.flat_map(f32::to_le_bytes).collect();
            let due = began + Duration::from_secs_f64(((piece + 1) * PIECE) as f64 / RATE as f64);
            std::thread::sleep(due.saturating_duration_since(Instant::now()));
            if stop.load(Ordering::Relaxed) || pipe.write_all(&bytes).is_err() {
                return;
            }
        }
    });
    began
}

/// The delays of the first packets of its two flashes after each click.
fn measure(fps: f64) -> [Vec<f64>; 2] {
    let folder = tempfile::tempdir().expect("a folder");
    let pipe = folder.path().join("clicks");
    nix::unistd::mkfifo(&pipe, nix::sys::stat::Mode::S_IRWXU).expect("a pipe");
    let node = UdpSocket::bind(NODE).expect("a node");
    node.set_read_timeout(Some(Duration::from_millis(200))).expect("a limit");
    let show = file::read(&show(fps)).expect("a good show").show;
    let source = SoundSource::parse(&format!("raw:{},48000,1,f32", pipe.display())).expect("a source");
    let (runtime, _outlook) = Runtime::start(&Arc::new(show), source).expect("it starts");
    runtime.cut_to(0);
    let stop = Arc::new(AtomicBool::new(false));
    let began = play(&pipe, stop.clone());
    let mut late = [Vec::new(), Vec::new()];
    let mut before = [0u8; 2];
    let mut bytes = [0u8; 1024];
    while began.elapsed().as_secs_f64() < SECONDS {
        let Ok(count) = node.recv(&mut bytes) else { continue };
        // ArtDmx: the universe is in bytes 14 and 15, the first slot in byte 18 (Art-Net 4).
        if count < 19 || &bytes[..10] != b"Art-Net\0\x00\x50" || bytes[14] > 1 {
            continue;
        }
        let now = began.elapsed().as_secs_f64();
        let (light, level) = (usize::from(bytes[14]), bytes[18]);
        if level > before[light].saturating_add(40) && now > SETTLED {
            let since = (now * BPM / 60.0 + 0.5).rem_euclid(1.0) - 0.5;
            late[light].push(since * 60.0 / BPM);
        }
        before[light] = level;
    }
    stop.store(true, Ordering::Relaxed);
    runtime.stop();
    late
}
