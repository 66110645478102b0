//! The shows that were open, the last one first, as the start screen offers them.

use std::fs;
use std::path::{Path, PathBuf};

use splimo_runtime::files;

/// The most shows that are remembered.
const MOST: usize = 20;

/// The path of the list of shows that were open, the last one first.
fn list() -> PathBuf {
    files::state_folder().join("recent")
}

/// The shows that were open, the last one first.
pub(super) fn remembered() -> Vec<PathBuf> {
    let text = fs::read_to_string(list()).unwrap_or_default();
    text.lines().filter(|line| !line.is_empty()).map(PathBuf::from).take(MOST).collect()
}

/// Writes down that a show was opened. Where that cannot be, it is not remembered.
pub(super) fn remember(show: &Path) {
    let Ok(path) = std::path::absolute(show) else { return };
    let mut all = remembered();
    all.retain(|known| *known != path);
    all.insert(0, path);
    let text: String = all.iter().take(MOST).map(|path| format!("{}\n", path.display())).collect();
    if let Err(error) = files::write(&list(), text.as_bytes()) {
        tracing::warn!(%error, "what was opened is not remembered");
    }
}
