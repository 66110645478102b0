//! The frame of what floats over a view.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

use super::pen::Pen;
use super::theme::Theme;

/// A frame of at most `width` by `height` in the middle; what is inside it.
pub(crate) fn float(title: &str, width: u16, height: u16, theme: Theme, area: Rect, buffer: &mut Buffer) -> Rect {
    let (width, height) = (width.min(area.width.saturating_sub(2)), height.min(area.height.saturating_sub(2)));
    let outer = Rect::new(area.x + (area.width - width) / 2, area.y + (area.height - height) / 2, width, height);
    for y in outer.top()..outer.bottom() {
        for x in outer.left()..outer.right() {
            let (left, right) = (x == outer.left(), x == outer.right() - 1);
            let (top, bottom) = (y == outer.top(), y == outer.bottom() - 1);
            let symbol = match (left, right, top, bottom) {
                (true, _, true, _) => "╭",
                (_, true, true, _) => "╮",
                (true, _, _, true) => "╰",
                (_, true, _, true) => "╯",
                (true, ..) | (_, true, ..) => "│",
                (_, _, true, _) | (_, _, _, true) => "─",
                _ => " ",
            };
            buffer[(x, y)].reset();
            buffer[(x, y)].set_symbol(symbol).set_style(theme.dim());
        }
    }
    Pen::new(Rect { height: 1, ..outer }, buffer).to(2).put(&format!(" {title} "), theme.bright());
    Rect::new(outer.x + 2, outer.y + 1, outer.width - 4, outer.height - 2)
}
