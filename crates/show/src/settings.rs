//! The way a show is played, as it stands in its file. What each setting is called, its unit, range and help stand as data in
//! [`crate::setting`].

use std::net::Ipv4Addr;

use serde::{Deserialize, Serialize};

use super::AddressBlock;
use splimo_time::sync::SyncSource;

/// The way a show is played.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct Settings {
    /// Frames a second, 1..200. 44 is the fastest that DMX512 carries a full universe (ANSI E1.11).
    pub rate: f32,
    /// Beats a minute until the music or a tap says otherwise, 20..400.
    pub tempo: f32,
    /// Bars in a phrase, 1..64.
    pub phrase_bars: u32,
    /// The boundary at which an armed look lands.
    pub lands: Boundary,
    /// The time that a look takes to fade in, in beats, 0..64.
    pub fade_beats: f32,
    /// The source that leads the clock; `leader` in files.
    #[serde(rename = "leader", skip_serializing_if = "SyncSource::is_music")]
    pub sync_source: SyncSource,
    /// By how much light is early, in milliseconds, -500..500, for what lamps and the way to them take.
    #[serde(skip_serializing_if = "is_none")]
    pub latency_ms: f32,
    /// By how many decibels what is heard is turned up, -40..40, before it is turned up by itself.
    #[serde(skip_serializing_if = "is_none")]
    pub hearing_gain: f32,
    /// The level below which what is heard counts as silence, in decibels of full scale, -90..0.
    #[serde(skip_serializing_if = "is_silent")]
    pub hearing_floor: f32,
    /// The number of bands in which hearing is told, 16..64.
    #[serde(skip_serializing_if = "is_usual")]
    pub hearing_bands: u32,
    /// The time that a band takes to rise, in milliseconds, 0..500.
    #[serde(skip_serializing_if = "is_none")]
    pub hearing_attack_ms: f32,
    /// The time that a band takes to fall to a third, in milliseconds, 0..2000.
    #[serde(skip_serializing_if = "is_usual_decay")]
    pub hearing_decay_ms: f32,
    /// True if 8-bit values are dithered in time.
    pub dither: bool,
    /// The way the time since the start is sent as time code (Art-Net).
    #[serde(skip_serializing_if = "TimeCode::is_off")]
    pub time_code: TimeCode,
    /// The time that it takes to black out and to bring the light back, in seconds, 0..20.
    #[serde(skip_serializing_if = "is_none")]
    pub blackout_fade: f32,
    /// The time that a cue list takes to go back, to its first cue, and off the stage, in seconds, 0..60.
    #[serde(skip_serializing_if = "is_usual_back")]
    pub cue_back_fade: f32,
    /// The most flashes a second of the whole output, 1..25; 0 sets no limit.
    #[serde(skip_serializing_if = "is_usual_limit")]
    pub strobe_limit: u32,
    /// The light that is on when nothing else is.
    #[serde(skip_serializing_if = "Fallback::is_dark")]
    pub fallback: Fallback,
    /// The name of the look that is on when nothing else is, where `fallback` says so.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub fallback_look: String,
    /// The name of the look that the panic key leaves; where there is none, what the lowest tier shows stays.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub safe_look: String,
    /// True if macros that others on the network set off fire pads (Art-Net): macro 1 the first.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub triggers: bool,
    /// The addresses of nodes that are left alone: no route to `nodes` sends to them, and nothing is said of them.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub ignored_nodes: Vec<Ipv4Addr>,
    /// The addresses and networks whose answers to polls are believed; empty means the networks of this machine.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub nodes_from: Vec<AddressBlock>,
    /// The addresses and networks whose triggers fire pads; empty means any.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub triggers_from: Vec<AddressBlock>,
    /// The addresses and networks whose time code is followed; empty means any.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub time_code_from: Vec<AddressBlock>,
    /// True if inputs may do everything: save, edit and end the show as well.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub inputs_may_all: bool,
}

