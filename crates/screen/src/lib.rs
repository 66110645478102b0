//! The terminal screens. They read snapshots and send actions, and nothing else.

#[cfg(test)]
mod any_input_test;
mod chrome;
mod face;
mod inputs;
mod keys;
pub mod kit;
mod looks;

mod output;
mod overlay;
mod play;
mod rig;
pub mod terminal;
#[cfg(test)]
mod tests;

use std::io::{self, Write};
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::Path;
use std::sync::Arc;
use std::thread::Builder;
use std::time::Duration;

use ratatui::crossterm::event::{self, Event, KeyEventKind};
use ratatui::crossterm::execute;
use ratatui::crossterm::terminal::{BeginSynchronizedUpdate, EndSynchronizedUpdate};
use splimo_core::action::{Action, Scope};
use splimo_core::engine::LightTest;

use face::{Face, Seen};
use rig::Desk;
use splimo_runtime::clock::{Deadlines, Instant};
use splimo_runtime::crash_note::{CrashNote, Running};
use splimo_runtime::document::{Document, Outcome};
use splimo_runtime::trouble::reason;
use splimo_runtime::{Outlook, Runtime, fault, supplies};
use terminal::Taken;

/// The name of the screen's thread.
pub const THREAD: &str = "screen";
/// How long the screen may take to come to its end, in seconds.
const PATIENCE: f64 = 0.5;
/// Screens a second.
const RATE: f64 = 30.0;
/// Failures after which the screen gives up and leaves the lights to run alone.
const MOST_FAILURES: usize = 3;

/// Says whether the show is to end.
pub type Ended = Arc<dyn Fn() -> bool + Send + Sync>;

/// Shows a running show until the person leaves or `ended` says so. The lights run on whatever becomes of the screen: it
/// has a thread of its own, and one that hangs, as in reading from a terminal that is gone, is not waited for.
///
/// # Errors
/// Where there is no thread for it.
pub fn run(document: Document, runtime: &Arc<Runtime>, outlook: Outlook, ended: &Ended) -> io::Result<()> {
    let (theirs, until) = (runtime.clone(), ended.clone());
    let work = move || keep_showing(document, &theirs, outlook, until.as_ref());
    let screen = Builder::new().name(THREAD.into()).spawn(work)?;
    let mut since = None;
    while !screen.is_finished() {
        if ended() && Instant::now().seconds_since(*since.get_or_insert_with(Instant::now)) > PATIENCE {
            tracing::error!("the screen hangs; it is left behind");
            terminal::give_back();
            return Ok(());
        }
        std::thread::sleep(Duration::from_millis(10));
    }
    screen.join().unwrap_or(Ok(()))
}

fn keep_showing(
    mut document: Document,
    runtime: &Runtime,
    mut outlook: Outlook,
    ended: &dyn Fn() -> bool,
) -> io::Result<()> {
    let mut face = Face::new(document.show());
    if document.offers_recovery() {
        face.offer_recovery();
    }
    let mut note = CrashNote::of(&document.id())?;
    if let Some(ran) = note.found() {
        face.offer_resuming(ran.clone());
    }
    let mut failures = 0;
    loop {
        let session = AssertUnwindSafe(|| session(&mut face, &mut document, runtime, &mut outlook, &mut note, ended));
        match catch_unwind(session) {
            Ok(Ok(())) => {
                // Ended by a signal, as where the connection is lost, it is offered the next time.
                if face.leaves() {
                    note.left();
                }
                return Ok(());
            }
            Ok(Err(error)) => {
                return alone(runtime, &format!("the terminal cannot be used any more: {error}"), ended);
            }
            Err(panic) => {
                failures += 1;
                let reason = reason(panic.as_ref());
                runtime.troubles().tell("screen", format!("failed and was started anew: {reason}"));
                if failures >= MOST_FAILURES {
                    return alone(runtime, &format!("the screen failed {failures} times: {reason}"), ended);
                }
            }
        }
    }
}

/// The lights run on without a screen.
fn alone(runtime: &Runtime, why: &str, ended: &dyn Fn() -> bool) -> io::Result<()> {
    tracing::error!("{why}");
    // Nobody could end what lies over the lights.
    runtime.act(&Action::Prove(LightTest::Off));
    // The terminal may be gone altogether, and printing to it must not end the show.
    let _ = writeln!(io::stderr(), "splimo: {why}\nThe lights run on; Ctrl-C ends the show.");
    while !ended() {
        std::thread::sleep(Duration::from_millis(50));
    }
    Ok(())
}

