//! Wrong usage, in words: what is wrong, what may be meant, and where to read what there is.

use std::error::Error as _;
use std::ffi::OsString;

use clap::Command;
use clap::error::{ContextKind, ContextValue, Error, ErrorKind};
use splimo_base::nearest::meant;

/// Words for what was wrong with the arguments of a command line; none where the page of help says it, which was asked for or is given
/// where a part is missing.
pub(super) fn told(error: &Error, whole: &Command, arguments: impl IntoIterator<Item = OsString>) -> Option<String> {
    let (name, command) = chosen(whole, arguments);
    let help = format!("`{name} --help` tells what there is");
    let first = |kind| words_of(error, kind).into_iter().next().unwrap_or_default();
    let argument = first(ContextKind::InvalidArg);
    let value = first(ContextKind::InvalidValue);
    Some(match error.kind() {
        ErrorKind::DisplayHelp
        | ErrorKind::DisplayVersion
        | ErrorKind::MissingSubcommand
        | ErrorKind::DisplayHelpOnMissingArgumentOrSubcommand => return None,
        ErrorKind::InvalidSubcommand => {
            let typed = first(ContextKind::InvalidSubcommand);
            let known = command.get_subcommands().map(Command::get_name);
            format!("{name} has no command \"{typed}\"{}; {help}", meant(&typed, known))
        }
        ErrorKind::UnknownArgument if argument.starts_with('-') => {
            let known: Vec<String> = command
                .get_opts()
                .chain(command.get_positionals())
                .filter_map(long)
                .chain(["--help".to_owned()])
                .collect();
            format!("{name} has no option {argument}{}; {help}", meant(&argument, known.iter().map(String::as_str)))
        }
        ErrorKind::UnknownArgument => format!("{name} does not know what to do with \"{argument}\"; {help}"),
        ErrorKind::MissingRequiredArgument => {
            let missing = words_of(error, ContextKind::InvalidArg).join(" and ");
            format!("{name} needs {missing}; {help}")
        }
        ErrorKind::ArgumentConflict => {
            let other = words_of(error, ContextKind::PriorArg).join(" and ");
            format!("{name} takes {argument} or {other}, and not both; leave one out")
        }
        ErrorKind::InvalidValue if value.is_empty() => format!("{argument} needs a value; {help}"),
        ErrorKind::InvalidValue => {
            let valid = words_of(error, ContextKind::ValidValue);
            let near = meant(&value, valid.iter().map(String::as_str));
            format!("{argument} does not take \"{value}\"{near}; it takes {}", valid.join(", "))
        }
        ErrorKind::ValueValidation => {
            let why = error.source().map_or_else(String::new, |why| why.to_string());
            format!("{argument}: {}", mended(&why, &value))
        }
        ErrorKind::TooManyValues | ErrorKind::TooFewValues | ErrorKind::WrongNumberOfValues => {
            format!("{argument} takes another number of values; {help}")
        }
        ErrorKind::NoEquals => format!("{argument} takes its value behind =; {help}"),
        ErrorKind::InvalidUtf8 => format!("an argument is not UTF-8 text; {help}"),
        _ => format!("{}; {help}", error.to_string().trim()),
    })
}

fn long(argument: &clap::Arg) -> Option<String> {
    Some(format!("--{}", argument.get_long().filter(|_| !argument.is_hide_set())?))
}

/// The command that the arguments chose, with the words that choose it.
fn chosen(whole: &Command, arguments: impl IntoIterator<Item = OsString>) -> (String, &Command) {
    let (mut name, mut command) = (whole.get_name().to_owned(), whole);
    for argument in arguments.into_iter().skip(1) {
        let words = argument.to_string_lossy().into_owned();
        if let Some(next) = command.find_subcommand(&words) {
            (name, command) = (format!("{name} {words}"), next);
        }
    }
    (name, command)
}

fn words_of(error: &Error, kind: ContextKind) -> Vec<String> {
    match error.get(kind) {
        Some(ContextValue::String(words)) => vec![words.clone()],
        Some(ContextValue::Strings(words)) => words.clone(),
        Some(ContextValue::StyledStr(words)) => vec![words.to_string()],
        Some(_) | None => Vec::new(),
    }
}

/// Words for a bad value: ours where the reason has those of the standard library or of the reader of arguments.
fn mended(why: &str, value: &str) -> String {
    let range = why.split_once(" is not in ").map(|(_, range)| range.replace("..=", " to "));
    let mend = match why {
        _ if range.is_some() => format!("write a number from {}", range.unwrap_or_default()),
        _ if why.contains("invalid digit") || why.contains("number too") || why.contains("cannot parse integer") => {
            "write a whole number".to_owned()
        }
        _ if why.contains("invalid float") => "write a number, such as 1.5".to_owned(),
        _ if why.contains("invalid IPv4 address") => "write an IPv4 address, such as 127.0.0.2".to_owned(),
        _ if why.contains("invalid socket address") => {
            "write an address with a port, such as 127.0.0.1:9000".to_owned()
        }
        _ if why.contains(value) => return why.to_owned(),
        _ => return format!("\"{value}\": {why}"),
    };
    format!("\"{value}\" cannot be used; {mend}")
}

#[cfg(test)]
mod tests {
    use clap::{CommandFactory, Parser};

    use super::super::Arguments;
    use super::*;

    /// Command lines that are wrong, one of each kind and more.
    const WRONG: [&str; 24] = [
        "rnu demo",
        "blakcout",
        "run",
        "run demo --for 5x",
        "run demo --for",
        "run demo --seed abc",
        "run demo --autio default",
        "run demo extra",
        "run demo --log loud",
        "run demo --osc abc",
        "render demo --look Tide --seconds abc --out a.gif",
        "render demo --look Tide --as gfi --out a.gif",
        "draw demo --what wirings --out a.pdf",
        "draw",
        "sessions --jsn",
        "do",
        "node --bind 300.1.1.1",
        "node --universes",
        "config --check --path",
        "completions tcsh",
        "effects nothing",
        "bench --universes 0",
        "sim foo",
        "help rnu",
    ];

    #[test]
    fn wrong_usage_is_told_in_words_with_the_mend() {
        let mut all = String::new();
        for line in WRONG {
            let arguments: Vec<OsString> = ["splimo"].into_iter().chain(line.split(' ')).map(OsString::from).collect();
            let error = Arguments::try_parse_from(&arguments).err().expect(line);
            let words = told(&error, &Arguments::command(), arguments).unwrap_or_else(|| "(the help)".to_owned());
            for of_programs in ["argument", "subcommand", "unexpected", "parse", "digit", "literal", "syntax"] {
                assert!(!words.contains(of_programs), "{line}: {words}");
            }
            all += &format!("splimo {line}\n    {words}\n");
        }
        insta::assert_snapshot!("wrong_usage", all);
    }

    #[test]
    fn help_and_what_lacks_a_command_are_left_to_the_page_of_help() {
        for line in ["--help", "run --help", "--version", "sim"] {
            let arguments: Vec<OsString> = ["splimo"].into_iter().chain(line.split(' ')).map(OsString::from).collect();
            let error = Arguments::try_parse_from(&arguments).err().expect(line);
            assert_eq!(told(&error, &Arguments::command(), arguments), None, "{line}");
        }
    }
}
