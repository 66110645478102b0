//! Elementary functions by polynomial: they vectorise, and give the same bits in every build,
//! which `f32::sin` and its kin (the system's library, or the compiler folding constants) do not promise.
//!
//! The polynomials are truncated series, that of the sine with its last coefficients adjusted; the tests hold each to the
//! error that its documentation names.

/// The fractional part, 0..1, of any finite number.
#[inline(always)]
#[must_use]
pub fn fract(x: f32) -> f32 {
    x - floor(x)
}

/// Adding this leaves no room for a fraction, so that it rounds and the whole number stands in the lowest bits.
const WHOLE: f32 = 12_582_912.0;

/// The whole number nearest to `x`, for |x| < 2^22. Two additions: a cast would be checked for overflow and not vectorise,
/// and `f32::round` is a library call on machines without SSE4.1.
#[inline(always)]
#[must_use]
pub fn round(x: f32) -> f32 {
    (x + WHOLE) - WHOLE
}

/// The lowest bits, as `MASK` has them, of the whole number nearest to `x`, for |x| < 2^22; below 0 as in two's complement.
#[inline(always)]
#[must_use]
pub fn round_to_bits<const MASK: u32>(x: f32) -> u32 {
    (x + WHOLE).to_bits() & MASK
}

/// The largest whole number not above `x`, for |x| < 2^22.
#[inline(always)]
#[must_use]
pub fn floor(x: f32) -> f32 {
    let nearest = round(x);
    if nearest > x { nearest - 1.0 } else { nearest }
}

/// The sine of `turns` full turns (1.0 is 360 degrees), within 4e-6 for |turns| up to 3; beyond that `turns` itself is coarser.
#[inline(always)]
#[must_use]
pub fn sin_turns(turns: f32) -> f32 {
    // Fold to a quarter turn either side of zero, where an odd polynomial of degree 9 is enough.
    let t = turns - round(turns);
    let t = (0.25 - (t.abs() - 0.25).abs()).copysign(t);
    let s = t * t;
    t * (std::f32::consts::TAU + s * (-41.341_675 + s * (81.602_23 + s * (-76.581_43 + s * 39.711_29))))
}

/// The cosine of `turns` full turns.
#[inline(always)]
#[must_use]
pub fn cos_turns(turns: f32) -> f32 {
    sin_turns(turns + 0.25)
}

/// The angle of a point in turns, -0.5..0.5, from the x axis towards the y axis, within 1e-6; 0 for the origin.
#[inline(always)]
#[must_use]
pub fn angle_turns(x: f32, y: f32) -> f32 {
    let (ax, ay) = (x.abs(), y.abs());
    let (low, high) = if ax < ay { (ax, ay) } else { (ay, ax) };
    let t = low / high.max(f32::MIN_POSITIVE);
    // The arc tangent on 0..1 by a polynomial (M. Abramowitz and I. Stegun, 1964, 4.4.49), in turns.
    let s = t * t;
    let a = t
        * (0.15915494
            + s * (-0.05305135
                + s * (0.03182072
                    + s * (-0.02261417
                        + s * (0.01695997
                            + s * (-0.01198272 + s * (0.00682928 + s * (-0.00257286 + s * (0.00045617)))))))));
    let a = if ax < ay { 0.25 - a } else { a };
    let a = if x < 0.0 { 0.5 - a } else { a };
    if y < 0.0 { -a } else { a }
}

/// The base-2 logarithm of a positive normal number, within 4e-6 up to 16.
#[inline(always)]
#[must_use]
pub fn log2(x: f32) -> f32 {
    // x = m * 2^e with m in [sqrt(1/2), sqrt(2)); then log2 m by the atanh series in (m-1)/(m+1).
    let bits = x.to_bits().wrapping_sub(0x3f35_04f3);
    let exponent = (bits as i32 >> 23) as f32;
    let mantissa = f32::from_bits((bits & 0x007f_ffff) + 0x3f35_04f3);
    let z = (mantissa - 1.0) / (mantissa + 1.0);
    let s = z * z;
    exponent + z * (2.885_39 + s * (0.961_796_7 + s * (0.577_078 + s * 0.412_198_6)))
}

/// Two to the power `x`, for -126 < x < 127, with a relative error under 1e-6 for |x| up to 20.
#[inline(always)]
#[must_use]
pub fn exp2(x: f32) -> f32 {
    let x = x.clamp(-126.0, 126.0);
    let whole = round(x);
    let f = x - whole;
    let p = 1.0
        + f * (std::f32::consts::LN_2
            + f * (0.240_226_5 + f * (0.055_504_11 + f * (0.009_618_129 + f * (0.001_333_356 + f * 0.000_154_035)))));
    p * f32::from_bits((((whole as i32) + 127) as u32) << 23)
}

