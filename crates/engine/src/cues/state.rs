//! The lists as a screen sees them, and as another engine goes on with them.

use serde::{Deserialize, Serialize};

use super::super::Engine;
use super::claimant::Claimant;
use super::moment::Late;
use super::running::ListNow;
use super::{Claims, Put};
use splimo_show::command::Origin;
use splimo_show::{CueNumber, MOST_LISTS, MOST_TIMELINES};

/// A cue list as a screen sees it.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
pub struct ListState {
    /// The place of the cue that it is at; none where it rests.
    pub at: Option<usize>,
    /// The place of the cue that go brings.
    pub next: Option<usize>,
    /// True if it is held.
    pub paused: bool,
    /// Beats until the fades of the cue begin.
    pub delay_left: f64,
    /// Beats until its fades are over.
    pub fade_left: f64,
    /// The share of its fades that is done, 0..1.
    pub fade_done: f32,
    /// Beats until it goes on by itself, if it does.
    pub goes_on_in: Option<f64>,
    /// Beats that it stays at the cue in all, if it goes on by itself.
    pub stays: f64,
    /// The runs through the loop that ends with the cue.
    pub passes: u16,
}

/// A timeline as a screen sees it.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
pub struct TimelineState {
    /// True if it runs, or is held somewhere.
    pub runs: bool,
    /// True if it is held.
    pub paused: bool,
    /// True if it stands as its leader is silent.
    pub waits: bool,
    /// The place where it is, in its unit.
    pub at: f64,
}

/// The place of a timeline, as another engine goes on with it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TimelineSetting {
    /// The place, in its unit.
    pub at: f64,
    /// True if it is held.
    pub paused: bool,
}

/// The place of a list, as another engine goes on with it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ListSetting {
    /// The cue.
    pub at: CueNumber,
    /// True if it is held.
    pub paused: bool,
}

impl Engine {
    /// Writes what a screen may show of the lists.
    pub(crate) fn publish_lists(&self, lists: &mut Vec<ListState>) {
        lists.clear();
        // Room for all that may ever be, so that no later moment has to make more.
        lists.reserve(MOST_LISTS);
        let (beat, pace, metre) = (self.conductor.beat(), self.pace(), self.conductor.metre());
        lists.extend(self.cues.lists.iter().zip(&self.now.cues.lists).map(|(now, plan)| {
            let stays = now.at.and_then(|_| now.left(beat, pace, metre));
            ListState {
                at: now.at,
                next: now.next(plan, false).map(|(place, _)| place),
                paused: now.paused,
                delay_left: now.waiting.map_or(0.0, |waiting| waiting.timer.left(beat, pace)),
                fade_left: now.fade.left(beat, pace),
                fade_done: if now.waiting.is_some() { 0.0 } else { now.fade.done(beat) },
                goes_on_in: stays.map(|(left, _)| left),
                stays: stays.map_or(0.0, |(_, whole)| whole),
                passes: now.at.and_then(|at| now.passes.get(at).copied()).unwrap_or(0),
            }
        }));
    }

    /// Writes what a screen may show of the timelines.
    pub(crate) fn publish_timelines(&self, timelines: &mut Vec<TimelineState>) {
        timelines.clear();
        timelines.reserve(MOST_TIMELINES);
        timelines.extend(self.cues.timelines.iter().map(|now| TimelineState {
            runs: now.runs,
            paused: now.paused,
            waits: now.waits(),
            at: now.at,
        }));
    }

    /// The places of the timelines that run.
    pub(crate) fn timeline_settings(&self) -> [Option<TimelineSetting>; MOST_TIMELINES] {
        let mut settings = [None; MOST_TIMELINES];
        for (setting, now) in settings.iter_mut().zip(&self.cues.timelines) {
            *setting = now.runs.then_some(TimelineSetting { at: now.at, paused: now.paused });
        }
        settings
    }

    /// Goes on with timelines where another engine stood: what is on is said anew.
    pub(crate) fn restore_timelines(&mut self, settings: &[Option<TimelineSetting>; MOST_TIMELINES]) {
        let plans = &self.now.cues.timelines;
        for ((now, plan), setting) in self.cues.timelines.iter_mut().zip(plans).zip(settings) {
            if let Some(TimelineSetting { at, paused }) = *setting {
                (now.runs, now.paused, now.at) = (true, paused, at);
                now.say_all();
                now.take_on(plan, &self.cues.lists);
            }
        }
    }

    /// The places of the lists.
    pub(crate) fn list_settings(&self) -> [Option<ListSetting>; MOST_LISTS] {
        let mut settings = [None; MOST_LISTS];
        for (setting, (now, plan)) in settings.iter_mut().zip(self.cues.lists.iter().zip(&self.now.cues.lists)) {
            let at = now.at.and_then(|at| plan.cues.get(at));
            *setting = at.map(|cue| ListSetting { at: cue.number, paused: now.paused });
        }
        settings
    }

    /// Goes on with lists where another engine stood. The stage is as it was already: only who has what of it is to be known.
    pub(crate) fn restore_lists(&mut self, settings: &[Option<ListSetting>; MOST_LISTS]) {
        self.cues.end();
        let (beat, bar) = (self.conductor.beat(), self.conductor.clock().bar());
        for (list, setting) in settings.iter().enumerate() {
            let (Some(setting), Some(plan)) = (setting, self.now.cues.lists.get(list)) else { continue };
            let Some(place) = plan.cues.iter().position(|cue| cue.number == setting.at) else { continue };
            let now = &mut self.cues.lists[list];
            *now = ListNow { at: Some(place), ..ListNow::resting(plan.cues.len()) };
            now.wait_to_go_on(plan, beat, Late::default(), bar);
            now.pause(setting.paused);
            self.claim_again(list, place);
        }
    }

    fn claim_again(&mut self, list: usize, place: usize) {
        let cue = &self.now.cues.lists[list].cues[place];
        for (tier, said) in cue.tiers.iter().enumerate().take(self.playing.tiers.tiers.len()) {
            let Some(look) = *said else { continue };
            let (shown, by, pad) = self.playing.tiers.tiers[tier].for_good();
            // Whoever has it stays the latest.
            let order = if by == Origin::List(list as u8) { 3 } else { 1 };
            let before = Put { look: shown.filter(|_| !matches!(by, Origin::List(_) | Origin::Timeline(_))), by, pad };
            let claims: &mut Claims<Put> = &mut self.cues.tiers[tier];
            claims.say(Claimant::List(list), Put { look, by: Origin::List(list as u8), pad: None }, order, || before);
            if !matches!(by, Origin::List(_) | Origin::Timeline(_)) {
                claims.hands_say(before, 2);
            }
        }
        self.cues.order = self.cues.order.max(3);
    }
}
