//! The way layers and tiers meet: all in linear light, with a weight of opacity times the layer's own alpha.
//!
//! The light of a look has its cover in the fourth component, 0..1: how much of what lies below the look it hides. The light is
//! weighted with that already (premultiplied alpha; Porter and Duff, "Compositing Digital Images", 1984).

use multiversion::multiversion;
use wide::f32x4;

use splimo_base::colour::Rgba;
use splimo_show::Blend;

/// Lays a layer on `below`: its light, with its alpha as the fourth component. Layers that give light raise the cover of what is
/// below; those that take it away leave it, and a mask takes of it.
pub fn blend(mode: Blend, below: &mut [Rgba], over: &[Rgba], opacity: f32) {
    match mode {
        Blend::Normal => normal(below, over, opacity),
        Blend::Add => add(below, over, opacity),
        Blend::Screen => screen(below, over, opacity),
        Blend::Multiply => multiply(below, over, opacity),
        Blend::Lighten => lighten(below, over, opacity),
        Blend::Darken => darken(below, over, opacity),
        Blend::Subtract => subtract(below, over, opacity),
        Blend::Difference => difference(below, over, opacity),
        Blend::Mask => mask(below, over, opacity),
    }
}

/// The result of [`blend`] for `over` on black, whatever is in `below`.
pub fn on_black(mode: Blend, below: &mut [Rgba], over: &[Rgba], opacity: f32) {
    match mode {
        Blend::Normal | Blend::Add | Blend::Screen | Blend::Lighten | Blend::Difference => laid(below, over, opacity),
        Blend::Multiply | Blend::Darken | Blend::Subtract | Blend::Mask => below.fill([0.0; 4]),
    }
}

/// Lays the picture of a tier on those below it: its light as a look paints it, of which there is `level`. `whole` tells how much
/// of a picture there is at all: less than 1 where it fades in from nothing, or out to nothing.
pub fn lay(mode: Blend, below: &mut [Rgba], picture: &[Rgba], level: f32, whole: f32) {
    match mode {
        Blend::Normal => lay_normal(below, picture, level),
        Blend::Add => lay_add(below, picture, level),
        Blend::Screen => lay_screen(below, picture, level),
        Blend::Multiply => lay_multiply(below, picture, level),
        Blend::Lighten => lay_lighten(below, picture, level),
        Blend::Darken => lay_darken(below, picture, level),
        Blend::Subtract => lay_subtract(below, picture, level),
        Blend::Difference => lay_difference(below, picture, level),
        Blend::Mask => lay_mask(below, picture, level, whole),
    }
}

// Four parts of a light at a time, by hand: left to itself the compiler takes eight lights apart to put their parts side by
// side, which costs three times what it gains.
macro_rules! modes {
    ($($name:ident |$below:ident, $over:ident, $weight:ident| $result:expr;)*) => {$(
        #[multiversion(targets("x86_64+avx2+fma"))]
        fn $name(below: &mut [Rgba], over: &[Rgba], opacity: f32) {
            for (below, over) in below.iter_mut().zip(over) {
                let $weight = f32x4::splat(over[3] * opacity);
                let ($below, $over) = (f32x4::from(*below), f32x4::from(*over));
                *below = f32x4::to_array($result);
            }
        }
    )*};
}

// The fourth component of what lies over is put to 1 where that makes the formula raise the cover by the weight.
modes! {
    normal |b, o, w| b + (full(o) - b) * w;
    add |b, o, w| (b + full(o) * w).fast_min(COVER);
    screen |b, o, w| b + full(o) * w * (ONE - b.fast_min(ONE));
    multiply |b, o, w| b * (ONE + (full(o) - ONE) * w);
    lighten |b, o, w| b.fast_max(full(o) * w);
    darken |b, o, w| b + (b.fast_min(full(o)) - b) * w;
    subtract |b, o, w| (b - o * CLEAR * w).fast_max(f32x4::ZERO);
    difference |b, o, w| FOURTH.select(b.fast_max(w), (b - o * w).abs());
    laid |_b, o, w| full(o) * w;
}

macro_rules! lays {
    ($($name:ident |$below:ident, $picture:ident, $cover:ident| $result:expr;)*) => {$(
        #[multiversion(targets("x86_64+avx2+fma"))]
        fn $name(below: &mut [Rgba], picture: &[Rgba], level: f32) {
            let level = f32x4::splat(level);
            for (below, picture) in below.iter_mut().zip(picture) {
                let $cover = f32x4::splat(picture[3]) * level;
                let ($below, $picture) = (f32x4::from(*below), f32x4::from(*picture) * level);
                *below = f32x4::to_array($result);
            }
        }
    )*};
}

lays! {
    lay_normal |b, p, c| b + (p - b * c);
    lay_add |b, p, _c| b + p;
    lay_screen |b, p, _c| b + p * (ONE - b.fast_min(ONE));
    lay_multiply |b, p, c| b * (ONE - c + p);
    lay_lighten |b, p, _c| b.fast_max(p);
    lay_darken |b, p, c| b - b * c + (b * c).fast_min(p);
    lay_subtract |b, p, _c| (b - p).fast_max(f32x4::ZERO);
    lay_difference |b, p, _c| (b - p).abs();
}

