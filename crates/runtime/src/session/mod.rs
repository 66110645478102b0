//! The session: a show that runs, with its document, engine and devices, in a process that outlives the screens attached to it.
//! Every command comes to one dispatch, whoever sends it; what changes is told to every screen.

mod aims;
mod beforehand;
pub mod client;
#[cfg(test)]
mod cue_tests;
mod cues;
mod dispatch;
mod file_watch;
mod files;
mod guest;
#[cfg(test)]
mod input_tests;
mod inputs;
#[cfg(test)]
pub(crate) use inputs::BINDINGS;
mod manager;
mod patterns;
pub mod place;
mod playing;
mod programs;
mod publish;
mod schedule;
mod server;
#[cfg(test)]
mod tests;
mod theirs;

use std::io;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::{Duration, SystemTime, UNIX_EPOCH};

use arc_swap::ArcSwap;
use crossbeam_channel::{Receiver, Sender, bounded, select};
use splimo_base::nearest::meant;
use splimo_document::Document;
use splimo_link::document::{DocumentUpdate, Theirs};
use splimo_link::message::{Guest, Request, SessionInfo, Update};
use splimo_show::command::{EngineCommand, Origin};
use splimo_show::{Input, Show};

use crate::autosave::Autosave;
use crate::clock::Instant;
use crate::crash_note::{CrashNote, Running};
use crate::media::Library;
use crate::night_log::NightLog;
use crate::sound::{Sound, SoundSource};
use crate::trouble::Troubles;
use crate::{Beginning, Outlook, Runtime, Totals, files as show_files, supplies};
use beforehand::{Beforehand, Progress};
use file_watch::{Change, FileWatch};
use guest::Guests;
use inputs::InputDesk;
use manager::Manager;
use place::{Lock, Refusal, SessionPlace};
use programs::Programs;
use publish::Told;
use schedule::Scheduler;

pub use guest::Link;

/// The most requests of guests that wait.
const REQUESTS: usize = 1024;
/// The number of times that the session looks around while screens are attached, and while none is. Nobody who sends a flood keeps it from
/// doing so.
const ATTENDED: Duration = Duration::from_millis(8);
const UNATTENDED: Duration = Duration::from_millis(200);

/// The time after which what runs again after a crash is not asked about any more, in seconds.
const LAPSES: f64 = 600.0;

