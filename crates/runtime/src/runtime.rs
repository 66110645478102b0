//! What runs while a show does: the engine, the sender and the listening, each on a thread of its own. None of them waits
//! for another, nor for a screen.

use std::cell::RefCell;
use std::io;
use std::path::Path;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::{Builder, JoinHandle};

use crossbeam_channel::{Sender, bounded, unbounded};
use splimo_core::action::Action;
use splimo_core::engine::{LightTest, Snapshot};
use splimo_core::histogram::Histogram;
use splimo_core::music::Hearing;
use splimo_core::rig::Rig;
use splimo_core::show::Show;
use splimo_wire::artnet::trigger;

use crate::clock::Instant;
use crate::engine::editions::{Compiler, Editions};
use crate::engine::frames::{Command, FrameLoop, OutFrame};
use crate::inputs::Follower;
use crate::media::Library;
use crate::network::{self, Exchange, Listener};
use crate::output::RecordingStatus as Recorded;
use crate::output::record::Tap;
use crate::output::{Outlets, OutputStatus, OutputTotals, Report, SendLoop, SenderEnds};
use crate::replay::{Replay, ReplayLoop};
use crate::sound::{self, Clicker, Dials, Sound};
use crate::trouble::Troubles;
use crate::urgency::{self, Urgency};

/// Frames that go round between the engine and the sender.
const FRAMES: usize = 3;
/// Compiled shows that wait to be dropped, at the most.
const RETIRED: usize = 4;
/// Commands that wait for the engine, at the most.
const COMMANDS: usize = 1024;

/// A show that runs.
pub struct Runtime {
    commands: Sender<Command>,
    epoch: Instant,
    stop: Arc<AtomicBool>,
    troubles: Troubles,
    shows: Sender<(u64, Arc<Show>)>,
    edition: AtomicU64,
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
    leaders: Vec<JoinHandle<()>>,
}

/// Where frames come from.
enum Frames {
    /// From the engine.
    Made(Box<FrameLoop>),
    /// From a recording.
    Replayed(ReplayLoop),
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
    pub fn start(show: &Arc<Show>, sound: impl Into<Sound>) -> io::Result<(Self, Outlook)> {
        Self::start_in(show, sound, Path::new("."))
    }

    /// Starts a show whose pictures, films and fonts lie in a folder.
    ///
    /// # Errors
    /// Where the system gives no socket or no thread.
    pub fn start_in(show: &Arc<Show>, sound: impl Into<Sound>, folder: &Path) -> io::Result<(Self, Outlook)> {
        Self::start_with(show, Rig::compile(show), sound.into(), None, folder)
    }

