//! The fonts of drawings: DejaVu Sans Condensed, which is part of the program and has Latin, Greek, Cyrillic and signs, and behind it
//! whatever fonts the caller has found for other letters.

use std::io::Read;
use std::sync::{Arc, LazyLock};

use ab_glyph::{Font as _, FontRef, FontVec};
use flate2::read::DeflateDecoder;
use krilla::text::Font;

/// A font of the program, with its letters told apart.
struct Own {
    bytes: &'static [u8],
    face: FontRef<'static>,
}

impl Own {
    /// Of a font as the build of the program has packed it. It stays as long as the program.
    fn read(packed: &[u8]) -> Self {
        let mut bytes = Vec::new();
        let read = DeflateDecoder::new(packed).read_to_end(&mut bytes);
        assert!(read.is_ok(), "a font of the program is packed whole");
        let bytes: &'static [u8] = bytes.leak();
        let face = FontRef::try_from_slice(bytes);
        Self { bytes, face: face.unwrap_or_else(|why| unreachable!("a font of the program cannot be read: {why}")) }
    }
}

static REGULAR: LazyLock<Own> =
    LazyLock::new(|| Own::read(include_bytes!(concat!(env!("OUT_DIR"), "/regular.packed"))));
static BOLD: LazyLock<Own> = LazyLock::new(|| Own::read(include_bytes!(concat!(env!("OUT_DIR"), "/bold.packed"))));

/// The width of a letter that the fonts of the program do not have, in sizes: ideographs are as wide as high.
const OTHER: f32 = 1.0;

/// The part of a size at which letters are drawn: small letters of DejaVu are higher than those of other fonts of its size, and wider.
pub(crate) const DRAWN: f32 = 0.93;

/// The width of a letter in sizes.
pub(crate) fn advance(letter: char, bold: bool) -> f32 {
    let own = if bold { &BOLD } else { &REGULAR };
    let glyph = own.face.glyph_id(letter);
    if glyph.0 == 0 {
        return OTHER * DRAWN;
    }
    own.face.h_advance_unscaled(glyph) / own.face.units_per_em().unwrap_or(2048.0) * DRAWN
}

/// True if the fonts of the program have a letter.
fn is_own(letter: char) -> bool {
    REGULAR.face.glyph_id(letter).0 != 0
}

/// The letters among some words that the fonts of the program do not have.
pub(crate) fn foreign(words: &str) -> impl Iterator<Item = char> + '_ {
    words.chars().filter(|letter| !is_own(*letter) && !letter.is_control())
}

/// A font from outside.
struct Outside {
    face: FontVec,
    font: Font,
}

/// The fonts that a document is written with.
pub struct Fonts {
    regular: Font,
    bold: Font,
    others: Vec<Outside>,
}

impl Default for Fonts {
    fn default() -> Self {
        let font = |own: &Own| {
            Font::new(own.bytes.into(), 0).unwrap_or_else(|| unreachable!("a font of the program cannot be read"))
        };
        Self { regular: font(&REGULAR), bold: font(&BOLD), others: Vec::new() }
    }
}

impl Fonts {
    /// Takes a font for letters that those before it do not have: a TrueType or OpenType file, and which of the fonts in it. False where
    /// it cannot be read.
    pub fn add(&mut self, bytes: Vec<u8>, index: u32) -> bool {
        let bytes = Arc::new(bytes);
        let face = FontVec::try_from_vec_and_index(bytes.to_vec(), index).ok();
        let added = face.zip(Font::new(bytes.into(), index)).map(|(face, font)| Outside { face, font });
        let is_font = added.is_some();
        self.others.extend(added);
        is_font
    }

    /// The pieces of some words, each with the font that has its letters, and its width in sizes.
    pub(crate) fn pieces<'a>(&'a self, words: &'a str, bold: bool) -> Vec<Piece<'a>> {
        let mut pieces: Vec<(Option<usize>, usize, usize)> = Vec::new();
        for (at, letter) in words.char_indices() {
            let end = at + letter.len_utf8();
            let font = self.place_of(letter);
            match pieces.last_mut() {
                // A space stays with what it stands behind.
                Some((last, _, until)) if *last == font || letter == ' ' => *until = end,
                _ => pieces.push((font, at, end)),
            }
        }
        let own = if bold { &self.bold } else { &self.regular };
        let piece = |(font, from, until): (Option<usize>, usize, usize)| {
            let words = &words[from..until];
            match font {
                None => Piece { words, font: own, width: words.chars().map(|letter| advance(letter, bold)).sum() },
                Some(place) => {
                    let other = &self.others[place];
                    let scale = other.face.units_per_em().unwrap_or(1000.0);
                    let width = words.chars().map(|c| other.face.h_advance_unscaled(other.face.glyph_id(c)) / scale);
                    Piece { words, font: &other.font, width: width.sum::<f32>() * DRAWN }
                }
            }
        };
        pieces.into_iter().map(piece).collect()
    }

    /// The font from outside that is taken for a letter; none for one of the program's.
    fn place_of(&self, letter: char) -> Option<usize> {
        if is_own(letter) {
            return None;
        }
        self.others.iter().position(|other| other.face.glyph_id(letter).0 != 0)
    }

    /// The letters among some words that no font has.
    pub fn missing<'a>(&'a self, words: &'a str) -> impl Iterator<Item = char> + 'a {
        foreign(words).filter(|letter| self.place_of(*letter).is_none())
    }
}

/// Words in one font.
pub(crate) struct Piece<'a> {
    pub(crate) words: &'a str,
    pub(crate) font: &'a Font,
    /// In sizes.
    pub(crate) width: f32,
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn letters_of_europe_are_in_the_program_and_others_are_told_of() {
        let fonts = Fonts::default();
        assert_eq!(fonts.missing("Söhne Łódź Αθήνα Москва → ▸ ≥").count(), 0);
        assert_eq!(fonts.missing("Söhne 船 灯").collect::<String>(), "船灯");
        assert!((advance('e', false) - 0.515).abs() < 0.01, "{}", advance('e', false));
        assert!(advance('e', true) > advance('e', false));
    }

    #[test]
    fn a_font_from_outside_has_the_letters_that_are_missing() {
        let mut fonts = Fonts::default();
        assert!(!fonts.add(b"no font".to_vec(), 0));
        // An arc (U+2312) is in DejaVu Sans Mono and not in the condensed kind.
        let letter = '\u{2312}';
        let words = format!("a {letter} b");
        assert_eq!(fonts.missing(&words).collect::<String>(), letter.to_string());
        assert!(fonts.add(dejavu::sans_mono::regular().to_vec(), 0));
        assert_eq!(fonts.missing(&words).count(), 0);
        let pieces = fonts.pieces(&words, false);
        assert_eq!(pieces.iter().map(|piece| piece.words).collect::<String>(), words);
        assert!(pieces.len() > 1 && pieces.iter().all(|piece| piece.width > 0.0));
    }
}
