//! Options of the input sources, one each, as the runtime lists them.

use std::process::Command as Process;

use clap::{Arg, ArgMatches, Args, Command, Error, FromArgMatches};
use splimo_runtime::inputs::{InputSource, SOURCES};
use splimo_show::Input;

/// The input sources that are named on the command line: the place of each among [`SOURCES`], and what was written behind it.
#[derive(Debug, Clone, Default)]
pub(super) struct InputArguments(Vec<(usize, String)>);

impl InputArguments {
    /// True if none is named.
    pub(super) fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// True if one of them reads standard input.
    pub(super) fn reads_standard_input(&self) -> bool {
        self.0.iter().any(|(_, what)| what == "-")
    }

    /// Says the same on the command line of another process.
    pub(super) fn say_to(&self, process: &mut Process) {
        for (source, what) in &self.0 {
            process.arg(format!("--{}", SOURCES[*source].name)).arg(what);
        }
    }

    /// The inputs that they make: each is on, and has the name of its option.
    pub(super) fn inputs(&self) -> Vec<Input> {
        let of = |source: &InputSource, what: &str| Input { on: true, ..Input::new(source.name, source.kind, what) };
        self.0.iter().map(|(source, what)| of(&SOURCES[*source], what)).collect()
    }
}

impl Args for InputArguments {
    fn augment_args(command: Command) -> Command {
        SOURCES.iter().fold(command, |command, source| {
            let checked = |text: &str| (source.check)(text).map(|()| text.to_owned());
            command.arg(
                Arg::new(source.name)
                    .long(source.name)
                    .value_name(source.takes)
                    .help(source.help)
                    .value_parser(checked),
            )
        })
    }

    fn augment_args_for_update(command: Command) -> Command {
        Self::augment_args(command)
    }
}

impl FromArgMatches for InputArguments {
    fn from_arg_matches(matches: &ArgMatches) -> Result<Self, Error> {
        let named = |source: &InputSource| matches.get_one::<String>(source.name).cloned();
        let all = SOURCES.iter().enumerate().filter_map(|(place, source)| Some((place, named(source)?)));
        Ok(Self(all.collect()))
    }

    fn update_from_arg_matches(&mut self, matches: &ArgMatches) -> Result<(), Error> {
        *self = Self::from_arg_matches(matches)?;
        Ok(())
    }
}
