//! From light to slots: the profile's curve, white extraction, dithering in time, and the order of channels.

use multiversion::multiversion;

use super::emitters::Emitters;
use splimo_base::colour::Rgba;
use splimo_base::maths;
use splimo_light::rig::{PLAIN, PatchRun, Rig, TILE, carries_light};
use splimo_show::{Channel, Curve, Function, Profile};

/// The way the cells of a profile are written.
enum Encoding {
    /// Three channels of 8 bits, one of each colour, in this order.
    ThreeColours([usize; 3]),
    /// Anything else.
    Any(Block),
}

/// The channels of a block of cells that carry light.
struct Block {
    /// Slots of the block.
    slots: usize,
    /// Cells of the block.
    cells: usize,
    writers: Vec<Writer>,
    emitters: Emitters,
}

/// A channel that carries the light of a cell.
#[derive(Clone, Copy)]
struct Writer {
    cell: usize,
    slot: usize,
    wide: bool,
    does: Function,
}

/// Writes the light of tiles into universes.
pub(super) struct Packer {
    encodings: Vec<(Encoding, Curve)>,
    /// The light of a run on its way to an output that is limited or corrected.
    trimmed: Box<[Rgba; TILE]>,
}

impl Packer {
    pub(super) fn new(rig: &Rig) -> Self {
        let encodings = rig.profiles.iter().map(|p| (encoding(p), p.curve.clone())).collect();
        Self { encodings, trimmed: Box::new([[0.0; 4]; TILE]) }
    }

    /// Writes a tile. `dither` is the number of the frame, or none for plain rounding.
    pub(super) fn pack(&mut self, rig: &Rig, tile: usize, light: &[Rgba], dither: Option<u32>, slots: &mut [u8]) {
        for run in rig.runs_of(tile) {
            let (encoding, curve) = &self.encodings[run.profile as usize];
            let out = &mut slots[run.slot as usize..];
            let mut cells = &light[run.leds()];
            if run.gain != PLAIN {
                let [r, g, b] = rig.gains[usize::from(run.gain)];
                let trimmed = &mut self.trimmed[..cells.len()];
                for (to, from) in trimmed.iter_mut().zip(cells) {
                    *to = [from[0] * r, from[1] * g, from[2] * b, 0.0];
                }
                cells = trimmed;
            }
            match encoding {
                Encoding::ThreeColours(order) => {
                    three_colours(cells, run.first, *order, curve, dither, &mut out[..cells.len() * 3]);
                }
                Encoding::Any(block) => block.write(cells, run, curve, dither, out),
            }
        }
    }

    /// The number of emitters at full would take as much as the light of a run does.
    pub(super) fn emitters_at_full(&self, rig: &Rig, run: &PatchRun, light: &[Rgba]) -> f32 {
        let cells = &light[run.leds()];
        let gain = rig.gains[usize::from(run.gain)];
        match &self.encodings[run.profile as usize].0 {
            Encoding::ThreeColours(_) => sums(cells).iter().zip(gain).map(|(sum, gain)| sum * gain).sum(),
            Encoding::Any(block) => cells
                .iter()
                .enumerate()
                .map(|(index, &[r, g, b, _])| {
                    let light = block.emitters.share([r * gain[0], g * gain[1], b * gain[2], 0.0]);
                    let cell = (index + usize::from(run.within)) % block.cells;
                    let writers = block.writers.iter().filter(|w| w.cell == cell);
                    writers.map(|w| light.of(w.does).clamp(0.0, 1.0)).sum::<f32>()
                })
                .sum(),
        }
    }
}

/// The sums of the light of each colour, none counted over 1.
#[multiversion(targets("x86_64+avx2+fma"))]
fn sums(cells: &[Rgba]) -> [f32; 3] {
    let mut sums = [[0f32; 4]; 4];
    let (fours, rest) = cells.as_chunks::<4>();
    for four in fours {
        for (sum, cell) in sums.iter_mut().zip(four) {
            sum.iter_mut().zip(cell).for_each(|(sum, part)| *sum += part.clamp(0.0, 1.0));
        }
    }
    for cell in rest {
        sums[0].iter_mut().zip(cell).for_each(|(sum, part)| *sum += part.clamp(0.0, 1.0));
    }
    std::array::from_fn(|c| sums.iter().map(|sum| sum[c]).sum())
}

