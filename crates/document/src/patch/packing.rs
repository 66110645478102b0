//! Rules by which fixtures get addresses one after the other.

use std::collections::HashSet;
use std::fmt;

use serde::{Deserialize, Serialize};

use super::occupancy::{Occupancy, Profiles};
use splimo_light::rig::{self, Laid, Taken};
use splimo_show::{Address, Fixture, LAST_UNIVERSE, Profile, SLOTS, Show};

/// The way fixtures follow each other.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Packing {
    /// Each at the next channel from which on it has room.
    #[default]
    NextFree,
    /// Each at the beginning of a universe of its own.
    NewUniverse,
    /// At most so many fixtures begin in a universe; the rest go on in the next.
    Fixtures(u32),
    /// At most so many channels of a universe are used; a fixture that does not fit whole goes to the next.
    Channels(u32),
    /// Each so many channels behind the one before.
    Offset(u32),
}

/// A plan of packing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub struct Plan {
    /// From where on.
    pub first: Address,
    /// The rule.
    pub packing: Packing,
    /// True if a cell may begin in one universe and end in the next.
    pub split: bool,
}

/// The reason why fixtures cannot be packed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct NoRoom(pub String);

impl fmt::Display for NoRoom {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.0)
    }
}

/// Addresses for some fixtures of a show, by index and in this order. What they take now counts as free; they get slots
/// that nothing else takes, and none twice.
///
/// # Errors
/// [`NoRoom`] where the rule cannot be followed: nothing is left before the last universe, slots are taken, or a fixture
/// is larger than the rule allows.
pub fn pack(show: &Show, fixtures: &[usize], plan: Plan) -> Result<Vec<Address>, NoRoom> {
    let moved: HashSet<usize> = fixtures.iter().copied().collect();
    let mut packer = Packer {
        show,
        plan,
        occupancy: Occupancy::of_some(show, |index| !moved.contains(&index)),
        next: plan.first,
        begun: 0,
    };
    let mut profiles = Profiles::of(show);
    let mut addresses = Vec::with_capacity(fixtures.len());
    for (place, &index) in fixtures.iter().enumerate() {
        let Some(fixture) = show.fixtures.get(index) else { continue };
        let Some(profile) = profiles.get(&fixture.profile) else {
            return Err(NoRoom(format!("{}: there is no profile \"{}\"", fixture.name, fixture.profile)));
        };
        addresses.push(packer.place(place, index, fixture, profile)?);
    }
    Ok(addresses)
}

struct Packer<'a> {
    show: &'a Show,
    plan: Plan,
    occupancy: Occupancy,
    /// From where on the next is tried.
    next: Address,
    /// The number of fixtures that begin in the universe of `next`.
    begun: u32,
}

