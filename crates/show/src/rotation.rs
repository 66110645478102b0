//! Rotation: looks that take turns by themselves.

use serde::{Deserialize, Serialize};

use super::{Look, Show};

/// The rotation of a show: which looks take turns, on which tier, and when.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct Rotation {
    /// The name of the tier; the lowest, where none is named.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub tier: Option<String>,
    /// The bars after which the next look comes, 1..64; 0 means when the part of the music changes.
    pub bars: u32,
    /// The number that its choices begin from: the same gives the same choices.
    pub seed: u32,
    /// The time that a look takes to fade in, in beats, 0..64.
    pub fade: f32,
    /// The bars after which it takes its tier back from a hand, 1..256; 0 means when it is told to.
    pub back_after: u32,
    /// Names of looks that are in it.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub looks: Vec<String>,
    /// Names of banks whose looks are in it.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub banks: Vec<String>,
    /// Tags of looks that are in it.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub tags: Vec<String>,
    /// Names of looks that are kept out.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub without: Vec<String>,
}

impl Default for Rotation {
    fn default() -> Self {
        Self {
            tier: None,
            bars: 8,
            seed: 1,
            fade: 4.0,
            back_after: 0,
            looks: Vec::new(),
            banks: Vec::new(),
            tags: Vec::new(),
            without: Vec::new(),
        }
    }
}

impl Rotation {
    /// True if it says nothing.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        *self == Self::default()
    }

    /// True if a look is in it. Where it names nothing, all are that are not kept out.
    #[must_use]
    pub fn has(&self, look: &Look, show: &Show) -> bool {
        if self.without.contains(&look.name) {
            return false;
        }
        let everything = self.looks.is_empty() && self.banks.is_empty() && self.tags.is_empty();
        let in_bank = || {
            let banks = show.banks.iter().filter(|bank| self.banks.contains(&bank.name));
            banks.flat_map(|bank| &bank.pads).any(|pad| pad.look.as_ref() == Some(&look.name))
        };
        everything
            || self.looks.contains(&look.name)
            || look.tags.iter().any(|tag| self.tags.contains(tag))
            || in_bank()
    }
}
