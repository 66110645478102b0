//! Where the cells of a shape lie on the canvas.

use super::wiring;
use crate::maths::{cos_turns, sin_turns};
use crate::show::{Fixture, Shape};

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
    for (column, row) in wiring::order(columns, rows, fixture.wiring) {
        let (dx, dy) = lattice_position(&fixture.shape, fixture.pitch, column, row);
        x.push(fixture.x + dx * cos - dy * sin);
        y.push(fixture.y + dx * sin + dy * cos);
    }
}

/// Where a cell of the lattice lies from the middle of the unturned shape, in pitches of the canvas, y downwards.
#[must_use]
pub fn lattice_position(shape: &Shape, pitch: f32, column: u32, row: u32) -> (f32, f32) {
    let centred = |index: u32, count: u32| (index as f32 - (count as f32 - 1.0) / 2.0) * pitch;
    match *shape {
        Shape::Line { cells } => (centred(column, cells), 0.0),
        Shape::Grid { columns, rows } => (centred(column, columns), centred(row, rows)),
        Shape::Ring { cells } => {
            let radius = cells as f32 * pitch / std::f32::consts::TAU;
            let turn = column as f32 / cells as f32;
            (radius * sin_turns(turn), -radius * cos_turns(turn))
        }
        Shape::Cone { strings, cells, degrees, width } => {
            let share = if strings > 1 { column as f32 / (strings as f32 - 1.0) - 0.5 } else { 0.0 };
            // All the way round, the last string would hang where the first does.
            let share = if degrees >= 360.0 { column as f32 / strings as f32 - 0.5 } else { share };
            let radius = width / 2.0 * (row as f32 + 1.0) / cells as f32;
            (radius * sin_turns(share * degrees / 360.0), centred(row, cells))
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::show::{Corner, Run, Wiring};

    fn placed(shape: Shape, wiring: Wiring, angle: f32) -> Vec<(f32, f32)> {
        let fixture = Fixture {
            name: "F".into(),
            profile: "rgb".into(),
            address: None,
            shape,
            wiring,
            x: 10.0,
            y: 20.0,
            pitch: 1.0,
            angle,
        };
        let (mut x, mut y) = (Vec::new(), Vec::new());
        place(&fixture, &mut x, &mut y);
        x.into_iter().zip(y).collect()
    }

    #[test]
    fn a_line_turned_a_quarter_runs_down() {
        let cells = placed(Shape::Line { cells: 3 }, Wiring::default(), 90.0);
        assert_eq!(cells, [(10.0, 19.0), (10.0, 20.0), (10.0, 21.0)]);
    }

    #[test]
    fn a_grid_starts_in_its_corner() {
        let wiring = Wiring { start: Corner::BottomLeft, along: Run::Columns, turns: false };
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
        let shape = Shape::Cone { strings: 3, cells: 4, degrees: 180.0, width: 8.0 };
        let wiring = Wiring { along: Run::Columns, ..Wiring::default() };
        let cells = placed(shape, wiring, 0.0);
        assert_eq!(cells.len(), 12);
        assert!((cells[0].0 - 9.0).abs() < 1e-4 && (cells[3].0 - 6.0).abs() < 1e-4, "{cells:?}");
        assert!((cells[11].0 - 14.0).abs() < 1e-4);
        assert_eq!(cells[3].1 - cells[0].1, 3.0);
    }
}
