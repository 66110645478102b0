//! Timelines: clips on tiers over seconds or bars, for a song or a night.

use serde::{Deserialize, Serialize};

/// The most timelines of a show.
pub const MOST_TIMELINES: usize = 8;
/// The most clips of a timeline.
pub const MOST_CLIPS: usize = 2000;
/// The longest timeline, in its unit.
pub const LONGEST_TIMELINE: f32 = 86_400.0;

/// The unit in which a timeline counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum TimeUnit {
    /// Seconds.
    #[default]
    Seconds,
    /// Bars of the musical clock.
    Bars,
}

impl TimeUnit {
    /// Every unit.
    pub const ALL: [Self; 2] = [Self::Seconds, Self::Bars];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Seconds => "seconds",
            Self::Bars => "bars",
        }
    }
}

/// The leader of a timeline.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Follows {
    /// Nobody: it has a transport of its own.
    #[default]
    Nobody,
    /// The recording that plays from the session.
    Recording,
    /// Time code, from the network, MIDI or a sound input.
    TimeCode,
}

impl Follows {
    /// Every leader.
    pub const ALL: [Self; 3] = [Self::Nobody, Self::Recording, Self::TimeCode];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Nobody => "nobody",
            Self::Recording => "the recording",
            Self::TimeCode => "time code",
        }
    }
}

/// A clip: a look on a tier for a while, or commands at a moment.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Clip {
    /// The place at which it begins, in the unit of the timeline.
    pub at: f32,
    /// Its length.
    #[serde(default, skip_serializing_if = "is_nought")]
    pub length: f32,
    /// The tier on which it shows its look.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub tier: String,
    /// The look.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub look: Option<String>,
    /// The commands that it gives when it begins.
    #[serde(rename = "do", default, skip_serializing_if = "Vec::is_empty")]
    pub does: Vec<String>,
    /// The time in which it comes, in the unit of the timeline.
    #[serde(default, skip_serializing_if = "is_nought")]
    pub fade_in: f32,
    /// The time in which it goes, in the unit of the timeline.
    #[serde(default, skip_serializing_if = "is_nought")]
    pub fade_out: f32,
}

impl Clip {
    /// The place at which it ends.
    #[must_use]
    pub fn end(&self) -> f32 {
        self.at + self.length
    }
}

/// A timeline.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Timeline {
    /// Its name, unique among timelines.
    pub name: String,
    /// The unit in which it counts.
    #[serde(default)]
    pub unit: TimeUnit,
    /// Its length, in its unit.
    pub length: f32,
    /// True if it begins again at its end.
    #[serde(default, skip_serializing_if = "is_not")]
    pub loops: bool,
    /// Its leader.
    #[serde(default, skip_serializing_if = "is_own")]
    pub follows: Follows,
    /// Its priority, 0..100, as that of a cue list.
    #[serde(default, skip_serializing_if = "is_low")]
    pub priority: u8,
    /// Its clips, in the order of their places.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub clips: Vec<Clip>,
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks by reference")]
fn is_nought(number: &f32) -> bool {
    *number == 0.0
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks by reference")]
fn is_not(flag: &bool) -> bool {
    !*flag
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks by reference")]
fn is_own(follows: &Follows) -> bool {
    *follows == Follows::Nobody
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks by reference")]
fn is_low(priority: &u8) -> bool {
    *priority == 0
}
