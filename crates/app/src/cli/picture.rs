//! Pictures of lights at their places: each a square on a near-black ground, as one picture or as frames of a GIF.

use std::collections::HashMap;

use color_quant::NeuQuant;
use image::{Rgb, RgbImage};
use splimo_base::colour::to_screen;
use splimo_engine::Frame;
use splimo_light::rig::Rig;
use splimo_show::Show;

/// The ground.
const GROUND: [u8; 3] = [8, 9, 12];
/// The colours of a GIF beside the ground (GIF89a: 256 at the most).
const COLOURS: usize = 255;

/// The places of lights in a picture.
pub(super) struct Places {
    width: u32,
    height: u32,
    /// Of each light left, top, right and bottom in pixels.
    squares: Vec<[u32; 4]>,
}

impl Places {
    /// The places of a show's lights, as large as 1,200 pixels allow.
    pub(super) fn of(show: &Show, rig: &Rig) -> Self {
        let scale = (1200.0 / show.canvas.width).clamp(1.0, 8.0);
        let size = |pitches: f32| ((pitches * scale).ceil() as u32).clamp(1, 4096);
        let (width, height) = (size(show.canvas.width), size(show.canvas.height));
        let dot = (scale * 0.8).max(1.0) as i64;
        let square = |led: usize| {
            let (x, y) = rig.position(led);
            let (left, top) = ((x * scale) as i64 - dot / 2, (y * scale) as i64 - dot / 2);
            let across = |at: i64| at.clamp(0, i64::from(width)) as u32;
            let down = |at: i64| at.clamp(0, i64::from(height)) as u32;
            [across(left), down(top), across(left + dot), down(top + dot)]
        };
        Self { width, height, squares: (0..rig.len()).map(square).collect() }
    }

    /// The size in pixels, as a GIF has it.
    pub(super) fn size(&self) -> (u16, u16) {
        (self.width as u16, self.height as u16)
    }

    /// One picture.
    pub(super) fn picture(&self, colours: &[[u8; 3]]) -> RgbImage {
        let mut picture = RgbImage::from_pixel(self.width, self.height, Rgb(GROUND));
        for (&[left, top, right, bottom], colour) in self.squares.iter().zip(colours) {
            for y in top..bottom {
                for x in left..right {
                    picture.put_pixel(x, y, Rgb(*colour));
                }
            }
        }
        picture
    }

    /// A frame of a GIF that is shown for so many hundredths of a second, compressed already. Its palette is made of the lights'
    /// colours, of which there are far fewer than pixels.
    pub(super) fn gif_frame(&self, colours: &[[u8; 3]], hundredths: u16) -> gif::Frame<'static> {
        let (palette, indices) = palette(colours);
        let width = self.width as usize;
        let mut pixels = vec![0u8; width * self.height as usize];
        for (&[left, top, right, bottom], &index) in self.squares.iter().zip(&indices) {
            for y in top..bottom {
                pixels[y as usize * width..][left as usize..right as usize].fill(index);
            }
        }
        let (width, height) = self.size();
        let mut frame = gif::Frame {
            width,
            height,
            delay: hundredths,
            buffer: pixels.into(),
            palette: Some(palette),
            ..gif::Frame::default()
        };
        frame.make_lzw_pre_encoded();
        frame
    }
}

/// The colours of the lights of a frame, as a screen shows them.
pub(super) fn colours(frame: &Frame) -> Vec<[u8; 3]> {
    frame.light.iter().map(|light| to_screen([light[0], light[1], light[2]])).collect()
}

/// A palette that begins with the ground, and the place of each light's colour in it: exact where there are few enough colours.
fn palette(colours: &[[u8; 3]]) -> (Vec<u8>, Vec<u8>) {
    let mut places: HashMap<[u8; 3], u8> = HashMap::new();
    let mut palette = GROUND.to_vec();
    let mut exact = Vec::with_capacity(colours.len());
    for colour in colours {
        let next = places.len() + 1;
        if next > COLOURS && !places.contains_key(colour) {
            return nearest(colours);
        }
        let place = *places.entry(*colour).or_insert_with(|| {
            palette.extend(colour);
            next as u8
        });
        exact.push(place);
    }
    (palette, exact)
}

/// The same for more colours than a palette has room for.
fn nearest(colours: &[[u8; 3]]) -> (Vec<u8>, Vec<u8>) {
    let pixels: Vec<u8> = colours.iter().flat_map(|[r, g, b]| [*r, *g, *b, 255]).collect();
    let quant = NeuQuant::new(1, COLOURS, &pixels);
    let mut palette = GROUND.to_vec();
    palette.extend(quant.color_map_rgb());
    let indices = pixels.chunks_exact(4).map(|pixel| quant.index_of(pixel) as u8 + 1).collect();
    (palette, indices)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn few_colours_are_exact_and_many_are_near() {
        let few = [[1, 2, 3], [200, 100, 0], [1, 2, 3]];
        let (colours, places) = palette(&few);
        assert_eq!(places, [1, 2, 1]);
        assert_eq!(colours, [8, 9, 12, 1, 2, 3, 200, 100, 0]);
        let many: Vec<[u8; 3]> = (0..2400u32).map(|i| [(i / 10) as u8, (i % 256) as u8, 128]).collect();
        let (colours, places) = palette(&many);
        assert_eq!(colours.len(), 3 * 256);
        let far = many.iter().zip(&places).map(|(wanted, place)| {
            let found = &colours[usize::from(*place) * 3..][..3];
            wanted.iter().zip(found).map(|(a, b)| u32::from(a.abs_diff(*b))).max().unwrap_or(0)
        });
        let far = far.max().unwrap_or(0);
        assert!(far < 40, "{far} of 255 away");
        assert!(places.iter().all(|place| *place > 0), "no light has the colour of the ground");
    }
}
