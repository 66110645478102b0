//! A pen that writes from left to right on one line.

use std::borrow::Cow;

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::Style;
use splimo_base::outside::Outside;

use super::words::{columns, shortened};

/// Writes from left to right on one line and keeps to its area.
pub struct Pen<'a> {
    buffer: &'a mut Buffer,
    area: Rect,
    x: u16,
}

impl<'a> Pen<'a> {
    /// A pen at the left end of an area.
    pub fn new(area: Rect, buffer: &'a mut Buffer) -> Self {
        Self { x: area.x, area, buffer }
    }

    /// The width of its area.
    pub fn width(&self) -> u16 {
        self.area.width
    }

    /// The columns that are left.
    fn room(&self) -> usize {
        usize::from(self.area.right().saturating_sub(self.x))
    }

    /// Moves to a column of the area.
    pub fn to(&mut self, column: u16) -> &mut Self {
        self.x = (self.area.x + column).min(self.area.right());
        self
    }

    /// The column that is written next, from the area's left.
    pub fn column(&self) -> u16 {
        self.x - self.area.x
    }

    /// The buffer that is written on.
    pub(crate) fn buffer(&mut self) -> &mut Buffer {
        self.buffer
    }

    /// Writes what has room as a whole, and else nothing: half a word tells nothing.
    pub fn fit(&mut self, text: &str, style: Style) {
        if columns(text.trim_end()) <= self.room() {
            self.put(text, style);
        }
    }

    /// Writes, and says where. Words that have no room end in `…`.
    pub fn put(&mut self, text: &str, style: Style) -> Rect {
        let start = self.x;
        if self.area.height > 0 {
            let room = self.room();
            let line = Outside(text).line();
            let goes_on = columns(line.trim_end()) > room && line.contains(char::is_alphanumeric);
            let shown = if goes_on { Cow::Owned(shortened(&line, room)) } else { line };
            (self.x, _) = self.buffer.set_stringn(self.x, self.area.y, shown, room, style);
        }
        Rect::new(start, self.area.y, self.x - start, 1)
    }
}
