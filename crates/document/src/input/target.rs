//! The target of a control: a command that lacks its value, as `master`, or a whole one, as `fire-pad 3`.

use super::{Learned, Moved};
use splimo_show::command::{BadCommand, Command, EngineCommand, info};
use splimo_show::event::{Condition, EventAddress};
use splimo_show::{Answer, Binding, CommandTemplate, VALUE};

/// Something that a control can be bound to.
#[derive(Debug, Clone, PartialEq)]
pub enum Target {
    /// A pad, by its number: it is held as long as the control is.
    Pad(usize),
    /// A command that takes a value, with `{}` in its place, and the usual range of it.
    Value {
        /// The command.
        command: CommandTemplate,
        /// The lowest and the highest number.
        range: [f32; 2],
    },
    /// A whole command.
    Plain(CommandTemplate),
}

impl Target {
    /// The target that a text means.
    ///
    /// # Errors
    /// The fault of the text.
    pub fn of(text: &str) -> Result<Self, String> {
        let text = text.trim();
        let (name, rest) = text.split_once(' ').unwrap_or((text, ""));
        let argument = info(name).and_then(|info| info.argument);
        if let Some((argument, range)) = argument.and_then(|argument| Some((argument, argument.number?.fader?))) {
            let lacks = match argument.names {
                [] => rest.is_empty(),
                // What has a name and nothing behind it lacks its value.
                _ => !rest.is_empty() && matches!(text.parse::<Command>(), Err(BadCommand::Argument { .. })),
            };
            if rest == VALUE || rest.ends_with(&format!(" {VALUE}")) {
                return Ok(Self::Value { command: text.into(), range });
            }
            if lacks {
                let command = CommandTemplate::from(format!("{text} {VALUE}"));
                bindable(&command)?;
                return Ok(Self::Value { command, range });
            }
        }
        let command = CommandTemplate::from(text);
        bindable(&command)?;
        if let Ok(Command::Engine(EngineCommand::FirePad(pad) | EngineCommand::HoldPad(pad))) = command.command() {
            return Ok(Self::Pad(pad));
        }
        Ok(Self::Plain(command))
    }
}

/// Finds what is wrong with a command that is to be bound: a whole one, or one that takes a value.
///
/// # Errors
/// The fault of it.
pub fn bindable(command: &CommandTemplate) -> Result<(), String> {
    let name = command.split_whitespace().next().unwrap_or_default();
    if info(name).is_some_and(|info| !info.is_for_people()) {
        return Err(format!("\"{command}\" is written by programs only; bind another command"));
    }
    match command.fault() {
        None => Ok(()),
        Some(why) => Err(format!("\"{command}\": {why}")),
    }
}

/// The reason why a command with a value does not take every value of a range.
#[must_use]
pub fn beyond(command: &CommandTemplate, range: [f32; 2]) -> Option<String> {
    range.into_iter().filter(|_| command.takes_value()).find_map(|end| command.refusal(end))
}

/// The binding of what was moved to a target, in the way that suits both.
#[must_use]
pub fn bind(source: &str, learned: &Learned, target: &Target) -> Binding {
    let event = learned.address.clone();
    match target {
        Target::Pad(pad) => of_pad(source, learned, *pad),
        Target::Value { command, range } => {
            let plain = Binding { range: *range, ..Binding::new(source, event, command) };
            match learned.moved {
                // A button has the highest value while it is held, and the lowest otherwise.
                Moved::Button => {
                    let at = |number: f32| vec![command.replace(VALUE, &number.to_string()).into()];
                    Binding { does: at(range[1]), let_go: at(range[0]), answer: Answer::Held, ..plain }
                }
                Moved::Program(_) => Binding { answer: Answer::Value, ..plain },
                Moved::Fader => {
                    // A slot says where it is all the time, and nobody waits for the fader of a desk.
                    let soft = !matches!(plain.event, EventAddress::Slot(..) | EventAddress::Osc(..));
                    Binding { answer: Answer::Value, soft, ..plain }
                }
                Moved::Encoder(coding) => Binding { answer: Answer::Relative, coding, ..plain },
            }
        }
        Target::Plain(command) => Binding { when: rising(learned), ..Binding::new(source, event, command) },
    }
}

fn of_pad(source: &str, learned: &Learned, pad: usize) -> Binding {
    let event = learned.address.clone();
    match learned.moved {
        Moved::Button => Binding {
            let_go: vec![format!("let-pad-go {pad}").into()],
            answer: Answer::Held,
            ..Binding::new(source, event, &format!("hold-pad {pad}"))
        },
        Moved::Program(_) | Moved::Fader | Moved::Encoder(_) => {
            Binding { when: rising(learned), ..Binding::new(source, event, &format!("fire-pad {pad}")) }
        }
    }
}

/// The condition that makes one press of what has many values.
fn rising(learned: &Learned) -> Option<Condition> {
    match learned.moved {
        Moved::Button => None,
        Moved::Program(number) => Some(Condition::Equal(number)),
        Moved::Fader => Some(Condition::Rising((learned.address.most() / 2.0).round())),
        Moved::Encoder(coding) => {
            let up = (1..128).find(|raw| coding.steps(*raw) == 1).unwrap_or(1);
            Some(Condition::Equal(f32::from(up)))
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::Coding;

    fn learned(event: &str, moved: Moved) -> Learned {
        Learned { address: event.parse().expect("an event"), moved }
    }

    #[test]
    fn what_lacks_its_value_takes_one_and_what_does_not_is_pressed() {
        let value = |text: &str, range| Target::Value { command: text.into(), range };
        assert_eq!(Target::of("master"), Ok(value("master {}", [0.0, 100.0])));
        assert_eq!(Target::of("tier-level top"), Ok(value("tier-level top {}", [0.0, 100.0])));
        assert_eq!(Target::of("control 3"), Ok(value("control 3 {}", [0.0, 100.0])));
        assert_eq!(Target::of("master 50"), Ok(Target::Plain("master 50".into())));
        assert_eq!(Target::of("tier-level top 50"), Ok(Target::Plain("tier-level top 50".into())));
        assert_eq!(Target::of("fire-pad 3"), Ok(Target::Pad(3)));
        assert_eq!(Target::of("panic"), Ok(Target::Plain("panic".into())));
        for bad in ["", "dance", "control 99", "fire-pad", "edit {}"] {
            assert!(Target::of(bad).is_err(), "{bad}");
        }
    }

    #[test]
    fn a_control_is_bound_in_the_way_that_suits_it_and_its_target() {
        let pad = bind("box", &learned("note 36", Moved::Button), &Target::Pad(3));
        assert_eq!((pad.answer, &*pad.does[0], &*pad.let_go[0]), (Answer::Held, "hold-pad 3", "let-pad-go 3"));
        let master = Target::of("master").expect("a value");
        let fader = bind("box", &learned("control 7", Moved::Fader), &master);
        assert!(fader.answer == Answer::Value && fader.soft);
        let knob = bind("box", &learned("control 7", Moved::Encoder(Coding::Offset)), &master);
        assert_eq!((knob.answer, knob.coding), (Answer::Relative, Coding::Offset));
        let button = bind("box", &learned("note 1", Moved::Button), &master);
        assert_eq!((&*button.does[0], &*button.let_go[0]), ("master 100", "master 0"));
        let program = bind("box", &learned("program", Moved::Program(5.0)), &Target::Plain("panic".into()));
        assert_eq!(program.when, Some(Condition::Equal(5.0)));
    }
}
