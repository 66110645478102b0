//! A fixture: a shape of cells, how it is wired, where it lies and where its channels start.

use serde::{Deserialize, Serialize};

use super::Address;

/// The most cells a fixture may have.
pub const MOST_CELLS: u32 = 1_000_000;

/// One fixture.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Fixture {
    /// The name, unique among fixtures and groups.
    pub name: String,
    /// The name of its profile.
    pub profile: String,
    /// Where its first channel lies; a fixture without one is not patched.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub address: Option<Address>,
    /// Its cells' arrangement.
    pub shape: Shape,
    /// The order in which its cells are wired.
    #[serde(default, skip_serializing_if = "Wiring::is_usual")]
    pub wiring: Wiring,
    /// The middle of the shape on the canvas, in pitches from the left.
    pub x: f32,
    /// The middle of the shape on the canvas, in pitches from the top.
    pub y: f32,
    /// How far neighbouring cells are apart, in pitches of the canvas, above 0.
    #[serde(default = "one", skip_serializing_if = "is_one")]
    pub pitch: f32,
    /// How far the shape is turned clockwise about its middle, in degrees.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub angle: f32,
}

fn one() -> f32 {
    1.0
}

fn is_one(x: &f32) -> bool {
    *x == 1.0
}

fn is_zero(x: &f32) -> bool {
    *x == 0.0
}

/// How cells are arranged. Every shape is a lattice of columns and rows that is bent in its own way.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase", deny_unknown_fields)]
pub enum Shape {
    /// Cells in a straight line to the right.
    Line {
        /// How many cells.
        cells: u32,
    },
    /// Columns by rows.
    Grid {
        /// How many columns.
        columns: u32,
        /// How many rows.
        rows: u32,
    },
    /// A full circle, from the top clockwise.
    Ring {
        /// How many cells.
        cells: u32,
    },
    /// Strings that hang from an apex, seen from the front.
    Cone {
        /// How many strings.
        strings: u32,
        /// How many cells a string.
        cells: u32,
        /// How far around the strings go, 1..360 degrees.
        degrees: f32,
        /// The width of the cone at its foot, in pitches of the canvas.
        width: f32,
    },
}

impl Shape {
    /// Columns and rows of the lattice.
    #[must_use]
    pub fn lattice(&self) -> (u32, u32) {
        match *self {
            Self::Line { cells } | Self::Ring { cells } => (cells, 1),
            Self::Grid { columns, rows } => (columns, rows),
            Self::Cone { strings, cells, .. } => (strings, cells),
        }
    }

    /// How many cells there are.
    #[must_use]
    pub fn cells(&self) -> u64 {
        let (columns, rows) = self.lattice();
        u64::from(columns) * u64::from(rows)
    }

    /// The word for it.
    #[must_use]
    pub fn name(&self) -> &'static str {
        match self {
            Self::Line { .. } => "line",
            Self::Grid { .. } => "grid",
            Self::Ring { .. } => "ring",
            Self::Cone { .. } => "cone",
        }
    }
}

/// The order in which the cells of a lattice are wired.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct Wiring {
    /// The corner of the first cell.
    pub start: Corner,
    /// Whether the wire runs along rows or along columns.
    pub along: Run,
    /// Whether every second run goes back the other way.
    pub turns: bool,
}

impl Wiring {
    fn is_usual(&self) -> bool {
        *self == Self::default()
    }
}

/// A corner of a lattice.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
pub enum Corner {
    /// Top left.
    #[default]
    #[serde(rename = "top left")]
    TopLeft,
    /// Top right.
    #[serde(rename = "top right")]
    TopRight,
    /// Bottom left.
    #[serde(rename = "bottom left")]
    BottomLeft,
    /// Bottom right.
    #[serde(rename = "bottom right")]
    BottomRight,
}

/// What the wire runs along.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Run {
    /// Row after row.
    #[default]
    Rows,
    /// Column after column.
    Columns,
}
