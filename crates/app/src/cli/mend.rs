//! Shows that cannot be read as a whole: what is wrong with them, and what can be opened all the same.

use std::io::{BufRead, IsTerminal, Write, stderr, stdin};
use std::path::{Path, PathBuf};

use clap::Args;
use splimo_document::Salvaged;
use splimo_document::file;
use splimo_document::salvage;
use splimo_runtime::files;

use super::Failure;

/// The most faults that are told before the question.
const MOST_TOLD: usize = 12;

/// The ways to open a show that cannot be read as a whole.
#[derive(Debug, Clone, Copy, Default, Args)]
pub(super) struct MendArguments {
    /// Of a show that cannot be read as a whole, open what can be, as a file of its own
    #[arg(long)]
    rest: bool,
    /// Of a show that cannot be read, open what was there before it was last saved, as a file of its own
    #[arg(long, conflicts_with = "rest")]
    backup: bool,
}

/// The choice of a person.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Choice {
    Rest,
    Backup,
    Neither,
}

/// The file that is to be opened for a show: its own, or one beside it with what can be read of it, or with the one before. The
/// file that cannot be read stays as it is. Nobody is asked where a screen reads the keys already.
///
/// # Errors
/// All faults, where nobody chooses or can choose.
pub(super) fn readable(path: &Path, arguments: MendArguments, asks: bool) -> Result<PathBuf, Failure> {
    if !path.is_file() {
        return Ok(path.to_owned());
    }
    let text = files::read_text(path)?;
    let Err(error) = file::read(&text) else { return Ok(path.to_owned()) };
    let salvaged = salvage(&text).ok();
    let backup = Some(files::backup_of(path)).filter(|backup| files::open(backup).is_ok());
    tell_faults(path, salvaged.as_ref(), &error);
    let choice = match (arguments.rest, arguments.backup) {
        (true, _) => Choice::Rest,
        (_, true) => Choice::Backup,
        _ if asks && stdin().is_terminal() && stderr().is_terminal() => ask(path, salvaged.as_ref(), backup.as_deref()),
        _ => Choice::Neither,
    };
    let opened = |end: &str, text: &[u8]| -> Result<PathBuf, Failure> {
        let beside = files::free_beside(path, end);
        files::write(&beside, text)?;
        say_aside!("splimo: opened as {}; {} stays as it is", beside.display(), path.display());
        Ok(beside)
    };
    match (choice, salvaged, backup) {
        (Choice::Rest, Some(salvaged), _) => opened("rest", salvaged.text.as_bytes()),
        (Choice::Backup, _, Some(backup)) => opened("backup", files::read_text(&backup)?.as_bytes()),
        (Choice::Rest, None, _) => Err("nothing of it can be read; correct the line first".into()),
        (Choice::Backup, _, None) => {
            Err(format!("there is no {} that can be read", files::backup_of(path).display()).into())
        }
        (Choice::Neither, salvaged, backup) => Err(ways(path, salvaged.is_some(), backup.is_some()).into()),
    }
}

fn tell_faults(path: &Path, salvaged: Option<&Salvaged>, first: &file::FileError) {
    let faults = salvaged.map_or(std::slice::from_ref(first), |salvaged| salvaged.faults.as_slice());
    for fault in faults.iter().take(MOST_TOLD) {
        say_aside!("{}: {fault}", path.display());
    }
    if faults.len() > MOST_TOLD {
        say_aside!("and {} more; splimo check {} tells all", faults.len() - MOST_TOLD, path.display());
    }
}

fn ways(path: &Path, rest: bool, backup: bool) -> String {
    let name = path.display();
    let rest = if rest { format!("; splimo open {name} --rest opens what can be read") } else { String::new() };
    let backup =
        if backup { format!("; splimo open {name} --backup opens what was there before") } else { String::new() };
    format!("{name} cannot be read as a whole: correct the lines above{rest}{backup}")
}

fn ask(path: &Path, salvaged: Option<&Salvaged>, backup: Option<&Path>) -> Choice {
    if let Some(salvaged) = salvaged {
        let show = &salvaged.opened.show;
        let count = format!("{} fixtures, {} looks", show.fixtures.len(), show.looks.len());
        say_aside!("  r      open the rest ({count}) as {}", files::free_beside(path, "rest").display());
    }
    if let Some(backup) = backup {
        say_aside!("  b      open {}, as it was before the last save", backup.display());
    }
    say_aside!("  Enter  leave it");
    let _ = write!(stderr(), "what is to be opened? ");
    let _ = stderr().flush();
    let mut answer = String::new();
    if stdin().lock().read_line(&mut answer).is_err() {
        return Choice::Neither;
    }
    match (answer.trim(), salvaged, backup) {
        ("r", Some(_), _) => Choice::Rest,
        ("b", _, Some(_)) => Choice::Backup,
        _ => Choice::Neither,
    }
}
