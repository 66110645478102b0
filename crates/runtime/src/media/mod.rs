//! Media that a show takes from files: pictures, films and fonts are read here, beside the engine, and kept until they change.

mod film;
mod pictures;

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::SystemTime;

use splimo_core::effect::{self, Holds, ParamKind};
use splimo_core::media::{Film, Font, Media, Picture};
use splimo_core::show::{Param, Show};

use crate::trouble::Troubles;

/// The largest font that is read, in bytes.
const LARGEST_FONT: u64 = 32 << 20;

/// A file that was read, and when it was written.
struct Entry<T> {
    written: Option<SystemTime>,
    read: Result<Arc<T>, String>,
}

/// The files of a show.
pub struct Library {
    folder: PathBuf,
    pictures: BTreeMap<String, Entry<Picture>>,
    fonts: BTreeMap<String, Entry<Font>>,
    films: BTreeMap<String, Arc<Film>>,
    troubles: Troubles,
    /// The names of which there is trouble.
    told: Vec<String>,
}

impl Library {
    /// The files of a show that lies in a folder.
    #[must_use]
    pub fn at(folder: &Path, troubles: Troubles) -> Self {
        Self {
            folder: folder.to_owned(),
            pictures: BTreeMap::new(),
            fonts: BTreeMap::new(),
            films: BTreeMap::new(),
            troubles,
            told: Vec::new(),
        }
    }

    /// The folder of a show's file; where there is none, the one that one is in.
    #[must_use]
    pub fn folder_of(show: Option<&Path>) -> PathBuf {
        let folder = show.and_then(Path::parent).filter(|folder| !folder.as_os_str().is_empty());
        folder.map_or_else(|| PathBuf::from("."), Path::to_owned)
    }

    /// Reads what the looks of a show name and has not been read yet. What cannot be read is told as a trouble, and its
    /// layer stays dark; everything else goes on.
    pub fn media(&mut self, show: &Show) -> Arc<Media> {
        let wanted = files_of(show);
        let names = |holds: Holds| -> Vec<String> {
            wanted.iter().filter(|(_, kind)| *kind == holds).map(|(name, _)| name.clone()).collect()
        };
        let mut media = Media::default();
        let mut wrong: Vec<(String, String)> = Vec::new();
        for name in names(Holds::Picture) {
            let path = self.folder.join(&name);
            match read(&mut self.pictures, &name, &path, pictures::read) {
                Ok(picture) => drop(media.pictures.insert(name, picture)),
                Err(why) => wrong.push((format!("picture {name}"), why)),
            }
        }
        for name in names(Holds::Font) {
            let path = self.folder.join(&name);
            match read(&mut self.fonts, &name, &path, read_font) {
                Ok(font) => drop(media.fonts.insert(name, font)),
                Err(why) => wrong.push((format!("font {name}"), why)),
            }
        }
        let films = names(Holds::Film);
        self.films.retain(|name, _| films.contains(name));
        for name in films {
            let film = self.films.entry(name.clone()).or_insert_with(|| {
                let film = Arc::new(Film::default());
                film::run(&name, &self.folder, film.clone(), self.troubles.clone());
                film
            });
            media.films.insert(name, film.clone());
        }
        self.tell(wrong);
        Arc::new(media)
    }

    fn tell(&mut self, wrong: Vec<(String, String)>) {
        for subject in self.told.drain(..) {
            if wrong.iter().all(|(still, _)| *still != subject) {
                self.troubles.over(&subject);
            }
        }
        for (subject, why) in wrong {
            self.troubles.tell(&subject, why);
            self.told.push(subject);
        }
    }
}

/// The files that the looks of a show name, and what each is to hold.
fn files_of(show: &Show) -> Vec<(String, Holds)> {
    let mut files = Vec::new();
    for layer in show.looks.iter().flat_map(|look| &look.layers) {
        let Some(spec) = effect::find(&layer.effect) else { continue };
        for param in spec.params {
            if let (ParamKind::File { holds }, Some(Param::Text(name))) = (param.kind, layer.params.get(param.name))
                && !name.is_empty()
                && !files.contains(&(name.clone(), holds))
            {
                files.push((name.clone(), holds));
            }
        }
    }
    files
}

/// Reads a file, if it was not read yet or was written since.
fn read<T>(
    known: &mut BTreeMap<String, Entry<T>>,
    name: &str,
    path: &Path,
    read: fn(&Path) -> Result<T, String>,
) -> Result<Arc<T>, String> {
    let written = std::fs::metadata(path).and_then(|meta| meta.modified()).ok();
    if let Some(entry) = known.get(name)
        && entry.written == written
        && written.is_some()
    {
        return entry.read.clone();
    }
    let read = match std::fs::metadata(path) {
        Err(error) => Err(format!("{} cannot be read: {error}; put the file there, or name another", path.display())),
        Ok(meta) if !meta.is_file() => Err(format!("{} is not a file; name one", path.display())),
        Ok(_) => read(path).map(Arc::new),
    };
    known.insert(name.to_owned(), Entry { written, read: read.clone() });
    read
}

fn read_font(path: &Path) -> Result<Font, String> {
    let size = std::fs::metadata(path).map_or(0, |meta| meta.len());
    if size > LARGEST_FONT {
        return Err(format!("it has {} MB, which no font has; name another file", size >> 20));
    }
    let bytes = std::fs::read(path).map_err(|e| format!("it cannot be read: {e}"))?;
    Font::read(bytes).map_err(|why| format!("{why}; name a .ttf or .otf file"))
}
