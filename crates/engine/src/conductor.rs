//! The conductor: the musical clock, what is heard, what was struck, and the queue of what lands when. It knows nothing of
//! light.

use super::Inputs;
use super::queue::{Metre, Queue};
use super::snapshot::{ClockState, Snapshot};
use super::speed::SpeedMaster;
use super::wish::{Armed, Wish};
use splimo_base::Seconds;
use splimo_light::effect::{BeatWatch, Counts, Moment};
use splimo_show::CONTROLS;
use splimo_show::command::ControlLevel;
use splimo_show::{Boundary, Settings};
use splimo_time::music::{Hearing, Section};
use splimo_time::rate::Step;
use splimo_time::tempo::Clock;

/// The last strike of something, and the count of its strikes.
#[derive(Debug, Clone, Copy)]
struct Struck {
    /// The beat at which it was struck last.
    beat: f64,
    count: u64,
}

impl Struck {
    const NEVER: Self = Self { beat: f64::MIN, count: 0 };

    /// Takes note of a count; whether it is another one than before.
    fn note(&mut self, count: u64, beat: f64) -> bool {
        let new = count != self.count;
        if new {
            *self = Self { beat, count };
        }
        new
    }

    /// 1 where it was struck, falling to 0 within a beat.
    fn at(&self, beat: f64) -> f32 {
        (1.0 - (beat - self.beat)).clamp(0.0, 1.0) as f32
    }
}

/// A part of the music that was chosen by hand. It holds until another one is heard.
#[derive(Debug, Clone, Copy)]
struct ChosenSection {
    chosen: Section,
    /// The section that was heard then.
    heard: Section,
}

/// The result of a step of time.
#[derive(Debug, Clone, Copy)]
pub(super) struct Advance {
    /// The step of the clock.
    pub step: Step,
    /// By how many beats their count was moved besides.
    pub shift: f64,
}

/// The conductor.
pub(super) struct Conductor {
    clock: Clock,
    pub(super) queue: Queue,
    pub(super) speed: SpeedMaster,
    phrase_bars: u32,
    /// By how much light is to be early, in seconds.
    latency: f64,
    hearing: Hearing,
    onset: Struck,
    hits: [Struck; 3],
    section: Option<ChosenSection>,
    time_of_day: Option<f64>,
    watch: BeatWatch,
    /// True if the light changes at once with the last step.
    sudden: bool,
    /// True if something was asked for since the last step.
    asked: bool,
    pub(super) controls: [f32; CONTROLS],
    pub(super) counts: Counts,
}

impl Conductor {
    pub(super) fn new(settings: &Settings) -> Self {
        let mut conductor = Self {
            clock: Clock::new(settings.tempo),
            queue: Queue::default(),
            speed: SpeedMaster::default(),
            phrase_bars: 1,
            latency: 0.0,
            hearing: Hearing::SILENCE,
            onset: Struck::NEVER,
            hits: [Struck::NEVER; 3],
            section: None,
            time_of_day: None,
            watch: BeatWatch::default(),
            sudden: false,
            asked: false,
            controls: [0.0; CONTROLS],
            counts: Counts::default(),
        };
        conductor.adopt(settings);
        conductor
    }

    /// Goes on by other settings. What waits for a phrase lands with it where phrases became longer or shorter.
    pub(super) fn adopt(&mut self, settings: &Settings) {
        self.latency = f64::from(settings.latency_ms) / 1000.0;
        let before = std::mem::replace(&mut self.phrase_bars, settings.phrase_bars.max(1));
        if before != self.phrase_bars {
            self.aim(0.0);
        }
    }

    pub(super) fn clock(&self) -> &Clock {
        &self.clock
    }

    /// Goes on by another clock, from where it is.
    pub(super) fn replace_clock(&mut self, clock: &Clock) {
        self.clock.clone_from(clock);
    }

    pub(super) fn beat(&self) -> f64 {
        self.clock.beat()
    }

    /// By how much light is to be early, in seconds.
    pub(super) fn latency(&self) -> f64 {
        self.latency
    }

    pub(super) fn is_sudden(&self) -> bool {
        self.sudden
    }

    /// Takes note that something was asked for: the light may change at once.
    pub(super) fn note_request(&mut self) {
        self.asked = true;
    }

    /// Goes on to `time`.
    pub(super) fn advance(&mut self, time: Seconds, inputs: &Inputs) -> Advance {
        self.hearing = inputs.hearing;
        self.time_of_day = inputs.time_of_day;
        self.overrule_section();
        self.clock.set_latency(self.latency);
        self.clock.lead(inputs.sync_position);
        let (before, bar) = (self.clock.beat(), self.clock.bar());
        let step = self.clock.advance(time, &inputs.hearing);
        // Where bars went to those that are heard, what counts in beats goes along.
        let shift = self.shift_beats(self.clock.beat() - before - step.beats);
        if bar != self.clock.bar() {
            self.aim(0.0);
        }
        self.speed.advance(step, self.clock.bar());
        Advance { step, shift }
    }

    /// Takes note of what has been struck since the last step, and of whether that, a beat or a request changes the light at once.
    pub(super) fn note_hits(&mut self, time: Seconds, step: Step) {
        let beat = self.beat();
        let onset = self.onset.note(self.hearing.onsets, beat);
        self.sudden = std::mem::take(&mut self.asked) || onset || self.watch.pass(time, beat, step).over(1.0);
        for (hit, count) in self.hits.iter_mut().zip(self.hearing.hits) {
            hit.note(count, beat);
        }
    }