const ONE: f32x4 = f32x4::ONE;

/// No more than which a light with its cover is: light has no limit here, the cover has.
const COVER: f32x4 = f32x4::new([f32::INFINITY, f32::INFINITY, f32::INFINITY, 1.0]);

/// A light without its fourth component.
const CLEAR: f32x4 = f32x4::new([1.0, 1.0, 1.0, 0.0]);

/// The mask of the fourth component: all of its bits are set.
const FOURTH: f32x4 = f32x4::new([0.0, 0.0, 0.0, f32::from_bits(u32::MAX)]);

/// A light with 1 as its fourth component.
#[inline(always)]
fn full(light: f32x4) -> f32x4 {
    FOURTH.select(ONE, light)
}

/// The perceived brightness of a colour: the luminance of linear sRGB (IEC 61966-2-1).
const LUMINANCE: [f32; 3] = [0.2126, 0.7152, 0.0722];

/// A layer as a mask: where it covers nothing it lets nothing through; without opacity there is no mask.
#[multiversion(targets("x86_64+avx2+fma"))]
fn mask(below: &mut [Rgba], over: &[Rgba], opacity: f32) {
    for (below, over) in below.iter_mut().zip(over) {
        let light = (over[0] * LUMINANCE[0] + over[1] * LUMINANCE[1] + over[2] * LUMINANCE[2]) * over[3];
        let through = 1.0 - opacity * (1.0 - light.min(1.0));
        below.iter_mut().for_each(|part| *part *= through);
    }
}

/// A picture as a mask: where it is dark it lets nothing through, as far as it is there.
#[multiversion(targets("x86_64+avx2+fma"))]
fn lay_mask(below: &mut [Rgba], picture: &[Rgba], level: f32, whole: f32) {
    for (below, picture) in below.iter_mut().zip(picture) {
        let light = picture[0] * LUMINANCE[0] + picture[1] * LUMINANCE[1] + picture[2] * LUMINANCE[2];
        let through = 1.0 - level * (whole - light.min(whole));
        below.iter_mut().for_each(|part| *part *= through);
    }
}

/// Adds `weight` times `light` to `sum`.
#[multiversion(targets("x86_64+avx2+fma"))]
pub fn add_weighted(sum: &mut [Rgba], light: &[Rgba], weight: f32) {
    for (sum, light) in sum.as_flattened_mut().iter_mut().zip(light.as_flattened()) {
        *sum += light * weight;
    }
}

/// Multiplies light by a level.
#[multiversion(targets("x86_64+avx2+fma"))]
pub fn scale(light: &mut [Rgba], level: f32) {
    light.as_flattened_mut().iter_mut().for_each(|part| *part *= level);
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const MODES: [Blend; 9] = Blend::ALL;

    fn on(mode: Blend, below: f32, over: Rgba, opacity: f32) -> f32 {
        let mut pixels = [[below, below, below, 1.0]];
        blend(mode, &mut pixels, &[over], opacity);
        pixels[0][0]
    }

    #[test]
    fn each_mode_does_what_its_word_says() {
        let over = [0.5, 0.0, 0.0, 1.0];
        let results = MODES.map(|mode| on(mode, 0.25, over, 1.0));
        assert_eq!(results[..8], [0.5, 0.75, 0.625, 0.125, 0.5, 0.25, 0.0, 0.25]);
        assert!((results[8] - 0.25 * 0.5 * LUMINANCE[0]).abs() < 1e-6, "{}", results[8]);
    }

    proptest! {
        #[test]
        fn on_black_is_what_blending_with_black_is(light in 0f32..2.0, alpha in 0f32..=1.0, opacity in 0f32..=1.0) {
            for mode in MODES {
                let mut pixels = [[7.0; 4]];
                on_black(mode, &mut pixels, &[[light, 0.0, 0.0, alpha]], opacity);
                prop_assert_eq!(pixels[0][0], on(mode, 0.0, [light, 0.0, 0.0, alpha], opacity));
            }
        }

        #[test]
        fn no_opacity_or_no_alpha_is_no_layer(below in 0f32..2.0, light in 0f32..2.0, alpha in 0f32..=1.0) {
            for mode in MODES {
                prop_assert_eq!(on(mode, below, [light, 0.0, 0.0, alpha], 0.0), below);
                // A mask is what is not there as well.
                if mode != Blend::Mask {
                    prop_assert_eq!(on(mode, below, [light, 0.0, 0.0, 0.0], alpha), below);
                }
            }
        }

        #[test]
        fn light_stays_finite_and_not_negative(below in 0f32..2.0, light in 0f32..2.0, alpha in 0f32..=1.0, opacity in 0f32..=1.0) {
            for mode in MODES {
                let result = on(mode, below, [light, 0.0, 0.0, alpha], opacity);
                prop_assert!(result.is_finite() && result >= 0.0, "{:?} gave {}", mode, result);
            }
        }
    }
}
