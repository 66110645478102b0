//! After a crash the stage is as it was, from the first frame on: the real program, killed in the middle of the show, and what
//! arrives at a node when it is started again.

mod desk;

use std::time::{Duration, Instant};

use desk::Desk;
use desk::node::Node;
use nix::sys::signal::Signal;

fn show(node: &Node, looks: &[(&str, &str)]) -> String {
    let looks: String = looks
        .iter()
        .map(|(name, colour)| {
            format!(
                "[[looks]]\nname = \"{name}\"\n[[looks.layers]]\neffect = \"gradient\"\nparams = {{ colours = [\"{colour}\"] }}\n"
            )
        })
        .collect();
    format!(
        r#"version = 1
name = "Crash"
[[fixtures]]
name = "Bar"
profile = "rgb"
address = "1.1"
shape = {{ line = {{ cells = 10 }} }}
x = 50.0
y = 10.0
{looks}[[routes]]
name = "Out"
universes = "1"
protocol = "art-net"
first = 0
to = "{}"
unchanged = "repeat"
"#,
        node.address
    )
}

/// Waits until what runs is noted with some words.
fn noted(desk: &Desk, words: &[&str]) {
    let start = Instant::now();
    let folder = desk.state.path().join("splimo");
    loop {
        let texts: Vec<String> = std::fs::read_dir(&folder)
            .into_iter()
            .flatten()
            .flatten()
            .filter(|entry| entry.path().extension().is_some_and(|ending| ending == "running"))
            .filter_map(|entry| std::fs::read_to_string(entry.path()).ok())
            .collect();
        if texts.iter().any(|text| words.iter().all(|word| text.contains(word))) {
            return;
        }
        assert!(start.elapsed() < desk::PATIENCE, "not noted: {texts:?}");
        std::thread::sleep(Duration::from_millis(20));
    }
}

const LOOKS: [(&str, &str); 2] = [("White", "#ffffff"), ("Ember", "#ff0000")];

#[test]
fn a_dark_stage_stays_dark_from_the_first_frame_on() {
    let (desk, node) = (Desk::new("crash-dark"), Node::new(60));
    std::fs::write(desk.state.path().join("night.splimo"), show(&node, &LOOKS)).expect("written");
    desk.start("", "open night.splimo --audio none");
    node.arrives("light", |red| red > 200);
    assert!(desk.splimo(&["do", "cut-to", "Ember"]).status.success());
    assert!(desk.splimo(&["do", "master", "50"]).status.success());
    assert!(desk.splimo(&["do", "blackout"]).status.success());
    node.frame("darkness", |slots| slots.iter().all(|slot| *slot == 0));
    noted(&desk, &["Ember", "\"blackout\":true", "50"]);
    desk.signal_session(Signal::SIGKILL);
    desk.sit_down_anew();
    node.drain();
    desk.start("", "open night.splimo --audio none");
    let (start, mut frames) = (Instant::now(), 0);
    while frames < 44 {
        if let Some(slots) = node.slots() {
            assert!(slots.iter().all(|slot| *slot == 0), "light in frame {frames}: {:?}", &slots[..6]);
            frames += 1;
        }
        assert!(start.elapsed() < desk::PATIENCE, "nothing leaves");
    }
    desk.wait("the question", |s| s.contains("the stage is as it was") && s.contains("blacked out"));
    desk.keys(&["Enter"]);
    desk.wait("its end", |s| !s.contains("the stage is as it was"));
    assert!(desk.splimo(&["do", "blackout"]).status.success());
    let slots = node.frame("the look at half the light", |slots| slots[0] > 0);
    assert!((120..136).contains(&slots[0]) && slots[1] == 0, "{:?}", &slots[..6]);
    desk.leave();
}

#[test]
fn a_box_that_nobody_attends_is_as_it_was() {
    let (desk, node) = (Desk::new("crash-box"), Node::new(62));
    std::fs::write(desk.state.path().join("night.splimo"), show(&node, &LOOKS)).expect("written");
    let start = || desk.start("", "run night.splimo");
    start();
    node.arrives("light", |red| red > 200);
    assert!(desk.splimo(&["do", "master", "40"]).status.success());
    node.frame("less light", |slots| (80..120).contains(&slots[0]));
    noted(&desk, &["40"]);
    desk.signal_session(Signal::SIGKILL);
    desk.wait("its end", |s| s.contains("EXIT="));
    node.drain();
    start();
    let first = node.frame("light", |slots| slots[0] > 0);
    assert!((80..120).contains(&first[0]), "{:?}", &first[..6]);
    desk.signal_session(Signal::SIGTERM);
}

#[test]
fn what_was_not_saved_is_on_stage_too_and_a_fresh_start_is_one_key_away() {
    let (desk, node) = (Desk::new("crash-unsaved"), Node::new(61));
    let file = desk.state.path().join("night.splimo");
    std::fs::write(&file, show(&node, &LOOKS)).expect("written");
    desk.start("", "open night.splimo --audio none");
    node.arrives("light", |red| red > 200);
    assert!(desk.splimo(&["do", "cut-to", "Ember"]).status.success());
    node.frame("Ember", |slots| slots[0] > 200 && slots[1] == 0);
    noted(&desk, &["Ember"]);
    desk.signal_session(Signal::SIGKILL);
    desk.sit_down_anew();
    // The look was made after the last time the show was saved: the file lacks it, and the work that is kept has it.
    std::fs::write(desk.state.path().join("night.splimo.autosave"), show(&node, &LOOKS)).expect("written");
    std::fs::write(&file, show(&node, &LOOKS[..1])).expect("written");
    node.drain();
    desk.start("", "open night.splimo --audio none");
    let first = node.frame("light", |slots| slots[0] > 0);
    assert!(first[0] > 200 && first[1] == 0, "{:?}", &first[..6]);
    desk.wait("the question about the work", |s| s.contains("work that was not saved"));
    desk.keys(&["Escape"]);
    desk.wait("the question about the stage", |s| s.contains("the stage is as it was"));
    desk.keys(&["Escape"]);
    node.frame("the first look", |slots| slots[0] > 200 && slots[1] > 200);
    desk.leave();
}
