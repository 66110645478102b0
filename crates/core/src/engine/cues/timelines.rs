//! Timelines on the stage: where each is, what it shows there, and whom it follows. It claims its tiers as a cue list does.

use super::super::Engine;
use super::super::fade::Length;
use super::super::night::StageEvent;
use super::acts::Moment;
use super::running::Late;
use crate::rate::Step;
use crate::show::{Follows, MOST_LISTS, MOST_TIERS, MOST_TIMELINES, Show, TimeUnit};

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

/// A clip compiled.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Span {
    at: f64,
    end: f64,
    look: usize,
    fade_in: f64,
    fade_out: f64,
}

/// A timeline compiled.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct TimelinePlan {
    pub priority: u8,
    unit: TimeUnit,
    length: f64,
    loops: bool,
    follows: Follows,
    /// The clips of each tier that has any, in their order.
    tiers: Vec<(usize, Vec<Span>)>,
    /// The places of clips that give commands, and the clips.
    gives: Vec<(f64, usize)>,
}

impl TimelinePlan {
    pub(super) fn all(show: &Show) -> Vec<Self> {
        show.timelines.iter().take(MOST_TIMELINES).map(|one| Self::of(one, show)).collect()
    }

    fn of(timeline: &crate::show::Timeline, show: &Show) -> Self {
        let stack = show.stack().len().min(MOST_TIERS);
        let spans = |tier: usize| {
            let own = timeline.clips.iter().filter(|clip| show.tier(&clip.tier) == Some(tier));
            let spans = own.filter_map(|clip| {
                let (look, _) = show.look(clip.look.as_deref()?)?;
                let (fade_in, fade_out) = (f64::from(clip.fade_in), f64::from(clip.fade_out));
                Some(Span { at: f64::from(clip.at), end: f64::from(clip.end()), look, fade_in, fade_out })
            });
            let mut spans: Vec<Span> = spans.collect();
            spans.sort_by(|a, b| a.at.total_cmp(&b.at));
            (tier, spans)
        };
        let clips = timeline.clips.iter().enumerate();
        let mut gives: Vec<(f64, usize)> =
            clips.filter(|(_, clip)| !clip.does.is_empty()).map(|(place, clip)| (f64::from(clip.at), place)).collect();
        gives.sort_by(|a, b| a.0.total_cmp(&b.0));
        Self {
            priority: timeline.priority,
            unit: timeline.unit,
            length: f64::from(timeline.length),
            loops: timeline.loops,
            follows: timeline.follows,
            tiers: (0..stack).map(spans).filter(|(_, spans)| !spans.is_empty()).collect(),
            gives,
        }
    }

    /// The clip that is on a tier at a place: of those that lie over one another the latest.
    fn span(&self, row: usize, at: f64) -> Option<(usize, Span)> {
        let spans = &self.tiers[row].1;
        let begun = spans.partition_point(|span| span.at <= at);
        let on = spans[..begun].iter().enumerate().rev().find(|(_, span)| at < span.end)?;
        Some((on.0, *on.1))
    }
}

/// A timeline at a moment.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct TimelineNow {
    pub(super) runs: bool,
    pub(super) paused: bool,
    /// The place, in the unit of the timeline.
    pub(super) at: f64,
    /// The clip that is on in each row.
    on: [Option<usize>; MOST_TIERS],
    /// True if it was put somewhere else since the last step.
    sought: bool,
    /// The seconds since its leader was there last.
    alone: f64,
}

impl TimelineNow {
    pub(super) const RESTING: Self =
        Self { runs: false, paused: false, at: 0.0, on: [None; MOST_TIERS], sought: false, alone: 0.0 };

    /// True if it stands as its leader is not there.
    pub(super) fn waits(&self) -> bool {
        self.alone >= ALONE
    }

    /// Forgets what is on, so that all of it is said anew.
    pub(super) fn say_all(&mut self) {
        (self.on, self.sought) = ([None; MOST_TIERS], true);
    }
}

/// The owner of a timeline among those who claim tiers.
fn owner(timeline: usize) -> usize {
    MOST_LISTS + timeline
}

impl Engine {
    /// Plays a timeline, from where it is held or from its beginning.
    pub(in crate::engine) fn play_timeline(&mut self, name: &str) {
        let Some(place) = self.now.show.timeline(name) else { return };
        let now = &mut self.cues.timelines[place];
        if now.runs && now.paused {
            now.paused = false;
            return;
        }
        *now = TimelineNow { runs: true, sought: true, ..TimelineNow::RESTING };
    }

