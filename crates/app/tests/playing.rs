//! Playing, in the real program: keys go in through tmux, and what arrives at a node is read.

mod desk;

use std::net::{Ipv4Addr, UdpSocket};
use std::time::{Duration, Instant};

use desk::{Desk, PATIENCE, on_tier};

/// Four lights on the left and four on the right; three tiers; pads in every mode. Beats come every 150 ms, bars every 600.
const SHOW: &str = r##"version = 1
name = "Playing"
settings = { dither = false, lands = "now", fade_beats = 0.0, tempo = 400.0, strobe_limit = 0, safe_look = "white" }
[[fixtures]]
name = "Left"
profile = "rgb"
address = "1.1"
shape = { line = { cells = 4 } }
x = 10.0
y = 5.0
[[fixtures]]
name = "Right"
profile = "rgb"
address = "1.13"
shape = { line = { cells = 4 } }
x = 30.0
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
name = "left blue"
[[looks.layers]]
effect = "solid"
target = ["Left"]
params = { colours = ["#0000ff"] }
[[looks]]
name = "white"
[[looks.layers]]
effect = "solid"
params = { colours = ["#ffffff"] }
[[tiers]]
name = "base"
[[tiers]]
name = "top"
[[tiers]]
name = "third"
[[banks]]
name = "All"
pads = [
    { place = 1, look = "red" },
    { place = 2, look = "left blue", plays = { tier = "top" } },
    { place = 3, look = "green", plays = { mode = "flash", beats = 4.0 } },
    { place = 4, look = "white", plays = { mode = "beats", beats = 2.0 } },
    { place = 11, look = "green", plays = { lands = "phrase" } },
    { place = 12, look = "left blue", plays = { tier = "top", lands = "phrase" } },
    { place = 13, look = "white", plays = { tier = "third", lands = "phrase" } },
]
[rotation]
bars = 1
fade = 0.0
looks = ["green", "white"]
[[routes]]
name = "Node"
universes = "1"
protocol = "art-net"
unchanged = "repeat"
to = "NODE"
first = 0
"##;

const DARK: [u8; 3] = [0; 3];
const RED: [u8; 3] = [255, 0, 0];
const GREEN: [u8; 3] = [0, 255, 0];
const BLUE: [u8; 3] = [0, 0, 255];
const WHITE: [u8; 3] = [255; 3];

/// A desk at the show, and its node.
struct Night {
    desk: Desk,
    node: UdpSocket,
}

impl Night {
    /// Opens the show, with red on stage.
    fn open(name: &str, number: u8) -> Self {
        let pid = std::process::id();
        let address = Ipv4Addr::new(127, 110 + number, (pid / 250 % 250) as u8, (pid % 250 + 2) as u8);
        let node = UdpSocket::bind((address, 6454)).expect("a node's port");
        node.set_read_timeout(Some(PATIENCE)).expect("a socket");
        let desk = Desk::new(name);
        let show = SHOW.replace("NODE", &address.to_string());
        std::fs::write(desk.state.path().join("playing.splimo"), show).expect("written");
        desk.start("", "open playing.splimo --look red");
        desk.wait("the show", |s| s.contains("PLAY") && on_tier(s, "base") == "red");
        let night = Self { desk, node };
        night.arrives("red", [RED, RED]);
        night
    }

    fn keys(&self, keys: &[&str]) {
        self.desk.keys(keys);
    }

    /// The next frame: the first light on the left and on the right.
    fn frame(&self) -> [[u8; 3]; 2] {
        let mut packet = [0; 2048];
        loop {
            let length = self.node.recv(&mut packet).expect("frames arrive");
            if let Ok(data) = splimo_wire::parse(&packet[..length]) {
                return [0, 12].map(|at| [data.slots[at], data.slots[at + 1], data.slots[at + 2]]);
            }
        }
    }

    /// Waits until a frame is as wanted.
    fn arrives(&self, what: &str, wanted: [[u8; 3]; 2]) {
        let start = Instant::now();
        let mut last = self.frame();
        while last != wanted {
            assert!(start.elapsed() < PATIENCE, "waited in vain for {what}: {last:?}\n{}", self.desk.screen());
            last = self.frame();
        }
    }

