//! A serial port with a small controller behind it: a thread that opens it, waits until the controller is ready, sends the
//! newest frame, waits for its answer, and begins anew where it falls silent.

use std::fs::{File, OpenOptions};
use std::io::{self, Read, Write};
use std::os::fd::AsFd;
use std::os::unix::fs::OpenOptionsExt;
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::Builder;
use std::time::Duration;

use crossbeam_channel::{Receiver, Sender, bounded};
use nix::fcntl::OFlag;
use nix::poll::{PollFd, PollFlags, PollTimeout, poll};
use nix::sys::termios::{BaudRate, SetArg, cfmakeraw, cfsetspeed, tcgetattr, tcsetattr};
use splimo_wire::serial::{MOST_CHANNELS, Packet, Reader};

use super::PortStatus;
use super::plan::PlannedPort;
use crate::clock::Instant;
use crate::trouble::{Troubles, keep_alive};

/// The time that a controller may take to answer, in seconds.
const PATIENCE: f64 = 0.5;
/// The number of times that a port that is not there is looked for, in seconds.
const RETRY: f64 = 0.5;
/// Frames that go round.
const FRAMES: usize = 2;

/// A port in use. The thread behind it ends with the last handle.
#[derive(Clone)]
pub struct PortHandle {
    /// The blocks of 512 slots of a frame that it takes, and how many slots of each.
    pub parts: Vec<(usize, usize)>,
    full: Sender<Vec<u8>>,
    empty: Receiver<Vec<u8>>,
    status: Arc<Mutex<PortStatus>>,
    rate: u32,
    next: f64,
}

impl PortHandle {
    /// Opens a port as soon as it is there.
    ///
    /// # Errors
    /// If the system gives no thread.
    pub fn open(port: &PlannedPort, troubles: Troubles) -> io::Result<Self> {
        let (full, frames) = bounded(FRAMES);
        let (back, empty) = bounded(FRAMES);
        for _ in 0..FRAMES {
            // The channel is as long as there are frames.
            let _ = back.try_send(Vec::with_capacity(port.parts.len() * 512));
        }
        let status = PortStatus { path: port.path.clone(), route: port.route, ..PortStatus::default() };
        let status = Arc::new(Mutex::new(status));
        let worker =
            Worker { path: port.path.clone(), baud: port.baud, frames, back, status: status.clone(), troubles };
        Builder::new().name("serial".into()).spawn(move || worker.run())?;
        Ok(Self { parts: port.parts.clone(), full, empty, status, rate: port.rate, next: 0.0 })
    }

    /// The same port for another plan.
    #[must_use]
    pub fn planned(&self, port: &PlannedPort) -> Self {
        self.status.lock().unwrap_or_else(PoisonError::into_inner).route = port.route;
        Self { parts: port.parts.clone(), rate: port.rate, ..self.clone() }
    }

    /// The way it is.
    #[must_use]
    pub fn status(&self) -> PortStatus {
        self.status.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }

    /// Offers a frame; where the port is still busy with another, this one is left out. Never waits, and allocates nothing.
    pub fn offer(&mut self, slots: &[u8], now: f64) {
        let period = 1.0 / f64::from(self.rate.max(1));
        if now + period * 0.02 < self.next {
            return;
        }
        let Ok(mut frame) = self.empty.try_recv() else { return };
        self.next = (self.next + period).max(now);
        frame.clear();
        for &(block, count) in &self.parts {
            frame.extend_from_slice(slots.get(block * 512..block * 512 + count).unwrap_or_default());
        }
        // There are as many places as frames.
        let _ = self.full.try_send(frame);
    }
}

struct Worker {
    path: String,
    baud: u32,
    frames: Receiver<Vec<u8>>,
    back: Sender<Vec<u8>>,
    status: Arc<Mutex<PortStatus>>,
    troubles: Troubles,
}

/// The reason why a port is given up for now.
enum Lost {
    /// Nobody wants it any more.
    Unwanted,
    /// It failed.
    Failed(String),
}

impl From<io::Error> for Lost {
    fn from(error: io::Error) -> Self {
        Self::Failed(error.to_string())
    }
}

impl Worker {
    fn run(self) {
        let troubles = self.troubles.clone();
        keep_alive("serial", &troubles, || self.work());
        self.troubles.over(&self.subject());
    }

    fn subject(&self) -> String {
        format!("port {}", self.path)
    }

    fn work(&self) {
        loop {
            let lost = self.session();
            self.set(|status| {
                status.controller = None;
                status.rate = 0.0;
            });
            match lost {
                Lost::Unwanted => return,
                Lost::Failed(why) => self.troubles.tell(&self.subject(), why),
            }
            if !self.wait(RETRY) {
                return;
            }
        }
    }

    /// The newest frame that there is; older ones go back.
    fn newest(&self, frame: Vec<u8>) -> Vec<u8> {
        self.frames.try_iter().fold(frame, |older, newer| {
            let _ = self.back.try_send(older);
            newer
        })
    }

