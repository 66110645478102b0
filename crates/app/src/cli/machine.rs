//! `splimo check --machine`.

use std::process::ExitCode;

use splimo_runtime::machine::{self, Grant};

use super::{Failure, print_json};

/// Tells what this machine gives to a show, and how what is missing is granted; 1 where anything is missing if one is strict.
pub(super) fn run(json: bool, strict: bool) -> Result<ExitCode, Failure> {
    let all = machine::look();
    if json {
        print_json(&all)?;
    } else {
        for Grant { what, granted, found, mend } in &all {
            say!("{:<20} {}  {found}", what, if *granted { "yes" } else { "no " });
            if !granted {
                say!("{:<24} {mend}", "");
            }
        }
    }
    Ok(if strict && all.iter().any(|grant| !grant.granted) { ExitCode::FAILURE } else { ExitCode::SUCCESS })
}
