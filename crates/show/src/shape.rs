//! Shapes: how the cells of a fixture are arranged.

use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

/// The most cells a fixture may have.
pub const MOST_CELLS: u32 = 65_536;

/// The way cells are arranged. Every shape is a lattice of columns and rows that is bent in its own way.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase", deny_unknown_fields)]
pub enum Shape {
    /// Cells in a straight line to the right.
    Line {
        /// The number of cells.
        cells: u32,
    },
    /// Columns by rows.
    Grid {
        /// The number of columns.
        columns: u32,
        /// The number of rows.
        rows: u32,
    },
    /// A full circle, from the top clockwise.
    Ring {
        /// The number of cells.
        cells: u32,
    },
    /// A part of a circle about the fixture's middle, clockwise, its own middle at the top.
    Arc {
        /// The number of cells.
        cells: u32,
        /// From the first cell to the last, 1..360 degrees.
        degrees: f32,
    },
    /// Strings that hang from an apex.
    Cone {
        /// The number of strings.
        strings: u32,
        /// The number of cells of a string.
        cells: u32,
        /// The angle that the strings go around, 1..360 degrees.
        degrees: f32,
        /// The width of the cone at its foot, in pitches of the canvas.
        width: f32,
        /// True if it is seen cut open and laid flat, not from the front.
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        unrolled: bool,
    },
    /// Cells anywhere.
    Points {
        /// The place of each from the fixture's middle, to the right and down, in pitches of the fixture.
        at: Vec<[f32; 2]>,
    },
}

impl Shape {
    /// The words for all shapes.
    pub const NAMES: [&str; 6] = ["line", "grid", "ring", "arc", "cone", "points"];

    /// Columns and rows of the lattice.
    #[must_use]
    pub fn lattice(&self) -> (u32, u32) {
        match self {
            Self::Line { cells } | Self::Ring { cells } | Self::Arc { cells, .. } => (*cells, 1),
            Self::Grid { columns, rows } => (*columns, *rows),
            Self::Cone { strings, cells, .. } => (*strings, *cells),
            Self::Points { at } => (u32::try_from(at.len()).unwrap_or(u32::MAX), 1),
        }
    }

    /// The number of cells.
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
            Self::Arc { .. } => "arc",
            Self::Cone { .. } => "cone",
            Self::Points { .. } => "points",
        }
    }

    /// Points, moved so that their middle lies at 0, 0.
    #[must_use]
    pub fn points(mut at: Vec<[f32; 2]>) -> Self {
        for axis in 0..2 {
            let least = at.iter().map(|p| p[axis]).fold(f32::INFINITY, f32::min);
            let most = at.iter().map(|p| p[axis]).fold(f32::NEG_INFINITY, f32::max);
            at.iter_mut().for_each(|p| p[axis] -= (least + most) / 2.0);
        }
        Self::Points { at }
    }

    /// The fault in it, as a message and its mend, if there is one.
    #[must_use]
    pub fn fault(&self) -> Option<(String, String)> {
        let cells = self.cells();
        if cells == 0 || cells > u64::from(MOST_CELLS) {
            return Some((format!("its shape has {cells} cells"), format!("give it 1 to {MOST_CELLS} cells")));
        }
        let range = |what: &str, value: f32, from: f32, to: f32| {
            let mend = format!("write a number from {from} to {to}");
            (!(from..=to).contains(&value)).then(|| (format!("{value} {what} is out of range"), mend))
        };
        match self {
            Self::Arc { degrees, .. } => range("degrees", *degrees, 1.0, 360.0),
            Self::Cone { degrees, width, .. } => {
                range("degrees", *degrees, 1.0, 360.0).or_else(|| range("as width", *width, 0.0, 100_000.0))
            }
            Self::Points { at } => {
                let far =
                    at.iter().flatten().find(|x| x.abs().partial_cmp(&100_000.0) != Some(std::cmp::Ordering::Less));
                far.map(|x| (format!("a point at {x} is out of range"), "keep points within 100000".to_owned()))
            }
            _ => None,
        }
    }
}

