//! The night log as a screen is told it.

use serde::{Deserialize, Serialize};

/// A line of the night log.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct NightLine {
    /// Its number, which ascends. A line of a number that was told before takes its place.
    pub number: u64,
    /// The time of day where the session runs, in seconds since midnight.
    pub time: u32,
    /// The bar and the beat in it, counted from 1, where the music was.
    pub bar: [i64; 2],
    /// The sender that did it, in words.
    pub by: String,
    /// The thing that was asked for, or what changed with it.
    pub what: String,
    /// True if something was asked for; else something changed on the stage.
    pub asked: bool,
}

/// The most lines that a session and a screen keep.
pub const MOST_LINES: usize = 500;

impl NightLine {
    /// The time of day as one reads it.
    #[must_use]
    pub fn clock(&self) -> String {
        format!("{:02}:{:02}:{:02}", self.time / 3600, self.time / 60 % 60, self.time % 60)
    }

    /// Bar and beat as one reads them.
    #[must_use]
    pub fn place(&self) -> String {
        format!("{}.{}", self.bar[0], self.bar[1])
    }
}
