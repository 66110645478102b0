//! `splimo completions`.

use std::process::ExitCode;

use clap::CommandFactory;
use clap_complete::{Shell, generate};

use super::{Arguments, Failure, said};

/// Writes the completions of a shell to standard output.
pub(super) fn run(shell: Shell) -> Result<ExitCode, Failure> {
    let mut written = Vec::new();
    generate(shell, &mut Arguments::command(), "splimo", &mut written);
    said::raw(&written);
    Ok(ExitCode::SUCCESS)
}
