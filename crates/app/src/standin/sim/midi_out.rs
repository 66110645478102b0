//! The way of MIDI out of a stand-in: into a pipe, which is made where there is none. Nobody has to read; what nobody reads is lost, as
//! in a cable.

use std::fs::{File, OpenOptions};
use std::io::{self, Read, Write};
use std::os::unix::fs::{FileTypeExt, OpenOptionsExt};
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use nix::fcntl::OFlag;
use nix::sys::stat::Mode;

/// The time after which it is looked whether somebody reads by now.
const LOOK: Duration = Duration::from_millis(50);

/// A pipe, written into or read from.
pub struct MidiPipe {
    path: PathBuf,
    file: Option<File>,
    looked: Option<Instant>,
}

impl MidiPipe {
    /// A pipe at a path.
    ///
    /// # Errors
    /// If there is something else, or none can be made.
    pub fn at(path: &Path) -> io::Result<Self> {
        match std::fs::metadata(path) {
            Ok(there) if there.file_type().is_fifo() || there.file_type().is_char_device() => {}
            Ok(_) => {
                return Err(io::Error::other(format!("{} is there, and no pipe; choose another path", path.display())));
            }
            Err(_) => nix::unistd::mkfifo(path, Mode::S_IRUSR | Mode::S_IWUSR)?,
        }
        Ok(Self { path: path.to_owned(), file: None, looked: None })
    }

    /// True if somebody is at the other end.
    #[must_use]
    pub fn is_connected(&self) -> bool {
        self.file.is_some()
    }

    fn open(&mut self, write: bool) -> Option<&mut File> {
        if self.file.is_none() && self.looked.is_none_or(|at| at.elapsed() >= LOOK) {
            self.looked = Some(Instant::now());
            let flags = OFlag::O_NONBLOCK.bits();
            self.file = OpenOptions::new().read(!write).write(write).custom_flags(flags).open(&self.path).ok();
        }
        self.file.as_mut()
    }

    /// Sends bytes, if somebody reads.
    pub fn send(&mut self, bytes: &[u8]) {
        if let Some(file) = self.open(true)
            && let Err(error) = file.write_all(bytes)
            && error.kind() != io::ErrorKind::WouldBlock
        {
            self.file = None;
        }
    }

    /// Opens it for sending, so that what is sent next is not the first to find nobody there.
    pub fn connect(&mut self) {
        self.open(true);
    }

    /// The messages that came since.
    pub fn receive(&mut self) -> Vec<u8> {
        let mut bytes = [0; 512];
        match self.open(false).map(|file| file.read(&mut bytes)) {
            Some(Ok(count)) => bytes[..count].to_vec(),
            Some(Err(_)) | None => Vec::new(),
        }
    }
}
