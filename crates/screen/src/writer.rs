//! The thread that writes to the terminal. Writing may take as long as the line does; nobody waits for it.

use std::io::{self, Write};
use std::thread::{Builder, JoinHandle};
use std::time::{Duration, Instant};

use crossbeam_channel::{Receiver, Sender, bounded};
use ratatui::buffer::Buffer;

use crate::encoder::Encoder;

/// A job of the writer.
enum Job {
    /// A screen, whether the line is to be spared, and what is written beside it.
    Screen(Buffer, bool, Vec<u8>),
    /// To begin anew, as the terminal has another size.
    Forget,
}

/// A screen that was written, and what that took.
pub(crate) struct Written {
    /// The screen, to be drawn over.
    pub(crate) buffer: Buffer,
    /// The number of bytes that went.
    pub(crate) bytes: usize,
    /// The time that that took.
    pub(crate) time: Duration,
}

/// The writer.
pub(crate) struct Writer {
    jobs: Option<Sender<Job>>,
    written: Receiver<io::Result<Written>>,
    thread: Option<JoinHandle<()>>,
    idle: bool,
}

impl Writer {
    /// Starts to write to a terminal.
    ///
    /// # Errors
    /// If the system gives no thread.
    pub(crate) fn start(to: impl Write + Send + 'static, ascii: bool) -> io::Result<Self> {
        let (jobs, queue) = bounded::<Job>(2);
        let (done, written) = bounded(1);
        let thread = Builder::new().name("terminal".into()).spawn(move || write(to, ascii, &queue, &done))?;
        Ok(Self { jobs: Some(jobs), written, thread: Some(thread), idle: true })
    }

    /// True if the last screen has been written.
    pub(crate) fn is_idle(&self) -> bool {
        self.idle
    }

    /// The channel in which it tells that a screen has been written.
    pub(crate) fn written(&self) -> &Receiver<io::Result<Written>> {
        &self.written
    }

    /// Takes note that the screen has been written.
    pub(crate) fn finished(&mut self) {
        self.idle = true;
    }

    /// Has a screen written; the writer has to be idle.
    pub(crate) fn write(&mut self, buffer: Buffer, sparing: bool, aside: Vec<u8>) {
        self.idle = false;
        if let Some(jobs) = &self.jobs {
            // A writer that is gone has told why.
            let _ = jobs.try_send(Job::Screen(buffer, sparing, aside));
        }
    }

    /// Has everything written anew with the next screen.
    pub(crate) fn forget(&self) {
        if let Some(jobs) = &self.jobs {
            let _ = jobs.try_send(Job::Forget);
        }
    }

    /// Ends the writing; whether it came to an end in time.
    pub(crate) fn end(mut self, patience: Duration) -> bool {
        self.jobs = None;
        let Some(thread) = self.thread.take() else { return true };
        let start = Instant::now();
        while !thread.is_finished() {
            if start.elapsed() > patience {
                return false;
            }
            // What was written last is taken, so that the thread does not wait for us.
            let _ = self.written.recv_timeout(Duration::from_millis(5));
        }
        thread.join().is_ok()
    }
}

fn write(mut to: impl Write, ascii: bool, jobs: &Receiver<Job>, done: &Sender<io::Result<Written>>) {
    let mut encoder = Encoder::new(ascii);
    for job in jobs {
        let (buffer, sparing, aside) = match job {
            Job::Forget => {
                encoder.forget();
                continue;
            }
            Job::Screen(buffer, sparing, aside) => (buffer, sparing, aside),
        };
        let start = Instant::now();
        let bytes = encoder.encode(&buffer, sparing);
        // One screen at a time where the terminal knows how (synchronised output); others ignore it.
        let result = if bytes.is_empty() && aside.is_empty() {
            Ok(())
        } else {
            let whole = [aside.as_slice(), b"\x1b[?2026h", bytes, b"\x1b[?2026l"].concat();
            to.write_all(&whole).and_then(|()| to.flush())
        };
        let written = result.map(|()| Written { bytes: bytes.len() + 16, buffer, time: start.elapsed() });
        let failed = written.is_err();
        if done.send(written).is_err() || failed {
            return;
        }
    }
}
