//! The log: a file, since the screen is the show's. What panics say is written there too.

use std::fs::{self, OpenOptions};
use std::path::PathBuf;
use std::sync::Mutex;

use tracing_subscriber::fmt::time::SystemTime;

/// The log is begun anew when it is larger than this; the one before is kept.
const LARGEST: u64 = 4 << 20;

/// Where the log is.
#[must_use]
pub(super) fn path() -> PathBuf {
    crate::files::state_folder().join("splimo.log")
}

/// Starts to log. Where no log can be written, the show goes on without.
pub(super) fn start() {
    let path = path();
    let Some(folder) = path.parent() else { return };
    if fs::create_dir_all(folder).is_err() {
        return;
    }
    if fs::metadata(&path).is_ok_and(|m| m.len() > LARGEST) {
        let _ = fs::rename(&path, path.with_extension("log.1"));
    }
    if let Ok(file) = OpenOptions::new().create(true).append(true).open(&path) {
        let subscriber = tracing_subscriber::fmt()
            .with_timer(SystemTime)
            .with_ansi(false)
            .with_writer(Mutex::new(file))
            .with_max_level(tracing::Level::INFO)
            .finish();
        // There is one log a process.
        let _ = tracing::subscriber::set_global_default(subscriber);
    }
    std::panic::set_hook(Box::new(|panic| {
        let thread = std::thread::current();
        let name = thread.name().unwrap_or("unnamed");
        let trace = std::backtrace::Backtrace::force_capture();
        tracing::error!("panic in the thread {name}: {panic}\n{trace}");
        // On the main thread nothing catches it: the terminal comes back first, then the message.
        if name == "main" && !crate::screen::terminal::restore_after_panic() {
            eprintln!("splimo: {panic}; the log is {}", path_text());
        }
    }));
}

fn path_text() -> String {
    path().display().to_string()
}
