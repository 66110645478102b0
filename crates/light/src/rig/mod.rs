//! The rig: the show's patch compiled into flat arrays, in the order of the fixtures and, within each, of the wiring.

mod geometry;
mod heads;
mod laying;
mod wiring;

pub use geometry::{angles_around, cell_positions, lights_around};
pub use heads::{Head, HeadSlot};
pub use laying::{Laid, Portion, Taken, lay};
pub use wiring::{order, runs};

use std::collections::HashMap;
use std::sync::Arc;

use crate::media::Media;
use splimo_show::{Channel, Fixture, Function, OutTarget, Profile, SLOTS, Show};

/// The place of the gain of 1 in [`Rig::gains`].
pub const PLAIN: u16 = 0;

/// The number of LEDs that are worked on at a time: what a few layers need of them stays in the first cache.
pub const TILE: usize = 1024;

/// A rig ready for the engine. LED `i` lies at (`x[i]`, `y[i]`) on the canvas.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Rig {
    /// The x of each LED, in pitches from the left of the canvas.
    pub x: Vec<f32>,
    /// The y of each LED, in pitches from the top of the canvas.
    pub y: Vec<f32>,
    /// The fixtures of the show compiled, in the same order.
    pub fixtures: Vec<Patched>,
    /// The universes that have any channel in use, ascending.
    pub universes: Vec<u32>,
    /// The factors of the light on its way to each kind of output; the first leaves it as it is.
    pub gains: Vec<[f32; 3]>,
    /// For each universe, the places of the gains with which it leaves: where routes that carry it differ in limit or white
    /// point, a frame has the universe several times.
    pub variants: Vec<Vec<u16>>,
    /// LEDs that lie behind one another in a universe; none crosses a tile.
    pub runs: Vec<PatchRun>,
    /// Slots that carry no light.
    pub held: Vec<Held>,
    /// The fixtures that turn, in the order of the fixtures.
    pub heads: Vec<Head>,
    /// The channels of pan and tilt.
    pub head_slots: Vec<HeadSlot>,
    /// The profiles that the runs refer to.
    pub profiles: Vec<Profile>,
    /// The first run of each tile, and the number of runs.
    pub tile_runs: Vec<u32>,
    /// The media that the show takes from files, as they were read; looks find them here.
    pub media: Arc<Media>,
}

/// The LEDs of one fixture.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Patched {
    /// The first LED.
    pub first: u32,
    /// The number of them.
    pub cells: u32,
    /// Index of the profile.
    pub profile: u32,
}

impl Patched {
    /// The indices of its LEDs.
    #[must_use]
    pub fn leds(self) -> std::ops::Range<usize> {
        self.first as usize..(self.first + self.cells) as usize
    }
}

/// LEDs whose channels follow each other without a gap.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct PatchRun {
    /// The first LED.
    pub first: u32,
    /// The number of LEDs.
    pub cells: u32,
    /// The place of the first channel, or of the block of cells that it lies in, among all slots of a frame: 512 for each
    /// of [`Rig::universes`], as often as there are variants.
    pub slot: u32,
    /// The place of the first LED in its block, from 0.
    pub within: u16,
    /// Index of the profile in [`Rig::profiles`].
    pub profile: u32,
    /// Index of the fixture.
    pub fixture: u32,
    /// Index of what its light is multiplied by, in [`Rig::gains`].
    pub gain: u16,
}

impl PatchRun {
    /// The indices of its LEDs.
    #[must_use]
    pub fn leds(&self) -> std::ops::Range<usize> {
        self.first as usize..(self.first + self.cells) as usize
    }
}

/// A slot that carries no light but rests at a value.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Held {
    /// Its place among all slots of a frame.
    pub slot: u32,
    /// The value.
    pub value: u8,
}

