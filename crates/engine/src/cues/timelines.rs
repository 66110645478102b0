//! Timelines on the stage: where each is, what it shows there, and whom it follows. It claims its tiers as a cue list does.

use super::super::Engine;
use super::super::fade::Length;
use super::super::night::StageEvent;
use super::claimant::Claimant;
use super::moment::{Late, Moment};
use super::running::ListNow;
use super::timeline_plan::{MOST_ROWS, Row, Span, TimelinePlan};
use splimo_show::{Follows, MOST_LISTS, TimeUnit};
use splimo_time::rate::Step;

/// By so many seconds a timeline may be off its leader and still glide; from there on it goes where that is.
const NEAR: f64 = 0.1;
/// For so many seconds a timeline goes on without its leader.
const ALONE: f64 = 4.0;

/// The leader of a timeline at a moment.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Lead {
    /// The place where it is, in seconds since its beginning.
    pub seconds: f64,
    /// True if it runs.
    pub runs: bool,
}

/// A timeline at a moment.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct TimelineNow {
    pub(super) runs: bool,
    pub(super) paused: bool,
    /// The place, in the unit of the timeline.
    pub(super) at: f64,
    /// The clip that is on in each row.
    on: [Option<usize>; MOST_ROWS],
    /// The lists that it has begun and not released.
    lists: [bool; MOST_LISTS],
    /// True if it was put somewhere else since the last step.
    sought: bool,
    /// True if its clips may be others than they were, so that what it has is to be looked through.
    changed: bool,
    /// The seconds since its leader was there last.
    alone: f64,
}

impl TimelineNow {
    pub(super) const RESTING: Self = Self {
        runs: false,
        paused: false,
        at: 0.0,
        on: [None; MOST_ROWS],
        lists: [false; MOST_LISTS],
        sought: false,
        changed: false,
        alone: 0.0,
    };

    /// True if it stands as its leader is not there.
    pub(super) fn waits(&self) -> bool {
        self.alone >= ALONE
    }

    /// Forgets what is on, so that all of it is said anew. Lists that run are left to.
    pub(super) fn say_all(&mut self) {
        (self.on, self.sought, self.changed) = ([None; MOST_ROWS], true, true);
    }

    /// Finds the lists again that it has begun, by where each is now.
    pub(super) fn follow_lists(&mut self, places: &[Option<usize>]) {
        let before = std::mem::replace(&mut self.lists, [false; MOST_LISTS]);
        for (place, _) in places.iter().zip(before).filter(|(_, begun)| *begun) {
            if let Some(now) = *place {
                self.lists[now] = true;
            }
        }
    }

    /// Takes on the lists that run where it has them.
    pub(super) fn take_on(&mut self, plan: &TimelinePlan, lists: &[ListNow]) {
        for (list, (begun, now)) in self.lists.iter_mut().zip(lists).enumerate() {
            *begun = now.at.is_some() && plan.on_in(Row::List(list), self.at).is_some();
        }
    }
}

impl Engine {
    /// Plays a timeline, from where it is held or from its beginning.
    pub(crate) fn play_timeline(&mut self, name: &str) {
        let Some(place) = self.now.show.timeline(name) else { return };
        let now = &mut self.cues.timelines[place];
        if now.runs && now.paused {
            now.paused = false;
            return;
        }
        *now = TimelineNow { runs: true, sought: true, ..TimelineNow::RESTING };
    }

    /// Holds a timeline where it is, or lets it go on.
    pub(crate) fn hold_timeline(&mut self, name: &str) {
        let Some(place) = self.now.show.timeline(name) else { return };
        let now = &mut self.cues.timelines[place];
        now.paused = now.runs && !now.paused;
        let (paused, lists) = (now.paused, now.lists);
        for list in (0..self.cues.lists.len()).filter(|list| lists[*list]) {
            self.pause_list(list, paused);
        }
    }

    /// Ends a timeline: who had its tiers has them again.
    pub(crate) fn stop_timeline(&mut self, name: &str) {
        if let Some(place) = self.now.show.timeline(name) {
            let fade = Length::Seconds(f64::from(self.now.show.settings.cue_back_fade));
            self.end_timeline(place, fade);
        }
    }

