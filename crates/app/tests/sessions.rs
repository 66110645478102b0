//! Sessions and their screens as processes: screens that are killed, stopped and closed, and lights that run on.

mod desk;

use std::net::Ipv4Addr;
use std::path::PathBuf;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use desk::{Desk, PATIENCE, send_signal};
use nix::sys::signal::Signal;
use splimo::standin::node::{Node, NodeSpec};
use splimo_wire::Protocol;

const LIGHT: &str = r##"version = 1
name = "Night"
[[fixtures]]
name = "Bar"
profile = "rgb"
address = "1.1"
shape = { line = { cells = 100 } }
x = 50.0
y = 10.0
[[looks]]
name = "White"
[[looks.layers]]
effect = "gradient"
params = { colours = ["#ffffff", "#ff8000"], speed = "2 s" }
[[looks]]
name = "Red"
[[looks.layers]]
effect = "solid"
params = { colours = ["#ff0000"] }
[[routes]]
name = "Box"
universes = "1-1"
protocol = "art-net"
first = 0
unchanged = "repeat"
"##;

/// A show at a desk whose only universe goes to a node of this test.
struct Night {
    desk: Desk,
    node: Node,
    show: PathBuf,
}

impl Night {
    fn new(name: &str, last: u8) -> Self {
        let node =
            Node::start(NodeSpec { ports: vec![0], ..NodeSpec::at(Ipv4Addr::new(127, 96, 1, last)) }).expect("free");
        let desk = Desk::new(name);
        let show = desk.state.path().join("night.splimo");
        std::fs::write(&show, format!("{LIGHT}to = \"{}\"\n", node.address())).expect("writes");
        Self { desk, node, show }
    }

    fn open(name: &str, last: u8) -> Self {
        let night = Self::new(name, last);
        night.desk.start("", "open night.splimo");
        night.desk.wait("the show", |s| s.contains("PLAY") && s.contains("White"));
        night.wait_for_frames(10);
        night
    }

    /// Frames that arrived, and frames that were lost.
    fn frames(&self) -> (u64, u64) {
        self.node.reception().universe(Protocol::ArtNet, 0).map_or((0, 0), |u| (u.frames, u.lost))
    }

    fn slots(&self) -> Vec<u8> {
        self.node.reception().universe(Protocol::ArtNet, 0).map_or_else(Vec::new, |u| u.slots.to_vec())
    }

    fn wait_for_frames(&self, more: u64) {
        let (frames, start) = (self.frames().0, Instant::now());
        while self.frames().0 < frames + more {
            assert!(start.elapsed() < PATIENCE, "no light comes");
            std::thread::sleep(Duration::from_millis(5));
        }
    }

    /// Watches the light for a while: as many frames come as there have to be, and none is lost.
    fn is_lit(&self, what: &str) {
        let ((before, _), start) = (self.frames(), Instant::now());
        std::thread::sleep(Duration::from_secs(1));
        let ((frames, lost), seconds) = (self.frames(), start.elapsed().as_secs_f64());
        let came = (frames - before) as f64;
        assert_eq!(lost, 0, "{what}: frames were lost");
        // A machine whose neighbours take half of it makes fewer; one that waits for a screen makes next to none.
        assert!(came > 15.0 * seconds, "{what}: {came} frames in {seconds} s");
    }
}

fn wait(what: &str, mut done: impl FnMut() -> bool) {
    let start = Instant::now();
    while !done() {
        assert!(start.elapsed() < PATIENCE, "waited in vain for {what}");
        std::thread::sleep(Duration::from_millis(10));
    }
}

