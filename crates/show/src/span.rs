//! Over what a layer or a lane is stretched, and how it is repeated there.

use serde::{Deserialize, Serialize};

/// Over what an effect is stretched.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
pub enum Span {
    /// All of the target together, at its place on the canvas.
    #[default]
    #[serde(rename = "canvas")]
    Canvas,
    /// Each group of the target by itself.
    #[serde(rename = "each group")]
    EachGroup,
    /// Each fixture of the target by itself.
    #[serde(rename = "each fixture")]
    EachFixture,
    /// Along the target's order, cell after cell.
    #[serde(rename = "order")]
    Order,
    /// Along the order of each group.
    #[serde(rename = "order in each group")]
    OrderInGroup,
    /// Along the wiring of each fixture.
    #[serde(rename = "order in each fixture")]
    OrderInFixture,
}

impl Span {
    /// Every one.
    pub const ALL: [Self; 6] =
        [Self::Canvas, Self::EachGroup, Self::EachFixture, Self::Order, Self::OrderInGroup, Self::OrderInFixture];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Canvas => "canvas",
            Self::EachGroup => "each group",
            Self::EachFixture => "each fixture",
            Self::Order => "order",
            Self::OrderInGroup => "order in each group",
            Self::OrderInFixture => "order in each fixture",
        }
    }
}

/// The way the parts of a span repeat an effect.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
pub enum Repeat {
    /// All alike.
    #[default]
    #[serde(rename = "alike")]
    Alike,
    /// Each from its middle to both sides.
    #[serde(rename = "mirrored")]
    Mirrored,
    /// All the other way round.
    #[serde(rename = "reversed")]
    Reversed,
    /// Every other one the other way round.
    #[serde(rename = "alternately reversed")]
    Alternate,
}

impl Repeat {
    /// Every one.
    pub const ALL: [Self; 4] = [Self::Alike, Self::Mirrored, Self::Reversed, Self::Alternate];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Alike => "alike",
            Self::Mirrored => "mirrored",
            Self::Reversed => "reversed",
            Self::Alternate => "alternately reversed",
        }
    }

    pub(crate) fn is_alike(&self) -> bool {
        *self == Self::Alike
    }
}
