//! The order in which the cells of a lattice are wired, and which pixels of the wire are dark.

use splimo_show::{Corner, Run, Wiring};

/// The cells of a lattice in wiring order, each as (column, row) from the top left.
pub fn order(columns: u32, rows: u32, wiring: &Wiring) -> impl Iterator<Item = (u32, u32)> + use<> {
    let (runs, length) = runs(columns, rows, wiring);
    let from_right = matches!(wiring.start, Corner::TopRight | Corner::BottomRight);
    let from_bottom = matches!(wiring.start, Corner::BottomLeft | Corner::BottomRight);
    let (along, turns, reversed) = (wiring.along, wiring.turns, wiring.reversed);
    (0..runs).flat_map(move |run| {
        let run = if reversed { runs - 1 - run } else { run };
        (0..length).map(move |step| {
            let back = (turns && run % 2 == 1) != reversed;
            let step = if back { length - 1 - step } else { step };
            let (column, row) = match along {
                Run::Rows => (step, run),
                Run::Columns => (run, step),
            };
            (if from_right { columns - 1 - column } else { column }, if from_bottom { rows - 1 - row } else { row })
        })
    })
}

/// The number of runs that a lattice has, and how many cells each.
#[must_use]
pub fn runs(columns: u32, rows: u32, wiring: &Wiring) -> (u32, u32) {
    match wiring.along {
        Run::Rows => (rows, columns),
        Run::Columns => (columns, rows),
    }
}

/// Pixels behind one another on a wire, all lit or all dark.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Stretch {
    pub(super) lit: bool,
    pub(super) pixels: u32,
}

/// The cells of a lattice in the order of its wire, up to the last.
pub(super) fn wire(columns: u32, rows: u32, wiring: &Wiring) -> Vec<Stretch> {
    let (runs, length) = runs(columns, rows, wiring);
    let cells = runs * length;
    if wiring.gap == 0 && wiring.skip.is_empty() {
        return vec![Stretch { lit: true, pixels: cells }];
    }
    let mut stretches: Vec<Stretch> = Vec::new();
    let mut add = |lit: bool, pixels: u32| match stretches.last_mut() {
        Some(last) if last.lit == lit => last.pixels += pixels,
        _ => stretches.push(Stretch { lit, pixels }),
    };
    let mut skipped = wiring.skip.iter().copied().peekable();
    let mut pixel = 1;
    for cell in 0..cells {
        while skipped.next_if_eq(&pixel).is_some() {
            add(false, 1);
            pixel += 1;
        }
        add(true, 1);
        pixel += 1;
        if (cell + 1) % length == 0 && cell + 1 < cells && wiring.gap > 0 {
            add(false, wiring.gap);
            pixel += wiring.gap;
            while skipped.next_if(|&skip| skip < pixel).is_some() {}
        }
    }
    stretches
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn cells(columns: u32, rows: u32, wiring: Wiring) -> Vec<(u32, u32)> {
        order(columns, rows, &wiring).collect()
    }

    #[test]
    fn rows_that_turn_round() {
        let wiring = Wiring { turns: true, ..Wiring::default() };
        assert_eq!(cells(3, 2, wiring.clone()), [(0, 0), (1, 0), (2, 0), (2, 1), (1, 1), (0, 1)]);
        let reversed = Wiring { reversed: true, ..wiring };
        assert_eq!(cells(3, 2, reversed), [(0, 1), (1, 1), (2, 1), (2, 0), (1, 0), (0, 0)]);
    }

    #[test]
    fn columns_from_the_bottom_right() {
        let wiring = Wiring { start: Corner::BottomRight, along: Run::Columns, ..Wiring::default() };
        assert_eq!(cells(2, 2, wiring), [(1, 1), (1, 0), (0, 1), (0, 0)]);
    }

    #[test]
    fn dark_pixels_lie_between() {
        let lit = |pixels| Stretch { lit: true, pixels };
        let dark = |pixels| Stretch { lit: false, pixels };
        let gaps = Wiring { gap: 2, ..Wiring::default() };
        assert_eq!(wire(3, 2, &gaps), [lit(3), dark(2), lit(3)]);
        let skips = Wiring { skip: vec![1, 4, 5], ..Wiring::default() };
        assert_eq!(wire(3, 2, &skips), [dark(1), lit(2), dark(2), lit(4)]);
        // A skipped pixel within a gap is dark already.
        let both = Wiring { gap: 2, skip: vec![4, 6], ..Wiring::default() };
        assert_eq!(wire(3, 2, &both), [lit(3), dark(3), lit(3)]);
    }

    proptest! {
        #[test]
        fn every_wiring_visits_every_cell_once(
            columns in 1u32..20, rows in 1u32..20, corner in 0usize..4, along in 0usize..2, turns: bool, reversed: bool,
        ) {
            let wiring =
                Wiring { start: Corner::ALL[corner], along: Run::ALL[along], turns, reversed, ..Wiring::default() };
            let mut wired = cells(columns, rows, wiring.clone());
            if turns {
                for pair in wired.windows(2) {
                    let distance = pair[0].0.abs_diff(pair[1].0) + pair[0].1.abs_diff(pair[1].1);
                    prop_assert_eq!(distance, 1, "a wire that turns round never leaps");
                }
            }
            let mut back = cells(columns, rows, Wiring { reversed: !reversed, ..wiring });
            back.reverse();
            prop_assert_eq!(&back, &wired, "reversed is the same wire from its other end");
            wired.sort_unstable();
            let all: Vec<_> = (0..columns).flat_map(|c| (0..rows).map(move |r| (c, r))).collect();
            prop_assert_eq!(wired, all);
        }

        #[test]
        fn a_wire_carries_every_cell(
            columns in 1u32..20, rows in 1u32..20, gap in 0u32..4, along in 0usize..2,
            skip in proptest::collection::btree_set(1u32..200, 0..20),
        ) {
            let wiring = Wiring { along: Run::ALL[along], gap, skip: skip.into_iter().collect(), ..Wiring::default() };
            let wire = wire(columns, rows, &wiring);
            let lit: u32 = wire.iter().filter(|s| s.lit).map(|s| s.pixels).sum();
            prop_assert_eq!(lit, columns * rows);
            prop_assert!(wire.last().is_some_and(|s| s.lit), "nothing dark hangs behind the last cell");
            prop_assert!(wire.windows(2).all(|pair| pair[0].lit != pair[1].lit));
        }
    }
}