impl Rig {
    /// Compiles the patch of a show. Fixtures whose profile does not exist have no LEDs.
    #[must_use]
    pub fn compile(show: &Show) -> Self {
        let mut rig = Self::default();
        let mut known: HashMap<&str, Option<u32>> = HashMap::new();
        let mut all_laid: Vec<Laid> = Vec::with_capacity(show.fixtures.len());
        for fixture in &show.fixtures {
            let first = rig.x.len() as u32;
            let profile = *known.entry(&fixture.profile).or_insert_with(|| {
                rig.profiles.push(show.profile(&fixture.profile)?);
                Some(rig.profiles.len() as u32 - 1)
            });
            let Some(profile) = profile else {
                rig.fixtures.push(Patched { first, cells: 0, profile: 0 });
                all_laid.push(Laid::default());
                continue;
            };
            geometry::place(fixture, &mut rig.x, &mut rig.y);
            rig.fixtures.push(Patched { first, cells: rig.x.len() as u32 - first, profile });
            all_laid.push(lay(fixture, &rig.profiles[profile as usize]));
        }
        let out = show.values_out.iter().filter_map(|out| match &out.to {
            OutTarget::Dmx(address) => Some(address.universe),
            OutTarget::Osc(..) | OutTarget::Midi(..) => None,
        });
        rig.universes = all_laid.iter().flat_map(|laid| laid.taken.iter().map(|t| t.universe)).chain(out).collect();
        rig.universes.sort_unstable();
        rig.universes.dedup();
        rig.find_variants(show);
        for (index, laid) in all_laid.iter().enumerate() {
            let patched = rig.fixtures[index];
            for portion in &laid.portions {
                rig.add_runs(portion, patched, index as u32);
            }
            rig.hold(&show.fixtures[index], index as u32, laid, patched.profile);
        }
        rig.index_tiles();
        rig
    }

    /// The position of an LED: pitches from the left and from the top of the canvas.
    #[must_use]
    pub fn position(&self, index: usize) -> (f32, f32) {
        (self.x[index], self.y[index])
    }

    /// The number of LEDs that there are.
    #[must_use]
    pub fn len(&self) -> usize {
        self.x.len()
    }

