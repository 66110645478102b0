//! The rig: the show's patch compiled into flat arrays, in the order of the fixtures and, within each, of the wiring.

mod geometry;
mod wiring;

pub use geometry::lattice_position;
pub use wiring::order;

use crate::show::{Fixture, Profile, SLOTS, Show};

/// How many LEDs are worked on at a time: what a few layers need of them stays in the first cache.
pub const TILE: usize = 1024;

/// A rig ready for the engine. LED `i` lies at (`x[i]`, `y[i]`) on the canvas.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Rig {
    /// Where each LED lies, in pitches from the left of the canvas.
    pub x: Vec<f32>,
    /// Where each LED lies, in pitches from the top of the canvas.
    pub y: Vec<f32>,
    /// What each fixture of the show became, in the same order.
    pub fixtures: Vec<Patched>,
    /// The universes that have any channel in use, ascending.
    pub universes: Vec<u32>,
    /// LEDs that lie behind one another in a universe; none crosses a tile.
    pub runs: Vec<PatchRun>,
    /// The profiles that the runs refer to.
    pub profiles: Vec<Profile>,
    /// The first run of each tile, and the number of runs.
    pub tile_runs: Vec<u32>,
}

/// The LEDs of one fixture.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Patched {
    /// The first LED.
    pub first: u32,
    /// How many there are.
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

/// LEDs whose channels follow each other without a gap in one universe.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct PatchRun {
    /// The first LED.
    pub first: u32,
    /// How many LEDs.
    pub cells: u32,
    /// Index of the universe in [`Rig::universes`].
    pub universe: u32,
    /// The slot of the first channel, 0..511.
    pub slot: u16,
    /// Index of the profile in [`Rig::profiles`].
    pub profile: u32,
}

/// One piece of a fixture in one universe, before universes have an index.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Portion {
    /// The first cell of the fixture in it.
    pub cell: u32,
    /// How many cells.
    pub cells: u32,
    /// The number of the universe.
    pub universe: u32,
    /// The slot of the first channel, 0..511.
    pub slot: u16,
}

impl Rig {
    /// Compiles the patch of a show. Fixtures whose profile does not exist have no LEDs.
    #[must_use]
    pub fn compile(show: &Show) -> Self {
        let mut rig = Self::default();
        let mut placed: Vec<(Portion, u32, u32)> = Vec::new();
        for fixture in &show.fixtures {
            let first = rig.x.len() as u32;
            let Some(profile) = show.profile(&fixture.profile) else {
                rig.fixtures.push(Patched { first, cells: 0, profile: 0 });
                continue;
            };
            geometry::place(fixture, &mut rig.x, &mut rig.y);
            let cells = rig.x.len() as u32 - first;
            let portions = portions(fixture, profile.footprint());
            let profile = rig.profile_index(profile);
            rig.fixtures.push(Patched { first, cells, profile });
            placed.extend(portions.into_iter().map(|portion| (portion, first, profile)));
        }
        rig.universes = placed.iter().map(|(p, ..)| p.universe).collect();
        rig.universes.sort_unstable();
        rig.universes.dedup();
        for (portion, first, profile) in placed {
            rig.add_runs(portion, first, profile);
        }
        rig.index_tiles();
        rig
    }

    /// Where an LED lies: pitches from the left and from the top of the canvas.
    #[must_use]
    pub fn position(&self, index: usize) -> (f32, f32) {
        (self.x[index], self.y[index])
    }

    /// How many LEDs there are.
    #[must_use]
    pub fn len(&self) -> usize {
        self.x.len()
    }

