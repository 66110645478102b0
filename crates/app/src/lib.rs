//! The program around the core: runtime threads, terminal screens, the command line and the stand-ins.

pub mod autosave;
pub mod cli;
pub mod document;
pub mod files;
pub mod leaders;
pub mod library;
pub mod running;
pub mod runtime;
pub mod screen;
pub mod sound;
pub mod standin;
pub mod stream;
