//! `splimo sessions` and `splimo do`: what runs on this machine, and commands to it.

use std::process::ExitCode;

use splimo_core::command::Command;
use splimo_core::document::Outcome;
use splimo_link::message::Guest;
use splimo_runtime::session::client::{self, Client};

use super::{Failure, print_json};

/// `splimo sessions`.
pub(super) fn list(json: bool) -> Result<ExitCode, Failure> {
    let sessions = client::sessions()?;
    if json {
        print_json(&sessions)?;
        return Ok(ExitCode::SUCCESS);
    }
    if sessions.is_empty() {
        println!("no session runs; `splimo open SHOW` starts one");
    }
    for session in sessions {
        let screens = match session.screens {
            0 => "no screen".to_owned(),
            1 => "1 screen".to_owned(),
            count => format!("{count} screens"),
        };
        println!("{:<20} {:<10} process {:<8} {}", session.name, screens, session.pid, session.show);
    }
    Ok(ExitCode::SUCCESS)
}

/// `splimo do`. Exit code 2 where there is no such command, 1 where it could not be done.
pub(super) fn send(session: Option<&str>, words: &[String]) -> Result<ExitCode, Failure> {
    let command = match words.join(" ").parse::<Command>() {
        Ok(command) => command,
        Err(bad) => {
            eprintln!("splimo: {bad}");
            return Ok(ExitCode::from(2));
        }
    };
    let mut client = Client::connect(&client::meant(session)?, Guest::Sender)?;
    // Files are meant from where one is, and not from where the session was started.
    match client.ask(command.with_files(splimo_screen::whole_path))? {
        Outcome::Done => Ok(ExitCode::SUCCESS),
        Outcome::Told(words) => {
            println!("{words}");
            Ok(ExitCode::SUCCESS)
        }
        Outcome::Nothing(words) if words.is_empty() => Ok(ExitCode::SUCCESS),
        Outcome::Nothing(why) | Outcome::Refused(why) => {
            eprintln!("splimo: {why}");
            Ok(ExitCode::FAILURE)
        }
    }
}
