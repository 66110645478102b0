//! Ports of MIDI in a build without devices: there are none. Raw devices, pipes and files are there.

use super::Follower;

/// The reason why there are none.
const NONE: &str =
    "this build has no MIDI ports: build it with the feature \"devices\", or name a raw device such as /dev/midi1";
/// The time after which it is said anew, in seconds.
const LOOK: f64 = 1.0;

/// The names of the ports from which MIDI may come: none.
#[must_use]
pub fn names() -> Vec<String> {
    Vec::new()
}

/// The names of the ports to which MIDI may go: none.
#[must_use]
pub fn out_names() -> Vec<String> {
    Vec::new()
}

/// A port that others see as a MIDI device.
pub struct VirtualPort(());

impl VirtualPort {
    /// Tells that there are no ports.
    ///
    /// # Errors
    /// Always.
    pub fn open(_: &str) -> std::io::Result<Self> {
        Err(std::io::Error::other(NONE))
    }

    /// Sends a message to nobody.
    pub fn send(&mut self, _: &[u8]) {}
}

/// A port to which MIDI goes.
pub(super) struct OutPort(());

impl OutPort {
    /// None, as there are none.
    pub(super) fn open(_: &str) -> Option<Self> {
        None
    }

    /// False, as nobody takes it.
    pub(super) fn send(&mut self, _: &[u8]) -> bool {
        false
    }
}

/// Tells that a port cannot be followed.
pub(super) fn follow(follower: &Follower, name: &str) {
    while !follower.stopped() {
        follower.failed(format!("there is no MIDI port {name}: {NONE}"));
        follower.wait(LOOK);
    }
}