    /// The colours that arrive on the left from now on, each once, until one arrives.
    fn seen_until(&self, last: [u8; 3]) -> Vec<[u8; 3]> {
        let (start, mut seen) = (Instant::now(), vec![self.frame()[0]]);
        while seen.last() != Some(&last) {
            assert!(start.elapsed() < PATIENCE, "{last:?} never came after {seen:?}");
            let now = self.frame()[0];
            if seen.last() != Some(&now) {
                seen.push(now);
            }
        }
        seen
    }
}

#[test]
fn two_looks_are_stacked_and_both_arrive_at_the_node() {
    let night = Night::open("stacked", 0);
    night.keys(&["2"]);
    night.arrives("blue over red", [BLUE, RED]);
    // Half of it, by the keys of the tiers: the chosen one is the lowest at first.
    night.keys(&["Tab", "Up"]);
    night.desk.wait("the chosen tier", |s| s.contains("▸ top"));
    night.keys(&["S-Left", "S-Left", "Left", "Left"]);
    night.desk.wait("its level", |s| s.lines().any(|line| line.contains("▸ top") && line.trim_end().ends_with("50")));
    night.arrives("both", [[127, 0, 127], RED]);
    night.keys(&["End"]);
    night.arrives("red alone, as the top is mute", [RED, RED]);
    night.desk.leave();
}

#[test]
fn a_flash_is_there_for_its_length_and_then_what_was_before_is_back() {
    let night = Night::open("flash", 1);
    night.keys(&["3"]);
    assert_eq!(night.seen_until(GREEN).last(), Some(&GREEN));
    assert_eq!(night.seen_until(RED), [GREEN, RED]);
    // A terminal that tells when a key is let go holds it as long: here by the sequences of that protocol.
    let held = |event: u8| night.desk.tmux(&["send-keys", "-t", "desk", "-l", &format!("\u{1b}[51;1:{event}u")]);
    held(3);
    held(1);
    night.arrives("green", [GREEN, GREEN]);
    // Longer than the four beats that it has otherwise.
    let until = Instant::now() + Duration::from_millis(1500);
    while Instant::now() < until {
        assert_eq!(night.frame(), [GREEN, GREEN], "as long as it is held");
    }
    held(3);
    night.arrives("red again", [RED, RED]);
    night.desk.leave();
}

#[test]
fn a_pad_for_two_beats_goes_by_itself() {
    let night = Night::open("beats", 2);
    night.keys(&["4"]);
    night.arrives("white", [WHITE, WHITE]);
    let start = Instant::now();
    night.arrives("red", [RED, RED]);
    // Two beats are 300 ms; a busy machine may see it late, but not soon.
    assert!(start.elapsed() > Duration::from_millis(150), "{:?}", start.elapsed());
    night.desk.leave();
}

#[test]
fn a_released_tier_lets_what_is_below_show() {
    let night = Night::open("released", 3);
    night.keys(&["2"]);
    night.arrives("blue over red", [BLUE, RED]);
    night.keys(&["Tab", "Up"]);
    night.desk.wait("the chosen tier", |s| s.contains("▸ top"));
    night.keys(&["DC"]);
    night.arrives("red", [RED, RED]);
    night.desk.wait("a clear tier", |s| on_tier(s, "top") == "(clear)");
    night.desk.leave();
}

#[test]
fn three_things_are_armed_and_one_is_taken_back() {
    let night = Night::open("armed", 4);
    night.keys(&["q", "w", "e"]);
    let waits = |s: &str, look: &str| s.contains(&format!("⟨{look}⟩"));
    night.desk.wait("all three", |s| ["green", "left blue", "white"].iter().all(|look| waits(s, look)));
    // The last of them, in the list of what waits.
    night.keys(&["Tab", "Tab"]);
    night.desk.wait("the list", |s| s.contains("waiting  ◂"));
    night.keys(&["Down", "Down"]);
    night.desk.wait("the last one", |s| s.lines().any(|line| line.contains("▸ ⟨white⟩")));
    night.keys(&["DC"]);
    night.desk.wait("two", |s| !waits(s, "white") && waits(s, "green"));
    // The same pad again takes it back as well.
    night.keys(&["q"]);
    night.desk.wait("one", |s| !waits(s, "green") && waits(s, "left blue"));
    night.keys(&["Enter"]);
    night.arrives("what was left", [BLUE, RED]);
    night.desk.leave();
}

