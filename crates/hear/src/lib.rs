//! Hearing: samples in, [`Hearing`] out, one hop of about 10 ms at a time, causally.
//!
//! - [`Listener`] is the whole road: it takes samples in pieces of any length and hands out a [`Hearing`] each hop.
//! - [`spectrum`] makes magnitudes out of samples; [`bands`] and [`gain`] make levels out of these, [`loudness`] how loud it is
//!   perceived, [`chroma`] the notes (of a [`quarter`] of the samples), [`key`] key and chords, [`pitch`] the pitch, [`form`] the
//!   wave to draw.
//! - [`features`] shows the magnitudes to the [`network`], which tells beats, first beats of bars and hits; [`hits`] finds the hits in
//!   what it tells, [`beat`] tempo and beat, [`bar`] the bars; [`phrase`] and [`section`] find the larger form, [`section`] of
//!   what [`section_features`] sees. [`recurrent`] is what the networks are made of.
//!
//! It may use `splimo-base` and `splimo-time`, whose [`Hearing`] it makes. Its main types: [`Listener`], the whole of it;
//! [`network::Network`], what tells the beat; [`Mark`], an onset that was made sure of.

mod band_meter;
pub mod bands;
pub mod bar;
pub mod bar_features;
pub mod beat;
mod breakdown;
pub mod chroma;
pub mod features;
pub mod form;
pub mod gain;
pub mod hits;
pub mod key;
mod listener;
pub mod loudness;
pub mod network;
pub mod onset;
mod packed;
mod phase_loop;
pub mod phrase;
pub mod pitch;
pub mod quarter;
pub mod recurrent;
pub mod score;
pub mod section;
pub mod section_features;
pub mod spectrum;
mod steady;
pub mod strike;

pub use listener::{Ears, Listener, Mark};
pub use splimo_time::music::{BANDS, Hearing};

/// Samples a second that everything here is made for.
pub const SAMPLE_RATE: u32 = 48_000;
/// Samples between one analysis and the next: 10.67 ms.
pub const HOP: usize = 512;
/// Hops a second.
pub const HOPS_PER_SECOND: f64 = SAMPLE_RATE as f64 / HOP as f64;
/// The least time from an event to the end of the view in which the network tells of it: the middle
/// of the window, and some more to hear by. In seconds.
pub const TOLD_LATE: f64 = 0.032;
/// The time by which beats are told later than [`TOLD_LATE`]: one view more to make sure. The clock knows beats beforehand, so
/// that this costs nothing but where the tempo changes. In seconds.
pub const SURE_LATE: f64 = (features::HOPS_A_VIEW * HOP) as f64 / SAMPLE_RATE as f64;
/// The time by which the beat of the [`beat`] tracker is later than the sound, in seconds: about [`TOLD_LATE`] and
/// [`SURE_LATE`]. Measured on clicks, at a node: the first packet of a flash then leaves with its click, or a millisecond
/// before.
pub const BEAT_LATE: f64 = 0.0275 + SURE_LATE;
