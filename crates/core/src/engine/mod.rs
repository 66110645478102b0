//! The engine: what is playing, and one function that turns a time and what came in into light and universes. The conductor
//! knows when something happens, the renderer what it looks like; the engine has the one tell the other.

mod conductor;
mod emitters;
mod light_test;
mod pack;
mod player;
mod power;
mod prepared;
mod queue;
mod renderer;
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

use crate::Seconds;
use crate::colour::Rgba;
use crate::command::{EngineCommand, LayerPlace};
use crate::music::Hearing;
use crate::rate::Step;
use crate::rig::Rig;
use crate::show::Show;
use crate::sync::SyncPosition;
use crate::tempo::Clock;
use conductor::{Advance, Conductor};
use light_test::Overlay;
use renderer::{Renderer, Scene};
use stage::Stage;

/// Everything that comes in from outside for a tick, besides commands.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Inputs {
    /// The hearing at the moment.
    pub hearing: Hearing,
    /// The position of the clock source outside the program, if one leads.
    pub sync_position: Option<SyncPosition>,
    /// Seconds since midnight where the show is, if that is known.
    pub time_of_day: Option<f64>,
}

/// Everything that leaves with a tick.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Frame {
    /// The number of ticks that there were before it.
    pub number: u64,
    /// The light of every LED after master and blackout, linear, before curve and dither; the fourth component is unused.
    pub light: Vec<Rgba>,
    /// 512 slots for each universe of [`Rig::universes`], behind one another.
    pub slots: Vec<u8>,
}

