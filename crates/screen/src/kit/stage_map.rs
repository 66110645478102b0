//! The stage: every LED at its place, two to a character cell.

use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::layout::{Position, Rect};
use ratatui::style::Style;
use splimo_base::colour::to_screen;
use splimo_light::rig::Rig;
use splimo_link::light::LedSet;
use splimo_show::Canvas;

use super::theme::{Depth, Theme};

/// Steps of the colours that are drawn. Coarser colours change less often, which is most of what a slow line carries.
const STEP: u8 = 6;

/// As many LEDs as a stage on a screen is drawn from at the most.
const ENOUGH: usize = 20_000;

/// The lights that are told for a stage: all of them, or as many as can be told apart on a screen.
pub(crate) fn enough_of(leds: usize) -> LedSet {
    LedSet::Every(leds.div_ceil(ENOUGH).max(1) as u32)
}

/// The dot that each LED falls on, for one size of the stage.
#[derive(Debug, Clone, Default)]
pub struct StageMap {
    area: Rect,
    /// The rig and the canvas that it is laid out for.
    of: Option<(Arc<Rig>, Canvas)>,
    /// Dots from left to right; twice as many rows of dots as of cells.
    columns: usize,
    rows: usize,
    /// For each LED the dots that it covers: left, top, and how many each way.
    dots: Vec<(u16, u16, u16)>,
    sum: Vec<[f32; 3]>,
    count: Vec<u16>,
}

impl StageMap {
    /// Draws the light of a rig into `area`.
    pub fn draw(
        &mut self,
        rig: &Arc<Rig>,
        canvas: Canvas,
        light: &[[f32; 3]],
        area: Rect,
        theme: Theme,
        buffer: &mut Buffer,
    ) {
        if area.is_empty() {
            return;
        }
        let same = |(known, size): &(Arc<Rig>, Canvas)| lies_alike(known, rig) && *size == canvas;
        if self.area != area || !self.of.as_ref().is_some_and(same) {
            self.lay_out(rig, canvas, area);
        }
        self.of = Some((rig.clone(), canvas));
        self.gather(light);
        // Light is seen on a dark ground, whatever the ground of words is.
        buffer.set_style(area.intersection(*buffer.area()), Style::new().bg(theme.stage()));
        for row in 0..self.rows / 2 {
            for column in 0..self.columns {
                let (top, bottom) = (self.dot(column, 2 * row), self.dot(column, 2 * row + 1));
                if top.is_none() && bottom.is_none() {
                    continue;
                }
                if let Some(cell) = buffer.cell_mut((area.x + column as u16, area.y + row as u16)) {
                    paint(cell, top, bottom, theme);
                }
            }
        }
    }

    /// The height of the canvas as it was drawn last, in half rows.
    #[must_use]
    pub fn height(&self) -> f32 {
        let Some((_, canvas)) = &self.of else { return 0.0 };
        let scale = (self.columns as f32 / canvas.width).min(self.rows as f32 / canvas.height);
        canvas.height * evened(scale)
    }

    /// The area that it was drawn into last.
    #[must_use]
    pub fn area(&self) -> Rect {
        self.area
    }

    /// The middle of an LED, in columns and half rows from the corner of the area.
    #[must_use]
    pub fn middle_of(&self, led: usize) -> Option<(f32, f32)> {
        let &(x, y, size) = self.dots.get(led)?;
        let half = f32::from(size) / 2.0;
        Some((f32::from(x) + half, f32::from(y) + half))
    }

    /// True if an LED is drawn in the cell at a place.
    pub fn covers(&self, led: usize, at: Position) -> bool {
        let Some(&(x, y, size)) = self.dots.get(led) else { return false };
        let column = at.x.wrapping_sub(self.area.x);
        let row = at.y.wrapping_sub(self.area.y);
        (x..x + size).contains(&column) && (y / 2..(y + size).div_ceil(2)).contains(&row)
    }

    fn lay_out(&mut self, rig: &Rig, canvas: Canvas, area: Rect) {
        self.area = area;
        (self.columns, self.rows) = (usize::from(area.width), usize::from(area.height) * 2);
        let scale = (self.columns as f32 / canvas.width).min(self.rows as f32 / canvas.height);
        let scale = evened(scale);
        let (left, top) =
            ((self.columns as f32 - canvas.width * scale) / 2.0, (self.rows as f32 - canvas.height * scale) / 2.0);
        // Where a dot is smaller than a pitch, an LED covers several.
        let size = (scale.floor() as u16).max(1);
        let place = |at: f32, start: f32, limit: usize| {
            ((at * scale + start - f32::from(size) / 2.0).round().max(0.0) as usize)
                .min(limit.saturating_sub(usize::from(size))) as u16
        };
        self.dots = rig
            .x
            .iter()
            .zip(&rig.y)
            .map(|(&x, &y)| (place(x, left, self.columns), place(y, top, self.rows), size))
            .collect();
        self.sum = vec![[0.0; 3]; self.columns * self.rows];
        self.count = vec![0; self.columns * self.rows];
    }