#[test]
fn a_screen_that_is_killed_stopped_or_closed_costs_no_frame_and_another_goes_on() {
    let night = Night::open("killed", 2);
    let desk = &night.desk;
    // Something to come back to: the view Looks, an edit that can be taken back, and one that is blind.
    desk.keys(&["F4"]);
    desk.wait("the looks", |s| s.contains("LOOKS"));
    desk.keys(&["Down", "d"]);
    desk.wait("a copy", |s| s.contains("Red 2") && s.contains("Night *"));
    let screen = desk.pid();
    assert!(send_signal(Signal::SIGKILL, screen));
    night.is_lit("its screen was killed");

    desk.sit_down_anew();
    let start = Instant::now();
    desk.start("", "attach night");
    desk.wait("the same view", |s| s.contains("LOOKS") && s.contains("Red 2") && s.contains("Night *"));
    assert!(start.elapsed() < Duration::from_secs(10), "it took {:?}", start.elapsed());
    desk.keys(&["C-z"]);
    desk.wait("the edit taken back", |s| !s.contains("Red 2") && s.contains("taken back"));

    // One that hangs holds nothing up; the next is let in beside it.
    let hanging = desk.pid();
    assert!(send_signal(Signal::SIGSTOP, hanging));
    night.is_lit("its screen hangs");
    let other = desk.beside("killed-other");
    other.start("", "attach");
    other.wait("the same view", |s| s.contains("LOOKS") && !s.contains("Red 2"));
    night.is_lit("another screen is attached");
    // It goes on where its shell lets it: what the shell wrote over it is gone.
    desk.tmux(&["send-keys", "-t", "desk", "f", "g", "C-j"]);
    desk.wait("the same view", |s| s.contains("LOOKS") && !s.contains("Stopped"));
    desk.keys(&["F6"]);
    desk.wait("the screen that hung", |s| s.contains("PLAY"));
    // A terminal that is closed takes its screen along, and nothing else.
    desk.tmux(&["kill-server"]);
    night.is_lit("a terminal was closed");
    wait("the screen of the closed terminal to go", || desk.sessions().iter().all(|(_, _, screens)| *screens == 1));
    other.leave();
    wait("the end", || other.sessions().is_empty());
}

#[test]
fn three_screens_show_what_one_of_them_does() {
    let night = Night::open("three", 3);
    let (two, three) = (night.desk.beside("three-2"), night.desk.beside("three-3"));
    // Opening what runs joins it, by whatever way the file is named.
    two.start(
        "",
        &format!("open ./../{}/night.splimo", night.desk.state.path().file_name().unwrap_or_default().display()),
    );
    three.start("", "open night.splimo");
    for desk in [&two, &three] {
        desk.wait("the show", |s| s.contains("PLAY") && s.contains("White"));
    }
    assert_eq!(night.desk.sessions().iter().map(|(_, _, screens)| *screens).collect::<Vec<_>>(), [3]);
    two.keys(&["-", "-"]);
    three.keys(&["F2"]);
    three.wait("the rig", |s| s.contains("RIG"));
    three.keys(&["Down", "d"]);
    three.wait("a copy", |s| s.contains("Bar 1"));
    night.desk.wait("both", |s| s.contains("master  90") && s.contains("Night *"));
    night.desk.keys(&["F2"]);
    night.desk.wait("the copy", |s| s.contains("Bar 1"));
    // Who asks to leave is told that there are others.
    two.keys(&["C-q"]);
    two.wait("who ends with it", |s| s.contains("2 other screens are attached"));
    two.keys(&["r"]);
    two.wait("what to do now", |s| s.contains("the show runs on as the session night"));
    night.is_lit("one screen left");
    night.desk.leave();
    three.wait("the end", |s| s.contains("splimo: the show was ended"));
}

#[test]
fn a_show_runs_once_and_says_where() {
    let night = Night::open("once", 4);
    let again = night.desk.splimo(&["run", night.show.to_str().expect("a path"), "--for", "1s"]);
    assert_eq!(again.status.code(), Some(1));
    let words = String::from_utf8_lossy(&again.stderr).into_owned();
    assert!(words.contains("runs already, as the session night") && words.contains("splimo attach night"), "{words}");
    // Neither can another session save over it.
    let other = night.desk.beside("once-other");
    other.start("", "open other.splimo");
    other.wait("an empty show", |s| s.contains("RIG"));
    let refused = night.desk.splimo(&["do", "--session", "other", "save-as", "night.splimo"]);
    assert_eq!(refused.status.code(), Some(1));
    assert!(String::from_utf8_lossy(&refused.stderr).contains("runs already"), "{refused:?}");
    let ambiguous = night.desk.splimo(&["do", "go"]);
    assert!(String::from_utf8_lossy(&ambiguous.stderr).contains("night, other"), "{ambiguous:?}");
}

