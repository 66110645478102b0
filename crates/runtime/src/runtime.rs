//! The threads that run while a show does: the engine, the sender and the listening, each on a thread of its own. None of them waits
//! for another, nor for a screen.

use std::cell::RefCell;
use std::io;
use std::path::Path;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::{Builder, JoinHandle};

use crossbeam_channel::{Sender, bounded, unbounded};
use splimo_base::Seconds;
use splimo_base::histogram::Histogram;
use splimo_engine::{Happening, Published};
use splimo_light::rig::Rig;
use splimo_show::LightTest;
use splimo_show::command::{EngineCommand, Origin};
use splimo_show::{Input, Show};
use splimo_time::music::Hearing;
use splimo_wire::artnet::trigger;

use crate::asked::{self, Asked};
use crate::clock::Instant;
use crate::engine::editions::{Compiler, Editions};
use crate::engine::frames::{EngineInput, FrameLoop, OutFrame};
use crate::inputs::inbox::Inbox;
use crate::inputs::{Counts, Follower};
use crate::media::Library;
use crate::network::{self, Exchange, Listener};
use crate::output::RecordingStatus as Recorded;
use crate::output::record::Tap;
use crate::output::{Outlets, OutputStatus, OutputTotals, Report, SendLoop, SenderEnds};
use crate::replay::{Replay, ReplayLoop};
use crate::sound::{self, Clicker, Dials, Sound};
use crate::trouble::{PastTrouble, Troubles};
use crate::urgency::{self, Patience, Urgency};

/// Frames that go round between the engine and the sender.
const FRAMES: usize = 3;
/// Compiled shows that wait to be dropped, at the most.
const RETIRED: usize = 4;
/// Commands that wait for the engine, at the most.
const COMMANDS: usize = 1024;
/// Of these, commands that go before the others where there are too many.
const URGENT: usize = 16;
/// Happenings on the stage that wait for the night log at the most.
const HAPPENINGS: usize = 1024;

/// A show that runs.
pub struct Runtime {
    engine: Sender<EngineInput>,
    /// The way of blackout and panic where the other is full.
    urgent: Sender<EngineInput>,
    /// True while it takes no more.
    refuses: AtomicBool,
    inbox: Arc<Inbox>,
    epoch: Instant,
    stop: Arc<AtomicBool>,
    troubles: Troubles,
    shows: Sender<(u64, Arc<Show>)>,
    editions: Arc<Editions>,
    exchange: Arc<Exchange>,
    tap: Tap,
    dials: Arc<Dials>,
    clicker: Mutex<Option<Clicker>>,
    threads: Mutex<Option<Threads>>,
}

struct Threads {
    engine: JoinHandle<Histogram>,
    sender: JoinHandle<io::Result<OutputTotals>>,
    sound: Option<JoinHandle<()>>,
    rig: JoinHandle<()>,
    network: JoinHandle<()>,
}

/// The state of a show before its first frame.
#[derive(Debug, Clone, Default)]
pub struct Beginning {
    /// The look that is on; without one the engine begins as it does.
    pub look: Option<usize>,
    /// The commands that lead from there to what ran before.
    pub commands: Vec<EngineCommand>,
    /// The words that tell this show from others that run on this machine: its file, or else its session.
    pub instance: String,
}

/// The source of frames.
enum Frames {
    /// From the engine.
    Made(Box<FrameLoop>),
    /// From a recording.
    Replayed(ReplayLoop),
}

/// The ends from which the session reads. Reading never makes the show wait.
pub struct Outlook {
    /// The engine.
    pub published: triple_buffer::Output<Published>,
    /// The sender.
    pub output: triple_buffer::Output<OutputStatus>,
    /// Commands that come in from outside.
    pub asked: crossbeam_channel::Receiver<Asked>,
    /// Everything that happens on the stage.
    pub happened: crossbeam_channel::Receiver<Happening>,
}

/// Measurements of a show that ran.
#[derive(Debug, Clone)]
pub struct Totals {
    /// The output.
    pub output: OutputTotals,
    /// The time that ticks took.
    pub tick: Histogram,
    /// The number of universes of the rig that have a route.
    pub universes: usize,
    /// The troubles that were.
    pub troubles: Vec<PastTrouble>,
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
            troubles: self.troubles.clone(),
            tempo_bpm: (tempo_bpm * 100.0).round() / 100.0,
        }
    }
}

