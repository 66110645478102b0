//! Foundations that all else counts with: colour, arithmetic that gives the same bits everywhere, ramps, formulas, and how words from
//! outside are shown.
//!
//! It may use no other crate of Splimo. Its main types: [`colour::Rgba`], light in linear components; [`ramp::Ramp`], a gradient that
//! is evaluated without branches; [`formula::Formula`], a compiled expression.

pub mod colour;
pub mod colour_words;
pub mod formula;
pub mod histogram;
pub mod maths;
pub mod nearest;
pub mod outside;
pub mod ramp;
pub mod white;

/// Seconds on the show's own time line, which starts at zero when the engine does.
pub type Seconds = f64;