fn encoding(profile: &Profile) -> Encoding {
    let component = |channel: &Channel| match (channel.does, channel.wide) {
        (Function::Red, false) => Some(0),
        (Function::Green, false) => Some(1),
        (Function::Blue, false) => Some(2),
        _ => None,
    };
    let block = profile.block();
    let components: Option<Vec<usize>> = block.iter().map(component).collect();
    match components.and_then(|c| <[usize; 3]>::try_from(c).ok()) {
        Some(order) if profile.layout().cells == 1 => Encoding::ThreeColours(order),
        _ => Encoding::Any(Block::new(profile)),
    }
}

/// The offset that is added before a value is rounded, -0.5..0.5: nothing, or a number that runs through a golden-ratio sequence from
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

/// The level of an emitter, 0..1, that gives some light.
#[inline(always)]
pub(super) fn level(light: f32, curve: &Curve) -> f32 {
    let light = light.clamp(0.0, 1.0);
    match curve {
        Curve::Linear => light,
        Curve::Square => light.sqrt(),
        Curve::Gamma(gamma) => maths::powf(light, 1.0 / gamma),
        Curve::Points(points) => Curve::value_on(points, light),
    }
}

/// The value of a level, 0..1; the offset keeps it within 0..255 once it is rounded.
#[inline(always)]
fn value(level: f32, offset: f32) -> u8 {
    maths::round_to_bits::<255>(level * 255.0 + offset) as u8
}

fn three_colours(cells: &[Rgba], first: u32, order: [usize; 3], curve: &Curve, dither: Option<u32>, out: &mut [u8]) {
    let mut values = [[0; 4]; AT_ONCE];
    let mut first = first;
    for (cells, out) in cells.chunks(AT_ONCE).zip(out.chunks_mut(3 * AT_ONCE)) {
        let values = &mut values[..cells.len()];
        // A loop for each, so that none decides anything for each light.
        match (curve, dither) {
            (Curve::Linear, None) => rounded(cells, values),
            (Curve::Linear, Some(frame)) => dithered(cells, first, frame, values),
            (curve, _) => curved(cells, first, curve, dither, values),
        }
        put_in_order(values, order, out);
        first += cells.len() as u32;
    }
}

/// Lights whose values are found together.
const AT_ONCE: usize = 128;

#[multiversion(targets("x86_64+avx2+fma"))]
fn rounded(cells: &[Rgba], out: &mut [[u8; 4]]) {
    for (out, light) in out.as_flattened_mut().iter_mut().zip(cells.as_flattened()) {
        *out = value(level(*light, &Curve::Linear), 0.0);
    }
}

/// Lights that are dithered together: so many that what differs among them is known when this is compiled.
const EIGHT: usize = 8;

