//! The engine: what is playing, and one function that turns a time and what came in into light and universes.

mod emitters;
mod light_test;
mod pack;
mod player;
mod power;
mod prepared;
mod slot_trace;
mod snapshot;
mod stage;
mod state;
#[cfg(test)]
mod tests;

pub use light_test::{HeldSlot, LightTest, Walked};
pub use player::{Maps, PhaseShift, Player, SCRATCH};
pub use power::{Load, SupplyLoad};
pub use prepared::Prepared;
pub use slot_trace::{ChannelPart, LedValues, Lit, SlotTrace, led_values, trace_slot};
pub use snapshot::{Armed, ClockState, LayerPhase, OnStage, Published, Snapshot};
pub use state::EngineState;

use std::sync::Arc;

use rayon::prelude::*;

use crate::Seconds;

use crate::blend;
use crate::colour::Rgba;
use crate::command::{ControlLevel, EngineCommand, LayerPlace};
use crate::effect::{BeatWatch, CONTROLS, Counts, Moment};
use crate::music::{Hearing, Section};
use crate::rate::Step;
use crate::rig::{Rig, TILE};
use crate::show::{Boundary, Show};
use crate::sync::SyncPosition;
use crate::tempo::Clock;
use light_test::Overlay;
use stage::Stage;

/// From so many tiles on (262,144 LEDs) a frame is lit by several threads. Below that one is enough, and what it does neither
/// allocates nor locks; handing tiles over to others may.
const MANY_TILES: usize = 256;

/// Tiles that a thread takes at a time at the least.
const TILES_AT_ONCE: usize = 8;

/// Every so many frames what the lights take is measured, where nothing depends on it.
const MEASURE_EVERY: u64 = 8;

/// What comes in from outside for a tick, besides actions.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Inputs {
    /// What is heard.
    pub hearing: Hearing,
    /// Where somebody outside is who is to lead the clock.
    pub sync_position: Option<SyncPosition>,
    /// Seconds since midnight where the show is, if that is known.
    pub time_of_day: Option<f64>,
}

/// What leaves with a tick.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Frame {
    /// How many ticks there were before it.
    pub number: u64,
    /// The light of every LED after master and blackout, linear, before curve and dither; the fourth component is unused.
    pub light: Vec<Rgba>,
    /// 512 slots for each universe of [`Rig::universes`], behind one another.
    pub slots: Vec<u8>,
}

/// A look that waits for its boundary.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Waiting {
    look: usize,
    boundary: Boundary,
    lands_at: f64,
}

/// The engine. The same show, actions and inputs at the same times give the same frames, bit for bit.
pub struct Engine {
    now: Prepared,
    clock: Clock,
    stage: Stage,
    waiting: Option<Waiting>,
    master: f32,
    blackout: bool,
    hearing: Hearing,
    /// When the last onset was heard, in beats, and how many there were.
    onset: (f64, u64),
    time_of_day: Option<f64>,
    /// What part it is by hand, and what was heard then.
    section: Option<(Section, Section)>,
    /// When each kind of hit was heard last, in beats, and how many there were.
    hits: [(f64, u64); 3],
    /// Whether the last frame changes at once, and whether the next one will because of what was asked for.
    sudden: bool,
    watch: BeatWatch,
    asked: bool,
    controls: [f32; CONTROLS],
    counts: Counts,
    overlay: Overlay,
    scratch: Scratch,
}

/// Room for the light of one tile of one look, and for its player.
struct Scratch {
    look: Box<[Rgba; TILE]>,
    effect: Box<[Rgba; SCRATCH]>,
}

/// What all tiles of a frame are lit from.
struct Lighting<'e> {
    players: &'e [Player],
    stage: &'e Stage,
    overlay: &'e Overlay,
    level: f32,
    /// The one look on stage, if there is one, whole.
    alone: Option<usize>,
}