    /// Holds a timeline where it is, or lets it go on.
    pub(in crate::engine) fn hold_timeline(&mut self, name: &str) {
        let Some(place) = self.now.show.timeline(name) else { return };
        let now = &mut self.cues.timelines[place];
        now.paused = now.runs && !now.paused;
    }

    /// Ends a timeline: who had its tiers has them again.
    pub(in crate::engine) fn stop_timeline(&mut self, name: &str) {
        if let Some(place) = self.now.show.timeline(name) {
            let fade = Length::Seconds(f64::from(self.now.show.settings.cue_back_fade));
            self.end_timeline(place, fade);
        }
    }

    fn end_timeline(&mut self, place: usize, fade: Length) {
        self.cues.timelines[place] = TimelineNow::RESTING;
        let moment = self.moment_of(Late::default());
        for tier in 0..self.playing.tiers.tiers.len() {
            self.release_claim(owner(place), tier, moment, fade);
        }
    }

    /// Goes to a place of a timeline, in its unit; one that rests is held there.
    pub(in crate::engine) fn seek_timeline(&mut self, name: &str, at: f64) {
        let Some(place) = self.now.show.timeline(name) else { return };
        let length = self.now.cues.timelines[place].length;
        let now = &mut self.cues.timelines[place];
        if !now.runs {
            (now.runs, now.paused) = (true, true);
        }
        (now.at, now.sought) = (at.clamp(0.0, length), true);
    }

    /// All timelines go on by a step.
    pub(in crate::engine) fn run_timelines(&mut self, step: Step, leads: [Option<Lead>; 2]) {
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
        match lead {
            _ if now.paused => {}
            None => now.at += own,
            Some(lead) => follow(now, lead, own, step, self.now.show.settings.tempo, unit),
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

    /// Has each tier show what the timeline has there.
    fn show_clips(&mut self, place: usize, sought: bool) {
        let unit = self.now.cues.timelines[place].unit;
        let at = self.cues.timelines[place].at;
        for row in 0..self.now.cues.timelines[place].tiers.len() {
            let plan = &self.now.cues.timelines[place];
            let (tier, wanted) = (plan.tiers[row].0, plan.span(row, at));
            let was = self.cues.timelines[place].on[row];
            if wanted.map(|(index, _)| index) == was {
                continue;
            }
            let left = was.and_then(|was| plan.tiers[row].1.get(was)).copied();
            self.cues.timelines[place].on[row] = wanted.map(|(index, _)| index);
            self.cues.order += 1;
            match wanted {
                Some((_, span)) => {
                    // Where it was put into a clip, its fade is as far as it would be.
                    let moment = Moment { beat: self.conductor.beat(), late: self.late_by(unit, at - span.at) };
                    let fade = self.length_in(unit, span.fade_in);
                    self.claim(owner(place), tier, Some(span.look), moment, fade);
                }
                None => {
                    let late = left.filter(|_| !sought).map_or(0.0, |left| (at - left.end).max(0.0));
                    let moment = Moment { beat: self.conductor.beat(), late: self.late_by(unit, late) };
                    let fade = self.length_in(unit, left.filter(|_| !sought).map_or(0.0, |left| left.fade_out));
                    self.release_claim(owner(place), tier, moment, fade);
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
                    crate::command::Origin::Timeline(place as u8),
                    StageEvent::ClipBegan { timeline: place, clip },
                );
            }
        }
    }
}

/// Follows a leader: where that is near, without a jump; where it is silent, alone for a while, and then it stands.
fn follow(now: &mut TimelineNow, lead: Option<Lead>, own: f64, step: Step, tempo: f32, unit: TimeUnit) {
    let Some(lead) = lead else {
        now.alone = (now.alone + step.seconds).min(ALONE);
        if !now.waits() {
            now.at += own;
        }
        return;
    };
    now.alone = 0.0;
    // Bars of a recording or of time code are those of the show's tempo.
    let place = match unit {
        TimeUnit::Seconds => lead.seconds,
        TimeUnit::Bars => lead.seconds * f64::from(tempo) / 240.0,
    }
    .max(0.0);
    let near = match unit {
        TimeUnit::Seconds => NEAR,
        TimeUnit::Bars => NEAR * f64::from(tempo) / 240.0,
    };
    now.sought |= (place - (now.at + own)).abs() > near;
    now.at = place;
}
