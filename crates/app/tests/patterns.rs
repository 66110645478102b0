//! Patterns and aims in the real program: keys go in through tmux, and what arrives at a node is read.

mod desk;

use std::cell::Cell;
use std::sync::Arc;
use std::time::{Duration, Instant};

use desk::node::Node;
use desk::{Desk, PATIENCE};
use splimo_document::Command;
use splimo_document::file;
use splimo_engine::{Engine, Inputs, Published};
use splimo_show::Show;

const SHOW: &str = r##"version = 1
name = "Patterns"
settings = { dither = false, lands = "now", fade_beats = 0.0, strobe_limit = 0 }
palette = [{ name = "Foam", colours = ["#dff6ff"] }, { name = "Signal red", colours = ["#ff2a1c"] }]
[[fixtures]]
name = "Bar"
profile = "rgb"
address = "1.1"
shape = { line = { cells = 48 } }
x = 30.0
y = 5.0
[[fixtures]]
name = "Gull 1"
profile = "moving head"
address = "1.201"
shape = { line = { cells = 1 } }
x = 10.0
y = 1.0
[[fixtures]]
name = "Gull 2"
profile = "moving head"
address = "1.211"
shape = { line = { cells = 1 } }
x = 50.0
y = 1.0
[[groups]]
name = "Gulls"
members = ["Gull 1", "Gull 2"]
[[aims]]
name = "Booth"
heads = [{ fixture = "Gull 1", pan = 45.0, tilt = 60.0 }, { fixture = "Gull 2", pan = 55.0, tilt = 60.0 }]
[[aims]]
name = "Crossed"
heads = [{ fixture = "Gull 1", pan = 60.0, tilt = 70.0 }, { fixture = "Gull 2", pan = 40.0, tilt = 70.0 }]
[[looks]]
name = "white"
[[looks.layers]]
effect = "solid"
params = { colours = ["#ffffff"] }
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

/// The program at the patterns of a show whose light goes to a node, and the keys that were counted.
struct Writing {
    node: Node,
    desk: Desk,
    keys: Cell<usize>,
}

impl Writing {
    fn new(name: &str, number: u8) -> Self {
        let (node, desk) = (Node::new(number), Desk::new(name));
        let show = SHOW.replace("NODE", &node.address.to_string());
        std::fs::write(desk.state.path().join("p.splimo"), show).expect("written");
        desk.start("", "open p.splimo --audio none --look white");
        desk.wait("the show", |s| s.contains("PLAY"));
        desk.keys(&["F5", "Tab", "Tab", "Tab", "Tab"]);
        desk.wait("the patterns", |s| s.contains("There is no pattern yet"));
        Self { node, desk, keys: Cell::new(0) }
    }

    fn write(&self, text: &str) {
        self.keys.set(self.keys.get() + text.chars().count());
        self.desk.tmux(&["send-keys", "-t", "desk", "-l", text]);
    }

    fn press(&self, keys: &[&str]) {
        self.keys.set(self.keys.get() + keys.len());
        self.desk.keys(keys);
    }

    fn wait(&self, what: &str, holds: impl Fn(&str) -> bool) {
        self.desk.wait(what, holds);
    }

    /// An empty pattern of a name and so many bars, from which keys are counted.
    fn empty(&self, name: &str, bars: u32) {
        self.press(&["T"]);
        self.wait("the form", |s| s.contains("a new pattern"));
        self.write(name);
        self.press(&["Down"]);
        self.write(&bars.to_string());
        self.press(&["Enter"]);
        self.wait("the pattern", |s| s.contains(&format!("{name}   ")) && s.contains(", grid 1/16   rests"));
        self.keys.set(0);
    }

    fn saved(&self) -> Show {
        self.desk.keys(&["C-s"]);
        self.desk.wait("that it is saved", |s| s.contains("saved as"));
        let text = std::fs::read_to_string(self.desk.state.path().join("p.splimo")).expect("a file");
        file::read(&text).expect("a good show").show
    }
}

/// The lights of the bar in a frame.
fn bar(slots: &[u8]) -> Vec<[u8; 3]> {
    slots[..144].chunks(3).map(|light| [light[0], light[1], light[2]]).collect()
}