#[test]
fn without_a_terminal_it_plays_on_and_ends_when_it_is_told_to() {
    let night = Night::new("nohup", 5);
    let mut command = Command::new("nohup");
    command.arg(env!("CARGO_BIN_EXE_splimo")).arg("run").arg(&night.show);
    command.env("XDG_STATE_HOME", night.desk.state.path()).env("XDG_RUNTIME_DIR", night.desk.state.path().join("run"));
    let mut child = command.stdout(Stdio::null()).stderr(Stdio::null()).spawn().expect("nohup");
    night.wait_for_frames(10);
    assert!(send_signal(Signal::SIGHUP, child.id()));
    night.is_lit("its terminal went away");

    // Commands come in from the command line, and their outcome is told.
    assert!(night.slots().iter().any(|slot| *slot > 0));
    let done = night.desk.splimo(&["do", "blackout"]);
    assert!(done.status.success(), "{done:?}");
    wait("darkness", || night.slots().iter().all(|slot| *slot == 0));
    assert!(night.desk.splimo(&["do", "blackout"]).status.success());
    assert!(night.desk.splimo(&["do", "cut-to", "Red"]).status.success());
    wait("red light", || night.slots().chunks(3).take(100).all(|rgb| rgb == [255, 0, 0]));
    for (words, code, why) in [
        (["do", "fire-look", "Nobody"], 1, "there is no look \"Nobody\""),
        (["do", "master", "loud"], 2, "\"loud\" is no percent"),
        (["do", "frobnicate", "1"], 2, "there is no command \"frobnicate\"; `splimo do --help` lists all"),
        (["do", "fire-pat", "1"], 2, "fire-pad may be meant"),
    ] {
        let output = night.desk.splimo(&words);
        assert_eq!(output.status.code(), Some(code), "{words:?}");
        assert!(String::from_utf8_lossy(&output.stderr).contains(why), "{words:?}: {output:?}");
    }

    // A screen may come and go.
    night.desk.start("", "attach");
    night.desk.wait("the show", |s| s.contains("PLAY"));
    night.desk.tmux(&["send-keys", "-t", "desk", "C-c", "C-c"]);
    night.desk.wait("what to do now", |s| s.contains("the show runs on"));
    assert!(night.desk.splimo(&["do", "end"]).status.success());
    wait("the end", || child.try_wait().expect("it is ours").is_some_and(|status| status.success()));
    let nobody = night.desk.splimo(&["do", "go"]);
    assert_eq!(nobody.status.code(), Some(1));
    assert!(String::from_utf8_lossy(&nobody.stderr).contains("no session runs"), "{nobody:?}");
}

#[test]
fn a_session_that_is_to_end_with_its_screen_does() {
    let desk = Desk::new("with-screen");
    desk.start("", "demo --with-screen --audio none");
    desk.wait("the demo", |s| s.contains("PLAY"));
    assert_eq!(desk.sessions().len(), 1);
    assert!(send_signal(Signal::SIGKILL, desk.pid()));
    wait("the end of the session", || desk.sessions().is_empty());
}

#[test]
fn sessions_are_listed_as_the_contract_says() {
    let night = Night::open("listed", 6);
    let output = night.desk.splimo(&["sessions", "--json"]);
    let list: serde_json::Value = serde_json::from_slice(&output.stdout).expect("one JSON document");
    let session = list[0].as_object().expect("an object");
    assert_eq!(
        session.keys().map(String::as_str).collect::<Vec<_>>(),
        ["name", "show", "pid", "since", "screens", "night_log"]
    );
    assert_eq!((session["name"].as_str(), session["screens"].as_u64()), (Some("night"), Some(1)));
    assert_eq!(session["show"].as_str().map(PathBuf::from), night.show.canonicalize().ok());
    let words = String::from_utf8_lossy(&night.desk.splimo(&["sessions"]).stdout).into_owned();
    assert!(words.starts_with("night") && words.contains("1 screen"), "{words}");
    // Its socket is for nobody else.
    let socket = night.desk.state.path().join("run/splimo/night.sock");
    let mode = std::os::unix::fs::MetadataExt::mode(&std::fs::metadata(&socket).expect("a socket"));
    assert_eq!(mode & 0o777, 0o600);
}
