//! Every command of the registry, asked for in six ways: through the palette of a screen, by `splimo do`, over the link, and by inputs:
//! OSC, MIDI and DMX. The same becomes of it, whoever asks.

mod desk;

use std::collections::BTreeSet;
use std::fs::{File, OpenOptions};
use std::io::Write;
use std::net::{SocketAddr, UdpSocket};
use std::os::unix::net::UnixStream;
use std::path::PathBuf;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use desk::{Desk, PATIENCE};
use splimo_document::Command;
use splimo_document::file;
use splimo_engine::Snapshot;
use splimo_link::document::{DocumentCopy, DocumentState, DraftState};
use splimo_link::frame::{self, LONGEST_UPDATE};
use splimo_link::inputs::InputsStatus;
use splimo_link::message::{Guest, Request, Update, VERSION};
use splimo_show::Show;
use splimo_show::command::COMMANDS;
use splimo_wire::osc::{Argument, emit};
use splimo_wire::{Data, Protocol, data_of, sacn};

const SHOW: &str = r##"version = 1
name = "Three ways"
[settings]
lands = "now"
fade_beats = 0.0
# What waits for a phrase waits until it is taken back, on a slow machine too.
phrase_bars = 64
inputs_may_all = true
[[fixtures]]
name = "Bar"
profile = "rgb"
address = "1.1"
shape = { line = { cells = 10 } }
x = 50.0
y = 10.0
[[fixtures]]
name = "Gull"
profile = "moving head"
address = "1.101"
shape = { line = { cells = 1 } }
x = 60.0
y = 10.0
[[groups]]
name = "Both"
members = ["Bar"]
[[aims]]
name = "Booth"
heads = [{ fixture = "Gull", pan = 40.0, tilt = 60.0 }]
# Nothing takes turns: when that would land hangs on when it is asked for.
[rotation]
without = ["White", "Red", "Steps"]
[[timelines]]
name = "Song"
length = 60.0
clips = [{ at = 0.0, length = 40.0, tier = "base", look = "White" }]
[[cue_lists]]
name = "Opening"
[[cue_lists.cues]]
number = 1
tiers = [{ tier = "base", look = "White" }]
[[cue_lists.cues]]
number = 2
tiers = [{ tier = "base", look = "Red" }]
[[looks]]
name = "White"
[[looks.layers]]
effect = "gradient"
params = { colours = ["#ffffff"] }
[[looks]]
name = "Red"
[[looks.layers]]
effect = "solid"
params = { colours = ["#ff0000"] }
# Of one step alone: what is struck comes there, whenever that is.
[[looks]]
name = "Steps"
[looks.pattern]
bars = 1
grid = "bar"
[[looks.pattern.lanes]]
of = "level"
"##;