/// The reason why a session could not be started.
#[derive(Debug, thiserror::Error)]
pub enum StartError {
    /// The show runs already, or there is no place for the session's socket.
    #[error(transparent)]
    Refused(#[from] Refusal),
    /// The system gives no thread or no socket.
    #[error("the session cannot be started: {0}")]
    System(#[from] io::Error),
    /// A look that is not in the show is to be played.
    #[error("there is no look \"{look}\" in this show{}; it has: {known}", meant(look, known.split(", ")))]
    NoLook {
        /// The look.
        look: String,
        /// The looks that there are.
        known: String,
    },
}

/// The conditions on which a session ends by itself.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Ends {
    /// With its last screen.
    pub with_screen: bool,
    /// The time after which it ends when no screen is attached.
    pub unattended: Option<Duration>,
    /// After so long.
    pub after: Option<Duration>,
}

/// A session that is to be started.
pub struct Start {
    /// The show.
    pub show: Show,
    /// Its file, if it has one.
    pub path: Option<PathBuf>,
    /// The sound that is listened to.
    pub sound: Sound,
    /// Inputs of the command line, besides those of the show.
    pub inputs: Vec<Input>,
    /// The look to begin with; none is the first.
    pub look: Option<String>,
    /// The conditions on which the session ends by itself.
    pub ends: Ends,
    /// True if work that is not saved is kept beside the file, and what is on stage is noted in case of a crash.
    pub keeps: bool,
    /// True if other processes can attach to it, and the show's file is locked meanwhile. Sessions without are for tests.
    pub listens: bool,
}

impl Start {
    /// A session of a show that has no file, hears nothing, keeps nothing and is within this process alone.
    #[must_use]
    pub fn within_process(show: Show) -> Self {
        let (sound, ends) = (SoundSource::Silence.into(), Ends::default());
        Self { show, path: None, sound, inputs: Vec::new(), look: None, ends, keeps: false, listens: false }
    }
}

/// A guest says something, comes or goes; or a recording has been heard.
enum Message {
    Came(u32, Guest),
    Asked(u32, Request),
    Gone(u32),
    Heard(Progress),
}

/// A session.
pub struct Session {
    name: String,
    place: Option<SessionPlace>,
    _lock: Option<Lock>,
    since: SystemTime,
    document: Document,
    path: Option<PathBuf>,
    /// The edition that was saved last.
    saved: u64,
    /// The file as it is known here, what somebody else did to it, and what screens are told of that.
    file: Option<FileWatch>,
    seen_change: Option<Arc<Change>>,
    theirs: Option<Theirs>,
    autosave: Option<Autosave>,
    /// Work that was not saved the last time, until somebody takes or leaves it.
    found: Option<FoundWork>,
    note: Option<CrashNote>,
    /// The state in which the session ended badly the last time, and runs again, until somebody says whether it stays.
    ran: Option<Running>,
    /// Commands that wait until the engine plays the edition that they are for.
    afterwards: Vec<(u64, EngineCommand, Origin)>,
    runtime: Arc<Runtime>,
    outlook: Outlook,
    guests: Guests,
    messages: (Sender<Message>, Receiver<Message>),
    /// The document as who is attached now is told it.
    whole: Arc<ArcSwap<DocumentUpdate>>,
    told: Told,
    remembered: Vec<u8>,
    /// The sender of the test that is on the lights.
    tester: Option<Origin>,
    /// The pads that are held, and by whom.
    held: Vec<(Origin, usize)>,
    night: NightLog,
    /// True if somebody was asked whether the strobe limit is really to go.
    asked_about_limit: bool,
    inputs: InputDesk,
    programs: Programs,
    beforehand: Beforehand,
    scheduler: Scheduler,
    manager: Manager,
    ends: Ends,
    started: Instant,
    /// The time when the last screen went.
    alone_since: Instant,
    had_screen: bool,
    ending: Option<Ending>,
}

/// Work that was not saved the last time.
struct FoundWork {
    show: Show,
    /// The show as it was saved, where the work is shown already: after a crash.
    as_saved: Option<Arc<Show>>,
}

impl FoundWork {
    fn new(show: Show, as_saved: Option<Arc<Show>>) -> Self {
        Self { show, as_saved }
    }
}

/// The reason why a session ends.
#[derive(Debug, Clone, PartialEq)]
enum Ending {
    /// A person ended it, and knows what is not saved.
    Asked,
    /// Its time is over, or the system wants it to end.
    Over,
}

impl Session {
    /// Starts a session: the lights run from here on, and guests may come.
    ///
    /// # Errors
    /// [`StartError`].
    pub fn start(start: Start) -> Result<Self, StartError> {
        let Start { show, path, sound, inputs, look, ends, keeps, listens } = start;
        let name = name_of(path.as_deref(), &show);
        let lock = path.as_deref().filter(|_| listens).map(place::lock).transpose()?;
        let place = listens.then(|| SessionPlace::take(&name)).transpose()?;
        let name = place.as_ref().map_or(name, |place| place.name().to_owned());
        if let Some(lock) = &lock {
            lock.write(&name);
        }
        let look = look_of(&show, look)?;
        let mut document = Document::new(show);
        let autosave = keeps.then(|| Autosave::start(show_files::autosave_of(path.as_deref(), &document.kept().name)));
        let found = autosave.as_ref().and_then(Autosave::found);
        if let Some(autosave) = autosave.as_ref().filter(|_| found.as_ref() == Some(&**document.kept())) {
            autosave.adopt();
        }
        let found = found.filter(|found| *found != **document.kept());
        let note = keeps.then(|| CrashNote::of(&id_of(path.as_deref(), document.kept()))).transpose()?;
        let ran = note.as_ref().and_then(CrashNote::found).cloned();
        // What ran may have been of work that was not saved: after a crash the stage is as it was, and the question is whether
        // it stays so.
        let as_saved = document.kept().clone();
        let found = found.map(|work| FoundWork::new(work, ran.is_some().then_some(as_saved)));
        if let Some(work) = found.as_ref().filter(|found| found.as_saved.is_some()) {
            document.take_over(work.show.clone());
        }
        let heard = sound.clone();
        let mut commands = ran.as_ref().map_or_else(Vec::new, Running::commands);
        // What the show does not have any more is left out.
        commands.retain(|command| playing::refusal(command, document.kept()).is_none());
        let instance = path.as_deref().map_or_else(|| name.clone(), |path| id_of(Some(path), document.kept()));
        let beginning = Beginning { look, commands, instance };
        let folder = Library::folder_of(path.as_deref());
        let (runtime, outlook) = Runtime::start_in(document.shown(), sound, &folder, beginning)?;
        let whole = Arc::new(ArcSwap::from_pointee(DocumentUpdate::whole(&document)));
        let messages = bounded(REQUESTS);
        let guests = Guests::new(messages.0.clone(), whole.clone());
        if let Some(place) = &place {
            guests.listen(place)?;
        }
        let file = path.as_deref().filter(|_| listens).map(FileWatch::start);
        let now = Instant::now();
        let night = NightLog::new(keeps.then(|| show_files::state_folder().join(format!("{name}.night"))));
        let scheduler = Scheduler::new(keeps.then_some(name.as_str()));
        let mut session = Self {
            name,
            place,
            _lock: lock,
            since: SystemTime::now(),
            document,
            path,
            saved: 0,
            file,
            seen_change: None,
            theirs: None,
            autosave,
            found,
            note,
            ran,
            afterwards: Vec::new(),
            runtime: Arc::new(runtime),
            outlook,
            guests,
            messages,
            whole,
            told: Told::default(),
            remembered: Vec::new(),
            tester: None,
            held: Vec::new(),
            night,
            asked_about_limit: false,
            inputs: InputDesk::new(inputs),
            programs: Programs::default(),
            beforehand: Beforehand::new(heard),
            scheduler,
            manager: Manager::default(),
            ends,
            started: now,
            alone_since: now,
            had_screen: false,
            ending: None,
        };
        session.follow_show();
        if session.found.as_ref().is_some_and(|found| found.as_saved.is_some()) {
            session.document_changed();
        }
        session.wind_recordings();
        Ok(session)
    }

