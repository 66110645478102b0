//! The pipes by which a stand-in pad controller plays the demo: made with the session, found by `splimo sim midi`, and gone with it.

use std::fs;
use std::io;
use std::path::{Path, PathBuf};

use nix::sys::stat::Mode;
use splimo_show::{InputKind, Show};

/// The beginning of the names of the pipes; the process of the session follows.
const NAME: &str = "pads-";
/// The end of the name of the pipe by which pads are lit.
pub const LIT: &str = ".lit";

/// The pipes of a demo. They go when this is dropped.
pub struct DemoPads(PathBuf);

impl DemoPads {
    /// Makes the pipes in a folder, and clears away those that a session left behind that is gone.
    ///
    /// # Errors
    /// If they cannot be made.
    pub fn make(folder: &Path) -> io::Result<Self> {
        for (path, process) in found(folder) {
            if !Path::new("/proc").join(process.to_string()).exists() {
                let _ = fs::remove_file(lit(&path));
                let _ = fs::remove_file(path);
            }
        }
        let path = folder.join(format!("{NAME}{}", std::process::id()));
        for one in [path.clone(), lit(&path)] {
            let _ = fs::remove_file(&one);
            nix::unistd::mkfifo(&one, Mode::S_IRUSR | Mode::S_IWUSR)?;
        }
        Ok(Self(path))
    }

    /// Has the MIDI inputs of a show listen to the pipes in the place of the controllers that are not there.
    pub fn stand_in(&self, show: &mut Show) {
        for input in show.inputs.iter_mut().filter(|input| input.kind == InputKind::Midi).take(1) {
            input.address = self.0.display().to_string();
            input.feedback = lit(&self.0).display().to_string();
            input.on = true;
        }
    }
}

impl Drop for DemoPads {
    fn drop(&mut self) {
        let _ = fs::remove_file(lit(&self.0));
        let _ = fs::remove_file(&self.0);
    }
}

fn lit(path: &Path) -> PathBuf {
    let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
    path.with_file_name(format!("{name}{LIT}"))
}

/// The pipes in a folder, with the processes that made them.
fn found(folder: &Path) -> Vec<(PathBuf, u32)> {
    let entries = fs::read_dir(folder).into_iter().flatten().flatten();
    let of = |path: PathBuf| {
        let process = path.file_name()?.to_str()?.strip_prefix(NAME)?.parse().ok()?;
        Some((path, process))
    };
    entries.filter_map(|entry| of(entry.path())).collect()
}

/// The pipe of the demo that was started last.
#[must_use]
pub fn newest(folder: &Path) -> Option<PathBuf> {
    let made = |path: &Path| fs::metadata(path).and_then(|file| file.modified()).ok();
    found(folder).into_iter().map(|(path, _)| path).max_by_key(|path| made(path))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn pipes_are_found_while_the_session_is_there_and_leftovers_go() {
        let folder = tempfile::tempdir().expect("a folder");
        // No process has this number.
        let left = folder.path().join("pads-4194999");
        fs::write(&left, "").expect("written");
        let pads = DemoPads::make(folder.path()).expect("pipes");
        assert!(!left.exists() && newest(folder.path()).is_some_and(|path| lit(&path).exists()));
        drop(pads);
        assert_eq!(newest(folder.path()), None);
    }
}
