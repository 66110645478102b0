//! Edits that were made on an older edition of the show: what they mean is found again in the present one, or they are refused
//! where somebody else has changed it meanwhile. So nothing that either made is lost without a word.

use super::{Edit, Refused};
use splimo_show::Show;
use splimo_show::followed;
use splimo_show::setting;

/// A list of the show whose entries edits mean by their places.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum List {
    Fixtures,
    Groups,
    Profiles,
    Routes,
    Supplies,
    Looks,
    Palette,
    Regions,
    Aims,
    Tiers,
    Banks,
    CueLists,
    Timelines,
    Inputs,
    Bindings,
    Programs,
}

impl List {
    fn names(self, show: &Show) -> Vec<String> {
        match self {
            Self::Fixtures => show.fixtures.iter().map(|one| one.name.clone()).collect(),
            Self::Groups => show.groups.iter().map(|one| one.name.clone()).collect(),
            Self::Profiles => show.profiles.iter().map(|one| one.name.clone()).collect(),
            Self::Routes => show.routes.iter().map(|one| one.name.clone()).collect(),
            Self::Supplies => show.supplies.iter().map(|one| one.name.clone()).collect(),
            Self::Looks => show.looks.iter().map(|one| one.name.clone()).collect(),
            Self::Aims => show.aims.iter().map(|one| one.name.clone()).collect(),
            Self::Regions => show.regions.iter().map(|one| one.name.clone()).collect(),
            Self::Palette => show.palette.iter().map(|one| one.name.clone()).collect(),
            Self::Tiers => show.stack().iter().map(|one| one.name.clone()).collect(),
            Self::Banks => show.banks.iter().map(|one| one.name.clone()).collect(),
            Self::Timelines => show.timelines.iter().map(|one| one.name.clone()).collect(),
            Self::CueLists => show.cue_lists.iter().map(|one| one.name.clone()).collect(),
            Self::Inputs => show.inputs.iter().map(|one| one.name.clone()).collect(),
            Self::Programs => show.programs.iter().map(|one| one.name.clone()).collect(),
            Self::Bindings => show.bindings.iter().map(|one| format!("{} {}", one.source, one.event)).collect(),
        }
    }

    /// True if an entry of one show is the same as one of another.
    fn same(self, (from, at): (&Show, usize), (to, place): (&Show, usize)) -> bool {
        fn same<T: PartialEq>(a: &[T], at: usize, b: &[T], place: usize) -> bool {
            a.get(at) == b.get(place)
        }
        match self {
            Self::Fixtures => same(&from.fixtures, at, &to.fixtures, place),
            Self::Groups => same(&from.groups, at, &to.groups, place),
            Self::Profiles => same(&from.profiles, at, &to.profiles, place),
            Self::Routes => same(&from.routes, at, &to.routes, place),
            Self::Supplies => same(&from.supplies, at, &to.supplies, place),
            Self::Looks => same(&from.looks, at, &to.looks, place),
            Self::Aims => same(&from.aims, at, &to.aims, place),
            Self::Regions => same(&from.regions, at, &to.regions, place),
            Self::Palette => same(&from.palette, at, &to.palette, place),
            Self::Tiers => same(from.stack(), at, to.stack(), place),
            Self::Banks => same(&from.banks, at, &to.banks, place),
            Self::Timelines => same(&from.timelines, at, &to.timelines, place),
            Self::CueLists => same(&from.cue_lists, at, &to.cue_lists, place),
            Self::Inputs => same(&from.inputs, at, &to.inputs, place),
            Self::Programs => same(&from.programs, at, &to.programs, place),
            Self::Bindings => same(&from.bindings, at, &to.bindings, place),
        }
    }
}

/// Finds the entries of one list again.
struct Finder<'s> {
    list: List,
    from: &'s Show,
    to: &'s Show,
    /// The place in the present show of each entry of the older one.
    places: Vec<Option<usize>>,
    /// True if it matters that an entry is as it was.
    unchanged: bool,
}

