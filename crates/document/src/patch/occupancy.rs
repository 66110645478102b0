//! The fixtures that take slots, and which.

use std::collections::{BTreeMap, HashMap};

use splimo_light::rig::{self, Laid, Taken};
use splimo_show::{Fixture, LAST_UNIVERSE, Profile, SLOTS, Show};

/// Slots that a fixture takes in a universe.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Owner {
    /// The first slot, 0..511.
    pub slot: u16,
    /// The number of them.
    pub slots: u16,
    /// Index of the fixture in the show.
    pub fixture: usize,
}

impl Owner {
    /// The slot behind the last.
    #[must_use]
    pub fn end(self) -> u16 {
        self.slot + self.slots
    }
}

/// Every slot of every universe that some fixture takes.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Occupancy {
    universes: BTreeMap<u32, Vec<Owner>>,
}

/// The profiles of a show, each looked up once.
pub(crate) struct Profiles<'a> {
    show: &'a Show,
    known: HashMap<&'a str, Option<Profile>>,
}

impl<'a> Profiles<'a> {
    pub(crate) fn of(show: &'a Show) -> Self {
        Self { show, known: HashMap::new() }
    }

    pub(crate) fn get(&mut self, name: &'a str) -> Option<&Profile> {
        self.known.entry(name).or_insert_with(|| self.show.profile(name)).as_ref()
    }

    /// The slots that the channels of a fixture fall on; nothing where its profile does not exist.
    pub(crate) fn lay(&mut self, fixture: &'a Fixture) -> Laid {
        self.get(&fixture.profile).map(|profile| rig::lay(fixture, profile)).unwrap_or_default()
    }
}

impl Occupancy {
    /// The slots that all fixtures of a show take.
    #[must_use]
    pub fn of(show: &Show) -> Self {
        Self::of_some(show, |_| true)
    }

    /// The slots that those fixtures of a show take for whose index `counts` holds.
    #[must_use]
    pub fn of_some(show: &Show, counts: impl Fn(usize) -> bool) -> Self {
        let mut occupancy = Self::default();
        let mut profiles = Profiles::of(show);
        for (index, fixture) in show.fixtures.iter().enumerate().filter(|(index, _)| counts(*index)) {
            occupancy.push(index, &profiles.lay(fixture).taken);
        }
        occupancy.universes.values_mut().for_each(|owners| owners.sort_unstable());
        occupancy
    }

    fn push(&mut self, fixture: usize, taken: &[Taken]) {
        for t in taken {
            self.universes.entry(t.universe).or_default().push(Owner { slot: t.slot, slots: t.slots, fixture });
        }
    }

    /// Adds a fixture.
    pub fn add(&mut self, fixture: usize, taken: &[Taken]) {
        self.push(fixture, taken);
        for t in taken {
            if let Some(owners) = self.universes.get_mut(&t.universe) {
                owners.sort_unstable();
            }
        }
    }

