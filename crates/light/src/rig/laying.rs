//! The slots that the channels of a fixture fall on: from its address on, head, cells and tail, a unit never split between two
//! universes unless that is asked for.

use super::wiring;
use splimo_show::{Address, Fixture, LAST_UNIVERSE, Profile, SLOTS};

/// Lit cells whose channels follow each other without a gap.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Portion {
    /// The first cell of the fixture in it, in wiring order.
    pub cell: u32,
    /// The number of cells.
    pub cells: u32,
    /// The number of the universe.
    pub universe: u32,
    /// The slot of the first channel, 0..511, or of the block of cells that it lies in. The channels of a fixture that may
    /// be split run on into the next universe.
    pub slot: u16,
    /// The place of the first cell in its block, from 0.
    pub within: u16,
}

/// Slots of one universe that a fixture takes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Taken {
    /// The number of the universe.
    pub universe: u32,
    /// The first slot, 0..511.
    pub slot: u16,
    /// The number of them, at least 1.
    pub slots: u16,
}

/// A fixture's channels, each at its place.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Laid {
    /// Its lit cells.
    pub portions: Vec<Portion>,
    /// Every slot that it takes, dark pixels included, in order.
    pub taken: Vec<Taken>,
    /// The beginning of its head: universe and slot.
    pub head: Option<(u32, u16)>,
    /// The beginning of its tail: universe and slot.
    pub tail: Option<(u32, u16)>,
    /// True if all of it lies before the last universe.
    pub whole: bool,
}

impl Laid {
    /// The address of the first channel of a cell, counted from 0 in wiring order; none for one that is not patched.
    #[must_use]
    pub fn address_of(&self, cell: u32, profile: &Profile) -> Option<Address> {
        let portion = self.portions.iter().find(|p| (p.cell..p.cell + p.cells).contains(&cell))?;
        let layout = profile.layout();
        let place = cell - portion.cell;
        let step = if layout.cells == 1 {
            place * u32::from(layout.block) + u32::from(profile.slots_before(0))
        } else {
            u32::from(profile.slots_before(portion.within + place as u16))
        };
        let slot = u32::from(portion.slot) + step;
        let channel = (slot % u32::from(SLOTS)) as u16 + 1;
        Some(Address { universe: portion.universe + slot / u32::from(SLOTS), channel })
    }
}

/// Lays the channels of a fixture out. Nothing is taken by one that is not patched, and what would lie beyond the last
/// universe is left out.
#[must_use]
pub fn lay(fixture: &Fixture, profile: &Profile) -> Laid {
    let mut laid = Laid { whole: true, ..Laid::default() };
    let layout = profile.layout();
    let Some(address) = fixture.address else { return laid };
    if layout.block == 0 || layout.head.max(layout.block).max(layout.tail) > SLOTS {
        return laid;
    }
    let mut cursor =
        Cursor { universe: address.universe, slot: address.channel - 1, split: fixture.split, taken: Vec::new() };
    let whole = (|| {
        if layout.head > 0 {
            laid.head = Some(cursor.place(layout.head)?);
        }
        let (columns, rows) = fixture.shape.lattice();
        let wire = wiring::wire(columns, rows, &fixture.wiring);
        if layout.cells == 1 {
            single_cells(&wire, layout.block, &mut cursor, &mut laid.portions)?;
        } else {
            blocks(&wire, layout.block, layout.cells, &mut cursor, &mut laid.portions)?;
        }
        if layout.tail > 0 {
            laid.tail = Some(cursor.place(layout.tail)?);
        }
        Some(())
    })();
    laid.whole = whole.is_some();
    laid.taken = cursor.taken;
    laid
}

/// Cells that have channels of their own, as many at a time as a universe has room for.
fn single_cells(wire: &[wiring::Stretch], unit: u16, cursor: &mut Cursor, portions: &mut Vec<Portion>) -> Option<()> {
    let mut cell = 0;
    for stretch in wire {
        let mut left = stretch.pixels;
        while left > 0 {
            let (universe, slot, pixels) = cursor.place_many(unit, left)?;
            left -= pixels;
            if stretch.lit {
                portions.push(Portion { cell, cells: pixels, universe, slot, within: 0 });
                cell += pixels;
            }
        }
    }
    Some(())
}