impl Beginning {
    fn inputs(self) -> impl Iterator<Item = EngineInput> {
        let apply = |command| EngineInput::Apply(Box::new(command), Origin::Session, 0.0);
        self.look.map(EngineInput::Cut).into_iter().chain(self.commands.into_iter().map(apply))
    }
}

impl Runtime {
    /// Starts a show.
    ///
    /// # Errors
    /// If the system gives no socket or no thread.
    pub fn start(show: &Arc<Show>, sound: impl Into<Sound>) -> io::Result<(Self, Outlook)> {
        Self::start_in(show, sound, Path::new("."), Beginning::default())
    }

    /// Starts a show whose pictures, films and fonts lie in a folder, and that is in a state from its first frame on.
    ///
    /// # Errors
    /// If the system gives no socket or no thread.
    pub fn start_in(
        show: &Arc<Show>,
        sound: impl Into<Sound>,
        folder: &Path,
        beginning: Beginning,
    ) -> io::Result<(Self, Outlook)> {
        Self::start_with(show, Rig::compile(show), sound.into(), None, folder, beginning)
    }

    /// Starts a show, or a recording through its routes.
    ///
    /// # Errors
    /// If the system gives no socket or no thread.
    pub fn start_with(
        show: &Arc<Show>,
        mut rig: Rig,
        sound: Sound,
        replay: Option<Replay>,
        folder: &Path,
        beginning: Beginning,
    ) -> io::Result<(Self, Outlook)> {
        let troubles = Troubles::default();
        let mut library = Library::at(folder, troubles.clone());
        rig.media = library.media(show);
        let rig = Arc::new(rig);
        let exchange = Arc::new(Exchange::default());
        let mut outlets = Outlets::new(troubles.clone(), beginning.instance.clone());
        let (output, outgoing) = outlets.ready(show, &rig, &exchange.network());
        exchange.set_outgoing(outgoing);
        let editions = Arc::new(Editions::new(show.clone(), rig.clone(), output.universes()));

        urgency::prepare_helpers();
        let epoch = Instant::now();
        let stop = Arc::new(AtomicBool::new(false));
        let (engine_inputs, engine_queue) = bounded(COMMANDS);
        let (urgent, urgent_queue) = bounded(URGENT);
        // The engine takes them before its first frame.
        for input in beginning.inputs() {
            let _ = engine_inputs.try_send(input);
        }
        let (asks, asked) = bounded(asked::MOST);
        let inbox = Arc::new(Inbox::default());
        let dials = Arc::new(Dials::default());
        dials.follow(&show.settings);
        let (happens, happened) = bounded(HAPPENINGS);
        let (full_in, full_out) = bounded(FRAMES);
        let (empty_in, empty_out) = bounded(FRAMES);
        for _ in 0..FRAMES {
            let slots = Vec::with_capacity(rig.slots());
            // The channel is as long as there are frames.
            let _ = empty_in.try_send(OutFrame { slots, ..OutFrame::default() });
        }
        let (snapshot_in, snapshot_out) = triple_buffer::triple_buffer(&Published::default());
        let (status_in, status_out) = triple_buffer::triple_buffer(&OutputStatus::default());
        let (hearing_in, hearing_out) = triple_buffer::triple_buffer(&Hearing::SILENCE);

        let (shows, show_queue) = unbounded();
        let (retired, retired_queue) = bounded(RETIRED);
        let (refresh, refreshes) = bounded(1);

        let tap = Tap::default();
        let ends = SenderEnds {
            full: full_out,
            empty: empty_in,
            status: status_in,
            tap: tap.clone(),
            troubles: troubles.clone(),
        };
        let sender = Builder::new().name("sender".into()).spawn(move || {
            urgency::claim(Urgency::Sender);
            SendLoop::new(output, ends).run()
        })?;
        let frames = match replay {
            Some(replay) => Frames::Replayed(ReplayLoop {
                replay,
                rig,
                rate: f64::from(show.settings.rate),
                inputs: engine_queue,
                full: full_in,
                empty: empty_out,
                stop: stop.clone(),
                troubles: troubles.clone(),
            }),
            None => Frames::Made(Box::new(FrameLoop {
                show: show.clone(),
                rig,
                edition: 0,
                retired,
                output: None,
                epoch,
                inputs: engine_queue,
                urgent: urgent_queue,
                positions: Default::default(),
                hearing: hearing_out,
                full: full_in,
                empty: empty_out,
                snapshots: snapshot_in,
                happened: happens,
                dials: dials.clone(),
                stop: stop.clone(),
                troubles: troubles.clone(),
                tick_ms: Histogram::default(),
            })),
        };
        let engine = Builder::new().name("engine".into()).spawn(move || {
            urgency::claim(Urgency::Engine);
            match frames {
                Frames::Made(frames) => frames.run(),
                Frames::Replayed(frames) => frames.run(),
            }
        })?;
        let compiler = Compiler {
            shows: show_queue,
            retired: retired_queue,
            engine: engine_inputs.clone(),
            editions: editions.clone(),
            outlets: RefCell::new(outlets),
            library: RefCell::new(library),
            maps: RefCell::default(),
            exchange: exchange.clone(),
            refresh: refreshes,
            troubles: troubles.clone(),
        };
        let network = network::start(Listener {
            exchange: exchange.clone(),
            epoch,
            stop: stop.clone(),
            troubles: troubles.clone(),
            engine: Some(engine_inputs.clone()),
            asks: Some(asks),
            inbox: inbox.clone(),
            refresh: Some(refresh),
        })?;
        let rig = Builder::new().name("rig".into()).spawn(move || {
            urgency::give_way(Patience::Rest);
            compiler.run();
        })?;
        let sound = sound::listen(sound, dials.clone(), epoch, hearing_in, stop.clone(), troubles.clone())?;
        let runtime = Self {
            engine: engine_inputs,
            urgent,
            refuses: AtomicBool::new(false),
            inbox,
            epoch,
            stop,
            troubles,
            shows,
            editions,
            exchange,
            tap,
            dials,
            clicker: Mutex::new(None),
            threads: Mutex::new(Some(Threads { engine, sender, sound, rig, network })),
        };
        Ok((runtime, Outlook { published: snapshot_out, output: status_out, asked, happened }))
    }

