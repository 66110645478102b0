//! Media that a show takes from files: pictures, films and fonts are read here, beside the engine, and kept until they change.

mod film;
mod pictures;

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::SystemTime;

use splimo_light::effect::{self, Holds, ParamKind};
use splimo_light::media::{Film, Font, Media, Picture};
use splimo_show::{Param, Place, Show};
use splimo_show::{Problem, Severity};

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

/// A file that a layer of a look names.
#[derive(Debug, Clone, PartialEq)]
struct Named {
    name: String,
    holds: Holds,
    place: Place,
    look: String,
}

/// The files that the layers of a show's looks name, each as often as it is named.
fn named_files(show: &Show) -> Vec<Named> {
    let mut files = Vec::new();
    for (at, look) in show.looks.iter().enumerate() {
        for (layer_at, layer) in look.layers.iter().enumerate() {
            let Some(spec) = effect::find(&layer.effect) else { continue };
            for param in spec.params {
                let (ParamKind::File { holds }, Some(Param::Text(name))) = (param.kind, layer.params.get(param.name))
                else {
                    continue;
                };
                if !name.is_empty() {
                    let layers = Place::root().key("looks").index(at).key("layers");
                    let place = layers.index(layer_at).key("params").key(param.name);
                    files.push(Named { name: name.clone(), holds, place, look: look.name.clone() });
                }
            }
        }
    }
    files
}

/// The files that the looks of a show name, each once, and what each is to hold.
fn files_of(show: &Show) -> Vec<(String, Holds)> {
    let mut files: Vec<(String, Holds)> = Vec::new();
    for file in named_files(show) {
        if !files.contains(&(file.name.clone(), file.holds)) {
            files.push((file.name, file.holds));
        }
    }
    files
}

/// The problems of the pictures, films and fonts that a show names, looked for from a folder on. A pipe is not read.
#[must_use]
pub fn problems(show: &Show, folder: &Path) -> Vec<Problem> {
    let mut problems = Vec::new();
    for file in named_files(show) {
        let path = folder.join(&file.name);
        let (kind, fault) = match file.holds {
            Holds::Picture => ("picture", there(&path).and_then(|()| pictures::read(&path).map(drop))),
            Holds::Font => ("font", there(&path).and_then(|()| read_font(&path).map(drop))),
            Holds::Film if file.name == "-" => continue,
            Holds::Film => ("film", film::looked_at(&path)),
        };
        let Err(why) = fault else { continue };
        let (message, mend) = why.rsplit_once("; ").unwrap_or((&why, "put the file there, or name another"));
        problems.push(Problem {
            severity: Severity::Error,
            place: file.place,
            subject: format!("look {}", file.look),
            message: format!("{kind} {}: {message}", file.name),
            mend: mend.to_owned(),
        });
    }
    problems
}

/// The fault of a path that is no file to be read.
fn there(path: &Path) -> Result<(), String> {
    match std::fs::metadata(path) {
        Err(error) => Err(format!("{} cannot be read: {error}; put the file there, or name another", path.display())),
        Ok(meta) if !meta.is_file() => Err(format!("{} is not a file; name one", path.display())),
        Ok(_) => Ok(()),
    }
}

/// The media of a look away from the clock: films go on when they are told to.
pub struct Reels {
    media: Arc<Media>,
    films: Vec<film::Reel>,
}

impl Reels {
    /// Reads what the looks of a show name, from a folder on.
    ///
    /// # Errors
    /// The first file that cannot be read; a film from a pipe, which nobody feeds here, is one.
    pub fn open(show: &Show, folder: &Path) -> Result<Self, String> {
        let (mut media, mut films) = (Media::default(), Vec::new());
        for (name, holds) in files_of(show) {
            let path = folder.join(&name);
            let said = |why: String| format!("{name}: {why}");
            match holds {
                Holds::Picture => {
                    let picture = there(&path).and_then(|()| pictures::read(&path)).map_err(said)?;
                    media.pictures.insert(name, Arc::new(picture));
                }
                Holds::Font => {
                    let font = there(&path).and_then(|()| read_font(&path)).map_err(said)?;
                    media.fonts.insert(name, Arc::new(font));
                }
                Holds::Film => {
                    let film = Arc::new(Film::default());
                    films.push(film::Reel::open(&path, film.clone()).map_err(said)?);
                    media.films.insert(name, film);
                }
            }
        }
        Ok(Self { media: Arc::new(media), films })
    }

    /// The media, for a rig.
    #[must_use]
    pub fn media(&self) -> Arc<Media> {
        self.media.clone()
    }

    /// Shows the picture of each film that is due so many seconds after its start. The last one stays.
    ///
    /// # Errors
    /// A film that breaks off.
    pub fn go_to(&mut self, seconds: f64) -> Result<(), String> {
        self.films.iter_mut().try_for_each(|film| film.go_to(seconds))
    }
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
    let read = there(path).and_then(|()| read(path).map(Arc::new));
    known.insert(name.to_owned(), Entry { written, read: read.clone() });
    read
}

fn read_font(path: &Path) -> Result<Font, String> {
    let read = crate::files::read_bounded(path, LARGEST_FONT);
    let bytes = read.map_err(|e| format!("it cannot be read: {e}; name another file"))?;
    Font::read(bytes).map_err(|why| format!("{why}; name a .ttf or .otf file"))
}
