//! The engine's thread, and the one that compiles what is edited beside it.

#[cfg(test)]
mod edition_tests;
pub mod editions;
pub mod frames;
mod in_step;
