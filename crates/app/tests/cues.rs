//! Cues in the real program: keys go in through tmux, and what arrives at a node is read; and a box that nobody attends.

mod desk;

use std::io::Read;
use std::net::Ipv4Addr;
use std::os::unix::net::UnixDatagram;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use desk::node::Node;
use desk::{Desk, PATIENCE};

const SHOW: &str = r##"version = 1
name = "Cues"
settings = { dither = false, lands = "now", fade_beats = 0.0, strobe_limit = 0, cue_back_fade = 0.0 }
[[fixtures]]
name = "Bar"
profile = "rgb"
address = "1.1"
shape = { line = { cells = 4 } }
x = 10.0
y = 5.0
[[tiers]]
name = "base"
[[tiers]]
name = "top"
[[routes]]
name = "Node"
universes = "1"
protocol = "art-net"
unchanged = "repeat"
to = "NODE"
first = 0
"##;

/// The looks, each of one colour, with the red that it has.
const LOOKS: [(&str, u8); 6] = [("one", 10), ("two", 60), ("three", 110), ("four", 160), ("five", 210), ("six", 250)];

fn show(node: Ipv4Addr, more: &str) -> String {
    let looks: String = LOOKS
        .iter()
        .map(|(name, red)| {
            format!("[[looks]]\nname = \"{name}\"\n[[looks.layers]]\neffect = \"solid\"\nparams = {{ colours = [\"#{red:02x}0000\"] }}\n")
        })
        .collect();
    format!("{}{looks}{more}", SHOW.replace("NODE", &node.to_string()))
}

#[test]
fn a_list_of_five_is_built_run_recorded_stepped_moved_and_undone() {
    let node = Node::new(0);
    let desk = Desk::new("cues");
    std::fs::write(desk.state.path().join("cues.splimo"), show(node.address, "")).expect("written");
    desk.start("", "open cues.splimo --audio none --look six");
    desk.wait("the show", |s| s.contains("PLAY"));
    desk.keys(&["F5", "w"]);
    desk.wait("the form", |s| s.contains("a list of looks"));
    desk.tmux(&["send-keys", "-t", "desk", "-l", "Evening"]);
    desk.keys(&["Down", "Down"]);
    desk.tmux(&["send-keys", "-t", "desk", "-l", "one, two, three, four, five"]);
    // By hand, and without a fade, so that the node sees each as it is.
    desk.keys(&["Down", "Down", "BSpace", "BSpace", "BSpace", "Down"]);
    desk.tmux(&["send-keys", "-t", "desk", "-l", "0"]);
    desk.keys(&["Enter"]);
    desk.wait("the list", |s| s.contains("Evening") && s.contains("five") && s.contains("rests"));
    // What each look sends by itself.
    let mut alone = Vec::new();
    for (place, (name, _)) in LOOKS[..5].iter().enumerate() {
        desk.keys(&["n"]);
        desk.wait(name, |s| s.contains(&format!("■{}", place + 1)));
        let before = alone.last().copied().unwrap_or(0);
        alone.push(node.arrives(name, |red| red > before && red < 250));
    }
    desk.keys(&["u"]);
    node.arrives("four again", |red| red == alone[3]);
    desk.keys(&["Home", "g"]);
    node.arrives("one again", |red| red == alone[0]);
    desk.keys(&["C-n"]);
    node.arrives("two, by the key of every view", |red| red == alone[1]);

    // A look from elsewhere on the stage is recorded as a new cue behind the one that is on.
    assert!(desk.splimo(&["do", "cut-to base/six"]).status.success());
    let six = node.arrives("six", |red| red > alone[4]);
    desk.keys(&["c"]);
    desk.wait("the new cue", |s| s.contains("2.5") && s.contains("cue 2.5 is recorded"));
    desk.wait("that it is on", |s| s.contains("■2.5"));
    desk.keys(&["n"]);
    node.arrives("three, behind it", |red| red == alone[2]);
    desk.keys(&["u"]);
    node.arrives("the recorded one", |red| red == six);

    // Moved up by a place, it has the number of the one before.
    desk.keys(&["Home", "Down", "Down", "S-Up"]);
    desk.wait("the order", |s| {
        let row = |text: &str| s.lines().position(|line| line.contains(text));
        row(" six").is_some_and(|six| row(" two").is_some_and(|two| six < two))
    });
    desk.keys(&["C-z"]);
    desk.wait("the order as it was", |s| {
        let row = |text: &str| s.lines().position(|line| line.contains(text));
        row(" two").is_some_and(|two| row(" six").is_some_and(|six| two < six))
    });

    // Stepped by a timer of half a second, it goes round by itself.
    desk.keys(&["Tab", "e", "Down", "Down"]);
    desk.tmux(&["send-keys", "-t", "desk", "-l", "after 0.5 s"]);
    desk.keys(&["Down", "y", "Enter"]);
    desk.wait("the timer", |s| s.contains("begins again"));
    desk.keys(&["n"]);
    for (name, red) in [("four", alone[3]), ("one", alone[0]), ("four", alone[3])] {
        node.arrives(name, |now| now == red);
    }
    desk.keys(&["x"]);
    desk.wait("that it is held", |s| s.contains("held"));
    node.drain();
    let held = node.arrives("anything", |_| true);
    std::thread::sleep(Duration::from_millis(800));
    node.drain();
    assert_eq!(node.arrives("the same", |_| true), held);
    // Undone all the way, there is no list.
    desk.keys(&["C-z", "C-z", "C-z"]);
    desk.wait("nothing", |s| s.contains("There is no cue list yet"));
    desk.leave();
}