    /// Whether there is no LED at all.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.x.is_empty()
    }

    /// How many tiles the LEDs fill.
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

    fn profile_index(&mut self, profile: Profile) -> u32 {
        let known = self.profiles.iter().position(|p| *p == profile);
        known.unwrap_or_else(|| {
            self.profiles.push(profile);
            self.profiles.len() - 1
        }) as u32
    }

    fn add_runs(&mut self, portion: Portion, first: u32, profile: u32) {
        let Ok(universe) = self.universes.binary_search(&portion.universe) else { return };
        let footprint = self.profiles[profile as usize].footprint();
        let (mut led, end) = (first + portion.cell, first + portion.cell + portion.cells);
        let mut slot = portion.slot;
        while led < end {
            let cells = (TILE as u32 - led % TILE as u32).min(end - led);
            self.runs.push(PatchRun { first: led, cells, universe: universe as u32, slot, profile });
            led += cells;
            slot += cells as u16 * footprint;
        }
    }

    fn index_tiles(&mut self) {
        // Fixtures come in LED order and so do their runs; a fixture may have been patched in any universe.
        let start = |tile: usize| self.runs.partition_point(|run| (run.first as usize) < tile * TILE) as u32;
        self.tile_runs = (0..=self.tiles()).map(start).collect();
    }
}

/// Where the cells of a fixture fall: from its address on, a cell never split between two universes. Empty for a
/// fixture that is not patched; cells beyond the last universe are left out.
#[must_use]
pub fn portions(fixture: &Fixture, footprint: u16) -> Vec<Portion> {
    let mut portions = Vec::new();
    let Some(address) = fixture.address else { return portions };
    if footprint == 0 || footprint > SLOTS {
        return portions;
    }
    let cells = u32::try_from(fixture.shape.cells()).unwrap_or(u32::MAX);
    let (mut cell, mut universe, mut slot) = (0, address.universe, address.channel - 1);
    while cell < cells && universe <= crate::show::LAST_UNIVERSE {
        let room = u32::from((SLOTS - slot) / footprint).min(cells - cell);
        if room > 0 {
            portions.push(Portion { cell, cells: room, universe, slot });
            cell += room;
        }
        universe += 1;
        slot = 0;
    }
    portions
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::show::{Address, Shape, Wiring};
    use proptest::prelude::*;

    fn fixture(cells: u32, address: Address) -> Fixture {
        Fixture {
            name: "Bar".into(),
            profile: "rgb".into(),
            address: Some(address),
            shape: Shape::Line { cells },
            wiring: Wiring::default(),
            x: 0.0,
            y: 0.0,
            pitch: 1.0,
            angle: 0.0,
        }
    }

    #[test]
    fn a_cell_that_does_not_fit_begins_the_next_universe() {
        let portions = portions(&fixture(4, Address { universe: 3, channel: 506 }), 3);
        assert_eq!(
            portions,
            [
                Portion { cell: 0, cells: 2, universe: 3, slot: 505 },
                Portion { cell: 2, cells: 2, universe: 4, slot: 0 },
            ]
        );
    }

    #[test]
    fn the_last_universe_is_the_end() {
        let portions = portions(&fixture(200, Address { universe: 63_999, channel: 1 }), 3);
        assert_eq!(portions.iter().map(|p| p.cells).sum::<u32>(), 170);
    }

    proptest! {
        #[test]
        fn portions_cover_every_cell_once_and_never_split_one(
            cells in 1u32..5000, universe in 1u32..60_000, channel in 1u16..=512, footprint in 1u16..=16,
        ) {
            let mut next = 0;
            let mut last = (0, 0);
            for p in portions(&fixture(cells, Address { universe, channel }), footprint) {
                prop_assert_eq!(p.cell, next);
                next += p.cells;
                prop_assert!(u32::from(p.slot) + p.cells * u32::from(footprint) <= 512);
                prop_assert!((p.universe, p.slot) >= last);
                last = (p.universe, p.slot + p.cells as u16 * footprint);
            }
            prop_assert_eq!(next, cells);
        }

        #[test]
        fn runs_of_all_tiles_are_all_runs(counts in proptest::collection::vec(1u32..3000, 1..6)) {
            let mut show = Show::empty("Runs");
            show.fixtures = counts
                .iter()
                .enumerate()
                .map(|(i, &cells)| fixture(cells, Address { universe: 1 + 40 * (9 - i as u32), channel: 1 }))
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
        }
    }
}
