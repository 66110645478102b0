//! The choices of a person: where their file is, and `splimo config`.

use std::path::PathBuf;
use std::process::ExitCode;

use clap::Args;
use splimo_runtime::files;
use splimo_screen::config::{BadChoice, Config, Surroundings, usual_file};

use super::{Failure, said};

/// The arguments of `splimo config`.
#[derive(Debug, Clone, Copy, Args)]
pub(super) struct ConfigArguments {
    /// Tell what is wrong in the file that is there; fails where anything is
    #[arg(long)]
    check: bool,
    /// Say where the file is, or would be
    #[arg(long, conflicts_with = "check")]
    path: bool,
}

/// The path of the file, whether it is there or not (XDG Base Directory Specification).
pub(super) fn path() -> PathBuf {
    let own = std::env::var_os("XDG_CONFIG_HOME").map(PathBuf::from).filter(|path| path.is_absolute());
    let home = || PathBuf::from(std::env::var_os("HOME").unwrap_or_default()).join(".config");
    own.unwrap_or_else(home).join("splimo").join("config.toml")
}

/// The choices, and what of the file does not count. Without a file they are the usual ones.
pub(super) fn read() -> (Config, Vec<BadChoice>) {
    let around = Surroundings::of_environment();
    match files::read_text(&path()) {
        Ok(text) => Config::read(&text, &around),
        Err(_) if !path().exists() => (Config::usual(&around), Vec::new()),
        Err(why) => (Config::usual(&around), vec![BadChoice { line: 1, message: why.to_string() }]),
    }
}

/// The choices, and words for a screen where not all of the file counts.
pub(super) fn told() -> (Config, Option<String>) {
    let (config, bad) = read();
    let more = if bad.len() > 1 { format!(", and {} more", bad.len() - 1) } else { String::new() };
    let told = bad.first().map(|first| format!("config.toml: {first}{more}; splimo config --check tells all"));
    (config, told)
}

/// `splimo config`.
pub(super) fn run(arguments: ConfigArguments) -> Result<ExitCode, Failure> {
    if arguments.path {
        say!("{}", path().display());
        return Ok(ExitCode::SUCCESS);
    }
    if !arguments.check {
        said::raw(usual_file().as_bytes());
        return Ok(ExitCode::SUCCESS);
    }
    let (_, bad) = read();
    for bad in &bad {
        say!("{}: {bad}", path().display());
    }
    if bad.is_empty() {
        let there =
            if path().exists() { "every choice counts" } else { "there is no such file; the usual choices count" };
        say!("{}: {there}", path().display());
    }
    Ok(if bad.is_empty() { ExitCode::SUCCESS } else { ExitCode::FAILURE })
}
