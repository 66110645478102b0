//! Shows as text: what is read is written again, what is wrong is told with its line, and no text makes anything panic.

use proptest::prelude::*;
use splimo_document::check::check;
use splimo_document::file::read;
use splimo_document::file::write;
use splimo_show::Severity;
use splimo_show::{Address, Boundary, Fixture, Look, Show, Tint, write_over};

const LANTERN_QUAY: &str = include_str!("../../../shows/lantern-quay.splimo");

fn with(text: &str, new: &str) -> String {
    assert!(LANTERN_QUAY.contains(text), "{text} is not in the demo show");
    LANTERN_QUAY.replacen(text, new, 1)
}

fn error(text: &str) -> (Option<usize>, String) {
    let error = read(text).expect_err("it is wrong");
    (error.line, error.to_string())
}

fn line_of(text: &str, part: &str) -> Option<usize> {
    text.lines().position(|l| l.contains(part)).map(|l| l + 1)
}

#[test]
fn the_demo_show_is_right_and_survives_writing() {
    let opened = read(LANTERN_QUAY).expect("a good show");
    assert_eq!(opened.warnings, Vec::<String>::new());
    assert_eq!(check(&opened.show), vec![]);
    let again = read(&write(&opened.show).expect("writes")).expect("reads");
    assert_eq!(again.show, opened.show);
}

#[test]
fn what_is_wrong_is_told_with_its_line() {
    for (text, new, part, words) in [
        ("rate = 44.0", "rate = \"fast\"", "rate = \"fast\"", "a number"),
        ("rate = 44.0", "rate = 9000", "rate = 9000", "1 to 200"),
        ("profile = \"grb\"", "profile = \"xyz\"", "profile = \"xyz\"", "no profile \"xyz\""),
        ("address = \"8.1\"", "address = \"8.513\"", "8.513", "channels 1 to 512"),
        ("target = [\"Bridge\"]", "target = [\"Brigde\"]", "Brigde", "no group or fixture \"Brigde\""),
        ("effect = \"rain\"", "effect = \"rian\"", "effect = \"rian\"", "no effect \"rian\""),
        ("density = 55.0", "density = 155.0", "density = 155.0", "0 to 100"),
        ("density = 55.0", "denseness = 55.0", "denseness", "no parameter \"denseness\""),
        ("speed = \"32 beats\"", "speed = \"32 bears\"", "32 bears", "4 beats"),
        ("to = \"127.0.0.4\"", "to = \"the box\"", "the box", "multicast"),
        ("\"Sail 2\", \"Sail 3\"", "\"Sail 2\", \"Sail 33\"", "Sail 33", "no fixture \"Sail 33\""),
        ("cells = 120", "cells = 0", "cells = 0", "0 cells"),
    ] {
        let text = with(text, new);
        let (line, message) = error(&text);
        assert_eq!(line, line_of(&text, part), "{message}");
        assert!(message.contains(words), "{message}");
    }
}

#[test]
fn versions_are_looked_at_first() {
    let (line, message) = error(&with("version = 1", "version = 2"));
    assert!(line == line_of(LANTERN_QUAY, "version = 1") && message.contains("newer Splimo"), "{message}");
    let (_, message) = error("name = \"No version\"");
    assert!(message.contains("version = 1"), "{message}");
    let (line, _) = error("version = 1\nname = \"Open\n");
    assert_eq!(line, Some(2));
}

#[test]
fn unknown_fields_are_warned_of_and_kept_with_what_they_belong_to() {
    let text = with("name = \"Bridge\"", "name = \"Bridge\"\nhung_by = \"Ada\"")
        .replace("dither = true", "dither = true\nmood = 7");
    let opened = read(&text).expect("it opens all the same");
    assert_eq!(opened.warnings.len(), 2);
    let line = line_of(&text, "hung_by").expect("it is there");
    assert!(
        opened.warnings.iter().any(|w| w.contains(&format!("line {line}")) && w.contains("hung_by")),
        "{:?}",
        opened.warnings
    );
    // The list changes; the field stays with the Bridge.
    let mut show = opened.show;
    show.fixtures.remove(0);
    show.groups[0].members.remove(0);
    let again = read(&write(&show).expect("writes")).expect("reads");
    let places: Vec<String> = again.show.unknown.iter().map(|u| format!("{}={}", u.place, u.value)).collect();
    assert!(places.contains(&"fixtures[Bridge].hung_by=\"Ada\"".to_owned()), "{places:?}");
    assert!(places.contains(&"settings.mood=7".to_owned()), "{places:?}");
}

