//! The camera: the part of the canvas that is seen, and its size. Lengths on the screen are in dots: half a character cell high, one wide.

use ratatui::layout::Rect;
use splimo_document::edit::Bounds;

/// The things that the camera keeps in sight.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) enum Fit {
    /// Every light.
    #[default]
    Lights,
    /// The canvas.
    Canvas,
    /// The chosen fixtures.
    Chosen,
    /// The place that the person has gone to.
    Free,
}

/// The place that is looked at, and the scale.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Camera {
    pub(super) fit: Fit,
    /// True if it is to stay where it is from the next look on.
    pub(super) holds: bool,
    /// Dots a pitch.
    pub(super) scale: f32,
    /// The place on the canvas that is in the middle.
    pub(super) x: f32,
    pub(super) y: f32,
    area: Rect,
}

impl Default for Camera {
    fn default() -> Self {
        Self { fit: Fit::Lights, holds: false, scale: 1.0, x: 0.0, y: 0.0, area: Rect::ZERO }
    }
}

impl Camera {
    const LEAST: f32 = 0.02;
    const MOST: f32 = 24.0;

    /// Takes its area on the screen, and what it keeps in sight.
    pub(super) fn look(&mut self, area: Rect, bounds: Bounds) {
        self.area = area;
        if self.fit == Fit::Free {
            return;
        }
        let (width, height) = (f32::from(area.width.max(1)), f32::from(area.height.max(1)) * 2.0);
        // Room for the labels around.
        let scale = (width / (bounds.width() + 3.0)).min(height / (bounds.height() + 5.0));
        self.scale = evened(scale.clamp(Self::LEAST, 8.0));
        (self.x, self.y) = bounds.middle();
        if std::mem::take(&mut self.holds) {
            self.fit = Fit::Free;
        }
    }

    /// Nearer (1) or farther (-1), with the place under `at` staying there.
    pub(super) fn zoom(&mut self, by: i32, at: Option<(f32, f32)>) {
        let before = self.scale;
        let factor = if by > 0 { 1.5 } else { 1.0 / 1.5 };
        self.scale = evened((before * factor).clamp(Self::LEAST, Self::MOST));
        if self.scale == before {
            self.scale = (before + by.signum() as f32).clamp(Self::LEAST, Self::MOST);
        }
        if let Some((x, y)) = at {
            let share = before / self.scale;
            (self.x, self.y) = (x + (self.x - x) * share, y + (self.y - y) * share);
        }
        self.fit = Fit::Free;
    }

    /// A quarter of the screen to the side.
    pub(super) fn pan(&mut self, right: i32, down: i32) {
        let step = f32::from(self.area.width) / 4.0 / self.scale;
        self.shift(right as f32 * step, down as f32 * step);
    }

    /// By some pitches.
    pub(super) fn shift(&mut self, right: f32, down: f32) {
        (self.x, self.y) = (self.x + right, self.y + down);
        self.fit = Fit::Free;
    }

    /// The dot of a place on the canvas, from the corner of the area; it may lie outside.
    pub(super) fn dot(&self, x: f32, y: f32) -> (f32, f32) {
        let (width, height) = (f32::from(self.area.width), f32::from(self.area.height) * 2.0);
        ((x - self.x) * self.scale + width / 2.0, (y - self.y) * self.scale + height / 2.0)
    }

    /// The place on the canvas under a character cell.
    pub(super) fn place(&self, column: u16, row: u16) -> (f32, f32) {
        let (width, height) = (f32::from(self.area.width), f32::from(self.area.height) * 2.0);
        let (dx, dy) =
            (f32::from(column) - f32::from(self.area.x) + 0.5, (f32::from(row) - f32::from(self.area.y)) * 2.0 + 1.0);
        (self.x + (dx - width / 2.0) / self.scale, self.y + (dy - height / 2.0) / self.scale)
    }
}

/// A scale at which neighbours are evenly far apart, where little is lost by it.
fn evened(scale: f32) -> f32 {
    if scale >= 1.0 {
        return scale.floor();
    }
    let even = 1.0 / (1.0 / scale).ceil();
    if even >= scale * 0.8 { even } else { scale }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_under_the_pointer_stays_there() {
        let area = Rect::new(40, 5, 100, 30);
        let bounds = Bounds { left: 0.0, top: 0.0, right: 60.0, bottom: 30.0 };
        let mut camera = Camera::default();
        camera.look(area, bounds);
        assert_eq!((camera.scale, camera.x, camera.y), (1.0, 30.0, 15.0));
        let place = camera.place(70, 12);
        camera.zoom(1, Some(place));
        assert!(camera.scale > 1.0);
        let again = camera.place(70, 12);
        assert!((place.0 - again.0).abs() < 1e-3 && (place.1 - again.1).abs() < 1e-3, "{place:?} {again:?}");
        camera.look(area, bounds);
        assert!(camera.scale > 1.0, "a camera that was moved stays");
        for _ in 0..40 {
            camera.zoom(1, None);
        }
        assert_eq!(camera.scale, Camera::MOST);
        let (x, y) = camera.place(40, 5);
        let (dx, dy) = camera.dot(x, y);
        assert!((dx - 0.5).abs() < 1e-2 && (dy - 1.0).abs() < 1e-2);
    }
}
