//! The mouse on the canvas: a click chooses, a drag moves what is chosen or draws a band around others, the wheel zooms.

use ratatui::buffer::Buffer;
use ratatui::layout::{Position, Rect};

use crate::kit::theme::Theme;

/// The drag of a held button.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum Drag {
    /// Moves what is chosen, from a place on the canvas.
    Move { from: (f32, f32), moved: bool },
    /// Chooses what lies within a band, from a cell of the screen.
    Band { from: Position, to: Position },
    /// Moves the camera.
    Pan { last: (f32, f32) },
}

/// The pointer.
#[derive(Debug, Clone, Default)]
pub(super) struct Pointer {
    /// The area in which the canvas is drawn.
    pub(super) area: Rect,
    pub(super) drag: Option<Drag>,
}

impl Pointer {
    /// Draws the band that is being drawn.
    pub(super) fn draw_band(&self, theme: Theme, buffer: &mut Buffer) {
        let Some(Drag::Band { from, to }) = self.drag else { return };
        let band = around(from, to).intersection(self.area);
        for y in band.top()..band.bottom() {
            for x in band.left()..band.right() {
                let edge = x == band.left() || x + 1 == band.right() || y == band.top() || y + 1 == band.bottom();
                if edge {
                    buffer[(x, y)].set_symbol("·").set_style(theme.bright());
                }
            }
        }
    }
}

fn around(a: Position, b: Position) -> Rect {
    Rect::new(a.x.min(b.x), a.y.min(b.y), a.x.abs_diff(b.x) + 1, a.y.abs_diff(b.y) + 1)
}
