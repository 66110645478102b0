//! Wishes: what a tier is to show, from which boundary, with which fade. Pads, looks, rotation and remote control all come down
//! to one.

use serde::{Deserialize, Serialize};

use splimo_show::Boundary;
use splimo_show::command::Origin;

/// The time that something stays on its tier.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Stay {
    /// Until something else takes the tier.
    ForGood,
    /// Over what is there, until its pad is let go.
    Held,
    /// Over what is there, for some beats.
    Beats(f32),
}

/// A wish for a tier.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Wish {
    /// The place of the tier in the stack.
    pub tier: usize,
    /// The look, by its place in the show; none clears the tier.
    pub look: Option<usize>,
    /// The time that it takes to come, in beats.
    pub fade: f32,
    /// The time that it takes to go, in beats.
    pub fade_out: f32,
    /// The time that it stays.
    pub stay: Stay,
    /// The sender that asked for it.
    pub by: Origin,
    /// The number of the pad that asked for it, if one did.
    pub pad: Option<usize>,
}

/// A wish that waits for its boundary.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Armed {
    /// The number by which it can be landed, pushed or taken back: the lowest, from 1, that nothing else has that waits.
    pub number: usize,
    /// The wish.
    pub wish: Wish,
    /// The boundary that it waits for.
    pub boundary: Boundary,
    /// The beat at which it lands.
    pub lands_at: f64,
    /// The place in the order in which things were asked for.
    pub asked: u64,
    /// The number of times that it was pushed to a later boundary.
    pub pushed: u32,
}
