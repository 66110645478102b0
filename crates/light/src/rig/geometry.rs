//! The places of a shape's cells on the canvas.

use super::wiring;
use splimo_base::maths::{cos_turns, sin_turns};
use splimo_show::{Fixture, Shape};

/// Appends the position of each cell of a fixture, in wiring order.
pub(super) fn place(fixture: &Fixture, x: &mut Vec<f32>, y: &mut Vec<f32>) {
    let (columns, rows) = fixture.shape.lattice();
    let turn = fixture.angle / 360.0;
    // The polynomial is exact to 1e-6; a quarter turn has to be exact, or rows would not line up.
    let (sin, cos) = if fixture.angle % 90.0 == 0.0 {
        (sin_turns(turn).clamp(-1.0, 1.0).round(), cos_turns(turn).clamp(-1.0, 1.0).round())
    } else {
        (sin_turns(turn), cos_turns(turn))
    };
    for (column, row) in wiring::order(columns, rows, &fixture.wiring) {
        let (dx, dy) = lattice_position(&fixture.shape, fixture.pitch, column, row);
        let dx = if fixture.mirror { -dx } else { dx };
        x.push(fixture.x + dx * cos - dy * sin);
        y.push(fixture.y + dx * sin + dy * cos);
    }
}

/// The position of each cell of a fixture on the canvas, in wiring order.
#[must_use]
pub fn cell_positions(fixture: &Fixture) -> Vec<(f32, f32)> {
    let (mut x, mut y) = (Vec::new(), Vec::new());
    place(fixture, &mut x, &mut y);
    x.into_iter().zip(y).collect()
}

/// The angle of each cell of a fixture around it, in wiring order, in turns from the middle of its front: of a cone, and nothing
/// else. A mirrored one goes round the other way.
#[must_use]
pub fn angles_around(fixture: &Fixture) -> Option<Vec<f32>> {
    let Shape::Cone { strings, degrees, .. } = fixture.shape else { return None };
    let (columns, rows) = fixture.shape.lattice();
    let side = if fixture.mirror { -1.0 } else { 1.0 };
    let angle = |(column, _): (u32, u32)| around(column, strings, degrees) * side;
    Some(wiring::order(columns, rows, &fixture.wiring).map(angle).collect())
}

/// The number of strings that would hang around a whole turn of a cone; 0 of anything else.
#[must_use]
pub fn lights_around(fixture: &Fixture) -> f32 {
    match fixture.shape {
        Shape::Cone { strings, degrees, .. } => strings as f32 * 360.0 / degrees,
        _ => 0.0,
    }
}

/// The angle of a string of a cone, in turns from the middle of the front.
fn around(string: u32, strings: u32, degrees: f32) -> f32 {
    let share = if strings > 1 { string as f32 / (strings as f32 - 1.0) - 0.5 } else { 0.0 };
    // All the way round, the last string would hang where the first does.
    let share = if degrees >= 360.0 { string as f32 / strings as f32 - 0.5 } else { share };
    share * degrees / 360.0
}