    /// Starts a show, or a recording through its routes.
    ///
    /// # Errors
    /// Where the system gives no socket or no thread.
    pub fn start_with(
        show: &Arc<Show>,
        mut rig: Rig,
        sound: Sound,
        replay: Option<Replay>,
        folder: &Path,
    ) -> io::Result<(Self, Outlook)> {
        let troubles = Troubles::default();
        let mut library = Library::at(folder, troubles.clone());
        rig.media = library.media(show);
        let rig = Arc::new(rig);
        let exchange = Arc::new(Exchange::default());
        let mut outlets = Outlets::new(troubles.clone());
        let (output, outgoing) = outlets.ready(show, &rig, &exchange.network());
        exchange.set_outgoing(outgoing);
        let editions = Arc::new(Editions::new(show.clone(), rig.clone(), output.universes()));

        urgency::prepare_helpers();
        let epoch = Instant::now();
        let stop = Arc::new(AtomicBool::new(false));
        let (commands, command_queue) = bounded(COMMANDS);
        let (full_in, full_out) = bounded(FRAMES);
        let (empty_in, empty_out) = bounded(FRAMES);
        for _ in 0..FRAMES {
            let slots = Vec::with_capacity(rig.slots());
            // The channel is as long as there are frames.
            let _ = empty_in.try_send(OutFrame { slots, ..OutFrame::default() });
        }
        let (snapshot_in, snapshot_out) = triple_buffer::triple_buffer(&Snapshot::default());
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
                commands: command_queue,
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
                commands: command_queue,
                positions: Default::default(),
                hearing: hearing_out,
                full: full_in,
                empty: empty_out,
                snapshots: snapshot_in,
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
            commands: commands.clone(),
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
            commands: Some(commands.clone()),
            refresh: Some(refresh),
        })?;
        let rig = Builder::new().name("rig".into()).spawn(move || compiler.run())?;
        let dials = Arc::new(Dials::default());
        dials.follow(&show.settings);
        let sound = sound::listen(sound, dials.clone(), epoch, hearing_in, stop.clone(), troubles.clone())?;
        let runtime = Self {
            commands,
            epoch,
            stop,
            troubles,
            shows,
            edition: AtomicU64::new(0),
            editions,
            exchange,
            tap,
            dials,
            clicker: Mutex::new(None),
            threads: Mutex::new(Some(Threads { engine, sender, sound, rig, network, leaders: Vec::new() })),
        };
        Ok((runtime, Outlook { snapshot: snapshot_out, output: status_out }))
    }

    /// Follows somebody outside who may lead the clock, until the show ends.
    ///
    /// # Errors
    /// Those of `follow`.
    pub fn follow(&self, follow: impl FnOnce(Follower) -> io::Result<JoinHandle<()>>) -> io::Result<()> {
        let (commands, stop) = (self.commands.clone(), self.stop.clone());
        let leader = follow(Follower { epoch: self.epoch, commands, stop, troubles: self.troubles.clone() })?;
        if let Some(threads) = self.threads.lock().unwrap_or_else(PoisonError::into_inner).as_mut() {
            threads.leaders.push(leader);
        }
        Ok(())
    }

    /// Asks the engine for something.
    pub fn act(&self, action: &Action) {
        // Whatever ends the flash ends the click that goes with it.
        if matches!(action, Action::Prove(proof) if *proof != LightTest::Flash) {
            self.take_clicker();
        }
        let now = Instant::now().seconds_since(self.epoch);
        self.command(Command::Act(Box::new(action.clone()), now));
    }

    /// Goes over to a changed show: it is compiled beside, and played as soon as it is. Returns the number of its edition,
    /// which snapshots carry from then on.
    pub fn go_over(&self, show: Arc<Show>) -> u64 {
        let edition = self.edition.fetch_add(1, Ordering::Relaxed) + 1;
        self.dials.follow(&show.settings);
        // The thread is there as long as this is.
        let _ = self.shows.send((edition, show));
        edition
    }

    /// The shows that snapshots are of, and what is wrong with the newest.
    #[must_use]
    pub fn editions(&self) -> &Editions {
        &self.editions
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

    /// The network as it is, and what is asked of it.
    #[must_use]
    pub fn exchange(&self) -> &Exchange {
        &self.exchange
    }

    /// Sets something off at everybody's.
    pub fn trigger(&self, what: trigger::Repr) {
        self.exchange.trigger(what);
    }

    /// Carries out an action that is the runtime's, and says what came of it.
    ///
    /// # Errors
    /// Why it cannot be done.
    pub fn carry_out(&self, action: &Action) -> Result<String, String> {
        match action {
            Action::Trigger(what) => {
                let what: trigger::Repr = what.parse()?;
                self.trigger(what);
                Ok(format!("{what} is set off"))
            }
            Action::Record(file) => {
                let path = crate::files::with_ending_of(file, "pcapng");
                self.record(&path).map_err(|e| format!("{} cannot be recorded into: {e}", path.display()))?;
                Ok(format!("recording into {}; R ends it", path.display()))
            }
            Action::StopRecording => match self.stop_recording() {
                Some(done) => Ok(format!("{}: {} packets", done.path.display(), done.packets)),
                None => Err("nothing is being recorded; r begins to".to_owned()),
            },
            Action::FlashAndClick => self.flash_and_click(),
            Action::PauseMusic => Ok(match self.dials.toggle_pause() {
                true => "the recording is held; p lets it go on".to_owned(),
                false => "the recording goes on".to_owned(),
            }),
            Action::SeekMusic(seconds) => {
                self.dials.seek(*seconds);
                Ok(format!("{} by {:.0} s", if *seconds < 0.0 { "back" } else { "on" }, seconds.abs()))
            }
            other => Err(format!("{other} is not for the runtime")),
        }
    }

    fn take_clicker(&self) -> Option<Clicker> {
        self.clicker.lock().unwrap_or_else(PoisonError::into_inner).take()
    }

    fn flash_and_click(&self) -> Result<String, String> {
        if self.take_clicker().is_some() {
            self.act(&Action::Prove(LightTest::Off));
            return Ok("flash and click have ended".to_owned());
        }
        let started = Clicker::start(self.epoch, &self.troubles).map_err(|e| format!("there is no click: {e}"))?;
        self.act(&Action::Prove(LightTest::Flash));
        *self.clicker.lock().unwrap_or_else(PoisonError::into_inner) = Some(started);
        Ok("← → until light and click are one; c ends it".to_owned())
    }

    /// Begins to record what leaves.
    ///
    /// # Errors
    /// Where the file cannot be made, or is there already.
    pub fn record(&self, path: &Path) -> io::Result<()> {
        self.tap.start(path, self.troubles.clone())
    }

    /// Ends the recording, and says how it was.
    pub fn stop_recording(&self) -> Option<Recorded> {
        self.tap.stop()
    }

    /// What is wrong at the moment.
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
            threads.leaders.into_iter().for_each(|leader| drop(leader.join()));
            let _ = self.tap.stop();
            if let Some(sound) = threads.sound {
                // A thread that failed has told so.
                let _ = sound.join();
            }
        }
        Totals { output, tick, universes: self.editions.universes() }
    }
}

impl Drop for Runtime {
    fn drop(&mut self) {
        self.stop.store(true, Ordering::Relaxed);
    }
}