impl Lighting<'_> {
    fn light(&self, tile: usize, sum: &mut [Rgba], look_tile: &mut [Rgba; TILE], effect_tile: &mut [Rgba; SCRATCH]) {
        if let (true, Some(look)) = (self.level > 0.0, self.alone) {
            // Nearly always there is one look, whole: nothing has to be mixed.
            self.players[look].light(tile, sum, &mut effect_tile[..]);
            if self.level < 1.0 {
                blend::scale(sum, self.level);
            }
        } else {
            sum.fill([0.0; 4]);
            for (look, weight) in self.stage.weights().filter(|_| self.level > 0.0) {
                let light = &mut look_tile[..sum.len()];
                self.players[look].light(tile, light, &mut effect_tile[..]);
                blend::add_weighted(sum, light, weight * self.level);
            }
        }
        self.overlay.light(tile, sum);
    }
}

impl Engine {
    /// An engine for a show, with nothing on stage.
    #[must_use]
    pub fn new(show: Arc<Show>) -> Self {
        let rig = Arc::new(Rig::compile(&show));
        Self::start(Prepared::new(show, rig, 0))
    }

    /// An engine for a show that is prepared already, with nothing on stage.
    #[must_use]
    pub fn start(prepared: Prepared) -> Self {
        Self {
            clock: Clock::new(prepared.show.settings.tempo),
            stage: Stage::new(prepared.players.len()),
            waiting: None,
            master: 1.0,
            blackout: false,
            hearing: Hearing::SILENCE,
            onset: (f64::MIN, 0),
            time_of_day: None,
            section: None,
            hits: [(f64::MIN, 0); 3],
            sudden: false,
            watch: BeatWatch::default(),
            asked: false,
            controls: [0.0; CONTROLS],
            counts: Counts::default(),
            overlay: Overlay::default(),
            scratch: Scratch { look: Box::new([[0.0; 4]; TILE]), effect: Box::new([[0.0; 4]; SCRATCH]) },
            now: prepared,
        }
    }

    /// The musical clock, as of the last tick.
    #[must_use]
    pub fn clock(&self) -> &Clock {
        &self.clock
    }

    /// Whether a beat, an onset or something that was asked for falls between the last frame and the one before: what one
    /// notices where it comes late.
    #[must_use]
    pub fn is_sudden(&self) -> bool {
        self.sudden
    }

    /// The rig that the frames are for.
    #[must_use]
    pub fn rig(&self) -> &Arc<Rig> {
        &self.now.rig
    }

    /// Goes over to a changed show between two frames. Looks that are on stage stay there by their names, and their
    /// effects go on where they are. Returns what it had before, to be dropped where that may take its time.
    #[must_use = "dropping it takes time; do that on another thread"]
    pub fn adopt(&mut self, mut prepared: Box<Prepared>) -> Box<Prepared> {
        let place: Vec<Option<usize>> = prepared.places_of(&self.now.show);
        for (before, after) in place.iter().enumerate() {
            if let Some(after) = *after {
                prepared.players[after].take_over(&mut self.now.players[before]);
            }
        }
        prepared.frame.number = self.now.frame.number;
        prepared.power.take_over(&self.now.power, &self.now.show, &prepared.show);
        self.stage = self.stage.moved(&place, prepared.players.len());
        self.waiting = self.waiting.and_then(|w| Some(Waiting { look: place[w.look]?, ..w }));
        self.overlay = self.overlay.moved_to(&prepared.rig);
        std::mem::swap(&mut self.now, &mut prepared);
        if self.now.show.settings.phrase_bars != prepared.show.settings.phrase_bars {
            self.aim();
        }
        prepared
    }

    /// Takes over other settings of the same show: how it is played, not what hangs there.
    pub fn adopt_settings(&mut self, show: Arc<Show>, edition: u64) {
        let phrase = self.phrase_beats();
        self.now.show = show;
        self.now.edition = edition;
        // Phrases may be of another length now.
        if phrase != self.phrase_beats() {
            self.aim();
        }
    }

