//! Cue lists on the stage. A list says for its tiers and values what they are to be; whoever had them is kept below, and has them again
//! when the list is released.

mod acts;
mod claimant;
mod claims;
mod moment;
mod plan;
mod running;
mod state;
#[cfg(test)]
mod tests;
mod timeline_plan;
#[cfg(test)]
mod timeline_tests;
mod timelines;
mod values;

pub use claimant::Claimant;
pub(super) use plan::CuePlans;
pub use state::{ListSetting, ListState, TimelineSetting, TimelineState};
pub use timelines::Lead;

use claimant::MOST_CLAIMANTS;
use claims::Claims;
use plan::TierSaid;
use running::ListNow;
use splimo_show::command::Origin;
use splimo_show::followed;
use splimo_show::{MOST_TIERS, Show};
use timelines::TimelineNow;
use values::{Glide, MOST_VALUES};

/// The look on a tier, and who put it there, with which pad.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Put {
    look: TierSaid,
    by: Origin,
    pad: Option<usize>,
}

/// The cue lists at a moment.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Cues {
    lists: Vec<ListNow>,
    timelines: Vec<TimelineNow>,
    tiers: Vec<Claims<Put>>,
    values: Vec<Claims<f32>>,
    glides: Vec<Option<Glide>>,
    /// The number of times that anything was said.
    order: u64,
}

impl Cues {
    pub(super) fn new(plans: &CuePlans) -> Self {
        Self {
            lists: plans.lists.iter().map(|list| ListNow::resting(list.cues.len())).collect(),
            timelines: vec![TimelineNow::RESTING; plans.timelines.len()],
            tiers: vec![Claims::NONE; MOST_TIERS],
            values: vec![Claims::NONE; MOST_VALUES],
            glides: vec![None; MOST_VALUES],
            order: 0,
        }
    }

    /// Moves the count of beats.
    pub(super) fn shift(&mut self, beats: f64) {
        self.lists.iter_mut().for_each(|list| list.shift(beats));
        self.glides.iter_mut().flatten().for_each(|glide| glide.shift(beats));
    }

    /// Finds everything again in a changed show: lists by their names, cues by their numbers. One whose cue is gone stands at the one
    /// before it.
    pub(super) fn follow(
        &mut self,
        before: &Show,
        now: &Show,
        looks: &[Option<usize>],
        tiers: &[Option<usize>],
        plans: &CuePlans,
    ) {
        let [names_before, names_now] =
            [before, now].map(|show| show.cue_lists.iter().map(|list| list.name.as_str()).collect::<Vec<_>>());
        let places = followed(&names_before, &names_now);
        let mut moved = Self { order: self.order, ..Self::new(plans) };
        for (list, place) in places.iter().enumerate() {
            let (Some(place), Some(running)) = (*place, self.lists.get(list)) else { continue };
            let [old, new] = [&before.cue_lists[list], &now.cue_lists[place]];
            let find = |at: usize| {
                let number = old.cues.get(at)?.number;
                new.cues.partition_point(|cue| cue.number <= number).checked_sub(1)
            };
            let at = running.at.and_then(find);
            let same = old.cues.len() == new.cues.len();
            let passes = if same { running.passes.clone() } else { vec![0; new.cues.len()] };
            moved.lists[place] = ListNow { at, instead: running.instead.and_then(find), passes, ..running.clone() };
        }
        let [lines_before, lines_now] =
            [before, now].map(|show| show.timelines.iter().map(|one| one.name.as_str()).collect::<Vec<_>>());
        let lines = followed(&lines_before, &lines_now);
        for (line, place) in lines.iter().enumerate() {
            if let (Some(place), Some(running)) = (*place, self.timelines.get(line)) {
                moved.timelines[place] = running.clone();
                // Clips may be others now: what is on is said anew, from where it is.
                moved.timelines[place].follow_lists(&places);
                moved.timelines[place].say_all();
            }
        }
        // A list that has no cue left to be at rests, and claims nothing.
        let runs = |place: &usize| moved.lists[*place].at.is_some();
        let mut owners = [None; MOST_CLAIMANTS];
        for (list, place) in places.iter().enumerate() {
            owners[usize::from(Claimant::List(list))] = place.filter(runs).map(Claimant::List);
        }
        for (line, place) in lines.iter().enumerate() {
            owners[usize::from(Claimant::Timeline(line))] = place.map(Claimant::Timeline);
        }
        let tier_now = |tier: usize| tiers.get(tier).copied().flatten();
        let look_now = |put: Put| match put.look {
            None => Some(put),
            Some(look) => looks.get(look).copied().flatten().map(|look| Put { look: Some(look), ..put }),
        };
        for (tier, claims) in self.tiers.iter().enumerate().take(tiers.len()) {
            if let Some(tier) = tier_now(tier) {
                moved.tiers[tier] = claims.moved(&owners, look_now);
            }
        }
        for (place, claims) in self.values.iter().enumerate() {
            let now = if place < MOST_TIERS { tier_now(place) } else { Some(place) };
            if let Some(now) = now {
                moved.values[now] = claims.moved(&owners, Some);
                moved.glides[now] = self.glides[place];
            }
        }
        *self = moved;
    }

    /// Ends everything at once and leaves the stage as it is.
    pub(super) fn end(&mut self) {
        self.lists.iter_mut().for_each(ListNow::rest);
        self.timelines.fill(TimelineNow::RESTING);
        self.tiers.fill(Claims::NONE);
        self.values.fill(Claims::NONE);
        self.glides.fill(None);
    }
}
