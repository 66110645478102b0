//! Media that a show takes from files: pictures, films and fonts. They are read elsewhere and come in here decoded; effects find
//! them by the name of the file as it stands in the show.

mod film;
mod picture;

pub use film::{Film, Screening};
pub use picture::{Fault, LONGEST_SIDE, Picture, Sampling, TimedFrame};

use std::collections::BTreeMap;
use std::sync::Arc;

use ab_glyph::FontVec;

/// A font that was read.
#[derive(Debug)]
pub struct Font(pub(crate) FontVec);

impl Font {
    /// Reads a TrueType or OpenType font.
    ///
    /// # Errors
    /// In words, what is wrong with it.
    pub fn read(bytes: Vec<u8>) -> Result<Self, String> {
        FontVec::try_from_vec(bytes).map(Self).map_err(|_| "it is not a TrueType or OpenType font".to_owned())
    }
}

impl Font {
    /// The bytes of its file.
    #[must_use]
    pub fn file(&self) -> &[u8] {
        self.0.as_slice()
    }
}

/// Everything that a show takes from files, by the names that stand in it.
#[derive(Debug, Default, Clone)]
pub struct Media {
    /// Still and moving pictures.
    pub pictures: BTreeMap<String, Arc<Picture>>,
    /// Films that run by themselves.
    pub films: BTreeMap<String, Arc<Film>>,
    /// Fonts.
    pub fonts: BTreeMap<String, Arc<Font>>,
}

impl PartialEq for Media {
    /// The same files as they were read: what is in them is not compared.
    fn eq(&self, other: &Self) -> bool {
        fn same<T>(a: &BTreeMap<String, Arc<T>>, b: &BTreeMap<String, Arc<T>>) -> bool {
            a.len() == b.len() && a.iter().zip(b).all(|((n, x), (m, y))| n == m && Arc::ptr_eq(x, y))
        }
        same(&self.pictures, &other.pictures) && same(&self.films, &other.films) && same(&self.fonts, &other.fonts)
    }
}
