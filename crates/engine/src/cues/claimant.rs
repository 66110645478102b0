//! Who claims tiers and values by itself: a cue list, or a timeline.

use serde::{Deserialize, Serialize};
use splimo_show::command::Origin;
use splimo_show::{MOST_LISTS, MOST_TIMELINES, Show};

/// A cue list or a timeline that claims things, by its place in the show. As data it is one number: timelines follow the places of lists.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(from = "usize", into = "usize")]
pub enum Claimant {
    /// A cue list.
    List(usize),
    /// A timeline.
    Timeline(usize),
}

/// The most claimants of a show.
pub(super) const MOST_CLAIMANTS: usize = MOST_LISTS + MOST_TIMELINES;

impl Claimant {
    /// The origin of what it does.
    pub(super) fn origin(self) -> Origin {
        match self {
            Self::List(list) => Origin::List(list as u8),
            Self::Timeline(timeline) => Origin::Timeline(timeline as u8),
        }
    }

    /// Its name.
    #[must_use]
    pub fn name(self, show: &Show) -> Option<&str> {
        match self {
            Self::List(list) => show.cue_lists.get(list).map(|list| list.name.as_str()),
            Self::Timeline(timeline) => show.timelines.get(timeline).map(|one| one.name.as_str()),
        }
    }
}

impl From<usize> for Claimant {
    fn from(number: usize) -> Self {
        number.checked_sub(MOST_LISTS).map_or(Self::List(number), Self::Timeline)
    }
}

impl From<Claimant> for usize {
    fn from(claimant: Claimant) -> Self {
        match claimant {
            Claimant::List(list) => list,
            Claimant::Timeline(timeline) => MOST_LISTS + timeline,
        }
    }
}
