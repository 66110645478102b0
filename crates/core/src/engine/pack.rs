//! From light to slots: the profile's curve, white extraction, dithering in time, and the order of channels.

use multiversion::multiversion;

use crate::colour::Rgba;
use crate::maths;
use crate::rig::{PatchRun, Rig};
use crate::show::{Curve, Emitter, Profile};

/// How the cells of a profile are written.
enum Encoding {
    /// Three channels, one of each colour, in this order.
    ThreeColours([usize; 3]),
    /// Anything else.
    Any(Vec<Emitter>),
}

/// Writes the light of tiles into universes.
pub(super) struct Packer {
    encodings: Vec<(Encoding, Curve)>,
}

impl Packer {
    pub(super) fn new(rig: &Rig) -> Self {
        Self { encodings: rig.profiles.iter().map(|p| (encoding(p), p.curve)).collect() }
    }

    /// Writes a tile. `dither` is the number of the frame, or none for plain rounding.
    pub(super) fn pack(&self, rig: &Rig, tile: usize, light: &[Rgba], dither: Option<u32>, slots: &mut [u8]) {
        for run in rig.runs_of(tile) {
            let (encoding, curve) = &self.encodings[run.profile as usize];
            let footprint = rig.profiles[run.profile as usize].channels.len();
            let first = run.universe as usize * 512 + run.slot as usize;
            let out = &mut slots[first..first + run.cells as usize * footprint];
            let cells = &light[run.first as usize..(run.first + run.cells) as usize];
            match encoding {
                Encoding::ThreeColours(order) => three_colours(cells, run.first, *order, *curve, dither, out),
                Encoding::Any(emitters) => any_emitters(cells, run, emitters, *curve, dither, out),
            }
        }
    }
}

fn encoding(profile: &Profile) -> Encoding {
    let component = |emitter: &Emitter| match emitter {
        Emitter::Red => Some(0),
        Emitter::Green => Some(1),
        Emitter::Blue => Some(2),
        Emitter::White | Emitter::Intensity => None,
    };
    let components: Option<Vec<usize>> = profile.channels.iter().map(component).collect();
    match components.and_then(|c| <[usize; 3]>::try_from(c).ok()) {
        Some(order) => Encoding::ThreeColours(order),
        None => Encoding::Any(profile.channels.clone()),
    }
}

/// What is added before a value is rounded, -0.5..0.5: nothing, or a number that runs through a golden-ratio sequence from
/// frame to frame, so that values between two steps come out right in the mean of very few frames.
#[inline(always)]
fn offset(led: u32, channel: u32, dither: Option<u32>) -> f32 {
    match dither {
        None => 0.0,
        Some(frame) => {
            let place = led.wrapping_mul(0xc13f_a9a9) ^ channel.wrapping_mul(0x91e1_0da5);
            let t = maths::unit(place.wrapping_add(frame.wrapping_mul(0x9e37_79b9)));
            // Kept off both ends, so that an exact 0 and an exact 1 stay what they are.
            t * 0.998 - 0.499
        }
    }
}

#[inline(always)]
fn level(light: f32, curve: Curve) -> f32 {
    let light = light.clamp(0.0, 1.0);
    match curve {
        Curve::Linear => light,
        Curve::Square => light.sqrt(),
        Curve::Gamma(gamma) => maths::powf(light, 1.0 / gamma),
    }
}

/// The value of a level, 0..1; the offset keeps it within 0..255 once it is rounded.
#[inline(always)]
fn value(level: f32, offset: f32) -> u8 {
    maths::round_to_bits::<255>(level * 255.0 + offset) as u8
}

