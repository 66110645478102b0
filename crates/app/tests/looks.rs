//! The view Looks in the real program: a look made by keys alone, frozen, given to other lights, and taken back.

mod desk;

use desk::Desk;
use splimo_document::file;
use splimo_show::{Param, Show};

/// A show with a wall and a bar, a palette, and one empty look.
const SHOW: &str = r##"version = 1
name = "Two walls"

[[palette]]
name = "Foam"
colours = ["#e9fbff"]

[[fixtures]]
name = "Wall"
profile = "rgb"
address = "1.1"
shape = { grid = { columns = 16, rows = 8 } }
x = 30.0
y = 20.0

[[fixtures]]
name = "Bar"
profile = "rgb"
address = "2.1"
shape = { line = { cells = 40 } }
x = 40.0
y = 40.0

[[looks]]
name = "Nothing yet"
"##;

fn saved(desk: &Desk) -> Show {
    let text = std::fs::read_to_string(desk.state.path().join("walls.splimo")).expect("it is there");
    file::read(&text).expect("it is right").show
}

fn open(name: &str) -> Desk {
    let desk = Desk::new(name);
    std::fs::write(desk.state.path().join("walls.splimo"), SHOW).expect("writes");
    desk.start("", "open walls.splimo --audio none");
    desk.wait("the stage", |screen| screen.contains("PLAY"));
    desk.keys(&["F4"]);
    desk.wait("the looks", |screen| screen.contains("Nothing yet: a adds a layer."));
    desk
}

fn typed(desk: &Desk, text: &str) -> usize {
    desk.tmux(&["send-keys", "-t", "desk", "-l", text]);
    text.chars().count()
}

fn pressed(desk: &Desk, keys: &[&str]) -> usize {
    desk.keys(keys);
    keys.len()
}

/// Adds a layer of an effect by the beginning of its name.
fn add_layer(desk: &Desk, beginning: &str, effect: &str, count: usize) -> usize {
    let mut keys = typed(desk, "a");
    desk.wait("the effects", |screen| screen.contains("type to find one"));
    keys += typed(desk, beginning) + pressed(desk, &["Enter"]);
    let line = format!("{count} {effect}");
    desk.wait(&line, |screen| screen.contains(&line));
    keys
}

#[test]
fn a_look_is_made_in_under_forty_keys_and_taken_back() {
    let desk = open("looks");
    let mut keys = add_layer(&desk, "gra", "gradient", 1);
    keys += add_layer(&desk, "swe", "sweep", 2);
    keys += add_layer(&desk, "spa", "sparkle", 3);
    keys += typed(&desk, "m");
    desk.wait("the modulator", |screen| screen.contains("what moves colours hue"));
    keys += pressed(&desk, &["Enter"]);
    desk.wait("that it moves", |screen| screen.contains("sine 4 beats"));
    keys += typed(&desk, "p");
    desk.wait("the palette", |screen| screen.contains("the palette:"));
    keys += pressed(&desk, &["Enter"]);
    desk.wait("its colour", |screen| screen.contains("the layer has Foam"));
    keys += typed(&desk, "r");
    desk.wait("the area", |screen| screen.contains("from the left"));
    keys += pressed(&desk, &["Right", "Enter"]);
    desk.wait("half", |screen| screen.contains("left half") && screen.contains("each later"));
    keys += typed(&desk, "ss");
    desk.wait("its span", |screen| screen.contains("each fixture"));
    assert!(keys < 40, "{keys} keys");
    desk.keys(&["C-s"]);
    desk.wait("that it is saved", |screen| screen.contains("saved as"));
    let look = saved(&desk).looks[0].clone();
    let layer = &look.layers[2];
    assert_eq!(look.layers.iter().map(|l| l.effect.as_str()).collect::<Vec<_>>(), ["gradient", "sweep", "sparkle"]);
    assert_eq!(layer.params["colours"], Param::List(vec!["{Foam}".into()]));
    assert_eq!((layer.modulators.len(), layer.area.width, layer.span.name()), (1, 50.0, "each fixture"));

    // Other lights for all of it, then all the way back to the empty look.
    typed(&desk, "T");
    desk.wait("the lights", |screen| screen.contains("of all layers"));
    typed(&desk, "bar");
    desk.keys(&["Enter"]);
    desk.wait("that it is changed", |screen| screen.contains("changed in one look"));
    desk.keys(&["C-s"]);
    desk.wait("that it is saved", |screen| screen.contains("saved as"));
    assert!(saved(&desk).looks[0].layers.iter().all(|layer| layer.target == ["Bar"]));
    for _ in 0..12 {
        desk.keys(&["C-z"]);
    }
    desk.wait("nothing to undo", |screen| screen.contains("nothing to undo"));
    desk.wait("the empty look", |screen| screen.contains("Nothing yet: a adds a layer."));
    desk.leave();
}

