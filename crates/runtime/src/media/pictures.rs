//! Reading PNG, JPEG and GIF, with bounds: a file that says it is enormous costs no memory.

use std::fs::File;
use std::io::{BufRead, BufReader};
use std::path::Path;

use image::codecs::gif::GifDecoder;
use image::{AnimationDecoder, DynamicImage, ImageDecoder, ImageFormat, ImageReader, Limits, RgbaImage, imageops};
use splimo_light::media::{LONGEST_SIDE, Picture};

use crate::file_error::Cause;

/// The longest side of a picture that is decoded.
const MOST_PIXELS_A_SIDE: u32 = 8192;
/// The most pixels of a picture that is decoded: its header tells how many it has.
const MOST_PIXELS: u64 = 40_000_000;
/// Memory that decoding may take, in bytes.
const MOST_MEMORY: u64 = 256 << 20;
/// The most frames of a moving picture, and the most pixels of all that are kept.
const MOST_FRAMES: usize = 2000;
const MOST_PIXELS_KEPT: usize = 24_000_000;

fn limits() -> Limits {
    let mut limits = Limits::default();
    limits.max_image_width = Some(MOST_PIXELS_A_SIDE);
    limits.max_image_height = Some(MOST_PIXELS_A_SIDE);
    limits.max_alloc = Some(MOST_MEMORY);
    limits
}

/// Reads a picture.
pub(super) fn read(path: &Path) -> Result<Picture, String> {
    if !path.is_file() {
        return Err("it cannot be read: there is no such file".to_owned());
    }
    let failed = |error| format!("it cannot be read: {}", Cause::of(path, &error));
    let open = || File::open(path).map(BufReader::new).map_err(failed);
    let reader = ImageReader::new(open()?).with_guessed_format().map_err(failed)?;
    match reader.format() {
        Some(ImageFormat::Gif) => moving(open()?),
        Some(ImageFormat::Png | ImageFormat::Jpeg) => {
            let size = ImageReader::new(open()?).with_guessed_format().ok().and_then(|r| r.into_dimensions().ok());
            if let Some((width, height)) = size.filter(|(w, h)| u64::from(*w) * u64::from(*h) > MOST_PIXELS) {
                return Err(format!(
                    "it has {width} x {height} pixels, more than {} million; make it smaller",
                    MOST_PIXELS / 1_000_000
                ));
            }
            let mut reader = reader;
            reader.limits(limits());
            still(reader.decode().map_err(|e| said(&e))?)
        }
        _ => Err("it is no PNG, JPEG or GIF; save it as one of these".to_owned()),
    }
}

fn said(error: &image::ImageError) -> String {
    match error {
        image::ImageError::Limits(_) => {
            format!("it is larger than {MOST_PIXELS_A_SIDE} pixels a side, or takes too much memory; make it smaller")
        }
        error => format!("it is damaged or cut off: {error}; save it again"),
    }
}

/// The size at which a picture is kept: its longer side fits.
fn kept_size(width: u32, height: u32) -> (u32, u32) {
    let longest = width.max(height).max(1);
    let scale = (LONGEST_SIDE as f32 / longest as f32).min(1.0);
    let scaled = |side: u32| ((side as f32 * scale).round() as u32).max(1);
    (scaled(width), scaled(height))
}

fn fitted(image: &RgbaImage) -> RgbaImage {
    let (width, height) = kept_size(image.width(), image.height());
    match (width, height) == image.dimensions() {
        true => image.clone(),
        false => imageops::resize(image, width, height, imageops::FilterType::Triangle),
    }
}

fn pixels(image: &RgbaImage) -> Vec<[u8; 4]> {
    image.pixels().map(|pixel| pixel.0).collect()
}

fn still(image: DynamicImage) -> Result<Picture, String> {
    let image = fitted(&image.to_rgba8());
    let (width, height) = (image.width() as usize, image.height() as usize);
    Picture::new(width, height, vec![(pixels(&image), 0.0)]).map_err(|e| e.to_string())
}