/// Commands as they are asked for, one after another; `NAME` is the name of the session.
fn asked() -> Vec<String> {
    let look = serde_json::to_string(&vec![("Red", &file::read(SHOW).expect("a good show").show.looks[0])]);
    let look = look.expect("it can be written");
    let lines = [
        "fire-pad 2",
        "fire-look White",
        "cut-to Red",
        "set lands phrase",
        "fire-pad 1",
        "go",
        "fire-pad 2",
        "disarm",
        "hold-pad 1",
        "let-pad-go 1",
        "next-lands phrase",
        "next-fade 2",
        "fire-pad 1",
        "push 1",
        "land 1",
        "fire-pad 2",
        "take-back 1",
        "release-tier base",
        "clear-tiers",
        "panic",
        "tier-level base 40",
        "nudge-tier base 5",
        "mute-tier base",
        "solo-tier base",
        "head-pan Gull 60",
        "head-tilt Gull 30.5",
        "nudge-pan Gull -5",
        "nudge-tilt Gull 2.5",
        "record-aim Ceiling",
        "cut-to Steps",
        "strike Steps/1",
        "cut-to Red",
        "call-aim Booth",
        "let-heads Gull",
        "let-all-heads",
        "group-level Both 50",
        "speed 0.5",
        "rotate on",
        "rotate off",
        "set cue-back-fade 0",
        "go-cue Opening",
        "go-cue Opening",
        "back-cue Opening",
        "skip-cue Opening",
        "go-to-cue Opening/2 0.1",
        "pause-cues Opening",
        "pause-cues Opening",
        "cue-goes-on Opening/1 2",
        "reset-cues Opening",
        "play-timeline Song",
        "hold-timeline Song",
        "seek-timeline Song 1",
        "stop-timeline Song",
        "record-cue Opening/7",
        "cut-to White",
        "update-cue Opening",
        "cut-to Red",
        "record-changes Opening",
        "release-cues Opening",
        "cut-to base/Red",
        "master 60",
        "nudge-master 5",
        "blackout",
        "blackout",
        "tempo 128",
        "tap",
        "tempo-times 2",
        "nudge-beat 1",
        "follow-music",
        "tempo 90",
        "next-section 1",
        "bar-here",
        "phrase-here",
        "test walk 1",
        "walk-step 2",
        "test hold 1.1 9",
        "test off",
        "control 3 50",
        "count-forward",
        "count-forward",
        "count-back",
        "count-reset",
        "centre-phase White",
        "restart-phase 1/White",
        "step-forward 1/White",
        "step-back White",
        "reset-peaks",
        "edit {\"canvas\":{\"width\":200.0,\"height\":90.0}}",
        "try-edit {\"canvas\":{\"width\":210.0,\"height\":90.0}}",
        "drop-tried",
        "set fade 4",
        "nudge fade -1",
        "undo",
        "redo",
        "edit-blind",
        "draft LOOK",
        "undo-draft",
        "redo-draft",
        "keep-drafts",
        "edit-blind",
        "drop-drafts",
        "save",
        "undo",
        "save-as NAME-too",
        "export-patch NAME.csv",
        "export-cues Opening NAME-cues.csv",
        "hear-recording Anchor Song nowhere.wav",
        "recover",
        "leave-found",
        "resume",
        "begin-anew",
        "hold-light Still",
        "trigger show 9",
        "record NAME.pcapng",
        "stop-recording",
        "forget-nodes",
        "take-theirs",
        "keep-mine",
        "pause-music",
        "seek-music 5",
        "flash-and-click",
        "flash-and-click",
        "set-blackout on",
        "set-blackout off",
        "strobe 3",
        "strobe 0",
        "colour-part 1 red 50",
        "recolour 40",
        "choose-bank 1",
        "bank-pad 2",
        "hold-bank-pad 1",
        "let-bank-pad-go 1",
        "press-key F5",
        "let-key-go F5",
        "switch-input nobody",
        "bind-model nobody",
        "learn master",
        "learn off",
        "run nobody",
        "end-run nobody",
        "allow-programs off",
    ];
    lines.iter().map(|line| line.replace("LOOK", &look)).collect()
}

/// A session as a screen knows it.
#[derive(Default)]
struct Known {
    document: DocumentCopy,
    state: DocumentState,
    drafts: DraftState,
    engine: Snapshot,
    inputs: InputsStatus,
    answers: BTreeSet<u64>,
}

/// A guest of a session, which goes on being told what becomes of it.
struct Watcher {
    stream: UnixStream,
    known: Arc<Mutex<Known>>,
    number: u64,
}

impl Watcher {
    fn attach(desk: &Desk, name: &str) -> Self {
        let mut stream =
            UnixStream::connect(desk.state.path().join(format!("run/splimo/{name}.sock"))).expect("a session");
        frame::write(&mut stream, &Request::Hello { version: VERSION, guest: Guest::Screen }).expect("it listens");
        let (known, mut reading) = (Arc::new(Mutex::new(Known::default())), stream.try_clone().expect("the same"));
        let theirs = known.clone();
        std::thread::spawn(move || {
            while let Ok(update) = frame::read::<Update>(&mut reading, LONGEST_UPDATE) {
                let mut known = theirs.lock().expect("it is there");
                match update {
                    Update::Document(update) => known.document.take(*update).expect("it fits"),
                    Update::State(state) => known.state = *state,
                    Update::Drafts(drafts) => known.drafts = *drafts,
                    Update::Engine(engine) => known.engine = *engine,
                    Update::Inputs(inputs) => known.inputs = *inputs,
                    Update::Answer { number, .. } => drop(known.answers.insert(number)),
                    _ => {}
                }
            }
        });
        Self { stream, known, number: 0 }
    }