/// The sum of the differences between neighbours.
fn roughness(slots: &[u8]) -> u32 {
    let lights = bar(slots);
    let differ = |pair: &[[u8; 3]]| (0..3).map(|part| u32::from(pair[0][part].abs_diff(pair[1][part]))).sum::<u32>();
    lights.windows(2).map(differ).sum()
}

/// The places of the lights that are lit.
fn lit(slots: &[u8]) -> Vec<usize> {
    bar(slots).iter().enumerate().filter(|(_, light)| light[0] > 40).map(|(place, _)| place).collect()
}

#[test]
fn a_run_a_rainbow_a_sparkle_and_a_texture_take_less_than_30_keys_each() {
    let writing = Writing::new("texture", 4);
    assert!(writing.desk.splimo(&["do", "tempo 60"]).status.success());
    // A run: an event of an eighth in each bar, each light a 32nd later, dark without it.
    writing.empty("Run", 4);
    writing.press(&["L", "Down", "Down", "Right", "Right", "Down", "Down", "Down", "Down"]);
    writing.write("0");
    writing.press(&["Enter"]);
    writing.wait("the lane", |s| s.contains("1/32 all"));
    writing.press(&["G", "G"]);
    writing.wait("the grid", |s| s.contains("grid 1/8 "));
    writing.press(&["a"]);
    writing.wait("the event", |s| s.contains("bar 1.1.50"));
    writing.press(&["Left", "R", "Enter", "n"]);
    assert!(writing.keys.get() < 30, "{}", writing.keys.get());
    // Four wide and a bit, side by side, and going on.
    let run = |slots: &[u8]| {
        let lit = lit(slots);
        (3..=6).contains(&lit.len()) && lit.windows(2).all(|pair| pair[1] == pair[0] + 1)
    };
    let first = lit(&writing.node.frame("a run", run));
    writing.node.frame("it further on", |slots| run(slots) && lit(slots)[0] > first[0] + 4);
    writing.desk.keys(&["n"]);
    // A rainbow that climbs along the order.
    writing.empty("Rainbow", 1);
    writing.press(&["L", "Right", "Down", "Down", "Right", "Right", "Right", "Right", "Enter"]);
    writing.wait("the lane", |s| s.contains("1/16 all"));
    writing.press(&["v", "End", "e"]);
    writing.wait("the form", |s| s.contains("the event"));
    writing.write("rainbow");
    writing.press(&["Enter"]);
    writing.wait("the event", |s| s.contains("rainbow"));
    writing.press(&["n"]);
    assert!(writing.keys.get() < 30, "{}", writing.keys.get());
    let strongest = |light: &[u8; 3]| (0..3).max_by_key(|part| light[*part]).expect("a part");
    let hues =
        |slots: &[u8]| (0..3).map(|part| bar(slots).iter().filter(|light| strongest(light) == part).count()).min();
    let smooth = roughness(&writing.node.frame("every hue", |slots| hues(slots).is_some_and(|least| least >= 6)));
    let red = |slots: &[u8]| bar(slots).iter().position(|light| light[0] > 240 && light[1] < 60 && light[2] < 60);
    let at = red(&writing.node.frame("red", |slots| red(slots).is_some_and(|at| at < 8))).expect("red");
    writing.node.frame("red further on", |slots| red(slots).is_some_and(|now| now > at + 3));
    writing.desk.keys(&["n"]);
    // Sparkle at 1/16: in each bar each light has its own sixteenth, drawn by chance.
    writing.empty("Sparkle", 4);
    writing.press(&["L", "Down", "Down", "Right", "Right", "Right", "Right", "Down", "Down", "Down"]);
    writing.write("1");
    writing.press(&["Down"]);
    writing.write("0");
    writing.press(&["Enter"]);
    writing.wait("the lane", |s| s.contains("1/16 all"));
    writing.press(&["a"]);
    writing.wait("the event", |s| s.contains("bar 1.1.25"));
    writing.press(&["Left", "R", "Enter", "n"]);
    assert!(writing.keys.get() < 30, "{}", writing.keys.get());
    let apart = |lit: &[usize]| lit.windows(2).filter(|pair| pair[1] > pair[0] + 1).count() >= 2;
    let scattered = |slots: &[u8]| (3..=8).contains(&lit(slots).len()) && apart(&lit(slots));
    let first = lit(&writing.node.frame("sparkle", scattered));
    writing.node.frame("others", |slots| scattered(slots) && lit(slots).iter().all(|place| !first.contains(place)));
    writing.desk.keys(&["n"]);
    // A texture: every hue at once, drawn by chance.
    writing.empty("Texture", 2);
    writing.press(&["L", "Right", "Down", "Down", "Right", "Right", "Right", "Right", "Down", "Down", "Down"]);
    writing.write("1");
    writing.press(&["Enter"]);
    writing.wait("the lane", |s| s.contains("1/16 all"));
    writing.press(&["v", "End", "e"]);
    writing.wait("the form", |s| s.contains("the event"));
    writing.write("rainbow");
    writing.press(&["Enter"]);
    writing.wait("the event", |s| s.contains("rainbow"));
    writing.press(&["n"]);
    assert!(writing.keys.get() < 30, "{}", writing.keys.get());
    writing
        .node
        .frame("a texture", |slots| hues(slots).is_some_and(|least| least >= 6) && roughness(slots) > 3 * smooth);
    writing.desk.leave();
}

