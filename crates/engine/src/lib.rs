//! The engine: what is playing, and one function that turns a time and what came in into light and universes. The conductor
//! knows when something happens, the renderer what it looks like; the engine has the one tell the other.
//!
//! It may use `splimo-base`, `-time`, `-show` and `-light`. Its main types: [`Engine`], with [`Engine::tick`]; [`Prepared`], a show compiled
//! for it; [`Snapshot`], what it tells.

mod aiming;
mod conductor;
mod course;
mod cues;
mod emitters;
mod fade;
mod flash_guard;
mod hands;
#[cfg(test)]
mod head_tests;
mod heads;
mod identify;
pub mod miniature;
mod night;
mod pack;
#[cfg(test)]
mod pattern_tests;
mod player;
mod playing;
mod power;
mod prepared;
mod queue;
mod reach;
mod recolour;
mod renderer;
mod rotation;
mod slot_trace;
mod snapshot;
mod speed;
mod stage;
mod state;
mod strobe;
#[cfg(test)]
mod tests;
mod tiers;
mod unattended;
mod values_out;
mod wish;

pub use cues::{Claimant, Lead, ListSetting, ListState, TimelineSetting, TimelineState};
pub use flash_guard::FlashLimit;
pub use heads::MOST_KEPT;
pub use identify::Walked;
pub use night::{Happening, StageEvent};
pub use player::{Maps, PhaseShift, Player, SCRATCH};
pub use power::{Load, SupplyLoad};
pub use prepared::Prepared;
pub use recolour::Recolour;
pub use rotation::{RotationNow, RotationState};
pub use slot_trace::{ChannelPart, LedValues, Lit, SlotTrace, led_values, trace_slot};
pub use snapshot::{ClockState, HeadState, LayerPhase, OnStage, Once, Published, Snapshot, TierState};
pub use state::EngineState;
pub use tiers::TierSetting;
pub use values_out::{colour_of, led_of};
pub use wish::{Armed, Stay, Wish};

use std::sync::Arc;

use conductor::{Advance, Conductor};
use cues::Cues;
use heads::{LiveTurn, Turning};
use identify::Overlay;
use playing::Playing;
use renderer::{Renderer, Scene};
use splimo_base::Seconds;
use splimo_base::colour::Rgba;
use splimo_light::rig::Rig;
use splimo_show::command::{EngineCommand, LayerPlace, Origin};
use splimo_show::reference::ReferenceKind;
use splimo_show::{LightTest, Show};
use splimo_time::music::Hearing;
use splimo_time::rate::Step;
use splimo_time::sync::SyncPosition;
use splimo_time::tempo::Clock;
use values_out::Levels;

