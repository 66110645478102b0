//! The reason why a file cannot be read or written, in words, with what mends it.

use std::fmt::{self, Display, Formatter};
use std::io::{Error, ErrorKind};
use std::path::Path;

use splimo_base::nearest::nearest;

/// The most names of a folder that are looked at for one that may be meant.
const NAMES: usize = 1000;

/// A reason of the system why a file cannot be used, in words for a person.
#[derive(Debug, Clone, Copy)]
pub struct Cause<'a> {
    path: &'a Path,
    error: &'a Error,
}

impl Display for Cause<'_> {
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        match self.error.kind() {
            ErrorKind::NotFound => self.missing(f),
            ErrorKind::PermissionDenied => {
                f.write_str("this user may not; change who owns it or what others may, or choose another place")
            }
            ErrorKind::StorageFull | ErrorKind::QuotaExceeded => f.write_str("there is no room left; make some"),
            ErrorKind::ReadOnlyFilesystem => {
                f.write_str("nothing can be written to that disk; choose another place, or mount it to be written")
            }
            ErrorKind::IsADirectory => f.write_str("it is a folder; name a file in it"),
            ErrorKind::NotADirectory => f.write_str("a part of that path is a file and no folder; correct the path"),
            ErrorKind::InvalidFilename => f.write_str("no file can have such a name; choose a shorter one"),
            ErrorKind::AlreadyExists => f.write_str("it is there already; choose another name"),
            _ => f.write_str(without_number(&self.error.to_string())),
        }
    }
}

impl<'a> Cause<'a> {
    /// The cause of an error with a file.
    #[must_use]
    pub fn of(path: &'a Path, error: &'a Error) -> Self {
        Self { path, error }
    }

    fn missing(&self, f: &mut Formatter<'_>) -> fmt::Result {
        let folder = folder_of(self.path);
        if !folder.is_dir() {
            return write!(f, "there is no folder {}; correct the path, or make it first", folder.display());
        }
        let name = self.path.file_name().unwrap_or_default().to_string_lossy();
        let entries = std::fs::read_dir(folder).into_iter().flatten().take(NAMES).flatten();
        let names: Vec<String> = entries.map(|entry| entry.file_name().to_string_lossy().into_owned()).collect();
        match nearest(&name, names.iter().map(String::as_str)) {
            Some(near) => write!(f, "there is no such file; {} may be meant", folder_and(self.path, near)),
            None => f.write_str("there is no such file; correct its name"),
        }
    }
}

/// The folder that a file is in, or would be.
fn folder_of(path: &Path) -> &Path {
    path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."))
}

/// Another name in the folder of a path, as one would write it.
fn folder_and(path: &Path, name: &str) -> String {
    path.with_file_name(name).display().to_string()
}

/// The words of the system without the number that it has for them.
pub(crate) fn without_number(words: &str) -> &str {
    words.split(" (os error").next().unwrap_or(words)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_missing_is_told_with_what_may_be_meant() {
        let folder = tempfile::tempdir().expect("a folder");
        std::fs::write(folder.path().join("harbour.splimo"), "").expect("writes");
        let told = |path: &Path| {
            let error = std::fs::read(path).expect_err("not there");
            Cause::of(path, &error).to_string()
        };
        let near = folder.path().join("habour.splimo");
        let meant = folder.path().join("harbour.splimo");
        assert_eq!(told(&near), format!("there is no such file; {} may be meant", meant.display()));
        assert_eq!(told(&folder.path().join("xyz")), "there is no such file; correct its name");
        let nowhere = folder.path().join("nowhere");
        let words = format!("there is no folder {}; correct the path, or make it first", nowhere.display());
        assert_eq!(told(&nowhere.join("a.splimo")), words);
        assert_eq!(told(folder.path()), "it is a folder; name a file in it");
    }

    #[test]
    fn no_cause_is_told_with_a_number_of_the_system() {
        for number in 1..134 {
            let error = Error::from_raw_os_error(number);
            let words = Cause::of(Path::new("/tmp/a"), &error).to_string();
            assert!(!words.contains("os error") && !words.is_empty(), "{words}");
        }
    }
}
