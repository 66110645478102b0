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

#[test]
fn a_terminal_with_sixteen_colours_gets_no_others_and_one_without_gets_none() {
    let desk = Desk::new("few");
    desk.start("TERM=linux COLORTERM=", "demo --with-screen");
    desk.wait("the screen", is_there);
    desk.wait("some colours", |_| coloured(&desk).contains("\u{1b}[9") || coloured(&desk).contains(";9"));
    let screen = coloured(&desk);
    assert!(!screen.contains("8;2;") && !screen.contains("8;5;"), "colours that a console does not have");
    desk.leave();
    desk.sit_down_anew();
    desk.start("NO_COLOR=1", "demo --with-screen");
    desk.wait("the screen", is_there);
    let screen = coloured(&desk);
    let codes = screen.split('\u{1b}').skip(1).filter_map(|rest| rest.strip_prefix('[')?.split_once('m'));
    let parts = codes.flat_map(|(codes, _)| codes.split(';').map(str::to_owned).collect::<Vec<_>>());
    let colours: Vec<String> = parts.filter(|code| code.len() == 2 && code != "39" && code != "49").collect();
    assert!(colours.is_empty(), "{colours:?}");
    desk.leave();
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
        desk.wait("the whole screen", |screen| screen.contains("well") && screen.contains("F1 help"));
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
