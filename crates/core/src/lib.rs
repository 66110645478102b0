//! The heart of Splimo: the show as a document, the rig compiled from it, looks and effects, the musical clock, and the
//! engine that turns a time and what came in into light and universes.
//!
//! Nothing in this crate does I/O, reads a clock or draws a random number that is not seeded. The same show with the same
//! inputs gives the same bytes, in debug and in release builds.

mod bands;
pub mod blend;
pub mod check;
pub mod colour;
pub mod colour_words;
pub mod command;
pub mod document;
pub mod edit;
pub mod effect;
pub mod engine;
pub mod formula;
pub mod histogram;
pub mod input;
pub mod layer;
pub mod lettering;
pub mod making;
pub mod maths;
pub mod media;
pub mod miniature;
pub mod modulate;
pub mod music;
pub mod nearest;
pub mod outside;
pub mod palette;
pub mod patch;
pub mod ramp;
pub mod rate;
pub mod reference;
pub mod rig;
pub mod schedule;
pub mod setting;
pub mod show;
pub mod still;
pub mod sync;
pub mod tempo;

/// Seconds on the show's own time line, which starts at zero when the engine does.
pub type Seconds = f64;