    fn set(&self, change: impl FnOnce(&mut PortStatus)) {
        change(&mut self.status.lock().unwrap_or_else(PoisonError::into_inner));
    }

    /// Lets frames go for a while; false once nobody wants the port any more.
    fn wait(&self, seconds: f64) -> bool {
        let end = Instant::now().plus((seconds * 1e9) as i64);
        loop {
            // Even where no time is left it is looked whether anybody wants it still.
            let left = end.since(Instant::now()).max(0) as u64;
            match self.frames.recv_timeout(Duration::from_nanos(left)) {
                Ok(frame) => drop(self.back.try_send(frame)),
                Err(crossbeam_channel::RecvTimeoutError::Timeout) => return true,
                Err(crossbeam_channel::RecvTimeoutError::Disconnected) => return false,
            }
        }
    }

    /// From the opening of the port to its loss.
    fn session(&self) -> Lost {
        match self.opened().and_then(|mut line| self.talk(&mut line)) {
            Ok(()) => Lost::Unwanted,
            Err(lost) => lost,
        }
    }

    fn opened(&self) -> Result<Line, Lost> {
        let path = &self.path;
        Line::open(path, self.baud).map_err(|error| {
            let mend = match error.kind() {
                io::ErrorKind::NotFound => "plug the controller in, or correct the path",
                io::ErrorKind::PermissionDenied => "this user may not use it: add the user to the group dialout",
                _ => "see whether another program uses it",
            };
            Lost::Failed(format!("cannot be opened ({error}); {mend}"))
        })
    }

    fn talk(&self, line: &mut Line) -> Result<(), Lost> {
        let room = self.greet(line)?;
        self.troubles.over(&self.subject());
        let (mut since, mut count, mut packet) = (Instant::now(), 0u32, Vec::new());
        let mut silent = 0;
        while let Ok(frame) = self.frames.recv() {
            let frame = self.newest(frame);
            let taken = line.send_frame(&frame, room as usize, &mut packet);
            // Whatever happened: a frame that is lost here never goes round again.
            let _ = self.back.try_send(frame);
            let taken = taken?;
            silent = if taken { 0 } else { silent + 1 };
            count += u32::from(taken);
            let passed = Instant::now().seconds_since(since);
            self.set(|status| {
                status.frames += u64::from(taken);
                status.failed += u64::from(!taken);
                if passed >= 1.0 {
                    status.rate = (f64::from(count) / passed) as f32;
                }
            });
            if passed >= 1.0 {
                (since, count) = (Instant::now(), 0);
            }
            if silent == 3 {
                return Err(Lost::Failed("the controller does not answer any more; see to its power and cable".into()));
            }
        }
        Ok(())
    }

    /// Asks until a controller says that it is ready, and returns its room for channels.
    fn greet(&self, line: &mut Line) -> Result<u32, Lost> {
        let mut ask = Vec::new();
        loop {
            ask.clear();
            Packet::Ask.emit(line.next(), &mut ask);
            line.write(&ask)?;
            let mut ready = None;
            line.listen(PATIENCE, |packet, _| {
                if let Packet::Ready { channels, name } = packet {
                    ready = Some((name.to_owned(), channels));
                }
                ready.is_some()
            })?;
            if let Some((name, channels)) = ready {
                self.set(|status| status.controller = Some((name, channels)));
                return Ok(channels);
            }
            let mend = "see that it has power, that it speaks Splimo's stream, and that the speed is the same";
            self.troubles.tell(&self.subject(), format!("waits for the controller to be ready; {mend}"));
            if !self.wait(0.0) {
                return Err(Lost::Unwanted);
            }
        }
    }
}

/// An open port.
struct Line {
    file: File,
    reader: Reader,
    sequence: u8,
    buffer: [u8; 512],
}

impl Line {
    fn open(path: &str, baud: u32) -> io::Result<Self> {
        let flags = OFlag::O_NOCTTY | OFlag::O_NONBLOCK;
        let file = OpenOptions::new().read(true).write(true).custom_flags(flags.bits()).open(path)?;
        let mut settings = tcgetattr(file.as_fd())?;
        cfmakeraw(&mut settings);
        cfsetspeed(&mut settings, speed(baud)?)?;
        tcsetattr(file.as_fd(), SetArg::TCSANOW, &settings)?;
        Ok(Self { file, reader: Reader::default(), sequence: 0, buffer: [0; 512] })
    }

    fn next(&mut self) -> u8 {
        self.sequence = self.sequence.wrapping_add(1);
        self.sequence
    }

    /// Waits until the port can be read or written, for some seconds at the most.
    fn ready(&self, what: PollFlags, seconds: f64) -> io::Result<bool> {
        let timeout = PollTimeout::try_from(Duration::from_secs_f64(seconds.max(0.0))).unwrap_or(PollTimeout::MAX);
        let mut fd = [PollFd::new(self.file.as_fd(), what)];
        match poll(&mut fd, timeout) {
            Ok(count) => Ok(count > 0),
            Err(nix::errno::Errno::EINTR) => Ok(false),
            Err(error) => Err(error.into()),
        }
    }

