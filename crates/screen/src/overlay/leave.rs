//! The question how to leave: the lights end with the show, or run on without this screen.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::Rect;
use splimo_show::command::SessionCommand;

use super::reply::{Leaving, OverlayReply};
use crate::kit::float::float;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::view::Ask;

/// The question.
pub(crate) struct Leave {
    /// True if anything is not saved.
    pub(crate) unsaved: bool,
    /// True if looks were edited blind and not kept yet.
    pub(crate) blind: bool,
    /// The number of other screens that are attached.
    pub(crate) others: u32,
}

impl Leave {
    pub(super) fn key(&self, key: KeyEvent) -> OverlayReply {
        let held = key.modifiers.contains(KeyModifiers::CONTROL);
        match key.code {
            KeyCode::Enter => OverlayReply::Leave(Leaving::EndShow),
            KeyCode::Char('r') if !held => OverlayReply::Leave(Leaving::RunOn),
            KeyCode::Char('s') if held => OverlayReply::CloseAsking(vec![Ask::Command(SessionCommand::Save.into())]),
            KeyCode::Esc => OverlayReply::Close,
            _ => OverlayReply::Stay,
        }
    }

    pub(super) fn draw(&self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let inside = float("leave Splimo?", 74, 8, theme, area, buffer);
        let saved = match (self.blind, self.unsaved) {
            (true, _) => "Looks were edited blind and not kept: Esc, F4, b keeps them.",
            (false, true) => "There are changes that are not saved.",
            (false, false) => "Everything is saved.",
        };
        let others = match self.others {
            0 => String::new(),
            1 => "Another screen is attached, which ends with the show.".to_owned(),
            count => format!("{count} other screens are attached, which end with the show."),
        };
        let words = ["Ending the show stops its output, and tells sACN receivers so.", saved, &others];
        for (line, words) in words.iter().enumerate() {
            Pen::new(Rect { y: inside.y + 1 + line as u16, height: 1, ..inside }, buffer).put(words, theme.text());
        }
        let mut pen = Pen::new(Rect { y: inside.bottom() - 1, height: 1, ..inside }, buffer);
        let keys = [("Enter", "ends the show"), ("r", "leaves it running"), ("Esc", "stays"), ("Ctrl-S", "saves")];
        for (key, does) in keys.iter().take(if self.unsaved { 4 } else { 3 }) {
            pen.put(&format!("{key} "), theme.bright());
            pen.put(&format!("{does}   "), theme.dim());
        }
    }
}