    /// The name of the session on this machine.
    #[must_use]
    pub fn name(&self) -> &str {
        &self.name
    }

    /// The runtime of the show.
    #[must_use]
    pub fn runtime(&self) -> &Arc<Runtime> {
        &self.runtime
    }

    /// A link to this session within this process.
    #[must_use]
    pub fn attach(&self, guest: Guest) -> Link {
        self.guests.attach(guest)
    }

    /// Runs until somebody ends the session, its time is over, or `stopped` says so. Then the lights end: the last frame leaves,
    /// and streams are terminated. Returns what was measured, and the tempo at the end.
    pub fn run(mut self, stopped: impl Fn() -> bool) -> (Totals, f64) {
        while self.ending.is_none() {
            self.turn();
            if stopped() || self.is_over() {
                self.ending = Some(self.ending.take().unwrap_or(Ending::Over));
            }
        }
        self.end()
    }

    /// Waits for something to do, and does it.
    fn turn(&mut self) {
        let attended = self.guests.screens() > 0 || self.inputs.is_watching();
        let pause = if attended { ATTENDED } else { UNATTENDED };
        select! {
            recv(self.messages.1) -> message => {
                if let Ok(message) = message {
                    self.take(message);
                }
                let until = Instant::now().plus(ATTENDED.as_nanos() as i64);
                while Instant::now() < until && self.ending.is_none() {
                    let Ok(message) = self.messages.1.try_recv() else { break };
                    self.take(message);
                }
            }
            recv(self.outlook.asked) -> asked => {
                if let Ok(asked) = asked {
                    let outcome = self.dispatch(&asked.command, asked.origin, None, Some(asked.at));
                    self.say_what_came_in(&asked, &outcome);
                }
            }
            recv(self.outlook.happened) -> happening => {
                if let Ok(happening) = happening {
                    self.take_happening(&happening);
                }
            }
            recv(self.runtime.inbox().wake()) -> _ => self.take_inputs(),
            default(pause) => {}
        }
        self.look_around();
    }

    fn take(&mut self, message: Message) {
        match message {
            Message::Came(id, guest) => self.welcome(id, guest),
            Message::Asked(id, request) => {
                self.answer(id, request);
                self.guests.answered(id);
            }
            Message::Gone(id) => self.see_off(id),
            Message::Heard(progress) => self.take_heard(progress),
        }
    }

    fn welcome(&mut self, id: u32, guest: Guest) {
        if guest == Guest::Screen {
            self.had_screen = true;
        }
        let info = self.info();
        self.guests.welcome(id, guest, info, self.remembered.clone());
        if guest == Guest::Screen {
            // What is told only when it changes is told anew to everybody: there are few screens.
            self.told = Told::default();
        }
    }

    fn answer(&mut self, id: u32, request: Request) {
        match request {
            // Who says hello again is known already.
            Request::Hello { .. } => {}
            Request::Command { number, command, base } => {
                let origin = self.guests.origin(id);
                let outcome = self.dispatch(&command, origin, base, None);
                self.guests.put(id, Update::Answer { number, outcome });
            }
            Request::Subscribe(subscription) => self.guests.subscribe(id, *subscription),
            Request::Remember(memory) => {
                if memory.len() <= splimo_link::message::MOST_REMEMBERED {
                    self.remembered = memory;
                }
            }
            Request::Failed(why) => {
                self.troubles().tell("screen", format!("failed and was started anew: {why}"));
            }
        }
    }

