//! What floats over a view: help, the action palette, and the question before leaving.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::Rect;
use splimo_core::action::{ACTIONS, Action, ActionInfo, BadAction, View};

use super::keys::{PAD_ROWS, groups, keys_of};
use crate::kit::float::float;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;
use crate::kit::words::wrapped;

/// Something open over the view.
pub(super) enum Overlay {
    Help(Help),
    Palette(Palette),
    Quit(Quit),
    Recover,
    /// What ran when it ended badly the last time, in words.
    Resume(String),
}

impl Overlay {
    /// What a key asks for while this is open.
    pub(super) fn key(&mut self, key: KeyEvent) -> Option<Action> {
        match self {
            Self::Help(help) => help.key(key),
            Self::Palette(palette) => palette.key(key),
            Self::Quit(_) => match key.code {
                KeyCode::Enter => Some(Action::QuitNow),
                KeyCode::Char('s') if key.modifiers.contains(KeyModifiers::CONTROL) => Some(Action::Save),
                KeyCode::Esc => Some(Action::Back),
                _ => None,
            },
            Self::Recover => match key.code {
                KeyCode::Enter => Some(Action::Recover),
                KeyCode::Esc => Some(Action::LeaveFound),
                _ => None,
            },
            Self::Resume(_) => match key.code {
                KeyCode::Enter => Some(Action::Resume),
                KeyCode::Esc => Some(Action::Back),
                _ => None,
            },
        }
    }

    pub(super) fn paste(&mut self, text: &str) {
        if let Self::Palette(palette) = self {
            palette.text.extend(text.chars().filter(|c| !c.is_control()).take(80));
        }
    }

    pub(super) fn draw(&mut self, view: View, theme: Theme, area: Rect, buffer: &mut Buffer) {
        match self {
            Self::Help(help) => help.draw(view, theme, area, buffer),
            Self::Palette(palette) => palette.draw(view, theme, area, buffer),
            Self::Quit(quit) => quit.draw(theme, area, buffer),
            Self::Recover => offer_recovery(theme, area, buffer),
            Self::Resume(ran) => offer_resuming(ran, theme, area, buffer),
        }
    }
}

/// How wide the help is at the most, and how much of it the keys take.
const WIDTH: u16 = 96;
const KEYS: usize = 18;

/// The keys of a view, and what they do.
#[derive(Default)]
pub(super) struct Help {
    first: usize,
}

impl Help {
    fn key(&mut self, key: KeyEvent) -> Option<Action> {
        match key.code {
            KeyCode::Down | KeyCode::PageDown => self.first += 1,
            KeyCode::Up | KeyCode::PageUp => self.first = self.first.saturating_sub(1),
            KeyCode::Esc | KeyCode::Enter | KeyCode::F(1) => return Some(Action::Back),
            _ => {}
        }
        None
    }

    fn draw(&mut self, view: View, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let (title, words) = about(view);
        let width = usize::from(WIDTH.min(area.width.saturating_sub(2)).saturating_sub(4));
        let mut lines: Vec<(String, String)> =
            wrapped(&words.join(" "), width).into_iter().map(|line| (String::new(), line)).collect();
        lines.push(Default::default());
        for (key, help) in rows(view) {
            let told = wrapped(&help, width.saturating_sub(KEYS));
            let key = |line: usize| format!("{:<KEYS$}", if line == 0 { key.as_str() } else { "" });
            lines.extend(told.into_iter().enumerate().map(|(line, words)| (key(line), words)));
        }
        let inside = float(title, WIDTH, (lines.len() + 3) as u16, theme, area, buffer);
        let room = usize::from(inside.height.saturating_sub(1));
        self.first = self.first.min(lines.len().saturating_sub(room));
        for (line, (key, help)) in lines.iter().skip(self.first).take(room).enumerate() {
            let mut pen = Pen::new(Rect { y: inside.y + line as u16, height: 1, ..inside }, buffer);
            pen.put(key, theme.bright());
            pen.put(help, theme.text());
        }
        let more = if lines.len() > room + self.first { "↓ more   Esc closes" } else { "Esc closes" };
        Pen::new(Rect { y: inside.bottom() - 1, height: 1, ..inside }, buffer).put(more, theme.dim());
    }
}