/// A moment of a pattern as the engine has it.
struct Moment {
    /// The place in the pattern, in beats.
    at: f64,
    /// The first light of the bar.
    light: [u8; 3],
    /// Pan and tilt of the first head.
    head: [u16; 2],
}

/// The moments of the second time that a pattern of eight bars is played, so that its heads come from where it has them.
fn moments(show: &Show, look: &str, tempo: f64) -> Vec<Moment> {
    let mut engine = Engine::new(Arc::new(show.clone()));
    for text in [format!("tempo {tempo}"), format!("cut-to {look}")] {
        match text.parse().expect("a command") {
            Command::Engine(command) => engine.apply(&command, 0.0),
            other => panic!("{other}"),
        }
    }
    let mut moments = Vec::new();
    let mut published = Published::default();
    for frame in 0..(64.0 * 60.0 / tempo * 200.0) as u32 {
        let time = f64::from(frame) / 200.0;
        let slots = engine.tick(time, &Inputs::default()).slots.clone();
        if time * tempo / 60.0 < 32.0 {
            continue;
        }
        engine.publish(&mut published);
        let at = published.snapshot.stage.iter().find_map(|on| on.place).expect("it plays");
        let wide = |at: usize| u16::from_be_bytes([slots[at], slots[at + 1]]);
        moments.push(Moment { at, light: [slots[0], slots[1], slots[2]], head: [wide(200), wide(202)] });
    }
    moments
}

