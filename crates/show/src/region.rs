//! A region: a rectangle with a name that many layers share.

use serde::{Deserialize, Serialize};

use super::Area;

/// The most regions that a show has.
pub const MOST_REGIONS: usize = 256;

/// A rectangle on the canvas, or on the box around a group or a fixture. Layers that name it are stretched over it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Region {
    /// The name, unique among regions.
    pub name: String,
    /// The group or the fixture whose box its area is of; empty means the canvas.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub of: String,
    /// The rectangle, in percent of the canvas or of that box.
    #[serde(default)]
    pub area: Area,
}
