//! Everything that has threads, devices or files: the engine's thread, the sender, the network, sound, what comes in, media,
//! and work that is kept.
//!
//! It may use everything but the screens. Its main types: [`session::Session`], a show that runs; [`Runtime`], its threads;
//! [`output::Report`], what became of its frames.

pub mod asked;
pub mod autosave;
pub mod clock;
pub mod crash_note;
pub mod engine;
pub mod fault;
pub mod file_error;
pub mod files;
pub mod inputs;
pub mod machine;
pub mod media;
pub mod network;
pub mod night_log;
pub mod output;
pub mod replay;
mod runtime;
pub mod session;
pub mod sound;
pub mod stream;
pub mod supplies;
pub mod trouble;
pub mod urgency;

pub use runtime::{Beginning, Outlook, Runtime, Totals};
