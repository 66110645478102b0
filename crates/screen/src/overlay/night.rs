//! The night log over a view: what was fired, by whom, when, and what changed with it; the newest first.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::Rect;

use super::reply::OverlayReply;
use crate::kit::float::float;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;
use crate::model::Model;

/// The greatest width of the log.
const WIDTH: u16 = 110;

/// The night log that is open.
#[derive(Default)]
pub(crate) struct NightPanel {
    /// The lines above the first that is shown.
    first: usize,
    /// The lines that were shown.
    page: usize,
}

impl NightPanel {
    pub(super) fn key(&mut self, key: KeyEvent) -> OverlayReply {
        let control = key.modifiers.contains(KeyModifiers::CONTROL);
        match key.code {
            KeyCode::Down => self.first += 1,
            KeyCode::Up => self.first = self.first.saturating_sub(1),
            KeyCode::PageDown => self.first += self.page,
            KeyCode::PageUp => self.first = self.first.saturating_sub(self.page),
            KeyCode::Home => self.first = 0,
            KeyCode::Esc | KeyCode::Enter => return OverlayReply::Close,
            KeyCode::Char('l') if control => return OverlayReply::Close,
            _ => {}
        }
        OverlayReply::Stay
    }

    pub(super) fn draw(&mut self, model: &Model, theme: Theme, area: Rect, buffer: &mut Buffer) {
        // The stage stays in sight above it.
        let height = area.height / 2;
        let below = Rect { y: area.bottom() - height - 1, height, ..area };
        let inside = float("night log", WIDTH, height, theme, below, buffer);
        let count = model.night.newest().count();
        self.page = usize::from(inside.height.saturating_sub(2));
        self.first = self.first.min(count.saturating_sub(self.page));
        if count == 0 {
            Pen::new(inside, buffer).put("nothing was fired yet", theme.text());
        }
        for (line, entry) in model.night.newest().skip(self.first).take(self.page).enumerate() {
            let mut pen = Pen::new(Rect { y: inside.y + line as u16, height: 1, ..inside }, buffer);
            pen.put(&format!("{}  ", entry.clock()), theme.dim());
            pen.put(&format!("{:>8}  ", entry.place()), theme.dim());
            pen.put(&format!("{:<12}  ", shortened(&entry.by, 12)), theme.text());
            // A change of the stage stands further in than what was asked for.
            let room = usize::from(inside.width).saturating_sub(36);
            let words = if entry.asked { entry.what.clone() } else { format!("  {}", entry.what) };
            pen.put(&shortened(&words, room), if entry.asked { theme.bright() } else { theme.text() });
        }
        let file = model.session.as_ref().map_or("", |session| session.night_log.as_str());
        let kept = if file.is_empty() { String::new() } else { format!("   all of it is in {file}") };
        let foot = Rect { y: inside.bottom().saturating_sub(1), height: 1, ..inside };
        let words = format!("↑ ↓ PgUp PgDn   Esc closes{kept}");
        Pen::new(foot, buffer).put(&shortened(&words, usize::from(inside.width)), theme.dim());
    }
}
