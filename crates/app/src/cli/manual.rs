//! `splimo manual`: manual pages (man(7)), made of the same words as the help.

use std::path::Path;
use std::process::ExitCode;

use clap::{Command, CommandFactory};
use clap_mangen::Man;
use splimo_runtime::files;

use super::{Arguments, Failure, said};

/// Writes the page of the program to standard output, or all pages into a folder.
pub(super) fn run(folder: Option<&Path>) -> Result<ExitCode, Failure> {
    let mut program = Arguments::command().disable_help_subcommand(true);
    program.build();
    let Some(folder) = folder else {
        said::raw(&page(&program, "splimo")?);
        return Ok(ExitCode::SUCCESS);
    };
    let mut all = vec![("splimo".to_owned(), program)];
    let mut count = 0;
    while let Some((name, command)) = all.pop() {
        files::write(&folder.join(format!("{name}.1")), &page(&command, &name)?)?;
        count += 1;
        let under = command.get_subcommands().filter(|under| !under.is_hide_set());
        all.extend(under.map(|under| (format!("{name}-{}", under.get_name()), under.clone())));
    }
    say!("{}: {count} pages", folder.display());
    Ok(ExitCode::SUCCESS)
}

/// A page; the name of a command under the program is written with a hyphen, as manual pages are called.
fn page(command: &Command, name: &str) -> Result<Vec<u8>, Failure> {
    let mut page = Vec::new();
    let named = command.clone().name(name.to_owned()).bin_name(name.replace('-', " "));
    Man::new(named).title(name.to_uppercase()).section("1").manual("Splimo").render(&mut page)?;
    Ok(page)
}
