//! `splimo` alone: the start screen, and what is chosen on it.

use std::fs;
use std::path::Path;
use std::process::ExitCode;
use std::time::SystemTime;

use splimo_document::file;
use splimo_runtime::files;
use splimo_runtime::session::client;
use splimo_screen::start::{self, Choice, Offers, Recent, Running};
use splimo_show::Show;

use super::{Failure, config, logging, play, recent};

/// The shows and sessions to choose from.
fn offers(folder: &Path) -> Offers {
    let running = client::sessions().unwrap_or_default().into_iter();
    let running: Vec<Running> =
        running.map(|s| Running { name: s.name, show: s.show.clone(), screens: s.screens }).collect();
    let runs = |path: &Path| running.iter().any(|session| Path::new(&session.show) == path);
    let saved = |path: &Path| fs::metadata(path).and_then(|file| file.modified()).ok();
    let recent = recent::remembered().into_iter().filter(|path| path.is_file() && !runs(path));
    let recent = recent.map(|path| Recent { saved: ago(saved(&path)), path }).take(8).collect();
    Offers { running, recent, folder: folder.to_owned() }
}

/// The time since something, in words.
fn ago(then: Option<SystemTime>) -> String {
    let Some(past) = then.and_then(|then| then.elapsed().ok()) else { return String::new() };
    let minutes = past.as_secs() / 60;
    let words = |count: u64, one: &str| format!("saved {count} {one}{} ago", if count == 1 { "" } else { "s" });
    match minutes {
        0 => "saved just now".to_owned(),
        1..=59 => words(minutes, "minute"),
        60..=1439 => words(minutes / 60, "hour"),
        _ => words(minutes / 1440, "day"),
    }
}

/// Shows the start screen until the person leaves; after a show one is back at it.
pub(super) fn run() -> Result<ExitCode, Failure> {
    splimo_screen::terminal::check()?;
    let (config, wrong) = config::told();
    let here = || std::env::current_dir().unwrap_or_default();
    let folder = config.shows.clone().unwrap_or_else(here);
    let mut told = wrong;
    loop {
        let chosen = start::run(|| offers(&folder), told.take(), &config, &logging::path())?;
        let done = match chosen {
            Choice::Leave => return Ok(ExitCode::SUCCESS),
            Choice::Join(name) => play::join(&name),
            Choice::Open(path) => play::open_plainly(&path),
            Choice::New(path, show) => begin(&path, &show).and_then(|()| play::open_plainly(&path)),
            Choice::Demo => play::demo_plainly(),
            Choice::Tutorial => super::tutorial::run(&folder),
        };
        told = done.err().map(|failure| failure.to_string());
    }
}

/// Writes a new show, of which there is no file yet.
fn begin(path: &Path, show: &Show) -> Result<(), Failure> {
    if path.exists() {
        return Err(format!("{} is there already; take another name", path.display()).into());
    }
    Ok(files::write(path, file::write(show)?.as_bytes())?)
}
