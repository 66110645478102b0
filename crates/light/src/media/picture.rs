//! Pictures, still or moving, in several sizes, so that one that is drawn small does not flicker.

use std::sync::LazyLock;

use splimo_base::colour::{CLEAR, Rgba, srgb_to_linear};

/// The longest side that a picture keeps; larger ones are made smaller as they are read.
pub const LONGEST_SIDE: usize = 512;

/// Linear light of the 256 levels of a screen code.
static LINEAR: LazyLock<[f32; 256]> = LazyLock::new(|| std::array::from_fn(|i| srgb_to_linear(i as f32 / 255.0)));

/// The reason why something is not a picture.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum Fault {
    /// There is nothing to see.
    #[error("it has no pixels")]
    Empty,
    /// The pixels do not fill the size.
    #[error("it has more or fewer pixels than its size says")]
    Size,
}

/// A picture in one size: red, green, blue and alpha, as a screen has them (sRGB, straight).
#[derive(Debug, Clone, PartialEq)]
struct Size {
    width: usize,
    height: usize,
    pixels: Vec<[u8; 4]>,
}

/// A picture, or several that follow each other.
#[derive(Debug, Clone, PartialEq)]
pub struct Picture {
    /// For each frame all sizes, the largest first, each half of the one before.
    frames: Vec<Vec<Size>>,
    /// The end of each frame, in seconds since the first began.
    ends: Vec<f64>,
}

/// The way a picture is looked at.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sampling {
    /// The frame.
    pub frame: usize,
    /// The number of its pixels to a light.
    pub pixels: f32,
    /// Between pixels, or the nearest.
    pub smooth: bool,
    /// True if it goes on at its edges.
    pub tiled: bool,
}

/// The pixels of a frame, row after row from the top: red, green, blue and alpha (sRGB, straight); and how long it is seen, in
/// seconds.
pub type TimedFrame = (Vec<[u8; 4]>, f64);

impl Picture {
    /// A picture of some frames, each with how long it is seen, in seconds. Rows follow each other from the top.
    ///
    /// # Errors
    /// [`Fault`] where there is no frame, or one is not as large as it is said to be.
    pub fn new(width: usize, height: usize, frames: Vec<TimedFrame>) -> Result<Self, Fault> {
        if frames.is_empty() || width == 0 || height == 0 {
            return Err(Fault::Empty);
        }
        LazyLock::force(&LINEAR);
        let mut time = 0.0;
        let mut picture = Self { frames: Vec::new(), ends: Vec::new() };
        for (pixels, seconds) in frames {
            if pixels.len() != width * height {
                return Err(Fault::Size);
            }
            time += if seconds.is_finite() { seconds.clamp(0.01, 3600.0) } else { 0.1 };
            picture.frames.push(sizes(Size { width, height, pixels }));
            picture.ends.push(time);
        }
        Ok(picture)
    }

    /// Width and height in pixels.
    #[must_use]
    pub fn size(&self) -> (f32, f32) {
        let size = &self.frames[0][0];
        (size.width as f32, size.height as f32)
    }

    /// The picture made smaller until its longest side has at most so many pixels: width, height, and the pixels of each frame
    /// with how long it is seen, in seconds.
    #[must_use]
    pub fn reduced(&self, longest: usize) -> (usize, usize, Vec<TimedFrame>) {
        let fits = |size: &Size| size.width.max(size.height) <= longest.max(1);
        let level = self.frames[0].iter().position(fits).unwrap_or(self.frames[0].len() - 1);
        let mut before = 0.0;
        let frames = self.frames.iter().zip(&self.ends).map(|(sizes, end)| {
            let seconds = end - std::mem::replace(&mut before, *end);
            (sizes[level].pixels.clone(), seconds)
        });
        let frames = frames.collect();
        (self.frames[0][level].width, self.frames[0][level].height, frames)
    }

    /// The time that all frames take, in seconds; 0 for a still one.
    #[must_use]
    pub fn seconds(&self) -> f64 {
        if self.frames.len() > 1 { self.ends[self.ends.len() - 1] } else { 0.0 }
    }

    /// The frame that is seen so long after the first began; it begins anew at its end.
    #[must_use]
    pub fn frame_at(&self, seconds: f64) -> usize {
        let all = self.seconds();
        if all <= 0.0 {
            return 0;
        }
        let time = seconds.rem_euclid(all);
        self.ends.partition_point(|end| *end <= time).min(self.frames.len() - 1)
    }

    /// The light at a place, 0..1 of the width and of the height. Outside there is none.
    #[must_use]
    pub fn at(&self, u: f32, v: f32, how: Sampling) -> Rgba {
        let Some(sizes) = self.frames.get(how.frame) else { return CLEAR };
        // Each halving takes a bit off the number of pixels to a light.
        let level = (how.pixels.max(1.0).to_bits() >> 23).saturating_sub(127) as usize;
        let size = &sizes[level.min(sizes.len() - 1)];
        let (x, y) = (u * size.width as f32, v * size.height as f32);
        if how.smooth { size.between(x - 0.5, y - 0.5, how.tiled) } else { size.pixel(x.floor(), y.floor(), how.tiled) }
    }
}