fn moving(file: impl BufRead + std::io::Seek) -> Result<Picture, String> {
    let mut decoder = GifDecoder::new(file).map_err(|e| said(&e))?;
    decoder.set_limits(limits()).map_err(|e| said(&e))?;
    let (wide, high) = decoder.dimensions();
    if u64::from(wide) * u64::from(high) > MOST_PIXELS {
        return Err(format!(
            "it has {wide} x {high} pixels, more than {} million; make it smaller",
            MOST_PIXELS / 1_000_000
        ));
    }
    let (width, height) = kept_size(decoder.dimensions().0, decoder.dimensions().1);
    let (width, height) = (width as usize, height as usize);
    let most = (MOST_PIXELS_KEPT / (width * height).max(1)).clamp(1, MOST_FRAMES);
    let mut frames = Vec::new();
    for frame in decoder.into_frames().take(most) {
        let frame = match frame {
            Ok(frame) => frame,
            // What came whole before it was cut off is shown.
            Err(_) if !frames.is_empty() => break,
            Err(error) => return Err(said(&error)),
        };
        let (over, under) = frame.delay().numer_denom_ms();
        let seconds = f64::from(over) / f64::from(under.max(1)) / 1000.0;
        // As everywhere, a delay of nothing means a tenth of a second.
        let seconds = if seconds < 0.011 { 0.1 } else { seconds };
        frames.push((pixels(&fitted(frame.buffer())), seconds));
    }
    Picture::new(width, height, frames).map_err(|e| e.to_string())
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::io::Write;

    fn file(name: &str, bytes: &[u8]) -> (tempfile::TempDir, std::path::PathBuf) {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join(name);
        File::create(&path).and_then(|mut f| f.write_all(bytes)).expect("writes");
        (folder, path)
    }

    fn png(width: u32, height: u32) -> Vec<u8> {
        let image = RgbaImage::from_fn(width, height, |x, y| image::Rgba([x as u8, y as u8, 200, 255]));
        let mut bytes = std::io::Cursor::new(Vec::new());
        image.write_to(&mut bytes, ImageFormat::Png).expect("encodes");
        bytes.into_inner()
    }

    #[test]
    fn a_large_picture_is_kept_smaller() {
        let (_folder, path) = file("large.png", &png(1200, 300));
        assert_eq!(read(&path).map(|p| p.size()), Ok((512.0, 128.0)));
    }

    #[test]
    fn a_picture_of_too_many_pixels_is_refused_before_it_is_decoded() {
        // The header of a PNG of 8000 x 8000 pixels, with nothing behind it.
        let mut bytes = png(8, 8);
        bytes[16..24].copy_from_slice(&[0, 0, 0x1f, 0x40, 0, 0, 0x1f, 0x40]);
        let sum = crc32(&bytes[12..29]);
        bytes[29..33].copy_from_slice(&sum.to_be_bytes());
        let (_folder, path) = file("huge.png", &bytes);
        let why = read(&path).expect_err("too many");
        assert!(why.contains("8000 x 8000 pixels, more than 40 million"), "{why}");
    }

    /// The sum of a chunk (PNG, annex D).
    fn crc32(bytes: &[u8]) -> u32 {
        !bytes.iter().fold(u32::MAX, |sum, byte| {
            (0..8).fold(sum ^ u32::from(*byte), |sum, _| if sum & 1 == 1 { sum >> 1 ^ 0xedb8_8320 } else { sum >> 1 })
        })
    }

    #[test]
    fn what_is_cut_off_is_told() {
        let whole = png(64, 64);
        let (_folder, path) = file("cut.png", &whole[..whole.len() / 2]);
        let why = read(&path).expect_err("it is cut off");
        assert!(why.contains("cut off") && why.contains("save it again"), "{why}");
    }

    #[test]
    fn a_picture_that_says_it_is_enormous_costs_nothing() {
        // The header of a GIF of 60,000 by 60,000, with one frame as large.
        let mut bomb = b"GIF89a".to_vec();
        bomb.extend([0x60, 0xea, 0x60, 0xea, 0x80, 0, 0, 0, 0, 0, 255, 255, 255]);
        bomb.extend([0x2c, 0, 0, 0, 0, 0x60, 0xea, 0x60, 0xea, 0, 2, 2, 0x44, 1, 0, 0x3b]);
        let (_folder, path) = file("bomb.gif", &bomb);
        let why = read(&path).expect_err("it is too large");
        assert!(why.contains("8192"), "{why}");
    }

    #[test]
    fn a_moving_picture_has_its_frames() {
        let mut bytes = Vec::new();
        {
            let mut encoder = image::codecs::gif::GifEncoder::new(&mut bytes);
            for level in [0u8, 255] {
                let picture = RgbaImage::from_pixel(4, 4, image::Rgba([level, 0, 0, 255]));
                let delay = image::Delay::from_numer_denom_ms(200, 1);
                encoder.encode_frame(image::Frame::from_parts(picture, 0, 0, delay)).expect("encodes");
            }
        }
        let (_folder, path) = file("two.gif", &bytes);
        let picture = read(&path).expect("reads");
        assert!((picture.seconds() - 0.4).abs() < 1e-6 && picture.frame_at(0.3) == 1);
    }

    #[test]
    fn any_bytes_are_a_picture_or_an_error() {
        for length in [0, 3, 8, 40, 400] {
            for start in [&b"GIF89a"[..], b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff\xe0", b"BM", b""] {
                let mut bytes = start.to_vec();
                bytes.extend((0..length).map(|i| (i * 73 % 251) as u8));
                let (_folder, path) = file("any", &bytes);
                assert!(read(&path).is_err());
            }
        }
    }
}
