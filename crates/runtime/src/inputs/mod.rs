//! Input sources: MIDI clock out of a stream of bytes, and OSC from the network. Each is followed on a thread of its own, which
//! tells the engine where a clock is, and asks the session for commands. Time code comes with the other packets of Art-Net.

mod midi;
mod osc;

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::{Builder, JoinHandle};

use crossbeam_channel::Sender;
use splimo_core::Seconds;
use splimo_core::command::{Command, Origin};
use splimo_core::sync::SyncPosition;

use crate::asked::Asked;
use crate::clock::Instant;
use crate::engine::frames::EngineInput;
use crate::trouble::{Troubles, keep_alive};

/// The engine is told so often at the most, in seconds: it would not look any sooner.
const EVERY: f64 = 0.005;

/// Everything that a thread has in its hands that follows a clock source.
#[derive(Clone)]
pub struct Follower {
    /// Time zero of the show.
    pub epoch: Instant,
    /// To the engine, which is told of positions.
    pub engine: Sender<EngineInput>,
    /// To the session, which is asked for commands.
    pub asks: Sender<Asked>,
    /// The origin of its commands.
    pub origin: Origin,
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

    /// Asks the session for a command; where it has no room, the command is left out.
    fn ask(&self, command: Command, at: Seconds) {
        let _ = self.asks.try_send(Asked { command, origin: self.origin, at });
    }
}

/// An input source: a new one is a file of this folder and a line of [`SOURCES`].
#[derive(Debug)]
pub struct InputSource {
    /// The name of its option on the command line, and of its thread.
    pub name: &'static str,
    /// The name that people give it.
    pub called: &'static str,
    /// The word for what is written behind the option.
    pub takes: &'static str,
    /// The help of the option.
    pub help: &'static str,
    /// Finds what is wrong with what was written behind the option, and how to mend it.
    pub check: fn(&str) -> Result<(), String>,
    /// Starts to follow what was written. Fails with what is wrong and how to mend it.
    pub start: fn(Follower, &str) -> Result<JoinHandle<()>, String>,
}

/// Every input source.
pub static SOURCES: &[InputSource] = &[midi::SOURCE, osc::SOURCE];

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