    /// Puts a look on stage at once and whole.
    pub fn cut_to(&mut self, look: usize) {
        if look < self.now.players.len() {
            self.waiting = None;
            self.stage.land(look, self.clock.beat(), 0.0);
        }
    }

    /// Carries a command out that was asked for at `time`.
    pub fn apply(&mut self, command: &EngineCommand, time: Seconds) {
        self.asked = true;
        match command {
            EngineCommand::FirePad(pad) => self.arm(pad.wrapping_sub(1)),
            EngineCommand::FireLook(name) => {
                if let Some((look, _)) = self.now.show.look(name) {
                    self.arm(look);
                }
            }
            EngineCommand::CutTo(name) => {
                if let Some((look, _)) = self.now.show.look(name) {
                    self.cut_to(look);
                }
            }
            EngineCommand::Go => self.land_now(),
            EngineCommand::Disarm => self.waiting = None,
            EngineCommand::Blackout => self.blackout = !self.blackout,
            EngineCommand::Master(percent) => self.master = (percent / 100.0).clamp(0.0, 1.0),
            EngineCommand::NudgeMaster(percent) => self.master = (self.master + percent / 100.0).clamp(0.0, 1.0),
            EngineCommand::Tap => self.move_clock(|clock| clock.tap(time)),
            EngineCommand::Tempo(bpm) => self.move_clock(|clock| clock.set(*bpm)),
            EngineCommand::FollowMusic => self.move_clock(Clock::follow_music),
            EngineCommand::TempoTimes(by) => self.move_clock(|clock| clock.multiply(f64::from(*by))),
            EngineCommand::NudgeBeat(hundredths) => {
                self.move_clock(|clock| clock.nudge(f64::from(*hundredths) / 100.0))
            }
            EngineCommand::NextSection(by) => self.next_section(*by),
            EngineCommand::BarHere => self.mark(Clock::bar_here),
            EngineCommand::PhraseHere => self.mark(Clock::phrase_here),
            EngineCommand::ResetPeaks => self.now.power.reset_peaks(),
            EngineCommand::Test(test) => self.test(test),
            EngineCommand::WalkStep(by) => self.overlay.step(*by),
            EngineCommand::Control(level) => self.control(*level),
            EngineCommand::CountForward => self.counts.forward += 1,
            EngineCommand::CountBack => self.counts.back += 1,
            EngineCommand::CountReset => self.counts.reset += 1,
            EngineCommand::CentrePhase(layer) => self.shift_phase(layer, PhaseShift::Centre),
            EngineCommand::RestartPhase(layer) => {
                let beat = self.clock.beat().floor() + 1.0;
                self.shift_phase(layer, PhaseShift::RestartAt(beat));
            }
        }
    }

    fn onset_now(&self, beat: f64) -> f32 {
        since(self.onset.0, beat)
    }

    fn hits_now(&self, beat: f64) -> [f32; 3] {
        self.hits.map(|(hit, _)| since(hit, beat))
    }

    /// What part it is by hand holds until another one is heard.
    fn overrule_section(&mut self) {
        match self.section {
            Some((by_hand, heard)) if heard == self.hearing.section => self.hearing.section = by_hand,
            _ => self.section = None,
        }
    }

    fn next_section(&mut self, by: i32) {
        let heard = self.section.map_or(self.hearing.section, |(_, heard)| heard);
        let now = Section::ALL.iter().position(|section| *section == self.hearing.section).unwrap_or(0);
        let next = (now as i64 + i64::from(by)).rem_euclid(Section::ALL.len() as i64) as usize;
        self.section = Some((Section::ALL[next], heard));
        self.hearing.section = Section::ALL[next];
    }

    fn control(&mut self, level: ControlLevel) {
        if let Some(control) = self.controls.get_mut(usize::from(level.control).wrapping_sub(1)) {
            *control = (level.percent / 100.0).clamp(0.0, 1.0);
        }
    }