    /// The inputs that have come in and wait for the session.
    #[must_use]
    pub fn inbox(&self) -> &Arc<Inbox> {
        &self.inbox
    }

    /// Everything that a thread needs to follow an input.
    #[must_use]
    pub fn follower(&self, input: &Arc<Input>, counts: &Arc<Counts>) -> Follower {
        Follower {
            input: input.clone(),
            name: input.name.as_str().into(),
            epoch: self.epoch,
            engine: self.engine.clone(),
            inbox: self.inbox.clone(),
            counts: counts.clone(),
            stop: Arc::default(),
            troubles: self.troubles.clone(),
        }
    }

    /// Has the engine carry a command of the session out.
    pub fn apply(&self, command: &EngineCommand) {
        self.apply_at(command, Origin::Session, self.now());
    }

    /// Has the engine carry a command out that somebody asked for at a time.
    pub fn apply_at(&self, command: &EngineCommand, by: Origin, time: Seconds) {
        // Whatever ends the flash ends the click that goes with it.
        let other_test = matches!(command, EngineCommand::Test(test) if *test != LightTest::Flash);
        if other_test || *command == EngineCommand::Panic {
            self.take_clicker();
        }
        self.send(EngineInput::Apply(Box::new(command.clone()), by, time));
    }

    /// The present on the time line of the show.
    #[must_use]
    pub fn now(&self) -> Seconds {
        Instant::now().seconds_since(self.epoch)
    }

    /// Goes over to a changed show, under the number of its edition: it is compiled beside, and played as soon as it is.
    /// Snapshots carry the number from then on.
    pub fn go_over(&self, edition: u64, show: Arc<Show>) {
        self.dials.follow(&show.settings);
        // The thread is there as long as this is.
        let _ = self.shows.send((edition, show));
    }

