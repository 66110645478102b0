//! Programs and sounds of the operator's that a show may start. They are started only where the machine was told that this show may.

use serde::{Deserialize, Serialize};

/// The most programs of a show.
pub const MOST_PROGRAMS: usize = 64;

/// A program, or a sound, that a show may start.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Program {
    /// Its name, unique among programs.
    pub name: String,
    /// The program and its arguments, one by one; no shell looks at them.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub command: Vec<String>,
    /// The recording that is played; its path from where the show's file is.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub sound: String,
}

impl Program {
    /// The fault in it, if there is one.
    #[must_use]
    pub fn fault(&self) -> Option<&'static str> {
        match (self.command.first(), self.sound.is_empty()) {
            (Some(program), true) if program.is_empty() => Some("the name of its program is empty"),
            (Some(_), true) | (None, false) => None,
            (Some(_), false) => Some("it has a command and a sound"),
            (None, true) => Some("it has neither a command nor a sound"),
        }
    }
}
