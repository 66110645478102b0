//! Cue lists compiled: for each cue what the list says of every tier and every value once it is there, however one came.

use super::super::fade::Length;
use super::claimant::Claimant;
use super::timeline_plan::TimelinePlan;
use super::values::{MOST_VALUES, ValueId};
use splimo_show::{Cue, CueList, CueNumber, CueTime, GoesOn, MOST_TIERS, Show};

/// A set of values, a bit each.
pub(super) type ValueSet = u128;

/// The thing that a list says of a tier: a look by its place in the show, or that it is out.
pub(super) type TierSaid = Option<usize>;

/// The things that a cue names itself, as opposed to those that it leaves as they are.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) struct Named {
    /// The tiers, a bit each.
    pub tiers: u32,
    /// The values.
    pub values: ValueSet,
    /// True if it names the tempo.
    pub tempo: bool,
}

impl Named {
    /// Everything.
    pub(super) const ALL: Self = Self { tiers: u32::MAX, values: ValueSet::MAX, tempo: true };

    pub(super) fn and(self, other: Self) -> Self {
        Self { tiers: self.tiers | other.tiers, values: self.values | other.values, tempo: self.tempo || other.tempo }
    }
}

/// A cue compiled.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct CuePlan {
    pub number: CueNumber,
    /// The thing that the list says of each tier at this cue, if it says any.
    pub tiers: [Option<TierSaid>; MOST_TIERS],
    /// The values that the list gives at this cue, by their numbers.
    values: Vec<(ValueId, f32)>,
    /// The tempo that it gives, in beats a minute.
    pub tempo: Option<f32>,
    pub named: Named,
    pub fade_in: CueTime,
    pub fade_out: CueTime,
    pub delay: CueTime,
    pub goes_on: GoesOn,
    /// The place of the cue with which the list goes on again.
    pub back_to: Option<usize>,
    /// The number of times that the loop is run through; 0 is until go.
    pub times: u16,
    /// True if heads that are dark go ahead to where it points them.
    pub ahead: bool,
}

impl CuePlan {
    /// The value that the list gives at this cue.
    pub(super) fn value(&self, id: ValueId) -> Option<f32> {
        self.values.binary_search_by_key(&id, |(id, _)| *id).ok().map(|place| self.values[place].1)
    }
}

/// A list compiled.
#[derive(Debug, Clone, PartialEq, Default)]
pub(super) struct ListPlan {
    pub priority: u8,
    pub wrap: bool,
    pub cues: Vec<CuePlan>,
}

/// All lists of a show, compiled.
#[derive(Debug, Clone, PartialEq, Default)]
pub(crate) struct CuePlans {
    pub(super) lists: Vec<ListPlan>,
    pub(super) timelines: Vec<TimelinePlan>,
}

impl CuePlans {
    pub(crate) fn of(show: &Show) -> Self {
        Self {
            lists: show.cue_lists.iter().map(|list| ListPlan::of(list, show)).collect(),
            timelines: TimelinePlan::all(show),
        }
    }

    /// The priority of a claimant.
    pub(super) fn priority(&self, by: Claimant) -> u8 {
        match by {
            Claimant::List(list) => self.lists.get(list).map_or(0, |list| list.priority),
            Claimant::Timeline(timeline) => self.timelines.get(timeline).map_or(0, |timeline| timeline.priority),
        }
    }
}

/// The things that a list says after some of its cues.
#[derive(Clone, Default)]
struct Tracked {
    tiers: [Option<TierSaid>; MOST_TIERS],
    values: Vec<Option<f32>>,
    tempo: Option<f32>,
}

impl ListPlan {
    fn of(list: &CueList, show: &Show) -> Self {
        let mut tracked = Tracked { values: vec![None; MOST_VALUES], ..Tracked::default() };
        let cues = list.cues.iter().enumerate().map(|(place, cue)| {
            let named = tracked.take(cue, show);
            CuePlan {
                number: cue.number,
                tiers: tracked.tiers,
                values: tracked.given(),
                tempo: tracked.tempo,
                named,
                fade_in: cue.fade_in,
                fade_out: cue.fade_out,
                delay: cue.delay,
                goes_on: list.goes_on(place).clone(),
                back_to: cue.back_to.and_then(|number| list.place(number)).filter(|back| *back <= place),
                times: cue.times,
                ahead: cue.ahead,
            }
        });
        Self { priority: list.priority, wrap: list.wrap, cues: cues.collect() }
    }

