//! Shows on disk: read, and written so that neither a crash nor a full disk can cost what was there before.

use std::fs;
use std::io::{self, Read, Write};
use std::path::{Path, PathBuf};

use splimo_document::file::Opened;
use splimo_document::file::{self, FileError};
use splimo_show::{Show, write_over};

use crate::file_error::Cause;

/// The demo show, as it ships.
pub const LANTERN_QUAY: &str = include_str!("../../../shows/lantern-quay.splimo");
/// A larger file is no show.
pub const LARGEST: u64 = 64 << 20;

/// The reason why a show cannot be opened or saved.
#[derive(Debug, thiserror::Error)]
pub enum ShowError {
    /// The file cannot be read.
    #[error("cannot read {}: {}", .path.display(), Cause::of(.path, .source))]
    Read {
        /// The file.
        path: PathBuf,
        /// The reason.
        source: io::Error,
    },
    /// The file cannot be written.
    #[error("cannot save {}: {}; what was saved before is still there", .path.display(), Cause::of(.path, .source))]
    Write {
        /// The file.
        path: PathBuf,
        /// The reason.
        source: io::Error,
    },
    /// The file is no show.
    #[error("{path}: {source}", path = path.display())]
    Text {
        /// The file.
        path: PathBuf,
        /// The place and the reason.
        source: FileError,
    },
}

/// Reads a show.
///
/// # Errors
/// [`ShowError`] with the line, where there is one.
pub fn open(path: &Path) -> Result<Opened, ShowError> {
    let text = read_text(path)?;
    file::read(&text).map_err(|source| ShowError::Text { path: path.to_owned(), source })
}

/// Reads the text of a show.
///
/// # Errors
/// [`ShowError::Read`] for what is not there, too large to be a show, or no UTF-8.
pub fn read_text(path: &Path) -> Result<String, ShowError> {
    let failed = |source| ShowError::Read { path: path.to_owned(), source };
    let bytes = read_bounded(path, LARGEST).map_err(failed)?;
    String::from_utf8(bytes).map_err(|e| {
        let line = e.as_bytes()[..e.utf8_error().valid_up_to()].iter().filter(|&&b| b == b'\n').count() + 1;
        failed(io::Error::other(format!("line {line} is not UTF-8 text; a show is a text file")))
    })
}

/// Reads a file that is as large as a bound at the most.
///
/// # Errors
/// If it cannot be read, is larger, or is no file but a device, a pipe or a folder, from which there may be no end to read.
pub fn read_bounded(path: &Path, most: u64) -> io::Result<Vec<u8>> {
    let kind = fs::metadata(path)?;
    if !kind.is_file() {
        let what = if kind.is_dir() { "a folder" } else { "a device or a pipe" };
        return Err(io::Error::other(format!("it is {what} and no file; copy what it holds into a file")));
    }
    let mut bytes = Vec::new();
    fs::File::open(path)?.take(most + 1).read_to_end(&mut bytes)?;
    if bytes.len() as u64 > most {
        let told = if most >= 1 << 20 { format!("{} MB", most >> 20) } else { format!("{most} bytes") };
        return Err(io::Error::other(format!("it is larger than {told}, more than such a file ever is")));
    }
    Ok(bytes)
}

/// Saves a show over what is there, whose comments and order stay: a temporary file beside it is written, brought to the disk
/// and renamed. What was there before is kept as `NAME.splimo.bak`.
///
/// # Errors
/// [`ShowError`]; the file is then as it was.
pub fn save(show: &Show, path: &Path) -> Result<(), ShowError> {
    let text = match read_text(path) {
        Ok(before) => write_over(&before, show),
        Err(_) => file::write(show),
    };
    let text = text.map_err(|source| ShowError::Text { path: path.to_owned(), source })?;
    write_atomically(path, text.as_bytes()).map_err(|source| ShowError::Write { path: path.to_owned(), source })
}

/// Writes a file whole or not at all, and makes its folder where there is none. Nothing is kept of what was there.
///
/// # Errors
/// [`ShowError::Write`].
pub fn write(path: &Path, bytes: &[u8]) -> Result<(), ShowError> {
    let failed = |source| ShowError::Write { path: path.to_owned(), source };
    let folder = path.parent().filter(|f| !f.as_os_str().is_empty()).unwrap_or(Path::new("."));
    fs::create_dir_all(folder).map_err(failed)?;
    let mut temporary = tempfile::Builder::new().prefix(".splimo-").tempfile_in(folder).map_err(failed)?;
    temporary.write_all(bytes).map_err(failed)?;
    use std::os::unix::fs::PermissionsExt;
    temporary.as_file().set_permissions(fs::Permissions::from_mode(0o644)).map_err(failed)?;
    temporary.as_file().sync_all().map_err(failed)?;
    temporary.persist(path).map(drop).map_err(|e| failed(e.error))
}