#[multiversion(targets("x86_64+avx2+fma"))]
fn dithered(cells: &[Rgba], first: u32, frame: u32, out: &mut [[u8; 4]]) {
    let (eights, rest) = cells.as_chunks::<EIGHT>();
    let (out_eights, out_rest) = out.as_chunks_mut::<EIGHT>();
    let mut led = first;
    for (out, cells) in out_eights.iter_mut().zip(eights) {
        let (out, cells) = (out.as_flattened_mut(), cells.as_flattened());
        for i in 0..4 * EIGHT {
            let offset = offset(led + (i / 4) as u32, (i % 4) as u32, Some(frame));
            out[i] = value(level(cells[i], &Curve::Linear), offset);
        }
        led += EIGHT as u32;
    }
    for (i, (out, cell)) in out_rest.iter_mut().zip(rest).enumerate() {
        *out = std::array::from_fn(|c| {
            value(level(cell[c], &Curve::Linear), offset(led + i as u32, c as u32, Some(frame)))
        });
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn curved(cells: &[Rgba], first: u32, curve: &Curve, dither: Option<u32>, out: &mut [[u8; 4]]) {
    for (i, (cell, out)) in cells.iter().zip(out).enumerate() {
        *out = std::array::from_fn(|c| value(level(cell[c], curve), offset(first + i as u32, c as u32, dither)));
    }
}

/// Writes three of four values of each light in the order of its channels.
fn put_in_order(values: &[[u8; 4]], order: [usize; 3], out: &mut [u8]) {
    match order {
        [0, 1, 2] => put::<0, 1, 2>(values, out),
        [1, 0, 2] => put::<1, 0, 2>(values, out),
        [0, 2, 1] => put::<0, 2, 1>(values, out),
        [1, 2, 0] => put::<1, 2, 0>(values, out),
        [2, 0, 1] => put::<2, 0, 1>(values, out),
        [2, 1, 0] => put::<2, 1, 0>(values, out),
        [a, b, c] => {
            for (out, value) in out.as_chunks_mut::<3>().0.iter_mut().zip(values) {
                *out = [value[a & 3], value[b & 3], value[c & 3]];
            }
        }
    }
}

/// An order that is known when this is compiled, so that it costs shuffles only.
#[multiversion(targets("x86_64+avx2+fma"))]
fn put<const A: usize, const B: usize, const C: usize>(values: &[[u8; 4]], out: &mut [u8]) {
    for (out, value) in out.as_chunks_mut::<3>().0.iter_mut().zip(values) {
        *out = [value[A], value[B], value[C]];
    }
}

impl Block {
    fn new(profile: &Profile) -> Self {
        let block = profile.block();
        let mut slot = 0;
        let mut writers = Vec::new();
        for channel in block {
            if carries_light(channel, block) {
                let cell = usize::from(channel.cell) - 1;
                writers.push(Writer { cell, slot, wide: channel.wide, does: channel.does });
            }
            slot += usize::from(channel.slots());
        }
        let emitters = Emitters::new(writers.iter().map(|w| w.does), profile.white);
        Self { slots: slot, cells: usize::from(profile.layout().cells), writers, emitters }
    }

    fn write(&self, cells: &[Rgba], run: &PatchRun, curve: &Curve, dither: Option<u32>, out: &mut [u8]) {
        for (index, cell) in cells.iter().enumerate() {
            let place = index + usize::from(run.within);
            let out = &mut out[place / self.cells * self.slots..];
            let light = self.emitters.share(*cell);
            for writer in self.writers.iter().filter(|w| w.cell == place % self.cells) {
                let level = level(light.of(writer.does), curve);
                if writer.wide {
                    let value = (level * 65_535.0 + 0.5) as u16;
                    out[writer.slot..writer.slot + 2].copy_from_slice(&value.to_be_bytes());
                } else {
                    let offset = offset(run.first + index as u32, writer.slot as u32, dither);
                    out[writer.slot] = value(level, offset);
                }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn packed(profile: &str, light: [f32; 3], dither: Option<u32>) -> Vec<u8> {
        packed_by(&Profile::built_in(profile).expect("a built-in profile"), &[light], dither)
    }

    fn packed_by(profile: &Profile, light: &[[f32; 3]], dither: Option<u32>) -> Vec<u8> {
        let cells: Vec<Rgba> = light.iter().map(|&[r, g, b]| [r, g, b, 0.0]).collect();
        let mut out = vec![0; profile.layout().slots(cells.len() as u64) as usize];
        match encoding(profile) {
            Encoding::ThreeColours(order) => three_colours(&cells, 7, order, &profile.curve, dither, &mut out),
            Encoding::Any(block) => {
                let run = PatchRun {
                    first: 7,
                    cells: cells.len() as u32,
                    slot: 0,
                    within: 0,
                    profile: 0,
                    fixture: 0,
                    gain: PLAIN,
                };
                block.write(&cells, &run, &profile.curve, dither, &mut out);
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
        assert_eq!(packed("rgb 16", light, None), [255, 255, 128, 0, 64, 0]);
        assert_eq!(packed("warm cool", [1.0, 0.8, 0.5], None), [255, 128]);
        assert_eq!(packed("rgba", [1.0, 0.25, 0.0], None), [128, 0, 0, 128]);
    }

    #[test]
    fn cells_of_a_block_lie_among_each_other() {
        let channel = |does, cell| Channel { cell, ..Channel::new(does) };
        let mut pair = Profile::built_in("rgb").expect("built in");
        let colours = [Function::Red, Function::Green, Function::Blue];
        pair.channels = colours.into_iter().flat_map(|does| [channel(does, 1), channel(does, 2)]).collect();
        let light = [[1.0, 0.0, 0.2], [0.0, 1.0, 0.4], [0.6, 0.8, 1.0]];
        assert_eq!(packed_by(&pair, &light, None), [255, 0, 0, 255, 51, 102, 153, 0, 204, 0, 255, 0]);
    }

    #[test]
    fn a_curve_of_points_is_followed() {
        let mut profile = Profile::built_in("rgb").expect("built in");
        profile.curve = Curve::Points(vec![[0.5, 0.2]]);
        assert_eq!(packed_by(&profile, &[[0.1, 0.2, 0.6]], None), [64, 128, 191]);
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