/// The place of a cell of the lattice from the middle of the unturned shape, in pitches of the canvas, y downwards.
fn lattice_position(shape: &Shape, pitch: f32, column: u32, row: u32) -> (f32, f32) {
    let centred = |index: u32, count: u32| (index as f32 - (count as f32 - 1.0) / 2.0) * pitch;
    match *shape {
        Shape::Line { cells } => (centred(column, cells), 0.0),
        Shape::Grid { columns, rows } => (centred(column, columns), centred(row, rows)),
        Shape::Arc { cells, degrees } => {
            let turns = degrees / 360.0;
            let steps = (cells as f32 - 1.0).max(1.0);
            let radius = steps * pitch / (turns * std::f32::consts::TAU);
            let turn = if cells > 1 { (column as f32 / steps - 0.5) * turns } else { 0.0 };
            (radius * sin_turns(turn), -radius * cos_turns(turn))
        }
        Shape::Points { ref at } => at.get(column as usize).map_or((0.0, 0.0), |[x, y]| (x * pitch, y * pitch)),
        Shape::Ring { cells } => {
            let radius = cells as f32 * pitch / std::f32::consts::TAU;
            let turn = column as f32 / cells as f32;
            (radius * sin_turns(turn), -radius * cos_turns(turn))
        }
        Shape::Cone { strings, cells, degrees, width, unrolled } => {
            let radius = width / 2.0 * (row as f32 + 1.0) / cells as f32;
            let around = around(column, strings, degrees);
            // Cut open, a string lies as far from the middle as the way around the cone is long.
            let x = if unrolled { radius * around * std::f32::consts::TAU } else { radius * sin_turns(around) };
            (x, centred(row, cells))
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::{Corner, Run, Wiring};

    fn placed(shape: Shape, wiring: Wiring, angle: f32) -> Vec<(f32, f32)> {
        cell_positions(&Fixture { wiring, angle, ..Fixture::new("F", "rgb", shape).at(10.0, 20.0) })
    }

    #[test]
    fn a_line_turned_a_quarter_runs_down() {
        let cells = placed(Shape::Line { cells: 3 }, Wiring::default(), 90.0);
        assert_eq!(cells, [(10.0, 19.0), (10.0, 20.0), (10.0, 21.0)]);
    }

    #[test]
    fn a_grid_starts_in_its_corner() {
        let wiring = Wiring { start: Corner::BottomLeft, along: Run::Columns, ..Wiring::default() };
        let cells = placed(Shape::Grid { columns: 2, rows: 2 }, wiring, 0.0);
        assert_eq!(cells, [(9.5, 20.5), (9.5, 19.5), (10.5, 20.5), (10.5, 19.5)]);
    }

    #[test]
    fn a_ring_goes_clockwise_from_the_top() {
        let cells = placed(Shape::Ring { cells: 4 }, Wiring::default(), 0.0);
        let radius = 4.0 / std::f32::consts::TAU;
        let wanted = [(10.0, 20.0 - radius), (10.0 + radius, 20.0), (10.0, 20.0 + radius), (10.0 - radius, 20.0)];
        for (is, wanted) in cells.iter().zip(wanted) {
            assert!((is.0 - wanted.0).abs() < 1e-4 && (is.1 - wanted.1).abs() < 1e-4, "{is:?} {wanted:?}");
        }
    }

    #[test]
    fn a_cone_widens_from_its_apex() {
        let shape = Shape::Cone { strings: 3, cells: 4, degrees: 180.0, width: 8.0, unrolled: false };
        let wiring = Wiring { along: Run::Columns, ..Wiring::default() };
        let cells = placed(shape, wiring, 0.0);
        assert_eq!(cells.len(), 12);
        assert!((cells[0].0 - 9.0).abs() < 1e-4 && (cells[3].0 - 6.0).abs() < 1e-4, "{cells:?}");
        assert!((cells[11].0 - 14.0).abs() < 1e-4);
        assert_eq!(cells[3].1 - cells[0].1, 3.0);
    }

    #[test]
    fn an_arc_has_its_middle_at_the_top() {
        let cells = placed(Shape::Arc { cells: 3, degrees: 180.0 }, Wiring::default(), 0.0);
        let radius = 2.0 / std::f32::consts::PI;
        for (is, wanted) in cells.iter().zip([(10.0 - radius, 20.0), (10.0, 20.0 - radius), (10.0 + radius, 20.0)]) {
            assert!((is.0 - wanted.0).abs() < 1e-4 && (is.1 - wanted.1).abs() < 1e-4, "{is:?} {wanted:?}");
        }
    }

    #[test]
    fn an_unrolled_cone_is_wider_than_its_front() {
        let cone = |unrolled| Shape::Cone { strings: 5, cells: 4, degrees: 180.0, width: 8.0, unrolled };
        let left = |shape| placed(shape, Wiring::default(), 0.0).iter().map(|c| c.0).fold(f32::MAX, f32::min);
        assert!((left(cone(false)) - 6.0).abs() < 1e-3);
        assert!((left(cone(true)) - (10.0 - 2.0 * std::f32::consts::PI)).abs() < 1e-3);
    }

    #[test]
    fn a_mirrored_line_runs_to_the_left() {
        let line = Fixture::new("F", "rgb", Shape::Line { cells: 3 }).at(10.0, 20.0);
        let mirrored = Fixture { mirror: true, ..line.clone() };
        assert_eq!(cell_positions(&mirrored), [(11.0, 20.0), (10.0, 20.0), (9.0, 20.0)]);
        let points = Shape::points(vec![[0.0, 0.0], [3.0, 1.0]]);
        let free = Fixture { shape: points, pitch: 2.0, ..line };
        assert_eq!(cell_positions(&free), [(7.0, 19.0), (13.0, 21.0)]);
    }
}
