//! Inputs in the real program, with the stand-ins that ship: a pad controller, desks and nodes. One test for each thing that a person
//! does with them.

mod desk;

use std::net::{Ipv4Addr, UdpSocket};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use desk::{Desk, PATIENCE, on_tier};

const SHOW: &str = r##"version = 1
name = "Inputs"
settings = { dither = false, lands = "now", fade_beats = 0.0, tempo = 120.0, strobe_limit = 0 }
[[palette]]
name = "Foam"
colours = ["#204080"]
[[fixtures]]
name = "Bar"
profile = "rgb"
address = "1.1"
shape = { line = { cells = 4 } }
x = 10.0
y = 5.0
[[looks]]
name = "red"
[[looks.layers]]
effect = "solid"
params = { colours = ["#ff0000"] }
[[looks]]
name = "green"
[[looks.layers]]
effect = "solid"
params = { colours = ["#00ff00"] }
[[looks]]
name = "blue"
[[looks.layers]]
effect = "solid"
params = { colours = ["#0000ff"] }
[[tiers]]
name = "base"
[[tiers]]
name = "top"
[rotation]
without = ["red", "green", "blue"]
"##;

/// The inputs of a controller on a pipe.
const BOX: &str = r#"
[[inputs]]
name = "box"
kind = "midi"
address = "PIPE"
controller = "quay-16"
feedback = "PIPE.lit"
on = true
"#;

/// A choice by value at a desk.
const DESK: &str = r#"
[[inputs]]
name = "NAME"
kind = "KIND"
address = "UNIVERSE"
on = true
priority = PRIORITY
silent_after = 1.0
[[bindings]]
source = "NAME"
event = "slot 1"
bands = [
    { from = 0, do = ["release-tier top"] },
    { from = 1, do = ["fire-look top/green"] },
    { from = 128, do = ["fire-look top/blue"] },
]
"#;

fn at_desk(name: &str, kind: &str, universe: u16, priority: u8) -> String {
    let text = DESK.replace("NAME", name).replace("KIND", kind).replace("UNIVERSE", &universe.to_string());
    text.replace("PRIORITY", &priority.to_string())
}

/// A universe that no other test sends.
fn universe(number: u16) -> u16 {
    10_000 + (std::process::id() % 2000) as u16 * 10 + number
}

/// Opens a show at a desk.
fn open(name: &str, more: &str) -> Desk {
    let desk = Desk::new(name);
    let pipe = desk.state.path().join("box").display().to_string();
    let show = format!("{SHOW}{}", more.replace("PIPE", &pipe));
    std::fs::write(desk.state.path().join("inputs.splimo"), show).expect("written");
    desk.start("", "open inputs.splimo --look red");
    desk.wait("the show", |s| s.contains("PLAY") && on_tier(s, "base") == "red");
    desk
}

/// A stand-in controller beside a desk, on a terminal of its own.
fn controller(desk: &Desk, name: &str) -> Desk {
    let pads = desk.beside(name);
    let pipe = desk.state.path().join("box").display().to_string();
    pads.start("", &format!("sim midi --pipe {pipe}"));
    pads.wait("somebody to listen", |s| s.contains("somebody listens"));
    pads
}

/// A stand-in desk that follows lines. It ends with this.
struct Sim(Child);

impl Sim {
    fn desk(desk: &Desk, arguments: &[&str], script: &str) -> Self {
        static COUNT: std::sync::atomic::AtomicUsize = std::sync::atomic::AtomicUsize::new(0);
        let number = COUNT.fetch_add(1, std::sync::atomic::Ordering::Relaxed);
        let path = desk.state.path().join(format!("script-{number}"));
        std::fs::write(&path, script).expect("written");
        let mut command = Command::new(env!("CARGO_BIN_EXE_splimo"));
        command.args(["sim", "desk"]).args(arguments).arg("--headless").arg("--script").arg(&path);
        command.env("XDG_STATE_HOME", desk.state.path()).stdout(Stdio::null());
        Self(command.spawn().expect("it runs"))
    }
}

