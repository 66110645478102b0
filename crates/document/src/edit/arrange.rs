//! Placing fixtures: moved, turned, mirrored, scaled, aligned and distributed together.

use serde::{Deserialize, Serialize};

use super::{Refused, each, gone};
use splimo_base::maths::{cos_turns, sin_turns};
use splimo_light::rig::cell_positions;
use splimo_show::{Canvas, Fixture, Shape, Show};

/// One of the two directions of the canvas.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Axis {
    /// From left to right.
    X,
    /// From top to bottom.
    Y,
}

/// Along what fixtures are aligned.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Side {
    /// Their left edges.
    Left,
    /// Their middles from left to right.
    Centre,
    /// Their right edges.
    Right,
    /// Their top edges.
    Top,
    /// Their middles from top to bottom.
    Middle,
    /// Their bottom edges.
    Bottom,
}

/// A change of where fixtures lie, about the middle of all of them.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Arrangement {
    /// By so many pitches to the right and down.
    Move(f32, f32),
    /// By so many degrees clockwise.
    Turn(f32),
    /// Left and right exchanged (X), or top and bottom (Y).
    Mirror(Axis),
    /// By a factor.
    Scale(f32),
    /// To one line.
    Align(Side),
    /// To equal distances between the outermost two.
    Distribute(Axis),
}

/// The rectangle around some cells.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Bounds {
    /// The left edge.
    pub left: f32,
    /// The top edge.
    pub top: f32,
    /// The right edge.
    pub right: f32,
    /// The bottom edge.
    pub bottom: f32,
}

impl Bounds {
    /// The rectangle around the middles of a fixture's cells.
    #[must_use]
    pub fn of(fixture: &Fixture) -> Self {
        let none = Self { left: fixture.x, top: fixture.y, right: fixture.x, bottom: fixture.y };
        let cells = cell_positions(fixture).into_iter().map(|(x, y)| Self { left: x, top: y, right: x, bottom: y });
        cells.reduce(Self::with).unwrap_or(none)
    }

    fn with(self, other: Self) -> Self {
        Self {
            left: self.left.min(other.left),
            top: self.top.min(other.top),
            right: self.right.max(other.right),
            bottom: self.bottom.max(other.bottom),
        }
    }

    /// From left to right.
    #[must_use]
    pub fn width(self) -> f32 {
        self.right - self.left
    }

    /// From top to bottom.
    #[must_use]
    pub fn height(self) -> f32 {
        self.bottom - self.top
    }

    /// The middle.
    #[must_use]
    pub fn middle(self) -> (f32, f32) {
        ((self.left + self.right) / 2.0, (self.top + self.bottom) / 2.0)
    }
}

/// The rectangle around the cells of some fixtures; none where there are no fixtures.
#[must_use]
pub fn bounds(show: &Show, fixtures: &[usize]) -> Option<Bounds> {
    fixtures.iter().filter_map(|&index| show.fixtures.get(index)).map(Bounds::of).reduce(Bounds::with)
}

/// The fixtures that hang off the canvas of a show, all of them or in part.
#[must_use]
pub fn off_canvas(show: &Show) -> Vec<&str> {
    let Canvas { width, height } = show.canvas;
    let off = |fixture: &&Fixture| {
        let Bounds { left, top, right, bottom } = Bounds::of(fixture);
        left < 0.0 || top < 0.0 || right > width || bottom > height
    };
    show.fixtures.iter().filter(off).map(|fixture| fixture.name.as_str()).collect()
}

/// Sets the canvas and takes the fixtures along: the middle of each stays where it was in proportion, but for what it has to move
/// to have all its cells on the canvas. One that is larger than the canvas is in its middle.
pub(super) fn fit(show: &mut Show, canvas: Canvas) {
    let before = std::mem::replace(&mut show.canvas, canvas);
    // A cell reaches half a pitch around its middle.
    let within = |place: f32, low: f32, high: f32, of: f32| match high - low > of - 1.0 {
        true => of / 2.0 - (low + high) / 2.0,
        false => (place - (low + high) / 2.0).clamp(0.5 - low, of - 0.5 - high),
    };
    for fixture in &mut show.fixtures {
        let all = Bounds::of(fixture);
        let (x, y) = all.middle();
        fixture.x += within(x * canvas.width / before.width, all.left, all.right, canvas.width);
        fixture.y += within(y * canvas.height / before.height, all.top, all.bottom, canvas.height);
    }
}

