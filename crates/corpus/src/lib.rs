//! Music made by code from seeds, with its exact truth: where the beats lie, where bars begin, what was struck when. It is
//! what the hearing of Splimo is trained on and judged by; no recording is in it. For development only.
//!
//! It may use `splimo-hear` and what that is built on. Its main types: [`Piece`], music and its truth; [`style::Style`], what it is like;
//! [`Bank`], sampled instruments.

mod accompaniment;
mod band;
mod compose;
mod drum;
mod effects;
mod flac;
mod form;
mod groove;
mod harmony;
pub mod learn;
mod lot;
pub mod measure;
pub mod noises;
pub mod options;
mod piece;
mod recording;
mod rhythm;
mod riff;
mod sampled;
mod score;
mod section;
mod sound;
pub mod style;
mod talk;
mod tempo;
mod tone;
mod track;
mod wave;

pub use compose::{piece, piece_with};
pub use flac::flac;
pub use groove::{Groove, Voice};
pub use lot::Lot;
pub use piece::{Piece, Struck};
pub use sampled::Bank;
pub use tempo::{Motion, TempoMap};
pub use wave::wav;

/// Samples a second.
pub const RATE: f64 = 48_000.0;
