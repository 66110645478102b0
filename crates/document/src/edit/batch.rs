//! Many fixtures of one kind added at once: a wall of tubes, a row of bars, a circle of washes.

use serde::{Deserialize, Serialize};

use super::{Bounds, Refused, bounds, names};
use crate::patch::{Plan, pack};
use splimo_base::maths::{cos_turns, sin_turns};
use splimo_light::rig::{cell_positions, order};
use splimo_show::{Fixture, Group, MOST_CELLS, Shape, Show, Wiring};

/// The most fixtures that are added at once.
const MOST: u32 = 10_000;

/// The way fixtures lie beside each other.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Rows {
    /// From left to right.
    Row,
    /// From top to bottom.
    Column,
    /// In columns and rows, in the order of a wiring.
    Grid {
        /// The number of columns.
        columns: u32,
        /// The order of the fixtures.
        order: Wiring,
    },
    /// Around a circle, clockwise from the top, each turned outward.
    Circle {
        /// The radius, in pitches of the canvas.
        radius: f32,
    },
}

/// Fixtures of one kind that are added at once.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Batch {
    /// The name; several are numbered.
    pub name: String,
    /// The name of the profile.
    pub profile: String,
    /// The number of them.
    pub count: u32,
    /// The shape of each.
    pub shape: Shape,
    /// The wiring of each.
    pub wiring: Wiring,
    /// The angle by which each is turned clockwise, in degrees.
    pub angle: f32,
    /// The distance between cells, in pitches of the canvas.
    pub pitch: f32,
    /// The way they lie beside each other.
    pub rows: Rows,
    /// The gap between two of them, in pitches of the canvas.
    pub gap: f32,
    /// The middle of all of them; without it, a place where there is room.
    pub middle: Option<(f32, f32)>,
    /// The way they get their addresses; without it, they are not patched.
    pub plan: Option<Plan>,
    /// The name of a group of them; empty for none.
    pub group: String,
}

impl Batch {
    pub(super) fn add_to(&self, show: &mut Show) -> Result<(), Refused> {
        self.check(show)?;
        let first = show.fixtures.len();
        let mut fixtures = self.laid_out();
        self.name_all(show, &mut fixtures)?;
        self.move_into_place(show, &mut fixtures);
        show.fixtures.append(&mut fixtures);
        let new: Vec<usize> = (first..show.fixtures.len()).collect();
        if let Some(plan) = self.plan {
            let addresses = pack(show, &new, plan).map_err(|e| Refused(e.0))?;
            for (&index, address) in new.iter().zip(addresses) {
                (show.fixtures[index].address, show.fixtures[index].split) = (Some(address), plan.split);
            }
        }
        if !self.group.trim().is_empty() {
            names::check_free(show, &self.group)?;
            let members = show.fixtures[first..].iter().map(|f| f.name.clone()).collect();
            show.groups.push(Group { name: self.group.clone(), members, colour: None });
        }
        Ok(())
    }

    fn check(&self, show: &Show) -> Result<(), Refused> {
        if self.count == 0 || self.count > MOST {
            return Err(Refused(format!("{} fixtures cannot be added at once; write 1 to {MOST}", self.count)));
        }
        if show.profile(&self.profile).is_none() {
            return Err(Refused(format!("there is no profile \"{}\"; choose one of the list", self.profile)));
        }
        if let Some((message, mend)) = self.shape.fault().or_else(|| self.wiring.fault()) {
            return Err(Refused(format!("{message}; {mend}")));
        }
        if self.shape.cells() * u64::from(self.count) > u64::from(MOST_CELLS) * 16 {
            return Err(Refused(format!("{} times {} cells are too many at once", self.count, self.shape.cells())));
        }
        if !(0.001..=10_000.0).contains(&self.pitch) || !self.gap.is_finite() || !self.angle.is_finite() {
            return Err(Refused::because("pitch, gap and angle are numbers, and a pitch is above 0"));
        }
        match self.rows {
            Rows::Grid { columns: 0, .. } => Err(Refused::because("a grid has 1 column or more")),
            Rows::Circle { radius } if !(0.0..=100_000.0).contains(&radius) => {
                Err(Refused::because("the radius of a circle is a number from 0 to 100000"))
            }
            _ => Ok(()),
        }
    }