pub(super) fn arrange(show: &mut Show, fixtures: &[usize], arrangement: Arrangement) -> Result<(), Refused> {
    if let Some(&index) = fixtures.iter().find(|&&index| index >= show.fixtures.len()) {
        return Err(gone(index));
    }
    let Some(all) = bounds(show, fixtures) else { return Ok(()) };
    // One that was named twice is still moved once.
    let mut seen = std::collections::HashSet::new();
    let fixtures: Vec<usize> = fixtures.iter().copied().filter(|index| seen.insert(*index)).collect();
    let fixtures = fixtures.as_slice();
    let (cx, cy) = all.middle();
    match arrangement {
        Arrangement::Move(dx, dy) => each(show, fixtures, |f| (f.x, f.y) = (f.x + dx, f.y + dy)),
        Arrangement::Turn(degrees) => {
            let (sin, cos) = quarter_exact(degrees);
            each(show, fixtures, |f| {
                let (dx, dy) = (f.x - cx, f.y - cy);
                (f.x, f.y) = (cx + dx * cos - dy * sin, cy + dx * sin + dy * cos);
                f.angle = whole_turn(f.angle + degrees);
            })
        }
        Arrangement::Mirror(axis) => each(show, fixtures, |f| {
            f.mirror = !f.mirror;
            match axis {
                Axis::X => (f.x, f.angle) = (2.0 * cx - f.x, whole_turn(-f.angle)),
                Axis::Y => (f.y, f.angle) = (2.0 * cy - f.y, whole_turn(180.0 - f.angle)),
            }
        }),
        Arrangement::Scale(factor) => {
            if !(0.01..=100.0).contains(&factor) {
                return Err(Refused(format!("a scale of {factor} is out of range; write a number from 0.01 to 100")));
            }
            each(show, fixtures, |f| {
                (f.x, f.y) = (cx + (f.x - cx) * factor, cy + (f.y - cy) * factor);
                f.pitch *= factor;
                if let Shape::Cone { width, .. } = &mut f.shape {
                    *width *= factor;
                }
            })
        }
        Arrangement::Align(side) => each(show, fixtures, |f| align(f, all, side)),
        Arrangement::Distribute(axis) => distribute(show, fixtures, axis),
    }
}

fn align(fixture: &mut Fixture, all: Bounds, side: Side) {
    let own = Bounds::of(fixture);
    match side {
        Side::Left => fixture.x += all.left - own.left,
        Side::Centre => fixture.x += all.middle().0 - own.middle().0,
        Side::Right => fixture.x += all.right - own.right,
        Side::Top => fixture.y += all.top - own.top,
        Side::Middle => fixture.y += all.middle().1 - own.middle().1,
        Side::Bottom => fixture.y += all.bottom - own.bottom,
    }
}

fn distribute(show: &mut Show, fixtures: &[usize], axis: Axis) -> Result<(), Refused> {
    let place = |f: &Fixture| {
        let (x, y) = Bounds::of(f).middle();
        if axis == Axis::X { x } else { y }
    };
    let mut order: Vec<(f32, usize)> = fixtures.iter().map(|&index| (place(&show.fixtures[index]), index)).collect();
    // Stable: those at one place keep the order in which they were chosen.
    order.sort_by(|a, b| a.0.total_cmp(&b.0));
    let (Some(first), Some(last)) = (order.first(), order.last()) else { return Ok(()) };
    let (first, last, steps) = (first.0, last.0, order.len().saturating_sub(1).max(1) as f32);
    for (step, &(was, index)) in order.iter().enumerate() {
        let by = first + (last - first) * step as f32 / steps - was;
        let fixture = &mut show.fixtures[index];
        match axis {
            Axis::X => fixture.x += by,
            Axis::Y => fixture.y += by,
        }
    }
    Ok(())
}

/// Sine and cosine of some degrees, exact for quarter turns.
fn quarter_exact(degrees: f32) -> (f32, f32) {
    let (sin, cos) = (sin_turns(degrees / 360.0), cos_turns(degrees / 360.0));
    if degrees % 90.0 == 0.0 { (sin.round(), cos.round()) } else { (sin, cos) }
}

/// The same angle, 0..360.
fn whole_turn(degrees: f32) -> f32 {
    let turned = degrees.rem_euclid(360.0);
    if turned >= 360.0 { 0.0 } else { turned }
}
