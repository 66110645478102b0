//! Events of the terminal. A terminal that is gone is noticed before it is read: reading from one that hung up would go on for ever,
//! at full speed, where the signal that tells of it is ignored (`nohup`).

use std::io;
use std::os::fd::AsFd;
use std::time::Duration;

use nix::errno::Errno;
use nix::poll::{PollFd, PollFlags, PollTimeout, poll};
use ratatui::crossterm::event::{self, Event};

/// The next event within some time, if one comes. What else a terminal tells, such as its size, is looked for when that is over; so the
/// time is to be short.
///
/// # Errors
/// If the terminal is gone.
pub fn next(patience: Duration) -> io::Result<Option<Event>> {
    // Of what was read at once before, some may be left.
    if let Some(event) = read_after(Duration::ZERO)? {
        return Ok(Some(event));
    }
    read_after(patience)
}

fn read_after(patience: Duration) -> io::Result<Option<Event>> {
    wait(&io::stdin(), patience)?;
    if event::poll(Duration::ZERO)? { event::read().map(Some) } else { Ok(None) }
}

/// Waits until something can be read from a terminal.
fn wait(terminal: &impl AsFd, patience: Duration) -> io::Result<()> {
    let timeout = PollTimeout::try_from(patience).unwrap_or(PollTimeout::MAX);
    let mut watched = [PollFd::new(terminal.as_fd(), PollFlags::POLLIN)];
    match poll(&mut watched, timeout) {
        Ok(_) | Err(Errno::EINTR) => {}
        Err(error) => return Err(error.into()),
    }
    let gone = PollFlags::POLLHUP | PollFlags::POLLERR | PollFlags::POLLNVAL;
    match watched[0].revents() {
        Some(told) if told.intersects(gone) => Err(io::Error::other("it hung up")),
        _ => Ok(()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::time::Instant;

    #[test]
    fn a_terminal_that_hung_up_is_an_error_at_once() {
        let pair = nix::pty::openpty(None, None).expect("a terminal");
        let start = Instant::now();
        assert!(wait(&pair.slave, Duration::from_millis(5)).is_ok(), "nobody types");
        drop(pair.master);
        let error = wait(&pair.slave, Duration::from_secs(60)).expect_err("it hung up");
        assert!(error.to_string().contains("hung up") && start.elapsed() < Duration::from_secs(30));
    }
}
