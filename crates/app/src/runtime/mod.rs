//! What runs while a show does: the engine, the sender and the listening, each on a thread of its own. None of them waits
//! for another, nor for a screen.

pub mod clock;
pub mod fault;
pub mod frames;
pub mod output;
pub mod trouble;
pub mod urgency;

use std::io;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::{Builder, JoinHandle};

use crossbeam_channel::{Sender, bounded};
use splimo_core::action::Action;
use splimo_core::engine::Snapshot;
use splimo_core::histogram::Histogram;
use splimo_core::music::Hearing;
use splimo_core::rig::Rig;
use splimo_core::show::Show;
use splimo_wire::burst::Burst;
use splimo_wire::socket;

use crate::sound::{self, SoundSource};
use clock::Instant;
use frames::{Command, FrameLoop, OutFrame};
use output::{OutputStatus, OutputTotals, Report, SendLoop};
use trouble::Troubles;
use urgency::Urgency;

/// Frames that go round between the engine and the sender.
const FRAMES: usize = 3;
/// Commands that wait for the engine, at the most.
const COMMANDS: usize = 1024;

/// A show that runs.
pub struct Runtime {
    commands: Sender<Command>,
    epoch: Instant,
    stop: Arc<AtomicBool>,
    troubles: Troubles,
    rig: Arc<Rig>,
    universes: usize,
    threads: Mutex<Option<Threads>>,
}

struct Threads {
    engine: JoinHandle<Histogram>,
    sender: JoinHandle<io::Result<OutputTotals>>,
    sound: Option<JoinHandle<()>>,
}

/// What a screen reads. Reading never makes the show wait.
pub struct Outlook {
    /// The engine.
    pub snapshot: triple_buffer::Output<Snapshot>,
    /// The sender.
    pub output: triple_buffer::Output<OutputStatus>,
}

/// What was measured while a show ran.
#[derive(Debug, Clone)]
pub struct Totals {
    /// What left.
    pub output: OutputTotals,
    /// How long ticks took.
    pub tick: Histogram,
    /// How many universes of the rig have a route.
    pub universes: usize,
}

impl Totals {
    /// As it is reported.
    #[must_use]
    pub fn report(&self, tempo_bpm: f64) -> Report {
        Report {
            frames: self.output.frames,
            fps: self.output.fps(),
            late_ms: self.output.late.quantiles(),
            universes: self.universes,
            packets: self.output.packets,
            send_errors: self.output.errors,
            tempo_bpm: (tempo_bpm * 100.0).round() / 100.0,
        }
    }
}

impl Runtime {
    /// Starts a show.
    ///
    /// # Errors
    /// Where the system gives no socket or no thread.
    pub fn start(show: &Arc<Show>, source: SoundSource) -> io::Result<(Self, Outlook)> {
        let rig = Arc::new(Rig::compile(show));
        let (streams, stream_status) = output::streams(show, &rig);
        let mut carried: Vec<usize> = streams.iter().map(|s| s.source).collect();
        carried.sort_unstable();
        carried.dedup();

        let epoch = Instant::now();
        let stop = Arc::new(AtomicBool::new(false));
        let troubles = Troubles::default();
        let (commands, command_queue) = bounded(COMMANDS);
        let (full_in, full_out) = bounded(FRAMES);
        let (empty_in, empty_out) = bounded(FRAMES);
        for _ in 0..FRAMES {
            let slots = Vec::with_capacity(rig.universes.len() * 512);
            // The channel is as long as there are frames.
            let _ = empty_in.try_send(OutFrame { deadline: None, slots });
        }
        let (snapshot_in, snapshot_out) = triple_buffer::triple_buffer(&Snapshot::default());
        let (status_in, status_out) = triple_buffer::triple_buffer(&OutputStatus::default());
        let (hearing_in, hearing_out) = triple_buffer::triple_buffer(&Hearing::SILENCE);

        let frame_loop = FrameLoop {
            show: show.clone(),
            rig: rig.clone(),
            epoch,
            commands: command_queue,
            hearing: hearing_out,
            full: full_in,
            empty: empty_out,
            snapshots: snapshot_in,
            stop: stop.clone(),
            troubles: troubles.clone(),
            tick_ms: Histogram::default(),
        };
        let send_loop = SendLoop {
            burst: Burst::new(&streams, &output::identity(show)),
            socket: socket::open()?,
            full: full_out,
            empty: empty_in,
            status: status_in,
            rate: show.settings.rate,
            streams: stream_status,
            troubles: troubles.clone(),
        };
        let sender = Builder::new().name("sender".into()).spawn(move || {
            urgency::claim(Urgency::Sender);
            send_loop.run()
        })?;
        let engine = Builder::new().name("engine".into()).spawn(move || {
            urgency::claim(Urgency::Engine);
            frame_loop.run()
        })?;
        let sound = sound::listen(source, epoch, hearing_in, stop.clone(), troubles.clone())?;
        let runtime = Self {
            commands,
            epoch,
            stop,
            troubles,
            rig,
            universes: carried.len(),
            threads: Mutex::new(Some(Threads { engine, sender, sound })),
        };
        Ok((runtime, Outlook { snapshot: snapshot_out, output: status_out }))
    }

    /// Asks the engine for something.
    pub fn act(&self, action: &Action) {
        let now = Instant::now().seconds_since(self.epoch);
        self.command(Command::Act(action.clone(), now));
    }

    /// Gives the engine changed settings.
    pub fn settings(&self, show: Arc<Show>) {
        self.command(Command::Settings(show));
    }

    /// Puts a look on stage at once.
    pub fn cut_to(&self, look: usize) {
        self.command(Command::Cut(look));
    }

    fn command(&self, command: Command) {
        if self.commands.try_send(command).is_err() {
            self.troubles.tell("engine", "does not take commands any more; save the show and start Splimo again");
        }
    }

    /// The rig that the frames are for.
    #[must_use]
    pub fn rig(&self) -> &Arc<Rig> {
        &self.rig
    }

    /// What is wrong at the moment.
    #[must_use]
    pub fn troubles(&self) -> &Troubles {
        &self.troubles
    }

    /// Ends the show: the last frame leaves, streams are terminated, and what was measured comes back, the first time.
    pub fn stop(&self) -> Totals {
        self.stop.store(true, Ordering::Relaxed);
        let threads = self.threads.lock().unwrap_or_else(PoisonError::into_inner).take();
        let (mut tick, mut output) = Default::default();
        if let Some(threads) = threads {
            tick = threads.engine.join().unwrap_or_default();
            output = threads.sender.join().ok().and_then(Result::ok).unwrap_or_default();
            if let Some(sound) = threads.sound {
                // A thread that failed has told so.
                let _ = sound.join();
            }
        }
        Totals { output, tick, universes: self.universes }
    }
}

impl Drop for Runtime {
    fn drop(&mut self) {
        self.stop.store(true, Ordering::Relaxed);
    }
}
