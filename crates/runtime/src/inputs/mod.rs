//! Clock sources outside the program: MIDI clock out of a stream of bytes, and OSC from the network. Each is followed on a thread of
//! its own, which tells the engine where it is. Time code comes with the other packets of Art-Net.

mod midi;
mod osc;

use std::io;
use std::net::SocketAddr;
use std::path::PathBuf;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::{Builder, JoinHandle};

use crossbeam_channel::Sender;
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

    /// Follows MIDI clock in a stream of bytes: a raw device, a pipe, or standard input.
    ///
    /// # Errors
    /// Where the system gives no thread.
    pub fn midi(self, path: PathBuf) -> io::Result<JoinHandle<()>> {
        let troubles = self.troubles.clone();
        let work = move || keep_alive("midi", &troubles, || midi::follow(&self, &path));
        Builder::new().name("midi".into()).spawn(work)
    }

    /// Follows OSC messages that come to an address.
    ///
    /// # Errors
    /// Where the address cannot be listened at, or the system gives no thread.
    pub fn osc(self, address: SocketAddr) -> io::Result<JoinHandle<()>> {
        let socket = osc::listen(address)?;
        let troubles = self.troubles.clone();
        let work = move || keep_alive("osc", &troubles, || osc::follow(&self, &socket));
        Builder::new().name("osc".into()).spawn(work)
    }
}