    fn end_timeline(&mut self, place: usize, fade: Length) {
        let lists = self.cues.timelines[place].lists;
        self.cues.timelines[place] = TimelineNow::RESTING;
        for list in (0..self.cues.lists.len()).filter(|list| lists[*list]) {
            self.release_list(list);
        }
        let moment = self.moment_of(Late::default());
        for tier in 0..self.playing.tiers.tiers.len() {
            self.release_claim(Claimant::Timeline(place), tier, moment, fade);
        }
    }

    /// Goes to a place of a timeline, in its unit; one that rests is held there.
    pub(crate) fn seek_timeline(&mut self, name: &str, at: f64) {
        let Some(place) = self.now.show.timeline(name) else { return };
        let length = self.now.cues.timelines[place].length;
        let now = &mut self.cues.timelines[place];
        if !now.runs {
            (now.runs, now.paused) = (true, true);
        }
        (now.at, now.sought) = (at.clamp(0.0, length), true);
    }

    /// All timelines go on by a step.
    pub(crate) fn run_timelines(&mut self, step: Step, leads: [Option<Lead>; 2]) {
        for place in 0..self.cues.timelines.len() {
            if self.cues.timelines[place].runs {
                self.run_timeline(place, step, leads);
            }
        }
    }

    fn run_timeline(&mut self, place: usize, step: Step, [recording, time_code]: [Option<Lead>; 2]) {
        let (unit, follows) = (self.now.cues.timelines[place].unit, self.now.cues.timelines[place].follows);
        let own = match unit {
            TimeUnit::Seconds => step.seconds,
            TimeUnit::Bars => step.beats / self.conductor.clock().bar(),
        };
        let before = self.cues.timelines[place].at;
        let lead = match follows {
            Follows::Nobody => None,
            Follows::Recording => Some(recording),
            Follows::TimeCode => Some(time_code),
        };
        let now = &mut self.cues.timelines[place];
        let plan = &self.now.cues.timelines[place];
        let units = |seconds: f64| plan.units_of(seconds, self.now.show.settings.tempo);
        match lead {
            _ if now.paused => {}
            None => now.at += own,
            Some(lead) => follow(now, lead.map(|lead| [0.0, NEAR].map(|after| units(lead.seconds + after))), own, step),
        }
        self.turn_round(place);
        let now = &self.cues.timelines[place];
        if now.runs {
            let sought = now.sought;
            // Where it was put somewhere, only what begins there begins.
            let from = if sought { now.at - own } else { before };
            self.show_clips(place, sought);
            self.give_commands(place, from);
            self.cues.timelines[place].sought = false;
        }
    }

    /// Begins again at its end, or ends there.
    fn turn_round(&mut self, place: usize) {
        let plan = &self.now.cues.timelines[place];
        let now = &mut self.cues.timelines[place];
        if now.at < plan.length {
            return;
        }
        if plan.loops && plan.length > 0.0 && plan.follows == Follows::Nobody {
            now.at %= plan.length;
        } else if plan.follows == Follows::Nobody {
            self.end_timeline(place, Length::NONE);
        } else {
            now.at = plan.length;
        }
    }

    fn length_in(&self, unit: TimeUnit, units: f64) -> Length {
        match unit {
            TimeUnit::Seconds => Length::Seconds(units),
            TimeUnit::Bars => Length::Beats(units * self.conductor.clock().bar()),
        }
    }

    fn late_by(&self, unit: TimeUnit, units: f64) -> Late {
        let pace = self.pace();
        let beats = match unit {
            TimeUnit::Seconds => units * pace,
            TimeUnit::Bars => units * self.conductor.clock().bar(),
        };
        Late { beats, seconds: beats / pace }
    }

    /// Has each tier show what the timeline has there, and each list run that it has there.
    fn show_clips(&mut self, place: usize, sought: bool) {
        if std::mem::take(&mut self.cues.timelines[place].changed) {
            self.drop_what_is_gone(place);
        }
        let at = self.cues.timelines[place].at;
        for row in 0..self.now.cues.timelines[place].rows.len() {
            let plan = &self.now.cues.timelines[place];
            let (of, wanted) = (plan.rows[row].0, plan.span(row, at));
            let was = self.cues.timelines[place].on[row];
            if wanted.map(|(index, _)| index) == was {
                continue;
            }
            // What ends by itself has gone since its end; where it was put elsewhere, it goes at once.
            let left = was.and_then(|was| plan.rows[row].1.get(was)).copied().filter(|_| !sought);
            self.cues.timelines[place].on[row] = wanted.map(|(index, _)| index);
            self.cues.order += 1;
            match of {
                Row::Tier(tier) => self.show_clip(place, tier, wanted.map(|(_, span)| span), left),
                Row::List(list) => self.run_clip(place, list, wanted.map(|(_, span)| span), sought),
            }
        }
    }