    fn shift_phase(&mut self, layer: &LayerPlace, shift: PhaseShift) {
        if let Some((look, _)) = self.now.show.look(&layer.look) {
            self.now.players[look].shift(layer.layer, shift);
        }
    }

    fn test(&mut self, test: &LightTest) {
        self.overlay = Overlay::new(test, &self.now.rig);
        // What was held until now has to go back to what the show says, dark or resting.
        self.now.frame.slots.fill(0);
    }

    /// Goes on to `time` and makes the frame of that moment. Allocates nothing once every look has been on stage or
    /// drawn for the first time, and never locks, logs or does I/O.
    pub fn tick(&mut self, time: Seconds, inputs: &Inputs) -> &Frame {
        self.hearing = inputs.hearing;
        self.time_of_day = inputs.time_of_day;
        self.overrule_section();
        let step = self.advance_clock(time, inputs);
        let beat = self.clock.beat();
        self.land_what_is_due(beat);
        self.stage.advance(beat);
        self.note_hits(time, step);
        self.advance_looks(time, step);
        self.overlay.advance(time, self.latency());
        self.light_and_pack(time);
        self.now.frame.number += 1;
        &self.now.frame
    }

    /// By how much light is to be early, in seconds.
    fn latency(&self) -> f64 {
        f64::from(self.now.show.settings.latency_ms) / 1000.0
    }

    fn advance_clock(&mut self, time: Seconds, inputs: &Inputs) -> Step {
        self.clock.set_latency(self.latency());
        self.clock.lead(inputs.sync_position);
        let (before, bar) = (self.clock.beat(), self.clock.bar());
        let step = self.clock.advance(time, &inputs.hearing);
        // Where bars went to those that are heard, what counts in beats goes along.
        self.shift_beats(self.clock.beat() - before - step.beats);
        if bar != self.clock.bar() {
            self.aim();
        }
        step
    }

    /// Takes note of what has been struck since the last tick, and of whether that, a beat or an action changes the light at once.
    fn note_hits(&mut self, time: Seconds, step: Step) {
        let beat = self.clock.beat();
        let onset = self.hearing.onsets != self.onset.1;
        self.sudden = std::mem::take(&mut self.asked) || onset || self.watch.pass(time, beat, step).over(1.0);
        if onset {
            self.onset = (beat, self.hearing.onsets);
        }
        for (last, count) in self.hits.iter_mut().zip(self.hearing.hits) {
            if last.1 != count {
                *last = (beat, count);
            }
        }
    }

    /// All looks on stage go on.
    fn advance_looks(&mut self, time: Seconds, step: Step) {
        let beat = self.clock.beat();
        let moment = Moment {
            bar_beats: self.clock.bar(),
            phrase_beats: self.phrase_beats(),
            tempo: self.clock.bpm() as f32,
            onset: self.onset_now(beat),
            hits: self.hits_now(beat),
            controls: &self.controls,
            counts: self.counts,
            time_of_day: self.time_of_day,
            ..Moment::at(time, beat, step, &self.hearing)
        };
        for (look, _) in self.stage.weights() {
            self.now.players[look].advance(&moment);
        }
    }

    /// Lights all tiles and turns them into slots. A supply's limit depends on all of its light, so that packing has to wait for
    /// it; else each tile is packed while it is in the cache.
    fn light_and_pack(&mut self, time: Seconds) {
        let dither = self.now.show.settings.dither.then_some(self.now.frame.number as u32);
        let alone = self.stage.alone();
        let limits = self.now.power.limits();
        let measures = limits || self.now.frame.number.is_multiple_of(MEASURE_EVERY);
        if measures {
            self.now.power.begin();
        }
        let many = self.now.rig.tiles() >= MANY_TILES;
        if many {
            self.light_all(alone);
        }
        for tile in 0..self.now.rig.tiles() {
            if !many {
                self.light_tile(tile, alone);
            }
            if measures {
                let Prepared { power, rig, packer, frame, .. } = &mut self.now;
                power.add(rig, tile, packer, &frame.light);
            }
            if !limits {
                self.pack(tile, dither);
            }
        }
        if measures {
            self.now.power.settle(time);
        }
        if limits {
            self.now.power.dim(&self.now.rig, &mut self.now.frame.light);
            (0..self.now.rig.tiles()).for_each(|tile| self.pack(tile, dither));
        }
        for held in &self.now.rig.held {
            self.now.frame.slots[held.slot as usize] = held.value;
        }
        if self.overlay.holds() {
            self.overlay.hold(&self.now.rig, &mut self.now.frame.slots);
        }
    }