/// The level below which nothing is heard, in decibels of full scale.
const SILENT: f32 = -90.0;

fn is_none(number: &f32) -> bool {
    *number == 0.0
}

/// The time that a band usually takes to fall, in milliseconds.
const DECAY_MS: f32 = 60.0;

fn is_usual_decay(milliseconds: &f32) -> bool {
    *milliseconds == DECAY_MS
}

fn is_usual(bands: &u32) -> bool {
    *bands as usize == splimo_time::music::BANDS
}

fn is_silent(level: &f32) -> bool {
    *level == SILENT
}

/// The limit of flashes a second that a show has if it says nothing.
const USUAL_LIMIT: u32 = 4;

/// The usual time that a cue list takes to go back, in seconds.
const USUAL_BACK: f32 = 1.0;

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks by reference")]
fn is_usual_back(seconds: &f32) -> bool {
    *seconds == USUAL_BACK
}

fn is_usual_limit(limit: &u32) -> bool {
    *limit == USUAL_LIMIT
}

/// The light that is on when nothing else is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Fallback {
    /// None.
    #[default]
    Dark,
    /// A look.
    Look,
    /// The look that was on last.
    Last,
}

impl Fallback {
    /// Every one.
    pub const ALL: [Self; 3] = [Self::Dark, Self::Look, Self::Last];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Dark => "dark",
            Self::Look => "look",
            Self::Last => "last",
        }
    }

    fn is_dark(&self) -> bool {
        *self == Self::Dark
    }
}

/// The way time code counts frames.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum TimeCode {
    /// None is sent.
    #[default]
    Off,
    /// 24 frames a second.
    Film,
    /// 25 frames a second.
    Ebu,
    /// 29.97 frames a second, with numbers left out.
    Drop,
    /// 30 frames a second.
    Smpte,
}

impl TimeCode {
    /// Every one.
    pub const ALL: [Self; 5] = [Self::Off, Self::Film, Self::Ebu, Self::Drop, Self::Smpte];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Off => "off",
            Self::Film => "film",
            Self::Ebu => "ebu",
            Self::Drop => "drop",
            Self::Smpte => "smpte",
        }
    }

    fn is_off(&self) -> bool {
        *self == Self::Off
    }
}

impl Default for Settings {
    fn default() -> Self {
        Self {
            rate: 44.0,
            tempo: 120.0,
            phrase_bars: 16,
            lands: Boundary::Bar,
            fade_beats: 1.0,
            sync_source: SyncSource::Music,
            latency_ms: 0.0,
            hearing_gain: 0.0,
            hearing_floor: SILENT,
            hearing_bands: splimo_time::music::BANDS as u32,
            hearing_attack_ms: 0.0,
            hearing_decay_ms: DECAY_MS,
            dither: true,
            time_code: TimeCode::Off,
            blackout_fade: 0.0,
            cue_back_fade: USUAL_BACK,
            strobe_limit: USUAL_LIMIT,
            fallback: Fallback::Dark,
            fallback_look: String::new(),
            safe_look: String::new(),
            triggers: false,
            ignored_nodes: Vec::new(),
            nodes_from: Vec::new(),
            triggers_from: Vec::new(),
            time_code_from: Vec::new(),
            inputs_may_all: false,
        }
    }
}

/// A musical boundary for which something armed waits.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Boundary {
    /// At once.
    Now,
    /// The next beat.
    Beat,
    /// The next bar.
    #[default]
    Bar,
    /// The next bar of those that begin four.
    #[serde(rename = "4 bars")]
    FourBars,
    /// The next phrase.
    Phrase,
}

impl Boundary {
    /// Every boundary, from the nearest to the farthest.
    pub const ALL: [Self; 5] = [Self::Now, Self::Beat, Self::Bar, Self::FourBars, Self::Phrase];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Now => "now",
            Self::Beat => "beat",
            Self::Bar => "bar",
            Self::FourBars => "4 bars",
            Self::Phrase => "phrase",
        }
    }
}
