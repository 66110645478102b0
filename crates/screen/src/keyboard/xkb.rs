//! The rows of layouts against the X keyboard extension's own files, and every usual key against each layout.

use std::collections::BTreeMap;
use std::path::Path;

use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

use super::layout::{DEAD, Layout, NONE};
use super::{key_of, name_of};
use crate::views::{Usual, ViewId};

/// The folder of the layouts, on machines that have them.
const SYMBOLS: &str = "/usr/share/X11/xkb/symbols";

/// The letters of keys, by themselves and with Shift.
type Keys = BTreeMap<String, [String; 2]>;

/// The text of a part of a file, such as `latin(type4)`.
fn part(name: &str) -> Option<String> {
    let (file, part) = name.split_once('(').map_or((name, None), |(file, part)| (file, part.strip_suffix(')')));
    let text = std::fs::read_to_string(Path::new(SYMBOLS).join(file)).ok()?;
    let text: String = text.lines().map(|line| line.split("//").next().unwrap_or_default().to_owned() + "\n").collect();
    let begins = match part {
        Some(part) => text.find(&format!("xkb_symbols \"{part}\""))?,
        None => {
            let default = text.find("default").map_or(0, |at| at);
            default + text[default..].find("xkb_symbols")?
        }
    };
    let body = &text[begins..];
    Some(body[body.find('{')? + 1..body.find("\n};")?].to_owned())
}

/// The keys of a part, with those that it includes before its own.
fn keys(name: &str) -> Option<Keys> {
    let mut all = Keys::new();
    let body = part(name)?;
    for statement in body.split(';') {
        let statement = statement.trim();
        for included in statement.split("include \"").skip(1) {
            let included = included.split('"').next()?;
            for one in included.split('+').filter(|one| ["latin", "se", "us"].iter().any(|own| one.starts_with(own))) {
                all.extend(keys(one)?);
            }
        }
        let Some(at) = statement.find("key <") else { continue };
        let name = statement[at + 5..].split('>').next()?.to_owned();
        let Some(open) = statement.rfind('[') else { continue };
        let mut symbols = statement[open + 1..].split(']').next()?.split(',').map(|symbol| symbol.trim().to_owned());
        all.insert(name, [symbols.next()?, symbols.next().unwrap_or_default()]);
    }
    Some(all)
}

/// The letter of a symbol.
fn letter(symbol: &str) -> char {
    if symbol.starts_with("dead_") {
        return DEAD;
    }
    let mut letters = symbol.chars();
    if let (Some(letter), None) = (letters.next(), letters.next()) {
        return letter;
    }
    const NAMES: &str = "grave` asciitilde~ exclam! at@ numbersign# dollar$ percent% asciicircum^ ampersand& asterisk* \
        parenleft( parenright) minus- underscore_ equal= plus+ bracketleft[ braceleft{ bracketright] braceright} \
        semicolon; colon: apostrophe' quotedbl\" backslash\\ bar| comma, less< period. greater> slash/ question? \
        section§ degree° ssharpß udiaeresisü UdiaeresisÜ odiaeresisö OdiaeresisÖ adiaeresisä AdiaeresisÄ eacuteé egraveè \
        ccedillaç CcedillaÇ agraveà ugraveù muµ sterling£ twosuperior² exclamdown¡ questiondown¿ periodcentered· ntildeñ \
        NtildeÑ masculineº ordfeminineª aringå AringÅ onehalf½ currency¤ aeæ AEÆ oslashø OobliqueØ OslashØ notsign¬";
    let named = NAMES.split_whitespace().find(|word| {
        let mut name = (*word).to_owned();
        name.pop();
        name == symbol
    });
    named.and_then(|word| word.chars().last()).unwrap_or(NONE)
}

#[test]
fn the_rows_are_those_of_the_keyboard_files() {
    if !Path::new(SYMBOLS).is_dir() {
        // A machine without them has nothing to compare with.
        return;
    }
    let row = |prefix: &str, count: usize| (1..=count).map(|key| format!("{prefix}{key:02}")).collect::<Vec<_>>();
    let places = [
        [vec!["TLDE".to_owned()], row("AE", 12)].concat(),
        row("AD", 12),
        [row("AC", 11), vec!["BKSL".to_owned()]].concat(),
        [vec!["LSGT".to_owned()], row("AB", 10)].concat(),
    ];
    for (name, layout, _) in Layout::ALL {
        let part = if *name == "se" { "se".to_owned() } else { format!("{name}(basic)") };
        let found = keys(&part).unwrap_or_else(|| panic!("{name} cannot be read"));
        assert!(found.len() > 15, "{name}: {found:?}");
        let rows = layout.rows();
        for (level, own) in [(0, rows.plain), (1, rows.shifted)] {
            for (places, own) in places.iter().zip(own) {
                for (place, own) in places.iter().zip(own.chars()) {
                    let Some(symbols) = found.get(place) else { continue };
                    assert_eq!(letter(&symbols[level]), own, "{name}: {place} with Shift: {level}");
                }
            }
        }
    }
}

