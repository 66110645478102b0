//! Inputs: MIDI, OSC, lines and time code, each followed on a thread of its own. It tells the engine where a clock is, and puts
//! events and commands into the inbox of the session. What comes in as DMX is listened to by the network's thread.

pub mod controllers;
pub mod inbox;
mod lines;
mod ltc;
mod midi;
mod midi_clock;
mod midi_ear;
mod midi_file;
pub mod midi_out;
#[cfg_attr(not(feature = "devices"), path = "no_midi_port.rs")]
pub mod midi_port;
mod osc;
mod osc_command;

use std::net::IpAddr;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::{Builder, JoinHandle};

use crossbeam_channel::Sender;
use splimo_base::Seconds;
use splimo_document::Command;
use splimo_show::event::{Edge, EventAddress, InputEvent};
use splimo_show::{Input, InputKind};
use splimo_time::sync::SyncPosition;

use crate::clock::Instant;
use crate::engine::frames::EngineInput;
use crate::trouble::{Troubles, keep_alive};
use inbox::Inbox;

/// The engine is told so often at the most, in seconds: it would not look any sooner.
const EVERY: f64 = 0.005;
/// Senders of an input that are remembered.
const MOST_SENDERS: usize = 8;

/// The counts of an input.
#[derive(Debug, Default)]
pub struct Counts {
    /// Events.
    pub events: AtomicU64,
    /// The number of messages that could not be understood.
    pub malformed: AtomicU64,
    /// Packets of addresses that may not send.
    pub refused: AtomicU64,
    /// The last senders, the latest last.
    senders: Mutex<Vec<IpAddr>>,
    /// The reason why nothing can come in, while nothing can.
    failure: Mutex<Option<String>>,
}

impl Counts {
    /// The last senders, the latest last.
    #[must_use]
    pub fn senders(&self) -> Vec<IpAddr> {
        self.senders.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }

    /// The reason why nothing can come in, while nothing can.
    #[must_use]
    pub fn failure(&self) -> Option<String> {
        self.failure.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }

    pub(crate) fn sent_by(&self, from: IpAddr) {
        let mut senders = self.senders.lock().unwrap_or_else(PoisonError::into_inner);
        if senders.last() != Some(&from) {
            senders.retain(|known| *known != from);
            if senders.len() == MOST_SENDERS {
                senders.remove(0);
            }
            senders.push(from);
        }
    }

    fn set_failure(&self, why: Option<String>) {
        *self.failure.lock().unwrap_or_else(PoisonError::into_inner) = why;
    }
}

/// Everything that a thread has in its hands that follows an input.
#[derive(Clone)]
pub struct Follower {
    /// The input.
    pub input: Arc<Input>,
    /// Its name.
    pub name: Arc<str>,
    /// Time zero of the show.
    pub epoch: Instant,
    /// To the engine, which is told of positions.
    pub engine: Sender<EngineInput>,
    /// To the session, which makes commands of events.
    pub inbox: Arc<Inbox>,
    /// Its counts.
    pub counts: Arc<Counts>,
    /// Set when it is to end.
    pub stop: Arc<AtomicBool>,
    /// The troubles, where failures are told.
    pub troubles: Troubles,
}

impl Follower {
    fn now(&self) -> f64 {
        Instant::now().seconds_since(self.epoch)
    }

    fn stopped(&self) -> bool {
        self.stop.load(Ordering::Relaxed)
    }

    /// Tells the engine; a flood is thinned out, and where the engine takes nothing, the next one will do.
    fn tell(&self, position: Option<SyncPosition>, last: &mut f64) {
        let now = self.now();
        if let Some(position) = position.filter(|_| now - *last >= EVERY) {
            *last = now;
            let _ = self.engine.try_send(EngineInput::SyncPosition(position));
        }
    }

    /// Waits, but not when one wants to leave.
    fn wait(&self, seconds: f64) {
        let until = self.now() + seconds;
        while !self.stopped() && self.now() < until {
            std::thread::sleep(std::time::Duration::from_millis(10));
        }
    }

