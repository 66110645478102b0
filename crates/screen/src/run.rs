//! Running a screen: the terminal's events, the session's updates and the drawing come together here. Events are read by one
//! thread and the terminal is written by another, so that a key never waits for drawing.

use std::io;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::PathBuf;
use std::sync::Arc;
use std::thread::{self, Builder};
use std::time::{Duration, Instant};

use crossbeam_channel::{Receiver, never, select};
use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{Event, KeyCode, KeyEvent, KeyEventKind};
use ratatui::crossterm::terminal::size;
use ratatui::layout::Rect;
use splimo_document::Command;
use splimo_link::message::{Request, Update};
use splimo_link::subscription::Subscription;

use crate::config::Config;
use crate::events::{read_events, terminal_is_gone};
use crate::model::News;
use crate::overlay::Leaving;
use crate::pace::Pace;
use crate::terminal::{Taken, give_back, set_title, take_again};
use crate::typed_path::path_from;
use crate::ui::Ui;
use crate::views::pressed;
use crate::writer::Writer;

/// The name of the thread that handles events and draws.
pub const THREAD: &str = "screen";
/// Failures after which the screen gives up.
const MOST_FAILURES: usize = 3;
/// The time that a key waits for the session to answer a change of the document, so that the next one finds it done.
const ANSWERED: Duration = Duration::from_millis(400);
/// The number of times that the views are told that time passes.
const TICK: Duration = Duration::from_millis(50);
/// The number of times that it is looked at whether the screen is to end.
const LOOKED: Duration = Duration::from_millis(20);
/// The time that writing to the terminal may take to come to its end.
const PATIENCE: Duration = Duration::from_millis(500);
/// The number of times that what is remembered of the screen is sent at the most.
const REMEMBERED: Duration = Duration::from_millis(30);

/// Sends a request to the session. It may wait for the session, but not for long.
pub type Sending = Box<dyn FnMut(&Request) -> io::Result<()> + Send>;

/// The link to a session.
pub struct Link {
    /// Sends a request.
    pub send: Sending,
    /// The updates of the session. It is closed where the link is broken.
    pub updates: Receiver<Update>,
}

/// The way a screen is run.
pub struct Options {
    /// True if the screen is to end, as by a signal.
    pub ended: Arc<dyn Fn() -> bool + Send + Sync>,
    /// True if the process was stopped and goes on, since this was asked the last time.
    pub resumed: Arc<dyn Fn() -> bool + Send + Sync>,
    /// True if the tutorial is gone through.
    pub tutorial: bool,
    /// A message that is shown at first.
    pub told: Option<String>,
    /// The choices of the person.
    pub config: Config,
    /// The file for what libraries write to standard error while the screen stands where it would appear.
    pub log: Option<PathBuf>,
    /// Called again and again in the screen's thread; tests make it panic.
    pub strike: fn(),
}

/// The next thing that a person asked for when a screen ends.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Elsewhere {
    /// With a show, which is opened or joined.
    Open(PathBuf),
    /// With a session that runs.
    Join(String),
}

/// The way a screen has ended.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum End {
    /// A person left, and ended the show.
    ShowEnded,
    /// A person left the show running, or a signal ended the screen.
    RunsOn,
    /// A person goes on somewhere else, and left the show running.
    Elsewhere(Elsewhere),
    /// The session ended, or sent the screen away; why.
    Sent(String),
    /// The link to the session broke.
    Lost,
    /// The terminal cannot be used any more; why.
    TerminalGone(String),
    /// The screen failed again and again; why.
    Failed(String),
}

/// Runs a screen until a person leaves it, the session ends, or the terminal is gone.
///
/// # Errors
/// If there is no terminal, or no thread.
pub fn run(link: Link, options: &Options) -> io::Result<End> {
    thread::scope(|scope| {
        let screen = Builder::new().name(THREAD.into()).spawn_scoped(scope, || run_here(link, options))?;
        screen.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic))
    })
}

fn run_here(mut link: Link, options: &Options) -> io::Result<End> {
    let config = &options.config;
    let mut ui = Ui::new(config.theme(), config.keys.clone());
    ui.begin(config.economy, config.reduced_motion);
    if let Some(words) = &options.told {
        ui.say(words.clone());
    }
    if options.tutorial {
        ui.begin_tutorial();
    }
    let mut failures = 0;
    let events = read_events()?;
    loop {
        let taken = Taken::take(options.log.as_deref())?;
        let attempt = AssertUnwindSafe(|| Screen::new(&mut ui, &mut link, &events, options).and_then(Screen::run));
        let result = catch_unwind(attempt);
        drop(taken);
        match result {
            Ok(Ok(end)) => return Ok(end),
            Ok(Err(error)) => return Ok(End::TerminalGone(error.to_string())),
            Err(panic) => {
                failures += 1;
                let reason = reason(panic.as_ref());
                let _ = (link.send)(&Request::Failed(reason.clone()));
                if failures >= MOST_FAILURES {
                    return Ok(End::Failed(format!("the screen failed {failures} times: {reason}")));
                }
            }
        }
    }
}