    /// The moment that effects are to show, at the speed that they are to have.
    pub(super) fn moment(&self, time: Seconds, step: Step) -> Moment<'_> {
        let beat = self.beat();
        let (look_time, look_beat, look_step) = self.speed.seen(time, beat, step);
        Moment {
            bar_beats: self.clock.bar(),
            phrase_beats: self.phrase_beats(),
            tempo: self.clock.bpm() as f32,
            onset: self.onset.at(beat),
            hits: self.hits.map(|hit| hit.at(beat)),
            controls: &self.controls,
            counts: self.counts,
            time_of_day: self.time_of_day,
            ..Moment::at(look_time, look_beat, look_step, &self.hearing)
        }
    }

    /// Keeps the part that was chosen by hand until another one is heard.
    fn overrule_section(&mut self) {
        match self.section {
            Some(ChosenSection { chosen, heard }) if heard == self.hearing.section => self.hearing.section = chosen,
            _ => self.section = None,
        }
    }

    /// Says that it is the next part of the music, or one further on or back.
    pub(super) fn next_section(&mut self, by: i32) {
        let heard = self.section.map_or(self.hearing.section, |section| section.heard);
        let now = Section::ALL.iter().position(|section| *section == self.hearing.section).unwrap_or(0);
        let next = (now as i64 + i64::from(by)).rem_euclid(Section::ALL.len() as i64) as usize;
        self.section = Some(ChosenSection { chosen: Section::ALL[next], heard });
        self.hearing.section = Section::ALL[next];
    }

    pub(super) fn control(&mut self, level: ControlLevel) {
        if let Some(control) = self.controls.get_mut(usize::from(level.control).wrapping_sub(1)) {
            *control = (level.percent / 100.0).clamp(0.0, 1.0);
        }
    }

    /// The part of the music that is heard, or was chosen by hand.
    pub(super) fn section(&self) -> Section {
        self.hearing.section
    }

    /// The position that effects see.
    pub(super) fn look_beat(&self) -> f64 {
        self.speed.seen(0.0, self.beat(), Step::default()).1
    }

    /// Has a wish wait for the next boundary of a kind.
    pub(super) fn arm(&mut self, wish: Wish, boundary: Boundary) {
        let lands_at = self.metre().next(boundary, self.beat());
        self.queue.arm(wish, boundary, lands_at);
    }

    /// Takes out what is due. It lands at the boundary itself, not at the frame that noticed it.
    pub(super) fn take_due(&mut self) -> Option<Armed> {
        let beat = self.beat();
        let armed = self.queue.take_due(beat)?;
        Some(if armed.boundary == Boundary::Now { Armed { lands_at: beat, ..armed } } else { armed })
    }

    /// Changes the clock. Returns by how many beats their count was moved; what counts in them has to go along.
    pub(super) fn move_clock(&mut self, change: impl FnOnce(&mut Clock)) -> f64 {
        let before = self.beat();
        change(&mut self.clock);
        self.shift_beats(self.beat() - before)
    }

    /// Has a bar or a phrase begin at the nearest beat. What waits for that lands there, even if the beat is just over: who says
    /// "here" says it of what is heard, and is a little late. Returns by how many beats their count was moved.
    pub(super) fn mark(&mut self, change: impl FnOnce(&mut Clock)) -> f64 {
        let shift = self.move_clock(change);
        self.queue.land_on(self.beat().round(), self.metre());
        shift
    }

    /// Moves everything that counts in beats along with their count. Returns by how much.
    fn shift_beats(&mut self, by: f64) -> f64 {
        if by.abs() < 1e-9 {
            return 0.0;
        }
        self.onset.beat += by;
        self.hits.iter_mut().for_each(|hit| hit.beat += by);
        self.aim(by);
        by
    }

    /// Aims what waits at the next of its boundaries, wherever these are now.
    fn aim(&mut self, shift: f64) {
        self.queue.aim(self.beat(), shift, self.metre());
    }

    /// The lengths of bar and phrase.
    pub(super) fn metre(&self) -> Metre {
        Metre { bar: self.clock.bar(), phrase: self.phrase_beats() }
    }

    fn phrase_beats(&self) -> f64 {
        self.clock.bar() * f64::from(self.phrase_bars)
    }

    /// Writes what a screen may show of it.
    pub(super) fn publish(&self, snapshot: &mut Snapshot) {
        let beat = self.beat();
        snapshot.time = self.clock.time();
        snapshot.clock = ClockState {
            bpm: self.clock.bpm() as f32,
            source: self.clock.source(),
            beat,
            bar_beats: self.clock.bar() as u32,
            phrase_bars: self.phrase_bars,
        };
        snapshot.hearing = self.hearing;
        snapshot.queue.clear();
        // Room for all that may ever wait, so that no later moment has to make more.
        snapshot.queue.reserve(super::queue::MOST);
        snapshot.queue.extend_from_slice(self.queue.waiting());
        snapshot.time_of_day = self.time_of_day;
        snapshot.onset = self.onset.at(beat);
        snapshot.hits = self.hits.map(|hit| hit.at(beat));
        // Room for all that may ever be moved, so that no later moment has to make more.
        snapshot.controls.reserve(CONTROLS);
        snapshot.controls.clear();
        let moved = self.controls.iter().rposition(|level| *level > 0.0).map_or(0, |last| last + 1);
        snapshot.controls.extend_from_slice(&self.controls[..moved]);
        snapshot.speed = self.speed.speed();
        snapshot.counts = self.counts;
    }
}