    fn write(&mut self, mut bytes: &[u8]) -> io::Result<()> {
        let end = Instant::now().plus((4.0 * PATIENCE * 1e9) as i64);
        while !bytes.is_empty() {
            match self.file.write(bytes) {
                Ok(0) => return Err(io::Error::new(io::ErrorKind::WriteZero, "it takes nothing")),
                Ok(count) => bytes = &bytes[count..],
                Err(error) if error.kind() == io::ErrorKind::WouldBlock => {
                    if Instant::now() > end {
                        return Err(io::Error::new(io::ErrorKind::TimedOut, "it takes nothing any more"));
                    }
                    self.ready(PollFlags::POLLOUT, PATIENCE)?;
                }
                Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
                Err(error) => return Err(error),
            }
        }
        Ok(())
    }

    /// Hands packets that come to `take` until that says that it has what it wants, or the time is over.
    fn listen(&mut self, seconds: f64, mut take: impl FnMut(Packet<'_>, u8) -> bool) -> io::Result<()> {
        let end = Instant::now().plus((seconds * 1e9) as i64);
        let mut done = false;
        while !done {
            let left = end.since(Instant::now()) as f64 / 1e9;
            if left <= 0.0 {
                return Ok(());
            }
            if !self.ready(PollFlags::POLLIN, left)? {
                continue;
            }
            match self.file.read(&mut self.buffer) {
                Ok(0) => return Err(io::Error::new(io::ErrorKind::UnexpectedEof, "the port is gone")),
                Ok(count) => {
                    let Self { reader, buffer, .. } = self;
                    reader.push(&buffer[..count], |packet, sequence| done |= take(packet, sequence));
                }
                Err(error) if error.kind() == io::ErrorKind::WouldBlock => {}
                Err(error) => return Err(error),
            }
        }
        Ok(())
    }

    /// Sends a frame packet by packet, and waits for the answer to each. Returns whether all of it was taken.
    fn send_frame(&mut self, frame: &[u8], room: usize, packet: &mut Vec<u8>) -> io::Result<bool> {
        let frame = &frame[..frame.len().min(room)];
        let parts = frame.len().div_ceil(MOST_CHANNELS);
        for (index, channels) in frame.chunks(MOST_CHANNELS).enumerate() {
            let sequence = self.next();
            packet.clear();
            let first = (index * MOST_CHANNELS) as u32;
            Packet::Pixels { first, last: index + 1 == parts, channels }.emit(sequence, packet);
            self.write(packet)?;
            let mut taken = false;
            self.listen(PATIENCE, |answer, to| {
                taken |= to == sequence && answer == Packet::Taken;
                to == sequence
            })?;
            if !taken {
                return Ok(false);
            }
        }
        Ok(true)
    }
}

fn speed(baud: u32) -> io::Result<BaudRate> {
    Ok(match baud {
        9600 => BaudRate::B9600,
        19_200 => BaudRate::B19200,
        38_400 => BaudRate::B38400,
        57_600 => BaudRate::B57600,
        115_200 => BaudRate::B115200,
        230_400 => BaudRate::B230400,
        460_800 => BaudRate::B460800,
        500_000 => BaudRate::B500000,
        921_600 => BaudRate::B921600,
        1_000_000 => BaudRate::B1000000,
        1_500_000 => BaudRate::B1500000,
        2_000_000 => BaudRate::B2000000,
        3_000_000 => BaudRate::B3000000,
        4_000_000 => BaudRate::B4000000,
        _ => {
            let words = format!("no port knows {baud} bits a second; take 115200, 1000000 or 2000000");
            return Err(io::Error::new(io::ErrorKind::InvalidInput, words));
        }
    })
}

#[cfg(test)]
mod tests {
    use nix::pty::openpty;
    use nix::unistd::ttyname;

    use super::*;

    #[test]
    fn a_port_whose_controller_never_answers_is_given_up_once_nobody_wants_it() {
        let line = openpty(None, None).expect("a pseudo-terminal");
        let path = ttyname(line.slave.as_fd()).expect("its name").display().to_string();
        let port = PlannedPort { route: 0, path, baud: 115_200, parts: vec![(0, 512)], rate: 40 };
        let troubles = Troubles::default();
        let handle = PortHandle::open(&port, troubles.clone()).expect("a thread");
        let wait = |until: &dyn Fn(&str) -> bool| {
            let told = || troubles.list().first().map(|trouble| trouble.message.clone()).unwrap_or_default();
            let end = Instant::now().plus(20_000_000_000);
            while !until(&told()) {
                assert!(Instant::now() < end, "{:?}", told());
                std::thread::sleep(Duration::from_millis(5));
            }
        };
        wait(&|told| told.contains("waits for the controller"));
        drop(handle);
        wait(&str::is_empty);
    }
}
