//! A living miniature: a look on a handful of the rig's own LEDs, for a pad.

use crate::colour::Rgba;
use crate::effect::Moment;
use crate::engine::Player;
use crate::rig::{Rig, TILE};
use crate::show::{Look, Show};

/// Which LEDs of a rig stand for it on a raster of a few cells.
#[derive(Debug, Clone, PartialEq)]
pub struct Raster {
    /// The width in cells.
    pub columns: usize,
    /// The height in cells.
    pub rows: usize,
    /// The chosen LEDs.
    leds: Vec<u32>,
    /// The cell that each chosen LED is for.
    cells: Vec<u32>,
}

impl Raster {
    /// Chooses, for each cell of a raster over the rig, the LED nearest to its middle, if one lies within it. At most
    /// [`TILE`] cells are used.
    #[must_use]
    pub fn new(rig: &Rig, columns: usize, rows: usize) -> Self {
        let rows = rows.min(TILE / columns.max(1));
        let bound = |list: &[f32]| {
            let low = list.iter().copied().fold(f32::MAX, f32::min);
            (low, list.iter().copied().fold(f32::MIN, f32::max) - low)
        };
        let ((left, width), (top, height)) = (bound(&rig.x), bound(&rig.y));
        let mut nearest: Vec<Option<(f32, u32)>> = vec![None; columns * rows];
        for led in 0..rig.len() {
            let (x, y) = rig.position(led);
            let (u, v) = (place(x - left, width, columns), place(y - top, height, rows));
            let (column, row) = ((u as usize).min(columns - 1), (v as usize).min(rows - 1));
            let (du, dv) = (u - column as f32 - 0.5, v - row as f32 - 0.5);
            let distance = du * du + dv * dv;
            let best = &mut nearest[row * columns + column];
            if best.is_none_or(|(d, _)| distance < d) {
                *best = Some((distance, led as u32));
            }
        }
        let (cells, leds) =
            nearest.iter().enumerate().filter_map(|(cell, best)| best.map(|(_, led)| (cell as u32, led))).unzip();
        Self { columns, rows, leds, cells }
    }
}

fn place(from_start: f32, length: f32, cells: usize) -> f32 {
    if length > 0.0 { from_start / length * cells as f32 } else { cells as f32 / 2.0 }
}

/// One look on a [`Raster`].
pub struct Miniature {
    player: Player,
    light: Vec<Rgba>,
    scratch: Vec<Rgba>,
}

impl Miniature {
    /// The miniature of a look, from the look's start.
    #[must_use]
    pub fn new(look: &Look, show: &Show, rig: &Rig, raster: &Raster) -> Self {
        let count = raster.leds.len();
        Self {
            player: Player::thinned(look, show, rig, &raster.leds),
            light: vec![[0.0; 4]; count],
            scratch: vec![[0.0; 4]; TILE],
        }
    }

    /// Goes on to a moment, and writes the linear light of each cell of the raster into `cells`; cells without a light
    /// are left as they are.
    pub fn draw(&mut self, moment: &Moment<'_>, raster: &Raster, cells: &mut [[f32; 3]]) {
        self.player.advance(moment);
        if !self.light.is_empty() {
            self.player.light(0, &mut self.light, &mut self.scratch);
        }
        for (&cell, &[r, g, b, _]) in raster.cells.iter().zip(&self.light) {
            cells[cell as usize] = [r, g, b];
        }
    }
}
