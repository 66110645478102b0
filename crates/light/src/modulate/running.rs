//! One modulator as it runs.

use crate::effect::{BeatWatch, Moment, OnsetWatch, Passage};
use splimo_base::formula::{Formula, Heard, Present};
use splimo_base::maths::{exp2, hash, powf, sin_turns, smooth, unit};
use splimo_show::{CountEvent, Counter, Modulator, ModulatorSource};
use splimo_time::music::Hearing;
use splimo_time::rate::{Phase, Rate};

/// The events that were, remembered so that new ones are noticed.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Occurrences {
    landings: u64,
    forward: u64,
    back: u64,
    reset: u64,
}

impl Occurrences {
    fn now(moment: &Moment<'_>) -> Self {
        let counts = moment.counts;
        Self { landings: counts.landings, forward: counts.forward, back: counts.back, reset: counts.reset }
    }

    /// True if an event came since `before`, in which those beats were passed and anything set in or not.
    fn has(self, event: CountEvent, before: Self, moment: &Moment<'_>, (passage, onset): (Passage, bool)) -> bool {
        match event {
            CountEvent::Never => false,
            CountEvent::Beat => passage.over(1.0),
            CountEvent::Bar => passage.over(moment.bar_beats),
            CountEvent::Phrase => passage.over(moment.phrase_beats),
            CountEvent::Onset => onset,
            CountEvent::Landing => self.landings != before.landings,
            CountEvent::Forward => self.forward != before.forward,
            CountEvent::Back => self.back != before.back,
            CountEvent::Reset => self.reset != before.reset,
        }
    }
}

/// One modulator as it runs.
#[derive(Debug)]
pub(super) struct Running {
    what: Modulator,
    rate: Rate,
    formula: Option<Formula>,
    seed: u32,
    phase: Phase,
    seen: Option<Occurrences>,
    count: i64,
    watch: BeatWatch,
    onsets: OnsetWatch,
    /// The level of what began at the last onset or beat and dies away, 1..0.
    envelope: f32,
    /// Its value, -1..1.
    value: f32,
    fresh: bool,
}

impl Running {
    pub(super) fn new(what: &Modulator, rate: Rate, formula: Option<Formula>, seed: u32) -> Self {
        let phase = Phase::of(start(what));
        let what = what.clone();
        Self {
            what,
            rate,
            formula,
            seed,
            phase,
            seen: None,
            count: 0,
            watch: BeatWatch::default(),
            onsets: OnsetWatch::default(),
            envelope: 0.0,
            value: 0.0,
            fresh: true,
        }
    }

    /// Its value at the moment, without depth and offset.
    pub(super) fn value(&self) -> f32 {
        self.value
    }

    /// True if it moves the same by the same.
    pub(super) fn is_like(&self, other: &Self) -> bool {
        self.what.param == other.what.param && self.what.source.kind() == other.what.source.kind()
    }

    pub(super) fn take_over(&mut self, older: &Self) {
        let moved = start(&self.what) - start(&older.what);
        self.phase = Phase::of(older.phase.total() + moved);
        (self.seen, self.count, self.envelope) = (older.seen, older.count, older.envelope);
        (self.watch, self.onsets) = (older.watch, older.onsets);
        if self.what.source.kind() == older.what.source.kind() {
            (self.value, self.fresh) = (older.value, older.fresh);
        }
    }

    /// Goes on to a moment; returns by how much the parameter moves.
    pub(super) fn advance(&mut self, moment: &Moment<'_>) -> f32 {
        self.phase.advance(self.rate, moment.step);
        self.notice(moment);
        let raw = self.raw(moment);
        let shaped = if self.what.curve == 1.0 { raw } else { powf(raw.abs(), self.what.curve).copysign(raw) };
        if self.what.smooth > 0.0 && !self.fresh {
            // One pole: the share of the way that is left halves in equal times, whatever the frame rate.
            let left = exp2(-(moment.step.seconds as f32) / (self.what.smooth * 0.5));
            self.value = shaped + (self.value - shaped) * left;
        } else {
            self.value = shaped;
        }
        self.fresh = false;
        self.what.offset + self.what.depth * self.value
    }