/// The words of a panic.
fn reason(panic: &(dyn std::any::Any + Send)) -> String {
    let text = panic.downcast_ref::<String>().cloned();
    text.or_else(|| panic.downcast_ref::<&str>().map(|s| (*s).to_owned())).unwrap_or_else(|| "no reason given".into())
}

/// True if a letter is sent again since its key is held, and the terminal says so.
fn repeats_a_letter(key: KeyEvent) -> bool {
    key.kind == KeyEventKind::Repeat && matches!(key.code, KeyCode::Char(_))
}

/// A screen that runs.
struct Screen<'r> {
    ui: &'r mut Ui,
    link: &'r mut Link,
    events: &'r Receiver<Event>,
    options: &'r Options,
    writer: Writer,
    pace: Pace,
    buffer: Option<Buffer>,
    /// The size of the terminal; none has to be asked for anew.
    size: Option<(u16, u16)>,
    /// True if something has changed since the last screen, and whether a person did it.
    stale: bool,
    urgent: bool,
    /// True if a person has done anything since the screen was remembered.
    touched: bool,
    number: u64,
    subscription: Option<Subscription>,
    memory: (Vec<u8>, Instant),
    ticked: Instant,
    /// The title that the window has.
    title: String,
    end: Option<End>,
}

impl<'r> Screen<'r> {
    fn new(ui: &'r mut Ui, link: &'r mut Link, events: &'r Receiver<Event>, options: &'r Options) -> io::Result<Self> {
        let now = Instant::now();
        Ok(Self {
            ui,
            link,
            events,
            options,
            writer: Writer::start(io::stdout(), options.config.ascii)?,
            pace: Pace::new(now),
            buffer: Some(Buffer::empty(Rect::ZERO)),
            size: None,
            stale: true,
            urgent: true,
            touched: true,
            number: 0,
            subscription: None,
            memory: (Vec::new(), now),
            ticked: now,
            title: String::new(),
            end: None,
        })
    }

    fn run(mut self) -> io::Result<End> {
        let result = self.turn();
        self.remember(true);
        if !self.writer.end(PATIENCE) {
            // A terminal that takes nothing cannot be put right, and is not waited for.
            tracing::warn!("the terminal takes nothing any more");
            std::mem::forget(thread::spawn(give_back));
        }
        result
    }

    fn turn(&mut self) -> io::Result<End> {
        loop {
            (self.options.strike)();
            self.tell_session();
            if let Some(end) = self.end.take() {
                return Ok(end);
            }
            if (self.options.ended)() {
                return Ok(End::RunsOn);
            }
            if terminal_is_gone() {
                return Err(io::Error::other("it hung up"));
            }
            if (self.options.resumed)() {
                take_again()?;
                self.size = None;
                self.stale = true;
                self.writer.forget();
            }
            let wait = self.draw_if_due()?;
            self.wait_for_something(wait.min(LOOKED))?;
        }
    }

    /// Waits for an event, an update or the writer, and handles what came.
    fn wait_for_something(&mut self, wait: Duration) -> io::Result<()> {
        let writing = !self.writer.is_idle();
        let written = if writing { self.writer.written().clone() } else { never() };
        select! {
            recv(self.events) -> event => match event {
                Ok(event) => self.handle(event),
                Err(_) => return Err(io::Error::other("nothing can be read from it")),
            },
            recv(self.link.updates) -> update => match update {
                Ok(update) => {
                    self.take(update);
                    while let Ok(update) = self.link.updates.try_recv() {
                        self.take(update);
                    }
                    self.ui.sync();
                }
                Err(_) => self.end = Some(self.end.take().unwrap_or(End::Lost)),
            },
            recv(written) -> written => match written {
                Ok(Ok(written)) => {
                    self.pace.took(Instant::now(), written.bytes, written.time);
                    self.buffer = Some(written.buffer);
                    self.writer.finished();
                }
                Ok(Err(error)) => return Err(error),
                Err(_) => return Err(io::Error::other("nothing can be written to it")),
            },
            default(wait) => {}
        }
        if self.ticked.elapsed() > TICK {
            self.ticked = Instant::now();
            self.ui.tick();
            self.send_what_was_asked();
        }
        Ok(())
    }

    fn handle(&mut self, event: Event) {
        match event {
            Event::Key(key) if key.kind == KeyEventKind::Release => {
                self.ui.released(key);
                self.send_what_was_asked();
            }
            // A key that is held down does not fire its pad again and again.
            Event::Key(key) if repeats_a_letter(key) && !self.ui.is_typed_into() => {}
            Event::Key(key) => {
                for key in pressed(key, |key| self.ui.is_bound(key)).collect::<Vec<_>>() {
                    self.ui.key(key);
                    self.send_what_was_asked();
                }
            }
            Event::Mouse(mouse) => {
                self.ui.mouse(mouse);
                self.send_what_was_asked();
            }
            Event::Paste(text) => {
                self.ui.paste(&text);
                self.send_what_was_asked();
            }
            Event::Resize(..) => {
                self.size = None;
                self.writer.forget();
            }
            // What is let go elsewhere is not told here.
            Event::FocusLost => {
                self.ui.let_all_go();
                self.send_what_was_asked();
            }
            Event::FocusGained => {}
        }
        (self.stale, self.urgent, self.touched) = (true, true, true);
    }