impl Packer<'_> {
    fn place(&mut self, place: usize, index: usize, fixture: &Fixture, profile: &Profile) -> Result<Address, NoRoom> {
        let mut fixture = Fixture { split: self.plan.split, ..fixture.clone() };
        let address = match self.plan.packing {
            Packing::NextFree => self.first_fit(&mut fixture, profile, |_| true)?,
            Packing::NewUniverse => self.new_universe(&mut fixture, profile)?,
            Packing::Fixtures(most) => self.few_fixtures(most, &mut fixture, profile)?,
            Packing::Channels(most) => {
                let slots = profile.layout().slots(fixture.shape.cells());
                if slots > u64::from(most) || most > u32::from(SLOTS) {
                    let name = &fixture.name;
                    return Err(NoRoom(format!(
                        "{name} takes {slots} channels, and at most {most} a universe are allowed; allow {slots} to 512"
                    )));
                }
                self.first_fit(&mut fixture, profile, |taken| {
                    taken.len() == 1 && taken.iter().all(|t| u32::from(t.slot + t.slots) <= most)
                })?
            }
            Packing::Offset(offset) => self.at_offset(place, offset, &mut fixture, profile)?,
        };
        let laid = at(&mut fixture, profile, address);
        self.occupancy.add(index, &laid.taken);
        self.advance(&laid, address);
        Ok(address)
    }

    fn advance(&mut self, laid: &Laid, address: Address) {
        self.begun = if address.universe == self.next.universe || self.begun == 0 { self.begun + 1 } else { 1 };
        let Some(last) = laid.taken.last() else { return };
        let (universe, slot) = (last.universe, last.slot + last.slots);
        if universe != address.universe {
            self.begun = 0;
        }
        self.next = match slot < SLOTS || universe == LAST_UNIVERSE {
            true => Address { universe, channel: slot.min(SLOTS - 1) + 1 },
            false => {
                self.begun = 0;
                Address { universe: universe + 1, channel: 1 }
            }
        };
    }

    /// The first address from the next on at which all slots are free and allowed.
    fn first_fit(
        &self,
        fixture: &mut Fixture,
        profile: &Profile,
        allowed: impl Fn(&[Taken]) -> bool,
    ) -> Result<Address, NoRoom> {
        let mut candidate = self.next;
        loop {
            let laid = at(fixture, profile, candidate);
            if !laid.whole {
                return Err(self.full(fixture));
            }
            // A cell that does not fit begins the next universe: then the address is there.
            let start = laid.taken.first().map_or(candidate, |t| Address { universe: t.universe, channel: t.slot + 1 });
            if let Some(owner) = laid.taken.iter().find_map(|t| self.occupancy.conflict(t).map(|o| (t.universe, o))) {
                candidate = behind(owner.0, owner.1.end()).ok_or_else(|| self.full(fixture))?;
            } else if !allowed(&laid.taken) {
                candidate = behind(start.universe, SLOTS).ok_or_else(|| self.full(fixture))?;
            } else {
                return Ok(start);
            }
        }
    }

    fn new_universe(&self, fixture: &mut Fixture, profile: &Profile) -> Result<Address, NoRoom> {
        let mut from = self.next.universe + u32::from(self.next.channel > 1);
        loop {
            let universe = self.occupancy.free_universe(from).ok_or_else(|| self.full(fixture))?;
            let address = Address { universe, channel: 1 };
            let laid = at(fixture, profile, address);
            if !laid.whole {
                return Err(self.full(fixture));
            }
            if laid.taken.iter().all(|t| self.occupancy.owners(t.universe).is_empty()) {
                return Ok(address);
            }
            from = universe + 1;
        }
    }

    fn few_fixtures(&mut self, most: u32, fixture: &mut Fixture, profile: &Profile) -> Result<Address, NoRoom> {
        if most == 0 {
            return Err(NoRoom("no fixture fits if none is allowed a universe; allow 1 or more".to_owned()));
        }
        if self.begun >= most {
            self.next = behind(self.next.universe, SLOTS).ok_or_else(|| self.full(fixture))?;
            self.begun = 0;
        }
        let address = self.first_fit(fixture, profile, |_| true)?;
        if address.universe != self.next.universe {
            self.begun = 0;
            self.next = address;
        }
        Ok(address)
    }

    fn at_offset(
        &self,
        place: usize,
        offset: u32,
        fixture: &mut Fixture,
        profile: &Profile,
    ) -> Result<Address, NoRoom> {
        let first = self.plan.first;
        let running = u64::from(first.universe - 1) * u64::from(SLOTS) + u64::from(first.channel - 1);
        let running = running + place as u64 * u64::from(offset);
        let universe = u32::try_from(running / u64::from(SLOTS)).unwrap_or(u32::MAX).saturating_add(1);
        let address = Address { universe, channel: (running % u64::from(SLOTS)) as u16 + 1 };
        if universe > LAST_UNIVERSE {
            return Err(self.full(fixture));
        }
        let laid = at(fixture, profile, address);
        if !laid.whole {
            return Err(self.full(fixture));
        }
        match laid.taken.iter().find_map(|t| self.occupancy.conflict(t)) {
            None => Ok(address),
            Some(owner) => {
                let other = &self.show.fixtures[owner.fixture].name;
                let slots = profile.layout().slots(fixture.shape.cells());
                Err(NoRoom(format!(
                    "{} at {address} would overlap {other}; it takes {slots} channels: write a larger offset, or begin elsewhere",
                    fixture.name
                )))
            }
        }
    }

    fn full(&self, fixture: &Fixture) -> NoRoom {
        NoRoom(format!(
            "there is no room for {} from {} up to universe {LAST_UNIVERSE}; begin lower",
            fixture.name, self.plan.first
        ))
    }
}

fn at(fixture: &mut Fixture, profile: &Profile, address: Address) -> Laid {
    fixture.address = Some(address);
    rig::lay(fixture, profile)
}