/// One taking of the terminal.
fn session(
    face: &mut Face,
    document: &mut Document,
    runtime: &Runtime,
    outlook: &mut Outlook,
    note: &mut CrashNote,
    ended: &dyn Fn() -> bool,
) -> io::Result<()> {
    let mut taken = Taken::take()?;
    let mut deadlines = Deadlines::new(Instant::now(), RATE);
    let mut name = document.path().map(Path::to_owned);
    while !ended() && !face.leaves() {
        fault::strike("screen");
        tell_of_autosave(document, runtime);
        face.see_saved(document.saved());
        if name.as_deref() != document.path() {
            name = document.path().map(Path::to_owned);
            if let Err(error) = note.go_over(&document.id()) {
                tracing::warn!(%error, "what runs goes on being noted under the old name");
            }
        }
        let snapshot = outlook.snapshot.read();
        let edition = runtime.editions().get(snapshot.edition);
        let (network, ports) = (runtime.exchange().status(), runtime.editions().ports());
        runtime.exchange().watch(face.watched());
        supplies::tell(&edition.show, snapshot, runtime.troubles());
        if !face.asks_whether_to_resume() && snapshot.frame > 0 {
            note.keep(Running::of(&edition.show, snapshot));
        }
        let seen = Seen {
            show: &edition.show,
            rig: &edition.rig,
            desk: desk(document, runtime),
            unsaved: document.unsaved(),
            snapshot,
            output: outlook.output.read(),
            network: &network,
            ports: &ports,
            troubles: &runtime.troubles().list(),
        };
        // One screen at a time where the terminal knows how; others ignore it.
        execute!(io::stdout(), BeginSynchronizedUpdate)?;
        taken.terminal.draw(|frame| face.draw(&seen, frame.area(), frame.buffer_mut()))?;
        execute!(io::stdout(), EndSynchronizedUpdate)?;
        let next = deadlines.next(Instant::now());
        wait_for_input(face, document, runtime, next)?;
    }
    Ok(())
}

fn tell_of_autosave(document: &Document, runtime: &Runtime) {
    match document.autosave_failure() {
        Some(why) => runtime.troubles().tell("autosave", format!("{why}; save the show elsewhere with Ctrl-W")),
        None => runtime.troubles().over("autosave"),
    }
}

fn desk(document: &Document, runtime: &Runtime) -> Desk {
    let problems = runtime.editions().problems();
    Desk { show: document.show().clone(), kept: document.kept().clone(), problems }
}

/// Obeys what the person does until the next screen is due.
fn wait_for_input(face: &mut Face, document: &mut Document, runtime: &Runtime, until: Instant) -> io::Result<()> {
    // What a view asks for by itself, such as to keep what was nudged a while ago.
    heed(None, face, document, runtime);
    loop {
        let left = until.since(Instant::now()).max(0) as u64;
        if !event::poll(Duration::from_nanos(left))? {
            return Ok(());
        }
        face.see(desk(document, runtime));
        match event::read()? {
            Event::Key(key) if key.kind != KeyEventKind::Release => {
                for key in keys::pressed(face.view(), key) {
                    let asked = face.key(key);
                    heed(asked, face, document, runtime);
                }
            }
            Event::Mouse(mouse) => {
                let asked = face.mouse(mouse);
                heed(asked, face, document, runtime);
            }
            Event::Paste(text) => {
                face.paste(&text);
                heed(None, face, document, runtime);
            }
            _ => {}
        }
        if left == 0 {
            return Ok(());
        }
    }
}

/// Obeys what was asked for, and then what the views ask for in turn.
fn heed(asked: Option<Action>, face: &mut Face, document: &mut Document, runtime: &Runtime) {
    if let Some(action) = asked {
        obey(&action, face, document, runtime);
    }
    while let Some(action) = face.queued() {
        obey(&action, face, document, runtime);
    }
}

/// Sends an action to whoever carries it out.
fn obey(action: &Action, face: &mut Face, document: &mut Document, runtime: &Runtime) {
    match action.info().scope {
        Scope::Engine => {
            if let Some(word) = face.answer_to(action, document.show()) {
                face.say(word);
            }
            runtime.act(action);
        }
        Scope::Show => {
            let outcome = document.act(action);
            face.see(desk(document, runtime));
            match outcome {
                // What is only rescued as one leaves does not reach the lights any more.
                Outcome::Changed if face.leaves() => {}
                Outcome::Changed => {
                    runtime.go_over(document.show().clone());
                    if let Some(words) = said_of(action, document) {
                        face.say(words);
                    }
                }
                Outcome::Done(words) => {
                    runtime.go_over(document.show().clone());
                    face.say(words);
                }
                Outcome::Said(words) => face.say(words),
                Outcome::Refused(why) => face.refused(why),
                Outcome::Nothing => {}
            }
        }
        Scope::Runtime => match runtime.carry_out(action) {
            Ok(said) => face.say(said),
            Err(why) => face.say(why),
        },
        Scope::Screen => {
            // Backing out of nothing takes back what is armed.
            let asked = matches!(action, Action::QuitNow) && face.asks_to_leave();
            if *action == Action::Back && !face.has_open() {
                runtime.act(&Action::Disarm);
            }
            face.act(action, document.unsaved());
            if asked {
                document.left();
            }
        }
    }
}

/// What there is to say of a change that the screen does not show anyway.
fn said_of(action: &Action, document: &Document) -> Option<String> {
    match action {
        Action::TryEdit(_) | Action::DropTried | Action::Edit(_) => None,
        Action::Undo => Some("taken back; Ctrl-Y makes it again".to_owned()),
        Action::Redo => Some("made again".to_owned()),
        _ => Some(face::said_of_settings(&document.show().settings)),
    }
}