    /// The frame of the last tick.
    #[must_use]
    pub fn frame(&self) -> &Frame {
        &self.now.frame
    }

    fn pack(&mut self, tile: usize, dither: Option<u32>) {
        let Prepared { packer, rig, frame, .. } = &mut self.now;
        packer.pack(rig, tile, &frame.light, dither, &mut frame.slots);
    }

    fn light_tile(&mut self, tile: usize, alone: Option<usize>) {
        let range = self.now.rig.tile(tile);
        let stage = Lighting {
            players: &self.now.players,
            stage: &self.stage,
            overlay: &self.overlay,
            level: if self.blackout { 0.0 } else { self.master },
            alone,
        };
        let Scratch { look, effect } = &mut self.scratch;
        stage.light(tile, &mut self.now.frame.light[range], look, effect);
    }

    /// Lights all tiles, on as many threads as the machine has cores. Each tile is the same whoever lights it.
    fn light_all(&mut self, alone: Option<usize>) {
        let stage = Lighting {
            players: &self.now.players,
            stage: &self.stage,
            overlay: &self.overlay,
            level: if self.blackout { 0.0 } else { self.master },
            alone,
        };
        let tiles = self.now.frame.light.par_chunks_mut(TILE).enumerate().with_min_len(TILES_AT_ONCE);
        tiles.for_each(|(tile, sum)| {
            let (mut look, mut effect) = ([[0.0; 4]; TILE], [[0.0; 4]; SCRATCH]);
            stage.light(tile, sum, &mut look, &mut effect);
        });
    }

    fn arm(&mut self, look: usize) {
        if look >= self.now.players.len() {
            return;
        }
        let boundary = self.now.show.settings.lands;
        self.waiting = Some(Waiting { look, boundary, lands_at: self.next(boundary) });
    }

    fn land_now(&mut self) {
        if let Some(waiting) = self.waiting.take() {
            self.land(waiting.look, self.clock.beat());
        }
    }

    fn land_what_is_due(&mut self, beat: f64) {
        if let Some(waiting) = self.waiting
            && beat >= waiting.lands_at
        {
            self.waiting = None;
            // Counted from the boundary itself, not from the frame that noticed it.
            let landed = if waiting.boundary == Boundary::Now { beat } else { waiting.lands_at };
            self.land(waiting.look, landed);
        }
    }

    fn land(&mut self, look: usize, beat: f64) {
        self.counts.landings += 1;
        if !self.stage.weights().any(|(on_stage, _)| on_stage == look) {
            self.now.players[look].begin_turns();
        }
        self.stage.land(look, beat, f64::from(self.now.show.settings.fade_beats));
    }

    fn next(&self, boundary: Boundary) -> f64 {
        let beat = self.clock.beat();
        self.length(boundary).map_or(beat, |every| ((beat / every).floor() + 1.0) * every)
    }

    fn phrase_beats(&self) -> f64 {
        self.clock.bar() * f64::from(self.now.show.settings.phrase_bars.max(1))
    }

    /// Changes the clock; what counts in its beats moves along with them.
    fn move_clock(&mut self, change: impl FnOnce(&mut Clock)) {
        let before = self.clock.beat();
        change(&mut self.clock);
        self.shift_beats(self.clock.beat() - before);
    }