#[test]
fn what_is_on_the_lights_is_frozen_light_by_light() {
    let desk = open("freeze");
    // A colour of which nearly all is red, or green, or blue.
    let rainbow = || {
        let colours = desk.colours();
        let full = |part: usize| colours.iter().any(|c| c[part] > 150 && (0..3).all(|p| p == part || c[p] < 90));
        (0..3).all(full)
    };
    assert!(!rainbow(), "nothing is lit yet");
    add_layer(&desk, "rai", "rainbow", 1);
    typed(&desk, "l");
    desk.keys(&["Enter"]);
    // The look has been on the lights since before it had a layer: it is there when its colours are.
    desk.wait("it on the lights", |screen| screen.contains("live: on the lights now") && rainbow());
    typed(&desk, "z");
    desk.wait("the choice", |screen| screen.contains("a colour for each light"));
    typed(&desk, "c");
    desk.wait("a look", |screen| screen.contains("Nothing yet held"));
    desk.keys(&["C-s"]);
    desk.wait("that it is saved", |screen| screen.contains("saved as"));
    let show = saved(&desk);
    let held = &show.looks[1].layers[0];
    assert_eq!((held.effect.as_str(), held.lights.len()), ("still", 2));
    let colours = |name: &str| splimo_light::still::parse(&held.lights[name]).expect("they can be read");
    assert_eq!(colours("Wall").len(), 128);
    // The bar is as wide as all lights together, so that all of the rainbow is on it, wherever that is at the moment.
    let bar = colours("Bar");
    assert!((0..3).all(|part| bar.iter().any(|c| c[part] > 0.5)), "a rainbow has all colours: {bar:?}");
    desk.leave();
}

#[test]
fn files_that_are_missing_or_broken_are_told_and_the_rest_runs_on() {
    let desk = Desk::new("media");
    let layers = [("picture", "cut.png"), ("marquee", "none.ttf"), ("video", "cut.y4m")];
    let mut show = SHOW.to_owned();
    for (effect, name) in layers {
        show.push_str(&format!("[[looks.layers]]\neffect = \"{effect}\"\nparams = {{ file = \"{name}\" }}\n"));
    }
    show.push_str("[[looks.layers]]\neffect = \"solid\"\ntarget = [\"Bar\"]\nparams = { colours = [\"#ff0000\"] }\n");
    show.push_str(
        "[[routes]]\nname = \"Box\"\nuniverses = \"1-2\"\nprotocol = \"art-net\"\nfirst = 0\nto = \"127.9.9.9\"\n",
    );
    std::fs::write(desk.state.path().join("walls.splimo"), show).expect("writes");
    std::fs::write(desk.state.path().join("cut.png"), b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR").expect("writes");
    std::fs::write(desk.state.path().join("cut.y4m"), b"YUV4MPEG2 W8 H8 F25:1\nFRAME\nxxxx").expect("writes");
    desk.start("", "run walls.splimo --for 2s --audio none");
    let screen = desk.wait("the end", |screen| screen.contains("EXIT=0"));
    let words = screen.replace('\n', "");
    for told in ["picture cut.png", "font none.ttf", "film cut.y4m", "its last picture stays"] {
        assert!(words.contains(told), "{told}: {screen}");
    }
    assert!(words.contains("88 frames") || words.contains("frames,"), "{screen}");
}
