//! Every command of the registry, asked for in three ways: through the palette of a screen, by `splimo do`, and over the link.
//! Every command by key, by command line and by link: the same becomes of it, whoever asks.

mod desk;

use std::collections::BTreeSet;
use std::os::unix::net::UnixStream;
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use desk::{Desk, PATIENCE};
use splimo_core::command::{COMMANDS, Command};
use splimo_core::engine::Snapshot;
use splimo_core::show::file;
use splimo_link::document::{DocumentCopy, DocumentState, DraftState};
use splimo_link::frame::{self, LONGEST_UPDATE};
use splimo_link::message::{Guest, Request, Update, VERSION};

const SHOW: &str = r##"version = 1
name = "Three ways"
[settings]
lands = "now"
fade_beats = 0.0
[[fixtures]]
name = "Bar"
profile = "rgb"
address = "1.1"
shape = { line = { cells = 10 } }
x = 50.0
y = 10.0
[[groups]]
name = "Both"
members = ["Bar"]
# Nothing takes turns: when that would land hangs on when it is asked for.
[rotation]
without = ["White", "Red"]
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
        "group-level Both 50",
        "speed 0.5",
        "rotate on",
        "rotate off",
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
        "recover",
        "leave-found",
        "resume",
        "begin-anew",
        "hold-light Still",
        "trigger show 9",
        "record NAME.pcapng",
        "stop-recording",
        "pause-music",
        "seek-music 5",
        "flash-and-click",
        "flash-and-click",
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

    /// Everything that a command can change, but for what depends on when it came.
    fn state(&self) -> String {
        let known = self.known.lock().expect("it is there");
        let engine = &known.engine;
        let show = file::write(known.document.kept()).expect("it can be written");
        format!(
            "unsaved {}, blind {:?}, width {} {}\ntiers {:?}, groups {:?}, speed {}, {:?}\nmaster {:.2}, dark {}, armed {:?}, stage {:?}, walks {:?}, controls {:?}, counts {:?}\n{:.1} {:?}\n{show}",
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

#[test]
fn every_command_does_the_same_by_key_by_command_line_and_by_link() {
    let lines = asked();
    let known: BTreeSet<&str> = lines.iter().filter_map(|line| line.split(' ').next()).collect();
    let all: BTreeSet<&str> = COMMANDS.iter().map(|info| info.name).collect();
    assert_eq!(all.difference(&known).collect::<Vec<_>>(), [&"end"], "what is not tried here");

    let desk = Desk::new("three-ways");
    let names = ["keys", "do", "link"];
    let mut screens = Vec::new();
    for name in names {
        std::fs::write(desk.state.path().join(format!("{name}.splimo")), SHOW).expect("writes");
        let screen = desk.beside(&format!("three-ways-{name}"));
        screen.start("", &format!("open {name}.splimo --audio none"));
        screen.wait("the show", |s| s.contains("PLAY") && s.contains("White"));
        screens.push(screen);
    }
    let mut watchers = names.map(|name| Watcher::attach(&desk, name));
    let agree = |watchers: &[Watcher; 3], line: &str| {
        let start = Instant::now();
        loop {
            let states = [0, 1, 2].map(|at| watchers[at].state());
            if states[0] == states[1] && states[1] == states[2] {
                return;
            }
            assert!(
                start.elapsed() < Duration::from_secs(10),
                "after {line}\nby key:\n{}\nby do:\n{}\nby link:\n{}",
                states[0],
                states[1],
                states[2]
            );
            std::thread::sleep(Duration::from_millis(10));
        }
    };
    agree(&watchers, "nothing");
    for line in lines {
        let of = |name: &str| line.replace("NAME", name);
        through_the_palette(&screens[0], &of("keys"));
        let words = of("do");
        let (name, argument) = words.split_once(' ').unwrap_or((&words, ""));
        let mut arguments = vec!["do", "--session", "do", name];
        arguments.extend(Some(argument).filter(|argument| !argument.is_empty()));
        let output = desk.splimo(&arguments);
        assert!(output.status.code().is_some_and(|code| code < 2), "{line}: {output:?}");
        // The folder of a path is that of who asks; this test sits elsewhere.
        let folder = desk.state.path().display();
        let whole = match line.split(' ').next() {
            Some("save-as" | "export-patch" | "record") => of("link").replace("link", &format!("{folder}/link")),
            _ => of("link"),
        };
        watchers[2].ask(&whole);
        agree(&watchers, &line);
    }
    for name in names {
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
    let command = Box::new("end".parse().expect("a command"));
    frame::write(&mut watchers[2].stream, &Request::Command { number: 1000, command, base: None }).expect("it listens");
    for screen in &screens {
        screen.wait("the end", |s| s.contains("splimo: the show was ended"));
    }
    assert_eq!(desk.sessions(), []);
}