    fn ask(&mut self, line: &str) {
        self.number += 1;
        let command: Command = line.parse().expect(line);
        let request = Request::Command { number: self.number, command: Box::new(command), base: None };
        frame::write(&mut self.stream, &request).expect("it listens");
        let start = Instant::now();
        while !self.known.lock().expect("it is there").answers.contains(&self.number) {
            assert!(start.elapsed() < PATIENCE, "no answer to {line}");
            std::thread::sleep(Duration::from_millis(2));
        }
    }

    /// Waits until an event has come in that an input was sent: so long two of them may lie in one.
    fn wait_for_event(&self, event: &str, asked: &str) {
        let start = Instant::now();
        let came = |known: &Known| {
            let mut lines = known.inputs.events.iter().rev();
            lines.any(|line| line.event == event && (asked.is_empty() || line.asked.starts_with(asked)))
        };
        while !came(&self.known.lock().expect("it is there")) {
            assert!(start.elapsed() < PATIENCE, "{event} {asked} did not come in");
            std::thread::sleep(Duration::from_millis(5));
        }
    }

    /// Everything that a command can change, but for what depends on when it came.
    fn state(&self) -> String {
        let known = self.known.lock().expect("it is there");
        let engine = &known.engine;
        // Each session has inputs and bindings of its own.
        let plain = Show { inputs: Vec::new(), bindings: Vec::new(), ..Show::clone(known.document.kept()) };
        let show = file::write(&plain).expect("it can be written");
        format!(
            "unsaved {}, blind {:?}, width {} {}\ntiers {:?}, groups {:?}, speed {}, {:?}\nmaster {:.2}, dark {}, armed {:?}, stage {:?}, walks {:?}, controls {:?}, counts {:?}, strobe {:?}\n{:.1} {:?}\n{show}",
            known.state.unsaved,
            (known.drafts.blind, known.drafts.looks.len(), known.drafts.steps),
            known.document.kept().canvas.width,
            known.document.shown().canvas.width,
            engine.tiers.iter().map(|tier| (tier.look, tier.level, tier.mute, tier.solo)).collect::<Vec<_>>(),
            engine.groups,
            engine.speed,
            engine.rotation,
            engine.master,
            engine.blackout,
            engine.next_to_land().map(|armed| (armed.wish.look, armed.boundary)),
            engine.stage.first().map(|on_stage| on_stage.look),
            engine.walked.as_ref().map(|walked| walked.at),
            engine.controls,
            engine.counts,
            (engine.strobe, engine.recolour),
            engine.clock.bpm,
            engine.clock.source,
        )
    }
}

fn through_the_palette(desk: &Desk, line: &str) {
    desk.keys(&["C-p"]);
    desk.wait("the palette", |s| s.contains("─ any action ─"));
    desk.tmux(&["send-keys", "-t", "desk", "-l", line]);
    desk.keys(&["Enter"]);
    let closed = desk.wait("its end", |s| !s.contains("─ any action ─") || s.contains("is no "));
    assert!(!closed.contains("─ any action ─"), "{line} is refused:\n{closed}");
}

/// The ways, which are the names of their sessions.
const NAMES: [&str; 6] = ["keys", "do", "link", "osc", "midi", "dmx"];

/// The name of the command of a line.
fn name_of(line: &str) -> &str {
    line.split(' ').next().unwrap_or_default()
}

/// True for what an input can ask for as well: what programs write it cannot, what a screen tries goes with that screen, and who learns
/// takes what comes next for what is to be learnt.
fn is_for_inputs(line: &str) -> bool {
    let command: Command = line.parse().expect(line);
    command.info().is_for_people() && !matches!(command.name(), "learn" | "drop-tried")
}

/// The bindings of an input: for each line an event.
fn bindings(input: &str, lines: &[String], event: impl Fn(usize) -> String) -> String {
    let bound = lines.iter().enumerate().filter(|(_, line)| is_for_inputs(line));
    bound
        .map(|(place, line)| {
            format!("[[bindings]]\nsource = \"{input}\"\nevent = \"{}\"\ndo = ['{line}']\n", event(place))
        })
        .collect()
}

struct OscSender {
    socket: UdpSocket,
    to: SocketAddr,
}

impl OscSender {
    fn new() -> Self {
        let pid = std::process::id();
        let to = SocketAddr::from(([127, 94, (pid / 250 % 250) as u8, (pid % 250 + 1) as u8], 9090));
        Self { socket: UdpSocket::bind("127.0.0.1:0").expect("a socket"), to }
    }

