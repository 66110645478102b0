//! Cues in the real program: keys go in through tmux, and what arrives at a node is read; and a box that nobody attends.

mod desk;

use std::io::Read;
use std::net::{Ipv4Addr, UdpSocket};
use std::os::unix::net::UnixDatagram;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

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

/// A node that hears one universe.
struct Node {
    address: Ipv4Addr,
    socket: UdpSocket,
}

impl Node {
    fn new(number: u8) -> Self {
        let pid = std::process::id();
        let address = Ipv4Addr::new(127, 130 + number, (pid / 250 % 250) as u8, (pid % 250 + 2) as u8);
        let socket = UdpSocket::bind((address, 6454)).expect("a node's port");
        socket.set_read_timeout(Some(Duration::from_secs(1))).expect("a socket");
        Self { address, socket }
    }

    /// The red of the first light in the next frame, if one comes.
    fn red(&self) -> Option<u8> {
        let mut packet = [0; 2048];
        let length = self.socket.recv(&mut packet).ok()?;
        splimo_wire::parse(&packet[..length]).ok().map(|data| data.slots[0])
    }

    /// Drops what has come until now.
    fn drain(&self) {
        self.socket.set_nonblocking(true).expect("a socket");
        while self.socket.recv(&mut [0; 2048]).is_ok() {}
        self.socket.set_nonblocking(false).expect("a socket");
    }

    /// So many values of the light, each another than the one before and there for two frames at the least.
    fn changes(&self, count: usize) -> Vec<u8> {
        let (start, mut seen, mut last) = (Instant::now(), Vec::new(), None);
        self.drain();
        while seen.len() < count {
            assert!(start.elapsed() < PATIENCE, "waited in vain for changes after {seen:?}");
            let red = self.red();
            if let Some(red) = red.filter(|_| red == last && seen.last().copied() != red) {
                seen.push(red);
            }
            last = red;
        }
        seen
    }

    /// Waits until the light has been the same for a while, and not dark.
    fn stays(&self, what: &str, long: Duration) -> u8 {
        let start = Instant::now();
        let (mut last, mut since) = (None, Instant::now());
        self.drain();
        loop {
            let red = self.red().filter(|red| *red > 0);
            if red.is_none() || red != last {
                (last, since) = (red, Instant::now());
            }
            if let Some(red) = last.filter(|_| since.elapsed() >= long) {
                return red;
            }
            assert!(start.elapsed() < PATIENCE, "waited in vain for {what}; the last was {red:?}");
        }
    }

    /// Waits until the light is as wanted.
    fn arrives(&self, what: &str, wanted: impl Fn(u8) -> bool) -> u8 {
        let start = Instant::now();
        self.drain();
        loop {
            let red = self.red();
            if let Some(red) = red.filter(|red| wanted(*red)) {
                return red;
            }
            assert!(start.elapsed() < PATIENCE, "waited in vain for {what}; the last was {red:?}");
        }
    }
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

#[test]
fn a_pattern_is_written_played_from_a_pad_and_copied_without_its_colours() {
    let node = Node::new(3);
    let desk = Desk::new("patterns");
    let white =
        "[[looks]]\nname = \"white\"\n[[looks.layers]]\neffect = \"solid\"\nparams = { colours = [\"#ffffff\"] }\n";
    std::fs::write(desk.state.path().join("p.splimo"), show(node.address, white)).expect("written");
    desk.start("", "open p.splimo --audio none --look white");
    desk.wait("the show", |s| s.contains("PLAY"));
    let write = |text: &str| {
        desk.tmux(&["send-keys", "-t", "desk", "-l", text]);
    };
    desk.keys(&["F5", "Tab", "Tab", "Tab", "Tab"]);
    desk.wait("the patterns", |s| s.contains("There is no pattern yet"));
    desk.keys(&["T"]);
    desk.wait("the form", |s| s.contains("a new pattern"));
    write("Steps");
    desk.keys(&["Down"]);
    write("2");
    desk.keys(&["Enter"]);
    desk.wait("the pattern", |s| s.contains("Steps   2 bars, grid 1/16"));
    // A level on each of eight beats, and none of them like another.
    desk.keys(&["L", "Enter", "G", "G", "G", "G"]);
    desk.wait("the grid", |s| s.contains("grid 1/4 "));
    let levels = [100u32, 20, 80, 10, 60, 30, 90, 50];
    for level in levels {
        desk.keys(&["e"]);
        desk.wait("the form of an event", |s| s.contains("the event"));
        write(&level.to_string());
        desk.keys(&["Enter"]);
        desk.wait("the event", |s| s.contains(&format!("on {level}, 1 beats")));
        desk.keys(&["Right"]);
    }
    // A lane of colour beside it.
    desk.keys(&["L", "Right", "Enter"]);
    desk.wait("the lane", |s| s.contains("▸ colour"));
    desk.keys(&["Home", "a"]);
    desk.wait("the colour", |s| s.contains("colour all") && s.contains("bar 1.2"));
    // What leaves at each level, by itself: the pattern is played, and its beats come one after the other, over and over.
    assert!(desk.splimo(&["do", "tempo 200"]).status.success());
    desk.keys(&["m", "n"]);
    desk.wait("it to play", |s| s.contains("plays, bar"));
    let seen = node.changes(20);
    let order = |red: u8| {
        let near = |level: u32| (f64::from(level) / 100.0 * 255.0 - f64::from(red)).abs();
        (0..levels.len()).min_by(|a, b| near(levels[*a]).total_cmp(&near(levels[*b]))).expect("levels")
    };
    let places: Vec<usize> = seen.iter().map(|red| order(*red)).collect();
    for pair in places.windows(2) {
        assert_eq!(pair[1], (pair[0] + 1) % levels.len(), "{places:?} of {seen:?}");
    }
    desk.keys(&["n"]);
    node.arrives("all of the light again", |red| red == 255);
    // Its levels alone go into another pattern, and it is kept out of the rotation.
    desk.keys(&["Up", "Home", "v", "End", "c"]);
    desk.wait("what is copied", |s| s.contains("8 events of 1 lanes are copied"));
    desk.keys(&["w"]);
    desk.wait("the rotation", |s| s.contains("kept out of the rotation"));
    desk.keys(&["T"]);
    desk.wait("the form", |s| s.contains("a new pattern"));
    write("Other");
    desk.keys(&["Enter"]);
    desk.wait("the other", |s| s.contains("Other   2 of 2"));
    desk.keys(&["b"]);
    desk.wait("its lane", |s| s.contains("▸ level") && !s.contains("colour all"));
    desk.keys(&["C-s"]);
    desk.wait("that it is saved", |s| s.contains("saved as"));
    let text = std::fs::read_to_string(desk.state.path().join("p.splimo")).expect("a file");
    assert!(text.contains("without = [\"Steps\"]"), "{text}");
    assert_eq!(text.matches("[[looks.pattern.lanes]]").count() + text.matches("lanes = [").count(), 3, "{text}");
    // A pad fires it as it fires a look.
    assert!(desk.splimo(&["do", "fire-look top/Steps"]).status.success());
    node.arrives("the pattern", |red| red < 200);
    desk.leave();
}