    /// Asks the session for a command in words of its own.
    fn ask(&self, command: Command, at: Seconds) {
        self.counts.events.fetch_add(1, Ordering::Relaxed);
        self.inbox.ask(&self.name, command, at);
    }

    /// Puts an event into the inbox.
    fn event(&self, address: EventAddress, raw: f32, edge: Edge, at: Seconds) {
        let most = address.most();
        self.counts.events.fetch_add(1, Ordering::Relaxed);
        self.inbox.event(InputEvent { source: self.name.clone(), address, raw, most, edge, at });
    }

    /// Something came that is not understood.
    fn malformed(&self, what: impl Into<String>) {
        self.counts.malformed.fetch_add(1, Ordering::Relaxed);
        self.troubles.tell(&self.name, what);
    }

    /// Nothing can come in, for a reason.
    fn failed(&self, why: impl Into<String>) {
        let why = why.into();
        self.counts.set_failure(Some(why.clone()));
        self.troubles.tell(&self.name, why);
    }

    /// All is well.
    fn well(&self) {
        self.counts.set_failure(None);
        self.troubles.over(&self.name);
    }

    /// Takes note of the sender of a packet; false where it may not send.
    fn allows(&self, from: IpAddr) -> bool {
        if self.input.allows(from) {
            self.counts.sent_by(from);
            return true;
        }
        self.counts.refused.fetch_add(1, Ordering::Relaxed);
        false
    }
}

/// A kind of input that has a thread of its own: a new one is a file of this folder and a line of [`SOURCES`].
#[derive(Debug)]
pub struct InputSource {
    /// Its kind.
    pub kind: InputKind,
    /// The name of its option on the command line, of its thread, and of the input that the option makes.
    pub name: &'static str,
    /// The word for what is written behind the option.
    pub takes: &'static str,
    /// The help of the option.
    pub help: &'static str,
    /// Finds what is wrong with what was written behind the option, and how to mend it.
    pub check: fn(&str) -> Result<(), String>,
    /// Starts to follow what was written. Fails with what is wrong and how to mend it.
    start: fn(Follower, &str) -> Result<JoinHandle<()>, String>,
}

/// Every kind of input that has a thread of its own.
pub static SOURCES: &[InputSource] = &[midi::SOURCE, osc::SOURCE, lines::SOURCE, ltc::SOURCE];

/// An input that is followed. It ends when this is dropped.
pub struct Following {
    /// Its counts.
    pub counts: Arc<Counts>,
    stop: Arc<AtomicBool>,
    thread: Option<JoinHandle<()>>,
}

impl Following {
    /// Follows an input.
    ///
    /// # Errors
    /// The fault in its address, or the reason why it cannot be followed, and the way to mend it.
    pub fn start(follower: Follower) -> Result<Self, String> {
        let source = SOURCES.iter().find(|source| source.kind == follower.input.kind);
        let source = source.ok_or("nothing has to be followed for it")?;
        let (counts, stop) = (follower.counts.clone(), follower.stop.clone());
        let address = follower.input.address.clone();
        let thread = (source.start)(follower, &address)?;
        Ok(Self { counts, stop, thread: Some(thread) })
    }
}

impl Drop for Following {
    fn drop(&mut self) {
        self.stop.store(true, Ordering::Relaxed);
        if let Some(thread) = self.thread.take() {
            // A thread that failed has told so.
            let _ = thread.join();
        }
    }
}

/// Starts a thread of its own that follows a source and begins anew where it fails.
fn spawn(
    name: &'static str,
    follower: Follower,
    follow: impl Fn(&Follower) + Send + 'static,
) -> Result<JoinHandle<()>, String> {
    let troubles = follower.troubles.clone();
    let work = move || keep_alive(name, &troubles, || follow(&follower));
    Builder::new().name(name.into()).spawn(work).map_err(|e| format!("no thread can be started for {name}: {e}"))
}