#[test]
fn panic_works_while_a_form_is_open_and_the_form_stays() {
    let night = Night::open("panic", 5);
    night.keys(&["2", "q", "C-e", "1", "Enter"]);
    night.desk.wait("the form of a pad", |s| s.contains("─ the pad ─") && s.contains("⟨green⟩"));
    night.keys(&["F12"]);
    night.arrives("the safe look, alone", [WHITE, WHITE]);
    let screen = night.desk.wait("an empty stage", |s| on_tier(s, "base") == "white" && on_tier(s, "top") == "(clear)");
    assert!(screen.contains("─ the pad ─"), "the form is still there:\n{screen}");
    assert!(!screen.contains('⟨'), "nothing waits:\n{screen}");
    night.keys(&["Escape", "Escape", "Escape"]);
    night.desk.leave();
}

#[test]
fn blackout_works_while_a_dialog_is_open() {
    let night = Night::open("dialog", 6);
    for (keys, title) in
        [(&["C-p"][..], "─ any action ─"), (&["F9"], "─ settings of the show ─"), (&["C-b"], "─ banks of pads ─")]
    {
        night.keys(keys);
        night.desk.wait("the dialog", |s| s.contains(title));
        night.keys(&["`"]);
        night.arrives("dark", [DARK, DARK]);
        night.desk.wait("the word for it", |s| s.contains(title) && s.contains("BLACKOUT"));
        night.keys(&["`"]);
        night.arrives("red", [RED, RED]);
        night.keys(&["Escape"]);
        night.desk.wait("Play", |s| !s.contains(title));
    }
    night.desk.leave();
}

#[test]
fn the_rotation_turns_a_hand_takes_over_and_the_rotation_takes_back() {
    let night = Night::open("rotation", 7);
    night.keys(&["C-r"]);
    night.arrives("one of its looks", [GREEN, GREEN]);
    night.arrives("the other", [WHITE, WHITE]);
    night.keys(&["1"]);
    night.arrives("the hand's", [RED, RED]);
    night.desk.wait("that it gave way", |s| s.contains("gave way"));
    let until = Instant::now() + Duration::from_millis(1500);
    while Instant::now() < until {
        assert_eq!(night.frame(), [RED, RED], "the hand has it");
    }
    night.keys(&["C-r"]);
    night.arrives("one of its looks again", [GREEN, GREEN]);
    night.keys(&["C-r"]);
    night.desk.wait("that it is off", |s| s.contains("rotation  off"));
    // All of it is in the night log.
    night.keys(&["C-l"]);
    night.desk.wait("the log", |s| {
        ["the rotation gives way", "the rotation takes its tier back", "fire-pad 1 (red in All)", "chose green"]
            .iter()
            .all(|line| s.contains(line))
    });
    night.keys(&["Escape"]);
    night.desk.leave();
}

#[test]
fn a_new_look_leaves_all_pads_where_they_were() {
    let night = Night::open("pads", 8);
    // The keys of the pads with the words behind them, to the first that has something.
    let pads = |s: &str| -> Vec<String> {
        let rows = s.lines().filter(|line| line.starts_with(" 1 ") || line.starts_with(" q "));
        rows.map(|row| row.split_whitespace().take(6).collect::<Vec<_>>().join(" ")).collect()
    };
    let before = pads(&night.desk.screen());
    assert_eq!(before, ["1 red 2 left blue 3", "q green w left blue e"]);
    night.keys(&["F4", "n"]);
    night.desk.wait("a new look", |s| s.contains("LOOKS") && s.contains("Playing *"));
    night.keys(&["F6"]);
    let after = night.desk.wait("its pad", |s| s.contains("PLAY") && s.contains("5 New look"));
    assert_eq!(pads(&after), before);
    night.keys(&["q", "Enter"]);
    night.arrives("what was there before", [GREEN, GREEN]);
    night.desk.leave();
}
