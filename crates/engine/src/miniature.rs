//! A living miniature: a look on a handful of the rig's own LEDs, for a pad.

use crate::{Maps, Player, SCRATCH};
use splimo_base::colour::Rgba;
use splimo_light::effect::Moment;
use splimo_light::rig::{Rig, TILE};
use splimo_show::{Look, Show};

/// Cells of a raster at the most.
const MOST_CELLS: usize = 1024;

/// The LEDs of a rig that stand for it on a raster of a few cells.
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
    /// Chooses, for each cell of a raster over the rig, the LED nearest to its middle, if one lies within it. At most 1024
    /// cells are used.
    #[must_use]
    pub fn new(rig: &Rig, columns: usize, rows: usize) -> Self {
        let rows = rows.min(MOST_CELLS / columns.max(1));
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
    /// The miniature of a look, from the look's start. Several miniatures on one rig share `maps`.
    #[must_use]
    pub fn new(look: &Look, show: &Show, rig: &Rig, raster: &Raster, maps: &mut Maps) -> Self {
        let count = raster.leds.len();
        Self {
            player: Player::thinned(look, show, rig, &raster.leds, maps),
            light: vec![[0.0; 4]; count],
            scratch: vec![[0.0; 4]; SCRATCH],
        }
    }

    /// Goes on where an older miniature of the same look is.
    pub fn take_over(&mut self, older: &mut Self) {
        self.player.take_over(&mut older.player);
    }

    /// Goes on to a moment, and writes the linear light of each cell of the raster into `cells`; cells without a light
    /// are left as they are.
    pub fn draw(&mut self, moment: &Moment<'_>, raster: &Raster, cells: &mut [[f32; 3]]) {
        self.player.advance(moment);
        for (tile, light) in self.light.chunks_mut(TILE).enumerate() {
            self.player.light(tile, light, &mut self.scratch);
        }
        for (&cell, &[r, g, b, _]) in raster.cells.iter().zip(&self.light) {
            cells[cell as usize] = [r, g, b];
        }
    }
}

/// Rigs with more LEDs than this are shown by some of them in a [`Preview`].
const MOST_SHOWN: usize = 16_384;

/// A look on all of a rig, for a stage on a screen that does not go out.
pub struct Preview {
    player: Player,
    light: Vec<Rgba>,
    scratch: Vec<Rgba>,
    /// Every so many LEDs one is lit; the others look like it.
    every: usize,
    shown: Vec<[f32; 3]>,
}

impl Preview {
    /// The preview of a look, from the look's start.
    #[must_use]
    pub fn new(look: &Look, show: &Show, rig: &Rig) -> Self {
        let every = rig.len().div_ceil(MOST_SHOWN).max(1);
        let leds: Vec<u32> = (0..rig.len() as u32).step_by(every).collect();
        let player = match every {
            1 => Player::compile(look, show, rig, &mut Maps::default()),
            _ => Player::thinned(look, show, rig, &leds, &mut Maps::default()),
        };
        let light = vec![[0.0; 4]; leds.len()];
        Self { player, light, scratch: vec![[0.0; 4]; SCRATCH], every, shown: vec![[0.0; 3]; rig.len()] }
    }

    /// Goes on where an older preview of the same look is.
    pub fn take_over(&mut self, older: &mut Self) {
        self.player.take_over(&mut older.player);
    }

    /// Goes on to a moment; returns the linear light of every LED.
    pub fn draw(&mut self, moment: &Moment<'_>) -> &[[f32; 3]] {
        self.player.advance(moment);
        for (tile, light) in self.light.chunks_mut(TILE).enumerate() {
            self.player.light(tile, light, &mut self.scratch);
        }
        for (led, shown) in self.shown.iter_mut().enumerate() {
            let [r, g, b, _] = self.light[led / self.every];
            *shown = [r, g, b];
        }
        &self.shown
    }

    /// The light as it was drawn last.
    #[must_use]
    pub fn light(&self) -> &[[f32; 3]] {
        &self.shown
    }

    /// The look as it runs.
    pub fn player(&mut self) -> &mut Player {
        &mut self.player
    }
}