/// Cells whose channels are interleaved in blocks.
fn blocks(
    wire: &[wiring::Stretch],
    unit: u16,
    cells: u16,
    cursor: &mut Cursor,
    portions: &mut Vec<Portion>,
) -> Option<()> {
    let (mut cell, mut within, mut block) = (0, 0, (0, 0));
    for stretch in wire {
        let mut left = stretch.pixels;
        while left > 0 {
            if within == 0 {
                block = cursor.place(unit)?;
            }
            let pixels = left.min(u32::from(cells - within));
            if stretch.lit {
                portions.push(Portion { cell, cells: pixels, universe: block.0, slot: block.1, within });
                cell += pixels;
            }
            within = (within + pixels as u16) % cells;
            left -= pixels;
        }
    }
    Some(())
}

/// The next free place on the way through the universes.
struct Cursor {
    universe: u32,
    /// 0..512; at 512 the universe is full.
    slot: u16,
    split: bool,
    taken: Vec<Taken>,
}

impl Cursor {
    /// Places one unit.
    fn place(&mut self, unit: u16) -> Option<(u32, u16)> {
        self.place_many(unit, 1).map(|(universe, slot, _)| (universe, slot))
    }

    /// Places as many of some units as fit behind one another; where, and how many.
    fn place_many(&mut self, unit: u16, units: u32) -> Option<(u32, u16, u32)> {
        if self.slot == SLOTS || (!self.split && self.slot + unit > SLOTS) {
            (self.universe, self.slot) = (self.universe + 1, 0);
        }
        let (universe, slot) = (self.universe, self.slot);
        let room = (u64::from(LAST_UNIVERSE + 1).saturating_sub(u64::from(universe)) * u64::from(SLOTS))
            .saturating_sub(u64::from(slot));
        let here = if self.split { room } else { room.min(u64::from(SLOTS - slot)) };
        let units = u32::try_from(here / u64::from(unit)).unwrap_or(u32::MAX).min(units);
        if units == 0 {
            return None;
        }
        self.take(u64::from(units) * u64::from(unit));
        Some((universe, slot, units))
    }

