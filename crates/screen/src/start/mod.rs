//! The start screen: what runs, what was open before, and what can be begun. It belongs to no session, and asks for nothing of one.

mod drawing;
mod item;
mod new_show;
mod offer;
mod state;
#[cfg(test)]
mod tests;

use std::io::{self, Write};
use std::path::Path;
use std::time::Duration;

use crossbeam_channel::RecvTimeoutError;
use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{Event, KeyCode, KeyEventKind, MouseButton, MouseEventKind};
use ratatui::crossterm::terminal::size;
use ratatui::layout::{Position, Rect};

use crate::config::Config;
use crate::encoder::Encoder;
use crate::events::{read_events, terminal_is_gone};
use crate::terminal::{Taken, set_title};
pub use offer::{Choice, Offers, Recent, Running};
use state::StartScreen;

/// The time after which it is looked anew at what runs.
const ANEW: Duration = Duration::from_secs(1);

/// Shows the start screen until something is chosen. `told` is said at first, such as why what was chosen before cannot be.
///
/// # Errors
/// If the terminal cannot be used.
pub fn run(look: impl Fn() -> Offers, told: Option<String>, config: &Config, log: &Path) -> io::Result<Choice> {
    let _taken = Taken::take(Some(log))?;
    let mut screen = StartScreen::new(look());
    if let Some(told) = told {
        screen.say(told);
    }
    let mut encoder = Encoder::new(config.ascii);
    let theme = config.theme();
    let events = read_events()?;
    io::stdout().write_all(&set_title("Splimo"))?;
    loop {
        let (width, height) = size()?;
        let area = Rect::new(0, 0, width, height);
        let mut buffer = Buffer::empty(area);
        screen.draw(theme, area, &mut buffer);
        let mut stdout = io::stdout().lock();
        stdout.write_all(encoder.encode(&buffer, false))?;
        stdout.flush()?;
        drop(stdout);
        if terminal_is_gone() {
            return Err(io::Error::other("it hung up"));
        }
        let event = match events.recv_timeout(ANEW) {
            Ok(event) => event,
            Err(RecvTimeoutError::Timeout) => {
                screen.take(look());
                continue;
            }
            Err(RecvTimeoutError::Disconnected) => return Err(io::Error::other("nothing can be read from it")),
        };
        let chosen = match event {
            Event::Key(key) if key.kind != KeyEventKind::Release => screen.key(key),
            Event::Paste(text) => {
                screen.paste(&text);
                None
            }
            Event::Mouse(mouse) => match mouse.kind {
                MouseEventKind::Down(MouseButton::Left) => screen.click(Position::new(mouse.column, mouse.row)),
                MouseEventKind::ScrollUp => screen.key(KeyCode::Up.into()),
                MouseEventKind::ScrollDown => screen.key(KeyCode::Down.into()),
                _ => None,
            },
            Event::Resize(..) => {
                encoder.forget();
                None
            }
            Event::Key(_) | Event::FocusGained | Event::FocusLost => None,
        };
        if let Some(chosen) = chosen {
            return Ok(chosen);
        }
    }
}
