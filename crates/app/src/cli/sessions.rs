//! `splimo sessions` and `splimo do`: what runs on this machine, and commands to it.

use std::fmt::Write as _;
use std::path::Path;
use std::process::ExitCode;

use splimo_base::nearest::nearest;
use splimo_document::Command;
use splimo_document::Outcome;
use splimo_link::message::Guest;
use splimo_runtime::files;
use splimo_runtime::session::client::{self, Client};
use splimo_show::Show;
use splimo_show::command::{BadCommand, COMMANDS, CommandInfo};

use super::{Failure, print_json};

/// `splimo sessions`.
pub(super) fn list(json: bool) -> Result<ExitCode, Failure> {
    let sessions = client::sessions()?;
    if json {
        print_json(&sessions)?;
        return Ok(ExitCode::SUCCESS);
    }
    if sessions.is_empty() {
        say!("no session runs; `splimo open SHOW` starts one");
    }
    for session in sessions {
        let screens = match session.screens {
            0 => "no screen".to_owned(),
            1 => "1 screen".to_owned(),
            count => format!("{count} screens"),
        };
        say!("{:<20} {:<10} process {:<8} {}", session.name, screens, session.pid, session.show);
    }
    Ok(ExitCode::SUCCESS)
}

/// `splimo do`. Exit code 2 where there is no such command, 1 where it could not be done.
pub(super) fn send(session: Option<&str>, words: &[String]) -> Result<ExitCode, Failure> {
    let command = match words.join(" ").parse::<Command>() {
        Ok(command) => command,
        Err(bad) => {
            say_aside!("splimo: {bad}{}", mend(&bad));
            return Ok(ExitCode::from(2));
        }
    };
    let mut client = Client::connect(&client::meant(session)?, Guest::Sender)?;
    // Files are meant from where one is, and not from where the session was started.
    let show = saved_show(&client.session.show);
    match client.ask(command.with_files(show.as_ref(), splimo_screen::whole_path))? {
        Outcome::Done => Ok(ExitCode::SUCCESS),
        Outcome::Told(words) => {
            say!("{words}");
            Ok(ExitCode::SUCCESS)
        }
        Outcome::Nothing(words) if words.is_empty() => Ok(ExitCode::SUCCESS),
        Outcome::Nothing(why) | Outcome::Refused(why) => {
            say_aside!("splimo: {why}");
            Ok(ExitCode::FAILURE)
        }
    }
}

/// The show of a session as its file has it: which names there are, as far as they were saved.
fn saved_show(file: &str) -> Option<Show> {
    let text = files::read_bounded(Path::new(file), files::LARGEST).ok()?;
    splimo_show::file::read_unchecked(std::str::from_utf8(&text).ok()?).ok()
}

/// The way to mend a command that is none: the one that was meant, or where all are listed.
fn mend(bad: &BadCommand) -> String {
    let BadCommand::Unknown(name) = bad else { return String::new() };
    match nearest(name, people().map(|info| info.name)) {
        Some(meant) => format!("; {meant} may be meant, `splimo do --help` lists all"),
        None => "; `splimo do --help` lists all".to_owned(),
    }
}

/// The commands that a person can write.
fn people() -> impl Iterator<Item = &'static CommandInfo> {
    COMMANDS.iter().filter(|info| info.is_for_people())
}

/// Every command with its argument and its help, for the help of `splimo do`.
pub(super) fn all_commands() -> String {
    let mut all = "Commands:\n".to_owned();
    for info in people() {
        let argument = info.argument.map_or_else(String::new, |argument| format!(" <{}>", argument.name));
        let _ = writeln!(all, "  {:<28} {}", format!("{}{argument}", info.name), info.help());
    }
    all
}
