//! The first minutes: the start screen, and the tutorial by its own words, from an empty home.

mod desk;

use std::path::Path;
use std::time::{Duration, Instant};

use desk::Desk;

/// A key of the tutorial as tmux has it.
fn key(name: &str) -> String {
    match name {
        "↓" => "Down".to_owned(),
        "↑" => "Up".to_owned(),
        name => name.replace("Ctrl-S", "C-s"),
    }
}

/// The titles of the steps, each with its keys.
fn steps() -> Vec<(String, Vec<String>)> {
    let page = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/tutorial.md");
    let page = std::fs::read_to_string(page).expect("it is there").replace("`` ` ``", "`BACKQUOTE`");
    let step = |text: &str| {
        let title = text.lines().next()?.split_once(". ")?.1.to_owned();
        let keys = text.split_once("**Keys:**")?.1.lines().next()?;
        let keys = keys.split('`').skip(1).step_by(2).map(|name| key(&name.replace("BACKQUOTE", "`")));
        Some((title, keys.collect()))
    };
    page.split("\n## ").skip(1).filter_map(step).collect()
}

#[test]
fn the_tutorial_can_be_walked_by_its_own_words() {
    let steps = steps();
    assert!(steps.len() >= 12);
    let desk = Desk::new("tutorial");
    desk.start("", "tutorial");
    let first = format!("1 of {}  {}", steps.len(), steps[0].0);
    desk.wait("the first step", |screen| screen.contains(&first) && screen.contains("fps"));
    for (place, (title, keys)) in steps.iter().enumerate() {
        let heading = format!("{} of {}  {title}", place + 1, steps.len());
        desk.wait(title, |screen| screen.contains(&heading));
        for key in keys {
            desk.keys(&[key.as_str()]);
            // As fast as a person types at most: what a key opens is there before the next one.
            let pressed = Instant::now();
            while pressed.elapsed() < Duration::from_millis(120) {
                std::thread::sleep(Duration::from_millis(20));
            }
        }
        let next = match steps.get(place + 1) {
            Some((title, _)) => format!("{} of {}  {title}", place + 2, steps.len()),
            None => "That was the tutorial".to_owned(),
        };
        desk.wait(&format!("what follows \"{title}\""), |screen| screen.contains(&next));
    }
    let show = desk.state.path().join("tutorial.splimo");
    let text = std::fs::read_to_string(show).expect("it was saved");
    assert!(text.contains("Tube 10") && text.contains("127.0.15.1") && text.contains("[[cue_lists]]"), "{text}");
    desk.leave();
}

#[test]
fn a_show_is_begun_on_the_start_screen_and_is_there_the_next_time() {
    let desk = Desk::new("start");
    desk.start("", "");
    desk.wait("the start screen", |screen| screen.contains("a new show") && screen.contains("tutorial"));
    desk.keys(&["Enter"]);
    desk.wait("the questions", |screen| screen.contains("a new show: tubes") && screen.contains("new-show.splimo"));
    desk.keys(&["4", "Enter"]);
    desk.wait("the show", |screen| screen.contains("fps") && screen.contains("New show"));
    desk.keys(&["C-q"]);
    desk.wait("the question", |screen| screen.contains("leave Splimo?"));
    desk.keys(&["Enter"]);
    desk.wait("the start screen again", |screen| screen.contains("open again") && screen.contains("new-show"));
    desk.keys(&["Escape"]);
    desk.is_as_it_was(0);
    let text = std::fs::read_to_string(desk.state.path().join("new-show.splimo")).expect("it is there");
    assert!(text.contains("Tube 4") && !text.contains("Tube 5"));
    let check = desk.splimo(&["check", &desk.state.path().join("new-show.splimo").to_string_lossy()]);
    assert!(check.status.success(), "{}", String::from_utf8_lossy(&check.stdout));
}