/// A shape as one types it: `line 48`, `grid 40x8`, `ring 120`, `arc 30 180`, `cone 16x25 360 20` (with `unrolled` behind it
/// where it is), `points 0 0; 1 0.5`.
impl fmt::Display for Shape {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let name = self.name();
        match self {
            Self::Line { cells } | Self::Ring { cells } => write!(f, "{name} {cells}"),
            Self::Grid { columns, rows } => write!(f, "{name} {columns}x{rows}"),
            Self::Arc { cells, degrees } => write!(f, "{name} {cells} {degrees}"),
            Self::Cone { strings, cells, degrees, width, unrolled } => {
                write!(f, "{name} {strings}x{cells} {degrees} {width}{}", if *unrolled { " unrolled" } else { "" })
            }
            Self::Points { at } => {
                let points: Vec<String> = at.iter().map(|[x, y]| format!("{x} {y}")).collect();
                write!(f, "{name} {}", points.join("; "))
            }
        }
    }
}

/// The reason why a text is not a shape.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("\"{0}\" is not a shape: write line 48, grid 40x8, ring 120, arc 30 180, cone 16x25 360 20 or points 0 0; 1 0")]
pub struct BadShape(String);

impl FromStr for Shape {
    type Err = BadShape;

    fn from_str(text: &str) -> Result<Self, BadShape> {
        parse(text.trim()).ok_or_else(|| BadShape(text.chars().take(60).collect()))
    }
}

fn parse(text: &str) -> Option<Shape> {
    let (name, rest) = text.split_once(' ')?;
    let words: Vec<&str> = rest.split_whitespace().collect();
    let by = |word: &str| {
        let (a, b) = word.split_once('x')?;
        Some((a.parse().ok()?, b.parse().ok()?))
    };
    match (name, words.as_slice()) {
        ("line", [cells]) => Some(Shape::Line { cells: cells.parse().ok()? }),
        ("ring", [cells]) => Some(Shape::Ring { cells: cells.parse().ok()? }),
        ("grid", [size]) => by(size).map(|(columns, rows)| Shape::Grid { columns, rows }),
        ("arc", [cells, degrees]) => Some(Shape::Arc { cells: cells.parse().ok()?, degrees: degrees.parse().ok()? }),
        ("cone", [size, degrees, width, rest @ ..]) if matches!(rest, [] | ["unrolled"]) => {
            let (strings, cells) = by(size)?;
            let (degrees, width) = (degrees.parse().ok()?, width.parse().ok()?);
            Some(Shape::Cone { strings, cells, degrees, width, unrolled: !rest.is_empty() })
        }
        ("points", _) => {
            let point = |text: &str| {
                let (x, y) = text.trim().split_once(' ')?;
                Some([x.trim().parse().ok()?, y.trim().parse().ok()?])
            };
            rest.split(';').map(point).collect::<Option<_>>().map(|at| Shape::Points { at })
        }
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn nonsense_is_refused() {
        for text in
            ["", "line", "line -3", "line x", "grid 3", "cone 3x3", "cone 3x3 90 4 rolled", "points 1", "star 5"]
        {
            assert!(text.parse::<Shape>().is_err(), "{text}");
        }
        for text in ["line 0", "grid 1x100000", "arc 5 0", "arc 5 400", "cone 3x3 nan 4", "points 1 inf"] {
            assert!(text.parse::<Shape>().expect("its form is right").fault().is_some(), "{text}");
        }
    }

    #[test]
    fn points_are_centred() {
        assert_eq!(Shape::points(vec![[2.0, 1.0], [6.0, 1.0]]), Shape::Points { at: vec![[-2.0, 0.0], [2.0, 0.0]] });
    }

    proptest! {
        #[test]
        fn shapes_round_trip_as_text(cells: u32, rows: u32, degrees: f32, width: f32, unrolled: bool) {
            prop_assume!(degrees.is_finite() && width.is_finite());
            let at = vec![[degrees, width], [width, degrees]];
            for shape in [
                Shape::Line { cells },
                Shape::Ring { cells },
                Shape::Grid { columns: cells, rows },
                Shape::Arc { cells, degrees },
                Shape::Cone { strings: rows, cells, degrees, width, unrolled },
                Shape::Points { at },
            ] {
                prop_assert_eq!(shape.to_string().parse(), Ok(shape));
            }
        }

        #[test]
        fn any_text_is_a_shape_or_an_error(text in "(line|grid|cone|points|arc) \\PC{0,20}") {
            let _ = text.parse::<Shape>();
        }
    }
}
