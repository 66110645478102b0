//! The screen of a stand-in: what it shows is drawn twenty times a second, and scrolled by lines.

use std::io;
use std::mem::ManuallyDrop;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::Builder;
use std::time::Duration;

use ratatui::Terminal;
use ratatui::backend::CrosstermBackend;
use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{self, Event, KeyCode, KeyEventKind, KeyModifiers};
use ratatui::layout::Rect;
use splimo_runtime::clock::Instant;
use splimo_screen::events::terminal_is_gone;
use splimo_screen::kit::theme::{Depth, Theme};
use splimo_screen::terminal::{Taken, give_back};

/// The time between two screens.
const PAUSE: Duration = Duration::from_millis(50);

/// Shows what is drawn until a person leaves or it is over; the first line that is drawn comes with it. The screen has a thread of
/// its own, which is not waited for where it hangs on a terminal that is gone.
///
/// # Errors
/// If the terminal cannot be used.
pub(super) fn run(
    over: impl Fn() -> bool,
    draw: impl Fn(&mut usize, Theme, Rect, &mut Buffer) + Send + 'static,
) -> io::Result<()> {
    let ended = Arc::new(AtomicBool::new(false));
    let told = ended.clone();
    let screen = Builder::new().name("screen".into()).spawn(move || show(&draw, &told))?;
    while !screen.is_finished() && !over() && !terminal_is_gone() {
        std::thread::sleep(PAUSE);
    }
    ended.store(true, Ordering::Relaxed);
    let patience = Instant::now().plus(500_000_000);
    while !screen.is_finished() && Instant::now() < patience {
        std::thread::sleep(Duration::from_millis(10));
    }
    if screen.is_finished() {
        return screen.join().unwrap_or(Ok(()));
    }
    give_back();
    Ok(())
}

fn show(draw: &impl Fn(&mut usize, Theme, Rect, &mut Buffer), ended: &AtomicBool) -> io::Result<()> {
    let _taken = Taken::take(Some(&splimo_runtime::files::state_folder().join("splimo.log")))?;
    // Its drop would tell of a terminal that is gone on that same terminal, and panic.
    let mut terminal =
        ManuallyDrop::new(Terminal::new(CrosstermBackend::new(io::BufWriter::with_capacity(1 << 16, io::stdout())))?);
    let theme = Theme::of(Depth::of_environment());
    let mut first = 0usize;
    while !ended.load(Ordering::Relaxed) {
        terminal.draw(|frame| draw(&mut first, theme, frame.area(), frame.buffer_mut()))?;
        if !event::poll(PAUSE)? {
            continue;
        }
        if let Event::Key(key) = event::read()?
            && key.kind != KeyEventKind::Release
        {
            let held = key.modifiers.contains(KeyModifiers::CONTROL);
            match key.code {
                KeyCode::Char('c' | 'q') if held => return Ok(()),
                KeyCode::Char('q') | KeyCode::Esc => return Ok(()),
                KeyCode::Down => first += 1,
                KeyCode::Up => first = first.saturating_sub(1),
                _ => {}
            }
        }
    }
    Ok(())
}