/// Letters that are keys in what is open on a view, and so in no table.
const OPEN: &str = "[]{}<>,.-=+/;'()";

/// Every letter that is a key by itself, with where it is one.
fn letters() -> Vec<(char, String)> {
    let views = ViewId::ALL.iter().map(|view| (Usual::all(Some(*view)), view.spec().name));
    let all = [(Usual::all(None), "every view")].into_iter().chain(views);
    let mut letters: Vec<(char, String)> = OPEN.chars().map(|letter| (letter, "what is open".to_owned())).collect();
    for (told, place) in all {
        for name in told.iter().flat_map(|told| told.keys.split(' ')) {
            let mut all = name.chars();
            if let (Some(letter), None) = (all.next(), all.next()) {
                letters.push((letter, place.to_owned()));
            }
        }
    }
    letters
}

#[test]
fn every_usual_key_can_be_pressed_on_every_layout_without_a_dead_key_or_altgr() {
    let letters = letters();
    assert!(letters.len() > 60, "{}", letters.len());
    for (name, layout, _) in Layout::ALL {
        let rows = layout.rows();
        let keyboard: String = rows.plain.concat() + &rows.shifted.concat();
        for (letter, place) in letters.iter().filter(|(letter, _)| !"↑↓←→".contains(*letter)) {
            let pressed = keyboard.chars().find(|own| layout.meant_by(*own, false) == *letter);
            assert!(pressed.is_some(), "{name}: {letter} of {place} cannot be pressed");
            let told = layout.pressed_for(*letter);
            assert!(keyboard.contains(told), "{name}: {told} is told for {letter} and is not there");
            assert_eq!(layout.meant_by(told, false), *letter, "{name}: {told} is told for {letter}");
        }
        // What goes dark does so while one types, too.
        assert!(keyboard.chars().any(|own| layout.meant_by(own, true) == '`'), "{name}");
    }
}

#[test]
fn pads_follow_the_rows() {
    let key = |letter| KeyEvent::new(KeyCode::Char(letter), KeyModifiers::NONE);
    let at = |layout: Layout, letter| layout.translated(key(letter), false, true).code;
    assert_eq!(Layout::Fr.pad_rows(), ["&é\"'(-è_çà", "azertyuiop", "qsdfghjkl", "wxcvbn,"]);
    assert_eq!(at(Layout::Fr, '&'), KeyCode::Char('1'));
    assert_eq!(at(Layout::Fr, 'a'), KeyCode::Char('q'));
    assert_eq!(at(Layout::De, 'z'), KeyCode::Char('y'));
    assert_eq!(at(Layout::De, 'ß'), KeyCode::Char('`'));
    assert_eq!(at(Layout::De, '-'), KeyCode::Char('-'), "the master stays where it says so");
    assert_eq!(at(Layout::Fr, ','), KeyCode::Char('m'));
    assert_eq!(at(Layout::Fr, 'm'), KeyCode::Null, "what lies beside the pads is none");
    // What is typed is typed.
    assert_eq!(Layout::Fr.translated(key('&'), true, true).code, KeyCode::Char('&'));
    assert_eq!(Layout::De.translated(key('ß'), true, false).code, KeyCode::Char('ß'));
    assert_eq!(Layout::De.translated(key('°'), true, false).code, KeyCode::Char('`'));
    let alt = KeyEvent::new(KeyCode::Char('é'), KeyModifiers::ALT);
    assert_eq!(Layout::Fr.translated(alt, false, false).code, KeyCode::Char('2'));
    for (_, layout, _) in Layout::ALL {
        let pads: Vec<char> = layout.pad_rows().concat().chars().collect();
        assert_eq!(pads.len(), 36);
        assert!(!pads.contains(&DEAD) && !pads.contains(&NONE));
    }
}

#[test]
fn names_of_keys_are_read_as_they_are_written() {
    for (name, written) in [
        ("F5", "F5"),
        ("x", "x"),
        ("Ctrl-n", "Ctrl-N"),
        ("Alt-1", "Alt-1"),
        ("Space", "Space"),
        ("PageUp", "PgUp"),
        ("Shift-Up", "Shift-Up"),
        ("Ctrl-←", "Ctrl-Left"),
        ("-", "-"),
        ("Ctrl--", "Ctrl--"),
    ] {
        let key = key_of(name).unwrap_or_else(|| panic!("{name}"));
        assert_eq!(name_of(key.code, key.modifiers).as_deref(), Some(written), "{name}");
    }
    for wrong in ["", "F0", "F99", "Hyper-x", "xy", "Ctrl-"] {
        assert_eq!(key_of(wrong), None, "{wrong}");
    }
}
