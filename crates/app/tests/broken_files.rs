//! Files that are broken or missing: what is said of them, and what can be opened all the same, in the real program.

mod desk;

use std::path::Path;
use std::process::Output;

use desk::Desk;

const SHOW: &str = r##"version = 1
name = "Broken"
[settings]
rate = "fast"
[[fixtures]]
name = "Bar"
profile = "rgb"
address = "1.1"
shape = { line = { cells = 4 } }
x = 50.0
y = 10.0
[[looks]]
name = "White"
[[looks.layers]]
effect = "solid"
params = { colours = ["#ffffff"] }
[[looks]]
name = "Odd
"##;

/// A film of three pictures, four a second, black, grey and white.
fn film() -> Vec<u8> {
    let mut bytes = b"YUV4MPEG2 W4 H4 F4:1 Cmono\n".to_vec();
    for light in [16u8, 126, 235] {
        bytes.extend(b"FRAME\n");
        bytes.extend([light; 16]);
    }
    bytes
}

fn file(desk: &Desk, name: &str, bytes: impl AsRef<[u8]>) {
    std::fs::write(desk.state.path().join(name), bytes).expect("written");
}

fn said(output: &Output) -> String {
    format!("{}{}", String::from_utf8_lossy(&output.stdout), String::from_utf8_lossy(&output.stderr))
}

#[test]
fn a_show_that_cannot_be_read_offers_the_rest_and_the_backup() {
    let desk = Desk::new("broken");
    file(&desk, "night.splimo", SHOW);
    file(&desk, "night.splimo.bak", "version = 1\nname = \"Before\"\n");
    let checked = desk.splimo(&["check", "night.splimo"]);
    let words = said(&checked);
    assert_eq!(checked.status.code(), Some(1), "{words}");
    assert!(words.contains("night.splimo:4: broken") && words.contains("\"fast\" stands where a number"), "{words}");
    assert!(words.contains("night.splimo:18: broken") && words.contains("2 problems"), "{words}");
    desk.start("", "open night.splimo");
    desk.wait("the offer", |s| s.contains("night.splimo: line 4:") && s.contains("1 fixtures, 1 looks"));
    desk.type_line("r");
    desk.wait("the rest", |s| s.contains("Broken") && s.contains("PLAY"));
    desk.keys(&["F4"]);
    desk.wait("its look", |s| s.contains("White"));
    desk.leave();
    let beside = |name: &str| desk.state.path().join(name);
    assert_eq!(std::fs::read_to_string(beside("night.splimo")).expect("it is there"), SHOW, "it stays as it is");
    assert!(beside("night-rest.splimo").is_file());
    desk.sit_down_anew();
    desk.start("", "open night.splimo --backup");
    desk.wait("the one before", |s| s.contains("Before") && s.contains("RIG"));
    desk.leave();
    assert!(beside("night-backup.splimo").is_file());
}

fn look_with(effect: &str, param: &str, name: &str) -> String {
    let head = "version = 1\nname = \"Media\"\n[[fixtures]]\nname = \"Bar\"\nprofile = \"rgb\"\naddress = \"1.1\"\n\
                shape = { line = { cells = 4 } }\nx = 50.0\ny = 10.0\n[[looks]]\nname = \"Seen\"\n[[looks.layers]]\n";
    let routes =
        "[[routes]]\nname = \"Out\"\nuniverses = \"1\"\nprotocol = \"art-net\"\nfirst = 0\nto = \"127.0.0.9\"\n";
    format!("{head}effect = \"{effect}\"\nparams = {{ {param} = \"{name}\" }}\n{routes}")
}

#[test]
fn files_that_a_look_names_are_missed_by_check_and_render() {
    let desk = Desk::new("media");
    for (effect, param, name) in
        [("picture", "file", "no.png"), ("video", "file", "no.y4m"), ("marquee", "file", "no.ttf")]
    {
        file(&desk, "media.splimo", look_with(effect, param, name));
        let checked = desk.splimo(&["check", "media.splimo"]);
        assert_eq!(checked.status.code(), Some(1));
        assert!(said(&checked).contains(name) && said(&checked).contains("look Seen"), "{}", said(&checked));
        if effect != "marquee" {
            let rendered =
                desk.splimo(&["render", "media.splimo", "--look", "Seen", "--seconds", "1", "--out", "a.frames"]);
            assert!(!rendered.status.success() && said(&rendered).contains(name), "{}", said(&rendered));
            assert!(!desk.state.path().join("a.frames").exists());
        }
    }
}

#[test]
fn a_render_of_a_film_shows_its_pictures_when_they_are_due() {
    let desk = Desk::new("film");
    file(&desk, "media.splimo", look_with("video", "file", "three.y4m"));
    file(&desk, "three.y4m", film());
    let checked = desk.splimo(&["check", "media.splimo"]);
    assert_eq!(checked.status.code(), Some(0), "{}", said(&checked));
    let render = |out: &str| -> Vec<u8> {
        let done = desk.splimo(&["render", "media.splimo", "--look", "Seen", "--seconds", "1", "--out", out]);
        assert!(done.status.success(), "{}", said(&done));
        std::fs::read(Path::new(desk.state.path()).join(out)).expect("it is there")
    };
    let frames = render("a.frames");
    assert_eq!(frames, render("b.frames"), "the same every time");
    // A frame holds one universe; a picture as high as it is wide fills the middle of the bar.
    let lights: Vec<u8> = frames.chunks(512).map(|frame| frame.iter().copied().max().unwrap_or(0)).collect();
    assert_eq!(lights.len(), 44);
    let at = |seconds: f64| lights[(seconds * 44.0) as usize];
    assert!(at(0.1) == 0 && at(0.4) > 10 && at(0.6) > 2 * at(0.4) && at(0.9) == at(0.6), "{lights:?}");
}

#[test]
fn warnings_fail_where_one_is_strict() {
    let desk = Desk::new("strict");
    let unrouted = look_with("solid", "colours", "").replace("params = { colours = \"\" }\n", "");
    let unrouted = unrouted.split("[[routes]]").next().expect("a beginning");
    file(&desk, "warned.splimo", unrouted);
    let [usual, strict] =
        [&["check", "warned.splimo"][..], &["check", "warned.splimo", "--strict"]].map(|a| desk.splimo(a));
    assert!(said(&usual).contains("warning: universe 1: no route carries it"), "{}", said(&usual));
    assert_eq!((usual.status.code(), strict.status.code()), (Some(0), Some(1)));
}