#[test]
fn the_drop_of_the_demo_is_written_anew_copied_without_its_colours_and_fired_from_a_pad() {
    let writing = Writing::new("drop", 5);
    writing.empty("Hits", 8);
    // Colours, two beats each, over and over.
    writing.press(&["L", "Right", "Enter"]);
    writing.wait("the lane", |s| s.contains("▸ colour"));
    writing.press(&["G", "G", "G", "G"]);
    writing.wait("the grid", |s| s.contains("grid 1/4 "));
    for colour in ["Foam", "Signal"] {
        writing.press(&["v", "Right", "e"]);
        writing.wait("the form", |s| s.contains("the event"));
        writing.write(colour);
        writing.press(&["Enter"]);
        writing.wait("the colour", |s| s.contains(colour) && !s.contains("the event"));
        writing.press(&["Right"]);
    }
    writing.press(&["Home", "v", "Right", "Right", "Right", "r"]);
    writing.wait("all of it", |s| s.matches("Foam").count() >= 8);
    writing.press(&["v"]);
    // A level that hits each beat, and comes up in the last bar.
    writing.press(&["L", "Down", "Down", "Down", "Down", "Down", "Down"]);
    writing.write("12");
    writing.press(&["Enter"]);
    writing.wait("the lane", |s| s.contains("▸ level"));
    writing.press(&["Home", "e"]);
    writing.wait("the form", |s| s.contains("the event"));
    writing.press(&["Down", "Right", "Right", "Right", "Right", "Enter"]);
    writing.wait("the hit", |s| s.contains("decay 100, 1 beats"));
    writing.press(&["r"]);
    writing.press(&["End"]);
    writing.wait("the hits", |s| s.contains("bar 8.4   decay 100, 1 beats"));
    writing.press(&["v", "Left", "Left", "Left", "e"]);
    writing.wait("the form", |s| s.contains("the event"));
    writing.press(&["Down", "Left", "Left", "Left", "Enter"]);
    writing.wait("the rise", |s| s.contains("up 100, 4 beats"));
    // Where the heads point.
    writing.press(&["L", "Right", "Right", "Right", "Right", "Down"]);
    writing.write("Gulls");
    writing.press(&["Enter"]);
    writing.wait("the lane", |s| s.contains("▸ aim"));
    for (keys, aim, glide) in [
        (&["Home", "v", "PageDown", "PageDown", "PageDown", "PageDown", "Left", "e"][..], "Cro", "0"),
        (&["Right", "v", "End", "e"][..], "Boo", "4"),
    ] {
        writing.press(keys);
        writing.wait("the form", |s| s.contains("the event"));
        writing.write(aim);
        writing.press(&["Down"]);
        writing.write(glide);
        writing.press(&["Enter"]);
        writing
            .wait("the aim", |s| s.contains("16 beats") && s.contains(if aim == "Cro" { "Crossed" } else { "Booth" }));
    }
    writing.press(&["w"]);
    writing.wait("that it is out of the rotation", |s| s.contains("kept out of the rotation"));
    // All but the colours goes onto another pattern, at the same place.
    writing.press(&["Up", "Home", "v", "Down", "End", "c"]);
    writing.wait("what is copied", |s| s.contains("of 2 lanes are copied"));
    writing.empty("Other", 8);
    writing.press(&["b"]);
    writing.wait("the lanes", |s| s.contains("aim") && s.contains("level") && !s.contains("Foam"));
    let show = writing.saved();
    let pattern = |name: &str| show.look(name).and_then(|(_, look)| look.pattern.clone()).expect("a pattern");
    let (hits, other) = (pattern("Hits"), pattern("Other"));
    assert_eq!(hits.lanes.iter().map(|lane| lane.events.len()).collect::<Vec<_>>(), [16, 29, 2]);
    assert_eq!(other.lanes, hits.lanes[1..]);
    assert_eq!(show.rotation.without, ["Hits"]);
    // Fired from its pad, which is the second, what leaves is what its lanes say, at 20 moments.
    assert!(writing.desk.splimo(&["do", "tempo 90"]).status.success());
    writing.desk.keys(&["F6", "2"]);
    writing.wait("it to be on stage", |s| desk::on_tier(s, "base") == "Hits");
    let wanted = moments(&show, "Hits", 90.0);
    // Once it has come to its end the heads come from where the pattern has them.
    let start = Instant::now();
    writing.node.frame("the rise of its end", |slots| slots[1] > 180 && start.elapsed() > Duration::from_secs(12));
    // There is a place of the pattern from which on all of them are as they are to be, an eighth of a beat more or less.
    let as_said = |at: f64, slots: &[u8]| {
        let wide = |at: usize| u16::from_be_bytes([slots[at], slots[at + 1]]);
        let near = |moment: &Moment| ((moment.at - at + 16.0).rem_euclid(32.0) - 16.0).abs() < 0.125;
        wanted.iter().filter(|moment| near(moment)).any(|moment| {
            moment.light.iter().zip(&slots[..3]).all(|(a, b)| a.abs_diff(*b) <= 6)
                && moment.head.iter().zip([wide(200), wide(202)]).all(|(a, b)| a.abs_diff(b) <= 700)
        })
    };
    let fits = |frames: &[(f64, Vec<u8>)], from: f64| {
        frames.iter().filter(|(time, slots)| as_said(from + (time - frames[0].0) * 1.5, slots)).count()
    };
    // A machine that is held up shows a frame late: then they are looked at once more.
    loop {
        let mut frames: Vec<(f64, Vec<u8>)> = Vec::new();
        for _ in 0..20 {
            let next = Instant::now() + Duration::from_millis(370);
            let slots = writing.node.frame("a frame", |_| Instant::now() >= next);
            frames.push((start.elapsed().as_secs_f64(), slots));
        }
        let best = (0..640).map(|step| fits(&frames, f64::from(step) / 20.0)).max();
        if best == Some(20) {
            break;
        }
        let shown = frames.iter().map(|(time, slots)| (time, &slots[..3])).collect::<Vec<_>>();
        assert!(start.elapsed() < PATIENCE, "{best:?} of 20: {shown:?}");
    }
    writing.desk.leave();
}

