//! Edits: each is a function from a show to a show. One that would break the show is refused with a message, and the show
//! stays as it was.

mod aims;
mod arrange;
mod batch;
mod cues;
mod groups;
mod inputs;
mod looks;
mod names;
mod outputs;
mod play;
mod programs;
mod rebase;
mod regions;
mod timelines;
mod words;

pub use arrange::{Arrangement, Axis, Bounds, Side, bounds, off_canvas};
pub use batch::{Batch, Rows};
pub use groups::Pick;

use std::net::Ipv4Addr;

use serde::{Deserialize, Serialize};

use crate::check;
use crate::patch::{Occupancy, Plan, pack};
use splimo_base::nearest::meant;
use splimo_show::Severity;
use splimo_show::command::{Argument, JSON};
use splimo_show::reference::ReferenceKind;
use splimo_show::setting::{self, SettingValue};
use splimo_show::{
    Aim, Bank, Binding, Canvas, CueList, Fixture, Group, Input, Look, Profile, Program, Region, Rotation, Route,
    Schedule, Show, Supply, Swatch, Tier, Timeline, ValueOut,
};

/// A change of a show. Fixtures, groups and profiles are meant by their index in the show that it is applied to.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Edit {
    /// Adds fixtures.
    Add(Batch),
    /// Takes fixtures out, and their names out of groups and targets.
    Remove(Vec<usize>),
    /// Adds copies of fixtures beside them, not patched.
    Duplicate(Vec<usize>),
    /// Puts changed fixtures in the place of others; their new names go wherever the old ones stand.
    Put(Vec<(usize, Fixture)>),
    /// Gives fixtures addresses by a rule, in this order.
    Patch(Vec<usize>, Plan),
    /// Takes the addresses of fixtures away.
    Unpatch(Vec<usize>),
    /// Moves, turns, mirrors, scales, aligns or distributes fixtures.
    Arrange(Vec<usize>, Arrangement),
    /// Puts fixtures before or behind others in the list of the show.
    Reorder(Vec<usize>, usize),
    /// Sets the size of the canvas.
    Canvas(Canvas),
    /// Set the canvas, with every fixture where it was on it in proportion, and none off it that has room.
    FitCanvas(Canvas),
    /// Adds a group.
    AddGroup(Group),
    /// Changes a group; its new name goes wherever the old one stands.
    PutGroup(usize, Group),
    /// Takes a group out.
    RemoveGroup(usize),
    /// Makes one group of several, in the place of the first, which gives it its name.
    MergeGroups(Vec<usize>),
    /// Adds a profile.
    AddProfile(Profile),
    /// Changes a profile; its new name goes wherever the old one stands.
    PutProfile(usize, Profile),
    /// Takes a profile out.
    RemoveProfile(usize),
    /// Adds routes.
    AddRoutes(Vec<Route>),
    /// Changes a route.
    PutRoute(usize, Route),
    /// Takes a route out.
    RemoveRoute(usize),
    /// Leaves a node alone, or no more.
    IgnoreNode(Ipv4Addr, bool),
    /// Adds a supply.
    AddSupply(Supply),
    /// Changes a supply.
    PutSupply(usize, Supply),
    /// Takes a supply out.
    RemoveSupply(usize),
    /// Adds looks at a place in the list.
    AddLooks(usize, Vec<Look>),
    /// Changes looks, all at once.
    PutLooks(Vec<(usize, Look)>),
    /// Takes looks out.
    RemoveLooks(Vec<usize>),
    /// Moves a look to another place in the list.
    MoveLook(usize, usize),
    /// Adds a colour or a gradient to the palette.
    AddSwatch(Swatch),
    /// Add a region.
    AddRegion(Region),
    /// Change a region; its new name is used wherever the old one was.
    PutRegion(usize, Region),
    /// Take a region out that nothing uses.
    RemoveRegion(usize),
    /// Changes an entry of the palette; its new name goes wherever the old one stands.
    PutSwatch(usize, Swatch),
    /// Takes an entry out of the palette, if no look uses it.
    RemoveSwatch(usize),
    /// Adds an aim of heads.
    AddAim(Aim),
    /// Changes an aim; its new name goes wherever the old one stands.
    PutAim(usize, Aim),
    /// Takes an aim out, if nothing points there.
    RemoveAim(usize),
    /// Adds a tier at a place in the stack, counted from the lowest.
    AddTier(usize, Tier),
    /// Changes a tier; its new name goes wherever the old one stands.
    PutTier(usize, Tier),
    /// Takes a tier out. Pads that were for it are for the tier of their bank.
    RemoveTier(usize),
    /// Moves a tier to another place in the stack.
    MoveTier(usize, usize),
    /// Adds banks of pads at a place in the list.
    AddBanks(usize, Vec<Bank>),
    /// Changes banks and their pads, all at once.
    PutBanks(Vec<(usize, Bank)>),
    /// Takes a bank out.
    RemoveBank(usize),
    /// Moves a bank to another place in the list.
    MoveBank(usize, usize),
    /// Adds cue lists at a place among them.
    AddCueLists(usize, Vec<CueList>),
    /// Changes cue lists and their cues, all at once; new names go wherever the old ones stand.
    PutCueLists(Vec<(usize, CueList)>),
    /// Takes a cue list out, and what runs it.
    RemoveCueList(usize),
    /// Gives a cue looks of its own, in the order of the tiers on which it shows any.
    OwnLooks(usize, usize, Vec<Look>),
    /// Moves a cue list to another place among them.
    MoveCueList(usize, usize),
    /// Adds a timeline.
    AddTimeline(Timeline),
    /// Changes a timeline; its new name goes wherever the old one stands.
    PutTimeline(usize, Timeline),
    /// Takes a timeline out, and what plays it.
    RemoveTimeline(usize),
    /// Changes the schedule.
    PutSchedule(Box<Schedule>),
    /// Changes the rotation.
    PutRotation(Box<Rotation>),
    /// Adds an input.
    AddInput(Input),
    /// Changes an input; its new name goes wherever the old one stands.
    PutInput(usize, Input),
    /// Takes an input out, and its bindings.
    RemoveInput(usize),
    /// Adds bindings behind the others.
    AddBindings(Vec<Binding>),
    /// Changes bindings, all at once.
    PutBindings(Vec<(usize, Binding)>),
    /// Takes bindings out.
    RemoveBindings(Vec<usize>),
    /// Adds a program or a sound.
    AddProgram(Program),
    /// Changes a program or a sound; its new name goes wherever the old one stands.
    PutProgram(usize, Program),
    /// Takes a program or a sound out, and what starts it.
    RemoveProgram(usize),
    /// Gives a control, 1..64, a name, or takes it with an empty one.
    NameControl(u8, String),
    /// Changes which values leave.
    PutValuesOut(Vec<ValueOut>),
    /// Sets a setting, by its name in [`splimo_show::setting`].
    Set(String, SettingValue),
    /// Takes fixtures over: those whose names are there are changed, the others added. Where groups come along, each with its
    /// members among these fixtures, they are in these and in no others.
    Import(Vec<Fixture>, Option<Vec<(String, Vec<String>)>>),
}

