//! The way of MIDI out to a controller: a port of this machine, a raw device or a pipe. Nobody waits for it: what it does not take is
//! said again when it does.

use std::fs::{File, OpenOptions};
use std::io::{self, Write};
use std::os::unix::fs::OpenOptionsExt;
use std::path::PathBuf;

use nix::fcntl::OFlag;

use super::midi_port::OutPort;
use crate::clock::Instant;

/// The time after which it is tried again to open what could not be opened, in seconds.
const RETRY: f64 = 0.5;

enum Way {
    Closed,
    File(File),
    Port(OutPort),
}

/// A way of MIDI out.
pub struct MidiOut {
    address: String,
    way: Way,
    tried: Option<Instant>,
}

impl MidiOut {
    /// A way to an address: a path, or the name of a port.
    #[must_use]
    pub fn to(address: &str) -> Self {
        Self { address: address.to_owned(), way: Way::Closed, tried: None }
    }

    /// True if it is the way to an address.
    #[must_use]
    pub fn is_to(&self, address: &str) -> bool {
        self.address == address
    }

    /// Opens it where it is closed; true if it has been opened just now, so that all has to be said anew.
    pub fn open(&mut self) -> bool {
        let now = Instant::now();
        if self.address.is_empty() {
            return false;
        }
        let waits = self.tried.is_some_and(|tried| now.seconds_since(tried) < RETRY);
        if !matches!(self.way, Way::Closed) || waits {
            return false;
        }
        self.tried = Some(now);
        self.way = self.opened().unwrap_or(Way::Closed);
        !matches!(self.way, Way::Closed)
    }

    fn opened(&self) -> Option<Way> {
        let path = PathBuf::from(&self.address);
        if self.address.contains('/') || path.exists() {
            let flags = OFlag::O_NONBLOCK.bits();
            return OpenOptions::new().write(true).custom_flags(flags).open(path).ok().map(Way::File);
        }
        OutPort::open(&self.address).map(Way::Port)
    }

    /// Sends bytes; false where they were not taken.
    pub fn send(&mut self, bytes: &[u8]) -> bool {
        match &mut self.way {
            Way::Closed => false,
            Way::Port(port) => {
                let sent = port.send(bytes);
                if !sent {
                    self.way = Way::Closed;
                }
                sent
            }
            Way::File(file) => match file.write_all(bytes) {
                Ok(()) => true,
                Err(error) => {
                    if error.kind() != io::ErrorKind::WouldBlock {
                        self.way = Way::Closed;
                    }
                    false
                }
            },
        }
    }
}