    fn see_off(&mut self, id: u32) {
        let origin = self.guests.origin(id);
        if !self.guests.remove(id) {
            return;
        }
        // Nothing that was only tried or tested outlives the screen that did it. A command line is gone after each command, and
        // whoever sits at it takes such things back by another.
        if matches!(origin, Origin::Screen(_)) {
            self.let_go_of(origin);
            self.end_learning_of(origin);
            self.document.forget(origin);
            self.document_changed();
            if self.tester == Some(origin) {
                self.end_test();
            }
        }
        if self.guests.screens() == 0 {
            self.alone_since = Instant::now();
        }
    }

    fn is_over(&self) -> bool {
        let now = Instant::now();
        let alone = self.guests.screens() == 0;
        let alone_for = now.seconds_since(self.alone_since);
        (self.ends.with_screen && self.had_screen && alone)
            || self.ends.unattended.is_some_and(|most| alone && alone_for > most.as_secs_f64())
            || self.ends.after.is_some_and(|after| now.seconds_since(self.started) > after.as_secs_f64())
    }

    /// The session in a few words.
    #[must_use]
    pub fn info(&self) -> SessionInfo {
        SessionInfo {
            name: self.name.clone(),
            show: id_of(self.path.as_deref(), self.document.kept()),
            pid: std::process::id(),
            since: self.since.duration_since(UNIX_EPOCH).map_or(0, |since| since.as_secs()),
            screens: self.guests.screens(),
            night_log: self.night.path().map(show_files::told).unwrap_or_default(),
        }
    }

    /// The troubles of the moment.
    #[must_use]
    pub fn troubles(&self) -> &Troubles {
        self.runtime.troubles()
    }

    /// Takes note of what runs, and tells the screens what is new.
    fn look_around(&mut self) {
        self.mind_inputs();
        self.reap_programs();
        self.note_happenings();
        self.do_afterwards();
        self.mind_schedule();
        self.mind_file();
        self.mind_question();
        self.notify_manager();
        let published = self.outlook.published.read();
        let edition = self.runtime.editions().get(published.snapshot.edition);
        supplies::tell(&edition.show, &published.snapshot, self.runtime.troubles());
        if let Some(note) = &mut self.note
            && published.snapshot.frame > 0
        {
            note.keep(Running::of(&edition.show, &published.snapshot));
        }
        match self.autosave.as_ref().and_then(Autosave::failure) {
            Some(why) => {
                self.troubles().tell("autosave", format!("{why}; save the show elsewhere with Ctrl-W"));
            }
            None => self.troubles().over("autosave"),
        }
        if self.guests.screens() > 0 {
            self.tell_screens();
        }
    }

    /// Drops the question whether what ran before a crash stays, once it has been so for long that it is no question any more.
    fn mind_question(&mut self) {
        if self.ran.is_some() && Instant::now().seconds_since(self.started) > LAPSES {
            self.ran = None;
        }
    }

    fn end(mut self) -> (Totals, f64) {
        let asked = self.ending == Some(Ending::Asked);
        if asked {
            // Who ends the show knows what is not saved.
            if let Some(autosave) = &self.autosave {
                autosave.keep(None);
            }
        } else {
            self.rescue_drafts();
        }
        // It ended as it should.
        if let Some(note) = &mut self.note {
            note.left();
        }
        let why = if asked { "the show was ended" } else { "the session has ended" };
        self.guests.send_away(why);
        let tempo = f64::from(self.outlook.published.read().snapshot.clock.bpm);
        let troubles = self.troubles().list();
        for trouble in troubles {
            tracing::info!(subject = trouble.subject, message = trouble.message, "trouble at the end");
        }
        (self.runtime.stop(), tempo)
    }
}

/// A name for the session of a show: that of its file, else its own, in letters that a shell needs no quotes for.
fn name_of(path: Option<&Path>, show: &Show) -> String {
    let stem = path.and_then(Path::file_stem).map(|stem| stem.to_string_lossy().into_owned());
    let name = stem.unwrap_or_else(|| show.name.clone()).to_lowercase();
    let plain: String = name.chars().map(|c| if c.is_alphanumeric() { c } else { '-' }).collect();
    let short: String = plain.trim_matches('-').chars().take(40).collect();
    if short.is_empty() { "show".to_owned() } else { short }
}

/// The identity of a document on this machine: its file, or the show's name where it has none.
fn id_of(path: Option<&Path>, show: &Show) -> String {
    match path {
        Some(path) => path.canonicalize().unwrap_or_else(|_| path.to_owned()).display().to_string(),
        None => show.name.clone(),
    }
}

fn look_of(show: &Show, look: Option<String>) -> Result<Option<usize>, StartError> {
    let Some(look) = look else { return Ok((!show.looks.is_empty()).then_some(0)) };
    match show.look(&look) {
        Some((index, _)) => Ok(Some(index)),
        None => {
            let known: Vec<_> = show.looks.iter().map(|l| l.name.as_str()).collect();
            Err(StartError::NoLook { look, known: known.join(", ") })
        }
    }
}