/// The reason why an edit is refused: what, where, and how to mend it.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{0}")]
pub struct Refused(pub String);

impl Refused {
    fn because(why: impl Into<String>) -> Self {
        Self(why.into())
    }
}

impl Edit {
    /// The show as it is after the edit.
    ///
    /// # Errors
    /// [`Refused`] where it would break the show: names used twice, addresses that are taken, shapes that cannot be, or
    /// something that is still referred to.
    pub fn apply(&self, show: &Show) -> Result<Show, Refused> {
        let mut edited = show.clone();
        self.change(&mut edited)?;
        let broken = check::structure(&edited).into_iter().find(|p| p.severity == Severity::Broken);
        match broken {
            Some(problem) => Err(Refused(format!("{problem}; {}", problem.mend))),
            None => Ok(edited),
        }
    }

    fn change(&self, show: &mut Show) -> Result<(), Refused> {
        match self {
            Self::Add(batch) => batch.add_to(show),
            Self::Remove(fixtures) => names::remove_fixtures(show, fixtures),
            Self::Duplicate(fixtures) => duplicate(show, fixtures),
            Self::Put(changed) => put(show, changed),
            Self::Patch(fixtures, plan) => patch(show, fixtures, *plan),
            Self::Unpatch(fixtures) => each(show, fixtures, |fixture| fixture.address = None),
            Self::Arrange(fixtures, arrangement) => arrange::arrange(show, fixtures, *arrangement),
            Self::Reorder(fixtures, to) => reorder(show, fixtures, *to),
            Self::Canvas(canvas) => {
                show.canvas = *canvas;
                Ok(())
            }
            Self::FitCanvas(canvas) => {
                arrange::fit(show, *canvas);
                Ok(())
            }
            Self::AddGroup(group) => groups::add(show, group),
            Self::PutGroup(index, group) => groups::put(show, *index, group),
            Self::RemoveGroup(index) => groups::remove(show, *index),
            Self::MergeGroups(merged) => groups::merge(show, merged),
            Self::AddProfile(profile) => names::add_profile(show, profile),
            Self::PutProfile(index, profile) => names::put_profile(show, *index, profile),
            Self::RemoveProfile(index) => names::remove_profile(show, *index),
            Self::AddRoutes(routes) => outputs::add_routes(show, routes),
            Self::PutRoute(index, route) => outputs::put(&mut show.routes, *index, route),
            Self::RemoveRoute(index) => outputs::remove(&mut show.routes, *index),
            Self::AddSupply(supply) => outputs::add(&mut show.supplies, supply),
            Self::PutSupply(index, supply) => outputs::put(&mut show.supplies, *index, supply),
            Self::RemoveSupply(index) => outputs::remove(&mut show.supplies, *index),
            Self::AddLooks(at, looks) => looks::add(show, *at, looks),
            Self::PutLooks(changed) => looks::put(show, changed),
            Self::RemoveLooks(removed) => looks::remove(show, removed),
            Self::MoveLook(from, to) => looks::move_to(show, *from, *to),
            Self::AddRegion(region) => regions::add(show, region),
            Self::PutRegion(index, region) => regions::put(show, *index, region),
            Self::RemoveRegion(index) => regions::remove(show, *index),
            Self::AddSwatch(swatch) => looks::add_swatch(show, swatch),
            Self::PutSwatch(index, swatch) => looks::put_swatch(show, *index, swatch),
            Self::RemoveSwatch(index) => looks::remove_swatch(show, *index),
            Self::AddAim(aim) => aims::add(show, aim),
            Self::PutAim(index, aim) => aims::put(show, *index, aim),
            Self::RemoveAim(index) => aims::remove(show, *index),
            Self::AddTier(at, tier) => play::add_tier(show, *at, tier),
            Self::PutTier(index, tier) => play::put_tier(show, *index, tier),
            Self::RemoveTier(index) => play::remove_tier(show, *index),
            Self::MoveTier(from, to) => play::move_tier(show, *from, *to),
            Self::AddBanks(at, banks) => play::add_banks(show, *at, banks),
            Self::PutBanks(changed) => play::put_banks(show, changed),
            Self::RemoveBank(index) => play::remove_bank(show, *index),
            Self::MoveBank(from, to) => play::move_bank(show, *from, *to),
            Self::AddCueLists(at, lists) => cues::add(show, *at, lists),
            Self::PutCueLists(changed) => cues::put(show, changed),
            Self::RemoveCueList(index) => cues::remove(show, *index),
            Self::OwnLooks(list, place, looks) => cues::own_looks(show, *list, *place, looks),
            Self::MoveCueList(from, to) => cues::move_to(show, *from, *to),
            Self::AddTimeline(timeline) => timelines::add(show, timeline),
            Self::PutTimeline(index, timeline) => timelines::put(show, *index, timeline),
            Self::RemoveTimeline(index) => timelines::remove(show, *index),
            Self::PutSchedule(schedule) => {
                show.schedule = Schedule::clone(schedule);
                Ok(())
            }
            Self::PutRotation(rotation) => {
                show.rotation = Rotation::clone(rotation);
                Ok(())
            }
            Self::AddInput(input) => inputs::add(show, input),
            Self::PutInput(index, input) => inputs::put(show, *index, input),
            Self::RemoveInput(index) => inputs::remove(show, *index),
            Self::AddBindings(bindings) => inputs::add_bindings(show, bindings),
            Self::PutBindings(changed) => inputs::put_bindings(show, changed),
            Self::RemoveBindings(removed) => inputs::remove_bindings(show, removed),
            Self::AddProgram(program) => programs::add(show, program),
            Self::PutProgram(index, program) => programs::put(show, *index, program),
            Self::RemoveProgram(index) => programs::remove(show, *index),
            Self::IgnoreNode(address, ignored) => outputs::ignore_node(show, *address, *ignored),
            Self::NameControl(number, name) => inputs::name_control(show, *number, name),
            Self::PutValuesOut(values) => {
                show.values_out.clone_from(values);
                Ok(())
            }
            Self::Set(name, value) => set(show, name, value),
            Self::Import(fixtures, groups) => {
                import(show, fixtures)?;
                groups.iter().try_for_each(|groups| groups::join_as_told(show, fixtures, groups))
            }
        }
    }
}

