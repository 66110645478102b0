//! Work that is not saved, kept beside its file by a thread of its own, so that neither a crash nor a kill costs it.

use std::fs;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::{Builder, JoinHandle};
use std::time::Duration;

use crossbeam_channel::{Receiver, RecvTimeoutError, Sender, unbounded};
use splimo_document::file;
use splimo_show::Show;

use crate::files;

/// The time that after an edit it is written: not at every step of a nudge.
const PAUSE: Duration = Duration::from_millis(700);

/// Keeps what is not saved.
#[derive(Debug)]
pub struct Autosave {
    places: Places,
    shows: Option<Sender<Wish>>,
    thread: Option<JoinHandle<()>>,
    failure: Failure,
}

/// A wish to the thread.
enum Wish {
    /// To keep a show from now on, or none.
    Keep(Option<Arc<Show>>),
    /// To take what was kept before for work of this session.
    Adopt,
}

/// The places where work is kept: beside the show, and where that cannot be written, in the state folder.
#[derive(Debug, Clone)]
struct Places {
    first: PathBuf,
    second: PathBuf,
}

impl Places {
    fn of(first: PathBuf) -> Self {
        let whole = std::path::absolute(&first).unwrap_or_else(|_| first.clone());
        // The name of the whole path, in letters that a file's may have.
        let name: String =
            whole.to_string_lossy().chars().map(|c| if c.is_alphanumeric() || c == '.' { c } else { '-' }).collect();
        let short: String = name.chars().rev().take(180).collect::<Vec<_>>().into_iter().rev().collect();
        Self { first, second: files::state_folder().join("autosave").join(short) }
    }

    /// The one that was written last.
    fn newest(&self) -> Option<&Path> {
        let written = |path: &Path| fs::metadata(path).and_then(|m| m.modified()).ok();
        let all = [self.first.as_path(), self.second.as_path()];
        all.into_iter().filter(|path| path.exists()).max_by_key(|path| written(path))
    }
}

/// The reason why the last writing failed, and where the work is kept instead, if it did.
type Failure = Arc<Mutex<Option<String>>>;

impl Autosave {
    /// Starts to keep work at `path`. Without a thread for it, nothing is kept, and the log says so.
    #[must_use]
    pub fn start(path: PathBuf) -> Self {
        let (shows, queue) = unbounded();
        let (places, failure) = (Places::of(path), Failure::default());
        let (theirs, told) = (places.clone(), failure.clone());
        let thread = Builder::new().name("autosave".into()).spawn(move || keep(theirs, &queue, &told));
        let thread = thread.inspect_err(|error| tracing::error!("no autosave: {error}")).ok();
        Self { places, shows: Some(shows), thread, failure }
    }

    /// The work that is kept from before, if there is any that can be read.
    #[must_use]
    pub fn found(&self) -> Option<Show> {
        let path = self.places.newest()?;
        let text = files::read_text(path).ok()?;
        match file::read(&text) {
            Ok(opened) => Some(opened.show),
            Err(error) => {
                tracing::warn!("{} cannot be read: {error}; it is left as it is", path.display());
                None
            }
        }
    }

    /// Keeps a show from now on, or none.
    pub fn keep(&self, show: Option<Arc<Show>>) {
        if let Some(shows) = &self.shows {
            // A thread that is gone has told so.
            let _ = shows.send(Wish::Keep(show));
        }
    }

    /// Takes what was kept before for work of this session: it was taken over, or is saved already. It goes when that is saved.
    pub fn adopt(&self) {
        if let Some(shows) = &self.shows {
            let _ = shows.send(Wish::Adopt);
        }
    }

    /// The reason why work is not kept at the moment, if it is not.
    #[must_use]
    pub fn failure(&self) -> Option<String> {
        self.failure.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }

    /// Puts what was kept before aside, under a name that is not written over soon; where.
    #[must_use]
    pub fn put_aside(&self) -> Option<PathBuf> {
        put_aside(self.places.newest()?)
    }
}

fn put_aside(path: &Path) -> Option<PathBuf> {
    let mut name = path.file_name()?.to_owned();
    name.push(".old");
    let aside = path.with_file_name(name);
    fs::rename(path, &aside).ok()?;
    Some(aside)
}

impl Drop for Autosave {
    fn drop(&mut self) {
        self.shows = None;
        if let Some(thread) = self.thread.take() {
            let _ = thread.join();
        }
    }
}

