//! Jobs that people do often, from an empty show, in few keys: the real program, its packets at a stand-in node, and a count.

mod desk;

use std::net::Ipv4Addr;
use std::time::{Duration, Instant};

use desk::Desk;
use splimo::standin::node::{Node, NodeSpec};
use splimo_document::file;
use splimo_show::{Param, Show};
use splimo_wire::Protocol;

/// An empty show, and the keys that were pressed on it.
struct Job {
    desk: Desk,
    keys: usize,
}

impl Job {
    fn begin(name: &str) -> Self {
        let desk = Desk::new(name);
        desk.start("", "open empty.splimo --audio none");
        desk.wait("an empty rig", |screen| screen.contains("Nothing hangs here yet"));
        Self { desk, keys: 0 }
    }

    fn press(&mut self, keys: &[&str]) {
        self.desk.keys(keys);
        self.keys += keys.len();
    }

    fn type_text(&mut self, text: &str) {
        self.desk.tmux(&["send-keys", "-t", "desk", "-l", text]);
        self.keys += text.chars().count();
    }

    fn see(&self, words: &str) {
        self.desk.wait(words, |screen| screen.contains(words));
    }

    /// Goes to the looks.
    fn go_to_looks(&mut self) {
        self.press(&["F4"]);
        self.see("No looks yet: n makes one.");
    }

    /// Adds a layer of an effect by the beginning of its name.
    fn add_layer(&mut self, beginning: &str, line: &str) {
        self.type_text("a");
        self.see("type to find one");
        self.type_text(beginning);
        self.press(&["Enter"]);
        self.see(line);
    }

    fn saved(&self) -> Show {
        self.desk.keys(&["C-s"]);
        let path = self.desk.state.path().join("empty.splimo");
        let start = Instant::now();
        loop {
            let text = std::fs::read_to_string(&path).unwrap_or_default();
            if let Ok(opened) = file::read(&text)
                && !opened.show.looks.is_empty()
            {
                return opened.show;
            }
            assert!(start.elapsed() < desk::PATIENCE, "it is not saved: {text}");
            std::thread::sleep(Duration::from_millis(50));
        }
    }

    fn at_most(&self, most: usize) {
        assert!(self.keys <= most, "{} keys and not {most}", self.keys);
    }
}

fn node(last: u8, ports: std::ops::Range<u16>) -> Node {
    let address = Ipv4Addr::new(127, 94, 0, last);
    Node::start(NodeSpec { ports: ports.collect(), ..NodeSpec::at(address) }).expect("the address is free")
}

/// Waits until the first slots of a universe at a node are lit.
fn lit(node: &Node, port: u16, slots: usize) {
    let start = Instant::now();
    let mut last = 0;
    while start.elapsed() < desk::PATIENCE {
        last = node.reception().universe(Protocol::ArtNet, port).map_or(0, |universe| {
            universe
                .slots
                .iter()
                .take(slots)
                .collect::<Vec<_>>()
                .chunks(3)
                .filter(|p| p.iter().any(|s| **s > 0))
                .count()
        });
        if last == slots / 3 {
            return;
        }
        std::thread::sleep(Duration::from_millis(30));
    }
    panic!("{last} of {} lights are lit at port-address {port}", slots / 3);
}

/// One after the other, as each has its node alone on the network.
#[test]
fn ten_tubes_and_a_panel_are_routed_and_lit() {
    {
        let node = node(2, 0..1);
        let mut job = Job::begin("tubes");
        job.type_text("a");
        job.see("how many");
        job.type_text("10");
        job.press(&["Down", "Down"]);
        job.type_text("16");
        job.press(&["Enter", "F3"]);
        job.see("universe 1 has no route");
        job.type_text("a");
        job.see("a new route");
        job.press(&["Enter"]);
        job.see("Route 1");
        job.go_to_looks();
        job.type_text("w");
        job.see("two colours over the lights");
        job.press(&["Enter"]);
        lit(&node, 0, 480);
        job.at_most(25);
        assert_eq!(job.saved().fixtures.len(), 10);
    }
    let node = node(3, 0..7);
    let mut job = Job::begin("panel");
    job.type_text("a");
    job.see("how many");
    job.press(&["Down"]);
    job.type_text("g");
    job.press(&["Down"]);
    job.type_text("32");
    job.press(&["Down"]);
    job.type_text("32");
    job.press(&["Enter", "F3"]);
    job.see("127.94.0.3");
    job.press(&["Tab"]);
    job.see("▸ 127.94.0.3");
    job.type_text("n");
    job.see("Stand-in 3");
    job.go_to_looks();
    job.type_text("w");
    job.see("two colours over the lights");
    job.press(&["Enter"]);
    (0..6).for_each(|port| lit(&node, port, 510));
    job.at_most(20);
}

#[test]
fn two_colours_are_mirrored_on_a_strip() {
    let mut job = Job::begin("strip");
    job.type_text("a");
    job.see("how many");
    job.press(&["Down", "Down"]);
    job.type_text("30");
    job.press(&["Enter"]);
    job.go_to_looks();
    job.type_text("W");
    job.see("two colours over the lights");
    job.type_text("r");
    job.press(&["Down"]);
    job.type_text("b");
    job.press(&["Enter"]);
    job.see("live: on the lights now");
    job.at_most(12);
    let show = job.saved();
    let layer = &show.looks[0].layers[0];
    assert_eq!(layer.params["colours"], Param::List(vec!["red".into(), "blue".into()]));
    assert_eq!(layer.params["form"], Param::Text("mirrored".into()));
}

#[test]
fn a_spiral_winds_around_a_cone() {
    let mut job = Job::begin("cone");
    job.type_text("a");
    job.see("how many");
    job.press(&["Down"]);
    job.type_text("co");
    job.press(&["Enter"]);
    job.go_to_looks();
    job.type_text("n");
    job.see("New look");
    job.add_layer("hel", "1 helix");
    job.see("live: on the lights now");
    job.at_most(20);
    let show = job.saved();
    assert_eq!(show.looks[0].layers[0].effect, "helix");
    assert!(matches!(show.fixtures[0].shape, splimo_show::Shape::Cone { .. }), "{:?}", show.fixtures[0].shape);
}

#[test]
fn bold_words_stand_in_the_middle_over_a_plasma() {
    let mut job = Job::begin("words");
    job.type_text("a");
    job.see("how many");
    job.press(&["Down"]);
    job.type_text("g");
    job.press(&["Enter"]);
    job.go_to_looks();
    job.type_text("n");
    job.see("New look");
    job.add_layer("pla", "1 plasma");
    job.add_layer("mar", "2 marquee");
    job.type_text("e");
    job.see("Enter");
    job.type_text("HI");
    job.press(&["Enter"]);
    job.see("HI");
    job.press(&["Down"]);
    job.type_text("0");
    job.press(&["Down"]);
    job.see("stopped");
    job.press(&["Right", "Right", "Down"]);
    job.see("bold");
    job.at_most(30);
    let show = job.saved();
    let layers = &show.looks[0].layers;
    assert_eq!([layers[0].effect.as_str(), layers[1].effect.as_str()], ["plasma", "marquee"]);
    let word = |name: &str| layers[1].params.get(name).cloned();
    assert_eq!(
        [word("text"), word("speed"), word("weight"), word("across")],
        [Some(Param::Text("HI".into())), Some(Param::Text("stopped".into())), Some(Param::Text("bold".into())), None],
        "the middle is where words stand anyway"
    );
}
