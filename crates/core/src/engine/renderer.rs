//! The renderer: what is on stage, turned into light, watched by the supplies and packed into slots. It knows nothing of music.

use rayon::prelude::*;

use super::light_test::Overlay;
use super::player::{Player, SCRATCH};
use super::prepared::Prepared;
use super::stage::Stage;
use crate::Seconds;
use crate::blend;
use crate::colour::Rgba;
use crate::rig::TILE;

/// From so many tiles on (262,144 LEDs) a frame is lit by several threads. Below that one is enough, and what it does neither
/// allocates nor locks; handing tiles over to others may.
const MANY_TILES: usize = 256;

/// Tiles that a thread takes at a time at the least.
const TILES_AT_ONCE: usize = 8;

/// Every so many frames what the lights take is measured, where nothing depends on it.
const MEASURE_EVERY: u64 = 8;

/// Everything that a frame is made of, besides the show.
pub(super) struct Scene<'e> {
    pub stage: &'e Stage,
    pub overlay: &'e Overlay,
    /// Master and blackout, 0..1.
    pub level: f32,
}

/// The renderer, with room for the light of one tile of one look and for its player.
pub(super) struct Renderer {
    look: Box<[Rgba; TILE]>,
    effect: Box<[Rgba; SCRATCH]>,
}

/// Everything that all tiles of a frame are lit from.
struct Lighting<'e> {
    players: &'e [Player],
    scene: &'e Scene<'e>,
    /// The one look on stage, if there is one, whole.
    alone: Option<usize>,
}

impl Lighting<'_> {
    fn light(&self, tile: usize, sum: &mut [Rgba], look_tile: &mut [Rgba; TILE], effect_tile: &mut [Rgba; SCRATCH]) {
        let level = self.scene.level;
        if let (true, Some(look)) = (level > 0.0, self.alone) {
            // Nearly always there is one look, whole: nothing has to be mixed.
            self.players[look].light(tile, sum, &mut effect_tile[..]);
            if level < 1.0 {
                blend::scale(sum, level);
            }
        } else {
            sum.fill([0.0; 4]);
            for (look, weight) in self.scene.stage.weights().filter(|_| level > 0.0) {
                let light = &mut look_tile[..sum.len()];
                self.players[look].light(tile, light, &mut effect_tile[..]);
                blend::add_weighted(sum, light, weight * level);
            }
        }
        self.scene.overlay.light(tile, sum);
    }
}

impl Renderer {
    pub(super) fn new() -> Self {
        Self { look: Box::new([[0.0; 4]; TILE]), effect: Box::new([[0.0; 4]; SCRATCH]) }
    }

    /// Lights all tiles and turns them into slots. A supply's limit depends on all of its light, so that packing has to wait for
    /// it; else each tile is packed while it is in the cache.
    pub(super) fn render(&mut self, now: &mut Prepared, scene: &Scene<'_>, time: Seconds) {
        let dither = now.show.settings.dither.then_some(now.frame.number as u32);
        let alone = scene.stage.alone();
        let limits = now.power.limits();
        let measures = limits || now.frame.number.is_multiple_of(MEASURE_EVERY);
        if measures {
            now.power.begin();
        }
        let many = now.rig.tiles() >= MANY_TILES;
        if many {
            light_all(now, scene, alone);
        }
        for tile in 0..now.rig.tiles() {
            if !many {
                self.light_tile(now, scene, tile, alone);
            }
            if measures {
                let Prepared { power, rig, packer, frame, .. } = &mut *now;
                power.add(rig, tile, packer, &frame.light);
            }
            if !limits {
                pack(now, tile, dither);
            }
        }
        if measures {
            now.power.settle(time);
        }
        if limits {
            now.power.dim(&now.rig, &mut now.frame.light);
            (0..now.rig.tiles()).for_each(|tile| pack(now, tile, dither));
        }
        hold(now, scene.overlay);
        now.frame.number += 1;
    }

    fn light_tile(&mut self, now: &mut Prepared, scene: &Scene<'_>, tile: usize, alone: Option<usize>) {
        let range = now.rig.tile(tile);
        let lighting = Lighting { players: &now.players, scene, alone };
        lighting.light(tile, &mut now.frame.light[range], &mut self.look, &mut self.effect);
    }
}

/// Lights all tiles, on as many threads as the machine has cores. Each tile is the same whoever lights it.
pub(super) fn light_all(now: &mut Prepared, scene: &Scene<'_>, alone: Option<usize>) {
    let lighting = Lighting { players: &now.players, scene, alone };
    let tiles = now.frame.light.par_chunks_mut(TILE).enumerate().with_min_len(TILES_AT_ONCE);
    tiles.for_each(|(tile, sum)| {
        let (mut look, mut effect) = ([[0.0; 4]; TILE], [[0.0; 4]; SCRATCH]);
        lighting.light(tile, sum, &mut look, &mut effect);
    });
}

fn pack(now: &mut Prepared, tile: usize, dither: Option<u32>) {
    let Prepared { packer, rig, frame, .. } = now;
    packer.pack(rig, tile, &frame.light, dither, &mut frame.slots);
}

/// Slots that are held by the show or by a test stay as they are held, whatever the light is.
fn hold(now: &mut Prepared, overlay: &Overlay) {
    for held in &now.rig.held {
        now.frame.slots[held.slot as usize] = held.value;
    }
    if overlay.holds() {
        overlay.hold(&now.rig, &mut now.frame.slots);
    }
}
