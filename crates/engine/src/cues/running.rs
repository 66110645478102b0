//! A cue list under way: where it is, what it waits for, and when it goes on by itself.

use super::super::fade::{Fade, Length};
use super::super::queue::Metre;
use super::moment::Late;
use super::plan::{ListPlan, Named, Pass, length};
use splimo_show::{Boundary, GoesOn, MOST_TIERS};
use splimo_time::rate::Step;

/// A cue whose fades have not begun yet.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Waiting {
    pub timer: Fade,
    pub entry: Entry,
}

/// The way in which a cue comes.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Entry {
    pub named: Named,
    pub fade_in: Length,
    pub fade_out: Length,
}

/// The thing for which a list waits to go on by itself.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum Goes {
    /// Nothing: a hand or an event has it go on.
    Told,
    After(Fade),
    /// The next boundary after a beat.
    On(Boundary, f64),
    /// The end of a pattern that one of its tiers shows; how often each had come to its end when it was looked at last.
    AtEnd([u64; MOST_TIERS]),
}

/// A list at a moment.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct ListNow {
    /// The cue that it is at, if it runs.
    pub at: Option<usize>,
    /// The cue that comes next in place of the one that follows.
    pub instead: Option<usize>,
    pub waiting: Option<Waiting>,
    pub paused: bool,
    pub goes: Goes,
    /// The longer of the fades.
    pub fade: Fade,
    /// The runs through the loop that ends with each cue.
    pub passes: Vec<u16>,
}

impl ListNow {
    /// One that rests. There is room for every cue, so that going on never allocates.
    pub(super) fn resting(cues: usize) -> Self {
        Self {
            at: None,
            instead: None,
            waiting: None,
            paused: false,
            goes: Goes::Told,
            fade: Fade::new(0.0, Length::NONE),
            passes: vec![0; cues],
        }
    }

    /// Lets it rest again.
    pub(super) fn rest(&mut self) {
        self.passes.fill(0);
        let passes = std::mem::take(&mut self.passes);
        *self = Self { passes, ..Self::resting(0) };
    }

    /// The cue that go brings.
    pub(super) fn next(&self, plan: &ListPlan, by_itself: bool) -> Option<(usize, Pass)> {
        self.instead.map(|place| (place, Pass::None)).or_else(|| plan.next(self.at, &self.passes, by_itself))
    }

    /// Takes note of a run through a loop.
    pub(super) fn count(&mut self, pass: Pass) {
        match pass {
            Pass::None => {}
            Pass::Again(end) => self.passes[end] = self.passes[end].saturating_add(1),
            Pass::Over(end) => self.passes[end] = 0,
        }
    }

    /// Begins to wait for what has it go on from where it is, from a beat on that is past by so much.
    pub(super) fn wait_to_go_on(&mut self, plan: &ListPlan, beat: f64, late: Late, bar: f64) {
        let goes_on = self.at.and_then(|at| plan.cues.get(at)).map(|cue| &cue.goes_on);
        self.goes = match goes_on {
            Some(GoesOn::After(time)) => Goes::After(begun(beat, late, length(*time, bar))),
            Some(GoesOn::On(boundary)) => Goes::On(*boundary, beat - late.beats),
            Some(GoesOn::PatternEnd) => Goes::AtEnd([u64::MAX; MOST_TIERS]),
            Some(GoesOn::ByHand | GoesOn::OnEvent(..)) | None => Goes::Told,
        };
    }

    /// Goes on by a step.
    pub(super) fn advance(&mut self, step: Step) {
        if self.paused
            && let Goes::On(_, since) = &mut self.goes
        {
            *since += step.beats;
        }
        for timer in self.timers() {
            timer.advance(step);
        }
    }

    /// Holds everything that counts, or lets it go on.
    pub(super) fn pause(&mut self, paused: bool) {
        self.paused = paused;
        for timer in self.timers() {
            timer.hold(paused);
        }
    }

    /// Moves the count of beats.
    pub(super) fn shift(&mut self, beats: f64) {
        if let Goes::On(_, since) = &mut self.goes {
            *since += beats;
        }
        for timer in self.timers() {
            timer.shift(beats);
        }
    }

    fn timers(&mut self) -> impl Iterator<Item = &mut Fade> {
        let goes = match &mut self.goes {
            Goes::After(timer) => Some(timer),
            Goes::On(..) | Goes::AtEnd(_) | Goes::Told => None,
        };
        let waiting = self.waiting.as_mut().map(|waiting| &mut waiting.timer);
        [Some(&mut self.fade), goes, waiting].into_iter().flatten()
    }

    /// Beats that the list stays yet, and of how many, if it goes on by itself.
    pub(super) fn left(&self, beat: f64, pace: f64, metre: Metre) -> Option<(f64, f64)> {
        match self.goes {
            Goes::Told | Goes::AtEnd(_) => None,
            Goes::After(timer) => Some((timer.left(beat, pace), timer.whole(pace))),
            Goes::On(boundary, since) => {
                let at = metre.next(boundary, since);
                Some(((at - beat).max(0.0), at - since))
            }
        }
    }

    /// By how much the moment is past at which it goes on by itself.
    pub(super) fn due(&self, beat: f64, pace: f64, metre: Metre) -> Option<Late> {
        let beats = match self.goes {
            _ if self.paused => None,
            Goes::Told | Goes::AtEnd(_) => None,
            Goes::After(timer) => timer.over_by(beat, pace),
            Goes::On(boundary, since) => Some(beat - metre.next(boundary, since)).filter(|late| *late >= 0.0),
        }?;
        Some(Late { beats, seconds: beats / pace })
    }
}

/// A fade that began so late before a beat.
pub(super) fn begun(beat: f64, late: Late, length: Length) -> Fade {
    let mut fade = Fade::new(beat - late.beats, length);
    fade.advance(Step { seconds: late.seconds, beats: 0.0 });
    fade
}
