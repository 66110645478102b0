//! Letters out of TrueType and OpenType fonts, drawn once at a fixed height.

use ab_glyph::{Font as _, ScaleFont, point};

use super::Letter;
use crate::media::Font;

/// The height at which letters are drawn, in pixels: fine enough for any panel.
pub(super) const HEIGHT: usize = 48;

/// A letter of a font. A weight above 100 makes its strokes thicker, below 100 thinner.
pub(super) fn letter(font: &Font, character: char, weight: f32) -> Letter {
    let scaled = font.0.as_scaled(HEIGHT as f32);
    let id = font.0.glyph_id(character);
    let width = (scaled.h_advance(id).ceil() as usize).clamp(1, 4 * HEIGHT);
    let mut cover = vec![0.0; width * HEIGHT];
    let glyph = id.with_scale_and_position(HEIGHT as f32, point(0.0, scaled.ascent()));
    if let Some(outline) = font.0.outline_glyph(glyph) {
        let bounds = outline.px_bounds();
        outline.draw(|x, y, share| {
            let (x, y) = (bounds.min.x as i32 + x as i32, bounds.min.y as i32 + y as i32);
            if (0..width as i32).contains(&x) && (0..HEIGHT as i32).contains(&y) {
                cover[y as usize * width + x as usize] = share.clamp(0.0, 1.0);
            }
        });
    }
    let letter = Letter { character, width, cover };
    thickened(letter, (weight - 100.0) / 100.0)
}

/// The strokes thicker by some pixels (or thinner, below 0): each pixel takes the most, or the least, of those around it.
fn thickened(letter: Letter, by: f32) -> Letter {
    let reach = (by.abs() * 3.0).round() as i32;
    if reach == 0 {
        return letter;
    }
    let value = |index: usize| {
        let (x, y) = ((index % letter.width) as i32, (index / letter.width) as i32);
        let around = (-reach..=reach).flat_map(|dy| (-reach..=reach).map(move |dx| (dx, dy)));
        let near = around.filter(|(dx, dy)| dx * dx + dy * dy <= reach * reach);
        let values = near.map(|(dx, dy)| letter.at(x + dx, y + dy, HEIGHT));
        if by > 0.0 { values.fold(0.0, f32::max) } else { values.fold(1.0, f32::min) }
    };
    let cover = (0..letter.cover.len()).map(value).collect();
    Letter { cover, ..letter }
}
