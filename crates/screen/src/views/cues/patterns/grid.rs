//! The part of a pattern that is in sight: some steps of its grid, each of some columns.

use ratatui::layout::Rect;
use splimo_show::{Pattern, Ticks};

/// The most columns of a step.
const WIDEST: u32 = 6;

/// The part that is in sight.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) struct Window {
    /// The first tick.
    from: u32,
    /// Ticks of a column, in 64ths.
    column: u32,
    area: Rect,
    length: u32,
}

impl Window {
    /// Lays a pattern out over the lanes, so that a place is in sight: all of it, or as much as leaves a column for each step.
    pub(super) fn lay_out(&mut self, pattern: &Pattern, at: Ticks, lanes: Rect) {
        let (step, length) = (pattern.grid.ticks().0, pattern.length().0);
        let steps = length.div_ceil(step).max(1);
        let columns = (u32::from(lanes.width) / steps).clamp(1, WIDEST);
        self.column = (step * 64 / columns).max(1);
        (self.area, self.length) = (lanes, length);
        let span = self.span();
        if at.0 < self.from || at.0 + step > self.from + span {
            // By half a window, and onto a bar.
            let bar = 4 * splimo_show::TICKS;
            self.from = at.0.saturating_sub(span / 2) / bar * bar;
        }
        self.from = self.from.min(length.saturating_sub(span).div_ceil(step) * step);
    }

    /// The ticks that are in sight.
    fn span(&self) -> u32 {
        u32::from(self.area.width.max(1)) * self.column / 64
    }

    /// The lanes.
    pub(super) fn area(&self) -> Rect {
        self.area
    }

    /// The column of a place that is in sight.
    pub(super) fn seen(&self, at: f64) -> Option<u16> {
        let column = (at - f64::from(self.from)) * 64.0 / f64::from(self.column);
        let seen = column >= 0.0 && column < f64::from(self.area.width) && at <= f64::from(self.length);
        seen.then(|| self.area.x + column as u16)
    }

    /// The columns of a time, as far as they are in sight; at least one of what begins in sight.
    pub(super) fn columns(&self, from: Ticks, to: Ticks) -> std::ops::Range<u16> {
        let column = |at: u32| {
            let column = (i64::from(at) - i64::from(self.from)) * 64 / i64::from(self.column);
            column.clamp(0, i64::from(self.area.width)) as u16 + self.area.x
        };
        let (left, right) = (column(from.0), column(to.0));
        let begins = from.0 >= self.from && left < self.area.right();
        left..if begins { right.max(left + 1) } else { right }
    }

    /// The place in the middle of a column.
    pub(super) fn middle(&self, column: u16) -> f64 {
        f64::from(self.from) + (f64::from(column - self.area.x) + 0.5) * f64::from(self.column) / 64.0
    }

    /// True if a column lies within the pattern.
    pub(super) fn is_within(&self, column: u16) -> bool {
        self.middle(column) < f64::from(self.length)
    }

    /// True if not all of the pattern is in sight.
    pub(super) fn is_part(&self) -> bool {
        self.span() < self.length
    }
}