fn three_colours(cells: &[Rgba], first: u32, order: [usize; 3], curve: Curve, dither: Option<u32>, out: &mut [u8]) {
    // A loop for each, so that none decides anything for each light.
    match curve {
        Curve::Linear => linear_colours(cells, first, order, dither, out),
        curve => curved_colours(cells, first, order, curve, dither, out),
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn linear_colours(cells: &[Rgba], first: u32, order: [usize; 3], dither: Option<u32>, out: &mut [u8]) {
    for (i, (cell, out)) in cells.iter().zip(out.chunks_exact_mut(3)).enumerate() {
        let values: [u8; 4] =
            std::array::from_fn(|c| value(level(cell[c], Curve::Linear), offset(first + i as u32, c as u32, dither)));
        out.copy_from_slice(&order.map(|component| values[component & 3]));
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn curved_colours(cells: &[Rgba], first: u32, order: [usize; 3], curve: Curve, dither: Option<u32>, out: &mut [u8]) {
    for (i, (cell, out)) in cells.iter().zip(out.chunks_exact_mut(3)).enumerate() {
        let values: [u8; 4] =
            std::array::from_fn(|c| value(level(cell[c], curve), offset(first + i as u32, c as u32, dither)));
        out.copy_from_slice(&order.map(|component| values[component & 3]));
    }
}

fn any_emitters(
    cells: &[Rgba],
    run: &PatchRun,
    emitters: &[Emitter],
    curve: Curve,
    dither: Option<u32>,
    out: &mut [u8],
) {
    let extracts_white = emitters.contains(&Emitter::White);
    for (i, (cell, out)) in cells.iter().zip(out.chunks_exact_mut(emitters.len())).enumerate() {
        let [r, g, b, _] = *cell;
        // What all three have in common is white, and left to the white emitter.
        let white = if extracts_white { r.min(g).min(b) } else { 0.0 };
        for (channel, (out, emitter)) in out.iter_mut().zip(emitters).enumerate() {
            let light = match emitter {
                Emitter::Red => r - white,
                Emitter::Green => g - white,
                Emitter::Blue => b - white,
                Emitter::White => white,
                Emitter::Intensity => r.max(g).max(b),
            };
            *out = value(level(light, curve), offset(run.first + i as u32, channel as u32, dither));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn packed(profile: &str, light: [f32; 3], dither: Option<u32>) -> Vec<u8> {
        let profile = Profile::built_in(profile).expect("a built-in profile");
        let cells = [[light[0], light[1], light[2], 0.0]];
        let mut out = vec![0; profile.channels.len()];
        match encoding(&profile) {
            Encoding::ThreeColours(order) => three_colours(&cells, 7, order, profile.curve, dither, &mut out),
            Encoding::Any(emitters) => {
                let run = PatchRun { first: 7, cells: 1, universe: 0, slot: 0, profile: 0 };
                any_emitters(&cells, &run, &emitters, profile.curve, dither, &mut out);
            }
        }
        out
    }

    #[test]
    fn channels_come_in_the_order_of_the_profile() {
        let light = [1.0, 0.5, 0.25];
        assert_eq!(packed("rgb", light, None), [255, 128, 64]);
        assert_eq!(packed("grb", light, None), [128, 255, 64]);
        assert_eq!(packed("rgbw", light, None), [191, 64, 0, 64]);
        assert_eq!(packed("dimmer", [0.0, 0.25, 0.1], None), [128]);
    }

    #[test]
    fn dithering_comes_out_right_in_the_mean() {
        for light in [0.001, 0.01, 0.3, 0.77] {
            let sum: f64 = (0..610).map(|frame| f64::from(packed("rgb", [light; 3], Some(frame))[1])).sum();
            let mean = sum / 610.0 / 255.0;
            assert!((mean - f64::from(light)).abs() < 2e-5 + 0.002 * f64::from(light), "{light} came out as {mean}");
        }
    }

    proptest! {
        #[test]
        fn black_and_white_are_never_dithered_away(frame: u32, over in 1f32..100.0) {
            prop_assert_eq!(packed("rgb", [0.0; 3], Some(frame)), [0; 3]);
            prop_assert_eq!(packed("rgb", [over; 3], Some(frame)), [255; 3]);
        }

        #[test]
        fn a_value_is_off_by_less_than_a_step(frame: u32, light in 0f32..=1.0) {
            let value = f32::from(packed("rgb", [light; 3], Some(frame))[0]);
            prop_assert!((value - light * 255.0).abs() < 1.001);
        }
    }
}
