//! The log: a file, since the screen is the show's. What panics say is written there too.

use std::fs;
use std::path::PathBuf;
use std::sync::{Mutex, OnceLock};

use tracing_subscriber::filter::{LevelFilter, Targets};
use tracing_subscriber::fmt::time::SystemTime;
use tracing_subscriber::layer::SubscriberExt;
use tracing_subscriber::util::SubscriberInitExt;
use tracing_subscriber::{Layer, fmt};

use super::log_file::LogFile;

/// The variable with the levels of the log, which sessions in processes of their own are given too.
pub(super) const LEVELS: &str = "RUST_LOG";

/// The levels that were asked for on the command line.
static ASKED: OnceLock<String> = OnceLock::new();

/// The levels of the log that were asked for on the command line, for other processes.
pub(super) fn asked() -> Option<&'static str> {
    ASKED.get().map(String::as_str)
}

/// The path of the log.
#[must_use]
pub(super) fn path() -> PathBuf {
    splimo_runtime::files::state_folder().join("splimo.log")
}

/// Reads levels of the log: one for all, or by crate.
pub(super) fn levels(text: &str) -> Result<String, String> {
    let wrong =
        || "write error, warn, info, debug or trace, or those by crate, such as info,splimo_runtime=debug".to_owned();
    // A word alone would be taken for the name of a crate.
    let level = |part: &str| part.contains('=') || part.trim().parse::<LevelFilter>().is_ok();
    let known = text.split(',').all(level) && text.parse::<Targets>().is_ok();
    known.then(|| text.to_owned()).ok_or_else(wrong)
}

/// Starts to log what is asked for by name, else by the environment, else by how often `-v` was given. Where no log can be written, the
/// show goes on without.
pub(super) fn start(named: Option<&str>, verbose: u8, has_screen: bool) {
    let by_count = ["info", "debug", "trace"][usize::from(verbose.min(2))];
    let by_environment = std::env::var(LEVELS).ok().filter(|text| !text.is_empty());
    let chosen = super::config::read().0.log;
    let otherwise = by_environment.as_deref().or(chosen.as_deref()).filter(|_| verbose == 0);
    let words = named.or(otherwise).unwrap_or(by_count);
    if named.is_some() || verbose > 0 {
        let _ = ASKED.set(words.to_owned());
    }
    let targets = words.parse::<Targets>().unwrap_or_else(|_| {
        say_aside!("splimo: {LEVELS}: \"{words}\" names no levels; the log has those from info on");
        Targets::new().with_default(tracing::Level::INFO)
    });
    let log = path();
    let file =
        log.parent().filter(|folder| fs::create_dir_all(folder).is_ok()).and_then(|_| LogFile::open(log.clone()).ok());
    let file = file.map(|file| {
        fmt::layer().with_timer(SystemTime).with_ansi(false).with_writer(Mutex::new(file)).with_filter(targets.clone())
    });
    let aside = (verbose > 0 && !has_screen)
        .then(|| fmt::layer().without_time().with_ansi(false).with_writer(std::io::stderr).with_filter(targets));
    // There is one log a process.
    let _ = tracing_subscriber::registry().with(file).with(aside).try_init();
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