/// Everything that comes in from outside for a tick, besides commands.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Inputs {
    /// The hearing at the moment.
    pub hearing: Hearing,
    /// The position of the clock source outside the program, if one leads.
    pub sync_position: Option<SyncPosition>,
    /// Seconds since midnight where the show is, if that is known.
    pub time_of_day: Option<f64>,
    /// The recording that plays from the session, if one does.
    pub recording: Option<Lead>,
    /// Time code, if any comes.
    pub time_code: Option<Lead>,
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
    playing: Playing,
    cues: Cues,
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
            playing: Playing::new(&prepared),
            cues: Cues::new(&prepared.cues),
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
        let tiers = prepared.followed_from(&self.now.show, ReferenceKind::Tier);
        let groups = prepared.followed_from(&self.now.show, ReferenceKind::Group);
        for (before, after) in place.iter().enumerate() {
            if let Some(after) = *after {
                prepared.players[after].take_over(&mut self.now.players[before]);
            }
        }
        prepared.frame.number = self.now.frame.number;
        let [before, now] = [&self.now, &*prepared].map(|one| (one.show.clone(), one.rig.clone()));
        prepared.heads.take_over(&self.now.heads, [(&before.0, &before.1), (&now.0, &now.1)]);
        prepared.power.take_over(&self.now.power, &self.now.show, &prepared.show);
        prepared.guard.take_over(&mut self.now.guard);
        self.playing.follow(&place, &tiers, &groups, &prepared);
        self.conductor.queue.follow(&place, &tiers);
        self.cues.follow(&self.now.show, &prepared.show, &place, &tiers, &prepared.cues);
        self.overlay = self.overlay.moved_to(&prepared.rig);
        std::mem::swap(&mut self.now, &mut prepared);
        self.conductor.adopt(&self.now.show.settings);
        // The first look of a show that had none is seen at once, as the first of one that is opened.
        if prepared.show.looks.is_empty() {
            self.cut_to(0);
        }
        prepared
    }

    /// Takes over other settings of the same show: how it is played, not what hangs there.
    pub fn adopt_settings(&mut self, show: Arc<Show>, edition: u64) {
        self.now.show = show;
        self.now.edition = edition;
        self.conductor.adopt(&self.now.show.settings);
    }

    /// Puts a look on the lowest tier at once and whole.
    pub fn cut_to(&mut self, look: usize) {
        if look < self.now.players.len() {
            self.conductor.queue.clear();
            self.cut_tier(0, look, Origin::Session);
        }
    }

    /// Carries a command out that the session itself asked for at `time`.
    pub fn apply(&mut self, command: &EngineCommand, time: Seconds) {
        self.apply_from(command, Origin::Session, time);
    }

    /// Carries a command out that was asked for at `time`.
    pub fn apply_from(&mut self, command: &EngineCommand, by: Origin, time: Seconds) {
        self.conductor.note_request();
        match command {
            EngineCommand::FirePad(pad) => self.fire_pad(*pad, by, false),
            EngineCommand::HoldPad(pad) => self.fire_pad(*pad, by, true),
            EngineCommand::LetPadGo(pad) => self.let_pad_go(*pad, by),
            EngineCommand::FireLook(name) => self.fire_look(name, by),
            EngineCommand::CutTo(name) => {
                if let Some((tier, look)) = self.now.show.look_on_tier(name) {
                    self.cut_tier(tier.unwrap_or(0), look, by);
                }
            }
            EngineCommand::Go => self.land_all(),
            EngineCommand::Disarm => self.conductor.queue.clear(),
            EngineCommand::Land(number) => self.land_number(*number),
            EngineCommand::Push(number) => {
                let metre = self.conductor.metre();
                self.conductor.queue.push(*number, metre);
            }
            EngineCommand::TakeBack(number) => {
                self.conductor.queue.take(*number);
            }
            EngineCommand::NextLands(boundary) => self.playing.choose_once(by, Some(*boundary), None),
            EngineCommand::NextFade(beats) => self.playing.choose_once(by, None, Some(*beats)),
            EngineCommand::ReleaseTier(tier) => self.release_tier(tier, by),
            EngineCommand::ClearTiers => self.clear_tiers(by),
            EngineCommand::TierLevel(level) => self.on_tier(&level.name, |tier| tier.set_level(level.percent / 100.0)),
            EngineCommand::NudgeTier(level) => {
                self.on_tier(&level.name, |tier| tier.set_level(tier.level + level.percent / 100.0));
            }
            EngineCommand::MuteTier(tier) => self.on_tier(tier, |tier| tier.mute = !tier.mute),
            EngineCommand::SoloTier(tier) => self.on_tier(tier, |tier| tier.solo = !tier.solo),
            EngineCommand::HeadPan(to) => self.turn_heads(&to.name, LiveTurn::To(0, to.percent.into())),
            EngineCommand::HeadTilt(to) => self.turn_heads(&to.name, LiveTurn::To(1, to.percent.into())),
            EngineCommand::NudgePan(by) => self.turn_heads(&by.name, LiveTurn::By(0, by.percent.into())),
            EngineCommand::NudgeTilt(by) => self.turn_heads(&by.name, LiveTurn::By(1, by.percent.into())),
            EngineCommand::CallAim(aim) => self.call_aim(aim),
            EngineCommand::LetHeads(lights) => self.let_heads(lights),
            EngineCommand::LetAllHeads => self.now.heads.let_all_go(),
            EngineCommand::GroupLevel(level) => self.set_group(level),
            EngineCommand::GoCue(list) => self.go_cue(list),
            EngineCommand::BackCue(list) => self.back_cue(list),
            EngineCommand::GoToCue(target) => self.go_to_cue(target),
            EngineCommand::SkipCue(list) => self.skip_cue(list),
            EngineCommand::PauseCues(list) => self.pause_cues(list),
            EngineCommand::ResetCues(list) => self.reset_cues(list),
            EngineCommand::ReleaseCues(list) => self.release_cues(list),
            EngineCommand::PlayTimeline(name) => self.play_timeline(name),
            EngineCommand::HoldTimeline(name) => self.hold_timeline(name),
            EngineCommand::StopTimeline(name) => self.stop_timeline(name),
            EngineCommand::SeekTimeline(place) => self.seek_timeline(&place.name, place.at),
            EngineCommand::CueGoesOn(cues) => self.cue_goes_on(cues),
            EngineCommand::Speed(times) => self.conductor.speed.set(*times),
            EngineCommand::Rotate(on) => self.rotate(*on, by),
            EngineCommand::Panic => self.panic(by),
            EngineCommand::Blackout => self.playing.blackout = !self.playing.blackout,
            EngineCommand::SetBlackout(on) => self.playing.blackout = *on,
            EngineCommand::Strobe(rate) => self.playing.strobe.set(*rate),
            EngineCommand::ColourPart(part) => self.playing.recolour.set(*part),
            EngineCommand::Recolour(percent) => self.playing.recolour.by = (percent / 100.0).clamp(0.0, 1.0),
            EngineCommand::Master(percent) => self.playing.master = (percent / 100.0).clamp(0.0, 1.0),
            EngineCommand::NudgeMaster(percent) => {
                self.playing.master = (self.playing.master + percent / 100.0).clamp(0.0, 1.0);
            }
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
                let beat = self.conductor.look_beat().floor() + 1.0;
                self.shift_phase(layer, PhaseShift::RestartAt(beat));
            }
            EngineCommand::StepForward(layer) => self.shift_phase(layer, PhaseShift::Step(1)),
            EngineCommand::StepBack(layer) => self.shift_phase(layer, PhaseShift::Step(-1)),
        }
    }

    /// Goes on to `time` and makes the frame of that moment. Allocates nothing once every look has been on stage or
    /// drawn for the first time, and never locks, logs or does I/O.
    pub fn tick(&mut self, time: Seconds, inputs: &Inputs) -> &Frame {
        let Advance { step, shift } = self.conductor.advance(time, inputs);
        self.shift_beats(shift);
        self.play_on(step, [inputs.recording, inputs.time_code]);
        self.conductor.note_hits(time, step);
        self.advance_looks(time, step);
        self.turn_to_aims(step);
        self.overlay.advance(time, self.conductor.latency());
        self.playing.strobe.advance(step.seconds);
        let Playing { tiers, groups, recolour, .. } = &self.playing;
        let level = self.playing.level();
        let scene = Scene { tiers, overlay: &self.overlay, groups, recolour, level };
        self.renderer.render(&mut self.now, &scene, time);
        let Prepared { values_out, frame, .. } = &mut self.now;
        let levels = Levels {
            master: self.playing.master,
            tiers: &self.playing.tiers,
            groups: &self.playing.groups,
            controls: &self.conductor.controls,
        };
        values_out.write(&levels, &frame.light, &mut frame.slots);
        self.note_limit();
        &self.now.frame
    }

    /// All looks on stage go on.
    fn advance_looks(&mut self, time: Seconds, step: Step) {
        let moment = self.conductor.moment(time, step);
        self.playing.find_on_stage();
        for look in &self.playing.on_stage {
            self.now.players[*look].advance(&moment);
        }
    }

    /// All heads turn on, as far as they come in a step.
    fn turn_to_aims(&mut self, step: Step) {
        let ahead = self.looks_ahead();
        let Prepared { heads, players, rig, frame, .. } = &mut self.now;
        let turning = Turning { players, tiers: &self.playing.tiers, rig, light: &frame.light, ahead: &ahead };
        heads.advance(&turning, step);
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
            self.playing.shift(by);
            self.cues.shift(by);
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
        let pace = self.conductor.clock().bpm() / 60.0;
        self.playing.publish(self.conductor.beat(), pace, snapshot);
        for on in &mut snapshot.stage {
            on.place = self.now.players[on.look].pattern_place();
        }
        self.now.heads.publish(&self.now.rig, &mut snapshot.heads);
        self.publish_lists(&mut snapshot.lists);
        self.publish_timelines(&mut snapshot.timelines);
        snapshot.flash_limit = self.now.guard.state(self.conductor.clock().time());
        snapshot.walked = self.overlay.walked();
        snapshot.phases.clear();
        // Room for all that may ever be on stage together, so that no later moment has to make more.
        snapshot.phases.reserve(self.now.players.iter().map(Player::layers).sum());
        self.playing.find_on_stage();
        for &look in &self.playing.on_stage {
            let phases = self.now.players[look].phases();
            snapshot.phases.extend(phases.map(|(layer, turns)| LayerPhase { look, layer, turns }));
        }
        light.clear();
        light.extend(self.now.frame.light.iter().map(|&[r, g, b, _]| [r, g, b]));
        slots.clear();
        slots.extend_from_slice(&self.now.frame.slots);
        loads.clear();
        loads.extend_from_slice(self.now.power.loads());
        snapshot.universes = self.now.frame.slots.len() / usize::from(splimo_show::SLOTS);
        snapshot.supplies.clear();
        snapshot.supplies.extend(self.now.power.supplies());
    }
}