    /// True if there is no LED at all.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.x.is_empty()
    }

    /// The number of tiles that the LEDs fill.
    #[must_use]
    pub fn tiles(&self) -> usize {
        self.len().div_ceil(TILE)
    }

    /// The LEDs of a tile.
    #[must_use]
    pub fn tile(&self, tile: usize) -> std::ops::Range<usize> {
        tile * TILE..((tile + 1) * TILE).min(self.len())
    }

    /// The runs that begin in a tile, which is where they end as well.
    #[must_use]
    pub fn runs_of(&self, tile: usize) -> &[PatchRun] {
        &self.runs[self.tile_runs[tile] as usize..self.tile_runs[tile + 1] as usize]
    }

    /// The place of a slot among all slots of a frame.
    #[must_use]
    pub fn slot_index(&self, universe: u32, slot: u16) -> Option<usize> {
        let index = self.universes.binary_search(&universe).ok()?;
        Some(index * usize::from(SLOTS) + usize::from(slot))
    }

    /// The number of slots that a frame has.
    #[must_use]
    pub fn slots(&self) -> usize {
        self.stride() * self.variants.iter().map(Vec::len).max().unwrap_or(0)
    }

    /// The number of slots that lie between a universe and its next variant.
    #[must_use]
    pub fn stride(&self) -> usize {
        self.universes.len() * usize::from(SLOTS)
    }

    /// The 512 slots of a frame, as their place, that are a universe as it leaves with some gain.
    #[must_use]
    pub fn block_of(&self, universe: u32, gain: [f32; 3]) -> Option<usize> {
        let index = self.universes.binary_search(&universe).ok()?;
        let variant = self.variants[index].iter().position(|&g| self.gains[usize::from(g)] == gain)?;
        Some(variant * self.universes.len() + index)
    }

    /// True if a run lies among the slots of the first variant, which has every universe once.
    #[must_use]
    pub fn is_first_variant(&self, run: &PatchRun) -> bool {
        (run.slot as usize) < self.stride()
    }

    /// Finds out with what gains each universe leaves.
    fn find_variants(&mut self, show: &Show) {
        self.gains = vec![[1.0; 3]];
        self.variants = vec![Vec::new(); self.universes.len()];
        for route in show.routes.iter().filter(|r| r.enabled) {
            let gain = route.gain();
            let place = self.gains.iter().position(|known| *known == gain).unwrap_or_else(|| {
                self.gains.push(gain);
                self.gains.len() - 1
            }) as u16;
            let range = route.universes;
            let first = self.universes.partition_point(|u| *u < range.first);
            let end = self.universes.partition_point(|u| *u <= range.last);
            for gains in &mut self.variants[first..end.max(first)] {
                if !gains.contains(&place) {
                    gains.push(place);
                }
            }
        }
        // What no route carries is there all the same, for the screen.
        self.variants.iter_mut().filter(|gains| gains.is_empty()).for_each(|gains| gains.push(PLAIN));
    }

    fn add_runs(&mut self, portion: &Portion, patched: Patched, fixture: u32) {
        // What runs on past the end of a universe comes to lie in the next, which is in use as well.
        let Ok(universe) = self.universes.binary_search(&portion.universe) else { return };
        let slot = universe * usize::from(SLOTS) + usize::from(portion.slot);
        let layout = self.profiles[patched.profile as usize].layout();
        let (mut led, end) = (patched.first + portion.cell, patched.first + portion.cell + portion.cells);
        let (mut slot, mut within) = (slot as u32, portion.within);
        let stride = self.stride() as u32;
        while led < end {
            let cells = (TILE as u32 - led % TILE as u32).min(end - led);
            for (variant, &gain) in self.variants[universe].iter().enumerate() {
                let slot = slot + variant as u32 * stride;
                self.runs.push(PatchRun { first: led, cells, slot, within, profile: patched.profile, fixture, gain });
            }
            led += cells;
            if layout.cells == 1 {
                slot += cells * u32::from(layout.block);
            } else {
                within += cells as u16;
            }
        }
    }

    /// Notes where the channels rest that carry no light, and which of them say where it points.
    fn hold(&mut self, fixture: &Fixture, index: u32, laid: &Laid, profile: u32) {
        let Some(profile) = self.profiles.get(profile as usize).cloned() else { return };
        let head = self.add_head(index, fixture, &profile);
        for (start, channels) in [(laid.head, profile.head()), (laid.tail, profile.tail())] {
            let Some(slot) = start.and_then(|(universe, slot)| self.slot_index(universe, slot)) else { continue };
            self.hold_channels(head, slot as u32, channels.iter().map(|c| (c, true)));
        }
        let block = profile.block();
        let rests: Vec<bool> = block.iter().map(|channel| !carries_light(channel, block)).collect();
        if !rests.contains(&true) {
            return;
        }
        let layout = profile.layout();
        for portion in &laid.portions {
            let Some(slot) = self.slot_index(portion.universe, portion.slot) else { continue };
            let blocks = if layout.cells == 1 { portion.cells } else { 1 };
            for index in 0..blocks {
                let slot = slot as u32 + index * u32::from(layout.block);
                self.hold_channels(head, slot, block.iter().zip(rests.iter().copied()));
            }
        }
    }

    fn hold_channels<'a>(
        &mut self,
        head: Option<u32>,
        mut slot: u32,
        channels: impl Iterator<Item = (&'a Channel, bool)>,
    ) {
        for (channel, rests) in channels {
            if rests {
                let turns = matches!(channel.does, Function::Pan | Function::Tilt);
                let [coarse, fine] = channel.rest().to_be_bytes();
                let stride = self.stride() as u32;
                for variant in 0..self.variants[slot as usize / usize::from(SLOTS)].len() as u32 {
                    let slot = slot + variant * stride;
                    if let Some(head) = head.filter(|_| turns) {
                        self.head_slots.push(HeadSlot { slot, head, channel: *channel });
                    } else if channel.wide {
                        self.held.push(Held { slot, value: coarse });
                        self.held.push(Held { slot: slot + 1, value: fine });
                    } else {
                        self.held.push(Held { slot, value: fine });
                    }
                }
            }
            slot += u32::from(channel.slots());
        }
    }

    fn index_tiles(&mut self) {
        // Fixtures come in LED order and so do their runs; a fixture may have been patched in any universe.
        let start = |tile: usize| self.runs.partition_point(|run| (run.first as usize) < tile * TILE) as u32;
        self.tile_runs = (0..=self.tiles()).map(start).collect();
    }
}

