//! The program: its command line, which puts the crates together, and the stand-ins for what is outside.

pub mod cli;
pub mod standin;
