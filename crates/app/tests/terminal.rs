//! The real program in a real terminal: tmux runs it, keys go in, and what is on the screen is read.

mod desk;

use std::path::PathBuf;
use std::process::Command;
use std::time::Duration;

use desk::{Desk, send_signal};
use nix::sys::signal::Signal;

/// The look that the lowest tier shows, beside the stage.
fn on_stage(screen: &str) -> String {
    desk::on_tier(screen, "base")
}

#[test]
fn a_night_in_two_minutes() {
    let desk = Desk::new("night");
    desk.start("", "demo");
    desk.wait("the demo", |s| s.contains("PLAY") && s.contains("Lantern Quay") && on_stage(s) == "Tide");

    // A pad is armed for the phrase, is seen to wait, and lands when it is told to.
    desk.keys(&["Up", "Up"]);
    desk.wait("the phrase as boundary", |s| s.contains("[phrase]"));
    desk.keys(&["5"]);
    let armed = desk.wait("an armed look", |s| s.contains("⟨Squall⟩"));
    assert_eq!(on_stage(&armed), "Tide", "it only waits");
    desk.keys(&["Enter"]);
    desk.wait("Squall on stage", |s| on_stage(s) == "Squall" && !s.contains("⟨Squall"));

    // Another lands by itself, on the bar.
    desk.keys(&["Down", "Down"]);
    desk.wait("the bar as boundary", |s| s.contains("[bar]"));
    desk.keys(&["3"]);
    desk.wait("Undertow on stage", |s| on_stage(s) == "Undertow");

    // What is armed can be taken back.
    desk.keys(&["Up", "7"]);
    desk.wait("an armed look", |s| s.contains("⟨Ember Night⟩"));
    desk.keys(&["Escape"]);
    desk.wait("nothing armed", |s| !s.contains("⟨Ember"));

    // Blackout and back; a pad without a look; the change that Ctrl-Z takes back.
    desk.keys(&["`"]);
    desk.wait("a blackout", |s| s.contains("BLACKOUT"));
    desk.keys(&["`"]);
    desk.wait("light", |s| !s.contains("BLACKOUT") && s.contains("master 100"));
    desk.keys(&["Right"]);
    desk.wait("the next bank", |s| s.contains("Night (2 of 3)"));
    desk.keys(&["m"]);
    desk.wait("an answer", |s| s.contains("there is nothing on pad 36 of Night"));
    desk.keys(&["Left"]);
    desk.keys(&["C-z"]);
    desk.wait("the bar as boundary again", |s| s.contains("[bar]"));

    // A tempo is tapped, and the music leads again.
    for _ in 0..5 {
        desk.keys(&["Space"]);
        std::thread::sleep(Duration::from_millis(500));
    }
    desk.wait("a tapped tempo", |s| s.contains("tapped"));
    desk.keys(&["\\"]);
    desk.wait("the music leading", |s| s.contains("heard  "));

    // The other view, its bars, and both views at 80x24.
    desk.keys(&["F3"]);
    desk.wait("Output", |s| s.contains("OUTPUT") && s.contains("slot 1 = Sail 1 cell 1 red") && s.contains("127."));
    desk.keys(&["b", "Right"]);
    desk.wait("bars", |s| s.contains("universe 2 ") && s.contains("▇"));
    desk.tmux(&["resize-window", "-t", "desk", "-x", "80", "-y", "24"]);
    desk.wait("Output at 80x24", |s| s.contains("slot 1 = ") && s.lines().all(|l| l.chars().count() <= 80));
    desk.keys(&["F6"]);
    desk.wait("Play at 80x24", |s| s.contains("PLAY") && s.contains("1 Tide") && s.contains("F1 help"));
    desk.tmux(&["resize-window", "-t", "desk", "-x", "40", "-y", "10"]);
    desk.wait("what it needs", |s| s.contains("Splimo needs 40 x 12"));
    desk.tmux(&["resize-window", "-t", "desk", "-x", "158", "-y", "48"]);
    desk.wait("Play at 158x48", |s| s.contains("tiers") && s.contains("r Last Orders"));

    // Any action by its name; a paste fires no pads.
    desk.keys(&["C-p"]);
    desk.wait("the palette", |s| s.contains("─ any action ─") && s.contains("fire-pad"));
    desk.tmux(&["send-keys", "-t", "desk", "-l", "fire-look Tide"]);
    desk.keys(&["Enter"]);
    desk.wait("Tide on stage", |s| on_stage(s) == "Tide");
    desk.tmux(&["set-buffer", "456"]);
    desk.tmux(&["paste-buffer", "-p", "-t", "desk"]);
    desk.keys(&["F1"]);
    desk.wait("help", |s| s.contains("Press a pad to fire what it does"));
    desk.keys(&["Escape"]);
    let screen = desk.wait("Play", |s| !s.contains("Press a pad to fire"));
    assert!(!screen.contains('⟨'), "the paste armed something:\n{screen}");

    // Saving gives the demo a file of its own; leaving is asked for.
    desk.keys(&["C-s"]);
    desk.wait("a file", |s| s.contains("saved as lantern-quay.splimo in /"));
    desk.keys(&["C-q"]);
    desk.wait("the question", |s| s.contains("leave Splimo?"));
    desk.keys(&["Escape"]);
    desk.wait("Play", |s| !s.contains("leave Splimo?"));
    desk.leave();
    let saved: PathBuf = desk.state.path().join("lantern-quay.splimo");
    let check = Command::new(env!("CARGO_BIN_EXE_splimo")).arg("check").arg(saved).output().expect("runs");
    assert!(check.status.success(), "{}", String::from_utf8_lossy(&check.stdout));
}

