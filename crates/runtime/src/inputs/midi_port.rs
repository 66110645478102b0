//! Ports of MIDI that the system knows. One that is unplugged is waited for, and followed again when it is back.

use std::sync::Mutex;

use midir::os::unix::VirtualOutput;
use midir::{Ignore, MidiInput, MidiInputConnection, MidiOutput, MidiOutputConnection};

use super::Follower;
use super::midi_ear::Ear;

/// The name by which this program is known to the system.
const CLIENT: &str = "Splimo";
/// The time after which it is looked whether a port is there, in seconds.
const LOOK: f64 = 1.0;

/// The names of the ports from which MIDI may come.
#[must_use]
pub fn names() -> Vec<String> {
    let Ok(input) = MidiInput::new(CLIENT) else { return Vec::new() };
    input.ports().iter().filter_map(|port| input.port_name(port).ok()).collect()
}

/// The names of the ports to which MIDI may go.
#[must_use]
pub fn out_names() -> Vec<String> {
    let Ok(output) = MidiOutput::new(CLIENT) else { return Vec::new() };
    output.ports().iter().filter_map(|port| output.port_name(port).ok()).collect()
}

/// A port that others see as a MIDI device, and from which they can be sent to.
pub struct VirtualPort(MidiOutputConnection);

impl VirtualPort {
    /// Opens one of a name.
    ///
    /// # Errors
    /// If this machine has no ports of MIDI.
    pub fn open(name: &str) -> std::io::Result<Self> {
        let failed = |why: String| std::io::Error::other(format!("no MIDI port can be opened here: {why}"));
        let output = MidiOutput::new(name).map_err(|e| failed(e.to_string()))?;
        output.create_virtual(name).map(Self).map_err(|e| failed(e.to_string()))
    }

    /// Sends a message to whoever listens.
    pub fn send(&mut self, bytes: &[u8]) {
        // Who does not listen goes without.
        let _ = self.0.send(bytes);
    }
}

/// A port to which MIDI goes.
pub(super) struct OutPort(MidiOutputConnection);

impl OutPort {
    /// Opens the first port of a name, or with it within.
    pub(super) fn open(wanted: &str) -> Option<Self> {
        let output = MidiOutput::new(CLIENT).ok()?;
        let named = |name: &str| name == wanted || name.contains(wanted);
        let port = output.ports().into_iter().find(|port| output.port_name(port).is_ok_and(|name| named(&name)))?;
        output.connect(&port, CLIENT).ok().map(Self)
    }

    /// Sends bytes; false where they were not taken.
    pub(super) fn send(&mut self, bytes: &[u8]) -> bool {
        self.0.send(bytes).is_ok()
    }
}

/// Follows a port by its name, or by a part of it.
pub(super) fn follow(follower: &Follower, name: &str) {
    let mut connection: Option<MidiInputConnection<()>> = None;
    while !follower.stopped() {
        let there = find(name);
        match (&connection, there) {
            (None, Some(whole)) => match connect(follower, &whole) {
                Ok(connected) => {
                    follower.well();
                    connection = Some(connected);
                }
                Err(why) => follower.failed(format!("the MIDI port {whole} cannot be opened: {why}")),
            },
            (Some(_), None) => {
                connection = None;
                follower.failed(format!("the MIDI port {name} is gone; plug it in again"));
            }
            (None, None) => {
                let known = names().join(", ");
                let there = if known.is_empty() { "there is none".to_owned() } else { format!("there is {known}") };
                follower.failed(format!("there is no MIDI port {name}; plug it in, or choose another: {there}"));
            }
            (Some(_), Some(_)) => {}
        }
        follower.wait(LOOK);
    }
}

/// The whole name of a port: that of this name, else the first that has it within.
fn find(name: &str) -> Option<String> {
    let all = names();
    all.iter().find(|whole| *whole == name).or_else(|| all.iter().find(|whole| whole.contains(name))).cloned()
}

fn connect(follower: &Follower, whole: &str) -> Result<MidiInputConnection<()>, String> {
    let mut input = MidiInput::new(CLIENT).map_err(|e| e.to_string())?;
    input.ignore(Ignore::ActiveSense);
    let port = input.ports().into_iter().find(|port| input.port_name(port).is_ok_and(|name| name == whole));
    let port = port.ok_or("it is gone")?;
    let (own, ear) = (follower.clone(), Mutex::new(Ear::default()));
    let take = move |_: u64, bytes: &[u8], (): &mut ()| {
        let mut ear = ear.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        ear.take(&own, bytes, own.now());
    };
    input.connect(&port, CLIENT, take, ()).map_err(|e| e.to_string())
}
