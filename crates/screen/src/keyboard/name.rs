//! The names of keys, as they stand in a configuration and on the screen.

use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

/// Keys that have a name, each with the one that is written and others that are understood.
const NAMED: &[(KeyCode, &[&str])] = &[
    (KeyCode::Char(' '), &["Space"]),
    (KeyCode::Enter, &["Enter", "Return"]),
    (KeyCode::Esc, &["Esc", "Escape"]),
    (KeyCode::Tab, &["Tab"]),
    (KeyCode::BackTab, &["Shift-Tab"]),
    (KeyCode::Backspace, &["Backspace"]),
    (KeyCode::Delete, &["Del", "Delete"]),
    (KeyCode::Insert, &["Insert", "Ins"]),
    (KeyCode::Home, &["Home"]),
    (KeyCode::End, &["End"]),
    (KeyCode::PageUp, &["PgUp", "PageUp"]),
    (KeyCode::PageDown, &["PgDn", "PageDown"]),
    (KeyCode::Up, &["Up", "↑"]),
    (KeyCode::Down, &["Down", "↓"]),
    (KeyCode::Left, &["Left", "←"]),
    (KeyCode::Right, &["Right", "→"]),
];

/// Keys that are held with another.
const HELD: &[(KeyModifiers, &str)] =
    &[(KeyModifiers::CONTROL, "Ctrl-"), (KeyModifiers::ALT, "Alt-"), (KeyModifiers::SHIFT, "Shift-")];

/// The name of a key; none for one that has none. Of a letter Shift makes another letter, and is not said.
pub(crate) fn name_of(code: KeyCode, with: KeyModifiers) -> Option<String> {
    let named = NAMED.iter().find(|(own, _)| *own == code).map(|(_, names)| names[0].to_owned());
    let name = match (named, code) {
        (Some(name), _) => name,
        (None, KeyCode::Char(letter)) if with.contains(KeyModifiers::CONTROL) => letter.to_uppercase().to_string(),
        (None, KeyCode::Char(letter)) => letter.to_string(),
        (None, KeyCode::F(number)) => format!("F{number}"),
        (None, _) => return None,
    };
    let letter = matches!(code, KeyCode::Char(_) | KeyCode::BackTab);
    let held =
        HELD.iter().filter(|(with_key, _)| with.contains(*with_key) && !(letter && *with_key == KeyModifiers::SHIFT));
    Some(held.map(|(_, word)| *word).collect::<String>() + &name)
}

/// The key of a name; none where no key is called so.
pub(crate) fn key_of(name: &str) -> Option<KeyEvent> {
    let (mut with, mut rest) = (KeyModifiers::NONE, name.trim());
    if let Some((code, _)) = NAMED.iter().find(|(_, names)| names.contains(&rest)) {
        return Some(KeyEvent::new(*code, with));
    }
    while let Some((held, word)) = HELD.iter().find(|(_, word)| rest.starts_with(word) && rest.len() > word.len()) {
        with |= *held;
        rest = &rest[word.len()..];
    }
    if let Some((code, _)) = NAMED.iter().find(|(_, names)| names.contains(&rest)) {
        return Some(KeyEvent::new(*code, with));
    }
    if let Some(number) = rest.strip_prefix('F').and_then(|number| number.parse::<u8>().ok()) {
        return (1..=24).contains(&number).then(|| KeyEvent::new(KeyCode::F(number), with));
    }
    let mut letters = rest.chars();
    let (Some(letter), None) = (letters.next(), letters.next()) else { return None };
    // Control codes have no case.
    let letter = if with.contains(KeyModifiers::CONTROL) { letter.to_ascii_lowercase() } else { letter };
    (!letter.is_control()).then(|| KeyEvent::new(KeyCode::Char(letter), with.difference(KeyModifiers::SHIFT)))
}
