//! The program around the core: runtime threads, terminal screens, the command line and the stand-ins.

pub mod runtime;
pub mod sound;
pub mod standin;
