//! A stand-in for a small controller of serial pixels: it answers on a pseudo-terminal, as one on a USB port would.

use std::fs::File;
use std::io::{self, Read, Write};
use std::os::fd::AsFd;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::{Builder, JoinHandle};
use std::time::Duration;

use nix::errno::Errno;
use nix::poll::{PollFd, PollFlags, PollTimeout, poll};
use nix::pty::{OpenptyResult, openpty};
use nix::sys::termios::{SetArg, cfmakeraw, tcgetattr, tcsetattr};
use nix::unistd::ttyname;
use splimo_wire::serial::{Packet, Reader};

/// The number of the last octets that are kept.
const TAIL: usize = 4096;

/// The pixels that came to a controller.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Shown {
    /// The channels of the last whole frame.
    pub channels: Vec<u8>,
    /// Whole frames.
    pub frames: u64,
    /// Octets that came down the line.
    pub octets: u64,
    /// The last octets that came, 4096 at the most.
    pub tail: Vec<u8>,
    /// Packets that were damaged.
    pub damaged: u64,
    /// The number of times that it was asked whether it is there.
    pub asked: u64,
}

/// A controller on a pseudo-terminal, on a thread of its own.
pub struct Controller {
    path: PathBuf,
    shown: Arc<Mutex<Shown>>,
    stop: Arc<AtomicBool>,
    silent: Arc<AtomicBool>,
    thread: Option<JoinHandle<()>>,
}

impl Controller {
    /// Starts a controller with room for some channels.
    ///
    /// # Errors
    /// If the system gives no pseudo-terminal or no thread.
    pub fn start(name: &str, room: u32) -> io::Result<Self> {
        let OpenptyResult { master, slave } = openpty(None, None)?;
        let mut settings = tcgetattr(slave.as_fd())?;
        cfmakeraw(&mut settings);
        tcsetattr(slave.as_fd(), SetArg::TCSANOW, &settings)?;
        let path = ttyname(slave.as_fd())?;
        let shown = Arc::new(Mutex::new(Shown::default()));
        let (stop, silent) = (Arc::new(AtomicBool::new(false)), Arc::new(AtomicBool::new(false)));
        let mut work = Work {
            line: File::from(master),
            // As long as this is open, the line stays whole while others come and go.
            _kept: File::from(slave),
            name: name.to_owned(),
            room,
            frame: vec![0; room as usize],
            shown: shown.clone(),
            stop: stop.clone(),
            silent: silent.clone(),
        };
        let thread = Builder::new().name("controller".into()).spawn(move || work.run())?;
        Ok(Self { path, shown, stop, silent, thread: Some(thread) })
    }

    /// The path of its port.
    #[must_use]
    pub fn path(&self) -> &Path {
        &self.path
    }

    /// The pixels that came so far.
    #[must_use]
    pub fn shown(&self) -> Shown {
        self.shown.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }

    /// Lets it fall silent, as without power, or answer again.
    pub fn set_silent(&self, silent: bool) {
        self.silent.store(silent, Ordering::Relaxed);
    }
}

impl Drop for Controller {
    fn drop(&mut self) {
        self.stop.store(true, Ordering::Relaxed);
        if let Some(thread) = self.thread.take() {
            let _ = thread.join();
        }
    }
}

struct Work {
    line: File,
    _kept: File,
    name: String,
    room: u32,
    frame: Vec<u8>,
    shown: Arc<Mutex<Shown>>,
    stop: Arc<AtomicBool>,
    silent: Arc<AtomicBool>,
}

impl Work {
    fn run(&mut self) {
        let (mut reader, mut buffer) = (Reader::default(), [0; 1024]);
        while !self.stop.load(Ordering::Relaxed) {
            let mut fd = [PollFd::new(self.line.as_fd(), PollFlags::POLLIN)];
            let patience = PollTimeout::try_from(Duration::from_millis(50)).unwrap_or(PollTimeout::ZERO);
            match poll(&mut fd, patience) {
                Ok(0) | Err(Errno::EINTR) => continue,
                Ok(_) => {}
                Err(_) => return,
            }
            let Ok(count) = self.line.read(&mut buffer) else { return };
            if self.silent.load(Ordering::Relaxed) {
                continue;
            }
            self.note(&buffer[..count]);
            let mut answers = Vec::new();
            reader.push(&buffer[..count], |packet, sequence| self.answer(&packet, sequence, &mut answers));
            self.shown.lock().unwrap_or_else(PoisonError::into_inner).damaged = reader.damaged;
            if self.line.write_all(&answers).is_err() {
                return;
            }
        }
    }

    fn note(&self, octets: &[u8]) {
        let mut shown = self.shown.lock().unwrap_or_else(PoisonError::into_inner);
        shown.octets += octets.len() as u64;
        shown.tail.extend_from_slice(octets);
        let more = shown.tail.len().saturating_sub(TAIL);
        shown.tail.drain(..more);
    }

    fn answer(&mut self, packet: &Packet<'_>, sequence: u8, out: &mut Vec<u8>) {
        match packet {
            Packet::Ask => {
                self.shown.lock().unwrap_or_else(PoisonError::into_inner).asked += 1;
                Packet::Ready { channels: self.room, name: &self.name }.emit(sequence, out);
            }
            Packet::Pixels { first, last, channels } => {
                let start = *first as usize;
                let Some(place) = self.frame.get_mut(start..start + channels.len()) else {
                    return Packet::Refused.emit(sequence, out);
                };
                place.copy_from_slice(channels);
                if *last {
                    let mut shown = self.shown.lock().unwrap_or_else(PoisonError::into_inner);
                    shown.frames += 1;
                    shown.channels.clear();
                    shown.channels.extend_from_slice(&self.frame[..start + channels.len()]);
                }
                Packet::Taken.emit(sequence, out);
            }
            // Answers are not for it.
            Packet::Ready { .. } | Packet::Taken | Packet::Refused => {}
        }
    }
}
