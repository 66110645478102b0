//! The panel of what listens where, and who may send.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_link::listening::doors;

use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;
use crate::model::ViewContext;

/// Draws the open doors, each with what it is for and from whom it takes something.
pub(super) fn draw(context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let all = doors(context.show, context.network);
    if all.is_empty() {
        Pen::new(area, buffer).put("Nothing listens on a network.", theme.text());
        return;
    }
    let room = usize::from(area.height.saturating_sub(1));
    let fits = if all.len() > room { room.saturating_sub(1) } else { room };
    for (line, door) in all.iter().take(fits).enumerate() {
        let mut pen = Pen::new(Rect { y: area.y + line as u16, height: 1, ..area }, buffer);
        pen.put(&format!("{:<22}  ", shortened(&door.at, 22)), theme.text());
        let what = usize::from(area.width.saturating_sub(26) / 2).clamp(20, 46);
        pen.put(&format!("{:<what$}  ", shortened(&door.what, what)), theme.text());
        pen.put(&door.from, theme.dim());
    }
    if all.len() > fits {
        let row = Rect { y: area.y + fits as u16, height: 1, ..area };
        Pen::new(row, buffer).put(&format!("and {} more", all.len() - fits), theme.dim());
    }
    let foot = Rect { y: area.bottom().saturating_sub(1), height: 1, ..area };
    let words = "who may send: F9 (nodes-from, triggers-from, time-code-from), and each input's own form (F7)";
    Pen::new(foot, buffer).put(words, theme.dim());
}
