//! Hearing: samples in, [`Hearing`] out, one hop of about 10 ms at a time, causally.
//!
//! - [`Listener`] is the whole road: it takes samples in pieces of any length and hands out a [`Hearing`] each hop.
//! - [`spectrum`] makes magnitudes out of samples, [`bands`] and [`gain`] make levels out of these, [`flux`] makes onsets,
//!   and [`beat`] finds tempo and beat in the onsets. [`chroma`] finds the notes, [`form`] the wave to draw.

pub mod bands;
pub mod beat;
pub mod chroma;
pub mod flux;
pub mod form;
pub mod gain;
mod listener;
pub mod spectrum;

pub use listener::Listener;
pub use splimo_core::music::{BANDS, Hearing};

/// Samples a second that everything here is made for.
pub const SAMPLE_RATE: u32 = 48_000;
/// Samples between one analysis and the next: 10.67 ms.
pub const HOP: usize = 512;
/// Hops a second.
pub const HOPS_PER_SECOND: f64 = SAMPLE_RATE as f64 / HOP as f64;
