//! `splimo tutorial`: a session with an empty show and stand-in nodes, and a screen that leads through it step by step.

use std::path::{Path, PathBuf};
use std::process::ExitCode;

use super::{Failure, play};

/// The name of the file of the show that is made.
const FILE: &str = "tutorial.splimo";

/// Leads through the tutorial with a show in a folder.
pub(super) fn run(folder: &Path) -> Result<ExitCode, Failure> {
    of(Some(&free(folder)))
}

/// Leads through the tutorial with a show of some file, which is begun where there is none.
pub(super) fn of(show: Option<&Path>) -> Result<ExitCode, Failure> {
    let here = || free(&std::env::current_dir().unwrap_or_default());
    let show = show.map_or_else(here, Path::to_owned);
    play::tutorial(&show)
}

/// A file in a folder that is not there yet, so that nothing that somebody made is changed.
fn free(folder: &Path) -> PathBuf {
    let names = (2..1000).map(|number| folder.join(format!("tutorial-{number}.splimo")));
    let mut all = std::iter::once(folder.join(FILE)).chain(names);
    all.find(|path| !path.exists()).unwrap_or_else(|| folder.join(FILE))
}