/// A list of twelve cues that goes on by itself until the seventh, and a schedule that goes on after a power cut.
fn twelve() -> String {
    let cues: String = (1..=12)
        .map(|number| {
            let (look, _) = LOOKS[number % 5];
            let then = if number < 7 { "then = \"after 0.2 s\"\n" } else { "" };
            format!("[[cue_lists.cues]]\nnumber = {number}\ntiers = [{{ tier = \"base\", look = \"{look}\" }}]\n{then}")
        })
        .collect();
    format!("[schedule]\non = true\ngo_on = true\nstart = [\"go-cue Night\"]\n[[cue_lists]]\nname = \"Night\"\n{cues}")
}

/// A box that runs a show, as a service manager would start it.
struct Box {
    child: Child,
    manager: UnixDatagram,
}

impl Box {
    fn start(desk: &Desk, folder: &Path) -> Self {
        Self::start_so(desk, folder, "", "none")
    }

    /// Starts it from a shell that does something first, with a source of sound.
    fn start_so(desk: &Desk, folder: &Path, first: &str, sound: &str) -> Self {
        let path = folder.join("manager");
        let _ = std::fs::remove_file(&path);
        let manager = UnixDatagram::bind(&path).expect("a socket");
        manager.set_read_timeout(Some(PATIENCE)).expect("a socket");
        // The shell knows the number that the program will have.
        let program = env!("CARGO_BIN_EXE_splimo");
        let line = format!("{first} WATCHDOG_PID=$$ exec {program} run night.splimo --audio {sound}");
        let mut command = Command::new("sh");
        command.env("XDG_STATE_HOME", desk.state.path()).env("XDG_RUNTIME_DIR", desk.state.path().join("run"));
        command.env("NOTIFY_SOCKET", &path).env("WATCHDOG_USEC", "2000000");
        command.args(["-c", &line]).current_dir(desk.state.path());
        let child = command.stdout(Stdio::null()).stderr(Stdio::piped()).spawn().expect("it starts");
        Self { child, manager }
    }