fn keep(places: Places, shows: &Receiver<Wish>, failure: &Failure) {
    let mut waiting: Option<Option<Arc<Show>>> = None;
    let mut work = Work { places, kept: Vec::new() };
    loop {
        let next = match waiting {
            Some(_) => shows.recv_timeout(PAUSE),
            None => shows.recv().map_err(|_| RecvTimeoutError::Disconnected),
        };
        match next {
            Ok(Wish::Keep(show)) => waiting = Some(show),
            Ok(Wish::Adopt) => work.adopt(),
            Err(reason) => {
                if let Some(show) = waiting.take() {
                    let failed = work.write(show.as_deref()).err();
                    if let Some(error) = &failed {
                        tracing::error!("autosave: {error}");
                    }
                    *failure.lock().unwrap_or_else(PoisonError::into_inner) = failed;
                }
                if reason == RecvTimeoutError::Disconnected {
                    return;
                }
            }
        }
    }
}

/// The work that this session keeps. What others have kept under the same name is not its own: it is put aside before it is written
/// over, and never removed.
struct Work {
    places: Places,
    /// The places that have been written.
    kept: Vec<PathBuf>,
}

impl Work {
    fn write(&mut self, show: Option<&Show>) -> Result<(), String> {
        let Some(show) = show else { return self.remove() };
        let text = file::write(show).map_err(|e| e.to_string())?;
        let (first, second) = (self.places.first.clone(), self.places.second.clone());
        let Err(why) = self.put(&first, &text) else {
            // What stands in the second place is older from now on.
            self.forget(&second);
            return Ok(());
        };
        Err(match self.put(&second, &text) {
            Ok(()) => format!("{why}; your work is kept in {} instead", second.display()),
            Err(other) => format!("{why}; nor can it be kept elsewhere: {other}"),
        })
    }

    fn adopt(&mut self) {
        let found = self.places.newest().map(Path::to_owned);
        self.kept.extend(found);
    }

    fn put(&mut self, path: &Path, text: &str) -> Result<(), String> {
        if !self.kept.iter().any(|known| known == path) && path.exists() {
            put_aside(path);
        }
        files::write(path, text.as_bytes()).map_err(|e| e.to_string())?;
        if !self.kept.iter().any(|known| known == path) {
            self.kept.push(path.to_owned());
        }
        Ok(())
    }

    fn forget(&mut self, path: &Path) {
        if let Some(place) = self.kept.iter().position(|known| known == path) {
            let _ = fs::remove_file(path);
            self.kept.remove(place);
        }
    }

    fn remove(&mut self) -> Result<(), String> {
        for path in std::mem::take(&mut self.kept) {
            match fs::remove_file(&path) {
                Err(error) if error.kind() != std::io::ErrorKind::NotFound => return Err(error.to_string()),
                _ => {}
            }
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_place_that_cannot_be_written_is_told() {
        let folder = tempfile::tempdir().expect("a folder");
        let file = folder.path().join("file");
        fs::write(&file, "no folder").expect("writes");
        let autosave = Autosave::start(file.join("night.splimo.autosave"));
        assert_eq!(autosave.failure(), None);
        autosave.keep(Some(Arc::new(Show::empty("Night"))));
        let start = std::time::Instant::now();
        while autosave.failure().is_none() {
            assert!(start.elapsed() < Duration::from_secs(60), "nobody tells");
            std::thread::sleep(Duration::from_millis(20));
        }
        let why = autosave.failure().unwrap_or_default();
        assert!(why.contains("cannot save") && why.contains("kept in"), "{why}");
        assert_eq!(autosave.found().map(|show| show.name), Some("Night".to_owned()), "from the second place");
        autosave.keep(None);
        drop(autosave);
    }

    #[test]
    fn what_others_kept_under_the_same_name_is_neither_removed_nor_written_over() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("night.splimo.autosave");
        let theirs = file::write(&Show::empty("Theirs")).expect("writes");
        fs::write(&path, &theirs).expect("writes");
        let autosave = Autosave::start(path.clone());
        autosave.keep(None);
        drop(autosave);
        assert_eq!(fs::read_to_string(&path).ok(), Some(theirs.clone()), "it never wrote it");
        let autosave = Autosave::start(path.clone());
        autosave.keep(Some(Arc::new(Show::empty("Ours"))));
        drop(autosave);
        assert!(fs::read_to_string(&path).is_ok_and(|text| text.contains("Ours")));
        assert_eq!(fs::read_to_string(path.with_extension("autosave.old")).ok(), Some(theirs));
    }
}