    /// What counts in beats goes along where their count is moved.
    fn shift_beats(&mut self, by: f64) {
        if by.abs() < 1e-9 {
            return;
        }
        self.stage.shift(by);
        self.now.players.iter_mut().for_each(|player| player.shift_beats(by));
        self.onset.0 += by;
        self.hits.iter_mut().for_each(|(hit, _)| *hit += by);
        self.aim();
    }

    /// What waits lands at the next of its boundaries, wherever these are now.
    fn aim(&mut self) {
        if let Some(waiting) = self.waiting {
            let lands_at = self.next(waiting.boundary);
            self.waiting = Some(Waiting { lands_at, ..waiting });
        }
    }

    /// Has a bar or a phrase begin at the nearest beat. What waits for that lands there, even if the beat is just over: who says
    /// "here" says it of what is heard, and is a little late.
    fn mark(&mut self, change: impl FnOnce(&mut Clock)) {
        self.move_clock(change);
        let beat = self.clock.beat().round();
        if let Some(waiting) = self.waiting
            && self.length(waiting.boundary).is_some_and(|every| beat.rem_euclid(every) == 0.0)
        {
            self.waiting = Some(Waiting { lands_at: beat, ..waiting });
        }
    }

    /// How many beats lie between two of these boundaries; none for those that are everywhere.
    fn length(&self, boundary: Boundary) -> Option<f64> {
        match boundary {
            Boundary::Now => None,
            Boundary::Beat => Some(1.0),
            Boundary::Bar => Some(self.clock.bar()),
            Boundary::Phrase => Some(self.phrase_beats()),
        }
    }

    /// Writes everything that a screen may show, into the memory that is already there.
    pub fn publish(&mut self, published: &mut Published) {
        let Published { snapshot, light, slots, loads } = published;
        let beat = self.clock.beat();
        snapshot.edition = self.now.edition;
        snapshot.frame = self.now.frame.number;
        snapshot.time = self.clock.time();
        snapshot.clock = ClockState {
            bpm: self.clock.bpm() as f32,
            source: self.clock.source(),
            beat,
            bar_beats: self.clock.bar() as u32,
            phrase_bars: self.now.show.settings.phrase_bars.max(1),
        };
        snapshot.master = self.master;
        snapshot.blackout = self.blackout;
        snapshot.hearing = self.hearing;
        snapshot.armed = self.waiting.map(|w| Armed { look: w.look, boundary: w.boundary, lands_at: w.lands_at });
        snapshot.walked = self.overlay.walked();
        snapshot.time_of_day = self.time_of_day;
        snapshot.onset = self.onset_now(beat);
        snapshot.hits = self.hits_now(beat);
        snapshot.controls = self.controls;
        snapshot.counts = self.counts;
        snapshot.phases.clear();
        // Room for all that may ever be on stage together, so that no later moment has to make more.
        snapshot.phases.reserve(self.now.players.iter().map(Player::layers).sum());
        for (look, _) in self.stage.weights() {
            let phases = self.now.players[look].phases();
            snapshot.phases.extend(phases.map(|(layer, turns)| LayerPhase { look, layer, turns }));
        }
        snapshot.stage.clear();
        snapshot.stage.extend(self.stage.entries(beat));
        light.clear();
        light.extend(self.now.frame.light.iter().map(|&[r, g, b, _]| [r, g, b]));
        slots.clear();
        slots.extend_from_slice(&self.now.frame.slots);
        loads.clear();
        loads.extend_from_slice(self.now.power.loads());
        snapshot.universes = self.now.frame.slots.len() / usize::from(crate::show::SLOTS);
        snapshot.supplies.clear();
        snapshot.supplies.extend(self.now.power.supplies());
    }
}

/// 1 at something that happened at a beat, falling to 0 within one.
fn since(happened: f64, beat: f64) -> f32 {
    (1.0 - (beat - happened)).clamp(0.0, 1.0) as f32
}
