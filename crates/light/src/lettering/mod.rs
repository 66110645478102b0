//! Words as pictures: each letter that may come up is drawn beforehand, so that what is written can change from frame to
//! frame, as a clock does, without any memory being asked for.

mod small;
mod vector;

use font8x8::UnicodeFonts;

use crate::media::Font;

/// The built-in fonts, by the height of their letters.
pub const FONTS: &[&str] = &["8 high", "5 high", "16 high", "file"];

/// A letter as coverage, row by row from the top.
#[derive(Debug, Clone, PartialEq)]
struct Letter {
    character: char,
    width: usize,
    /// 0..1, `width` for each row.
    cover: Vec<f32>,
}

/// The letters of a font.
#[derive(Debug, Clone, PartialEq)]
pub struct Lettering {
    /// The height of letters, in their own pixels.
    pub height: usize,
    letters: Vec<Letter>,
}

/// The letters that may come up in live fields, besides those that are written.
const LIVE: &str = "0123456789:.-";

impl Lettering {
    /// The letters that a text needs, in a built-in font of [`FONTS`]. `weight` is in percent of the usual one; the lowest letters
    /// have only that.
    #[must_use]
    pub fn built_in(font: usize, text: &str, weight: f32, outline: bool) -> Self {
        let height = [8, 5, 16][font.min(2)];
        // Half the thickness of a stroke, which is a quarter of the height, for each half more.
        let more = ((weight / 100.0 - 1.0).max(0.0) * height as f32 / 4.0).round() as usize;
        // Without its file, a font from one is the largest that is built in.
        let draw = |character: char| match font.min(2) {
            1 => small::letter(character),
            2 => thickened(&doubled(&eight(character)), 16, more),
            _ => thickened(&eight(character), 8, more),
        };
        Self::drawn(height, text, outline, draw)
    }

    /// The letters that a text needs, out of a file. `weight` is in percent of the usual one.
    #[must_use]
    pub fn from_font(font: &Font, text: &str, weight: f32, outline: bool) -> Self {
        Self::drawn(vector::HEIGHT, text, outline, |character| vector::letter(font, character, weight))
    }

    fn drawn(height: usize, text: &str, outline: bool, draw: impl Fn(char) -> Letter) -> Self {
        let mut lettering = Self { height, letters: Vec::new() };
        for character in text.chars().chain(LIVE.chars()).chain(['?']) {
            if lettering.letters.iter().all(|letter| letter.character != character) {
                let letter = draw(character);
                lettering.letters.push(if outline { outlined(&letter, height) } else { letter });
            }
        }
        lettering
    }

    /// The place of a letter among those that are drawn; what is not is a question mark.
    #[must_use]
    pub fn place(&self, character: char) -> usize {
        let found = self.letters.iter().position(|letter| letter.character == character);
        found.or_else(|| self.letters.iter().position(|letter| letter.character == '?')).unwrap_or(0)
    }

    /// The width of a letter, in its own pixels.
    #[must_use]
    pub fn width(&self, place: usize) -> f32 {
        self.letters.get(place).map_or(0.0, |letter| letter.width as f32)
    }

    /// The width of the widest letter, in its own pixels.
    #[must_use]
    pub fn widest(&self) -> f32 {
        self.letters.iter().map(|letter| letter.width).max().unwrap_or(0) as f32
    }

    /// The share of a letter at a place in its own pixels, between pixels.
    #[must_use]
    pub fn cover(&self, place: usize, x: f32, y: f32) -> f32 {
        let Some(letter) = self.letters.get(place) else { return 0.0 };
        let (x, y) = (x - 0.5, y - 0.5);
        let (left, top) = (x.floor(), y.floor());
        let (u, v) = (x - left, y - top);
        let at = |x: f32, y: f32| letter.at(x as i32, y as i32, self.height);
        let above = at(left, top) * (1.0 - u) + at(left + 1.0, top) * u;
        let below = at(left, top + 1.0) * (1.0 - u) + at(left + 1.0, top + 1.0) * u;
        above * (1.0 - v) + below * v
    }
}

impl Letter {
    fn at(&self, x: i32, y: i32, height: usize) -> f32 {
        if x < 0 || y < 0 || x as usize >= self.width || y as usize >= height {
            return 0.0;
        }
        self.cover[y as usize * self.width + x as usize]
    }
}

