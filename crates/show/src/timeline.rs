//! Timelines: clips on tiers over seconds or bars, for a song or a night.

use serde::{Deserialize, Serialize};

use super::{CommandTemplate, Marks};

/// The most timelines of a show.
pub const MOST_TIMELINES: usize = 8;
/// The most clips of a timeline.
pub const MOST_CLIPS: usize = 2000;

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

/// A clip: a look on a tier or a cue list for a while, or commands at a moment.
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
    /// The cue list that goes to its first cue when the clip begins, and is released when it ends.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub list: Option<String>,
    /// The commands that it gives when it begins.
    #[serde(rename = "do", default, skip_serializing_if = "Vec::is_empty")]
    pub does: Vec<CommandTemplate>,
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
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
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
    /// The beats, bars and parts that were heard beforehand in the recording that it goes with.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub marks: Option<Marks>,
}

impl Timeline {
    /// The grid on which clips are moved, in its unit.
    #[must_use]
    pub fn grid(&self) -> f32 {
        match self.unit {
            TimeUnit::Seconds => 0.5,
            TimeUnit::Bars => 0.25,
        }
    }

    /// The beats of its recording, where it counts in seconds and has any: clips are moved from one to the next.
    fn beats(&self) -> Option<&Marks> {
        let marks = self.marks.as_ref().filter(|marks| !marks.beats.is_empty());
        marks.filter(|_| self.unit == TimeUnit::Seconds)
    }

    /// The beat or place of the grid that is nearest to a place.
    #[must_use]
    pub fn snapped(&self, at: f32) -> f32 {
        let beat = self.beats().and_then(|marks| marks.nearest_beat(f64::from(at)));
        // Before the first beat and behind the last one there is the grid.
        let near = beat.filter(|beat| (beat - f64::from(at)).abs() <= f64::from(self.grid()));
        near.map_or_else(|| (at / self.grid()).round() * self.grid(), |beat| beat as f32)
    }

    /// The next beat or place of the grid after a place, or the one before it for a negative `by`.
    #[must_use]
    pub fn beside(&self, at: f32, by: i32) -> f32 {
        let step = if by < 0 { -self.grid() } else { self.grid() };
        let beat = self.beats().and_then(|marks| marks.beat_beside(f64::from(at), by));
        let near = beat.filter(|beat| (beat - f64::from(at)).abs() <= f64::from(4.0 * self.grid()));
        near.map_or_else(|| ((at + step) / self.grid()).round() * self.grid(), |beat| beat as f32).max(0.0)
    }
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