    fn gather(&mut self, light: &[[f32; 3]]) {
        self.sum.fill([0.0; 3]);
        self.count.fill(0);
        // As long as no light is told of, the lights are there and dark.
        let dark = [0.0; 3];
        for (led, &(x, y, size)) in self.dots.iter().enumerate() {
            let light = light.get(led).unwrap_or(&dark);
            for row in y..(y + size).min(self.rows as u16) {
                for column in x..(x + size).min(self.columns as u16) {
                    let dot = usize::from(row) * self.columns + usize::from(column);
                    self.count[dot] += 1;
                    for (sum, light) in self.sum[dot].iter_mut().zip(light) {
                        *sum += light;
                    }
                }
            }
        }
    }

    /// The colour of a dot, if any LED falls on it: the mean of those that do.
    fn dot(&self, column: usize, row: usize) -> Option<[u8; 3]> {
        let dot = row * self.columns + column;
        let count = self.count[dot];
        (count > 0).then(|| shown(self.sum[dot].map(|c| c / f32::from(count))))
    }
}

/// True if the lights of two rigs lie at the same places.
fn lies_alike(a: &Arc<Rig>, b: &Arc<Rig>) -> bool {
    Arc::ptr_eq(a, b) || (a.x == b.x && a.y == b.y)
}

/// A scale at which neighbours are evenly far apart: a whole number of dots a pitch, or of pitches a dot where little is
/// lost by it.
fn evened(scale: f32) -> f32 {
    if scale >= 1.0 {
        return scale.floor();
    }
    let even = 1.0 / (1.0 / scale).ceil();
    if even >= scale * 0.8 { even } else { scale }
}

/// The colour that stands for some light: never quite as dark as where no LED is, so that the rig is seen when it is dark.
#[must_use]
pub fn shown(light: [f32; 3]) -> [u8; 3] {
    to_screen(light).map(|c| (c / STEP * STEP).max(26))
}

/// Paints a cell of two dots.
pub fn paint(cell: &mut ratatui::buffer::Cell, top: Option<[u8; 3]>, bottom: Option<[u8; 3]>, theme: Theme) {
    if theme.depth == Depth::None {
        let brightness = |dot: Option<[u8; 3]>| dot.map_or(0.0, |c| f32::from(c.into_iter().max().unwrap_or(0)));
        let shades = [" ", "·", "░", "▒", "▓", "█"];
        let level = (brightness(top) + brightness(bottom)) / 2.0 / 256.0 * shades.len() as f32;
        cell.set_symbol(shades[(level as usize).min(shades.len() - 1)]);
        return;
    }
    match (top, bottom) {
        (Some(top), Some(bottom)) => cell.set_symbol("▀").set_fg(theme.colour(top)).set_bg(theme.colour(bottom)),
        (Some(top), None) => cell.set_symbol("▀").set_fg(theme.colour(top)).set_bg(theme.stage()),
        (None, Some(bottom)) => cell.set_symbol("▄").set_fg(theme.colour(bottom)).set_bg(theme.stage()),
        (None, None) => cell,
    };
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::{Fixture, Shape, Show};

    fn panel(columns: u32, rows: u32) -> Arc<Rig> {
        let mut show = Show::empty("Panel");
        let panel = Fixture::new("Panel", "rgb", Shape::Grid { columns, rows });
        show.fixtures = vec![panel.at(columns as f32 / 2.0, rows as f32 / 2.0)];
        Arc::new(Rig::compile(&show))
    }

    #[test]
    fn a_panel_has_no_holes_at_any_size() {
        let rig = panel(40, 8);
        let canvas = Canvas { width: 40.0, height: 8.0 };
        let light = vec![[1.0; 3]; rig.len()];
        for (width, height) in [(40, 4), (57, 9), (81, 20), (25, 6), (13, 3), (160, 48)] {
            let area = Rect::new(0, 0, width, height);
            let mut map = StageMap::default();
            let mut buffer = Buffer::empty(area);
            map.draw(&rig, canvas, &light, area, Theme::of(Depth::True), &mut buffer);
            let lit = |i: &usize| map.count[*i] > 0;
            let columns: Vec<usize> =
                (0..map.columns).filter(|c| (0..map.rows).any(|r| lit(&(r * map.columns + c)))).collect();
            let rows: Vec<usize> =
                (0..map.rows).filter(|r| (0..map.columns).any(|c| lit(&(r * map.columns + c)))).collect();
            let whole = |list: &[usize]| list.windows(2).all(|pair| pair[1] == pair[0] + 1);
            assert!(whole(&columns) && whole(&rows), "{width}x{height}: {columns:?} {rows:?}");
            assert!(
                columns.len() * 2 > usize::from(width).min(map.rows * 5),
                "{width}x{height} is not filled: {}",
                columns.len()
            );
        }
    }

    #[test]
    fn two_dots_share_a_cell() {
        let rig = panel(1, 2);
        let area = Rect::new(0, 0, 1, 1);
        let mut buffer = Buffer::empty(area);
        let light = [[1.0, 0.0, 0.0], [0.0, 0.0, 1.0]];
        let canvas = Canvas { width: 1.0, height: 2.0 };
        let theme = Theme::of(Depth::True);
        StageMap::default().draw(&rig, canvas, &light, area, theme, &mut buffer);
        let cell = &buffer[(0, 0)];
        assert_eq!((cell.symbol(), cell.fg, cell.bg), ("▀", theme.colour([252, 26, 26]), theme.colour([26, 26, 252])));
    }
}
