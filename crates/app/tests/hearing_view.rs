//! The view of what is heard, in the real program and a real terminal: made music plays, keys go in, the screen is read.

mod desk;

use desk::Desk;
use splimo_corpus::{piece, style, wav};

/// The words behind the name of a line.
fn line(screen: &str, name: &str) -> String {
    let found = screen.lines().find_map(|line| line.trim_start().strip_prefix(name).map(str::trim));
    found.unwrap_or_default().to_owned()
}

#[test]
fn music_is_heard_on_inputs_and_its_keys_do_what_they_say() {
    let desk = Desk::new("inputs");
    let music = piece(style::find("machine").expect("a style"), 100.0, 2);
    let bpm = 60.0 * 8.0 / (music.beats[9] - music.beats[1]);
    std::fs::write(desk.state.path().join("made.wav"), wav(&music.samples, 48_000, 1)).expect("written");
    std::fs::write(desk.state.path().join("quay.splimo"), include_str!("../../../shows/lantern-quay.splimo"))
        .expect("written");
    desk.start("", "open quay.splimo --audio made.wav");
    desk.wait("the show", |s| s.contains("F7"));
    desk.keys(&["F7"]);
    desk.wait("its tempo", |s| {
        let told = line(s, "tempo").split_whitespace().next().and_then(|word| word.parse::<f64>().ok());
        told.is_some_and(|told| (told / bpm - 1.0).abs() < 0.01) && line(s, "leads").contains("now heard")
    });

    // What each key of the hint line says.
    desk.keys(&["Up", "Up", "Right"]);
    desk.wait("gain and earlier light", |s| s.contains("gain +2 dB") && s.contains("light 1 ms early"));
    desk.keys(&["Down", "Left", "PageUp"]);
    desk.wait("a level of silence", |s| {
        s.contains("gain +1 dB") && s.contains("silent below") && s.contains("light 0 ms")
    });
    desk.keys(&["PageDown", "b", "a", "d"]);
    desk.wait("other bands", |s| s.contains("32 bands   up 10 ms, down 80 ms"));
    desk.keys(&["B", "B", "B", "A", "D"]);
    desk.wait("as few as there are", |s| s.contains("16 bands   up 0 ms, down 60 ms"));
    desk.keys(&["l"]);
    desk.wait("another leader, the music where it is silent", |s| {
        let leads = line(s, "leads");
        leads.contains("MIDI") && leads.contains("now heard")
    });
    desk.keys(&["l", "l", "l"]);
    desk.wait("the music again", |s| line(s, "leads").starts_with("music"));
    desk.keys(&["p"]);
    desk.wait("silence while it is held", |s| line(s, "level").contains("silence"));
    desk.keys(&["p", "]"]);
    desk.wait("sound again", |s| line(s, "level").contains("LUFS"));
    desk.keys(&["F8"]);
    desk.wait("a part that was said", |s| s.contains("[build]") || s.contains("[drop]") || s.contains("[breakdown]"));

    // All lights flash, and whatever ends the flash ends the click.
    desk.keys(&["c"]);
    desk.wait("flash and click", |s| s.contains("until light and click are one"));
    desk.keys(&["c"]);
    desk.wait("the end of it", |s| s.contains("flash and click have ended"));

    // A small terminal has fewer words, but whole ones.
    desk.tmux(&["resize-window", "-t", "desk", "-x", "80", "-y", "24"]);
    desk.wait("Inputs at 80x24", |s| {
        let last = s.lines().last().unwrap_or_default().trim_end().to_owned();
        s.contains("INPUTS") && last.ends_with("F1 help") && s.lines().all(|l| l.chars().count() <= 80)
    });
    desk.keys(&["F1"]);
    desk.wait("help", |s| s.contains("What is heard: how loud"));
    desk.keys(&["Escape"]);
    desk.leave();
}
