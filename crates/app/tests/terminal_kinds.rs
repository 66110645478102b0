//! The screen on terminals of other kinds, by what the environment tells of them: fewer colours, none, ASCII alone, hardly any room, and
//! the choices of a person.

mod desk;

use desk::Desk;

/// The screen with its colours, as tmux has it.
fn coloured(desk: &Desk) -> String {
    desk.tmux(&["capture-pane", "-e", "-p", "-t", "desk"])
}

fn is_there(screen: &str) -> bool {
    screen.contains("fps") && screen.contains("Lantern Quay")
}

/// Kinds of control sequences that select a colour, as ECMA-48 and ISO/IEC 8613-6 have it.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Colours {
    True,
    Indexed,
    Sixteen,
    None,
}

/// The parameters of a screen that select colours, by their kind.
fn kinds_of_colour(screen: &str) -> Vec<Colours> {
    let codes = screen.split('\u{1b}').skip(1).filter_map(|rest| Some(rest.strip_prefix('[')?.split_once('m')?.0));
    let kind = |codes: &str| -> Option<Colours> {
        if codes.contains("8;2;") {
            return Some(Colours::True);
        }
        if codes.contains("8;5;") {
            return Some(Colours::Indexed);
        }
        let number = |code: &str| code.parse::<u8>().unwrap_or(0);
        let named = |code: u8| matches!(code, 30..=37 | 40..=47 | 90..=97 | 100..=107);
        codes.split(';').map(number).any(named).then_some(Colours::Sixteen)
    };
    codes.filter_map(kind).collect()
}

#[test]
fn every_view_has_the_colours_of_its_terminal_and_no_others() {
    let desk = Desk::new("few");
    for (environment, expected) in [
        ("TERM=tmux-256color COLORTERM=truecolor", Colours::True),
        ("TERM=tmux-256color COLORTERM=truecolor COLORFGBG='0;15'", Colours::True),
        ("TERM=xterm-256color COLORTERM=", Colours::Indexed),
        ("TERM=linux COLORTERM=", Colours::Sixteen),
        ("TERM=xterm COLORTERM=", Colours::Sixteen),
        ("TERM=ansi COLORTERM= COLORFGBG='0;15'", Colours::Sixteen),
        ("NO_COLOR=1", Colours::None),
        ("TERM=vt100 COLORTERM=", Colours::None),
    ] {
        desk.start(environment, "demo --with-screen");
        desk.wait("the screen", is_there);
        for (key, tab) in
            [("F2", "RIG"), ("F3", "OUTPUT"), ("F4", "LOOKS"), ("F5", "CUES"), ("F6", "PLAY"), ("F7", "INPUTS")]
        {
            desk.keys(&[key]);
            desk.wait(tab, |screen| screen.lines().nth(1).is_some_and(|tabs| tabs.contains(tab)));
            let seen = kinds_of_colour(&coloured(&desk));
            assert!(seen.iter().all(|kind| *kind == expected), "{environment} {tab}: {seen:?}");
            assert_eq!(seen.is_empty(), expected == Colours::None, "{environment} {tab}");
        }
        desk.leave();
        desk.sit_down_anew();
    }
}

#[test]
fn a_locale_without_utf_8_gets_ascii_and_hardly_any_room_what_matters() {
    let desk = Desk::new("ascii");
    desk.start("LC_ALL=C", "demo --with-screen");
    let screen = desk.wait("the screen", is_there);
    let odd: String = screen.chars().filter(|letter| !letter.is_ascii()).collect();
    assert!(odd.is_empty(), "{odd}");
    desk.tmux(&["resize-window", "-t", "desk", "-x", "40", "-y", "12"]);
    let screen = desk.wait("what matters", |screen| screen.contains("dark") && screen.contains("master"));
    for word in ["Lantern Quay", "bpm", "base", "panic", "tap"] {
        assert!(screen.contains(word), "{word}: {screen}");
    }
    desk.keys(&["`"]);
    desk.wait("darkness", |screen| screen.contains("BLACKOUT"));
    desk.keys(&["`"]);
    desk.wait("light", |screen| screen.contains("master"));
    for (width, height) in [("80", "24"), ("120", "36"), ("250", "70")] {
        desk.tmux(&["resize-window", "-t", "desk", "-x", width, "-y", height]);
        desk.wait("the whole screen", |screen| {
            (screen.contains("well") || screen.contains("trouble")) && screen.contains("F1 help")
        });
    }
    desk.tmux(&["resize-window", "-t", "desk", "-x", "158", "-y", "48"]);
    desk.wait("the screen", is_there);
    desk.leave();
}

#[test]
fn keys_are_those_of_the_person_and_of_the_keyboard() {
    let desk = Desk::new("choices");
    let folder = desk.state.path().join("config/splimo");
    std::fs::create_dir_all(&folder).expect("a folder");
    let config = "layout = \"fr\"\ntheme = \"light\"\nteme = 1\n[keys]\n\"blackout\" = [\"F10\", \"`\"]\n";
    std::fs::write(folder.join("config.toml"), config).expect("written");
    let check = desk.splimo(&["config", "--check"]);
    let told = String::from_utf8_lossy(&check.stdout).into_owned();
    assert_eq!(check.status.code(), Some(1), "{told}");
    assert!(told.contains("line 3: ") && told.contains("\"theme\" may be meant"), "{told}");
    desk.start("", "demo --with-screen");
    let screen = desk.wait("the screen", is_there);
    assert!(screen.contains("config.toml: line 3: "), "{screen}");
    // What is told of the file gives way to the hints at the next key.
    desk.keys(&["Escape"]);
    desk.wait("the hints", |screen| screen.contains("F10 ") && screen.contains("&-à a-p"));
    desk.keys(&["F10"]);
    desk.wait("darkness", |screen| screen.contains("BLACKOUT   F10 "));
    desk.keys(&["F10"]);
    desk.wait("light", |screen| !screen.contains("BLACKOUT"));
    // The first pad is where a 1 is elsewhere.
    desk.tmux(&["send-keys", "-t", "desk", "-l", "&"]);
    desk.wait("the first pad", |screen| screen.contains("⟨Tide") || desk::on_tier(screen, "base") == "Tide");
    desk.leave();
}