impl<'s> Finder<'s> {
    fn of(list: List, from: &'s Show, to: &'s Show) -> Self {
        let (before, after) = (list.names(from), list.names(to));
        let [before, after] = [&before, &after].map(|names| names.iter().map(String::as_str).collect::<Vec<&str>>());
        Self { places: followed(&before, &after), list, from, to, unchanged: true }
    }

    /// The same for edits to which it does not matter what an entry is like.
    fn wherever(list: List, from: &'s Show, to: &'s Show) -> Self {
        Self { unchanged: false, ..Self::of(list, from, to) }
    }

    fn one(&self, at: usize) -> Result<usize, Refused> {
        let names = self.list.names(self.from);
        let Some(name) = names.get(at) else {
            // What never was there is refused by the edit itself.
            return Ok(usize::MAX);
        };
        match self.places.get(at).copied().flatten() {
            None => Err(Refused(format!("{name} was taken out on another screen meanwhile"))),
            Some(place) if self.unchanged && !self.list.same((self.from, at), (self.to, place)) => {
                Err(Refused(format!("{name} was changed on another screen meanwhile; look at it, and change it again")))
            }
            Some(place) => Ok(place),
        }
    }

    fn all(&self, places: &[usize]) -> Result<Vec<usize>, Refused> {
        places.iter().map(|at| self.one(*at)).collect()
    }

    fn each<T: Clone>(&self, entries: &[(usize, T)]) -> Result<Vec<(usize, T)>, Refused> {
        entries.iter().map(|(at, entry)| Ok((self.one(*at)?, entry.clone()))).collect()
    }
}