    fn inputs(&self) -> String {
        format!("[[inputs]]\nname = \"osc\"\nkind = \"osc\"\naddress = \"{}\"\non = true\n", self.to)
    }

    fn ask(&self, line: &str) {
        let (name, argument) = line.split_once(' ').unwrap_or((line, ""));
        let argument = match argument.parse::<f64>() {
            _ if argument.is_empty() => None,
            Ok(number) => Some(Argument::Number(number)),
            Err(_) => Some(Argument::Text(argument.to_owned())),
        };
        let packet = emit(&format!("/splimo/{name}"), argument.as_slice()).expect("a packet");
        self.socket.send_to(&packet, self.to).expect("sent");
    }
}

struct MidiSender {
    path: PathBuf,
    pipe: Mutex<Option<File>>,
}

impl MidiSender {
    fn new(desk: &Desk) -> Self {
        let path = desk.state.path().join("cable");
        nix::unistd::mkfifo(&path, nix::sys::stat::Mode::S_IRWXU).expect("a pipe");
        Self { path, pipe: Mutex::new(None) }
    }

    fn inputs(&self, lines: &[String]) -> String {
        let bound = bindings("cable", lines, |place| format!("note {} channel {}", place % 128, place / 128 + 1));
        let path = self.path.display();
        format!("[[inputs]]\nname = \"cable\"\nkind = \"midi\"\naddress = \"{path}\"\non = true\n{bound}")
    }

    fn ask(&self, place: usize) {
        let mut pipe = self.pipe.lock().expect("it is there");
        let open = || OpenOptions::new().write(true).open(&self.path).expect("somebody reads");
        let (note, channel) = ((place % 128) as u8, (place / 128) as u8);
        pipe.get_or_insert_with(open)
            .write_all(&[0x90 | channel, note, 100, 0x80 | channel, note, 0])
            .expect("written");
    }
}

/// A desk that sends its universe again and again.
struct DmxSender {
    universe: u16,
    slots: Arc<Mutex<[u8; 512]>>,
    stop: Arc<AtomicBool>,
}

impl DmxSender {
    fn new() -> Self {
        let universe = 40_000 + (std::process::id() % 20_000) as u16;
        let (slots, stop) = (Arc::new(Mutex::new([0; 512])), Arc::new(AtomicBool::new(false)));
        let (theirs, ended) = (slots.clone(), stop.clone());
        std::thread::spawn(move || {
            let socket = UdpSocket::bind("127.0.0.1:0").expect("a socket");
            socket.set_broadcast(true).expect("a socket");
            for sequence in (0..=255u8).cycle().take_while(|_| !ended.load(Ordering::Relaxed)) {
                let slots = *theirs.lock().expect("it is there");
                let data = Data {
                    source: Some(([7; 16], "desk")),
                    slots: &slots,
                    ..data_of(Protocol::Sacn, universe, sequence)
                };
                socket.send_to(&data.emit(), ("127.255.255.255", sacn::PORT)).expect("sent");
                std::thread::sleep(Duration::from_millis(20));
            }
        });
        Self { universe, slots, stop }
    }

    fn inputs(&self, lines: &[String]) -> String {
        let bound = bindings("desk", lines, |place| format!("slot {}", place + 1));
        let universe = self.universe;
        format!("[[inputs]]\nname = \"desk\"\nkind = \"sacn\"\naddress = \"{universe}\"\non = true\n{bound}")
    }

    fn ask(&self, place: usize) {
        self.slots.lock().expect("it is there")[place] = 255;
    }
}

impl Drop for DmxSender {
    fn drop(&mut self) {
        self.stop.store(true, Ordering::Relaxed);
    }
}

