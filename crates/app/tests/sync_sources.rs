//! Others who lead the clock, as a running show follows them: MIDI clock out of a pipe, OSC from the network.

use std::fs::OpenOptions;
use std::io::Write;
use std::net::{SocketAddr, UdpSocket};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

use splimo_engine::ClockState;
use splimo_runtime::inputs::Following;
use splimo_runtime::sound::SoundSource;
use splimo_runtime::{Outlook, Runtime};
use splimo_show::command::EngineCommand;
use splimo_show::{Input, InputKind, Show};
use splimo_time::sync::SyncSource;
use splimo_time::tempo::ClockSource;

const PATIENCE: Duration = Duration::from_secs(60);

fn follow(runtime: &Runtime, kind: InputKind, what: &str) -> Following {
    let input = Input { on: true, ..Input::new("theirs", kind, what) };
    Following::start(runtime.follower(&Arc::new(input), &Arc::default())).expect("it follows")
}

fn led_by(leader: SyncSource) -> (Runtime, Outlook) {
    let mut show = Show::empty("Led");
    show.settings.sync_source = leader;
    Runtime::start(&Arc::new(show), SoundSource::Silence).expect("it starts")
}

fn wait(what: &str, outlook: &mut Outlook, done: impl Fn(&ClockState) -> bool) {
    let start = Instant::now();
    while !done(&outlook.published.read().snapshot.clock) {
        assert!(start.elapsed() < PATIENCE, "waited in vain for {what}: {:?}", outlook.published.read().snapshot.clock);
        std::thread::sleep(Duration::from_millis(5));
    }
}

/// Does something so many times a second, until it is told to stop.
fn again_and_again(rate: f64, stop: Arc<AtomicBool>, mut work: impl FnMut() + Send + 'static) {
    std::thread::spawn(move || {
        let start = Instant::now();
        let mut count = 0.0;
        while !stop.load(Ordering::Relaxed) {
            work();
            count += 1.0;
            let left = Duration::from_secs_f64(count / rate).saturating_sub(start.elapsed());
            std::thread::sleep(left);
        }
    });
}

/// Within what a busy machine makes of it.
fn near(clock: &ClockState, source: ClockSource, bpm: f32) -> bool {
    clock.source == source && (clock.bpm / bpm - 1.0).abs() < 0.06
}

#[test]
fn midi_clock_leads_from_start_to_stop_and_from_the_place_it_goes_to() {
    let folder = tempfile::tempdir().expect("a folder");
    let pipe = folder.path().join("midi");
    nix::unistd::mkfifo(&pipe, nix::sys::stat::Mode::S_IRWXU).expect("a pipe");
    let (runtime, mut outlook) = led_by(SyncSource::Midi);
    let _followed = follow(&runtime, InputKind::Midi, &pipe.to_string_lossy());
    // Waits until somebody reads.
    let mut machine = OpenOptions::new().write(true).open(&pipe).expect("somebody reads");
    let stop = Arc::new(AtomicBool::new(false));
    let mut clocks = machine.try_clone().expect("the same pipe");
    machine.write_all(&[0xfa]).expect("written");
    again_and_again(60.0, stop.clone(), move || clocks.write_all(&[0xf8]).expect("written"));
    wait("its tempo", &mut outlook, |clock| near(clock, ClockSource::Midi, 150.0));
    // To beat 128, which begins a phrase.
    machine.write_all(&[0xf2, 0x00, 0x04, 0xfb]).expect("written");
    wait("its place", &mut outlook, |clock| (128.0..140.0).contains(&clock.beat));
    stop.store(true, Ordering::Relaxed);
    machine.write_all(&[0xfc]).expect("written");
    // Which tempo that is hangs on how evenly a busy machine sent the last pulses.
    wait("the last tempo to be held", &mut outlook, |clock| clock.source == ClockSource::Held && clock.bpm > 0.0);
    runtime.stop();
}

#[test]
fn osc_tells_the_tempo_the_beats_and_taps_and_nonsense_is_told_of() {
    let (runtime, mut outlook) = led_by(SyncSource::Osc);
    let (sender, own) = (UdpSocket::bind("127.0.0.1:0").expect("a socket"), SocketAddr::from(([127, 93, 1, 1], 9093)));
    let _followed = follow(&runtime, InputKind::Osc, &own.to_string());
    let send = |bytes: &[u8]| assert_eq!(sender.send_to(bytes, own).expect("sent"), bytes.len());
    send(b"/splimo/tempo\0\0\0,f\0\0\x43\x0c\0\0");
    wait("a tempo", &mut outlook, |clock| near(clock, ClockSource::Osc, 140.0));
    // Beats every 0.4 s, from the fourth bar on.
    let (stop, mut number) = (Arc::new(AtomicBool::new(false)), 12i32);
    let beats = sender.try_clone().expect("the same socket");
    again_and_again(2.5, stop.clone(), move || {
        let bytes = [b"/splimo/beat\0\0\0\0,i\0\0".as_slice(), &number.to_be_bytes()].concat();
        beats.send_to(&bytes, own).expect("sent");
        number += 1;
    });
    wait("the beats", &mut outlook, |clock| near(clock, ClockSource::Osc, 150.0) && clock.beat > 15.0);
    stop.store(true, Ordering::Relaxed);
    send(b"/splimo/stop\0\0\0\0,\0\0\0");
    wait("it to stand", &mut outlook, |clock| near(clock, ClockSource::Held, 150.0));
    send(b"no OSC at all");
    let start = Instant::now();
    while !runtime.troubles().list().iter().any(|t| t.subject == "theirs" && t.message.contains("127.0.0.1")) {
        assert!(start.elapsed() < PATIENCE, "nobody says that it was not understood");
    }
    // A tap by hand takes over, whatever the setting.
    runtime.apply(&EngineCommand::Tempo(100.0));
    wait("the hand", &mut outlook, |clock| near(clock, ClockSource::Set, 100.0));
    runtime.stop();
}