    fn notice(&mut self, moment: &Moment<'_>) {
        let now = Occurrences::now(moment);
        let music = (self.watch.advance(moment), self.onsets.advance(moment));
        let before = self.seen.replace(now).unwrap_or(now);
        let came = |event| now.has(event, before, moment, music);
        if let ModulatorSource::Counter(counter) = self.what.source {
            self.count += i64::from(came(counter.forward)) - i64::from(came(counter.backward));
            if came(counter.reset) {
                self.count = 0;
            }
        }
        let fall = self.rate.cycles(moment.step).abs() as f32;
        self.envelope = (self.envelope - fall).max(0.0);
        if came(CountEvent::Onset) {
            self.envelope = 1.0;
        }
    }

    /// A number that is drawn for a whole one, -1..1.
    fn drawn(&self, whole: i64) -> f32 {
        unit(hash((whole as u32).wrapping_mul(0x9e37_79b9) ^ hash(self.seed))) * 2.0 - 1.0
    }

    fn raw(&self, moment: &Moment<'_>) -> f32 {
        let t = self.phase.turns();
        let heard = moment.hearing;
        match &self.what.source {
            ModulatorSource::Sine(_) => sin_turns(t),
            ModulatorSource::Triangle(_) => 1.0 - 4.0 * ((t + 0.25).fract() - 0.5).abs(),
            ModulatorSource::SawUp(_) => 2.0 * t - 1.0,
            ModulatorSource::SawDown(_) => 1.0 - 2.0 * t,
            ModulatorSource::Square(_) => {
                if t < 0.5 {
                    1.0
                } else {
                    -1.0
                }
            }
            ModulatorSource::Random(_) => self.drawn(self.phase.whole()),
            ModulatorSource::Drift(_) => {
                let (from, to) = (self.drawn(self.phase.whole()), self.drawn(self.phase.whole() + 1));
                from + (to - from) * smooth(t)
            }
            ModulatorSource::Draw => self.drawn(self.watch.count()),
            ModulatorSource::Steps(_, steps) => {
                let place = (t * steps.len() as f32) as usize;
                steps.get(place.min(steps.len().saturating_sub(1))).map_or(0.0, |step| step / 100.0)
            }
            ModulatorSource::Level => heard.level,
            ModulatorSource::Bass => heard.bass(),
            ModulatorSource::Mids => heard.mids(),
            ModulatorSource::Highs => heard.highs(),
            ModulatorSource::Band(number) => heard.bands.get(*number as usize - 1).copied().unwrap_or(0.0),
            ModulatorSource::Onset(_) => self.envelope,
            ModulatorSource::Beat(_) => self.since_beat(moment),
            ModulatorSource::Control(number) => moment.controls.get(*number as usize - 1).copied().unwrap_or(0.0),
            ModulatorSource::Counter(Counter { count, .. }) => {
                self.count.rem_euclid(i64::from(*count)) as f32 / *count as f32
            }
            ModulatorSource::Formula(_) => self.formula.as_ref().map_or(0.0, |formula| {
                let present = Present {
                    bar_beats: moment.bar_beats,
                    time: moment.time,
                    beat: moment.beat,
                    tempo: moment.tempo,
                    heard: in_formulas(heard),
                    controls: moment.controls,
                    onset: moment.onset,
                    hits: moment.hits,
                };
                formula.value(&present).clamp(-1e6, 1e6) as f32
            }),
        }
    }

    /// 1 on the beat, falling to 0 in one cycle of the rate.
    fn since_beat(&self, moment: &Moment<'_>) -> f32 {
        let since = moment.beat - moment.beat.floor();
        let over = match self.rate {
            Rate::Beats(beats) => since / f64::from(beats.abs()),
            Rate::Seconds(s) => since * 60.0 / f64::from(moment.tempo.max(1.0)) / f64::from(s.abs()),
            Rate::Hertz(hz) => since * 60.0 / f64::from(moment.tempo.max(1.0)) * f64::from(hz.abs()),
            Rate::Stopped => 0.0,
        };
        (1.0 - over).clamp(0.0, 1.0) as f32
    }
}

/// The place in its cycles at which a modulator begins, in turns.
fn start(modulator: &Modulator) -> f64 {
    modulator.source.cycle().map_or(0.0, |cycle| f64::from(cycle.phase))
}

/// What is heard as formulas know it.
fn in_formulas(heard: &Hearing) -> Heard<'_> {
    Heard {
        level: heard.level,
        bass: heard.bass(),
        mids: heard.mids(),
        highs: heard.highs(),
        bands: &heard.bands,
        peak: heard.peak,
        loudness: heard.loudness,
        centroid: heard.centroid,
        pitch: heard.pitch,
        chords: heard.chords as f64,
        section: f64::from(heard.section as u8),
    }
}
