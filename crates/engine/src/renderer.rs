//! The renderer: what is on stage, turned into light, watched by the supplies and packed into slots. It knows nothing of music.

use rayon::prelude::*;

use super::player::{Player, SCRATCH};
use super::prepared::Prepared;
use super::reach::Reach;
use super::recolour::Recolour;
use super::stage::Stage;
use super::tiers::Tiers;
use crate::identify::Overlay;
use splimo_base::Seconds;
use splimo_base::colour::Rgba;
use splimo_light::blend;
use splimo_light::rig::TILE;
use splimo_show::{Blend, MOST_TIERS, Show};

/// From so many tiles on (262,144 LEDs) a frame is lit by several threads. Below that one is enough, and what it does neither
/// allocates nor locks; handing tiles over to others may.
const MANY_TILES: usize = 262_144 / TILE;

/// Tiles that a thread takes at a time at the least.
const TILES_AT_ONCE: usize = 8192 / TILE;

/// Every so many frames what the lights take is measured, where nothing depends on it.
const MEASURE_EVERY: u64 = 8;

/// Everything that a frame is made of, besides the show.
pub(super) struct Scene<'e> {
    pub tiers: &'e Tiers,
    pub overlay: &'e Overlay,
    /// The level of each group, 0..1; empty where all are whole.
    pub groups: &'e [f32],
    /// The two colours of the stage.
    pub recolour: &'e Recolour,
    /// Master, blackout and strobe, 0..1.
    pub level: f32,
}

/// Room for the light of one tile: that of a tier, that of a look of it, and that of an effect.
struct Room {
    tier: [Rgba; TILE],
    look: [Rgba; TILE],
    effect: [Rgba; SCRATCH],
}

impl Room {
    const EMPTY: Self = Self { tier: [[0.0; 4]; TILE], look: [[0.0; 4]; TILE], effect: [[0.0; 4]; SCRATCH] };
}

/// The renderer, with room to work in.
pub(super) struct Renderer {
    room: Box<Room>,
}

/// A tier that gives light.
#[derive(Clone, Copy)]
struct LitTier {
    /// Its place in the stack; none for the light that is on when nothing else is.
    place: Option<usize>,
    /// The one look on it, if there is one, whole.
    alone: Option<usize>,
    /// The sum of the weights of its looks.
    whole: f32,
    level: f32,
    blend: Blend,
    /// True if it may touch all lights.
    everywhere: bool,
}

impl LitTier {
    /// True if on black it is nothing but its own light, on every light.
    fn is_plain(&self) -> bool {
        let gives = match self.blend {
            Blend::Normal | Blend::Add | Blend::Screen | Blend::Lighten | Blend::Difference => true,
            Blend::Multiply | Blend::Darken | Blend::Subtract | Blend::Mask => false,
        };
        gives && self.everywhere
    }
}

/// The tiers that give light, the lowest first.
#[derive(Clone, Copy)]
struct LitTiers {
    tiers: [Option<LitTier>; MOST_TIERS + 1],
    count: usize,
}

impl LitTiers {
    fn of(tiers: &Tiers, show: &Show) -> Self {
        let mut lit = Self { tiers: [None; MOST_TIERS + 1], count: 0 };
        let solo = tiers.tiers.iter().any(|tier| tier.solo);
        if !solo {
            lit.add(None, tiers.fallback(), 1.0, Blend::Normal, true);
        }
        for (place, (tier, declared)) in tiers.tiers.iter().zip(show.stack()).enumerate() {
            if !tier.mute && (tier.solo || !solo) {
                let everywhere = declared.lights.is_empty();
                lit.add(Some(place), tier.stage(), tier.level, declared.blend, everywhere);
            }
        }
        lit
    }

    fn add(&mut self, place: Option<usize>, stage: &Stage, level: f32, blend: Blend, everywhere: bool) {
        let whole = stage.whole();
        if level > 0.0 && whole > 0.0 && self.count < self.tiers.len() {
            self.tiers[self.count] = Some(LitTier { place, alone: stage.alone(), whole, level, blend, everywhere });
            self.count += 1;
        }
    }

    fn each(&self) -> impl Iterator<Item = &LitTier> {
        self.tiers.iter().flatten()
    }

    /// The only one that gives light, where on black it is nothing but its own light.
    fn only(&self) -> Option<&LitTier> {
        self.tiers[0].as_ref().filter(|tier| self.count == 1 && tier.is_plain())
    }
}

/// Everything that all tiles of a frame are lit from.
struct Lighting<'e> {
    players: &'e [Player],
    scene: &'e Scene<'e>,
    lit: &'e LitTiers,
    reaches: &'e [Option<Reach>],
    groups: &'e [Reach],
}

