//! Products of matrices that lie row by row. Most are of few rows, and come by the thousand. A tile of the result stays in
//! registers while its sum is made, and but for its few rows what it is made of lies where it lay. With vectors of 256 bits training takes as long
//! as with a crate for matrices, with 512 bits two thirds of it.

use multiversion::multiversion;
use multiversion::target::target_cfg_f;

/// Rows of a tile.
const HIGH: usize = 6;
/// Columns of a tile.
const WIDE: usize = 16;
/// Terms of a sum that are added up at a time, so that they stay in a cache.
const SLAB: usize = 128;

/// A matrix by how far apart neighbours in a column and in a row stand.
#[derive(Clone, Copy)]
struct Turned<'a> {
    numbers: &'a [f32],
    down: usize,
    right: usize,
}

impl Turned<'_> {
    /// The rows of a tile from `top` on, column by column. Where there are fewer the last one comes more than once.
    fn tile(self, top: usize, [m, k]: [usize; 2], tile: &mut Vec<[f32; HIGH]>) {
        let rows: [usize; HIGH] = std::array::from_fn(|row| (top + row).min(m - 1) * self.down);
        tile.clear();
        tile.extend((0..k).map(|place| rows.map(|row| self.numbers[row + place * self.right])));
    }
}

/// `c` (`m` by `n`) += `a` (`m` by `k`) times `b` (`k` by `n`).
pub(super) fn add_product(a: &[f32], b: &[f32], c: &mut [f32], [k, n]: [usize; 2]) {
    add(Turned { numbers: a, down: k, right: 1 }, b, c, [a.len() / k, k, n]);
}

/// `c` (`k` by `n`) += the transposed of `a` (`m` by `k`) times `b` (`m` by `n`).
pub(super) fn add_transposed_product(a: &[f32], b: &[f32], c: &mut [f32], [k, n]: [usize; 2]) {
    let rows = a.len() / k;
    for from in (0..rows).step_by(SLAB) {
        let until = (from + SLAB).min(rows);
        let slab = Turned { numbers: &a[from * k..until * k], down: 1, right: k };
        add(slab, &b[from * n..until * n], c, [k, until - from, n]);
    }
}

/// `c` (`m` by `n`) += `a` (`m` by `k`) times `b` (`k` by `n`).
fn add(a: Turned<'_>, b: &[f32], c: &mut [f32], [m, k, n]: [usize; 3]) {
    let mut tile = Vec::with_capacity(k);
    for top in (0..m).step_by(HIGH) {
        a.tile(top, [m, k], &mut tile);
        let rows = HIGH.min(m - top);
        add_rows_of(&tile, &b[..k * n], &mut c[top * n..(top + rows) * n], n);
    }
}

/// The same for the rows of a tile.
#[multiversion(targets("x86_64+avx512f+avx512vl+avx2+fma", "x86_64+avx2+fma"))]
fn add_rows_of(a: &[[f32; HIGH]], b: &[f32], c: &mut [f32], n: usize) {
    let add_times = |sum: f32, a: f32, b: f32| {
        if target_cfg_f!(target_feature = "fma") { a.mul_add(b, sum) } else { sum + a * b }
    };
    let whole = n / WIDE * WIDE;
    for at in (0..whole).step_by(WIDE) {
        let mut sums = [[0.0f32; WIDE]; HIGH];
        for (a, b) in a.iter().zip(b[at..].chunks(n)) {
            let Some(b) = b.first_chunk::<WIDE>() else { break };
            for row in 0..HIGH {
                for column in 0..WIDE {
                    sums[row][column] = add_times(sums[row][column], a[row], b[column]);
                }
            }
        }
        for (sums, c) in sums.iter().zip(c.chunks_exact_mut(n)) {
            c[at..at + WIDE].iter_mut().zip(sums).for_each(|(c, sum)| *c += sum);
        }
    }
    for (row, c) in c.chunks_exact_mut(n).enumerate() {
        for (a, b) in a.iter().zip(b.chunks_exact(n)) {
            c[whole..].iter_mut().zip(&b[whole..]).for_each(|(c, b)| *c = add_times(*c, a[row], *b));
        }
    }
}

/// The transposed of `a` (`m` by `n`).
pub(super) fn transposed(a: &[f32], n: usize) -> Vec<f32> {
    let rows = a.len() / n;
    (0..n).flat_map(|column| (0..rows).map(move |row| a[row * n + column])).collect()
}

/// Adds the sum of the rows to `sums`.
pub(super) fn add_rows(rows: &[f32], sums: &mut [f32]) {
    for row in rows.chunks_exact(sums.len()) {
        sums.iter_mut().zip(row).for_each(|(sum, number)| *sum += number);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Lot;

    #[test]
    fn products_are_the_sums_they_are_defined_by_whatever_the_shape() {
        let mut lot = Lot::new(3);
        for [m, k, n] in [[1, 1, 1], [4, 96, 64], [7, 5, 33], [130, 9, 32], [16, 96, 7], [300, 3, 40]] {
            let mut drawn = |count: usize| (0..count).map(|_| lot.both()).collect::<Vec<f32>>();
            let (a, b, before) = (drawn(m * k), drawn(k * n), drawn(m * n));
            let close = |c: &[f32]| {
                for row in 0..m {
                    for column in 0..n {
                        let sum: f32 = (0..k).map(|place| a[row * k + place] * b[place * n + column]).sum();
                        let gap = c[row * n + column] - before[row * n + column] - sum;
                        assert!(gap.abs() < 1e-4, "{m} by {k} by {n} at {row}, {column}: {gap}");
                    }
                }
            };
            let mut c = before.clone();
            add_product(&a, &b, &mut c, [k, n]);
            close(&c);
            let mut c = before.clone();
            add_transposed_product(&transposed(&a, k), &b, &mut c, [m, n]);
            close(&c);
        }
    }
}
