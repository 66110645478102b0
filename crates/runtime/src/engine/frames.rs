//! The engine's thread: it makes each frame a little before its deadline, hands it to the sender, and tells the screen.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use crossbeam_channel::{Receiver, Sender};
use splimo_base::Seconds;
use splimo_base::histogram::Histogram;
use splimo_engine::{Engine, EngineState, Happening, Inputs, Prepared, Published};
use splimo_light::rig::Rig;
use splimo_show::Show;
use splimo_show::command::{EngineCommand, Origin};
use splimo_time::music::Hearing;
use splimo_time::sync::{MusicPlace, SyncPosition, SyncSource};

use super::in_step::InStep;
use crate::clock::{Deadlines, Instant};
use crate::fault;
use crate::output::NewOutput;
use crate::sound::Dials;
use crate::trouble::{Troubles, keep_alive};

/// After so many frames a snapshot is written anew even though the last was not read.
const UNREAD: u32 = 8;

/// After so many seconds without a frame of time code nobody sends any more.
const LATE_CODE: Seconds = 0.25;

/// After so many frames without a failure the clock is taken over should there be one: before, it may be what fails.
const PROVEN: u32 = 44;

/// An input of the engine.
pub enum EngineInput {
    /// To carry a command out that somebody asked for at a time.
    Apply(Box<EngineCommand>, Origin, Seconds),
    /// To take over changed settings, as an edition of the show.
    Settings(Arc<Show>, u64),
    /// To go over to a changed show.
    Adopt(Box<AdoptedShow>),
    /// To hand other streams of the same show to the sender.
    Output(Box<NewOutput>),
    /// To put a look on stage at once.
    Cut(usize),
    /// To begin anew, with a look.
    Anew(Option<usize>),
    /// The position of a sync source.
    SyncPosition(SyncPosition),
}

impl EngineInput {
    /// True for what goes before all others where there are too many.
    #[must_use]
    pub fn is_urgent(&self) -> bool {
        matches!(self, Self::Apply(command, ..) if matches!(**command, EngineCommand::Blackout | EngineCommand::Panic))
    }
}

/// A changed show, compiled.
pub struct AdoptedShow {
    /// The show.
    pub show: Arc<Show>,
    /// Its rig.
    pub rig: Arc<Rig>,
    /// Its edition.
    pub edition: u64,
    /// Both as the engine plays them.
    pub prepared: Box<Prepared>,
    /// Its streams, where they are others than before.
    pub output: Option<Box<NewOutput>>,
}

/// A frame on its way to the sender.
#[derive(Default)]
pub struct OutFrame {
    /// The streams from this frame on, where they change.
    pub output: Option<Box<NewOutput>>,
    /// The time when it is to leave.
    pub deadline: Option<Instant>,
    /// True if it shows something sudden, which slower streams should not keep waiting.
    pub sudden: bool,
    /// 512 slots a universe.
    pub slots: Vec<u8>,
}

/// Everything that the engine's thread has in its hands.
pub struct FrameLoop {
    /// The show.
    pub show: Arc<Show>,
    /// Its rig.
    pub rig: Arc<Rig>,
    /// Its edition.
    pub edition: u64,
    /// The way out of what is not needed any more, to be dropped elsewhere.
    pub retired: Sender<Box<Prepared>>,
    /// Streams that the next frame brings to the sender.
    pub output: Option<Box<NewOutput>>,
    /// Time zero of the show.
    pub epoch: Instant,
    /// Its inputs.
    pub inputs: Receiver<EngineInput>,
    /// Its inputs that found no room there: blackout and panic.
    pub urgent: Receiver<EngineInput>,
    /// The last position of each of [`SyncSource::ALL`].
    pub positions: [Option<SyncPosition>; SyncSource::ALL.len()],
    /// The hearing at the moment.
    pub hearing: triple_buffer::Output<Hearing>,
    /// Frames to the sender.
    pub full: Sender<OutFrame>,
    /// Frames back from the sender.
    pub empty: Receiver<OutFrame>,
    /// The way of snapshots to screens.
    pub snapshots: triple_buffer::Input<Published>,
    /// The dials, which tell where a recording is.
    pub dials: Arc<Dials>,
    /// The way of what happens on the stage to the night log.
    pub happened: Sender<Happening>,
    /// Set when it is to end.
    pub stop: Arc<AtomicBool>,
    /// The troubles, where failures are told.
    pub troubles: Troubles,
    /// The time that ticks took.
    pub tick_ms: Histogram,
}

impl FrameLoop {
    /// Runs until it is stopped, and returns how long ticks took.
    pub fn run(mut self) -> Histogram {
        let troubles = self.troubles.clone();
        let mut state = None;
        keep_alive("engine", &troubles, || self.frames(&mut state));
        self.tick_ms
    }

