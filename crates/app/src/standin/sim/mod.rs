//! Stand-ins for what sends to Splimo: a pad controller (MIDI), a lighting desk (Art-Net, sACN) and a DJ program (MIDI clock, OSC). Each
//! is a full-screen program for the keyboard, and follows a file of timed lines.

pub mod demo_pads;
pub mod desk;
pub mod dj;
pub mod midi_out;
pub mod pads;
pub mod script;

use std::io;
use std::mem::ManuallyDrop;
use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

use ratatui::Terminal;
use ratatui::backend::CrosstermBackend;
use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{self, Event, KeyCode, KeyEvent, KeyEventKind, KeyModifiers};
use ratatui::layout::Rect;
use splimo_screen::events::terminal_is_gone;
use splimo_screen::kit::theme::{Depth, Theme};
use splimo_screen::terminal::{Taken, give_back};

use script::Script;

/// The time between two turns.
const TURN: Duration = Duration::from_millis(5);
/// The time that a screen may take to end.
const GONE: Duration = Duration::from_millis(500);
/// The time between two pictures.
const PICTURE: Duration = Duration::from_millis(50);

/// A stand-in.
pub trait Sim {
    /// Does what a line of a script says.
    ///
    /// # Errors
    /// The fault of the line, and what it could be.
    fn line(&mut self, words: &[&str]) -> Result<(), String>;

    /// Handles a key.
    fn key(&mut self, key: KeyEvent);

    /// Does what is due, so many seconds after it began.
    fn turn(&mut self, now: f64);

    /// Draws itself.
    fn draw(&self, theme: Theme, area: Rect, buffer: &mut Buffer);
}

/// Has a stand-in follow a script until that ends and `over` says so, without a screen.
///
/// # Errors
/// The fault of a line.
pub fn follow(sim: &mut dyn Sim, mut script: Script, over: &dyn Fn() -> bool) -> Result<(), String> {
    let start = Instant::now();
    while !over() && !script.is_done() {
        let now = start.elapsed().as_secs_f64();
        for line in script.due(now) {
            sim.line(&line.words()).map_err(|why| format!("line {}: {why}", line.number))?;
        }
        sim.turn(now);
        std::thread::sleep(TURN);
    }
    sim.turn(start.elapsed().as_secs_f64());
    Ok(())
}

/// Shows a stand-in on this terminal until a person leaves, and has it follow a script beside. The screen has a thread of its own, which
/// is not waited for where it hangs on a terminal that is gone.
///
/// # Errors
/// If the terminal cannot be used, or a line of the script is wrong.
pub fn show(mut sim: Box<dyn Sim + Send>, script: Script, over: &dyn Fn() -> bool, log: &Path) -> io::Result<()> {
    let (ended, log) = (Arc::new(AtomicBool::new(false)), log.to_owned());
    let told = ended.clone();
    let screen =
        std::thread::Builder::new().name("screen".into()).spawn(move || run(&mut *sim, script, &told, &log))?;
    while !screen.is_finished() && !over() && !terminal_is_gone() {
        std::thread::sleep(PICTURE);
    }
    ended.store(true, Ordering::Relaxed);
    let since = Instant::now();
    while !screen.is_finished() && since.elapsed() < GONE {
        std::thread::sleep(TURN);
    }
    if screen.is_finished() {
        return screen.join().unwrap_or(Ok(()));
    }
    give_back();
    Ok(())
}

fn run(sim: &mut dyn Sim, mut script: Script, ended: &AtomicBool, log: &Path) -> io::Result<()> {
    let _taken = Taken::take(Some(log))?;
    // Its drop would tell of a terminal that is gone on that same terminal, and panic.
    let mut terminal =
        ManuallyDrop::new(Terminal::new(CrosstermBackend::new(io::BufWriter::with_capacity(1 << 16, io::stdout())))?);
    let theme = Theme::of(Depth::of_environment());
    let (start, mut drawn) = (Instant::now(), None::<Instant>);
    while !ended.load(Ordering::Relaxed) {
        let now = start.elapsed().as_secs_f64();
        for line in script.due(now) {
            let number = line.number;
            sim.line(&line.words()).map_err(|why| io::Error::other(format!("line {number}: {why}")))?;
        }
        sim.turn(now);
        if drawn.is_none_or(|at| at.elapsed() >= PICTURE) {
            drawn = Some(Instant::now());
            terminal.draw(|frame| {
                let area = frame.area();
                frame.buffer_mut().set_style(area, theme.text());
                sim.draw(theme, area, frame.buffer_mut());
            })?;
        }
        if event::poll(TURN)?
            && let Event::Key(key) = event::read()?
            && key.kind != KeyEventKind::Release
        {
            let held = key.modifiers.contains(KeyModifiers::CONTROL);
            match key.code {
                KeyCode::Char('c' | 'q') if held => return Ok(()),
                KeyCode::Esc => return Ok(()),
                _ => sim.key(key),
            }
        }
    }
    Ok(())
}