fn about(view: View) -> (&'static str, &'static [&'static str]) {
    match view {
        View::Play => (
            "Play",
            &[
                "Press a pad to arm its look. It lands on the boundary that is set above the pads,",
                "and fades in from there. The runway shows the phrase, and what will land where.",
                "A pad is plain while it rests, ⟨armed⟩ with its beats left, filled on stage.",
            ],
        ),
        View::Inputs => (
            "Inputs",
            &[
                "What is heard: how loud, which tempo, bar, part, key and notes, how sure each is, and how it went.",
                "The clock follows the music while it is sure of it, and holds its tempo where it is not. { and } halve and",
                "double it, Ctrl-← → moves the beat, / and | set bar and phrase, F8 says which part it is, \\ gives all back",
                "to the music. Light is made early by the milliseconds that lamps and the way to them take.",
                "c flashes all lights and clicks each second: turn ← → until they are one. b, a and d are for more bands,",
                "slower to rise, slower to fall; B, A and D for fewer and faster.",
            ],
        ),
        View::Rig => (
            "Rig",
            &[
                "What hangs there: a adds fixtures, and shows them on the canvas while you say what they are.",
                "Choose with the arrows or the mouse; then change, arrange, patch, or prove them on the lights.",
                "Below are the slots of each universe: filled is chosen, shaded is taken, ╳ is taken twice.",
                "On the canvas a click chooses (Ctrl: more), a drag moves (Ctrl: along one axis) or draws a band,",
                "the right button pans and the wheel zooms.",
            ],
        ),
        View::Looks => (
            "Looks",
            &[
                "A look is layers on top of each other, each an effect on some of the lights. Tab goes from the looks",
                "to the layers of one, and to the lines of a layer, which ← and → turn and digits replace.",
                "It is live: the lights follow while you turn. b makes it blind, and nothing goes out until b ends it.",
                "The line beside a value shows what moves it; m sets that. Held, k shows the look as it was saved.",
                "Shift-↑ ↓ choose several looks or layers; g then changes one thing in all of them.",
            ],
        ),
        View::Output => (
            "Output",
            &[
                "Routes say which universes go to which box; nodes are the boxes that answer on the network.",
                "Below are the 512 slots of a universe, as they leave or (v) as they come in, and the road by which",
                "the chosen slot got its value. Tab goes from routes to nodes to slots.",
            ],
        ),
    }
}

/// Each key of a view once, with what it does.
fn rows(view: View) -> Vec<(String, String)> {
    let mut rows = Vec::new();
    if view == View::Play {
        let keys = PAD_ROWS.map(|row| format!("{}-{}", &row[..1], &row[row.len() - 1..])).join(" ");
        rows.push((keys, "The pads".to_owned()));
    }
    rows.extend(groups(view).into_iter().map(|group| (group.keys.clone(), group.help())));
    rows.push(("wheel".to_owned(), "On the first line: the master. Elsewhere: what the arrows move".to_owned()));
    rows
}

/// Finds any action by its name.
#[derive(Default)]
pub(super) struct Palette {
    text: String,
    chosen: usize,
    refused: Option<String>,
}

impl Palette {
    /// With the name of an action already there, to be told what it needs.
    pub(super) fn asking(action: &str) -> Self {
        Self { text: format!("{action} "), ..Self::default() }
    }

    /// The actions that fit what was typed, those whose name begins with it first.
    fn found(&self) -> Vec<&'static ActionInfo> {
        let typed = self.text.to_lowercase();
        let words: Vec<&str> = typed.split_whitespace().collect();
        let name_given = ACTIONS.iter().find(|a| words.first() == Some(&a.name) && typed.contains(' '));
        if let Some(info) = name_given {
            return vec![info];
        }
        let fits = |a: &&ActionInfo| {
            let help = a.help().to_lowercase();
            words.iter().all(|w| a.name.contains(w) || help.contains(w))
        };
        let mut found: Vec<_> = ACTIONS.iter().filter(fits).collect();
        found.sort_by_key(|a| !a.name.starts_with(typed.trim()));
        found
    }

    fn key(&mut self, key: KeyEvent) -> Option<Action> {
        let held = key.modifiers & (KeyModifiers::CONTROL | KeyModifiers::ALT);
        self.refused = None;
        match key.code {
            KeyCode::Esc => return Some(Action::Back),
            KeyCode::Char('p') if held == KeyModifiers::CONTROL => return Some(Action::Back),
            KeyCode::Down => self.chosen += 1,
            KeyCode::Up => self.chosen = self.chosen.saturating_sub(1),
            KeyCode::Backspace => {
                self.text.pop();
                self.chosen = 0;
            }
            KeyCode::Char(letter) if held.is_empty() => {
                self.text.push(letter);
                self.chosen = 0;
            }
            KeyCode::Enter => return self.choose(),
            _ => {}
        }
        None
    }

    fn choose(&mut self) -> Option<Action> {
        let found = self.found();
        let info = *found.get(self.chosen.min(found.len().checked_sub(1)?))?;
        let argument = self.text.trim().strip_prefix(info.name).map(str::trim).unwrap_or_default();
        match format!("{} {argument}", info.name).trim().parse::<Action>() {
            Ok(action) => Some(action),
            Err(bad) => {
                self.refused = match bad {
                    BadAction::Argument { text, .. } if text.is_empty() => None,
                    other => Some(other.to_string()),
                };
                // Its name stands there now, and what it needs is asked for.
                if argument.is_empty() {
                    self.text = format!("{} ", info.name);
                    self.chosen = 0;
                }
                None
            }
        }
    }

    fn draw(&mut self, view: View, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let found = self.found();
        self.chosen = self.chosen.min(found.len().saturating_sub(1));
        let inside = float("any action", 100, 24, theme, area, buffer);
        let mut pen = Pen::new(Rect { height: 1, ..inside }, buffer);
        pen.put("› ", theme.dim());
        pen.put(&self.text, theme.bright());
        pen.put("▏", theme.bright());
        let asked = (found.len() == 1).then(|| found[0].argument).flatten();
        if let Some(refused) = &self.refused {
            pen.put(&format!("  {refused}"), theme.armed());
        } else if let Some(argument) = asked.filter(|_| self.text.ends_with(' ')) {
            pen.put(&format!("  type the {argument}, then Enter"), theme.dim());
        }
        let room = usize::from(inside.height.saturating_sub(2));
        let first = self.chosen.saturating_sub(room.saturating_sub(1));
        for (line, (index, info)) in found.iter().enumerate().skip(first).take(room).enumerate() {
            let mut pen = Pen::new(Rect { y: inside.y + 2 + line as u16, height: 1, ..inside }, buffer);
            let chosen = index == self.chosen;
            let name = match info.argument {
                Some(argument) => format!("{} ({argument})", info.name),
                None => info.name.to_owned(),
            };
            pen.put(if chosen { "▸ " } else { "  " }, theme.bright());
            pen.put(&format!("{name:<24}"), if chosen { theme.bright() } else { theme.text() });
            let keys = keys_of(view, info.name).unwrap_or_default();
            let column = inside.width.saturating_sub(keys.chars().count() as u16);
            let room = usize::from(column).saturating_sub(28);
            pen.put(&shortened(info.help(), room), if chosen { theme.text() } else { theme.dim() });
            pen.to(column).put(&keys, theme.dim());
        }
        if found.is_empty() {
            Pen::new(Rect { y: inside.y + 2, height: 1, ..inside }, buffer)
                .put("No action is called so; Backspace takes letters back.", theme.text());
        }
    }
}