    /// The fixtures about the corner of the canvas.
    fn laid_out(&self) -> Vec<Fixture> {
        let one = Fixture {
            wiring: self.wiring.clone(),
            angle: self.angle,
            pitch: self.pitch,
            ..Fixture::new(&self.name, &self.profile, self.shape.clone())
        };
        let size = Bounds::of(&one);
        // Cells have a width of their own: neighbours without a gap are one pitch apart.
        let (dx, dy) = (size.width() + self.pitch + self.gap, size.height() + self.pitch + self.gap);
        let at = |column: u32, row: u32| one.clone().at(column as f32 * dx, row as f32 * dy);
        match &self.rows {
            Rows::Row => (0..self.count).map(|i| at(i, 0)).collect(),
            Rows::Column => (0..self.count).map(|i| at(0, i)).collect(),
            Rows::Grid { columns, order: wiring } => {
                let rows = self.count.div_ceil(*columns);
                // Of a grid that is not full the last places stay empty.
                let inside = |&(column, row): &(u32, u32)| {
                    u64::from(row) * u64::from(*columns) + u64::from(column) < u64::from(self.count)
                };
                order(*columns, rows, wiring).filter(inside).map(|(column, row)| at(column, row)).collect()
            }
            Rows::Circle { radius } => (0..self.count)
                .map(|i| {
                    let turn = i as f32 / self.count as f32;
                    let angle = (self.angle + turn * 360.0).rem_euclid(360.0);
                    Fixture { angle, ..one.clone() }.at(radius * sin_turns(turn), -radius * cos_turns(turn))
                })
                .collect(),
        }
    }

    fn name_all(&self, show: &Show, fixtures: &mut [Fixture]) -> Result<(), Refused> {
        if self.name.trim().is_empty() {
            return Err(Refused::because("they need a name; type one"));
        }
        let taken: std::collections::HashSet<&str> =
            show.fixtures.iter().map(|f| f.name.as_str()).chain(show.groups.iter().map(|g| g.name.as_str())).collect();
        if self.count == 1 && !taken.contains(self.name.as_str()) {
            return Ok(());
        }
        let stem = self.name.trim_end_matches(|c: char| c.is_ascii_digit()).trim_end();
        let mut numbers = (1u64..).map(|n| format!("{stem} {n}")).filter(|name| !taken.contains(name.as_str()));
        for fixture in fixtures {
            fixture.name = numbers.next().unwrap_or_default();
        }
        Ok(())
    }

    /// Moves them to where they are to lie, and makes the canvas larger where that is needed.
    fn move_into_place(&self, show: &mut Show, fixtures: &mut [Fixture]) {
        let Some(size) = around(fixtures) else { return };
        let (middle_x, middle_y) = self.middle.unwrap_or_else(|| free_place(show, size, self.pitch));
        let (cx, cy) = size.middle();
        // On half pitches, so that cells of neighbouring fixtures line up.
        let even = |x: f32| (x * 2.0).round() / 2.0;
        let (dx, dy) = (even(middle_x - cx), even(middle_y - cy));
        for fixture in fixtures.iter_mut() {
            (fixture.x, fixture.y) = (fixture.x + dx, fixture.y + dy);
        }
        show.canvas.width = show.canvas.width.max((size.right + dx + self.pitch / 2.0).ceil());
        show.canvas.height = show.canvas.height.max((size.bottom + dy + self.pitch / 2.0).ceil());
    }
}

fn around(fixtures: &[Fixture]) -> Option<Bounds> {
    let mut cells = fixtures.iter().flat_map(cell_positions);
    let (x, y) = cells.next()?;
    let first = Bounds { left: x, top: y, right: x, bottom: y };
    Some(cells.fold(first, |b, (x, y)| Bounds {
        left: b.left.min(x),
        top: b.top.min(y),
        right: b.right.max(x),
        bottom: b.bottom.max(y),
    }))
}

/// The middle of a rectangle that touches nothing: the middle of an empty canvas, else under what is there, else beside it.
fn free_place(show: &Show, size: Bounds, pitch: f32) -> (f32, f32) {
    let all: Vec<usize> = (0..show.fixtures.len()).collect();
    let (width, height) = (size.width() + pitch, size.height() + pitch);
    let Some(there) = bounds(show, &all) else {
        return (width.max(show.canvas.width) / 2.0, height.max(show.canvas.height) / 2.0);
    };
    let middle_x = there.middle().0.max(width / 2.0);
    if there.bottom + 2.0 + height <= show.canvas.height || there.right + 2.0 + width > show.canvas.width {
        (middle_x, there.bottom + 1.5 + height / 2.0)
    } else {
        (there.right + 1.5 + width / 2.0, there.middle().1.max(height / 2.0))
    }
}
