//! Whether the terminal is there. One that hung up is noticed here, and not by reading from it: that would go on for ever, at full speed,
//! where the signal that tells of it is ignored (`nohup`).

use std::io;
use std::os::fd::AsFd;

use nix::poll::{PollFd, PollFlags, PollTimeout, poll};

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
