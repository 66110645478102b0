//! Eight variations of a look side by side, each alive. One key keeps one as a look of its own.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::Rect;
use splimo_document::edit::Edit;
use splimo_document::making::variation;
use splimo_engine::Snapshot;
use splimo_show::Look;

use super::action::Ask;
use super::panel::{LookPanel, PanelContext, PanelReply, PanelRequest};
use crate::kit::gallery::Gallery;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;

/// The number of them.
const COUNT: usize = 8;

/// The variations.
pub(super) struct Variations {
    /// The place of the look in the show.
    index: usize,
    seed: u32,
    at: usize,
    looks: Vec<Look>,
    gallery: Gallery,
}

impl Variations {
    pub(super) fn of(index: usize, context: &PanelContext<'_>) -> Box<Self> {
        let mut panel = Self { index, seed: 1, at: 0, looks: Vec::new(), gallery: Gallery::default() };
        panel.draw_lots(context);
        Box::new(panel)
    }

    fn draw_lots(&mut self, context: &PanelContext<'_>) {
        let seeds = (0..COUNT as u32).map(|n| self.seed * COUNT as u32 + n);
        self.looks = seeds.map(|seed| variation(context.look, &context.show.palette, seed)).collect();
        for (number, look) in self.looks.iter_mut().enumerate() {
            look.name = format!("{} {}", context.look.name, number + 1);
        }
    }

    fn keep(&self, number: usize, context: &PanelContext<'_>) -> Option<PanelReply> {
        let Some(look) = self.looks.get(number) else { return PanelReply::stay() };
        let kept = Look { name: format!("{} 2", context.look.name), ..look.clone() };
        let actions = vec![Ask::edit(Edit::AddLooks(self.index + 1, vec![kept]))];
        Some(PanelReply {
            request: PanelRequest::Ask(actions),
            open: true,
            said: Some(format!("variation {} is a look of its own now", number + 1)),
            next: None,
        })
    }
}

impl LookPanel for Variations {
    fn title(&self) -> String {
        "eight variations; each number keeps one as a look of its own".to_owned()
    }

    fn hints(&self) -> Vec<(&'static str, &'static str)> {
        vec![
            ("1-8", "keep one"),
            ("← → ↑ ↓", "choose"),
            ("Enter", "keep and close"),
            ("v", "eight others"),
            ("Esc", "close"),
        ]
    }

    fn wide(&self) -> bool {
        true
    }

    fn key(&mut self, key: KeyEvent, context: &PanelContext<'_>) -> Option<PanelReply> {
        if key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT) {
            return None;
        }
        let last = COUNT - 1;
        match key.code {
            KeyCode::Esc => return PanelReply::close(PanelRequest::Nothing),
            KeyCode::Left => self.at = self.at.saturating_sub(1),
            KeyCode::Right => self.at = (self.at + 1).min(last),
            KeyCode::Up => self.at = self.at.saturating_sub(2),
            KeyCode::Down => self.at = (self.at + 2).min(last),
            KeyCode::Char('v') => {
                self.seed += 1;
                self.draw_lots(context);
            }
            KeyCode::Char(digit @ '1'..='8') => {
                self.at = digit as usize - '1' as usize;
                return self.keep(self.at, context);
            }
            KeyCode::Enter => return self.keep(self.at, context).map(|reply| PanelReply { open: false, ..reply }),
            _ => return None,
        }
        PanelReply::stay()
    }

    fn draw(&mut self, context: &PanelContext<'_>, snapshot: &Snapshot, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let (width, height) = (area.width / 2, (area.height / 4).max(3));
        let hung: Vec<&Look> = self.looks.iter().collect();
        self.gallery.hold(context.still);
        self.gallery.advance(&hung, context.show, context.rig, snapshot, (width - 3, height - 2));
        for index in 0..COUNT {
            let (column, line) = ((index % 2) as u16, (index / 2) as u16);
            let cell = Rect::new(area.x + column * width, area.y + line * height, width - 1, height);
            if cell.bottom() > area.bottom() {
                break;
            }
            let style = if index == self.at { theme.filled() } else { theme.text() };
            Pen::new(Rect { height: 1, ..cell }, buffer).put(&format!(" {} ", index + 1), style);
            let picture = Rect { x: cell.x + 1, y: cell.y + 1, width: cell.width - 1, height: height - 2 };
            self.gallery.draw(index, picture, theme, buffer);
        }
    }
}