    /// The cue behind one, if there is any.
    fn after(&self, place: usize) -> Option<usize> {
        let next = place + 1;
        (next < self.cues.len()).then_some(next).or((self.wrap && !self.cues.is_empty()).then_some(0))
    }

    /// The cue before one, if there is any.
    pub(super) fn before(&self, place: usize) -> Option<usize> {
        place.checked_sub(1).or_else(|| self.wrap.then(|| self.cues.len().saturating_sub(1)))
    }

    /// The cue that comes next, and the loop that is run through once more with it. Where a loop goes on by itself until somebody says
    /// go, going on by hand leaves it.
    pub(super) fn next(&self, at: Option<usize>, passes: &[u16], by_itself: bool) -> Option<(usize, Pass)> {
        let Some(at) = at.filter(|at| *at < self.cues.len()) else {
            return (!self.cues.is_empty()).then_some((0, Pass::None));
        };
        if let Some(end) = self.endless(at).filter(|_| !by_itself) {
            return Some((self.after(end)?, Pass::None));
        }
        let cue = &self.cues[at];
        match cue.back_to {
            Some(back) if cue.times == 0 => Some((back, Pass::None)),
            Some(back) if passes.get(at).is_none_or(|passes| passes + 1 < cue.times) => Some((back, Pass::Again(at))),
            Some(_) => Some((self.after(at)?, Pass::Over(at))),
            None => Some((self.after(at)?, Pass::None)),
        }
    }

    /// The end of the smallest loop around a cue that goes on by itself until somebody says go.
    fn endless(&self, at: usize) -> Option<usize> {
        let runs = |cue: &CuePlan| cue.times == 0 && cue.goes_on != GoesOn::ByHand;
        let ends = self.cues.iter().enumerate().skip(at);
        ends.filter(|(_, cue)| runs(cue) && cue.back_to.is_some_and(|back| back <= at)).map(|(end, _)| end).next()
    }
}

/// The count of runs through a loop, as a step changes it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Pass {
    /// It does not.
    None,
    /// The loop that ends with this cue is run through once more.
    Again(usize),
    /// The loop that ends with this cue is left.
    Over(usize),
}

impl Tracked {
    /// Takes over what a cue says. Returns what it names.
    fn take(&mut self, cue: &Cue, show: &Show) -> Named {
        let mut named = Named { tempo: cue.tempo.is_some(), ..Named::default() };
        let stack = show.stack().len().min(MOST_TIERS);
        if cue.others_out {
            let others = (0..stack).filter(|tier| !cue.tiers.iter().any(|said| show.tier(&said.tier) == Some(*tier)));
            for tier in others.collect::<Vec<_>>() {
                self.say(tier, None, &mut named);
            }
        }
        for said in &cue.tiers {
            let Some(tier) = show.tier(&said.tier).filter(|tier| *tier < stack) else { continue };
            match said.look.as_deref().map(|look| show.look(look)) {
                Some(Some((look, _))) => self.say(tier, Some(look), &mut named),
                Some(None) => {}
                None if said.out => self.say(tier, None, &mut named),
                None => {}
            }
            self.give(ValueId::level(tier), said.level.map(|level| level / 100.0), &mut named);
        }
        self.give(ValueId::MASTER, cue.master.map(|master| master / 100.0), &mut named);
        self.give(ValueId::SPEED, cue.speed, &mut named);
        for one in &cue.controls {
            self.give(ValueId::control(one.control), Some(one.percent / 100.0), &mut named);
        }
        self.tempo = cue.tempo.or(self.tempo);
        named
    }

    fn say(&mut self, tier: usize, said: TierSaid, named: &mut Named) {
        self.tiers[tier] = Some(said);
        named.tiers |= 1 << tier;
    }

    fn give(&mut self, id: ValueId, value: Option<f32>, named: &mut Named) {
        if let (Some(value), Some(given)) = (value, self.values.get_mut(id.place())) {
            *given = Some(value);
            named.values |= 1 << id.place();
        }
    }

    fn given(&self) -> Vec<(ValueId, f32)> {
        ValueId::all().filter_map(|id| Some((id, self.values[id.place()]?))).collect()
    }
}

/// The length of a fade or a wait, where a bar has so many beats.
pub(super) fn length(time: CueTime, bar: f64) -> Length {
    match time {
        CueTime::Seconds(seconds) => Length::Seconds(f64::from(seconds)),
        CueTime::Beats(beats) => Length::Beats(f64::from(beats)),
        CueTime::Bars(bars) => Length::Beats(f64::from(bars) * bar),
    }
}