/// The file in which work on a show is kept until it is saved: beside its file, or in the state folder for one from nowhere.
#[must_use]
pub fn autosave_of(path: Option<&Path>, name: &str) -> PathBuf {
    let path = path.map_or_else(|| state_folder().join(format!("{}.splimo", stem(name))), Path::to_owned);
    let mut file = path.file_name().unwrap_or_default().to_owned();
    file.push(".autosave");
    path.with_file_name(file)
}

/// A path as it was typed, with the ending of a show where it has none.
#[must_use]
pub fn with_ending(typed: &str) -> PathBuf {
    with_ending_of(typed, "splimo")
}

/// The path that a person typed, with an ending where it has none.
#[must_use]
pub fn with_ending_of(typed: &str, ending: &str) -> PathBuf {
    let path = PathBuf::from(typed.trim());
    if path.extension().is_some() { path } else { path.with_extension(ending) }
}

/// A file as a person is told of it, who may sit in another folder: its name, and the folder it is in.
#[must_use]
pub fn told(path: &Path) -> String {
    let whole = std::path::absolute(path).unwrap_or_else(|_| path.to_owned());
    match (whole.file_name(), whole.parent()) {
        (Some(name), Some(folder)) => format!("{} in {}", name.display(), folder.display()),
        _ => path.display().to_string(),
    }
}

fn write_atomically(path: &Path, bytes: &[u8]) -> io::Result<()> {
    // A link stays one, and what it leads to is written.
    let real = fs::canonicalize(path);
    let path = real.as_deref().unwrap_or(path);
    let folder = match path.parent() {
        Some(folder) if !folder.as_os_str().is_empty() => folder,
        _ => Path::new("."),
    };
    let mut temporary = tempfile::Builder::new().prefix(".splimo-").tempfile_in(folder)?;
    temporary.write_all(bytes)?;
    temporary.as_file().sync_all()?;
    if let Ok(before) = fs::metadata(path) {
        temporary.as_file().set_permissions(before.permissions())?;
        // A copy, not a rename: at no moment is there no show at its place.
        fs::copy(path, backup_of(path))?;
    } else {
        use std::os::unix::fs::PermissionsExt;
        temporary.as_file().set_permissions(fs::Permissions::from_mode(0o644))?;
    }
    temporary.persist(path).map_err(|e| e.error)?;
    // The new name is on the disk only when its folder is.
    fs::File::open(folder)?.sync_all()
}

/// The file in which the show is kept that was there before the last save.
#[must_use]
pub fn backup_of(path: &Path) -> PathBuf {
    let mut name = path.file_name().unwrap_or_default().to_owned();
    name.push(".bak");
    path.with_file_name(name)
}

fn stem(name: &str) -> String {
    name.to_lowercase().chars().map(|c| if c.is_alphanumeric() { c } else { '-' }).collect()
}

/// A name for a show in a folder that is not taken yet: `name.splimo`, else `name-2.splimo`, and so on.
#[must_use]
pub fn free_name(folder: &Path, name: &str) -> PathBuf {
    free(folder, &stem(name))
}

/// A name for a copy of a show beside it that is not taken yet: `night-rest.splimo`, else `night-rest-2.splimo`, and so on.
#[must_use]
pub fn free_beside(path: &Path, what: &str) -> PathBuf {
    let stem = path.file_stem().unwrap_or_default().to_string_lossy();
    free(path.parent().unwrap_or(Path::new("")), &format!("{stem}-{what}"))
}

fn free(folder: &Path, stem: &str) -> PathBuf {
    let numbered = |n: u32| if n == 1 { format!("{stem}.splimo") } else { format!("{stem}-{n}.splimo") };
    (1..).map(|n| folder.join(numbered(n))).find(|path| !path.exists()).unwrap_or_else(|| folder.join(numbered(1)))
}

