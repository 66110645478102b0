//! The question what is to become of a file that somebody else wrote too.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent};
use ratatui::layout::Rect;
use splimo_link::document::Theirs;
use splimo_show::command::SessionCommand;

use super::reply::OverlayReply;
use crate::kit::float::float;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;
use crate::view::Ask;

/// The question, and the difference where one wants to see it.
pub(crate) struct ChangedPanel {
    theirs: Theirs,
    /// The first line of the difference that is shown, while it is.
    seen: Option<usize>,
}

impl ChangedPanel {
    pub(crate) fn new(theirs: Theirs) -> Self {
        Self { theirs, seen: None }
    }

    /// The change that it asks about.
    pub(crate) fn theirs(&self) -> &Theirs {
        &self.theirs
    }

    pub(super) fn key(&mut self, key: KeyEvent) -> OverlayReply {
        let asked = |command: SessionCommand| OverlayReply::CloseAsking(vec![Ask::Command(command.into())]);
        match (key.code, self.seen) {
            (KeyCode::Char('t'), _) if !self.theirs.lines.is_empty() => asked(SessionCommand::TakeTheirs),
            (KeyCode::Char('m'), _) => asked(SessionCommand::KeepMine),
            (KeyCode::Char('w'), _) => OverlayReply::CloseAsking(vec![Ask::Palette("save-as")]),
            (KeyCode::Char('d'), None) if !self.theirs.lines.is_empty() => self.see(0),
            (KeyCode::Char('d'), Some(_)) => {
                self.seen = None;
                OverlayReply::Stay
            }
            (KeyCode::Down, Some(first)) => self.see(first + 1),
            (KeyCode::Up, Some(first)) => self.see(first.saturating_sub(1)),
            (KeyCode::PageDown, Some(first)) => self.see(first + 10),
            (KeyCode::PageUp, Some(first)) => self.see(first.saturating_sub(10)),
            (KeyCode::Esc, _) => OverlayReply::Close,
            _ => OverlayReply::Stay,
        }
    }

    fn see(&mut self, first: usize) -> OverlayReply {
        self.seen = Some(first.min(self.theirs.lines.len().saturating_sub(1)));
        OverlayReply::Stay
    }

    pub(super) fn draw(&self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let lines = if self.seen.is_some() { self.theirs.lines.len() as u16 + 2 } else { 0 };
        let height = (8 + lines).min(area.height.saturating_sub(4)).max(8);
        let inside = float("two hands on one file", area.width.min(96), height, theme, area, buffer);
        let mut line = inside.y + 1;
        let mut put = |words: &str, style| {
            if line < inside.bottom() {
                Pen::new(Rect { y: line, height: 1, ..inside }, buffer).put(words, style);
            }
            line += 1;
        };
        put(&format!("The show's file: {}.", self.theirs.words), theme.text());
        put("Nothing is written over before you choose.", theme.text());
        let room = usize::from(inside.height.saturating_sub(6));
        if let Some(first) = self.seen {
            put("- is theirs, + is yours:", theme.dim());
            for words in self.theirs.lines.iter().skip(first).take(room) {
                put(&shortened(words, usize::from(inside.width)), theme.text());
            }
        }
        let mut pen = Pen::new(Rect { y: inside.bottom().saturating_sub(1), height: 1, ..inside }, buffer);
        let readable = !self.theirs.lines.is_empty();
        let keys = [
            ("t", "take theirs", readable),
            ("m", "keep mine", true),
            ("d", if self.seen.is_some() { "hide it" } else { "see the difference" }, readable),
            ("w", "save elsewhere", true),
            ("Esc", "later", true),
        ];
        for (key, does, _) in keys.into_iter().filter(|(.., there)| *there) {
            pen.put(&format!("{key} "), theme.bright());
            pen.put(&format!("{does}   "), theme.dim());
        }
    }
}