    fn take(&mut self, mut slots: u64) {
        while slots > 0 {
            if self.slot == SLOTS {
                (self.universe, self.slot) = (self.universe + 1, 0);
            }
            let here = slots.min(u64::from(SLOTS - self.slot)) as u16;
            match self.taken.last_mut() {
                Some(last) if last.universe == self.universe && last.slot + last.slots == self.slot => {
                    last.slots += here
                }
                _ => self.taken.push(Taken { universe: self.universe, slot: self.slot, slots: here }),
            }
            self.slot += here;
            slots -= u64::from(here);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use splimo_show::{Channel, Function, Shape, Wiring};

    fn profile(name: &str) -> Profile {
        Profile::built_in(name).expect("it is built in")
    }

    fn line(cells: u32, universe: u32, channel: u16) -> Fixture {
        Fixture::new("Bar", "rgb", Shape::Line { cells }).patched(universe, channel)
    }

    fn portion(cell: u32, cells: u32, universe: u32, slot: u16) -> Portion {
        Portion { cell, cells, universe, slot, within: 0 }
    }

    #[test]
    fn a_cell_that_does_not_fit_begins_the_next_universe() {
        let laid = lay(&line(4, 3, 506), &profile("rgb"));
        assert_eq!(laid.portions, [portion(0, 2, 3, 505), portion(2, 2, 4, 0)]);
        let taken = |universe, slot, slots| Taken { universe, slot, slots };
        assert_eq!(laid.taken, [taken(3, 505, 6), taken(4, 0, 6)]);
    }

    #[test]
    fn a_cell_is_split_where_that_is_asked_for() {
        let laid = lay(&Fixture { split: true, ..line(4, 3, 506) }, &profile("rgb"));
        assert_eq!(laid.portions, [portion(0, 4, 3, 505)]);
        assert_eq!(
            laid.taken.iter().map(|t| (t.universe, t.slot, t.slots)).collect::<Vec<_>>(),
            [(3, 505, 7), (4, 0, 5)]
        );
    }

    #[test]
    fn head_and_tail_lie_around_the_cells() {
        let mut bar = profile("dimmer strobe + rgb");
        bar.channels.push(Channel { cell: 0, ..Channel::new(Function::Fixed) });
        let laid = lay(&line(4, 1, 11), &bar);
        assert_eq!((laid.head, laid.tail), (Some((1, 10)), Some((1, 24))));
        assert_eq!(laid.portions, [portion(0, 4, 1, 12)]);
        assert_eq!(laid.taken, [Taken { universe: 1, slot: 10, slots: 15 }]);
    }

    #[test]
    fn blocks_interleave_their_cells() {
        let channel = |does, cell| Channel { cell, ..Channel::new(does) };
        use Function::{Blue, Green, Red};
        let pair = Profile {
            channels: [Red, Green, Blue].into_iter().flat_map(|does| [channel(does, 1), channel(does, 2)]).collect(),
            ..profile("rgb")
        };
        let laid = lay(&line(3, 1, 1), &pair);
        assert_eq!(laid.portions, [portion(0, 2, 1, 0), portion(2, 1, 1, 6)]);
        let addresses = [0, 1, 2, 3].map(|cell| laid.address_of(cell, &pair).map(|a| a.to_string()));
        assert_eq!(addresses, [Some("1.1".into()), Some("1.2".into()), Some("1.7".into()), None]);
        assert_eq!(laid.taken, [Taken { universe: 1, slot: 0, slots: 12 }]);
    }

    #[test]
    fn dark_pixels_take_channels() {
        let mut bar = line(6, 1, 1);
        bar.wiring = Wiring { skip: vec![3, 4], ..Wiring::default() };
        let laid = lay(&bar, &profile("rgb"));
        assert_eq!(laid.portions, [portion(0, 2, 1, 0), portion(2, 4, 1, 12)]);
        assert_eq!(laid.taken, [Taken { universe: 1, slot: 0, slots: 24 }]);
    }

    #[test]
    fn the_last_universe_is_the_end() {
        let laid = lay(&line(200, 63_999, 1), &profile("rgb"));
        assert_eq!(laid.portions.iter().map(|p| p.cells).sum::<u32>(), 170);
        assert!(!laid.whole);
        assert!(lay(&line(170, 63_999, 1), &profile("rgb")).whole);
    }

    proptest! {
        #[test]
        fn portions_cover_every_cell_once_and_never_split_one(
            cells in 1u32..5000, universe in 1u32..60_000, channel in 1u16..=512, which in 0usize..153, gap in 0u32..3,
        ) {
            let names = Profile::built_in_names();
            let profile = profile(&names[which]);
            let unit = u32::from(profile.layout().block);
            let mut fixture = line(cells, universe, channel);
            fixture.wiring = Wiring { gap, along: splimo_show::Run::Columns, ..Wiring::default() };
            let laid = lay(&fixture, &profile);
            let (mut next, mut last) = (0, (0, 0));
            for p in &laid.portions {
                prop_assert_eq!(p.cell, next);
                next += p.cells;
                prop_assert!(u32::from(p.slot) + p.cells * unit <= 512);
                prop_assert!((p.universe, u32::from(p.slot)) >= last);
                last = (p.universe, u32::from(p.slot) + p.cells * unit);
            }
            prop_assert_eq!(next, cells);
            prop_assert!(laid.whole);
            let pixels = u64::from(cells) + u64::from(gap) * u64::from(cells - 1);
            let taken: u64 = laid.taken.iter().map(|t| u64::from(t.slots)).sum();
            prop_assert_eq!(taken, profile.layout().slots(pixels));
            prop_assert!(laid.taken.iter().all(|t| t.slots > 0 && t.slot + t.slots <= 512));
        }

        #[test]
        fn split_cells_leave_no_gap(cells in 1u32..2000, channel in 1u16..=512) {
            let laid = lay(&Fixture { split: true, ..line(cells, 5, channel) }, &profile("rgbawuv"));
            prop_assert_eq!(laid.portions.len(), 1);
            let ends = laid.taken.iter().all(|t| t.slot + t.slots == 512 || Some(t) == laid.taken.last());
            prop_assert!(ends && laid.taken[1..].iter().all(|t| t.slot == 0));
        }
    }
}