impl Argument for Edit {
    type Value = Self;
    const TAKES: &'static str = JSON;
    fn parse(text: &str) -> Option<Self> {
        serde_json::from_str(text).ok()
    }
    fn text(value: &Self) -> String {
        serde_json::to_string(value).unwrap_or_default()
    }
}

fn set(show: &mut Show, name: &str, value: &SettingValue) -> Result<(), Refused> {
    let spec = setting::find(name).ok_or_else(|| no_setting(name))?;
    spec.put(&mut show.settings, value).map_err(Refused)
}

fn no_setting(name: &str) -> Refused {
    let near = meant(name, setting::SETTINGS.iter().map(|setting| setting.name));
    Refused(format!("there is no setting \"{name}\"{near}"))
}

fn gone(index: usize) -> Refused {
    Refused(format!("there is no fixture {} any more; choose again", index + 1))
}

fn each(show: &mut Show, fixtures: &[usize], mut change: impl FnMut(&mut Fixture)) -> Result<(), Refused> {
    for &index in fixtures {
        change(show.fixtures.get_mut(index).ok_or_else(|| gone(index))?);
    }
    Ok(())
}

fn duplicate(show: &mut Show, fixtures: &[usize]) -> Result<(), Refused> {
    let step = bounds(show, fixtures).map_or(1.0, |b| b.height() + 1.0);
    for &index in fixtures {
        let original = show.fixtures.get(index).ok_or_else(|| gone(index))?;
        let name = names::free_name(show, &original.name);
        let copy = Fixture { name, address: None, y: original.y + step, ..original.clone() };
        show.fixtures.push(copy);
    }
    Ok(())
}

