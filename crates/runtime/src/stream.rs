//! Streams of bytes from pipes, devices and standard input, which are looked at without waiting for them: one wants to be
//! able to leave.

use std::fs::OpenOptions;
use std::io;
use std::os::fd::{AsFd, OwnedFd};
use std::os::unix::fs::OpenOptionsExt;
use std::path::Path;

use nix::errno::Errno;
use nix::fcntl::OFlag;
use nix::poll::{PollFd, PollFlags, PollTimeout, poll};

/// The time that one waits for a stream before one looks whether one is still wanted, in milliseconds.
pub const PATIENCE: u8 = 50;

/// A stream.
pub struct Stream(OwnedFd);

/// The state of a stream at the moment.
pub enum There {
    /// So many bytes.
    Bytes(usize),
    /// Nothing yet.
    Nothing,
    /// Nobody writes into it.
    End,
}

impl Stream {
    /// Opens a pipe, a device or a file; none is standard input.
    ///
    /// # Errors
    /// Those of the system.
    pub fn open(path: Option<&Path>) -> io::Result<Self> {
        match path {
            None => io::stdin().as_fd().try_clone_to_owned().map(Self),
            Some(path) => {
                let flags = OFlag::O_NONBLOCK.bits();
                OpenOptions::new().read(true).custom_flags(flags).open(path).map(|file| Self(file.into()))
            }
        }
    }

    /// Reads what there is, after waiting for [`PATIENCE`] at the most.
    ///
    /// # Errors
    /// Those of the system.
    pub fn read(&self, bytes: &mut [u8]) -> io::Result<There> {
        let mut polled = [PollFd::new(self.0.as_fd(), PollFlags::POLLIN)];
        match poll(&mut polled, PollTimeout::from(PATIENCE)) {
            Ok(0) | Err(Errno::EINTR) => return Ok(There::Nothing),
            Ok(_) => {}
            Err(error) => return Err(error.into()),
        }
        match nix::unistd::read(&self.0, bytes) {
            Ok(0) => Ok(There::End),
            Ok(count) => Ok(There::Bytes(count)),
            Err(Errno::EINTR | Errno::EAGAIN) => Ok(There::Nothing),
            Err(error) => Err(error.into()),
        }
    }
}
