//! A choice between a few things, each by its letter.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::Rect;
use splimo_engine::Snapshot;

use super::panel::{LookPanel, PanelContext, PanelReply, PanelRequest};
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;

/// One of the things: its letter, what it does, and what comes of it.
pub(super) struct Item {
    pub(super) letter: char,
    pub(super) words: String,
    pub(super) request: PanelRequest,
    pub(super) said: Option<String>,
}

/// The choice.
pub(super) struct Menu {
    title: String,
    items: Vec<Item>,
    at: usize,
}

impl Menu {
    pub(super) fn of(title: &str, items: Vec<Item>) -> Box<Self> {
        Box::new(Self { title: title.to_owned(), items, at: 0 })
    }

    fn take(&mut self, at: usize) -> Option<PanelReply> {
        if at >= self.items.len() {
            return PanelReply::stay();
        }
        let item = self.items.swap_remove(at);
        Some(PanelReply { request: item.request, open: false, said: item.said, next: None })
    }
}

impl LookPanel for Menu {
    fn title(&self) -> String {
        self.title.clone()
    }

    fn hints(&self) -> Vec<(&'static str, &'static str)> {
        vec![("letter", "takes it"), ("↑ ↓", "choose"), ("Enter", "take"), ("Esc", "back")]
    }

    fn key(&mut self, key: KeyEvent, _: &PanelContext<'_>) -> Option<PanelReply> {
        if key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT) {
            return None;
        }
        match key.code {
            KeyCode::Esc => PanelReply::close(PanelRequest::Nothing),
            KeyCode::Up => {
                self.at = self.at.saturating_sub(1);
                PanelReply::stay()
            }
            KeyCode::Down => {
                self.at = (self.at + 1).min(self.items.len().saturating_sub(1));
                PanelReply::stay()
            }
            KeyCode::Enter => self.take(self.at),
            KeyCode::Char(letter) => {
                let found = self.items.iter().position(|item| item.letter == letter.to_ascii_lowercase())?;
                self.take(found)
            }
            _ => None,
        }
    }

    fn draw(&mut self, _: &PanelContext<'_>, _: &Snapshot, theme: Theme, area: Rect, buffer: &mut Buffer) {
        for (line, item) in self.items.iter().enumerate().take(usize::from(area.height)) {
            let row = Rect { y: area.y + line as u16, height: 1, ..area };
            let here = line == self.at;
            let mut pen = Pen::new(row, buffer);
            pen.put(if here { "▸ " } else { "  " }, theme.bright());
            pen.put(&format!(" {} ", item.letter), if here { theme.filled() } else { theme.bright() });
            pen.put(&format!("  {}", item.words), theme.text());
        }
    }
}