#[test]
fn a_changed_show_is_written_over_its_text_and_the_comments_stay() {
    let mut show = read(LANTERN_QUAY).expect("a good show").show;
    assert_eq!(write_over(LANTERN_QUAY, &show), Ok(LANTERN_QUAY.to_owned()), "nothing changed");
    show.settings.fade_beats = 4.0;
    show.looks[3].layers[1].opacity = 0.25;
    let text = write_over(LANTERN_QUAY, &show).expect("writes");
    assert_eq!(read(&text).expect("reads").show, show);
    let changed: Vec<_> = text.lines().filter(|line| !LANTERN_QUAY.contains(line)).collect();
    assert_eq!(changed, ["fade_beats = 4.0", "opacity = 0.25"], "only what changed is written anew");
    assert!(text.contains("# The Sail: 24 upright battens"));
    // What grew or shrank, and what was no show at all, is written too.
    show.looks.truncate(2);
    show.fixtures.push(show.fixtures[0].clone());
    show.settings.lands = Boundary::Phrase;
    for before in [LANTERN_QUAY, "", "version = 7", "no show"] {
        let text = write_over(before, &show).expect("writes");
        assert_eq!(read(&text).expect("reads").show, show);
    }
}

#[test]
fn what_is_added_and_taken_out_leaves_the_rest_of_the_text() {
    let mut show = read(LANTERN_QUAY).expect("a good show").show;
    let fresh = Fixture { name: "Jetty".into(), address: None, ..show.fixtures[0].clone() };
    show.fixtures.insert(2, fresh);
    show.fixtures.retain(|f| f.name != "Sail 24");
    show.groups[0].members.retain(|name| name != "Sail 24");
    show.looks.push(Look::new("New", show.looks[0].layers.clone()));
    let text = write_over(LANTERN_QUAY, &show).expect("writes");
    assert_eq!(read(&text).expect("reads").show, show);
    for comment in LANTERN_QUAY.lines().filter(|line| line.starts_with('#')) {
        assert!(text.contains(comment), "{comment} is gone");
    }
    let place = |words: &str| text.find(words).unwrap_or_else(|| panic!("{words} is not there"));
    assert!(
        place("name = \"Sail 2\"") < place("name = \"Jetty\"")
            && place("name = \"Jetty\"") < place("name = \"Sail 3\"")
    );
    let kept = text.lines().filter(|line| LANTERN_QUAY.contains(*line)).count();
    assert!(kept + 40 > LANTERN_QUAY.lines().count(), "{kept} of {} lines stay", LANTERN_QUAY.lines().count());
}

