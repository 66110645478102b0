//! The log: a file, since the screen is the show's. What panics say is written there too.

use std::fs;
use std::path::PathBuf;
use std::sync::Mutex;

use tracing_subscriber::fmt::time::SystemTime;

use super::log_file::LogFile;

/// Where the log is.
#[must_use]
pub(super) fn path() -> PathBuf {
    splimo_runtime::files::state_folder().join("splimo.log")
}

/// Starts to log. Where no log can be written, the show goes on without.
pub(super) fn start() {
    let log = path();
    let Some(folder) = log.parent() else { return };
    if fs::create_dir_all(folder).is_err() {
        return;
    }
    if let Ok(file) = LogFile::open(log) {
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
        // A message on a screen that is ours would be lost with it: the terminal comes back first. Where the screen is
        // taken again, it tells of the failure itself.
        if name == splimo_screen::THREAD {
            splimo_screen::terminal::give_back();
        } else if name == "main" {
            splimo_screen::terminal::give_back();
            say_aside!("splimo: {panic}; the log is {}", path().display());
        }
    }));
}
