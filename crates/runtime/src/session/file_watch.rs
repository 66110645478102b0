//! The show's file as this session knows it, watched by a thread of its own: on a folder that hangs nobody waits for it. What somebody
//! else wrote is noticed before it is written over.

use std::fs;
use std::hash::{DefaultHasher, Hash, Hasher};
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::Builder;
use std::time::Duration;

use crate::files;

/// The time between two looks at the file.
const PAUSE: Duration = Duration::from_millis(500);

/// The change of a file by somebody else.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum Change {
    /// It is not there any more, nor is what it was in, such as a disk that was pulled out.
    Gone,
    /// It has another text.
    Text(String),
    /// It is there and cannot be read; why.
    Unreadable(String),
}

impl Change {
    /// The outcome, in words.
    pub(super) fn words(&self) -> String {
        match self {
            Self::Gone => "it is not there any more: deleted, or its disk is away".to_owned(),
            Self::Text(_) => "somebody else wrote it since it was read".to_owned(),
            Self::Unreadable(why) => format!("it cannot be read any more: {why}"),
        }
    }
}

#[derive(Debug, Default)]
struct Known {
    path: PathBuf,
    /// The content as it was read or written last; none where there was no file.
    content: Option<u64>,
    change: Option<Arc<Change>>,
}

/// Watches a show's file.
#[derive(Debug)]
pub(super) struct FileWatch {
    known: Arc<Mutex<Known>>,
    stop: Arc<AtomicBool>,
}

impl FileWatch {
    /// Watches a file from now on. Without a thread for it, changes are noticed at the next save.
    pub(super) fn start(path: &Path) -> Self {
        let known = Known { path: path.to_owned(), content: content(path).ok().map(|(hash, _)| hash), change: None };
        let (known, stop) = (Arc::new(Mutex::new(known)), Arc::new(AtomicBool::new(false)));
        let (theirs, over) = (known.clone(), stop.clone());
        let watch = move || {
            let mut last = None;
            while !over.load(Ordering::Relaxed) {
                std::thread::sleep(PAUSE);
                look(&theirs, &mut last);
            }
        };
        if let Err(error) = Builder::new().name("file".into()).spawn(watch) {
            tracing::warn!(%error, "the show's file is not watched");
        }
        Self { known, stop }
    }

    /// The change by somebody else, if there was one.
    pub(super) fn change(&self) -> Option<Arc<Change>> {
        self.known.lock().unwrap_or_else(PoisonError::into_inner).change.clone()
    }

    /// Looks now, as the file is about to be written.
    pub(super) fn change_now(&self) -> Option<Arc<Change>> {
        look(&self.known, &mut None);
        self.change()
    }

    /// Takes the file as it is now for known: it was just read or written, or is to be written over.
    pub(super) fn settle(&self) {
        let path = self.known.lock().unwrap_or_else(PoisonError::into_inner).path.clone();
        let now = content(&path).ok().map(|(hash, _)| hash);
        let mut known = self.known.lock().unwrap_or_else(PoisonError::into_inner);
        (known.content, known.change) = (now, None);
    }
}

impl Drop for FileWatch {
    fn drop(&mut self) {
        // A thread that hangs on a folder that does is not waited for.
        self.stop.store(true, Ordering::Relaxed);
    }
}

/// The marks by which one sees that a file was written, without reading it.
type Marks = Option<(u64, u64, i64, i64)>;

fn look(known: &Mutex<Known>, last: &mut Option<(Option<u64>, Marks)>) {
    let (path, before) = {
        let known = known.lock().unwrap_or_else(PoisonError::into_inner);
        (known.path.clone(), known.content)
    };
    let marks = fs::metadata(&path).ok().map(|m| (m.ino(), m.len(), m.mtime(), m.mtime_nsec()));
    if *last == Some((before, marks)) {
        return;
    }
    let change = match content(&path) {
        Ok((hash, _)) if Some(hash) == before => None,
        Ok((_, text)) => Some(Change::Text(text)),
        Err(_) if marks.is_none() && before.is_none() => None,
        Err(_) if marks.is_none() => Some(Change::Gone),
        Err(why) => Some(Change::Unreadable(why.to_string())),
    };
    let mut known = known.lock().unwrap_or_else(PoisonError::into_inner);
    // Where it was saved meanwhile, what was read is not what is there.
    if known.content == before && known.path == path {
        known.change = change.map(Arc::new);
        *last = Some((before, marks));
    }
}

fn content(path: &Path) -> Result<(u64, String), files::ShowError> {
    let text = files::read_text(path)?;
    let mut hasher = DefaultHasher::new();
    text.hash(&mut hasher);
    Ok((hasher.finish(), text))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_somebody_else_does_to_the_file_is_noticed_and_settled() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("night.splimo");
        fs::write(&path, "version = 1\n").expect("writes");
        let watch = FileWatch::start(&path);
        assert_eq!(watch.change_now(), None);
        fs::write(&path, "version = 1\nname = \"Theirs\"\n").expect("writes");
        assert!(matches!(watch.change_now().as_deref(), Some(Change::Text(text)) if text.contains("Theirs")));
        watch.settle();
        assert_eq!(watch.change_now(), None);
        fs::remove_file(&path).expect("it is there");
        let start = std::time::Instant::now();
        while watch.change().as_deref() != Some(&Change::Gone) {
            assert!(start.elapsed() < Duration::from_secs(60), "the thread does not notice");
            std::thread::sleep(Duration::from_millis(20));
        }
        fs::create_dir(&path).expect("a folder");
        assert!(matches!(watch.change_now().as_deref(), Some(Change::Unreadable(_))));
        fs::remove_dir(&path).expect("it is empty");
        fs::write(&path, "version = 1\nname = \"Theirs\"\n").expect("writes");
        assert_eq!(watch.change_now(), None, "it is back as it was");
    }

    #[test]
    fn a_file_that_somebody_makes_in_our_place_is_noticed() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("new.splimo");
        let watch = FileWatch::start(&path);
        assert_eq!(watch.change_now(), None, "it is to be made by the first save");
        fs::write(&path, "version = 1\n").expect("writes");
        assert!(watch.change_now().is_some());
    }
}
