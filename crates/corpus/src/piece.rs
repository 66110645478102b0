//! A piece of music and its truth.

use crate::groove::Voice;

/// One hit of a drum, as it is heard.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Struck {
    /// When, in seconds.
    pub time: f64,
    /// Which drum.
    pub voice: Voice,
    /// How loud among the drums.
    pub level: f32,
}

/// A piece of music and its truth.
#[derive(Debug, Clone, Default)]
pub struct Piece {
    /// Mono, 48,000 a second.
    pub samples: Vec<f32>,
    /// The drums and everything else, each in its room, before they are mixed and recorded.
    pub stems: [Vec<f32>; 2],
    /// When the beats are, in seconds.
    pub beats: Vec<f64>,
    /// When bars begin.
    pub downbeats: Vec<f64>,
    /// The hits of the drums.
    pub struck: Vec<Struck>,
    /// When pitched notes set in.
    pub notes: Vec<f64>,
    /// Parts: when they begin, and what they are.
    pub sections: Vec<(f64, &'static str)>,
    /// The tonic as a pitch class from C on, and whether the key is minor.
    pub key: (usize, bool),
    /// When the chord becomes another one, whether or not somebody plays it.
    pub chords: Vec<f64>,
}
