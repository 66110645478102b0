//! Pictures, films and fonts on their way to a screen, which shows looks that use them as miniatures.

use std::collections::BTreeMap;
use std::sync::Arc;

use serde::{Deserialize, Serialize};
use splimo_light::media::{Film, Font, Media, Picture, Screening, TimedFrame};

/// The longest side of a picture that is told: miniatures are smaller.
pub const LONGEST_SIDE: usize = 96;
/// The most frames of a moving picture that are told.
const MOST_FRAMES: usize = 64;

/// A picture as it is told.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct PictureParcel {
    width: u16,
    height: u16,
    /// Each frame: red, green, blue and alpha (sRGB, straight), row after row from the top; and how long it is seen, in seconds.
    frames: Vec<FrameParcel>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
struct FrameParcel {
    #[serde(with = "crate::bytes")]
    rgba: Vec<u8>,
    seconds: f64,
}

impl PictureParcel {
    /// Packs a picture, made smaller.
    #[must_use]
    pub fn of(picture: &Picture) -> Self {
        let (width, height, frames) = picture.reduced(LONGEST_SIDE);
        let frame = |(pixels, seconds): TimedFrame| FrameParcel { rgba: pixels.into_flattened(), seconds };
        let frames = frames.into_iter().take(MOST_FRAMES).map(frame).collect();
        Self { width: width as u16, height: height as u16, frames }
    }

    /// Unpacks it; none where the pixels do not fill the size.
    #[must_use]
    pub fn open(&self) -> Option<Picture> {
        let frame = |frame: &FrameParcel| (frame.rgba.as_chunks().0.to_vec(), frame.seconds);
        let frames = self.frames.iter().map(frame).collect();
        Picture::new(self.width.into(), self.height.into(), frames).ok()
    }
}

/// A font as it is told: its file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct FontParcel(#[serde(with = "crate::bytes")] Vec<u8>);

/// Pictures and fonts, and the newest picture of each film.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct MediaUpdate {
    /// Pictures and fonts, where they are others than before.
    pub still: Option<StillMedia>,
    /// The newest picture of each film.
    pub films: BTreeMap<String, PictureParcel>,
}

/// Pictures and fonts, by the names that stand in the show.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct StillMedia {
    pictures: BTreeMap<String, PictureParcel>,
    fonts: BTreeMap<String, FontParcel>,
    films: Vec<String>,
}

impl StillMedia {
    /// Packs pictures and fonts.
    #[must_use]
    pub fn of(media: &Media) -> Self {
        Self {
            pictures: media.pictures.iter().map(|(name, picture)| (name.clone(), PictureParcel::of(picture))).collect(),
            fonts: media.fonts.iter().map(|(name, font)| (name.clone(), FontParcel(font.file().to_vec()))).collect(),
            films: media.films.keys().cloned().collect(),
        }
    }

    fn is_empty(&self) -> bool {
        self.pictures.is_empty() && self.fonts.is_empty() && self.films.is_empty()
    }
}

/// Packs the newest picture of each film.
#[must_use]
pub fn films_of(media: &Media) -> BTreeMap<String, PictureParcel> {
    let newest = |(name, film): (&String, &Arc<Film>)| Some((name.clone(), PictureParcel::of(&*film.newest()?)));
    media.films.iter().filter_map(newest).collect()
}

/// A screen's copy of the media.
#[derive(Debug, Default)]
pub struct MediaCopy {
    media: Arc<Media>,
    screenings: BTreeMap<String, Screening>,
}

impl MediaCopy {
    /// The media.
    #[must_use]
    pub fn media(&self) -> &Arc<Media> {
        &self.media
    }

    /// Takes an update over. What cannot be unpacked is left out, and its layers stay dark on the screen.
    pub fn take(&mut self, update: MediaUpdate) {
        if let Some(still) = update.still.filter(|still| !(still.is_empty() && *self.media == Media::default())) {
            let pictures = still.pictures.iter();
            let mut media = Media {
                pictures: pictures.filter_map(|(name, one)| Some((name.clone(), Arc::new(one.open()?)))).collect(),
                ..Media::default()
            };
            let fonts = still.fonts.into_iter();
            media.fonts = fonts.filter_map(|(name, one)| Some((name, Arc::new(Font::read(one.0).ok()?)))).collect();
            self.screenings.clear();
            for name in still.films {
                let film = Arc::new(Film::default());
                self.screenings.insert(name.clone(), Screening::of(film.clone()));
                media.films.insert(name, film);
            }
            self.media = Arc::new(media);
        }
        for (name, picture) in &update.films {
            if let (Some(screening), Some(picture)) = (self.screenings.get_mut(name), picture.open()) {
                screening.show(picture);
            }
        }
    }
}