    fn show_clip(&mut self, place: usize, tier: usize, wanted: Option<Span>, left: Option<Span>) {
        let (unit, at) = (self.now.cues.timelines[place].unit, self.cues.timelines[place].at);
        let beat = self.conductor.beat();
        if let Some(span) = wanted {
            // Where it was put into a clip, its fade is as far as it would be.
            let moment = Moment { beat, late: self.late_by(unit, at - span.at) };
            let fade = self.length_in(unit, span.fade_in);
            self.claim(Claimant::Timeline(place), tier, span.look, moment, fade);
        } else {
            let late = left.map_or(0.0, |left| (at - left.end).max(0.0));
            let moment = Moment { beat, late: self.late_by(unit, late) };
            let fade = self.length_in(unit, left.map_or(0.0, |left| left.fade_out));
            self.release_claim(Claimant::Timeline(place), tier, moment, fade);
        }
    }

    /// Has a list go to its first cue, or releases it.
    fn run_clip(&mut self, place: usize, list: usize, wanted: Option<Span>, sought: bool) {
        let (unit, at) = (self.now.cues.timelines[place].unit, self.cues.timelines[place].at);
        match wanted {
            Some(span) => {
                let late = if sought { Late::default() } else { self.late_by(unit, at - span.at) };
                self.begin_list(list, late);
                self.pause_list(list, self.cues.timelines[place].paused);
            }
            None => self.release_list(list),
        }
        self.cues.timelines[place].lists[list] = wanted.is_some();
    }

    /// Gives back what it has there no more. A list that it has begun and has there still is left alone.
    fn drop_what_is_gone(&mut self, place: usize) {
        let (at, moment) = (self.cues.timelines[place].at, self.moment_of(Late::default()));
        for tier in 0..self.playing.tiers.tiers.len() {
            if self.now.cues.timelines[place].on_in(Row::Tier(tier), at).is_none() {
                self.release_claim(Claimant::Timeline(place), tier, moment, Length::NONE);
            }
        }
        for list in 0..self.cues.lists.len() {
            if !self.cues.timelines[place].lists[list] {
                continue;
            }
            match self.now.cues.timelines[place].on_in(Row::List(list), at) {
                Some((row, clip)) if self.cues.lists[list].at.is_some() => {
                    self.cues.timelines[place].on[row] = Some(clip);
                }
                Some(_) => {}
                None => {
                    self.cues.timelines[place].lists[list] = false;
                    self.release_list(list);
                }
            }
        }
    }

    /// Tells of the clips that begin on the way from a place and give commands.
    fn give_commands(&mut self, place: usize, before: f64) {
        let at = self.cues.timelines[place].at;
        for index in 0..self.now.cues.timelines[place].gives.len() {
            let (begins, clip) = self.now.cues.timelines[place].gives[index];
            let first = before <= 0.0 && begins == 0.0;
            // Where it began again, the way leads over its end.
            let passed = if at >= before { begins > before && begins <= at } else { begins > before || begins <= at };
            if passed || first {
                self.happen(
                    splimo_show::command::Origin::Timeline(place as u8),
                    StageEvent::ClipBegan { timeline: place, clip },
                );
            }
        }
    }
}

/// Follows a leader: where that is near, without a jump; where it is silent, alone for a while, and then it stands. The leader is told
/// as its place, in the unit of the timeline, and the place a moment later up to which it is near.
fn follow(now: &mut TimelineNow, lead: Option<[f64; 2]>, own: f64, step: Step) {
    let Some([place, near]) = lead else {
        now.alone = (now.alone + step.seconds).min(ALONE);
        if !now.waits() {
            now.at += own;
        }
        return;
    };
    now.alone = 0.0;
    let near = near - place;
    let place = place.max(0.0);
    now.sought |= (place - (now.at + own)).abs() > near;
    now.at = place;
}