#[test]
fn profiles_wirings_and_groups_are_read_as_people_write_them() {
    let text = r##"
version = 1
name = "Odd things"

[[profiles]]
name = "bar"
channels = ["shutter", { does = "dimmer", cell = 0, default = 200 }, "red", { does = "green", bits = 16 }, "intensity"]
curve = { points = [[0.25, 0.05], [0.5, 0.2]] }
white = "add"
highlight = 0.5

[[fixtures]]
name = "Bar"
profile = "bar"
address = "1.1"
split = true
shape = { points = { at = [[0.0, 0.0], [1.5, -2.0]] } }
wiring = { reversed = true, gap = 2, skip = [3, 7] }
x = 10.0
y = 10.0
mirror = true
pan = 20.0

[[groups]]
name = "Bars"
members = ["Bar"]
colour = "#40a0ff"
"##;
    let show = read(text).expect("it is right").show;
    let profile = &show.profiles[0];
    assert_eq!(profile.channels.len(), 5);
    assert_eq!((profile.layout().head, profile.layout().block), (0, 6), "what is not before the cells is among them");
    assert_eq!(profile.channels[1].rest(), 200);
    assert_eq!(show.groups[0].colour, Some(Tint([0x40, 0xa0, 0xff])));
    assert_eq!(show.fixtures[0].wiring.to_string(), "top left, rows, reversed, gap 2, skip 3 7");
    assert_eq!(read(&write(&show).expect("writes")).expect("reads").show, show);
    for (right, wrong, words) in [
        ("bits = 16", "bits = 12", "bits is 8 or 16"),
        ("\"shutter\"", "\"shuter\"", "shuter"),
        ("default = 200", "default = 256", "the default of dimmer is over 255"),
        ("[0.5, 0.2]", "[0.2, 0.2]", "lie within 0 and 1, and rise"),
        ("highlight = 0.5", "highlight = 5", "out of range"),
        ("skip = [3, 7]", "skip = [7, 3]", "do not rise"),
        ("#40a0ff", "bluish", "is not a colour"),
        ("pan = 20.0", "pan = 120.0", "out of range"),
        ("cell = 0", "cell = 3", "cell 2 has no channel"),
    ] {
        let broken = text.replacen(right, wrong, 1);
        let (line, message) = error(&broken);
        assert!(message.contains(words), "{wrong}: {message}");
        assert!(line.is_some(), "{wrong}: {message}");
    }
}

#[test]
fn problems_have_a_place_and_a_mend() {
    let mut show = read(LANTERN_QUAY).expect("a good show").show;
    let bridge = show.fixtures.iter().position(|f| f.name == "Bridge").expect("it is there");
    show.fixtures[bridge].address = Some(Address { universe: 7, channel: 1 });
    show.fixtures[bridge].x = 500.0;
    show.fixtures[0].address = None;
    show.routes.pop();
    let problems = check(&show);
    let told = |severity: Severity, words: &str| {
        let found = problems.iter().find(|p| p.severity == severity && p.to_string().contains(words));
        let found = found.unwrap_or_else(|| panic!("nobody tells of {words}: {problems:#?}"));
        assert!(!found.mend.is_empty());
    };
    told(Severity::Error, "Bridge: it overlaps fixture Sail");
    told(Severity::Warning, "Bridge: 320 of its 320 cells lie off the canvas");
    told(Severity::Warning, "Sail 1: it is not patched");
    told(Severity::Warning, "universe 15: no route carries it");
    assert!(problems.is_sorted_by(|a, b| a.severity >= b.severity));
}

/// A smaller show with one of everything, so that each case is quick.
fn small() -> String {
    let mut show: Show = read(LANTERN_QUAY).expect("a good show").show;
    show.fixtures.retain(|f| ["Bridge", "Lantern", "Mast L", "Flood 1"].contains(&f.name.as_str()));
    show.groups.retain(|g| g.name == "Floods");
    show.groups[0].members.truncate(1);
    show.looks.truncate(3);
    for layer in show.looks.iter_mut().flat_map(|l| &mut l.layers) {
        layer.target.retain(|t| ["Bridge", "Lantern", "Floods"].contains(&t.as_str()));
    }
    write(&show).expect("writes")
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    #[test]
    fn a_corrupted_show_is_an_error_or_loads(changes in proptest::collection::vec((any::<prop::sample::Index>(), any::<u8>()), 1..4)) {
        let mut bytes = small().into_bytes();
        for (place, byte) in changes {
            let place = place.index(bytes.len());
            bytes[place] = byte;
        }
        let text = String::from_utf8_lossy(&bytes);
        if let Ok(opened) = read(&text) {
            // What loads can be checked, written and played.
            let _ = check(&opened.show);
            prop_assert!(write(&opened.show).is_ok());
            let _ = splimo_light::rig::Rig::compile(&opened.show);
        }
    }

    #[test]
    fn a_show_cut_short_is_an_error_or_loads(place: prop::sample::Index) {
        let text = small();
        let place = place.index(text.len());
        let _ = read(&text[..text.floor_char_boundary(place)]);
    }
}