/// The folder for what the program remembers: `$XDG_STATE_HOME/splimo`, or `~/.local/state/splimo`.
#[must_use]
pub fn state_folder() -> PathBuf {
    let home = || std::env::var_os("HOME").map(|home| PathBuf::from(home).join(".local/state"));
    let state = std::env::var_os("XDG_STATE_HOME").filter(|s| !s.is_empty()).map(PathBuf::from).or_else(home);
    state.unwrap_or_else(std::env::temp_dir).join("splimo")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn saving_keeps_the_one_before_and_leaves_nothing_else() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("night.splimo");
        save(&Show::empty("First"), &path).expect("saves");
        save(&Show::empty("Second"), &path).expect("saves");
        assert_eq!(open(&path).map(|o| o.show.name).ok(), Some("Second".into()));
        assert_eq!(open(&backup_of(&path)).map(|o| o.show.name).ok(), Some("First".into()));
        assert_eq!(fs::read_dir(folder.path()).expect("lists").count(), 2);
    }

    #[test]
    fn a_link_to_a_show_stays_one() {
        let [folder, elsewhere] = [0; 2].map(|_| tempfile::tempdir().expect("a folder"));
        let (path, link) = (elsewhere.path().join("night.splimo"), folder.path().join("tonight.splimo"));
        save(&Show::empty("First"), &path).expect("saves");
        std::os::unix::fs::symlink(&path, &link).expect("a link");
        save(&Show::empty("Second"), &link).expect("saves");
        assert_eq!(open(&path).map(|o| o.show.name).ok(), Some("Second".into()));
        assert!(fs::symlink_metadata(&link).expect("it is there").is_symlink());
        assert_eq!(open(&backup_of(&path)).map(|o| o.show.name).ok(), Some("First".into()));
    }

    #[test]
    fn a_show_that_cannot_be_written_stays_as_it_was() {
        let folder = tempfile::tempdir().expect("a folder");
        let error = save(&Show::empty("X"), &folder.path().join("not/there.splimo")).expect_err("no such folder");
        assert!(error.to_string().contains("not/there.splimo"), "{error}");
    }

    #[test]
    fn what_has_no_end_is_not_read() {
        for device in ["/dev/zero", "/dev"] {
            let error = read_text(Path::new(device)).expect_err("no file").to_string();
            assert!(error.contains(device) && error.contains("no file"), "{error}");
        }
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("large");
        fs::write(&path, [0; 100]).expect("writes");
        assert_eq!(read_bounded(&path, 100).map(|bytes| bytes.len()).ok(), Some(100));
        assert!(read_bounded(&path, 99).is_err_and(|why| why.to_string().contains("99 bytes")));
        // One that says it is short and goes on: what grows while it is read.
        assert!(read_bounded(Path::new("/proc/self/maps"), 10).is_err());
    }

    #[test]
    fn what_is_no_text_is_refused_with_the_line() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("noise.splimo");
        fs::write(&path, b"version = 1\nname = \"\xff\"").expect("writes");
        let error = open(&path).expect_err("no text").to_string();
        assert!(error.contains("line 2") && error.contains("noise.splimo"), "{error}");
    }

    #[test]
    fn work_is_kept_beside_its_file() {
        let kept = autosave_of(Some(Path::new("shows/night.splimo")), "Night");
        assert_eq!(kept, Path::new("shows/night.splimo.autosave"));
        assert!(autosave_of(None, "Lantern Quay").ends_with("splimo/lantern-quay.splimo.autosave"));
        assert_eq!(with_ending(" night "), Path::new("night.splimo"));
        assert_eq!(with_ending("a/night.toml"), Path::new("a/night.toml"));
    }

    #[test]
    fn a_file_is_written_whole_and_its_folder_is_made() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("deep/er/patch.csv");
        write(&path, b"one").expect("writes");
        write(&path, b"two").expect("writes");
        assert_eq!(fs::read(&path).expect("reads"), b"two");
        assert_eq!(fs::read_dir(path.parent().expect("a folder")).expect("lists").count(), 1);
        let error = write(&path.join("below"), b"").expect_err("a file is no folder").to_string();
        assert!(error.contains("patch.csv/below"), "{error}");
    }

    #[test]
    fn a_free_name_is_never_one_that_is_taken() {
        let folder = tempfile::tempdir().expect("a folder");
        let first = free_name(folder.path(), "Lantern Quay");
        assert!(first.ends_with("lantern-quay.splimo"));
        fs::write(&first, "").expect("writes");
        assert!(free_name(folder.path(), "Lantern Quay").ends_with("lantern-quay-2.splimo"));
        assert!(free_beside(&first, "rest").ends_with("lantern-quay-rest.splimo"));
        fs::write(free_beside(&first, "rest"), "").expect("writes");
        assert!(free_beside(&first, "rest").ends_with("lantern-quay-rest-2.splimo"));
    }
}
