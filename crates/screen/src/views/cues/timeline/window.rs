//! The part of a timeline that is in sight, and its columns.

use ratatui::layout::Rect;

/// The most times that a timeline is drawn longer than its lanes are wide.
const MOST: f32 = 256.0;

/// The part that is in sight.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Window {
    /// Its beginning, in the unit of the timeline.
    from: f32,
    /// The times that all of the timeline is longer than it.
    times: f32,
    /// The length of the timeline.
    length: f32,
    /// The lanes, as they were drawn last.
    lanes: Rect,
}

impl Default for Window {
    fn default() -> Self {
        Self { from: 0.0, times: 1.0, length: 1.0, lanes: Rect::default() }
    }
}

impl Window {
    /// Takes note of the length of the timeline and of the room that there is.
    pub(super) fn lay_out(&mut self, length: f32, lanes: Rect) {
        (self.length, self.lanes) = (length.max(0.1), lanes);
        self.put(self.from);
    }

    /// The lanes.
    pub(super) fn lanes(&self) -> Rect {
        self.lanes
    }

    /// The length that is in sight.
    pub(super) fn span(&self) -> f32 {
        self.length / self.times
    }

    /// The beginning and the end of what is in sight.
    pub(super) fn ends(&self) -> (f32, f32) {
        (self.from, self.from + self.span())
    }

    /// True if not all of it is in sight.
    pub(super) fn is_zoomed(&self) -> bool {
        self.times > 1.0
    }

    /// Columns for each unit.
    pub(super) fn scale(&self) -> f32 {
        f32::from(self.lanes.width.max(1)) / self.span()
    }

    /// The column of a place, before or behind the lanes where it is not in sight.
    pub(super) fn column(&self, at: f32) -> i32 {
        i32::from(self.lanes.x) + ((at - self.from) * self.scale()).round() as i32
    }

    /// The column of a place that is in sight.
    pub(super) fn seen(&self, at: f32) -> Option<u16> {
        let column = u16::try_from(self.column(at)).ok()?;
        (self.lanes.left()..self.lanes.right()).contains(&column).then_some(column)
    }

    /// The place at a column.
    pub(super) fn place(&self, column: u16) -> f32 {
        (self.from + (f32::from(column) - f32::from(self.lanes.x)) / self.scale()).clamp(0.0, self.length)
    }

    /// Goes nearer, or further off below zero, with a place kept where it is.
    pub(super) fn zoom(&mut self, by: i32, around: f32) {
        let share = (around - self.from) / self.span();
        self.times = (self.times * 2f32.powi(by)).clamp(1.0, MOST);
        self.put(around - share.clamp(0.0, 1.0) * self.span());
    }

    /// Moves so that a place is in sight, with some room ahead of it.
    pub(super) fn reach(&mut self, at: f32) {
        let span = self.span();
        if at < self.from || at > self.from + span * 0.95 {
            self.put(at - span * 0.1);
        }
    }

    fn put(&mut self, from: f32) {
        self.from = from.clamp(0.0, self.length - self.span());
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nearer_keeps_the_place_and_reaching_brings_it_into_sight() {
        let mut window = Window::default();
        window.lay_out(100.0, Rect { x: 10, y: 0, width: 50, height: 5 });
        assert_eq!((window.column(0.0), window.column(100.0), window.place(35)), (10, 60, 50.0));
        window.zoom(2, 50.0);
        assert_eq!((window.span(), window.seen(50.0), window.seen(10.0)), (25.0, Some(35), None));
        window.reach(10.0);
        assert!(window.seen(10.0).is_some() && window.seen(50.0).is_none());
        window.reach(99.0);
        assert_eq!(window.ends(), (75.0, 100.0));
        window.zoom(-9, 80.0);
        assert_eq!((window.ends(), window.is_zoomed()), ((0.0, 100.0), false));
        // A timeline that has become shorter is in sight again.
        window.zoom(3, 99.0);
        window.lay_out(20.0, window.lanes());
        assert!(window.ends().1 <= 20.0);
    }
}
