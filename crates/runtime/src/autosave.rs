//! Work that is not saved, kept beside its file by a thread of its own, so that neither a crash nor a kill costs it.

use std::fs;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::{Builder, JoinHandle};
use std::time::Duration;

use crossbeam_channel::{Receiver, RecvTimeoutError, Sender, unbounded};
use splimo_core::show::{Show, file};

use crate::files;

/// The time that after an edit it is written: not at every step of a nudge.
const PAUSE: Duration = Duration::from_millis(700);

/// Keeps what is not saved.
#[derive(Debug)]
pub struct Autosave {
    path: PathBuf,
    shows: Option<Sender<Option<Arc<Show>>>>,
    thread: Option<JoinHandle<()>>,
    failure: Failure,
}

/// The reason why the last writing failed, if it did.
type Failure = Arc<Mutex<Option<String>>>;

impl Autosave {
    /// Starts to keep work at `path`. Without a thread for it, nothing is kept, and the log says so.
    #[must_use]
    pub fn start(path: PathBuf) -> Self {
        let (shows, queue) = unbounded();
        let (theirs, failure) = (path.clone(), Failure::default());
        let told = failure.clone();
        let thread = Builder::new().name("autosave".into()).spawn(move || keep(&theirs, &queue, &told));
        let thread = thread.inspect_err(|error| tracing::error!("no autosave: {error}")).ok();
        Self { path, shows: Some(shows), thread, failure }
    }

    /// The work that is kept from before, if there is any that can be read.
    #[must_use]
    pub fn found(&self) -> Option<Show> {
        let text = files::read_text(&self.path).ok()?;
        match file::read(&text) {
            Ok(opened) => Some(opened.show),
            Err(error) => {
                tracing::warn!("{} cannot be read: {error}; it is left as it is", self.path.display());
                None
            }
        }
    }

    /// Keeps a show from now on, or none.
    pub fn keep(&self, show: Option<Arc<Show>>) {
        if let Some(shows) = &self.shows {
            // A thread that is gone has told so.
            let _ = shows.send(show);
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
        let mut name = self.path.file_name()?.to_owned();
        name.push(".old");
        let aside = self.path.with_file_name(name);
        fs::rename(&self.path, &aside).ok()?;
        Some(aside)
    }
}

impl Drop for Autosave {
    fn drop(&mut self) {
        self.shows = None;
        if let Some(thread) = self.thread.take() {
            let _ = thread.join();
        }
    }
}

fn keep(path: &Path, shows: &Receiver<Option<Arc<Show>>>, failure: &Failure) {
    let mut waiting: Option<Option<Arc<Show>>> = None;
    loop {
        let next = match waiting {
            Some(_) => shows.recv_timeout(PAUSE),
            None => shows.recv().map_err(|_| RecvTimeoutError::Disconnected),
        };
        match next {
            Ok(show) => waiting = Some(show),
            Err(reason) => {
                if let Some(show) = waiting.take() {
                    let failed = write(path, show.as_deref()).err();
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

fn write(path: &Path, show: Option<&Show>) -> Result<(), String> {
    match show {
        None => match fs::remove_file(path) {
            Err(error) if error.kind() != std::io::ErrorKind::NotFound => Err(error.to_string()),
            _ => Ok(()),
        },
        Some(show) => {
            let text = file::write(show).map_err(|e| e.to_string())?;
            files::write(path, text.as_bytes()).map_err(|e| e.to_string())
        }
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
        assert!(autosave.failure().is_some_and(|why| why.contains("cannot save")), "{:?}", autosave.failure());
    }
}
