//! `splimo cues`: cue lists as CSV sheets, out and in.

use std::io::IsTerminal;
use std::path::{Path, PathBuf};
use std::process::ExitCode;

use clap::Args;
use splimo_base::nearest;
use splimo_base::outside::Outside;
use splimo_document::import::{CueSheet, Importer};
use splimo_document::making::write_sheet;
use splimo_runtime::file_error::Cause;
use splimo_runtime::files;
use splimo_show::Show;

use super::{Failure, said, standard};

/// Arguments of `splimo cues`.
#[derive(Debug, Args)]
pub(super) struct CuesArguments {
    /// The show's file, or "-" for standard input
    show: PathBuf,
    /// The cue list; without one, the first
    #[arg(long)]
    list: Option<String>,
    /// Write the list into a CSV file; "-" is standard output
    #[arg(long, conflicts_with = "read")]
    write: Option<PathBuf>,
    /// Read the list from a CSV file, or "-" for standard input: what would change, and the lines that fail
    #[arg(long)]
    read: Option<PathBuf>,
    /// Keep what was read, in the show's file
    #[arg(long, requires = "read")]
    keep: bool,
}

/// `splimo cues`.
pub(super) fn run(arguments: &CuesArguments) -> Result<ExitCode, Failure> {
    let show = standard::opened(&arguments.show)?;
    let place = place_of(&show, arguments.list.as_deref())?;
    let list = &show.cue_lists[place];
    if let Some(path) = &arguments.write {
        standard::write(path, write_sheet(list, &show).as_bytes())?;
        say_aside!("{}: {} cues of {}", path.display(), list.cues.len(), list.name);
        return Ok(ExitCode::SUCCESS);
    }
    match &arguments.read {
        None => {
            let sheet = write_sheet(list, &show);
            // A terminal would obey what a file only keeps.
            let shown = if std::io::stdout().is_terminal() { Outside(&sheet).page() } else { (&sheet[..]).into() };
            said::raw(shown.as_bytes());
            Ok(ExitCode::SUCCESS)
        }
        Some(path) => read(&show, place, path, arguments),
    }
}

fn place_of(show: &Show, name: Option<&str>) -> Result<usize, Failure> {
    let known = || show.cue_lists.iter().map(|list| list.name.as_str()).collect::<Vec<_>>().join(", ");
    match name {
        _ if show.cue_lists.is_empty() => Err("the show has no cue list; F5 makes one".into()),
        None => Ok(0),
        Some(name) => show.cue_list(name).ok_or_else(|| {
            let meant = nearest::meant(name, show.cue_lists.iter().map(|list| list.name.as_str()));
            format!("there is no cue list \"{name}\"{meant}; there is {}", known()).into()
        }),
    }
}

fn read(show: &Show, place: usize, path: &Path, arguments: &CuesArguments) -> Result<ExitCode, Failure> {
    let name = standard::name(path);
    let importer = CueSheet { list: place };
    let bytes = match standard::is_meant(path) {
        true => standard::bytes()?,
        false => files::read_bounded(path, importer.longest())
            .map_err(|error| format!("{name} cannot be read: {}", Cause::of(path, &error)))?,
    };
    let proposal = importer.propose(&bytes, show).map_err(|why| format!("{name}: {why}"))?;
    for warning in &proposal.warnings {
        say_aside!("splimo: {name}: {warning}");
    }
    say!("{}; {} lines fail", proposal.changes.join(", "), proposal.warnings.len());
    if arguments.keep && standard::is_meant(&arguments.show) {
        return Err("--keep needs the name of the show's file: standard input keeps nothing".into());
    }
    if arguments.keep {
        if let Some(edit) = &proposal.edit {
            files::save(&edit.apply(show).map_err(|why| why.to_string())?, &arguments.show)?;
        }
        say!("kept in {}", arguments.show.display());
    }
    Ok(if proposal.warnings.is_empty() { ExitCode::SUCCESS } else { ExitCode::FAILURE })
}