    /// Waits until the manager is told something.
    fn told(&self, what: &str) {
        let mut message = [0; 512];
        loop {
            let length = self.manager.recv(&mut message).expect("a message");
            if String::from_utf8_lossy(&message[..length]).contains(what) {
                return;
            }
        }
    }

    /// Ends it as a service manager does; what it said.
    fn end(mut self) -> String {
        let id = nix::unistd::Pid::from_raw(self.child.id() as i32);
        nix::sys::signal::kill(id, nix::sys::signal::Signal::SIGTERM).expect("it runs");
        let mut said = String::new();
        self.child.stderr.take().expect("its words").read_to_string(&mut said).expect("text");
        self.child.wait().expect("it ends");
        said
    }

    fn cut_off(mut self) {
        self.child.kill().expect("it runs");
        self.child.wait().expect("it ends");
    }
}

#[test]
fn a_box_starts_by_itself_tells_its_manager_and_goes_on_after_a_power_cut() {
    let node = Node::new(1);
    let desk = Desk::new("night");
    std::fs::write(desk.state.path().join("night.splimo"), show(node.address, &twelve())).expect("written");
    let first = Box::start(&desk, desk.state.path());
    first.told("READY=1");
    first.told("WATCHDOG=1");
    first.told("WATCHDOG=1");
    let folder = desk.state.path().join("splimo");
    let noted = || {
        let files = std::fs::read_dir(&folder).into_iter().flatten().flatten();
        files
            .filter(|file| file.path().extension().is_some_and(|ending| ending == "running"))
            .any(|file| std::fs::read_to_string(file.path()).is_ok_and(|text| text.contains("\"number\":7")))
    };
    let start = Instant::now();
    while !noted() {
        assert!(start.elapsed() < PATIENCE, "cue 7 is not noted");
        std::thread::sleep(Duration::from_millis(50));
    }
    let seven = node.arrives("cue 7", |red| red > 0);
    first.cut_off();
    let second = Box::start(&desk, desk.state.path());
    second.told("READY=1");
    node.arrives("cue 7 again", |red| red == seven);
    // It is there, and not on its way through the cues before.
    let output = desk.splimo(&["do", "go-cue Night"]);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    node.arrives("cue 8", |red| red > seven);
    second.cut_off();
}

/// A second route, to a name that nobody knows.
const NOWHERE: &str = r#"[[routes]]
name = "Far"
universes = "1"
protocol = "art-net"
to = "nowhere.invalid"
first = 8
"#;

#[test]
fn a_box_without_network_sound_card_and_room_on_its_disk_plays_and_says_what_is_missing() {
    let node = Node::new(2);
    let desk = Desk::new("bare");
    let text = show(node.address, &format!("{NOWHERE}{}", twelve()));
    std::fs::write(desk.state.path().join("night.splimo"), text).expect("written");
    // No file may grow, as on a full disk; the signal for it is left unheard, as the system has none for that.
    let full = "trap '' XFSZ; ulimit -f 0;";
    let bare = Box::start_so(&desk, desk.state.path(), full, "no-such-card");
    bare.told("READY=1");
    bare.told("WATCHDOG=1");
    // It goes on by itself until cue 7 and stays there.
    let seven = node.stays("cue 7", Duration::from_millis(700));
    let output = desk.splimo(&["do", "go-cue Night"]);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    node.arrives("cue 8", |red| red > seven);
    let said = bare.end();
    for missing in ["sound: there is no capture device \"no-such-card\"", "nowhere.invalid", "make room on the disk"] {
        assert!(said.contains(missing), "{missing}: {said}");
    }

    // Words that cannot be written either do not hold it up.
    let mute = format!("{full} exec 2> words;");
    let mute = Box::start_so(&desk, desk.state.path(), &mute, "no-such-card");
    mute.told("READY=1");
    assert_eq!(node.stays("cue 7 without a word", Duration::from_millis(700)), seven);
    mute.told("WATCHDOG=1");
    mute.told("WATCHDOG=1");
    mute.end();
}