#[test]
fn every_command_does_the_same_by_key_by_command_line_by_link_and_by_inputs() {
    let lines = asked();
    let known: BTreeSet<&str> = lines.iter().filter_map(|line| line.split(' ').next()).collect();
    let all: BTreeSet<&str> = COMMANDS.iter().map(|info| info.name).collect();
    assert_eq!(all.difference(&known).collect::<Vec<_>>(), [&"end"], "what is not tried here");

    let desk = Desk::new("six-ways");
    let folder = desk.state.path().display().to_string();
    // The folder of a path is that of who asks; this test sits elsewhere, and inputs sit nowhere.
    let of = |line: &str, name: &str| {
        let line = line.replace("NAME", name);
        match line.split(' ').next() {
            Some("save-as" | "export-patch" | "export-cues" | "record") => {
                line.replace(name, &format!("{folder}/{name}"))
            }
            _ => line,
        }
    };
    let (osc, midi, dmx) = (OscSender::new(), MidiSender::new(&desk), DmxSender::new());
    let mut screens = Vec::new();
    for name in NAMES {
        let lines: Vec<String> = lines.iter().map(|line| of(line, name)).collect();
        let inputs = match name {
            "osc" => osc.inputs(),
            "midi" => midi.inputs(&lines),
            "dmx" => dmx.inputs(&lines),
            _ => String::new(),
        };
        std::fs::write(desk.state.path().join(format!("{name}.splimo")), format!("{SHOW}{inputs}")).expect("writes");
        let screen = desk.beside(&format!("six-ways-{name}"));
        screen.start("", &format!("open {name}.splimo --audio none"));
        screen.wait("the show", |s| s.contains("PLAY") && s.contains("White"));
        screens.push(screen);
    }
    let mut watchers = NAMES.map(|name| Watcher::attach(&desk, name));
    let agree = |watchers: &[Watcher], line: &str| {
        let start = Instant::now();
        loop {
            let states: Vec<String> = watchers.iter().map(Watcher::state).collect();
            let Some(other) = states.iter().position(|state| *state != states[0]) else { return };
            assert!(
                start.elapsed() < Duration::from_secs(10),
                "after {line}\nby {}:\n{}\nby {}:\n{}",
                NAMES[0],
                states[0],
                NAMES[other],
                states[other]
            );
            std::thread::sleep(Duration::from_millis(10));
        }
    };
    agree(&watchers, "nothing");
    for (place, line) in lines.iter().enumerate() {
        through_the_palette(&screens[0], &line.replace("NAME", "keys"));
        let words = line.replace("NAME", "do");
        let (name, argument) = words.split_once(' ').unwrap_or((&words, ""));
        let mut arguments = vec!["do", "--session", "do", name];
        arguments.extend(Some(argument).filter(|argument| !argument.is_empty()));
        let output = desk.splimo(&arguments);
        assert!(output.status.code().is_some_and(|code| code < 2), "{line}: {output:?}");
        watchers[2].ask(&of(line, "link"));
        for (at, name) in NAMES.iter().enumerate().skip(3) {
            let line = of(line, name);
            match *name {
                _ if !is_for_inputs(&line) => watchers[at].ask(&line),
                "osc" => {
                    osc.ask(&line);
                    let asked = line.parse::<Command>().expect("a command").to_string();
                    watchers[at].wait_for_event("asks for", &asked);
                }
                "midi" => {
                    midi.ask(place);
                    watchers[at].wait_for_event(&format!("note {} channel {}", place % 128, place / 128 + 1), "");
                }
                _ => {
                    dmx.ask(place);
                    watchers[at].wait_for_event(&format!("slot {}", place + 1), name_of(&line));
                }
            }
        }
        agree(&watchers, line);
    }
    for name in NAMES {
        for file in [format!("{name}-too.splimo"), format!("{name}.csv"), format!("{name}.pcapng")] {
            assert!(desk.state.path().join(&file).exists(), "{file} was not written");
        }
    }
    // The last command ends each of them. It darkens the stage, so the palette wants it to be chosen.
    screens[0].keys(&["C-p"]);
    screens[0].wait("the palette", |s| s.contains("─ any action ─"));
    screens[0].tmux(&["send-keys", "-t", "desk", "-l", "end"]);
    screens[0].keys(&["Down", "Enter"]);
    assert!(desk.splimo(&["do", "--session", "do", "end"]).status.success());
    let end = |watcher: &mut Watcher| {
        let command = Box::new("end".parse().expect("a command"));
        frame::write(&mut watcher.stream, &Request::Command { number: 1000, command, base: None }).expect("it listens");
    };
    watchers[2..].iter_mut().for_each(end);
    for screen in &screens {
        screen.wait("the end", |s| s.contains("splimo: the show was ended"));
    }
    assert_eq!(desk.sessions(), []);
}
