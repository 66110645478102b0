//! Tiers: the storeys of the stage. They lie over one another; each shows one thing at a time.

use std::sync::LazyLock;

use serde::{Deserialize, Serialize};

use super::{Blend, Show};

/// The most tiers that a stage has.
pub const MOST_TIERS: usize = 16;

/// The name of the lowest tier of a stage that nobody has named.
pub const BASE: &str = "base";

/// The stage of a show that says nothing of tiers.
static PLAIN: LazyLock<Vec<Tier>> = LazyLock::new(|| vec![Tier::new(BASE)]);

/// A tier of the stage.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Tier {
    /// The name, unique among tiers.
    pub name: String,
    /// The way it meets the tiers below.
    #[serde(default)]
    pub blend: Blend,
    /// Names of the groups and fixtures that it may touch; empty means every fixture.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub lights: Vec<String>,
}

impl Tier {
    /// A tier that covers what is below, on every light.
    #[must_use]
    pub fn new(name: &str) -> Self {
        Self { name: name.to_owned(), blend: Blend::Normal, lights: Vec::new() }
    }
}

impl Show {
    /// The tiers of the stage, the lowest first: one, where the show says nothing of them.
    #[must_use]
    pub fn stack(&self) -> &[Tier] {
        if self.tiers.is_empty() { &PLAIN } else { &self.tiers }
    }

    /// The place of a tier in the stack, by its name.
    #[must_use]
    pub fn tier(&self, name: &str) -> Option<usize> {
        self.stack().iter().position(|tier| tier.name == name)
    }

    /// The look that is meant, and the tier that is named before it, as in `top/Beacon`. A look of the whole name comes first.
    #[must_use]
    pub fn look_on_tier(&self, text: &str) -> Option<(Option<usize>, usize)> {
        if let Some((look, _)) = self.look(text) {
            return Some((None, look));
        }
        let (tier, look) = text.split_once('/')?;
        Some((Some(self.tier(tier.trim())?), self.look(look.trim())?.0))
    }
}
