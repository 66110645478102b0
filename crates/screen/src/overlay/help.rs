//! Help for a view: what one does there, its keys under headings, and what they do. What is typed finds some of them.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent};
use ratatui::layout::Rect;
use splimo_show::command;

use super::reply::OverlayReply;
use crate::frame::FrameAction;
use crate::keymap::{Keys, Place};
use crate::kit::float::float;
use crate::kit::pen::Pen;
use crate::kit::text_field::{TextField, Typed};
use crate::kit::theme::Theme;
use crate::kit::words::wrapped;
use crate::ui_action::UiAction;
use crate::view::Ask;
use crate::views::{AnyAction, AnyAsk, ViewId};

/// The greatest width of the help, and the part of it that the keys take.
const WIDTH: u16 = 96;
const KEYS: usize = 18;

/// The help that is open.
#[derive(Default)]
pub(crate) struct Help {
    first: usize,
    /// The text that is typed, to find a key by its name or by what it does.
    wanted: TextField,
    /// The keys of what is open on the view, and what they do.
    open: Vec<(String, String)>,
}

/// A line of the help.
enum Line {
    Heading(String),
    Words(String),
    Key(String, String),
    Empty,
}

impl Help {
    /// The help of a view on which something is open, with its keys before all others.
    pub(crate) fn with(open: &[(&str, &str)]) -> Self {
        let open = open.iter().map(|(keys, does)| ((*keys).to_owned(), (*does).to_owned())).collect();
        Self { open, ..Self::default() }
    }

    pub(super) fn key(&mut self, key: KeyEvent) -> OverlayReply {
        match key.code {
            KeyCode::Down => self.first += 1,
            KeyCode::Up => self.first = self.first.saturating_sub(1),
            KeyCode::PageDown => self.first += 10,
            KeyCode::PageUp => self.first = self.first.saturating_sub(10),
            KeyCode::Esc if !self.wanted.is_empty() => {
                self.wanted.clear();
                self.first = 0;
            }
            KeyCode::Esc | KeyCode::Enter | KeyCode::F(1) => return OverlayReply::Close,
            _ => {
                if self.wanted.key_of_search(key) == Typed::Changed {
                    self.first = 0;
                }
            }
        }
        OverlayReply::Stay
    }

    pub(super) fn paste(&mut self, text: &str) {
        self.wanted.insert(text);
        self.first = 0;
    }

    /// All lines, or those in which what is typed is found.
    fn lines(&self, view: ViewId, keys: &Keys, width: usize) -> Vec<Line> {
        let mut lines = Vec::new();
        let wanted = self.wanted.text().to_lowercase();
        if wanted.is_empty() {
            let words = wrapped(&view.spec().help.join(" "), width);
            lines.extend(words.into_iter().map(Line::Words));
            lines.push(Line::Empty);
        }
        for (heading, rows) in self.parts(view, keys) {
            let fits = |(key, does): &(String, String)| {
                wanted.is_empty() || key.to_lowercase().contains(&wanted) || does.to_lowercase().contains(&wanted)
            };
            let rows: Vec<(String, String)> = rows.into_iter().filter(fits).collect();
            if rows.is_empty() {
                continue;
            }
            lines.push(Line::Heading(heading));
            for (key, does) in rows {
                let told = wrapped(&does, width.saturating_sub(KEYS));
                let key = |line: usize| if line == 0 { key.clone() } else { String::new() };
                lines.extend(told.into_iter().enumerate().map(|(line, words)| Line::Key(key(line), words)));
            }
            lines.push(Line::Empty);
        }
        lines.pop();
        lines
    }

    /// The keys under their headings.
    fn parts(&self, view: ViewId, keys: &Keys) -> Vec<(String, Vec<(String, String)>)> {
        let told = |place: Place| -> Vec<(String, String)> {
            let of_place = keys.told(view).into_iter().filter(|told| keys.place_of(view, &told.ask) == place);
            of_place.map(|told| (told.keys, help_of(&told.ask))).collect()
        };
        let other = view.spec().other_keys.iter().map(|[names, _, help]| (keys.in_words(names), (*help).to_owned()));
        let wheel = ("wheel".to_owned(), "On the first line: the master. Elsewhere: what the arrows move".to_owned());
        vec![
            ("what is open has these keys now".to_owned(), self.open.clone()),
            (format!("on {}", view.spec().name), other.chain(told(Place::View)).collect()),
            ("for the lights, everywhere".to_owned(), told(Place::Lights)),
            ("views".to_owned(), told(Place::Tabs)),
            ("everywhere else".to_owned(), told(Place::Frame).into_iter().chain([wheel]).collect()),
            (
                "where text is typed".to_owned(),
                FIELD_KEYS.iter().map(|(key, does)| ((*key).to_owned(), (*does).to_owned())).collect(),
            ),
        ]
    }

