//! Commands as addresses of OSC: `/splimo/`, the name of the command, and its argument either behind it in the address or as arguments.
//!
//! | message | command |
//! |---|---|
//! | `/splimo/go` | `go` |
//! | `/splimo/master 50.0` | `master 50` |
//! | `/splimo/tier-level "top" 60` or `/splimo/tier-level/top 60` | `tier-level top 60` |
//! | `/splimo/fire-look "top/Beacon"` or `/splimo/fire-look/top/Beacon` | `fire-look top/Beacon` |
//! | `/splimo/fire-pad/3 1` | `fire-pad 3`; with 0, as of a button that is let go, nothing |
//! | `/splimo/hold-pad/3 1`, then `0` | `hold-pad 3`, `let-pad-go 3` |
//! | `/splimo/master` | a question: `/splimo/master 50.0` goes back to who asks |

use splimo_document::Command;
use splimo_document::input::Target;
use splimo_show::CommandTemplate;
use splimo_show::command::{EngineCommand, SessionCommand, info};
use splimo_show::reference::ReferenceKind;
use splimo_wire::osc::Argument;

/// The meaning of a message.
#[derive(Debug, Clone, PartialEq)]
pub(super) enum Meaning {
    /// A command.
    Command(Box<Command>),
    /// A question where that is which a command moves.
    Query(CommandTemplate),
    /// A button was let go, for which there is nothing to do.
    Nothing,
}

/// The meaning of a message with an address of ours.
///
/// # Errors
/// The fault of a message.
pub(super) fn meaning(path: &str, arguments: &[Argument]) -> Result<Meaning, String> {
    let mut parts = path.splitn(2, '/');
    let name = parts.next().unwrap_or_default();
    let behind = parts.next().unwrap_or_default();
    let Some(info) = info(name) else { return Err(format!("there is no command \"{name}\"")) };
    if !info.is_for_people() {
        return Err(format!("{name} is written by programs only"));
    }
    let given: Vec<String> = arguments.iter().filter_map(text).collect();
    if let Some(found) = candidates(name, behind, &given).iter().find_map(|text| text.parse::<Command>().ok()) {
        return Ok(Meaning::Command(Box::new(found)));
    }
    // A button says how far it is pressed, which is no argument of the command.
    if let ([argument], Some(command)) =
        (arguments, candidates(name, behind, &[]).iter().find_map(|text| text.parse::<Command>().ok()))
        && let Some(pressed) = argument.number()
    {
        let asked = if pressed > 0.0 { Some(command) } else { released(&command) };
        return Ok(asked.map_or(Meaning::Nothing, |command| Meaning::Command(Box::new(command))));
    }
    let asked = candidates(name, behind, &given).into_iter().find_map(|text| match Target::of(&text) {
        Ok(Target::Value { command, .. }) => Some(command),
        Ok(Target::Pad(_) | Target::Plain(_)) | Err(_) => None,
    });
    match asked {
        Some(command) if given.is_empty() || arguments.iter().all(|one| one.number().is_none()) => {
            Ok(Meaning::Query(command))
        }
        _ => {
            let takes = info.argument.map_or("no argument", |argument| argument.takes);
            let numbers = given.join(" ");
            Err(format!(
                "{name} takes {takes}, and came with \"{}\"",
                format!("{behind} {numbers}").trim().escape_debug()
            ))
        }
    }
}

/// The command that lets go what another holds.
fn released(command: &Command) -> Option<Command> {
    if let Command::Engine(EngineCommand::HoldPad(pad)) = command {
        return Some(EngineCommand::LetPadGo(*pad).into());
    }
    if let Command::Session(SessionCommand::HoldBankPad(pad)) = command {
        return Some(SessionCommand::LetBankPadGo(*pad).into());
    }
    None
}

/// The texts that a message can mean, the likelier first.
fn candidates(name: &str, behind: &str, arguments: &[String]) -> Vec<String> {
    let texts = [behind.replace('/', " "), behind.to_owned()];
    let mut all: Vec<String> = Vec::new();
    for part in texts {
        let words: Vec<&str> = [name, part.trim()]
            .into_iter()
            .chain(arguments.iter().map(String::as_str))
            .filter(|word| !word.is_empty())
            .collect();
        let text = words.join(" ");
        if !all.contains(&text) {
            all.push(text);
        }
    }
    // What names a look on a tier, or a layer of one, has its stroke; no look would be found otherwise.
    if info(name).and_then(|info| info.argument).is_some_and(|argument| argument.names == [ReferenceKind::Look]) {
        all.reverse();
    }
    all
}

fn text(argument: &Argument) -> Option<String> {
    match argument {
        Argument::Number(number) if number.is_finite() => Some(format!("{}", (*number * 1000.0).round() / 1000.0)),
        Argument::Text(text) => Some(text.clone()),
        Argument::Flag(flag) => Some(if *flag { "on" } else { "off" }.to_owned()),
        Argument::Number(_) | Argument::Other => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::command::COMMANDS;

    fn said(path: &str, arguments: &[Argument]) -> String {
        match meaning(path, arguments) {
            Ok(Meaning::Command(command)) => command.to_string(),
            Ok(Meaning::Query(command)) => format!("? {}", command.trim_end_matches(" {}")),
            Ok(Meaning::Nothing) => "nothing".to_owned(),
            Err(why) => format!("! {why}"),
        }
    }

    #[test]
    fn addresses_and_arguments_make_commands_and_questions() {
        let number = Argument::Number;
        let word = |text: &str| Argument::Text(text.to_owned());
        for (path, arguments, wanted) in [
            ("go", vec![], "go"),
            ("go", vec![number(1.0)], "go"),
            ("go", vec![number(0.0)], "nothing"),
            ("panic", vec![Argument::Flag(true)], "panic"),
            ("master", vec![number(50.0)], "master 50"),
            ("master", vec![number(0.0)], "master 0"),
            ("tier-level", vec![word("top"), number(60.0)], "tier-level top 60"),
            ("tier-level/top", vec![number(60.5)], "tier-level top 60.5"),
            ("control/3", vec![number(50.0)], "control 3 50"),
            ("fire-look/top/Beacon", vec![], "fire-look top/Beacon"),
            ("fire-look", vec![word("Low Tide")], "fire-look Low Tide"),
            ("fire-pad", vec![number(3.0)], "fire-pad 3"),
            ("fire-pad/3", vec![number(1.0)], "fire-pad 3"),
            ("fire-pad/3", vec![number(0.0)], "nothing"),
            ("hold-pad/3", vec![number(1.0)], "hold-pad 3"),
            ("hold-pad/3", vec![number(0.0)], "let-pad-go 3"),
            ("colour-part/1/red", vec![number(50.0)], "colour-part 1 red 50"),
            ("set-blackout", vec![Argument::Flag(true)], "set-blackout on"),
            ("set-blackout/on", vec![], "set-blackout on"),
            ("master", vec![], "? master"),
            ("tier-level/top", vec![], "? tier-level top"),
            ("tier-level", vec![word("top")], "? tier-level top"),
        ] {
            assert_eq!(said(path, &arguments), wanted, "{path} {arguments:?}");
        }
        for bad in ["dance", "edit", "master/loud", "fire-pad"] {
            assert!(said(bad, &[]).starts_with('!'), "{bad}: {}", said(bad, &[]));
        }
    }

    #[test]
    fn every_command_for_people_has_an_address() {
        for info in COMMANDS.iter().filter(|info| info.is_for_people() && info.argument.is_none()) {
            assert_eq!(said(info.name, &[]), info.name);
        }
    }
}