    fn frames(&mut self, state: &mut Option<EngineState>) {
        let mut engine = Engine::start(Prepared::new(self.show.clone(), self.rig.clone(), self.edition));
        if let Some(state) = state {
            // After a failure all is as it was.
            engine.restore(state);
        }
        let mut made = 0u32;
        let mut deadlines = Deadlines::new(Instant::now().plus(2_000_000), f64::from(self.show.settings.rate));
        let mut lead = Lead::new(deadlines.period());
        let mut in_step = InStep::default();
        let mut unread = 0u32;
        let mut sudden = false;
        let mut shown = 0;
        let mut on_beat = false;
        while !self.stop.load(Ordering::Relaxed) {
            let regular = deadlines.next(Instant::now());
            // The frame of a beat stays where it is: half a frame sooner the beat would wait for the one after it.
            let half_way = deadlines.half_way(regular).filter(|_| !on_beat);
            let deadline = self.due(regular, half_way, lead.nanoseconds(), shown);
            let planned = deadline.plus(-lead.nanoseconds());
            planned.sleep();
            let began = Instant::now();
            let rate = self.show.settings.rate;
            self.take_urgent(&mut engine);
            // As many as there is room for, and not as many as come meanwhile.
            for _ in 0..self.inputs.len() {
                let Ok(input) = self.inputs.try_recv() else { break };
                self.take(&mut engine, input);
            }
            if self.show.settings.rate != rate {
                deadlines = Deadlines::new(deadline, f64::from(self.show.settings.rate));
                lead = Lead::new(deadlines.period());
                let _ = deadlines.next(deadline);
            }
            fault::strike("engine");
            let time = deadline.seconds_since(self.epoch);
            let inputs = Inputs {
                hearing: *self.hearing.read(),
                sync_position: self.positions[self.show.settings.sync_source as usize],
                time_of_day: crate::clock::time_of_day(),
                recording: self.dials.recording(time),
                time_code: self.time_code(time),
            };
            shown = inputs.hearing.onsets;
            engine.tick(time, &inputs);
            sudden |= engine.is_sudden();
            for happening in engine.take_happenings() {
                // A night log that is not read misses something; the light does not wait for it.
                let _ = self.happened.try_send(happening);
            }
            // Where the sender has not finished the ones before, this frame is left out, and the frame rate tells.
            if let Ok(mut out) = self.empty.try_recv() {
                out.slots.clear();
                out.slots.extend_from_slice(&engine.frame().slots);
                out.deadline = Some(deadline);
                out.sudden = std::mem::take(&mut sudden);
                out.output = self.output.take();
                // There is room: as many frames go round as the channel holds.
                let _ = self.full.try_send(out);
            }
            let (beat, bpm) = (engine.clock().beat(), engine.clock().bpm());
            on_beat = beat_in_second_half(beat, bpm, regular.since(deadline), deadlines.period());
            if deadline == regular {
                deadlines.lean(in_step.lean(beat, bpm, deadlines.period() as f64));
            }
            let done = Instant::now();
            // From when it was to begin: what the machine takes from us counts like work of our own.
            lead.learn(done.since(planned));
            self.tick_ms.add(done.since(began) as f32 / 1e6);
            // What nobody has read is not written anew at every frame: it is the largest part of the work besides the light.
            unread = if self.snapshots.consumed() { 0 } else { unread + 1 };
            if unread.is_multiple_of(UNREAD) {
                let snapshot = self.snapshots.input_buffer_mut();
                engine.publish(snapshot);
                self.snapshots.publish();
            }
            made = made.saturating_add(1);
            let now = engine.state();
            *state = Some(EngineState { clock: now.clock.filter(|_| made > PROVEN), ..now });
        }
    }

    /// The time when the next frame is due: half a frame sooner where by then something was struck that the last one did not show. What
    /// is heard takes about as long as from the frame of the beat to the next one, and would wait for the one after that.
    fn due(&mut self, regular: Instant, half_way: Option<Instant>, lead: i64, shown: u64) -> Instant {
        let Some(half_way) = half_way else { return regular };
        half_way.plus(-lead).sleep();
        if self.hearing.read().onsets == shown { regular } else { half_way }
    }

    /// The place of time code at a time, if any came lately.
    fn time_code(&self, time: Seconds) -> Option<splimo_engine::Lead> {
        let SyncPosition { time: came, place, .. } = self.positions[SyncSource::TimeCode as usize]?;
        let MusicPlace::Seconds(seconds) = place else { return None };
        let since = time - came;
        (since < LATE_CODE).then_some(splimo_engine::Lead { seconds: (seconds + since).max(0.0), runs: true })
    }

