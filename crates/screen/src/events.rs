//! The terminal's events, and whether the terminal is there. One that hung up is noticed here, and not by reading from it: that would go
//! on for ever, at full speed, where the signal that tells of it is ignored (`nohup`).

use std::io;
use std::os::fd::AsFd;
use std::sync::{Mutex, PoisonError};
use std::thread::Builder;

use crossbeam_channel::{Receiver, Sender, unbounded};
use nix::poll::{PollFd, PollFlags, PollTimeout, poll};
use ratatui::crossterm::event::{self, Event};

/// The terminal's events, read by one thread of the process: of two, each would take some of the keys.
static EVENTS: Mutex<Option<Receiver<Event>>> = Mutex::new(None);

/// The terminal's events, as they come. The channel is closed where the terminal is gone.
///
/// # Errors
/// If the system gives no thread.
pub(crate) fn read_events() -> io::Result<Receiver<Event>> {
    let mut known = EVENTS.lock().unwrap_or_else(PoisonError::into_inner);
    if let Some(events) = &*known {
        return Ok(events.clone());
    }
    let (send, events): (Sender<Event>, _) = unbounded();
    Builder::new().name("input".into()).spawn(move || {
        while let Ok(event) = event::read() {
            if send.send(event).is_err() {
                return;
            }
        }
    })?;
    *known = Some(events.clone());
    Ok(events)
}

/// True if the terminal of this process is gone.
#[must_use]
pub fn terminal_is_gone() -> bool {
    is_gone(&io::stdin())
}

fn is_gone(terminal: &impl AsFd) -> bool {
    let mut watched = [PollFd::new(terminal.as_fd(), PollFlags::POLLIN)];
    let gone = PollFlags::POLLHUP | PollFlags::POLLERR | PollFlags::POLLNVAL;
    poll(&mut watched, PollTimeout::ZERO).is_ok() && watched[0].revents().is_some_and(|told| told.intersects(gone))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_terminal_that_hung_up_is_gone() {
        let pair = nix::pty::openpty(None, None).expect("a terminal");
        assert!(!is_gone(&pair.slave), "nobody types");
        drop(pair.master);
        assert!(is_gone(&pair.slave));
    }
}