impl Size {
    fn pixel(&self, x: f32, y: f32, tiled: bool) -> Rgba {
        let (x, y) = (x as i64, y as i64);
        let (width, height) = (self.width as i64, self.height as i64);
        let (x, y) = if tiled { (x.rem_euclid(width), y.rem_euclid(height)) } else { (x, y) };
        if !(0..width).contains(&x) || !(0..height).contains(&y) {
            return CLEAR;
        }
        let [r, g, b, a] = self.pixels[(y * width + x) as usize];
        let linear = |c: u8| LINEAR[usize::from(c)];
        [linear(r), linear(g), linear(b), f32::from(a) / 255.0]
    }

    /// Mixed from the four pixels around, by how much of each is there.
    fn between(&self, x: f32, y: f32, tiled: bool) -> Rgba {
        let (left, top) = (x.floor(), y.floor());
        let (u, v) = (x - left, y - top);
        let corners = [
            (self.pixel(left, top, tiled), (1.0 - u) * (1.0 - v)),
            (self.pixel(left + 1.0, top, tiled), u * (1.0 - v)),
            (self.pixel(left, top + 1.0, tiled), (1.0 - u) * v),
            (self.pixel(left + 1.0, top + 1.0, tiled), u * v),
        ];
        let mut sum = [0.0f32; 4];
        for ([r, g, b, a], weight) in corners {
            let weight = weight * a;
            sum = [sum[0] + r * weight, sum[1] + g * weight, sum[2] + b * weight, sum[3] + weight];
        }
        let [r, g, b, a] = sum;
        if a <= 1e-6 { CLEAR } else { [r / a, g / a, b / a, a.min(1.0)] }
    }

    /// The same at half the size, each pixel the mean of the light of four.
    fn halved(&self) -> Self {
        let (width, height) = (self.width.div_ceil(2), self.height.div_ceil(2));
        let mut pixels = Vec::with_capacity(width * height);
        for y in 0..height {
            for x in 0..width {
                pixels.push(self.mean(2 * x, 2 * y));
            }
        }
        Self { width, height, pixels }
    }

    fn mean(&self, x: usize, y: usize) -> [u8; 4] {
        let mut sum = [0.0f32; 4];
        for (dx, dy) in [(0, 0), (1, 0), (0, 1), (1, 1)] {
            let (x, y) = ((x + dx).min(self.width - 1), (y + dy).min(self.height - 1));
            let [r, g, b, a] = self.pixel(x as f32, y as f32, false);
            sum = [sum[0] + r * a, sum[1] + g * a, sum[2] + b * a, sum[3] + a];
        }
        let [r, g, b, a] = sum;
        let code = |light: f32| (splimo_base::colour::linear_to_srgb(light / a.max(1e-6)) * 255.0 + 0.5) as u8;
        [code(r), code(g), code(b), (a / 4.0 * 255.0 + 0.5) as u8]
    }
}

fn sizes(whole: Size) -> Vec<Size> {
    let mut sizes = vec![whole];
    while let Some(last) = sizes.last().filter(|s| s.width > 1 || s.height > 1) {
        let half = last.halved();
        sizes.push(half);
    }
    sizes
}

#[cfg(test)]
mod tests {
    use super::*;

    const HOW: Sampling = Sampling { frame: 0, pixels: 1.0, smooth: false, tiled: false };

    fn board() -> Picture {
        let pixel = |i: usize| if (i % 4 + i / 4).is_multiple_of(2) { [255, 255, 255, 255] } else { [0, 0, 0, 255] };
        Picture::new(4, 4, vec![((0..16).map(pixel).collect(), 0.1)]).expect("a picture")
    }

    #[test]
    fn pixels_lie_where_they_should_and_outside_is_nothing() {
        let picture = board();
        assert_eq!(picture.at(0.1, 0.1, HOW)[0], 1.0);
        assert_eq!(picture.at(0.3, 0.1, HOW)[0], 0.0);
        assert_eq!(picture.at(1.1, 0.1, HOW), CLEAR);
        assert_eq!(picture.at(1.1, 0.1, Sampling { tiled: true, ..HOW })[0], 1.0);
    }

    #[test]
    fn what_is_drawn_small_is_the_mean() {
        let small = board().at(0.4, 0.6, Sampling { pixels: 4.0, smooth: true, ..HOW });
        assert!((small[0] - 0.5).abs() < 0.02, "{small:?}");
    }

    #[test]
    fn frames_follow_each_other_and_begin_anew() {
        let frame = |c: u8, seconds| (vec![[c, 0, 0, 255]], seconds);
        let picture = Picture::new(1, 1, vec![frame(1, 0.1), frame(2, 0.3)]).expect("a picture");
        assert_eq!([0.05, 0.15, 0.39, 0.41].map(|t| picture.frame_at(t)), [0, 1, 1, 0]);
        assert_eq!(Picture::new(2, 1, vec![frame(1, 0.1)]), Err(Fault::Size));
        assert_eq!(Picture::new(0, 1, vec![]), Err(Fault::Empty));
    }
}