impl Drop for Sim {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

#[test]
fn a_pad_is_learnt_in_two_keys_and_a_press_and_fired_by_it() {
    let desk = open("learn-pad", BOX);
    let pads = controller(&desk, "learn-pad-box");
    desk.keys(&["C-k"]);
    desk.wait("the question", |s| s.contains("press the pad that a control is to fire"));
    desk.keys(&["2"]);
    desk.wait("to learn", |s| s.contains("LEARNING fire-pad 2"));
    pads.keys(&["q"]);
    desk.wait("what was learnt", |s| s.contains("box note 40 channel 1 is bound to fire-pad 2, as a button"));
    assert_eq!(on_tier(&desk.screen(), "base"), "red", "what is learnt from does nothing else");
    // A press that comes before the controller has let go of the first is none.
    for _ in 0..100 {
        if on_tier(&desk.screen(), "base") == "green" {
            break;
        }
        pads.wait("it to be let go", |s| s.contains("q · 40"));
        pads.keys(&["q"]);
        std::thread::sleep(Duration::from_millis(300));
    }
    desk.wait("the pad", |s| on_tier(s, "base") == "green");
    // The binding is seen, and can be taken back.
    desk.keys(&["F7", "Tab", "Tab"]);
    desk.wait("the binding", |s| s.contains("note 40") && s.contains("pad 2: green") && s.contains("held"));
    desk.keys(&["C-z"]);
    desk.wait("it to be gone", |s| s.contains("No bindings yet"));
    // Who does not want to learn any more backs out.
    desk.keys(&["F6", "C-k", "3"]);
    desk.wait("to learn", |s| s.contains("LEARNING fire-pad 3"));
    desk.keys(&["Escape"]);
    desk.wait("not to", |s| !s.contains("LEARNING"));
    desk.leave();
}

#[test]
fn a_fader_is_learnt_on_a_tier_and_takes_over_softly() {
    let desk = open("learn-fader", BOX);
    let pads = controller(&desk, "learn-fader-box");
    desk.keys(&["Tab", "C-k"]);
    desk.wait("to learn", |s| s.contains("LEARNING tier-level"));
    pads.keys(&["Up", "Up", "Up", "Up", "Up", "Up", "Up"]);
    desk.wait("what was learnt", |s| {
        s.contains("box control 1 channel 1 is bound to tier-level") && s.contains("as a fader")
    });
    let level = |percent: &str| {
        let output = desk.splimo(&["do", "tier-level", "base", percent]);
        assert!(output.status.success(), "{output:?}");
    };
    // The tier that is chosen is the lowest: it is at 80 when the fader is far below.
    level("80");
    desk.keys(&["F7", "Tab"]);
    desk.wait("the motor to follow", |s| s.contains("inputs") && s.contains("box"));
    pads.wait("the motor", |s| s.contains("fader 1") && s.contains("102"));
    // A hand on it moves it from there.
    pads.keys(&["Down"]);
    desk.wait("the level", |s| s.contains("tier-level base 77.17"));
    desk.leave();
}

#[test]
fn a_desk_picks_looks_by_the_value_of_one_channel_by_both_protocols_and_rests_at_nought() {
    for (kind, universe) in [("art-net", universe(1)), ("sacn", universe(2))] {
        let desk = open(&format!("choice-{kind}"), &at_desk("desk A", kind, universe, 100));
        let script = "0 slot 1 0\n1 slot 1 60\n3 slot 1 200\n5 slot 1 0\n600 wait\n";
        let _sim = Sim::desk(&desk, &["--protocol", kind, "--universe", &universe.to_string()], script);
        desk.wait("the first", |s| on_tier(s, "top") == "green");
        desk.wait("the second", |s| on_tier(s, "top") == "blue");
        desk.wait("it to rest", |s| on_tier(s, "top") != "blue" && on_tier(s, "top") != "green");
        assert_eq!(on_tier(&desk.screen(), "base"), "red");
        desk.keys(&["F7", "Tab"]);
        desk.wait("it on the page", |s| s.contains("desk A") && s.contains("slot 1") && s.contains("in charge"));
        desk.leave();
    }
}

#[test]
fn the_bands_of_a_choice_are_moved_beside_the_value_that_comes_in() {
    let universe = universe(9);
    let desk = open("bands", &at_desk("desk A", "art-net", universe, 100));
    let number = universe.to_string();
    let at = |value: u8| {
        let script = format!("0 slot 1 {value}\n600 wait\n");
        Sim::desk(&desk, &["--protocol", "art-net", "--universe", &number], &script)
    };
    let first = at(100);
    desk.wait("the first", |s| on_tier(s, "top") == "green");
    desk.keys(&["F7", "Tab", "Tab", "e"]);
    desk.wait("the bands", |s| s.contains("now 100") && s.contains("●       1-127  top/green"));
    desk.keys(&["Down", "Down", "S-Left", "S-Left", "S-Left"]);
    desk.wait("the edge", |s| s.contains("●      98-255  top/blue"));
    desk.keys(&["Enter"]);
    desk.wait("them to close", |s| !s.contains("now 100"));
    drop(first);
    let _second = at(101);
    desk.keys(&["F6"]);
    desk.wait("the second", |s| on_tier(s, "top") == "blue");
    desk.leave();
}

#[test]
fn a_controller_comes_with_bindings_and_a_program_is_started_where_that_is_allowed() {
    let desk = open("model", BOX);
    let pads = controller(&desk, "model-box");
    desk.keys(&["F7", "Tab", "m"]);
    desk.wait("its bindings", |s| s.contains("21 bindings of Quay 16 are box's now") && s.contains("pad 2"));
    pads.keys(&["2"]);
    desk.keys(&["F6"]);
    desk.wait("the second pad", |s| on_tier(s, "base") == "green");
    // A program is named, is not allowed yet, and is started once it is.
    let mark = desk.state.path().join("mark");
    desk.keys(&["F7", "Tab", "Tab", "Tab", "a"]);
    desk.wait("the form", |s| s.contains("a new program"));
    desk.tmux(&["send-keys", "-t", "desk", "-l", "Fog"]);
    desk.keys(&["Down", "Down"]);
    desk.tmux(&["send-keys", "-t", "desk", "-l", "touch"]);
    desk.keys(&["Down"]);
    desk.tmux(&["send-keys", "-t", "desk", "-l", &mark.display().to_string()]);
    desk.keys(&["Enter"]);
    desk.wait("it in the list", |s| s.contains("not allowed on this machine") && s.contains("Fog"));
    desk.keys(&["Enter"]);
    desk.wait("a refusal", |s| s.contains("may not be started on this machine"));
    assert!(!mark.exists());
    desk.keys(&["x"]);
    desk.wait("it to be allowed", |s| s.contains("this machine may start them"));
    desk.keys(&["Enter"]);
    let start = Instant::now();
    while !mark.exists() {
        assert!(start.elapsed() < PATIENCE, "it was not started:\n{}", desk.screen());
        std::thread::sleep(std::time::Duration::from_millis(20));
    }
    desk.leave();
}

#[test]
fn of_two_desks_the_one_of_the_higher_priority_has_it_until_it_is_silent_and_then_the_fallback() {
    let (high, low) = (universe(3), universe(4));
    let shows = format!("{}{}", at_desk("high", "sacn", high, 150), at_desk("low", "sacn", low, 100));
    let desk = open("two-desks", &shows);
    let of = |universe: u16| universe.to_string();
    let first = Sim::desk(&desk, &["--universe", &of(low)], "0 slot 1 60\n600 wait\n");
    desk.wait("the low one", |s| on_tier(s, "top") == "green");
    let second = Sim::desk(&desk, &["--universe", &of(high)], "0 slot 1 200\n4 silent\n20 back\n600 wait\n");
    desk.wait("the high one", |s| on_tier(s, "top") == "blue");
    drop(first);
    desk.wait("the low one to be silent", |s| s.contains("low has been silent"));
    assert_eq!(on_tier(&desk.screen(), "top"), "blue", "it was in charge of nothing any more");
    desk.wait("the high one to be silent", |s| s.contains("high has been silent") && on_tier(s, "top") != "blue");
    desk.wait("the high one to be back", |s| on_tier(s, "top") == "blue");
    desk.wait("no trouble to be left of it", |s| !s.contains("input high:"));
    drop(second);
    desk.leave();
}

#[test]
fn a_desk_plays_splimo_as_a_fixture() {
    let universe = universe(5);
    let layout = format!(
        "[[inputs]]\nname = \"desk\"\nkind = \"sacn\"\naddress = \"{universe}\"\non = true\nremote = {{ layout = \"compact\", first = 101 }}\n"
    );
    let desk = open("layout", &layout);
    let script =
        "0 slot 101 255\n0 slot 106 0\n1 slot 104 10\n2 slot 101 128\n4 slot 102 255\n6 slot 102 0\n600 wait\n";
    let _sim = Sim::desk(&desk, &["--universe", &universe.to_string()], script);
    desk.wait("a look", |s| on_tier(s, "base") == "blue");
    desk.wait("the master", |s| s.contains("master  50"));
    desk.wait("blackout", |s| s.contains("BLACKOUT"));
    desk.wait("light", |s| !s.contains("BLACKOUT"));
    let drawn = desk.splimo(&["draw", "inputs.splimo", "--what", "remote", "--out", "remote.csv"]);
    assert!(drawn.status.success(), "{drawn:?}");
    let table = std::fs::read_to_string(desk.state.path().join("remote.csv")).expect("a table");
    assert!(table.contains("slot 104,look of base,9,12,blue"), "{table}");
    desk.leave();
}

#[test]
fn the_pads_of_a_controller_show_what_they_do() {
    let bound = "[[bindings]]\nsource = \"box\"\nevent = \"note 37\"\nanswer = \"held\"\ndo = [\"hold-pad 2\"]\nlet_go = [\"let-pad-go 2\"]\n";
    let desk = open("feedback", &format!("{BOX}{bound}"));
    let pads = controller(&desk, "feedback-box");
    pads.wait("dark pads", |s| s.contains("2 · 37"));
    pads.keys(&["2"]);
    desk.wait("the pad", |s| on_tier(s, "base") == "green");
    pads.wait("a lit pad", |s| s.contains("2 ● 37"));
    desk.keys(&["1"]);
    pads.wait("a dark pad", |s| s.contains("2 · 37"));
    desk.leave();
}

#[test]
fn values_leave_for_the_picture_of_somebody_else_in_three_orders_and_ranges() {
    let pid = std::process::id();
    let address = Ipv4Addr::new(127, 128, (pid / 250 % 250) as u8, (pid % 250 + 2) as u8);
    let node = UdpSocket::bind((address, 6454)).expect("a node's port");
    node.set_read_timeout(Some(PATIENCE)).expect("a socket");
    let more = format!(
        "[[values_out]]\nwhat = \"colour Foam\"\nto = \"dmx 2.1\"\norder = \"grb\"\n\
         [[values_out]]\nwhat = \"control 1\"\nto = \"dmx 2.11\"\nrange = \"word\"\n\
         [[values_out]]\nwhat = \"light Bar / 1\"\nto = \"dmx 2.21\"\norder = \"bgr\"\nrange = \"percent\"\n\
         [[routes]]\nname = \"Theirs\"\nuniverses = \"2\"\nprotocol = \"art-net\"\nunchanged = \"repeat\"\nto = \"{address}\"\nfirst = 0\n"
    );
    let desk = open("values-out", &more);
    assert!(desk.splimo(&["do", "control", "1", "50"]).status.success());
    let wanted = |slots: &[u8]| {
        slots[..3] == [0x40, 0x20, 0x80] && slots[10..12] == [0x80, 0x00] && slots[20..23] == [0, 0, 100]
    };
    let (start, mut packet) = (Instant::now(), [0; 2048]);
    loop {
        assert!(start.elapsed() < PATIENCE, "they do not arrive");
        let length = node.recv(&mut packet).expect("frames arrive");
        if let Ok(data) = splimo_wire::parse(&packet[..length])
            && wanted(data.slots)
        {
            break;
        }
    }
    desk.leave();
}

#[test]
fn a_show_may_have_keys_of_its_own() {
    let bound = "[[bindings]]\nsource = \"keys\"\nevent = \"key F10\"\ndo = [\"fire-look top/blue\"]\n\
                 [[bindings]]\nsource = \"keys\"\nevent = \"key x\"\ndo = [\"release-tier top\"]\n";
    let desk = open("own-keys", bound);
    desk.keys(&["F10"]);
    desk.wait("the look", |s| on_tier(s, "top") == "blue");
    // On every view, but not where one types.
    desk.keys(&["F3", "C-p", "x"]);
    desk.wait("what was typed", |s| s.contains("› x"));
    desk.keys(&["Escape", "F6"]);
    desk.wait("the stage", |s| s.contains("PLAY") && on_tier(s, "top") == "blue");
    desk.keys(&["x"]);
    desk.wait("it to go", |s| on_tier(s, "top") != "blue");
    desk.leave();
}

#[test]
fn a_demo_can_be_played_with_the_controller_that_stands_in() {
    let desk = Desk::new("demo-pads");
    desk.start("", "demo --audio none --with-screen");
    desk.wait("the demo", |s| s.contains("PLAY") && s.contains("Lantern Quay"));
    let pads = desk.beside("demo-pads-box");
    pads.start("", "sim midi");
    pads.wait("somebody to listen", |s| s.contains("somebody listens"));
    pads.keys(&["3"]);
    desk.wait("the third pad to be armed or on", |s| {
        s.contains("Undertow") && (s.contains("⟨Undertow") || on_tier(s, "base") == "Undertow")
    });
    pads.wait("it to be lit", |s| s.contains("3 ◐ 38") || s.contains("3 ● 38"));
    desk.leave();
}