/// A letter of the built-in font of 8 by 8 (public domain, by the crate `font8x8`).
fn eight(character: char) -> Letter {
    let glyph = font8x8::BASIC_FONTS
        .get(character)
        .or_else(|| font8x8::LATIN_FONTS.get(character))
        .or_else(|| font8x8::BASIC_FONTS.get('?'))
        .unwrap_or_default();
    let cover = (0..64).map(|i| f32::from(glyph[i / 8] >> (i % 8) & 1)).collect();
    Letter { character, width: 8, cover }
}

/// Twice as high and as wide, with its steps made rounder where two pixels meet at a corner.
fn doubled(letter: &Letter) -> Letter {
    let (width, height) = (letter.width, 8);
    let at = |x: usize, y: usize, dx: i32, dy: i32| letter.at(x as i32 + dx, y as i32 + dy, height);
    let mut cover = vec![0.0; 4 * width * height];
    for y in 0..height {
        for x in 0..width {
            let (up, down) = (at(x, y, 0, -1), at(x, y, 0, 1));
            let (left, right) = (at(x, y, -1, 0), at(x, y, 1, 0));
            let own = letter.at(x as i32, y as i32, height);
            // The rule of EPX (E. Johnston, 1992): a corner takes the colour that two neighbours share.
            let corner = |a: f32, b: f32, c: f32, d: f32| if a == b && a != c && b != d { a } else { own };
            let four = [
                corner(up, left, right, down),
                corner(up, right, left, down),
                corner(down, left, right, up),
                corner(down, right, left, up),
            ];
            for (index, value) in four.into_iter().enumerate() {
                cover[(2 * y + index / 2) * 2 * width + 2 * x + index % 2] = value;
            }
        }
    }
    Letter { character: letter.character, width: 2 * width, cover }
}

/// A letter with strokes that are so many pixels wider, as it is itself.
fn thickened(letter: &Letter, height: usize, by: usize) -> Letter {
    let width = letter.width + by;
    let most = |x: usize, y: usize| {
        (0..=by).map(|before| letter.at(x as i32 - before as i32, y as i32, height)).fold(0.0, f32::max)
    };
    let cover = (0..width * height).map(|index| most(index % width, index / width)).collect();
    Letter { width, cover, ..letter.clone() }
}

/// Only the edge of a letter: what is lit and has something dark beside it.
fn outlined(letter: &Letter, height: usize) -> Letter {
    let edge = |index: usize| {
        let (x, y) = ((index % letter.width) as i32, (index / letter.width) as i32);
        let around = [(-1, 0), (1, 0), (0, -1), (0, 1)];
        let least = around.iter().map(|(dx, dy)| letter.at(x + dx, y + dy, height)).fold(1.0, f32::min);
        (letter.cover[index] - least).max(0.0).max(letter.cover[index] * (1.0 - least))
    };
    let cover = (0..letter.cover.len()).map(edge).collect();
    Letter { cover, ..letter.clone() }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_built_in_font_draws_letters_that_differ() {
        for font in 0..3 {
            let lettering = Lettering::built_in(font, "ABZ", 100.0, false);
            let sum = |c: char| lettering.letters[lettering.place(c)].cover.iter().sum::<f32>();
            assert!(sum('A') > 4.0 && sum('A') != sum('Z') && sum('8') > sum('1'), "font {font}");
            assert_eq!(lettering.place('é'), lettering.place('?'));
        }
    }

    #[test]
    fn bold_letters_have_thicker_strokes_and_keep_their_holes() {
        for (font, height) in [(0, 8), (2, 16)] {
            let of = |weight: f32| Lettering::built_in(font, "OAE8", weight, false);
            let (regular, bold, heavy) = (of(100.0), of(140.0), of(190.0));
            let sum = |l: &Lettering, at: usize| l.letters[at].cover.iter().sum::<f32>();
            for at in 0..4 {
                assert!(sum(&bold, at) > 1.15 * sum(&regular, at) && sum(&heavy, at) > sum(&bold, at), "{font} {at}");
            }
            // Somewhere in the middle of an O it is still dark.
            let o = &bold.letters[0];
            assert!((0..o.width).any(|x| o.at(x as i32, height / 2, height as usize) == 0.0 && x > 2), "{font}");
        }
    }

    #[test]
    fn an_outline_is_less_than_the_letter() {
        let (whole, edge) = (Lettering::built_in(2, "B", 100.0, false), Lettering::built_in(2, "B", 100.0, true));
        let sum = |l: &Lettering| l.letters[0].cover.iter().sum::<f32>();
        assert!(sum(&edge) < sum(&whole) && sum(&edge) > 10.0);
    }

    #[test]
    fn what_is_no_font_is_refused() {
        assert!(Font::read(b"not a font".to_vec()).is_err());
        assert!(Font::read(Vec::new()).is_err());
    }
}