/// `x` to the power `y` for `x` >= 0; zero stays zero.
#[inline(always)]
#[must_use]
pub fn powf(x: f32, y: f32) -> f32 {
    if x < f32::MIN_POSITIVE { 0.0 } else { exp2(log2(x) * y) }
}

/// The cube root, of either sign.
#[inline(always)]
#[must_use]
pub fn cbrt(x: f32) -> f32 {
    let root = powf(x.abs(), 1.0 / 3.0);
    // One Newton step takes the error of the polynomials out.
    let root = if root > 0.0 { root - (root * root * root - x.abs()) / (3.0 * root * root) } else { 0.0 };
    if x < 0.0 { -root } else { root }
}

/// The smooth step from 0 (at `t` <= 0) to 1 (at `t` >= 1), flat at both ends.
#[inline(always)]
#[must_use]
pub fn smooth(t: f32) -> f32 {
    let t = t.clamp(0.0, 1.0);
    t * t * (3.0 - 2.0 * t)
}

/// A well mixed 32-bit hash of a number (the finaliser of MurmurHash3, A. Appleby, public domain).
#[inline(always)]
#[must_use]
pub fn hash(mut x: u32) -> u32 {
    x ^= x >> 16;
    x = x.wrapping_mul(0x85eb_ca6b);
    x ^= x >> 13;
    x = x.wrapping_mul(0xc2b2_ae35);
    x ^ (x >> 16)
}

/// A hash as a number in 0..1 (1 excluded).
#[inline(always)]
#[must_use]
pub fn unit(hash: u32) -> f32 {
    (hash >> 8) as i32 as f32 * (1.0 / 16_777_216.0)
}

/// The place of each of some keys in an order that is mixed by a seed. Allocates.
pub fn mixed_order(seed: u32, keys: impl Iterator<Item = u32>) -> Vec<u32> {
    let mut drawn: Vec<(u32, u32)> = keys.map(|key| hash(seed ^ key.wrapping_mul(0x9e37_79b9))).zip(0..).collect();
    drawn.sort_unstable();
    let mut places = vec![0; drawn.len()];
    drawn.iter().zip(0..).for_each(|((_, at), place)| places[*at as usize] = place);
    places
}

#[cfg(test)]
mod tests {
    use super::*;

    fn worst(mut error: impl FnMut(f64) -> f64, from: f64, to: f64) -> f64 {
        (0..=200_000).map(|i| error(from + (to - from) * f64::from(i) / 200_000.0)).fold(0.0, f64::max)
    }

    #[test]
    fn a_mixed_order_has_each_place_once_and_hangs_on_its_seed() {
        for count in [0u32, 1, 2, 9, 200] {
            let mut places = mixed_order(7, 0..count);
            if count == 200 {
                assert_ne!(places, mixed_order(8, 0..count));
                assert_eq!(places, mixed_order(7, 0..count));
            }
            places.sort_unstable();
            assert_eq!(places, (0..count).collect::<Vec<u32>>());
        }
    }

    #[test]
    fn errors_stay_within_what_the_docs_promise() {
        let sine = worst(
            |t| (f64::from(sin_turns(t as f32)) - (t as f32 as f64 * std::f64::consts::TAU).sin()).abs(),
            -3.0,
            3.0,
        );
        assert!(sine < 4e-6, "sine is {sine:e} off");
        let angle = worst(
            |t| {
                let turns = (t as f32 as f64) * std::f64::consts::TAU;
                let found = f64::from(angle_turns(3.0 * turns.cos() as f32, 3.0 * turns.sin() as f32));
                let off = (found - f64::from(t as f32)).rem_euclid(1.0);
                off.min(1.0 - off)
            },
            -0.5,
            0.5,
        );
        assert!(angle < 1e-6, "angle is {angle:e} off");
        let logarithm = worst(|x| (f64::from(log2(x as f32)) - (x as f32 as f64).log2()).abs(), 1e-4, 16.0);
        assert!(logarithm < 4e-6, "log2 is {logarithm:e} off");
        let exponential = worst(|x| (f64::from(exp2(x as f32)) / (x as f32 as f64).exp2() - 1.0).abs(), -20.0, 20.0);
        assert!(exponential < 1e-6, "exp2 is {exponential:e} off");
        let cube = worst(|x| (f64::from(cbrt(x as f32)) - (x as f32 as f64).cbrt()).abs(), -8.0, 8.0);
        assert!(cube < 1e-6, "cbrt is {cube:e} off");
    }

    #[test]
    fn floor_and_fract_hold_below_zero() {
        assert_eq!([-1.5, -1.0, -0.25, 0.0, 0.75, 2.0].map(floor), [-2.0, -1.0, -1.0, 0.0, 0.0, 2.0]);
        assert_eq!(fract(-0.25), 0.75);
    }

    #[test]
    fn powers_of_zero_are_zero() {
        assert_eq!(powf(0.0, 2.4), 0.0);
        assert_eq!(cbrt(0.0), 0.0);
    }
}
