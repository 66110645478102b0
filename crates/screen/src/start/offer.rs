//! The offers of the start screen, and the choice of one.

use std::path::PathBuf;

use splimo_show::Show;

/// A session that runs.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Running {
    /// Its name.
    pub name: String,
    /// The file of its show; empty where it has none.
    pub show: String,
    /// The screens that are attached to it.
    pub screens: u32,
}

/// A show that was open before.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Recent {
    /// Its file.
    pub path: PathBuf,
    /// The time at which it was saved last, in words.
    pub saved: String,
}

/// Everything that the start screen offers.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Offers {
    /// The sessions that run on this machine.
    pub running: Vec<Running>,
    /// The shows that were open before, the last one first.
    pub recent: Vec<Recent>,
    /// The folder in which new shows are made.
    pub folder: PathBuf,
}

/// The offer that was chosen.
#[derive(Debug, Clone, PartialEq)]
pub enum Choice {
    /// A session that runs.
    Join(String),
    /// A show that there is.
    Open(PathBuf),
    /// A new show, and its file, which is not there yet.
    New(PathBuf, Box<Show>),
    /// The demo.
    Demo,
    /// The tutorial.
    Tutorial,
    /// Nothing: the person left.
    Leave,
}
