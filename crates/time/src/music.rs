//! The hearing: what is known of the music, as the rest of Splimo uses it. Made by `splimo-hear`, or by hand in a test.

use serde::{Deserialize, Serialize};

pub use crate::bands::{BANDS, BANDS_RANGE, Bands, MOST_BANDS};
use splimo_base::Seconds;

/// Pitch classes in an octave.
pub const PITCHES: usize = 12;
/// The end of the low bands and the beginning of the high ones, as shares of all bands: about 150 Hz and 2.7 kHz.
const LOW: f32 = 5.0 / 24.0;
const HIGH: f32 = 17.0 / 24.0;
/// Points of a [`Wave`].
pub const WAVE: usize = 128;

/// The form of the sound of the last moments: from a rising crossing of zero on, so that a steady tone stands still; -1..1
/// of the loudest of it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Wave(pub [f32; WAVE]);

impl Wave {
    /// No sound.
    pub const SILENCE: Self = Self([0.0; WAVE]);

    /// The wave at a share of its length, gliding from point to point.
    #[must_use]
    pub fn at(&self, share: f32) -> f32 {
        let place = (share * WAVE as f32 - 0.5).clamp(0.0, (WAVE - 1) as f32);
        let point = (place as usize).min(WAVE - 2);
        self.0[point] + (self.0[point + 1] - self.0[point]) * (place - point as f32)
    }
}

impl Serialize for Wave {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        self.0.as_slice().serialize(serializer)
    }
}

impl<'de> Deserialize<'de> for Wave {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let points = Vec::<f32>::deserialize(deserializer)?;
        let points = points.try_into().map_err(|_| serde::de::Error::custom(format!("a wave has {WAVE} points")))?;
        Ok(Self(points))
    }
}

/// A kind of hit.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Hit {
    /// Low, as a kick.
    Kick,
    /// In the middle, as a snare or a clap.
    Snare,
    /// High, as a hat.
    Hat,
}

impl Hit {
    /// Every one.
    pub const ALL: [Self; 3] = [Self::Kick, Self::Snare, Self::Hat];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Kick => "kick",
            Self::Snare => "snare",
            Self::Hat => "hat",
        }
    }
}

/// A part of a piece.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Section {
    /// It begins, and is not whole yet.
    #[default]
    Intro,
    /// It rises.
    Build,
    /// Everything plays.
    Drop,
    /// Low drums and bass are away.
    Breakdown,
    /// It thins out.
    Outro,
}

impl Section {
    /// Every one.
    pub const ALL: [Self; 5] = [Self::Intro, Self::Build, Self::Drop, Self::Breakdown, Self::Outro];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Intro => "intro",
            Self::Build => "build",
            Self::Drop => "drop",
            Self::Breakdown => "breakdown",
            Self::Outro => "outro",
        }
    }
}

impl Section {
    /// The part that usually comes next, at the turn of a phrase; none after the end.
    #[must_use]
    pub fn next(self) -> Option<Self> {
        match self {
            Self::Intro | Self::Breakdown => Some(Self::Build),
            Self::Build => Some(Self::Drop),
            Self::Drop => Some(Self::Breakdown),
            Self::Outro => None,
        }
    }
}

/// A key: a tonic and whether it is minor.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Default, Serialize, Deserialize)]
pub struct Key {
    /// The pitch class of the tonic, 0..11 from C on.
    pub tonic: u8,
    /// Minor rather than major.
    pub minor: bool,
}

/// The names of the pitch classes.
pub const PITCH_NAMES: [&str; PITCHES] = ["C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"];

impl std::fmt::Display for Key {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let tonic = PITCH_NAMES[usize::from(self.tonic) % PITCHES];
        write!(f, "{tonic} {}", if self.minor { "minor" } else { "major" })
    }
}

/// The hearing: what is known of the music at one moment.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Hearing {
    /// The time at which the last sample that went into this was heard.
    pub time: Seconds,
    /// Loudness, 0..1, by automatic gain: 1 is the loudest of the recent past.
    pub level: f32,
    /// True peak of the last hop, 0..1 of full scale, without gain.
    pub peak: f32,
    /// Root of the mean square of the last hop, 0..1 of full scale, without gain.
    pub rms: f32,
    /// Momentary loudness as it is perceived, in LUFS (ITU-R BS.1770-4, one channel, 0.4 s); -90 in silence.
    pub loudness: f32,
    /// The middle of the spectrum's weight, in hertz; 0 in silence.
    pub centroid: f32,
    /// Energy per band from 40 Hz to 16 kHz in equal steps of the logarithm, 0..1 by automatic gain.
    pub bands: Bands,
    /// The strength of each pitch class from C on, 0..1, 1 the strongest; in the tuning of the music.
    pub chroma: [f32; PITCHES],
    /// The form of the sound.
    pub wave: Wave,
    /// The strongest pitch for an ear, which hears little of a bass, in hertz, or 0 where none stands out.
    pub pitch: f32,
    /// The interval from the clear pitch before to the last one, in semitones, up or down.
    pub interval: f32,
    /// The key, as far as it is known.
    pub key: Key,
    /// The confidence in `key`, 0..1.
    pub key_confidence: f32,
    /// The number of times that the chord has changed since the start.
    pub chords: u64,
    /// The number of hits of each kind ([`Hit`]) have been heard since the start.
    pub hits: [u64; 3],
    /// The number of onsets that have been heard since the start.
    pub onsets: u64,
    /// The strength of the last onset, 0..1.
    pub onset_strength: f32,
    /// Tempo in beats per minute, or 0 while none is known.
    pub tempo_bpm: f32,
    /// Position in beats at `time`: whole at each beat, rising steadily.
    pub beat: f64,
    /// The confidence in `tempo_bpm` and `beat`, 0..1.
    pub confidence: f32,
    /// Beats in a bar.
    pub bar_beats: u32,
    /// The beginning of a bar, on the scale of `beat`.
    pub bar_start: f64,
    /// The confidence in `bar_beats` and `bar_start`, 0..1.
    pub bar_confidence: f32,
    /// The beginning of a phrase of eight bars, on the scale of `beat`.
    pub phrase_start: f64,
    /// The confidence in `phrase_start`, 0..1.
    pub phrase_confidence: f32,
    /// The part of the piece that is going on.
    pub section: Section,
    /// The time at which it began.
    pub section_start: Seconds,
    /// The time that it took to know that it had begun, in seconds.
    pub section_delay: f32,
}