/// True if a channel of a cell carries its light: colours do, and a dimmer that is alone in its cell.
#[must_use]
pub fn carries_light(channel: &Channel, block: &[Channel]) -> bool {
    let coloured = || block.iter().any(|other| other.cell == channel.cell && other.does.is_colour());
    channel.cell > 0 && (channel.does.is_colour() || (channel.does == Function::Dimmer && !coloured()))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use splimo_show::{Address, Shape};

    #[test]
    fn what_carries_no_light_rests_at_its_value() {
        let mut show = Show::empty("Heads");
        let mut head = Fixture::new("Head", "moving head", Shape::Line { cells: 1 }).patched(2, 11);
        (head.pan, head.tilt) = (25.0, 100.0);
        show.fixtures = vec![Fixture::new("Lamp", "dimmer", Shape::Line { cells: 4 }).patched(1, 1), head];
        let rig = Rig::compile(&show);
        let held: Vec<(u32, u8)> = rig.held.iter().map(|h| (h.slot - 512, h.value)).collect();
        assert_eq!(held, [(14, 255)]);
        let mut slots = vec![0; rig.slots()];
        rig.head_slots.iter().for_each(|slot| slot.write(&rig.heads[0], rig.heads[0].rest, &mut slots));
        assert_eq!(slots[522..526], [0x40, 0x00, 255, 255], "pan and tilt, coarse and fine");
        assert_eq!(rig.runs.iter().map(|r| (r.first, r.cells, r.slot)).collect::<Vec<_>>(), [(0, 4, 0), (4, 1, 527)]);
    }

    proptest! {
        #[test]
        fn runs_of_all_tiles_are_all_runs(counts in proptest::collection::vec(1u32..3000, 1..6), split: bool) {
            let mut show = Show::empty("Runs");
            show.fixtures = counts
                .iter()
                .enumerate()
                .map(|(i, &cells)| Fixture {
                    split,
                    ..Fixture::new("Bar", "rgbw", Shape::Line { cells }).patched(1 + 40 * (9 - i as u32), 2)
                })
                .collect();
            let rig = Rig::compile(&show);
            let all: usize = (0..rig.tiles()).map(|t| rig.runs_of(t).len()).sum();
            prop_assert_eq!(all, rig.runs.len());
            for tile in 0..rig.tiles() {
                for run in rig.runs_of(tile) {
                    prop_assert!(rig.tile(tile).contains(&(run.first as usize)));
                    prop_assert!(rig.tile(tile).contains(&((run.first + run.cells - 1) as usize)));
                }
            }
            prop_assert_eq!(rig.runs.iter().map(|r| r.cells).sum::<u32>(), counts.iter().sum::<u32>());
            let address = Address { universe: 361, channel: 2 };
            prop_assert_eq!(show.fixtures[0].address, Some(address));
            prop_assert_eq!(rig.runs[0].slot as usize, (rig.universes.len() - rig.universes.iter().filter(|u| **u >= 361).count()) * 512 + 1);
        }
    }
}
