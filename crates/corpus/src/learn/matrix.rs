//! Products of matrices that lie row by row.

use multiversion::multiversion;

/// Columns that are worked on at a time.
const BLOCK: usize = 64;
/// Rows that are worked on at a time.
const NEAR: usize = 48;

/// `c` (`m` by `n`) += `a` (`m` by `k`) times `b` (`k` by `n`).
#[multiversion(targets("x86_64+avx2+fma"))]
pub(super) fn add_product(a: &[f32], b: &[f32], c: &mut [f32], [k, n]: [usize; 2]) {
    for (a, c) in a.chunks_exact(k).zip(c.chunks_exact_mut(n)) {
        let mut from = 0;
        while from + BLOCK <= n {
            let mut sum = [0.0f32; BLOCK];
            sum.copy_from_slice(&c[from..from + BLOCK]);
            for (a, row) in a.iter().zip(b.chunks_exact(n)) {
                let row: &[f32; BLOCK] = row[from..from + BLOCK].try_into().expect("a block");
                for (sum, b) in sum.iter_mut().zip(row) {
                    *sum = a.mul_add(*b, *sum);
                }
            }
            c[from..from + BLOCK].copy_from_slice(&sum);
            from += BLOCK;
        }
        for column in from..n {
            c[column] += a.iter().zip(b.chunks_exact(n)).map(|(a, row)| a * row[column]).sum::<f32>();
        }
    }
}

/// `c` (`k` by `n`) += the transposed of `a` (`m` by `k`) times `b` (`m` by `n`).
pub(super) fn add_transposed_product(a: &[f32], b: &[f32], c: &mut [f32], size: [usize; 2]) {
    // As many rows at a time as stay near the processor.
    for (a, b) in a.chunks(NEAR * size[0]).zip(b.chunks(NEAR * size[1])) {
        add_near_product(a, b, c, size);
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn add_near_product(a: &[f32], b: &[f32], c: &mut [f32], [k, n]: [usize; 2]) {
    for (column, c) in c.chunks_exact_mut(n).enumerate() {
        let mut from = 0;
        while from + BLOCK <= n {
            let mut sum = [0.0f32; BLOCK];
            sum.copy_from_slice(&c[from..from + BLOCK]);
            for (a, row) in a.chunks_exact(k).zip(b.chunks_exact(n)) {
                let a = a[column];
                let row: &[f32; BLOCK] = row[from..from + BLOCK].try_into().expect("a block");
                for (sum, b) in sum.iter_mut().zip(row) {
                    *sum = a.mul_add(*b, *sum);
                }
            }
            c[from..from + BLOCK].copy_from_slice(&sum);
            from += BLOCK;
        }
        for place in from..n {
            c[place] += a.chunks_exact(k).zip(b.chunks_exact(n)).map(|(a, row)| a[column] * row[place]).sum::<f32>();
        }
    }
}

/// The transposed of `a` (`m` by `n`).
pub(super) fn transposed(a: &[f32], n: usize) -> Vec<f32> {
    let m = a.len() / n;
    (0..n * m).map(|i| a[(i % m) * n + i / m]).collect()
}

/// Adds the sum of the rows to `sums`.
pub(super) fn add_rows(rows: &[f32], sums: &mut [f32]) {
    for row in rows.chunks_exact(sums.len()) {
        sums.iter_mut().zip(row).for_each(|(sum, value)| *sum += value);
    }
}
