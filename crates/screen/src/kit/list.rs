//! A list on the screen of which one entry is chosen.

use ratatui::layout::{Position, Rect};

/// A list of which one line is chosen, and of which as much is seen as there is room for.
#[derive(Default)]
pub(crate) struct List {
    pub(crate) chosen: usize,
    rows: usize,
    first: usize,
    area: Rect,
    /// Lines that each entry takes, if more than one.
    height: u16,
}

impl List {
    /// A list whose entries take several lines each.
    pub(crate) fn of_height(height: u16) -> Self {
        Self { height, ..Self::default() }
    }

    pub(crate) fn choose_by(&mut self, by: i32) {
        self.chosen = (self.chosen as i64 + i64::from(by)).clamp(0, self.rows.saturating_sub(1) as i64) as usize;
    }

    /// Takes note of how many lines there are and where; returns which are seen.
    pub(crate) fn lay_out(&mut self, rows: usize, area: Rect) -> std::ops::Range<usize> {
        (self.rows, self.area) = (rows, area);
        self.chosen = self.chosen.min(rows.saturating_sub(1));
        let lines = usize::from(area.height / self.height.max(1)).max(1);
        self.first = self.first.clamp(self.chosen.saturating_sub(lines - 1), self.chosen);
        self.first..(self.first + lines).min(rows)
    }

    pub(crate) fn row(&self, index: usize) -> Rect {
        let height = self.height.max(1);
        Rect { y: self.area.y + (index - self.first) as u16 * height, height, ..self.area }
    }

    pub(crate) fn click(&mut self, at: Position) -> bool {
        let row = self.first + usize::from(at.y.saturating_sub(self.area.y) / self.height.max(1));
        let hit = self.area.contains(at) && row < self.rows;
        if hit {
            self.chosen = row;
        }
        hit
    }
}