    /// The shows that snapshots are of, and what is wrong with the newest.
    #[must_use]
    pub fn editions(&self) -> &Editions {
        &self.editions
    }

    /// Begins as a show does that is started, with a look; nothing of what was on stays.
    pub fn begin_anew(&self, look: Option<usize>) {
        self.send(EngineInput::Anew(look));
    }

    /// Puts a look on stage at once.
    pub fn cut_to(&self, look: usize) {
        self.send(EngineInput::Cut(look));
    }

    fn send(&self, input: EngineInput) {
        let refused = match self.engine.try_send(input).map_err(|error| error.into_inner()) {
            Err(input) if input.is_urgent() => self.urgent.try_send(input).is_err(),
            sent => sent.is_err(),
        };
        if !refused && self.refuses.swap(false, Ordering::Relaxed) {
            self.troubles.over("engine");
        }
        if refused {
            self.refuses.store(true, Ordering::Relaxed);
            self.troubles.tell(
                "engine",
                "takes fewer commands than come; find out who sends so many, and where none does, start Splimo again",
            );
        }
    }

    /// The network as it is, and what is asked of it.
    #[must_use]
    pub fn exchange(&self) -> &Exchange {
        &self.exchange
    }

    /// Sets something off at everybody's.
    pub fn trigger(&self, what: trigger::Repr) {
        self.exchange.trigger(what);
    }

    /// Holds the recording that is heard where it is, or lets it go on; whether it is held now.
    pub fn toggle_pause(&self) -> bool {
        self.dials.toggle_pause()
    }

    /// The place in the recording that is heard, if one is.
    #[must_use]
    pub fn recording(&self) -> Option<splimo_engine::Lead> {
        self.dials.recording(self.now())
    }

    /// Goes on in the recording that is heard, or back below zero, in seconds.
    pub fn seek(&self, seconds: f32) {
        self.dials.seek(seconds);
    }

    fn take_clicker(&self) -> Option<Clicker> {
        self.clicker.lock().unwrap_or_else(PoisonError::into_inner).take()
    }

    /// Flashes all lights and clicks each second, or ends that; whether it has begun.
    ///
    /// # Errors
    /// If the system gives no thread.
    pub fn flash_and_click(&self) -> io::Result<bool> {
        if self.take_clicker().is_some() {
            self.apply(&EngineCommand::Test(LightTest::Off));
            return Ok(false);
        }
        let started = Clicker::start(self.epoch, &self.troubles)?;
        self.apply(&EngineCommand::Test(LightTest::Flash));
        *self.clicker.lock().unwrap_or_else(PoisonError::into_inner) = Some(started);
        Ok(true)
    }

    /// Begins to record what leaves.
    ///
    /// # Errors
    /// If the file cannot be made, or is there already.
    pub fn record(&self, path: &Path) -> io::Result<()> {
        self.tap.start(path, self.troubles.clone())
    }

    /// Ends the recording, and says how it was.
    pub fn stop_recording(&self) -> Option<Recorded> {
        self.tap.stop()
    }

    /// The troubles of the moment.
    #[must_use]
    pub fn troubles(&self) -> &Troubles {
        &self.troubles
    }

    /// Ends the show: the last frame leaves, streams are terminated, and what was measured comes back, the first time.
    pub fn stop(&self) -> Totals {
        self.stop.store(true, Ordering::Relaxed);
        self.take_clicker();
        let threads = self.threads.lock().unwrap_or_else(PoisonError::into_inner).take();
        let (mut tick, mut output) = Default::default();
        if let Some(threads) = threads {
            tick = threads.engine.join().unwrap_or_default();
            output = threads.sender.join().ok().and_then(Result::ok).unwrap_or_default();
            let _ = self.shows.send((u64::MAX, self.editions.newest().show));
            let _ = threads.rig.join();
            let _ = threads.network.join();
            let _ = self.tap.stop();
            if let Some(sound) = threads.sound {
                // A thread that failed has told so.
                let _ = sound.join();
            }
        }
        Totals { output, tick, universes: self.editions.universes(), troubles: self.troubles.past() }
    }
}

impl Drop for Runtime {
    fn drop(&mut self) {
        self.stop.store(true, Ordering::Relaxed);
    }
}