    pub(super) fn draw(&mut self, view: ViewId, keys: &Keys, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let width = usize::from(WIDTH.min(area.width.saturating_sub(2)).saturating_sub(4));
        let lines = self.lines(view, keys, width);
        let mut title = view.spec().name.to_owned();
        title[..1].make_ascii_uppercase();
        // Its height stays while one types, so that nothing jumps.
        let whole = if self.wanted.is_empty() { lines.len() + 4 } else { usize::from(area.height) };
        let inside = float(&title, WIDTH, whole as u16, theme, area, buffer);
        let room = usize::from(inside.height.saturating_sub(2));
        self.first = self.first.min(lines.len().saturating_sub(room));
        self.draw_search(lines.len(), theme, Rect { height: 1, ..inside }, buffer);
        for (at, line) in lines.iter().skip(self.first).take(room).enumerate() {
            let mut pen = Pen::new(Rect { y: inside.y + 1 + at as u16, height: 1, ..inside }, buffer);
            match line {
                Line::Heading(words) => drop(pen.put(words, theme.dim())),
                Line::Words(words) => drop(pen.put(words, theme.text())),
                Line::Key(key, words) => {
                    pen.put(&format!("{key:<KEYS$}"), theme.bright());
                    pen.put(words, theme.text());
                }
                Line::Empty => {}
            }
        }
        let more = if lines.len() > room + self.first { "↓ PgDn more   Esc closes" } else { "Esc closes" };
        Pen::new(Rect { y: inside.bottom() - 1, height: 1, ..inside }, buffer).put(more, theme.dim());
    }

    fn draw_search(&self, found: usize, theme: Theme, row: Rect, buffer: &mut Buffer) {
        let mut pen = Pen::new(row, buffer);
        if self.wanted.is_empty() {
            pen.put("type to find a key, or what it does", theme.dim());
            return;
        }
        pen.put("› ", theme.dim());
        pen.put(&self.wanted.with_cursor(), theme.bright());
        if found == 0 {
            pen.put("   no key does that; Ctrl-P finds anything that can be done", theme.armed());
        }
    }
}

/// The keys of a field of text, which are the same everywhere.
const FIELD_KEYS: &[(&str, &str)] = &[
    ("← → Home End", "Go to another letter; with Shift select, with Ctrl go by words"),
    ("Ctrl-U Ctrl-K", "Take away what stands before the cursor, or behind it"),
    ("Ctrl-W Alt-D", "Take away the word before the cursor, or behind it"),
    ("Ctrl-Z Ctrl-Y", "Undo and redo what was typed"),
];

/// The help of an action or a command, in one line.
pub(crate) fn help_of(ask: &AnyAsk) -> String {
    use splimo_document::{Command, DocumentCommand};
    let of_command = |name: &str| command::info(name).map_or_else(String::new, |info| info.help().to_owned());
    let of_view = |name: &str| {
        let info = ViewId::ALL.iter().flat_map(|view| view.actions()).find(|info| info.name == name);
        info.map_or_else(String::new, |info| info.help().to_owned())
    };
    match ask {
        Ask::Command(Command::Document(DocumentCommand::Nudge(nudge))) => {
            splimo_show::setting::find(&nudge.name).map_or_else(String::new, |spec| spec.help.to_owned())
        }
        Ask::Command(command) => command.info().help().to_owned(),
        Ask::Action(AnyAction::Frame(action)) => {
            let info = FrameAction::ALL.iter().find(|info| info.name == action.name());
            info.map_or_else(String::new, |info| info.help().to_owned())
        }
        Ask::Action(AnyAction::View(action)) => of_view(action.name()),
        Ask::GoTo(view) => format!("The view {view}"),
        Ask::Palette(name) => match of_command(name) {
            help if help.is_empty() => of_view(name),
            help => help,
        },
        Ask::Say(words) => words.clone(),
    }
}
