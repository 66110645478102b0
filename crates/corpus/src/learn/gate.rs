//! The gates of a recurrent layer, there and back: one lesson at one time, all units at once.

use multiversion::multiversion;
use splimo_hear::recurrent::{bend, logistic};

/// What the gates did, for the way back: a number for each unit of each row.
#[derive(Debug, Clone)]
pub(super) struct Kept {
    units: usize,
    update: Vec<f32>,
    reset: Vec<f32>,
    new: Vec<f32>,
    /// The part of `new` that comes from the state.
    own_new: Vec<f32>,
}

impl Kept {
    /// Nothing yet, of so many rows.
    pub(super) fn new(rows: usize, units: usize) -> Self {
        let none = vec![0.0; rows * units];
        Self { units, update: none.clone(), reset: none.clone(), new: none.clone(), own_new: none }
    }

    /// In a row, from what comes from below and from the state, and the state before, to the state after.
    pub(super) fn go(&mut self, row: usize, below: &[f32], own: &[f32], before: &[f32], after: &mut [f32]) {
        let Self { units, update, reset, new, own_new } = self;
        let all = [update, reset, new, own_new].map(|of_rows| &mut of_rows[row * *units..][..*units]);
        go(below, own, before, after, all);
    }

    /// In a row, from the slopes of the state after to those of what comes from below and from the state (`gates`: outer,
    /// inner), and, of the state before, those that come past the gates (`later`, which holds at first what comes from
    /// later times).
    pub(super) fn back(&self, row: usize, before: &[f32], slopes: &[f32], later: &mut [f32], gates: [&mut [f32]; 2]) {
        let Self { units, update, reset, new, own_new } = self;
        back(
            [update, reset, new, own_new].map(|of_rows| &of_rows[row * units..][..*units]),
            before,
            slopes,
            later,
            gates,
        );
    }
}

/// The numbers of each of three gates.
fn three(numbers: &[f32], units: usize) -> [&[f32]; 3] {
    [0, 1, 2].map(|gate| &numbers[gate * units..][..units])
}

fn three_mut(numbers: &mut [f32], units: usize) -> [&mut [f32]; 3] {
    let (update, rest) = numbers.split_at_mut(units);
    let (reset, new) = rest.split_at_mut(units);
    [update, reset, &mut new[..units]]
}

#[multiversion(targets("x86_64+avx512f+avx512vl+avx2+fma", "x86_64+avx2+fma"))]
fn go(below: &[f32], own: &[f32], before: &[f32], after: &mut [f32], kept: [&mut [f32]; 4]) {
    let units = after.len();
    let ([update, reset, new], [own_update, own_reset, own_new]) = (three(below, units), three(own, units));
    let [kept_update, kept_reset, kept_new, kept_own_new] = kept.map(|units_of| &mut units_of[..units]);
    let before = &before[..units];
    for unit in 0..units {
        kept_update[unit] = logistic(update[unit] + own_update[unit]);
        kept_reset[unit] = logistic(reset[unit] + own_reset[unit]);
        kept_own_new[unit] = own_new[unit];
        kept_new[unit] = bend(new[unit] + kept_reset[unit] * own_new[unit]);
        after[unit] = (1.0 - kept_update[unit]) * kept_new[unit] + kept_update[unit] * before[unit];
    }
}

#[multiversion(targets("x86_64+avx512f+avx512vl+avx2+fma", "x86_64+avx2+fma"))]
fn back(kept: [&[f32]; 4], before: &[f32], slopes: &[f32], later: &mut [f32], gates: [&mut [f32]; 2]) {
    let units = later.len();
    let [update, reset, new, own_new] = kept.map(|of_units| &of_units[..units]);
    let (before, slopes) = (&before[..units], &slopes[..units]);
    let [outer, inner] = gates.map(|numbers| three_mut(numbers, units));
    for unit in 0..units {
        let slope = slopes[unit] + later[unit];
        let to_new = slope * (1.0 - update[unit]) * (1.0 - new[unit] * new[unit]);
        let to_update = slope * (before[unit] - new[unit]) * update[unit] * (1.0 - update[unit]);
        let to_reset = to_new * own_new[unit] * reset[unit] * (1.0 - reset[unit]);
        (outer[0][unit], outer[1][unit], outer[2][unit]) = (to_update, to_reset, to_new);
        (inner[0][unit], inner[1][unit], inner[2][unit]) = (to_update, to_reset, to_new * reset[unit]);
        later[unit] = slope * update[unit];
    }
}
