//! Value noise: numbers drawn for the points of a lattice, with smooth ways between them.

use splimo_base::maths::{floor, smooth};

/// A number drawn for a point of the lattice, 0..1. Coordinates are whole numbers below 2^22.
#[inline(always)]
fn drawn(x: i32, y: i32, z: u32) -> f32 {
    let mut h =
        (x as u32).wrapping_mul(0x8da6_b343) ^ (y as u32).wrapping_mul(0xd816_3841) ^ z.wrapping_mul(0xcb1a_b31f);
    h ^= h >> 15;
    h = h.wrapping_mul(0x2c1b_3c6d);
    h ^= h >> 13;
    (h >> 8) as i32 as f32 * (1.0 / 16_777_216.0)
}

#[inline(always)]
fn whole(x: f32) -> i32 {
    // The lowest bits of the number once it has no room for a fraction; see `maths::round`.
    ((x + 12_582_912.0).to_bits() & 0x007f_ffff) as i32
}

/// Noise on a plane that changes with time: `z` is a whole number and `w` the share of the way to the next.
#[inline(always)]
pub(super) fn noise(x: f32, y: f32, z: u32, w: f32) -> f32 {
    let (left, top) = (floor(x), floor(y));
    let (u, v) = (smooth(x - left), smooth(y - top));
    let (i, j) = (whole(left), whole(top));
    let corner = |i: i32, j: i32| {
        let (a, b) = (drawn(i, j, z), drawn(i, j, z.wrapping_add(1)));
        a + (b - a) * w
    };
    let above = corner(i, j) + (corner(i + 1, j) - corner(i, j)) * u;
    let below = corner(i, j + 1) + (corner(i + 1, j + 1) - corner(i, j + 1)) * u;
    above + (below - above) * v
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn noise_is_continuous_and_spread_out() {
        let mut values = Vec::new();
        for step in 0..4000 {
            let x = step as f32 * 0.01 - 20.0;
            let (a, b) = (noise(x, 0.3, 7, 0.5), noise(x + 0.001, 0.301, 7, 0.501));
            assert!((a - b).abs() < 0.01, "{a} {b}");
            values.push(a);
        }
        let low = values.iter().copied().fold(1.0, f32::min);
        let high = values.iter().copied().fold(0.0, f32::max);
        assert!(low < 0.25 && high > 0.75, "{low} {high}");
        // What one moment ends with the next begins with.
        assert!((noise(1.3, 2.7, 8, 1.0) - noise(1.3, 2.7, 9, 0.0)).abs() < 1e-6);
    }
}