    /// The universes in use, ascending.
    pub fn universes(&self) -> impl Iterator<Item = u32> + '_ {
        self.universes.keys().copied()
    }

    /// The universes in use that no route which is on carries, ascending.
    #[must_use]
    pub fn unrouted(&self, show: &Show) -> Vec<u32> {
        let carried =
            |universe: &u32| show.routes.iter().any(|r| r.enabled && r.universes.numbers().contains(universe));
        self.universes().filter(|universe| !carried(universe)).collect()
    }

    /// The owners of the slots of a universe.
    #[must_use]
    pub fn owners(&self, universe: u32) -> &[Owner] {
        self.universes.get(&universe).map_or(&[], Vec::as_slice)
    }

    /// The number of slots of a universe that are taken, those twice taken once.
    #[must_use]
    pub fn used(&self, universe: u32) -> u16 {
        let mut reach = 0;
        let fresh = |owner: &Owner| {
            let from = owner.slot.max(reach);
            reach = reach.max(owner.end());
            owner.end().saturating_sub(from)
        };
        self.owners(universe).iter().map(fresh).sum()
    }

    /// The owner of one of the slots that are wanted.
    #[must_use]
    pub fn conflict(&self, wanted: &Taken) -> Option<Owner> {
        let meets = |owner: &&Owner| owner.slot < wanted.slot + wanted.slots && wanted.slot < owner.end();
        self.owners(wanted.universe).iter().find(meets).copied()
    }

    /// Pairs of fixtures that share slots, with the universe and the first shared slot, each pair once.
    #[must_use]
    pub fn overlaps(&self) -> Vec<(usize, usize, u32, u16)> {
        let mut told = std::collections::HashSet::new();
        let mut overlaps = Vec::new();
        for (&universe, owners) in &self.universes {
            let mut reach = Owner { slot: 0, slots: 0, fixture: usize::MAX };
            for &owner in owners {
                let pair = (reach.fixture.min(owner.fixture), reach.fixture.max(owner.fixture));
                if owner.slot < reach.end() && told.insert(pair) {
                    overlaps.push((reach.fixture, owner.fixture, universe, owner.slot));
                }
                if owner.end() > reach.end() {
                    reach = owner;
                }
            }
        }
        overlaps
    }

    /// The first universe from `from` on in which nothing is taken.
    #[must_use]
    pub fn free_universe(&self, from: u32) -> Option<u32> {
        (from..=LAST_UNIVERSE).find(|universe| self.owners(*universe).is_empty())
    }

    /// The first free slot behind everything that is taken from `universe` on, as universe and slot.
    #[must_use]
    pub fn behind_all(&self) -> (u32, u16) {
        let Some((&universe, owners)) = self.universes.last_key_value() else { return (1, 0) };
        match owners.iter().map(|o| o.end()).max() {
            Some(end) if end < SLOTS => (universe, end),
            _ => ((universe + 1).min(LAST_UNIVERSE), 0),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::Shape;

    fn show(bars: &[(u32, u16, u32)]) -> Show {
        let mut show = Show::empty("Taken");
        let bar = |(i, &(universe, channel, cells)): (usize, &(u32, u16, u32))| {
            Fixture::new(&format!("Bar {i}"), "rgb", Shape::Line { cells }).patched(universe, channel)
        };
        show.fixtures = bars.iter().enumerate().map(bar).collect();
        show
    }

    #[test]
    fn every_overlap_is_found_once() {
        // A long one under two short ones, and two that only touch.
        let occupancy = Occupancy::of(&show(&[(1, 1, 100), (1, 10, 2), (1, 200, 4), (2, 1, 10), (2, 31, 10)]));
        assert_eq!(occupancy.overlaps(), [(0, 1, 1, 9), (0, 2, 1, 199)]);
        assert_eq!((occupancy.used(1), occupancy.used(2), occupancy.used(3)), (300, 60, 0));
    }

    #[test]
    fn fixtures_that_span_universes_overlap_there() {
        let occupancy = Occupancy::of(&show(&[(1, 1, 200), (2, 80, 1), (2, 91, 1)]));
        assert_eq!(occupancy.overlaps(), [(0, 1, 2, 79)]);
        assert_eq!(occupancy.universes().collect::<Vec<_>>(), [1, 2]);
    }

    #[test]
    fn free_places_are_behind_all_or_where_nothing_is() {
        let occupancy = Occupancy::of(&show(&[(1, 1, 10), (3, 1, 170)]));
        assert_eq!((occupancy.free_universe(1), occupancy.free_universe(3)), (Some(2), Some(4)));
        assert_eq!(occupancy.behind_all(), (3, 510));
        assert_eq!(Occupancy::default().behind_all(), (1, 0));
        let wanted = Taken { universe: 1, slot: 25, slots: 10 };
        assert_eq!(occupancy.conflict(&wanted).map(|o| (o.slot, o.end(), o.fixture)), Some((0, 30, 0)));
        assert_eq!(occupancy.conflict(&Taken { slot: 30, ..wanted }), None);
    }

    #[test]
    fn a_fixture_without_a_profile_takes_nothing() {
        let mut show = show(&[(1, 1, 10)]);
        show.fixtures[0].profile = "nothing".into();
        assert_eq!(Occupancy::of(&show), Occupancy::default());
    }
}
