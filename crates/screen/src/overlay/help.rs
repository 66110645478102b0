//! Help for a view: what one does there, its keys, and what they do.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent};
use ratatui::layout::Rect;
use splimo_core::command;

use super::reply::OverlayReply;
use crate::frame::FrameAction;
use crate::kit::float::float;
use crate::kit::pen::Pen;
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
    /// The keys of what is open on the view, and what they do.
    open: Vec<(String, String)>,
}

impl Help {
    /// The help of a view on which something is open, with its keys before all others.
    pub(crate) fn with(open: &[(&str, &str)]) -> Self {
        Self { first: 0, open: open.iter().map(|(keys, does)| ((*keys).to_owned(), (*does).to_owned())).collect() }
    }

    pub(super) fn key(&mut self, key: KeyEvent) -> OverlayReply {
        match key.code {
            KeyCode::Down | KeyCode::PageDown => self.first += 1,
            KeyCode::Up | KeyCode::PageUp => self.first = self.first.saturating_sub(1),
            KeyCode::Esc | KeyCode::Enter | KeyCode::F(1) => return OverlayReply::Close,
            _ => {}
        }
        OverlayReply::Stay
    }

    pub(super) fn draw(&mut self, view: ViewId, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let spec = view.spec();
        let width = usize::from(WIDTH.min(area.width.saturating_sub(2)).saturating_sub(4));
        let mut lines: Vec<(String, String)> = Vec::new();
        if !self.open.is_empty() {
            lines.push((String::new(), "What is open has these keys now:".to_owned()));
            lines.extend(self.open.iter().map(|(keys, does)| (format!("{keys:<KEYS$}"), does.clone())));
            lines.push(Default::default());
        }
        lines.extend(wrapped(&spec.help.join(" "), width).into_iter().map(|line| (String::new(), line)));
        lines.push(Default::default());
        for (key, help) in rows(view) {
            let told = wrapped(&help, width.saturating_sub(KEYS));
            let key = |line: usize| format!("{:<KEYS$}", if line == 0 { key.as_str() } else { "" });
            lines.extend(told.into_iter().enumerate().map(|(line, words)| (key(line), words)));
        }
        let mut title = spec.name.to_owned();
        title[..1].make_ascii_uppercase();
        let inside = float(&title, WIDTH, (lines.len() + 3) as u16, theme, area, buffer);
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

/// Each key of a view once, with what it does.
fn rows(view: ViewId) -> Vec<(String, String)> {
    let mut rows: Vec<(String, String)> = Vec::new();
    rows.extend(view.spec().other_keys.iter().map(|[keys, _, help]| ((*keys).to_owned(), (*help).to_owned())));
    rows.extend(view.keys().into_iter().map(|told| (told.keys, help_of(&told.ask))));
    rows.push(("wheel".to_owned(), "On the first line: the master. Elsewhere: what the arrows move".to_owned()));
    rows
}

/// The help of an action or a command, in one line.
pub(super) fn help_of(ask: &AnyAsk) -> String {
    use splimo_core::command::{Command, DocumentCommand};
    let of_command = |name: &str| command::info(name).map_or_else(String::new, |info| info.help().to_owned());
    let of_view = |name: &str| {
        let info = ViewId::ALL.iter().flat_map(|view| view.actions()).find(|info| info.name == name);
        info.map_or_else(String::new, |info| info.help().to_owned())
    };
    match ask {
        Ask::Command(Command::Document(DocumentCommand::Nudge(nudge))) => {
            splimo_core::setting::find(&nudge.name).map_or_else(String::new, |spec| spec.help.to_owned())
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
