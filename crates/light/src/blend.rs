//! The way layers and tiers meet: all in linear light, with a weight of opacity times the layer's own alpha.
//!
//! The light of a look has its cover in the fourth component, 0..1: how much of what lies below the look it hides. The light is
//! weighted with that already (premultiplied alpha; Porter and Duff, "Compositing Digital Images", 1984).

use std::hint::black_box;

use multiversion::multiversion;

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

/// Makes of a layer what [`blend`] makes of it on black.
pub fn on_black(mode: Blend, layer: &mut [Rgba], opacity: f32) {
    match mode {
        Blend::Normal | Blend::Add | Blend::Screen | Blend::Lighten | Blend::Difference => laid(layer, opacity),
        Blend::Multiply | Blend::Darken | Blend::Subtract | Blend::Mask => layer.fill([0.0; 4]),
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

/// What differs between the parts of a light, for two lights side by side.
struct Lanes {
    /// All bits of colours, and none of the fourth part.
    colours: [u32; 8],
    /// The bits of 1 for the fourth part.
    one: [u32; 8],
    /// No more than which a light with its cover is: light has no limit here, the cover has.
    limit: [f32; 8],
    /// 1 for colours, and 0 for the fourth part.
    clear: [f32; 8],
}

const fn twice<T: Copy>(colour: T, fourth: T) -> [T; 8] {
    [colour, colour, colour, fourth, colour, colour, colour, fourth]
}

static LANES: Lanes = Lanes {
    colours: twice(u32::MAX, 0),
    one: twice(0, 1f32.to_bits()),
    limit: twice(f32::INFINITY, 1.0),
    clear: twice(1.0, 0.0),
};

impl Lanes {
    /// The part of a light at a place, 1 for the fourth.
    #[inline(always)]
    fn full(&self, at: usize, part: f32) -> f32 {
        f32::from_bits(part.to_bits() & self.colours[at] | self.one[at])
    }

    /// One of two values: for colours, or for the fourth part.
    #[inline(always)]
    fn either(&self, at: usize, colour: f32, fourth: f32) -> f32 {
        f32::from_bits(colour.to_bits() & self.colours[at] | fourth.to_bits() & !self.colours[at])
    }
}

/// The lesser of two numbers, in one instruction.
#[inline(always)]
fn lesser(a: f32, b: f32) -> f32 {
    if a < b { a } else { b }
}

/// The greater of two numbers, in one instruction.
#[inline(always)]
fn greater(a: f32, b: f32) -> f32 {
    if a > b { a } else { b }
}

/// Does something to two lights side by side, eight numbers at a time, with the two that lie over them.
///
/// A compiler that sees a loop over lights takes many apart, to put their parts side by side, which costs more than it gains; one that
/// sees constants for the fourth parts does these apart. Behind `black_box` it sees neither, and all eight numbers go together: half
/// the time of four at a time.
#[inline(always)]
fn two_by_two(below: &mut [Rgba], over: &[Rgba], level: f32, act: impl Fn(&Lanes, &mut [f32; 8], &[f32; 8], f32)) {
    let lanes = black_box(&LANES);
    let (pairs, last) = below.as_flattened_mut().as_chunks_mut::<8>();
    let (over_pairs, over_last) = over.as_flattened().as_chunks::<8>();
    for (below, over) in pairs.iter_mut().zip(over_pairs) {
        black_box(());
        act(lanes, below, over, level);
    }
    if let (Some(below), Some(over)) = (last.first_chunk_mut(), over_last.first_chunk()) {
        let mut lights = with_dark(*below);
        act(lanes, &mut lights, &with_dark(*over), level);
        *below = first(lights);
    }
}

/// The same for lights that nothing lies over.
#[inline(always)]
fn alone(lights: &mut [Rgba], level: f32, act: impl Fn(&Lanes, &mut [f32; 8], f32)) {
    let lanes = black_box(&LANES);
    let (pairs, last) = lights.as_flattened_mut().as_chunks_mut::<8>();
    for pair in pairs {
        black_box(());
        act(lanes, pair, level);
    }
    if let Some(light) = last.first_chunk_mut() {
        let mut lights = with_dark(*light);
        act(lanes, &mut lights, level);
        *light = first(lights);
    }
}

/// A light with a dark one beside it.
#[inline(always)]
fn with_dark([a, b, c, d]: Rgba) -> [f32; 8] {
    [a, b, c, d, 0.0, 0.0, 0.0, 0.0]
}

#[inline(always)]
fn first([a, b, c, d, ..]: [f32; 8]) -> Rgba {
    [a, b, c, d]
}

/// The fourth part of each of two lights, times something, for all of its parts.
#[inline(always)]
fn fourths(lights: &[f32; 8], by: f32) -> [f32; 8] {
    let (first, second) = (lights[3] * by, lights[7] * by);
    [first, first, first, first, second, second, second, second]
}

// What is done to two lights is a function, not a closure: only that is sure to be put into the loop.
macro_rules! modes {
    ($($name:ident |$lanes:ident, $at:ident, $below:ident, $over:ident, $weight:ident| $result:expr;)*) => {$(
        #[multiversion(targets("x86_64+avx2+fma"))]
        fn $name(below: &mut [Rgba], over: &[Rgba], opacity: f32) {
            #[inline(always)]
            fn two($lanes: &Lanes, below: &mut [f32; 8], over: &[f32; 8], opacity: f32) {
                let (over, weights) = (*over, fourths(over, opacity));
                for $at in 0..8 {
                    let ($below, $over, $weight) = (below[$at], over[$at], weights[$at]);
                    below[$at] = $result;
                }
            }
            two_by_two(below, over, opacity, two);
        }
    )*};
}

// The fourth component of what lies over is put to 1 where that makes the formula raise the cover by the weight.
modes! {
    normal |l, i, b, o, w| b + (l.full(i, o) - b) * w;
    add |l, i, b, o, w| lesser(b + l.full(i, o) * w, l.limit[i]);
    screen |l, i, b, o, w| b + l.full(i, o) * w * (1.0 - lesser(b, 1.0));
    multiply |l, i, b, o, w| b * (1.0 + (l.full(i, o) - 1.0) * w);
    lighten |l, i, b, o, w| greater(b, l.full(i, o) * w);
    darken |l, i, b, o, w| b + (lesser(b, l.full(i, o)) - b) * w;
    subtract |l, i, b, o, w| greater(b - o * l.clear[i] * w, 0.0);
    difference |l, i, b, o, w| l.either(i, (b - o * w).abs(), greater(b, w));
}

/// A layer weighted with its alpha and its opacity.
#[multiversion(targets("x86_64+avx2+fma"))]
fn laid(layer: &mut [Rgba], opacity: f32) {
    #[inline(always)]
    fn two(lanes: &Lanes, light: &mut [f32; 8], opacity: f32) {
        let weights = fourths(light, opacity);
        for at in 0..8 {
            light[at] = lanes.full(at, light[at]) * weights[at];
        }
    }
    alone(layer, opacity, two);
}

macro_rules! lays {
    ($($name:ident |$below:ident, $picture:ident, $cover:ident| $result:expr;)*) => {$(
        #[multiversion(targets("x86_64+avx2+fma"))]
        fn $name(below: &mut [Rgba], picture: &[Rgba], level: f32) {
            #[inline(always)]
            fn two(_lanes: &Lanes, below: &mut [f32; 8], picture: &[f32; 8], level: f32) {
                let (picture, covers) = (*picture, fourths(picture, level));
                for at in 0..8 {
                    let ($below, $picture, $cover) = (below[at], picture[at] * level, covers[at]);
                    below[at] = $result;
                }
            }
            two_by_two(below, picture, level, two);
        }
    )*};
}

lays! {
    lay_normal |b, p, c| b + (p - b * c);
    lay_add |b, p, _c| b + p;
    lay_screen |b, p, _c| b + p * (1.0 - lesser(b, 1.0));
    lay_multiply |b, p, c| b * (1.0 - c + p);
    lay_lighten |b, p, _c| greater(b, p);
    lay_darken |b, p, c| b - b * c + lesser(b * c, p);
    lay_subtract |b, p, _c| greater(b - p, 0.0);
    lay_difference |b, p, _c| (b - p).abs();
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
                let mut pixels = [[light, 0.0, 0.0, alpha]];
                on_black(mode, &mut pixels, opacity);
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
