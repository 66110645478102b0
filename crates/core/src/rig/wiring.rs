//! The order in which the cells of a lattice are wired.

use crate::show::{Corner, Run, Wiring};

/// The cells of a lattice in wiring order, each as (column, row) from the top left.
pub fn order(columns: u32, rows: u32, wiring: Wiring) -> impl Iterator<Item = (u32, u32)> {
    let (runs, length) = match wiring.along {
        Run::Rows => (rows, columns),
        Run::Columns => (columns, rows),
    };
    let from_right = matches!(wiring.start, Corner::TopRight | Corner::BottomRight);
    let from_bottom = matches!(wiring.start, Corner::BottomLeft | Corner::BottomRight);
    (0..runs).flat_map(move |run| {
        (0..length).map(move |step| {
            let step = if wiring.turns && run % 2 == 1 { length - 1 - step } else { step };
            let (column, row) = match wiring.along {
                Run::Rows => (step, run),
                Run::Columns => (run, step),
            };
            (if from_right { columns - 1 - column } else { column }, if from_bottom { rows - 1 - row } else { row })
        })
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn cells(columns: u32, rows: u32, start: Corner, along: Run, turns: bool) -> Vec<(u32, u32)> {
        order(columns, rows, Wiring { start, along, turns }).collect()
    }

    #[test]
    fn rows_that_turn_round() {
        let wired = cells(3, 2, Corner::TopLeft, Run::Rows, true);
        assert_eq!(wired, [(0, 0), (1, 0), (2, 0), (2, 1), (1, 1), (0, 1)]);
    }

    #[test]
    fn columns_from_the_bottom_right() {
        let wired = cells(2, 2, Corner::BottomRight, Run::Columns, false);
        assert_eq!(wired, [(1, 1), (1, 0), (0, 1), (0, 0)]);
    }

    proptest! {
        #[test]
        fn every_wiring_visits_every_cell_once(
            columns in 1u32..20, rows in 1u32..20, corner in 0usize..4, along_columns: bool, turns: bool,
        ) {
            let corner = [Corner::TopLeft, Corner::TopRight, Corner::BottomLeft, Corner::BottomRight][corner];
            let along = if along_columns { Run::Columns } else { Run::Rows };
            let mut wired = cells(columns, rows, corner, along, turns);
            if turns {
                for pair in wired.windows(2) {
                    let distance = pair[0].0.abs_diff(pair[1].0) + pair[0].1.abs_diff(pair[1].1);
                    prop_assert_eq!(distance, 1, "a wire that turns round never leaps");
                }
            }
            wired.sort_unstable();
            let all: Vec<_> = (0..columns).flat_map(|c| (0..rows).map(move |r| (c, r))).collect();
            prop_assert_eq!(wired, all);
        }
    }
}