impl Edit {
    /// The same edit for another edition of the show than the one it was made on.
    ///
    /// # Errors
    /// [`Refused`] where what it means is gone, or is not any more what it was when the edit was made.
    pub fn rebased(&self, from: &Show, to: &Show) -> Result<Self, Refused> {
        let of = |list| Finder::of(list, from, to);
        let wherever = |list| Finder::wherever(list, from, to);
        Ok(match self {
            Self::Add(_)
            | Self::AddGroup(_)
            | Self::AddProfile(_)
            | Self::AddRoutes(_)
            | Self::AddSupply(_)
            | Self::AddLooks(..)
            | Self::AddSwatch(_)
            | Self::AddRegion(_)
            | Self::AddAim(_)
            | Self::AddTier(..)
            | Self::AddBanks(..)
            | Self::AddCueLists(..)
            | Self::AddTimeline(_)
            | Self::AddInput(_)
            | Self::AddProgram(_)
            | Self::NameControl(..)
            | Self::IgnoreNode(..)
            | Self::AddBindings(_) => self.clone(),
            Self::Remove(fixtures) => Self::Remove(of(List::Fixtures).all(fixtures)?),
            Self::Duplicate(fixtures) => Self::Duplicate(wherever(List::Fixtures).all(fixtures)?),
            Self::Put(changed) => Self::Put(of(List::Fixtures).each(changed)?),
            Self::Patch(fixtures, plan) => Self::Patch(of(List::Fixtures).all(fixtures)?, *plan),
            Self::Unpatch(fixtures) => Self::Unpatch(of(List::Fixtures).all(fixtures)?),
            Self::Arrange(fixtures, how) => Self::Arrange(of(List::Fixtures).all(fixtures)?, *how),
            Self::Reorder(fixtures, at) => Self::Reorder(wherever(List::Fixtures).all(fixtures)?, *at),
            Self::Canvas(_) | Self::FitCanvas(_) if from.canvas != to.canvas => {
                return Err(Refused("the canvas was changed on another screen meanwhile".to_owned()));
            }
            Self::Canvas(canvas) => Self::Canvas(*canvas),
            Self::FitCanvas(canvas) => Self::FitCanvas(*canvas),
            Self::PutGroup(at, group) => Self::PutGroup(of(List::Groups).one(*at)?, group.clone()),
            Self::RemoveGroup(at) => Self::RemoveGroup(of(List::Groups).one(*at)?),
            Self::MergeGroups(groups) => Self::MergeGroups(of(List::Groups).all(groups)?),
            Self::PutProfile(at, profile) => Self::PutProfile(of(List::Profiles).one(*at)?, profile.clone()),
            Self::RemoveProfile(at) => Self::RemoveProfile(of(List::Profiles).one(*at)?),
            Self::PutRoute(at, route) => Self::PutRoute(of(List::Routes).one(*at)?, route.clone()),
            Self::RemoveRoute(at) => Self::RemoveRoute(of(List::Routes).one(*at)?),
            Self::PutSupply(at, supply) => Self::PutSupply(of(List::Supplies).one(*at)?, supply.clone()),
            Self::RemoveSupply(at) => Self::RemoveSupply(of(List::Supplies).one(*at)?),
            Self::PutLooks(looks) => Self::PutLooks(of(List::Looks).each(looks)?),
            Self::RemoveLooks(looks) => Self::RemoveLooks(of(List::Looks).all(looks)?),
            Self::MoveLook(at, place) => Self::MoveLook(wherever(List::Looks).one(*at)?, *place),
            Self::PutSwatch(at, swatch) => Self::PutSwatch(of(List::Palette).one(*at)?, swatch.clone()),
            Self::RemoveSwatch(at) => Self::RemoveSwatch(of(List::Palette).one(*at)?),
            Self::PutRegion(at, region) => Self::PutRegion(of(List::Regions).one(*at)?, region.clone()),
            Self::RemoveRegion(at) => Self::RemoveRegion(of(List::Regions).one(*at)?),
            Self::PutAim(at, aim) => Self::PutAim(of(List::Aims).one(*at)?, aim.clone()),
            Self::RemoveAim(at) => Self::RemoveAim(of(List::Aims).one(*at)?),
            Self::PutTier(at, tier) => Self::PutTier(of(List::Tiers).one(*at)?, tier.clone()),
            Self::RemoveTier(at) => Self::RemoveTier(of(List::Tiers).one(*at)?),
            Self::MoveTier(at, place) => Self::MoveTier(wherever(List::Tiers).one(*at)?, *place),
            Self::PutBanks(banks) => Self::PutBanks(of(List::Banks).each(banks)?),
            Self::RemoveBank(at) => Self::RemoveBank(of(List::Banks).one(*at)?),
            Self::MoveBank(at, place) => Self::MoveBank(wherever(List::Banks).one(*at)?, *place),
            Self::PutCueLists(lists) => Self::PutCueLists(of(List::CueLists).each(lists)?),
            Self::RemoveCueList(at) => Self::RemoveCueList(of(List::CueLists).one(*at)?),
            Self::OwnLooks(at, place, looks) => Self::OwnLooks(of(List::CueLists).one(*at)?, *place, looks.clone()),
            Self::MoveCueList(at, place) => Self::MoveCueList(wherever(List::CueLists).one(*at)?, *place),
            Self::PutInput(at, input) => Self::PutInput(of(List::Inputs).one(*at)?, input.clone()),
            Self::RemoveInput(at) => Self::RemoveInput(of(List::Inputs).one(*at)?),
            Self::PutProgram(at, program) => Self::PutProgram(of(List::Programs).one(*at)?, program.clone()),
            Self::RemoveProgram(at) => Self::RemoveProgram(of(List::Programs).one(*at)?),
            Self::PutBindings(bindings) => Self::PutBindings(of(List::Bindings).each(bindings)?),
            Self::RemoveBindings(bindings) => Self::RemoveBindings(of(List::Bindings).all(bindings)?),
            Self::PutTimeline(at, timeline) => Self::PutTimeline(of(List::Timelines).one(*at)?, timeline.clone()),
            Self::RemoveTimeline(at) => Self::RemoveTimeline(of(List::Timelines).one(*at)?),
            Self::PutSchedule(_) if from.schedule != to.schedule => {
                return Err(Refused("the schedule was changed on another screen meanwhile".to_owned()));
            }
            Self::PutSchedule(schedule) => Self::PutSchedule(schedule.clone()),
            Self::PutRotation(_) if from.rotation != to.rotation => {
                return Err(Refused("the rotation was changed on another screen meanwhile".to_owned()));
            }
            Self::PutRotation(rotation) => Self::PutRotation(rotation.clone()),
            Self::PutValuesOut(_) if from.values_out != to.values_out => {
                return Err(Refused("the values that leave were changed on another screen meanwhile".to_owned()));
            }
            Self::PutValuesOut(values) => Self::PutValuesOut(values.clone()),
            Self::Set(name, value) => {
                let spec = setting::find(name);
                if spec.is_some_and(|spec| spec.value(&from.settings) != spec.value(&to.settings)) {
                    return Err(Refused(format!("{name} was changed on another screen meanwhile")));
                }
                Self::Set(name.clone(), value.clone())
            }
            Self::Import(fixtures, groups) => {
                let of = |show: &'_ Show, name: &str| show.fixtures.iter().find(|f| f.name == name).cloned();
                if let Some(other) = fixtures.iter().find(|f| of(from, &f.name) != of(to, &f.name)) {
                    let name = &other.name;
                    return Err(Refused(format!(
                        "{name} was changed on another screen meanwhile; read the table again"
                    )));
                }
                Self::Import(fixtures.clone(), groups.clone())
            }
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::{Canvas, Fixture, Look, Shape, Swatch};

    fn show() -> Show {
        let mut show = Show::empty("Two desks");
        show.fixtures = ["A", "B", "C"].map(|name| Fixture::new(name, "rgb", Shape::Line { cells: 1 })).to_vec();
        show.looks = ["Tide", "Gale"].map(|name| Look::new(name, Vec::new())).to_vec();
        show
    }

    /// The show after an edit that somebody else has done another before.
    fn after(other: &Edit, edit: &Edit) -> Result<Show, Refused> {
        let from = show();
        let to = other.apply(&from).expect("the other comes first");
        edit.rebased(&from, &to)?.apply(&to)
    }

    #[test]
    fn an_edit_finds_what_it_means_where_that_has_moved() {
        let removed = after(&Edit::Remove(vec![0]), &Edit::Remove(vec![2])).expect("it is found");
        assert_eq!(removed.fixtures.iter().map(|f| f.name.as_str()).collect::<Vec<_>>(), ["B"]);
        let look = Look { tags: vec!["calm".into()], ..Look::new("Gale", Vec::new()) };
        let new = Edit::AddLooks(0, vec![Look::new("New", Vec::new())]);
        let changed = after(&new, &Edit::PutLooks(vec![(1, look)])).expect("it is found");
        assert_eq!((changed.looks[2].name.as_str(), changed.looks[2].tags.len()), ("Gale", 1));
    }

    #[test]
    fn both_edits_count_where_they_do_not_meet() {
        let canvas = Edit::Canvas(Canvas { width: 10.0, height: 10.0 });
        let both = after(&canvas, &Edit::Set("fade".into(), setting::SettingValue::Number(4.0))).expect("both");
        assert_eq!((both.canvas.width, both.settings.fade_beats), (10.0, 4.0));
    }

    #[test]
    fn what_another_has_changed_or_taken_out_is_refused_in_words() {
        let named = |name: &str| Look::new(name, Vec::new());
        let put = |look: Look| Edit::PutLooks(vec![(0, look)]);
        let why =
            after(&put(Look { tags: vec!["x".into()], ..named("Tide") }), &put(named("Tide"))).expect_err("changed");
        assert!(why.0.contains("Tide was changed on another screen meanwhile"), "{why}");
        let why = after(&Edit::RemoveLooks(vec![0]), &put(named("Tide"))).expect_err("gone");
        assert!(why.0.contains("Tide was taken out on another screen meanwhile"), "{why}");
        let canvas = |width| Edit::Canvas(Canvas { width, height: 10.0 });
        assert!(after(&canvas(5.0), &canvas(6.0)).is_err());
        let fade = |beats| Edit::Set("fade".into(), setting::SettingValue::Number(beats));
        assert!(after(&fade(2.0), &fade(3.0)).is_err());
        let swatch = Edit::AddSwatch(Swatch::new("Foam", &["#ffffff"]));
        assert!(after(&swatch, &swatch).is_err(), "two of one name");
    }
}