fn behind(universe: u32, slot: u16) -> Option<Address> {
    let (universe, slot) = if slot >= SLOTS { (universe + 1, 0) } else { (universe, slot) };
    (universe <= LAST_UNIVERSE).then_some(Address { universe, channel: slot + 1 })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use splimo_show::Shape;

    fn tubes(count: u32, cells: u32, profile: &str) -> Show {
        let mut show = Show::empty("Tubes");
        let tube = |i: u32| Fixture::new(&format!("Tube {i}"), profile, Shape::Line { cells });
        show.fixtures = (1..=count).map(tube).collect();
        show
    }

    fn packed(show: &Show, first: &str, packing: Packing) -> Result<Vec<String>, String> {
        let all: Vec<usize> = (0..show.fixtures.len()).collect();
        let plan = Plan { first: first.parse().expect("an address"), packing, split: false };
        pack(show, &all, plan).map(|list| list.iter().map(ToString::to_string).collect()).map_err(|e| e.to_string())
    }

    #[test]
    fn tubes_follow_each_other() {
        let show = tubes(4, 60, "rgb");
        assert_eq!(packed(&show, "1.1", Packing::NextFree).expect("room"), ["1.1", "1.181", "1.361", "2.31"]);
        assert_eq!(packed(&show, "1.1", Packing::NewUniverse).expect("room"), ["1.1", "2.1", "3.1", "4.1"]);
        assert_eq!(packed(&show, "1.2", Packing::NewUniverse).expect("room"), ["2.1", "3.1", "4.1", "5.1"]);
        assert_eq!(packed(&show, "3.1", Packing::Fixtures(2)).expect("room"), ["3.1", "3.181", "4.1", "4.181"]);
        assert_eq!(packed(&show, "1.1", Packing::Channels(510)).expect("room"), ["1.1", "1.181", "2.1", "2.181"]);
        assert_eq!(packed(&show, "1.1", Packing::Offset(200)).expect("room"), ["1.1", "1.201", "1.401", "2.89"]);
    }

    #[test]
    fn five_on_the_first_and_the_rest_on_the_next() {
        let list = packed(&tubes(7, 16, "rgb"), "1.1", Packing::Fixtures(5)).expect("room");
        assert_eq!(list, ["1.1", "1.49", "1.97", "1.145", "1.193", "2.1", "2.49"]);
    }

    #[test]
    fn what_is_taken_is_gone_around() {
        let mut show = tubes(3, 10, "rgb");
        show.fixtures.push(Fixture::new("Bar", "rgb", Shape::Line { cells: 10 }).patched(1, 41));
        let plan = Plan { first: Address { universe: 1, channel: 1 }, packing: Packing::NextFree, split: false };
        let list: Vec<String> = pack(&show, &[0, 1, 2], plan).expect("room").iter().map(ToString::to_string).collect();
        assert_eq!(list, ["1.1", "1.71", "1.101"]);
        let error = pack(&show, &[0, 1, 2], Plan { packing: Packing::Offset(30), ..plan }).expect_err("it is taken");
        assert!(error.to_string().contains("Tube 2 at 1.31 would overlap Bar"), "{error}");
    }

    #[test]
    fn rules_that_cannot_be_followed_say_why() {
        let show = tubes(3, 100, "rgb");
        assert!(packed(&show, "63999.1", Packing::NextFree).expect_err("full").contains("begin lower"));
        assert!(packed(&show, "1.1", Packing::Offset(10)).expect_err("close").contains("larger offset"));
        assert!(packed(&show, "1.1", Packing::Channels(100)).expect_err("large").contains("300 channels"));
        assert!(packed(&show, "1.1", Packing::Fixtures(0)).expect_err("none").contains("allow 1"));
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(200))]

        #[test]
        fn packing_never_overlaps_nor_splits_nor_leaves_the_universe(
            sizes in proptest::collection::vec((1u32..300, 0usize..153), 1..24),
            others in proptest::collection::vec((1u32..6, 1u16..=512, 1u32..60), 0..5),
            universe in 1u32..5, channel in 1u16..=512, rule in 0u32..5, number in 1u32..520, split: bool,
        ) {
            let names = Profile::built_in_names();
            let mut show = Show::empty("Packed");
            show.fixtures = sizes
                .iter()
                .enumerate()
                .map(|(i, &(cells, profile))| {
                    Fixture::new(&format!("F{i}"), &names[profile], Shape::Line { cells })
                })
                .collect();
            let moved: Vec<usize> = (0..show.fixtures.len()).rev().collect();
            for &(universe, channel, cells) in &others {
                show.fixtures.push(Fixture::new("Other", "rgb", Shape::Line { cells }).patched(universe, channel));
            }
            let before = Occupancy::of(&show).overlaps().len();
            let packing = match rule {
                0 => Packing::NextFree,
                1 => Packing::NewUniverse,
                2 => Packing::Fixtures(number),
                3 => Packing::Channels(number),
                _ => Packing::Offset(number),
            };
            let first = Address { universe, channel };
            let plan = Plan { first, packing, split };
            let Ok(addresses) = pack(&show, &moved, plan) else {
                prop_assert!(rule >= 3, "only the last two rules can fail here");
                return Ok(());
            };
            for (&index, &address) in moved.iter().zip(&addresses) {
                prop_assert!(address >= first && (1..=512).contains(&address.channel));
                (show.fixtures[index].address, show.fixtures[index].split) = (Some(address), split);
            }
            let occupancy = Occupancy::of(&show);
            prop_assert_eq!(occupancy.overlaps().len(), before, "nothing new overlaps");
            let mut profiles = Profiles::of(&show);
            for &index in &moved {
                let laid = profiles.lay(&show.fixtures[index]);
                prop_assert!(laid.whole);
                let first = laid.taken[0];
                let starts = Address { universe: first.universe, channel: first.slot + 1 };
                prop_assert!(rule == 4 || show.fixtures[index].address == Some(starts), "it begins at its address");
                if let Packing::Channels(most) = packing {
                    prop_assert!(laid.taken.len() == 1 && u32::from(first.slot + first.slots) <= most);
                }
            }
            if let Packing::Fixtures(most) = packing {
                let begun = |universe: u32| addresses.iter().filter(|a| a.universe == universe).count();
                prop_assert!(addresses.iter().all(|a| begun(a.universe) <= most as usize));
            }
            if rule == 1 {
                prop_assert!(addresses.iter().all(|a| a.channel == 1));
            }
        }
    }
}