/// The engine. The same show, commands and inputs at the same times give the same frames, bit for bit.
pub struct Engine {
    now: Prepared,
    conductor: Conductor,
    stage: Stage,
    master: f32,
    blackout: bool,
    overlay: Overlay,
    renderer: Renderer,
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
            conductor: Conductor::new(&prepared.show.settings),
            stage: Stage::new(prepared.players.len()),
            master: 1.0,
            blackout: false,
            overlay: Overlay::default(),
            renderer: Renderer::new(),
            now: prepared,
        }
    }

    /// The musical clock, as of the last tick.
    #[must_use]
    pub fn clock(&self) -> &Clock {
        self.conductor.clock()
    }

    /// True if a beat, an onset or something that was asked for falls between the last frame and the one before: what one
    /// notices where it comes late.
    #[must_use]
    pub fn is_sudden(&self) -> bool {
        self.conductor.is_sudden()
    }

    /// The rig that the frames are for.
    #[must_use]
    pub fn rig(&self) -> &Arc<Rig> {
        &self.now.rig
    }

    /// The frame of the last tick.
    #[must_use]
    pub fn frame(&self) -> &Frame {
        &self.now.frame
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
        self.conductor.follow(&place);
        self.overlay = self.overlay.moved_to(&prepared.rig);
        std::mem::swap(&mut self.now, &mut prepared);
        self.conductor.adopt(&self.now.show.settings);
        prepared
    }

    /// Takes over other settings of the same show: how it is played, not what hangs there.
    pub fn adopt_settings(&mut self, show: Arc<Show>, edition: u64) {
        self.now.show = show;
        self.now.edition = edition;
        self.conductor.adopt(&self.now.show.settings);
    }

    /// Puts a look on stage at once and whole.
    pub fn cut_to(&mut self, look: usize) {
        if look < self.now.players.len() {
            self.conductor.disarm();
            self.stage.land(look, self.conductor.beat(), 0.0);
        }
    }

    /// Carries a command out that was asked for at `time`.
    pub fn apply(&mut self, command: &EngineCommand, time: Seconds) {
        self.conductor.note_request();
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
            EngineCommand::Go => self.land_first(),
            EngineCommand::Disarm => self.conductor.disarm(),
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
            EngineCommand::NextSection(by) => self.conductor.next_section(*by),
            EngineCommand::BarHere => self.mark(Clock::bar_here),
            EngineCommand::PhraseHere => self.mark(Clock::phrase_here),
            EngineCommand::ResetPeaks => self.now.power.reset_peaks(),
            EngineCommand::Test(test) => self.test(test),
            EngineCommand::WalkStep(by) => self.overlay.step(*by),
            EngineCommand::Control(level) => self.conductor.control(*level),
            EngineCommand::CountForward => self.conductor.counts.forward += 1,
            EngineCommand::CountBack => self.conductor.counts.back += 1,
            EngineCommand::CountReset => self.conductor.counts.reset += 1,
            EngineCommand::CentrePhase(layer) => self.shift_phase(layer, PhaseShift::Centre),
            EngineCommand::RestartPhase(layer) => {
                let beat = self.conductor.beat().floor() + 1.0;
                self.shift_phase(layer, PhaseShift::RestartAt(beat));
            }
        }
    }

    /// Goes on to `time` and makes the frame of that moment. Allocates nothing once every look has been on stage or
    /// drawn for the first time, and never locks, logs or does I/O.
    pub fn tick(&mut self, time: Seconds, inputs: &Inputs) -> &Frame {
        let Advance { step, shift } = self.conductor.advance(time, inputs);
        self.shift_beats(shift);
        while let Some(armed) = self.conductor.take_due() {
            self.land(armed.look, armed.lands_at);
        }
        self.stage.advance(self.conductor.beat());
        self.conductor.note_hits(time, step);
        self.advance_looks(time, step);
        self.overlay.advance(time, self.conductor.latency());
        let level = if self.blackout { 0.0 } else { self.master };
        let scene = Scene { stage: &self.stage, overlay: &self.overlay, level };
        self.renderer.render(&mut self.now, &scene, time);
        &self.now.frame
    }

    /// All looks on stage go on.
    fn advance_looks(&mut self, time: Seconds, step: Step) {
        let moment = self.conductor.moment(time, step);
        for (look, _) in self.stage.weights() {
            self.now.players[look].advance(&moment);
        }
    }

    fn arm(&mut self, look: usize) {
        if look < self.now.players.len() {
            self.conductor.arm(look);
        }
    }

    fn land_first(&mut self) {
        if let Some(armed) = self.conductor.take_first() {
            self.land(armed.look, self.conductor.beat());
        }
    }

    fn land(&mut self, look: usize, beat: f64) {
        self.conductor.counts.landings += 1;
        if !self.stage.weights().any(|(on_stage, _)| on_stage == look) {
            self.now.players[look].begin_turns();
        }
        self.stage.land(look, beat, f64::from(self.now.show.settings.fade_beats));
    }

    fn move_clock(&mut self, change: impl FnOnce(&mut Clock)) {
        let shift = self.conductor.move_clock(change);
        self.shift_beats(shift);
    }

    fn mark(&mut self, change: impl FnOnce(&mut Clock)) {
        let shift = self.conductor.mark(change);
        self.shift_beats(shift);
    }

    /// Moves everything that counts in beats along with their count.
    fn shift_beats(&mut self, by: f64) {
        if by != 0.0 {
            self.stage.shift(by);
            self.now.players.iter_mut().for_each(|player| player.shift_beats(by));
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

    /// Writes everything that a screen may show, into the memory that is already there.
    pub fn publish(&mut self, published: &mut Published) {
        let Published { snapshot, light, slots, loads } = published;
        snapshot.edition = self.now.edition;
        snapshot.frame = self.now.frame.number;
        self.conductor.publish(snapshot);
        snapshot.master = self.master;
        snapshot.blackout = self.blackout;
        snapshot.walked = self.overlay.walked();
        snapshot.phases.clear();
        // Room for all that may ever be on stage together, so that no later moment has to make more.
        snapshot.phases.reserve(self.now.players.iter().map(Player::layers).sum());
        for (look, _) in self.stage.weights() {
            let phases = self.now.players[look].phases();
            snapshot.phases.extend(phases.map(|(layer, turns)| LayerPhase { look, layer, turns }));
        }
        snapshot.stage.clear();
        snapshot.stage.extend(self.stage.entries(self.conductor.beat()));
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
