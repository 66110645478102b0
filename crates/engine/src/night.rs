//! Happenings on the stage, for the night log: each change with its time, its place in the music and who it was.

use super::cues::Claimant;
use serde::{Deserialize, Serialize};

use splimo_base::Seconds;
use splimo_show::CueNumber;
use splimo_show::command::Origin;
use splimo_time::music::Section;

/// The most happenings that wait to be taken. Room for them is there from the beginning.
pub(super) const MOST: usize = 256;

/// Something that happened on the stage. Looks and tiers are meant by their places in the show of the edition.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Happening {
    /// The edition of the show.
    pub edition: u64,
    /// The time.
    pub time: Seconds,
    /// The position in beats.
    pub beat: f64,
    /// Beats in a bar then.
    pub bar_beats: u32,
    /// The sender that caused it.
    pub by: Origin,
    /// The event.
    pub event: StageEvent,
}

/// An event on the stage.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum StageEvent {
    /// A look landed on a tier.
    Landed {
        /// The tier.
        tier: usize,
        /// The look.
        look: usize,
        /// The time that it takes to come, in beats.
        fade: f32,
    },
    /// A tier is cleared.
    Cleared {
        /// The tier.
        tier: usize,
    },
    /// Something that lay over a tier for a while went; this look is back, if there was one.
    Back {
        /// The tier.
        tier: usize,
        /// The look.
        look: Option<usize>,
    },
    /// The rotation chose a look.
    Chose {
        /// The look.
        look: usize,
        /// The part of the music that was heard.
        section: Section,
        /// The number of looks that fitted.
        of: u32,
    },
    /// The rotation gave way to a hand.
    GaveWay,
    /// The rotation took its tier back.
    TookBack,
    /// Nothing was on any more, or something is again: this look is on in its place, if any.
    FellBack {
        /// The look.
        look: Option<usize>,
    },
    /// A cue of a list began.
    CueBegan {
        /// The list.
        list: usize,
        /// The cue.
        cue: CueNumber,
    },
    /// A clip of a timeline began that gives commands.
    ClipBegan {
        /// The timeline.
        timeline: usize,
        /// The clip, by its place in the list of the timeline.
        clip: usize,
    },
    /// A list was held, or goes on.
    CuesPaused {
        /// The list.
        list: usize,
        /// True if it was held.
        paused: bool,
    },
    /// A list was released.
    CuesReleased {
        /// The list.
        list: usize,
    },
    /// A list, or a timeline, kept its tier from somebody, who has it when the list is released.
    Kept {
        /// The tier.
        tier: usize,
        /// The list or the timeline.
        owner: Claimant,
    },
    /// The strobe limit began to hold light back, or ended.
    Limited(bool),
}