    /// Takes what had no room among the others. Panic has been asked for after all that waits: those are dropped, or they would undo it.
    fn take_urgent(&mut self, engine: &mut Engine) {
        while let Ok(input) = self.urgent.try_recv() {
            if matches!(&input, EngineInput::Apply(command, ..) if **command == EngineCommand::Panic) {
                for _ in 0..self.inputs.len() {
                    match self.inputs.try_recv() {
                        Ok(EngineInput::Apply(..)) | Err(_) => {}
                        Ok(other) => self.take(engine, other),
                    }
                }
            }
            self.take(engine, input);
        }
    }

    fn take(&mut self, engine: &mut Engine, input: EngineInput) {
        match input {
            EngineInput::Apply(command, by, time) => engine.apply_from(&command, by, time),
            EngineInput::Cut(look) => engine.cut_to(look),
            EngineInput::Anew(look) => {
                *engine = Engine::start(Prepared::new(self.show.clone(), self.rig.clone(), self.edition));
                look.into_iter().for_each(|look| engine.cut_to(look));
            }
            EngineInput::SyncPosition(position) => self.positions[position.source as usize] = Some(position),
            EngineInput::Output(output) => self.output = Some(output),
            EngineInput::Settings(show, edition) => {
                engine.adopt_settings(show.clone(), edition);
                (self.show, self.edition) = (show, edition);
            }
            EngineInput::Adopt(change) => {
                let AdoptedShow { show, rig, edition, prepared, output } = *change;
                // Where nobody takes it, it is dropped here: a late frame is better than one too many in memory.
                let _ = self.retired.try_send(engine.adopt(prepared));
                (self.show, self.rig, self.edition) = (show, rig, edition);
                // What waits to be taken over is not forgotten for an edit of a look.
                if output.is_some() {
                    self.output = output;
                }
            }
        }
    }
}

/// True if a beat comes in the second half of the time to the next regular frame, from one at this beat that was made so many
/// nanoseconds before its own.
fn beat_in_second_half(beat: f64, bpm: f64, sooner: i64, period: i64) -> bool {
    let at = |nanoseconds: i64| beat + bpm / 60.0 * nanoseconds as f64 / 1e9;
    // A little more, as a frame that is in step with the music may be a little early for what was foreseen of it.
    at(sooner + period / 2).floor() < at(sooner + period + 2_000_000).floor()
}

/// The time that before its deadline a frame is begun: as late as can be, so that sound is fresh, and as early as the machine
/// has lately needed.
struct Lead {
    slowest: f64,
    period: i64,
}

impl Lead {
    /// The most that the machine may be late in waking us, in nanoseconds.
    const SLACK: f64 = 1_500_000.0;

    fn new(period: i64) -> Self {
        Self { slowest: 2_000_000.0, period }
    }

    fn learn(&mut self, took: i64) {
        // Up at once, half-way down in eight seconds.
        self.slowest = (took as f64).max(self.slowest * 0.998);
    }

    fn nanoseconds(&self) -> i64 {
        ((self.slowest * 1.3 + Self::SLACK) as i64).min(self.period * 9 / 10)
    }
}

#[cfg(test)]
mod tests {
    use super::{Lead, beat_in_second_half};

    /// A frame of 44 a second, in nanoseconds.
    const PERIOD: i64 = 22_727_273;

    #[test]
    fn a_frame_is_known_for_that_of_a_beat_before_it_is_made() {
        // At 120 a minute a frame of 44 is 0.0455 of a beat.
        let is = |beat: f64, sooner: i64| beat_in_second_half(beat, 120.0, sooner, PERIOD);
        assert!(is(3.955, 0) && is(3.96, 0), "the beat is on the next frame, or a little before");
        assert!(!is(3.9, 0) && !is(3.98, 0) && !is(4.0, 0), "long before, in the first half, and on the last one");
        assert!(is(3.93, PERIOD / 2) && !is(3.93, 0), "the last one was half a frame sooner");
    }

    #[test]
    fn a_slow_frame_makes_the_next_ones_begin_earlier_at_once_and_that_is_forgotten_slowly() {
        let mut lead = Lead::new(PERIOD);
        (0..3000).for_each(|_| lead.learn(200_000));
        let calm = lead.nanoseconds();
        lead.learn(9_000_000);
        let after = lead.nanoseconds();
        assert!(calm < 2_000_000 && after > 9_000_000 + 1_500_000, "{calm} {after}");
        let frames = (1..).find(|_| {
            lead.learn(200_000);
            lead.nanoseconds() - calm < (after - calm) / 2
        });
        // Half-way down in about eight seconds.
        assert!((300..420).contains(&frames.expect("at some time")), "{frames:?}");
    }

    #[test]
    fn however_slow_a_frame_was_the_one_before_is_over_when_the_next_begins() {
        for took in [0, PERIOD, 40 * PERIOD, i64::MAX] {
            let mut lead = Lead::new(PERIOD);
            lead.learn(took);
            assert!((1_500_000..PERIOD).contains(&lead.nanoseconds()), "{took}: {}", lead.nanoseconds());
        }
    }
}