#[test]
fn a_signal_ends_the_session_or_the_screen_and_gives_the_terminal_back() {
    for (name, signal) in [("term", Signal::SIGTERM), ("int", Signal::SIGINT)] {
        let desk = Desk::new(name);
        desk.start("", "demo");
        desk.wait("the demo", |s| s.contains("PLAY"));
        desk.signal_session(signal);
        desk.wait("the reason", |s| s.contains("splimo: the session has ended"));
        desk.is_as_it_was(0);
        assert_eq!(desk.sessions(), []);
    }
    let desk = Desk::new("screen");
    desk.start("", "demo");
    for signal in [Signal::SIGTERM, Signal::SIGINT, Signal::SIGHUP] {
        desk.wait("the demo", |s| s.contains("PLAY"));
        assert!(send_signal(signal, desk.pid()));
        desk.wait("what to do now", |s| s.contains("the show runs on as the session lantern-quay"));
        desk.is_as_it_was(0);
        desk.sit_down_anew();
        desk.start("", "attach");
    }
    desk.wait("the demo", |s| s.contains("PLAY"));
    desk.leave();
    assert_eq!(desk.sessions(), []);
}

#[test]
fn ctrl_c_asks_and_twice_leaves_the_lights_running() {
    let desk = Desk::new("ctrl-c");
    desk.start("", "demo");
    desk.wait("the demo", |s| s.contains("PLAY"));
    desk.keys(&["C-c"]);
    desk.wait("the question", |s| s.contains("leave Splimo?"));
    desk.keys(&["Escape"]);
    desk.wait("Play", |s| !s.contains("leave Splimo?"));
    desk.tmux(&["send-keys", "-t", "desk", "C-c", "C-c"]);
    desk.wait("what to do now", |s| s.contains("the show runs on as the session lantern-quay"));
    desk.is_as_it_was(0);
    assert_eq!(desk.sessions().len(), 1);
}

#[test]
fn a_failure_of_the_screen_is_caught_told_and_logged() {
    let desk = Desk::new("fault");
    desk.start("SPLIMO_FAULT=screen", "demo");
    desk.wait("the screen after its failure", |s| {
        s.contains("screen: failed and was started anew") && s.contains("PLAY")
    });
    assert!(desk.log().contains("panic in the thread screen"), "{}", desk.log());
    desk.leave();
}

#[test]
fn a_screen_that_keeps_failing_leaves_the_lights_running() {
    let desk = Desk::new("faults");
    desk.start("SPLIMO_FAULT=screen!", "demo");
    desk.wait("the message", |s| s.contains("The lights run on") && !s.contains("PLAY"));
    assert_eq!(desk.tmux(&["display", "-p", "-t", "desk", "#{alternate_on}"]).trim(), "0");
    assert!(desk.log().contains("a fault of the screen was asked for"));
    desk.is_as_it_was(1);
    assert_eq!(desk.sessions().len(), 1);
    // Another screen, without the fault, is back at once.
    desk.sit_down_anew();
    desk.start("", "attach");
    desk.wait("the demo", |s| s.contains("PLAY"));
    desk.leave();
}

#[test]
fn where_the_engine_fails_dark_stays_dark_and_all_is_as_it_was() {
    let desk = Desk::new("dark");
    let trap = desk.state.path().join("trap");
    desk.start(&format!("SPLIMO_FAULT=engine@{}", trap.display()), "demo");
    desk.wait("the demo", |s| s.contains("PLAY") && on_stage(s) == "Tide");
    desk.keys(&["5", "Enter"]);
    desk.wait("Squall on stage", |s| on_stage(s) == "Squall" && !s.contains("⟨Squall"));
    desk.keys(&["-", "-"]);
    desk.wait("a lower master", |s| s.contains("master  90"));
    desk.keys(&["`"]);
    desk.wait("a blackout", |s| s.contains("BLACKOUT"));
    std::fs::write(&trap, "").expect("writes");
    let after = desk.wait("the trouble", |s| s.contains("engine: failed and was started anew"));
    assert!(after.contains("BLACKOUT"), "{after}");
    assert_eq!(on_stage(&after), "Squall", "{after}");
    desk.keys(&["`"]);
    desk.wait("light", |s| !s.contains("BLACKOUT") && s.contains("master  90"));
    desk.leave();
}

#[test]
fn a_failure_of_the_engine_or_the_sender_is_survived() {
    for part in ["engine", "sender", "sound"] {
        let desk = Desk::new(part);
        desk.start(&format!("SPLIMO_FAULT={part}"), "demo");
        desk.wait("the trouble", |s| s.contains(&format!("{part}: failed and was started anew")));
        desk.keys(&["F3"]);
        let packets = |screen: &str| {
            let line = screen.lines().find(|l| l.contains(" packets out")).unwrap_or_default().to_owned();
            line.split_whitespace().next().and_then(|w| w.parse::<u64>().ok()).unwrap_or(0)
        };
        let before = packets(&desk.wait("Output", |s| packets(s) > 0));
        desk.wait("more packets", |s| packets(s) > before + 100);
        desk.leave();
    }
}