    /// Takes an update over; returns the number of a command that has been answered.
    fn take(&mut self, update: Update) -> Option<u64> {
        self.stale = true;
        match self.ui.take(update) {
            News::Answer(number, outcome) => {
                self.ui.answered(outcome);
                return Some(number);
            }
            News::Ended(why) => self.end = Some(self.end.take().unwrap_or(End::Sent(why))),
            News::Lost(why) => {
                tracing::warn!(why, "the document does not fit");
                self.end = Some(End::Lost);
            }
            News::None | News::Said(_) | News::Remembered(_) => {}
        }
        None
    }

    /// Sends every command that was asked for, one after the other.
    fn send_what_was_asked(&mut self) {
        while let Some(command) = self.ui.next_command() {
            let session = self.ui.model.session.as_ref();
            let folder = session.map(|session| session.folder()).unwrap_or_default();
            let show = self.ui.model.document.shown();
            let command = command.with_files(Some(show), |file| path_from(&folder, file));
            self.number += 1;
            let waits = match &command {
                Command::Engine(_) => false,
                Command::Document(_) | Command::Session(_) => true,
            };
            let base = matches!(command, Command::Document(_)).then(|| self.ui.model.document.edition());
            let request = Request::Command { number: self.number, command: Box::new(command), base };
            if (self.link.send)(&request).is_err() {
                self.end = Some(End::Lost);
                return;
            }
            if waits {
                self.wait_for_answer(self.number);
            }
        }
        match self.ui.leaves() {
            Some(Leaving::EndShow) => self.end = Some(End::ShowEnded),
            Some(Leaving::RunOn) => self.end = Some(End::RunsOn),
            Some(Leaving::Open(show)) => self.end = Some(End::Elsewhere(Elsewhere::Open(show.clone()))),
            Some(Leaving::Join(name)) => self.end = Some(End::Elsewhere(Elsewhere::Join(name.clone()))),
            None => {}
        }
    }

    /// Waits until a command has been answered, so that what is asked next is asked of what it made.
    fn wait_for_answer(&mut self, number: u64) {
        let until = Instant::now() + ANSWERED;
        loop {
            match self.link.updates.recv_deadline(until) {
                Ok(update) => {
                    if self.take(update) == Some(number) {
                        break;
                    }
                }
                Err(_) => {
                    self.ui.say("the session does not answer; what was asked for may come later".to_owned());
                    break;
                }
            }
        }
        self.ui.sync();
    }

    /// Tells the session what this screen shows now, where that is something else.
    fn tell_session(&mut self) {
        let subscription = self.ui.subscription();
        if self.subscription.as_ref() != Some(&subscription) {
            let request = Request::Subscribe(Box::new(subscription.clone()));
            self.subscription = Some(subscription);
            if (self.link.send)(&request).is_err() {
                self.end = Some(End::Lost);
            }
        }
        self.remember(false);
    }

    fn remember(&mut self, at_once: bool) {
        let due = self.touched && self.memory.1.elapsed() >= REMEMBERED;
        if !at_once && !due {
            return;
        }
        self.touched = false;
        let memory = self.ui.memory();
        self.memory.1 = Instant::now();
        if memory != self.memory.0 {
            self.memory.0.clone_from(&memory);
            // A link that broke is noticed elsewhere.
            let _ = (self.link.send)(&Request::Remember(memory));
        }
    }

    /// Draws, if there is anything new and the terminal has taken the last screen. Returns how long to wait for the next one.
    fn draw_if_due(&mut self) -> io::Result<Duration> {
        if !self.stale || !self.writer.is_idle() {
            return Ok(LOOKED);
        }
        let now = Instant::now();
        self.pace.spare(self.ui.is_economical());
        let wait = self.pace.wait(now, self.urgent);
        if !wait.is_zero() {
            return Ok(wait);
        }
        let (width, height) = match self.size {
            Some(known) => known,
            None => *self.size.insert(size()?),
        };
        let area = Rect::new(0, 0, width, height);
        let mut buffer = self.buffer.take().unwrap_or_default();
        buffer.resize(area);
        buffer.reset();
        self.ui.draw(area, &mut buffer);
        self.pace.draws(now);
        let mut aside = self.ui.take_aside();
        let title = self.ui.title();
        if title != self.title {
            aside.extend(set_title(&title));
            self.title = title;
        }
        self.writer.write(buffer, self.pace.is_sparing(), aside);
        (self.stale, self.urgent) = (false, false);
        Ok(LOOKED)
    }
}