fn offer_recovery(theme: Theme, area: Rect, buffer: &mut Buffer) {
    let words = [
        "Splimo ended the last time with changes that were not saved.".to_owned(),
        "They were kept. Nothing is lost, whichever you choose.".to_owned(),
    ];
    let keys = [("Enter", "takes them over"), ("Esc", "shows the file as it was saved")];
    offer("work that was not saved", &words, &keys, theme, area, buffer);
}

fn offer_resuming(ran: &str, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let words = ["Splimo ended in the middle of the show the last time:".to_owned(), format!("{ran}.")];
    let keys = [("Enter", "goes on with it"), ("Esc", "begins as usual")];
    offer("go on where it ended?", &words, &keys, theme, area, buffer);
}

fn offer(title: &str, words: &[String], keys: &[(&str, &str)], theme: Theme, area: Rect, buffer: &mut Buffer) {
    let inside = float(title, 66, 7, theme, area, buffer);
    for (line, words) in words.iter().enumerate() {
        Pen::new(Rect { y: inside.y + 1 + line as u16, height: 1, ..inside }, buffer).put(words, theme.text());
    }
    let mut pen = Pen::new(Rect { y: inside.bottom() - 1, height: 1, ..inside }, buffer);
    for (key, does) in keys {
        pen.put(&format!("{key} "), theme.bright());
        pen.put(&format!("{does}   "), theme.dim());
    }
}

/// Asks before leaving: the lights end with the program.
pub(super) struct Quit {
    pub(super) unsaved: bool,
    /// Whether looks were edited blind and not kept yet.
    pub(super) blind: bool,
}

impl Quit {
    fn draw(&self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let inside = float("leave Splimo?", 60, 7, theme, area, buffer);
        let saved = match (self.blind, self.unsaved) {
            (true, _) => "Looks were edited blind and not kept: Esc, F4, b keeps them.",
            (false, true) => "There are changes that are not saved.",
            (false, false) => "Everything is saved.",
        };
        let words = ["Output stops, and sACN streams are told that they end.", saved];
        for (line, words) in words.iter().enumerate() {
            Pen::new(Rect { y: inside.y + 1 + line as u16, height: 1, ..inside }, buffer).put(words, theme.text());
        }
        let mut pen = Pen::new(Rect { y: inside.bottom() - 1, height: 1, ..inside }, buffer);
        for (key, does) in
            [("Enter", "leaves"), ("Esc", "stays"), ("Ctrl-S", "saves")].iter().take(if self.unsaved { 3 } else { 2 })
        {
            pen.put(&format!("{key} "), theme.bright());
            pen.put(&format!("{does}   "), theme.dim());
        }
    }
}