#[test]
fn heads_are_turned_by_keys_recorded_mirrored_and_pointed_again() {
    let writing = Writing::new("aims", 6);
    let wide = |slots: &[u8], at: usize| f64::from(u16::from_be_bytes([slots[at], slots[at + 1]])) / 655.35;
    let points = |wanted: [[f64; 2]; 2]| {
        move |slots: &[u8]| {
            let heads = [[wide(slots, 200), wide(slots, 202)], [wide(slots, 210), wide(slots, 212)]];
            heads.iter().flatten().zip(wanted.iter().flatten()).all(|(found, wanted)| (found - wanted).abs() < 0.02)
        }
    };
    writing.press(&["Tab"]);
    writing.wait("the aims", |s| s.contains("▸Booth") && s.contains("Gull 1"));
    // Both to the right, the second one down by a little as well.
    writing.press(&["A", "S-Right", "S-Right", "S-Right"]);
    writing.node.frame("both further right", points([[53.0, 50.0], [53.0, 50.0]]));
    writing.press(&["A", "Down", "g", "S-Down"]);
    writing.node.frame("the second further down", points([[53.0, 50.0], [53.0, 50.1]]));
    writing.wait("it on the screen", |s| s.contains("50.10 %"));
    writing.press(&["A", "a"]);
    writing.wait("the form", |s| s.contains("a new aim"));
    writing.write("Corner");
    writing.press(&["Enter"]);
    writing.wait("the aim", |s| s.contains("▸Corner"));
    writing.press(&["M", "z"]);
    writing.wait("that they are let go", |s| !s.contains("by hand"));
    writing.wait("the mirror", |s| s.contains("47.00  50.10"));
    // The engine has an edit a moment after the screen: whoever points heads meanwhile gets what was there.
    let (start, mirror) = (Instant::now(), points([[47.0, 50.1], [47.0, 50.0]]));
    while !writing.node.slots().is_some_and(|slots| mirror(&slots)) {
        assert!(start.elapsed() < PATIENCE, "waited in vain for the mirror of it");
        writing.desk.keys(&["n"]);
    }
    writing.press(&["Left", "Left", "n"]);
    writing.node.frame("the booth", points([[45.0, 60.0], [55.0, 60.0]]));
    // What a controller or a script asks for comes out alike.
    for command in ["head-pan Gulls 30", "head-tilt Gull 1 25.5", "record-aim Low"] {
        assert!(writing.desk.splimo(&["do", command]).status.success(), "{command}");
        writing
            .node
            .frame("the pan", |slots| (wide(slots, 210) - 30.0).abs() < 0.02 && (wide(slots, 200) - 30.0).abs() < 0.02);
    }
    let refused = writing.desk.splimo(&["do", "call-aim Nowhere"]);
    let words = String::from_utf8_lossy(&refused.stderr).into_owned();
    assert!(!refused.status.success() && words.contains("there is Booth, Crossed, Corner, Low"), "{words}");
    let show = writing.saved();
    let aim = show.aim("Corner").expect("it is kept");
    assert_eq!((aim.of("Gull 1"), aim.of("Gull 2")), (Some([47.0, 50.1]), Some([47.0, 50.0])));
    assert!(show.aim("Low").is_some_and(|aim| aim.heads.len() == 2));
    writing.desk.leave();
}