impl Hearing {
    /// Hearing nothing.
    pub const SILENCE: Self = Self {
        time: 0.0,
        level: 0.0,
        peak: 0.0,
        bands: Bands::SILENCE,
        chroma: [0.0; PITCHES],
        wave: Wave::SILENCE,
        onsets: 0,
        onset_strength: 0.0,
        tempo_bpm: 0.0,
        beat: 0.0,
        confidence: 0.0,
        rms: 0.0,
        loudness: -90.0,
        centroid: 0.0,
        pitch: 0.0,
        interval: 0.0,
        key: Key { tonic: 0, minor: false },
        key_confidence: 0.0,
        chords: 0,
        hits: [0; 3],
        bar_beats: 4,
        bar_start: 0.0,
        bar_confidence: 0.0,
        phrase_start: 0.0,
        phrase_confidence: 0.0,
        section: Section::Intro,
        section_start: 0.0,
        section_delay: 0.0,
    };

    /// The low bands, up to about 140 Hz.
    #[must_use]
    pub fn bass(&self) -> f32 {
        self.bands.mean(0.0..LOW)
    }

    /// The middle bands, about 140 Hz to 3.2 kHz.
    #[must_use]
    pub fn mids(&self) -> f32 {
        self.bands.mean(LOW..HIGH)
    }

    /// The high bands, from about 3.2 kHz on.
    #[must_use]
    pub fn highs(&self) -> f32 {
        self.bands.mean(HIGH..1.0)
    }
}

impl Default for Hearing {
    fn default() -> Self {
        Self::SILENCE
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_wave_glides_from_point_to_point_and_stays_at_its_ends() {
        let wave = Wave(std::array::from_fn(|point| point as f32 / 100.0));
        assert_eq!((wave.at(-1.0), wave.at(0.0), wave.at(2.0)), (0.0, 0.0, 1.27));
        // The middle of a point, and the border of two.
        assert!((wave.at(10.5 / WAVE as f32) - 0.10).abs() < 1e-5);
        assert!((wave.at(11.0 / WAVE as f32) - 0.105).abs() < 1e-5);
    }

    #[test]
    fn what_was_heard_is_written_and_read_and_a_wave_of_another_length_is_refused() {
        let mut hearing = Hearing { tempo_bpm: 127.5, beat: 12.25, section: Section::Build, ..Hearing::SILENCE };
        (hearing.key, hearing.wave.0[3]) = (Key { tonic: 9, minor: true }, 0.5);
        let written = toml::to_string(&hearing).expect("it can be written");
        assert_eq!(toml::from_str::<Hearing>(&written).expect("it can be read"), hearing);
        let short = written.replacen("wave = [0.0, ", "wave = [", 1);
        assert_ne!(short, written);
        let error = toml::from_str::<Hearing>(&short).expect_err("one point is missing").to_string();
        assert!(error.contains("a wave has 128 points"), "{error}");
    }

    #[test]
    fn keys_and_parts_have_their_words() {
        assert_eq!(Key { tonic: 9, minor: true }.to_string(), "A minor");
        assert_eq!(Key { tonic: 6, minor: false }.to_string(), "F# major");
        assert_eq!(Section::ALL.map(Section::name), ["intro", "build", "drop", "breakdown", "outro"]);
        assert_eq!(Hit::ALL.map(Hit::name), ["kick", "snare", "hat"]);
    }

    #[test]
    fn a_set_goes_from_part_to_part_until_it_ends() {
        let walk = std::iter::successors(Some(Section::Intro), |part| part.next());
        assert_eq!(
            walk.take(5).map(Section::name).collect::<Vec<_>>(),
            ["intro", "build", "drop", "breakdown", "build"]
        );
        assert_eq!(Section::Outro.next(), None);
    }

    #[test]
    fn each_band_is_low_middle_or_high_however_many_there_are() {
        for count in [16, 24, 64] {
            let mut shares = [0.0f32; 3];
            for band in 0..count {
                let mut levels = vec![0.0; count];
                levels[band] = 1.0;
                let heard = Hearing { bands: Bands::of(&levels), ..Hearing::SILENCE };
                let parts = [heard.bass(), heard.mids(), heard.highs()];
                assert_eq!(parts.iter().filter(|part| **part > 0.0).count(), 1, "band {band} of {count}: {parts:?}");
                shares.iter_mut().zip(parts).for_each(|(sum, part)| *sum += part);
            }
            assert!(shares.iter().all(|sum| (sum - 1.0).abs() < 1e-4), "{count}: {shares:?}");
        }
    }
}