impl Lighting<'_> {
    fn light(&self, tile: usize, sum: &mut [Rgba], room: &mut Room) {
        let level = self.scene.level;
        if level <= 0.0 {
            sum.fill([0.0; 4]);
        } else if let Some(only) =
            self.lit.only().filter(|_| self.scene.groups.is_empty() && self.scene.recolour.is_off())
        {
            // Nearly always there is one tier, and one look on it: nothing has to be laid on anything.
            self.paint(only, tile, level * only.level, sum, &mut room.look, &mut room.effect);
        } else {
            self.lay_tiers(tile, sum, room);
            self.dim_groups(tile, sum);
            self.scene.recolour.apply(sum);
            if level < 1.0 {
                blend::scale(sum, level);
            }
        }
        self.scene.overlay.light(tile, sum);
    }

    fn stage(&self, tier: &LitTier) -> &Stage {
        match tier.place {
            Some(place) => self.scene.tiers.tiers[place].stage(),
            None => self.scene.tiers.fallback(),
        }
    }

    /// The lights that a tier may touch; none means all.
    fn reach(&self, tier: &LitTier) -> Option<&Reach> {
        self.reaches.get(tier.place?)?.as_ref()
    }

    /// Paints the picture of a tier: the mix of its looks, of which there is `level`.
    fn paint(
        &self,
        tier: &LitTier,
        tile: usize,
        level: f32,
        sum: &mut [Rgba],
        look_tile: &mut [Rgba; TILE],
        effect_tile: &mut [Rgba; SCRATCH],
    ) {
        if let Some(look) = tier.alone {
            self.players[look].light(tile, sum, &mut effect_tile[..]);
            if level < 1.0 {
                blend::scale(sum, level);
            }
            return;
        }
        sum.fill([0.0; 4]);
        for (look, weight) in self.stage(tier).weights() {
            let light = &mut look_tile[..sum.len()];
            self.players[look].light(tile, light, &mut effect_tile[..]);
            blend::add_weighted(sum, light, weight * level);
        }
    }

    /// Lays all tiers over one another, the lowest first.
    fn lay_tiers(&self, tile: usize, sum: &mut [Rgba], room: &mut Room) {
        let Room { tier: picture, look, effect } = room;
        let mut first = true;
        for tier in self.lit.each() {
            if std::mem::take(&mut first) {
                if tier.is_plain() {
                    self.paint(tier, tile, tier.level, sum, look, effect);
                    continue;
                }
                sum.fill([0.0; 4]);
            }
            let picture = &mut picture[..sum.len()];
            match self.reach(tier) {
                None => {
                    self.paint(tier, tile, 1.0, picture, look, effect);
                    blend::lay(tier.blend, sum, picture, tier.level, tier.whole);
                }
                Some(reach) if reach.on(tile).next().is_some() => {
                    self.paint(tier, tile, 1.0, picture, look, effect);
                    for range in reach.on(tile) {
                        let below = &mut sum[range.clone()];
                        blend::lay(tier.blend, below, &picture[range], tier.level, tier.whole);
                    }
                }
                Some(_) => {}
            }
        }
        if first {
            sum.fill([0.0; 4]);
        }
    }

    /// Takes the lights of groups down to their levels.
    fn dim_groups(&self, tile: usize, sum: &mut [Rgba]) {
        for (group, level) in self.groups.iter().zip(self.scene.groups).filter(|(_, level)| **level < 1.0) {
            for range in group.on(tile) {
                blend::scale(&mut sum[range], *level);
            }
        }
    }
}

impl Renderer {
    pub(super) fn new() -> Self {
        Self { room: Box::new(Room::EMPTY) }
    }

    /// Lights all tiles and turns them into slots. A supply's limit depends on all of its light, so that packing has to wait for
    /// it; else each tile is packed while it is in the cache.
    pub(super) fn render(&mut self, now: &mut Prepared, scene: &Scene<'_>, time: Seconds) {
        let dither = now.show.settings.dither.then_some(now.frame.number as u32);
        let strobe_limit = now.show.settings.strobe_limit;
        let limits = now.power.limits();
        let measures = limits || now.frame.number.is_multiple_of(MEASURE_EVERY);
        if measures {
            now.power.begin();
        }
        let many = now.rig.tiles() >= MANY_TILES;
        let lit = LitTiers::of(scene.tiers, &now.show);
        if many {
            light_all(now, scene);
        }
        for tile in 0..now.rig.tiles() {
            if !many {
                self.light_tile(now, scene, &lit, tile);
            }
            if strobe_limit > 0 {
                let range = now.rig.tile(tile);
                now.guard.pass(range.start, &mut now.frame.light[range]);
            }
            if measures {
                let Prepared { power, rig, packer, frame, .. } = &mut *now;
                power.add(rig, tile, packer, &frame.light);
            }
            if !limits {
                pack(now, tile, dither);
            }
        }
        now.guard.settle(time, strobe_limit);
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

    fn light_tile(&mut self, now: &mut Prepared, scene: &Scene<'_>, lit: &LitTiers, tile: usize) {
        let range = now.rig.tile(tile);
        let Prepared { players, reaches, groups, frame, .. } = now;
        let lighting = Lighting { players, scene, lit, reaches, groups };
        lighting.light(tile, &mut frame.light[range], &mut self.room);
    }
}

/// Lights all tiles, on as many threads as the machine has cores. Each tile is the same whoever lights it.
pub(super) fn light_all(now: &mut Prepared, scene: &Scene<'_>) {
    let lit = LitTiers::of(scene.tiers, &now.show);
    let Prepared { players, reaches, groups, frame, .. } = now;
    let lighting = Lighting { players, scene, lit: &lit, reaches, groups };
    let tiles = frame.light.par_chunks_mut(TILE).enumerate().with_min_len(TILES_AT_ONCE);
    tiles.for_each_init(|| Box::new(Room::EMPTY), |room, (tile, sum)| lighting.light(tile, sum, room));
}

fn pack(now: &mut Prepared, tile: usize, dither: Option<u32>) {
    let Prepared { packer, rig, frame, .. } = now;
    packer.pack(rig, tile, &frame.light, dither, &mut frame.slots);
}

/// Slots that are held by the show or by a test stay as they are held, whatever the light is.
fn hold(now: &mut Prepared, overlay: &Overlay) {
    now.heads.write(&now.rig, &mut now.frame.slots);
    for held in &now.rig.held {
        now.frame.slots[held.slot as usize] = held.value;
    }
    if overlay.holds() {
        overlay.hold(&now.rig, &mut now.frame.slots);
    }
}
