//! Products of matrices that lie row by row.

use ndarray::linalg::general_mat_mul;
use ndarray::{ArrayView2, ArrayViewMut2, aview1};

/// Numbers as a matrix of so many columns.
fn matrix(numbers: &[f32], columns: usize) -> ArrayView2<'_, f32> {
    let rows = numbers.len() / columns;
    ArrayView2::from_shape((rows, columns), &numbers[..rows * columns]).expect("as many as that")
}

fn sum(numbers: &mut [f32], columns: usize) -> ArrayViewMut2<'_, f32> {
    let rows = numbers.len() / columns;
    ArrayViewMut2::from_shape((rows, columns), &mut numbers[..rows * columns]).expect("as many as that")
}

/// `c` (`m` by `n`) += `a` (`m` by `k`) times `b` (`k` by `n`).
pub(super) fn add_product(a: &[f32], b: &[f32], c: &mut [f32], [k, n]: [usize; 2]) {
    general_mat_mul(1.0, &matrix(a, k), &matrix(b, n), 1.0, &mut sum(c, n));
}

/// `c` (`k` by `n`) += the transposed of `a` (`m` by `k`) times `b` (`m` by `n`).
pub(super) fn add_transposed_product(a: &[f32], b: &[f32], c: &mut [f32], [k, n]: [usize; 2]) {
    general_mat_mul(1.0, &matrix(a, k).t(), &matrix(b, n), 1.0, &mut sum(c, n));
}

/// The transposed of `a` (`m` by `n`).
pub(super) fn transposed(a: &[f32], n: usize) -> Vec<f32> {
    matrix(a, n).t().iter().copied().collect()
}

/// Adds the sum of the rows to `sums`.
pub(super) fn add_rows(rows: &[f32], sums: &mut [f32]) {
    let added = matrix(rows, sums.len()).sum_axis(ndarray::Axis(0)) + aview1(sums);
    sums.iter_mut().zip(added).for_each(|(sum, added)| *sum = added);
}
