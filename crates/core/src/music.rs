//! What is heard in the music, as the rest of Splimo uses it. Made by `splimo-hear`, or by hand in a test.

use serde::{Deserialize, Serialize};

use crate::Seconds;

/// How many bands a [`Hearing`] has.
pub const BANDS: usize = 24;

/// What is known of the music at one moment.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Hearing {
    /// The time at which the last sample that went into this was heard.
    pub time: Seconds,
    /// Loudness, 0..1, by automatic gain: 1 is the loudest of the recent past.
    pub level: f32,
    /// True peak of the last hop, 0..1 of full scale, without gain.
    pub peak: f32,
    /// Energy per band from 40 Hz to 16 kHz in equal steps of the logarithm, 0..1 by automatic gain.
    pub bands: [f32; BANDS],
    /// How many onsets have been heard since the start.
    pub onsets: u64,
    /// The strength of the last onset, 0..1.
    pub onset_strength: f32,
    /// Tempo in beats per minute, or 0 while none is known.
    pub tempo_bpm: f32,
    /// Position in beats at `time`: whole at each beat, rising steadily.
    pub beat: f64,
    /// How much to trust `tempo_bpm` and `beat`, 0..1.
    pub confidence: f32,
}

impl Hearing {
    /// Hearing nothing.
    pub const SILENCE: Self = Self {
        time: 0.0,
        level: 0.0,
        peak: 0.0,
        bands: [0.0; BANDS],
        onsets: 0,
        onset_strength: 0.0,
        tempo_bpm: 0.0,
        beat: 0.0,
        confidence: 0.0,
    };

    /// The mean of the bands whose index lies in `range`, 0..1.
    #[must_use]
    pub fn mean(&self, range: std::ops::Range<usize>) -> f32 {
        let bands = &self.bands[range];
        bands.iter().sum::<f32>() / bands.len().max(1) as f32
    }
}

impl Default for Hearing {
    fn default() -> Self {
        Self::SILENCE
    }
}
