//! Commands that come in from outside: from MIDI, OSC, and triggers on the network. They go to the session, as all others do.

use splimo_base::Seconds;
use splimo_document::Command;
use splimo_show::command::Origin;

/// A command that somebody outside asks for.
#[derive(Debug, Clone, PartialEq)]
pub struct Asked {
    /// The command.
    pub command: Command,
    /// The sender.
    pub origin: Origin,
    /// The time when it was asked for, on the time line of the show.
    pub at: Seconds,
}

/// Commands from outside that wait for the session at the most; those of a flood are left out.
pub const MOST: usize = 256;