fn put(show: &mut Show, changed: &[(usize, Fixture)]) -> Result<(), Refused> {
    let mut readdressed = Vec::new();
    for (index, fixture) in changed {
        let before = show.fixtures.get(*index).ok_or_else(|| gone(*index))?;
        if before.address != fixture.address || before.split != fixture.split {
            readdressed.push(*index);
        }
        if before.name != fixture.name {
            let old = before.name.clone();
            names::check_free(show, &fixture.name)?;
            names::rename(show, ReferenceKind::Fixture, &old, &fixture.name);
        }
        show.fixtures[*index] = fixture.clone();
    }
    refuse_overlaps(show, &readdressed)
}

fn patch(show: &mut Show, fixtures: &[usize], plan: Plan) -> Result<(), Refused> {
    let addresses = pack(show, fixtures, plan).map_err(|e| Refused(e.0))?;
    for (&index, address) in fixtures.iter().zip(addresses) {
        let fixture = show.fixtures.get_mut(index).ok_or_else(|| gone(index))?;
        (fixture.address, fixture.split) = (Some(address), plan.split);
    }
    Ok(())
}

/// Refuses addresses that were just given to fixtures where they are taken.
fn refuse_overlaps(show: &Show, fixtures: &[usize]) -> Result<(), Refused> {
    if fixtures.is_empty() {
        return Ok(());
    }
    let fixtures: std::collections::HashSet<usize> = fixtures.iter().copied().collect();
    let occupancy = Occupancy::of(show);
    let overlap = occupancy.overlaps().into_iter().find(|(a, b, ..)| fixtures.contains(a) || fixtures.contains(b));
    match overlap {
        None => Ok(()),
        Some((a, b, universe, slot)) => {
            let (mine, other) = if fixtures.contains(&b) { (b, a) } else { (a, b) };
            let (free, at) = occupancy.behind_all();
            Err(Refused(format!(
                "{} would overlap {} at {universe}.{}; from {free}.{} on all is free",
                show.fixtures[mine].name,
                show.fixtures[other].name,
                slot + 1,
                at + 1
            )))
        }
    }
}

fn reorder(show: &mut Show, fixtures: &[usize], to: usize) -> Result<(), Refused> {
    let mut moved = Vec::new();
    for &index in fixtures {
        moved.push(show.fixtures.get(index).cloned().ok_or_else(|| gone(index))?);
    }
    let chosen: std::collections::HashSet<usize> = fixtures.iter().copied().collect();
    let mut rest: Vec<Fixture> = Vec::new();
    let mut place = 0;
    for (index, fixture) in show.fixtures.drain(..).enumerate() {
        if !chosen.contains(&index) {
            place += usize::from(index < to);
            rest.push(fixture);
        }
    }
    let place = place.min(rest.len());
    rest.splice(place..place, moved);
    show.fixtures = rest;
    Ok(())
}

fn import(show: &mut Show, fixtures: &[Fixture]) -> Result<(), Refused> {
    let mut known: std::collections::HashMap<String, usize> =
        show.fixtures.iter().enumerate().map(|(i, f)| (f.name.clone(), i)).collect();
    let mut changed = Vec::new();
    for fixture in fixtures {
        match known.get(&fixture.name) {
            Some(&index) if show.fixtures[index] == *fixture => {}
            Some(&index) => {
                changed.push(index);
                show.fixtures[index] = fixture.clone();
            }
            None => {
                if show.groups.iter().any(|g| g.name == fixture.name) {
                    return Err(Refused(format!(
                        "\"{}\" is a group already; give the fixture another name",
                        fixture.name
                    )));
                }
                known.insert(fixture.name.clone(), show.fixtures.len());
                changed.push(show.fixtures.len());
                show.fixtures.push(fixture.clone());
            }
        }
    }
    refuse_overlaps(show, &changed)
}

#[cfg(test)]
mod tests;
