//! The target of a control: a command that lacks its value, as `master`, or a whole one, as `fire-pad 3`.

use super::{Learned, Moved};
use crate::Command;
use splimo_show::command::MOST_SPEED;
use splimo_show::command::{BadCommand, EngineCommand};
use splimo_show::event::{Condition, EventAddress};
use splimo_show::{Answer, Binding, VALUE};

/// Something that a control can be bound to.
#[derive(Debug, Clone, PartialEq)]
pub enum Target {
    /// A pad, by its number: it is held as long as the control is.
    Pad(usize),
    /// A command that takes a value, with `{}` in its place, and the usual range of it.
    Value {
        /// The text.
        text: String,
        /// The lowest and the highest number.
        range: [f32; 2],
    },
    /// A whole command.
    Plain(String),
}

/// The commands that take a value, and its usual range.
const VALUES: [(&str, bool, [f32; 2]); 9] = [
    ("master", false, [0.0, 100.0]),
    ("speed", false, [0.0, 2.0]),
    ("tempo", false, [60.0, 180.0]),
    ("strobe", false, [0.0, 12.0]),
    ("tier-level", true, [0.0, 100.0]),
    ("group-level", true, [0.0, 100.0]),
    ("control", true, [0.0, 100.0]),
    ("next-fade", false, [0.0, 16.0]),
    ("seek-music", false, [-30.0, 30.0]),
];

impl Target {
    /// The target that a text means.
    ///
    /// # Errors
    /// The fault of the text.
    pub fn of(text: &str) -> Result<Self, String> {
        let text = text.trim();
        let (name, rest) = text.split_once(' ').unwrap_or((text, ""));
        if let Some((_, named, range)) = VALUES.iter().find(|(known, ..)| *known == name) {
            let lacks = if *named {
                !rest.is_empty() && matches!(text.parse::<Command>(), Err(BadCommand::Argument { .. }))
            } else {
                rest.is_empty()
            };
            if rest == VALUE || rest.ends_with(&format!(" {VALUE}")) {
                return Ok(Self::Value { text: text.to_owned(), range: *range });
            }
            if lacks {
                let text = format!("{text} {VALUE}");
                check(&text)?;
                return Ok(Self::Value { text, range: *range });
            }
        }
        if let Some(Command::Engine(EngineCommand::FirePad(pad) | EngineCommand::HoldPad(pad))) = check(text)? {
            return Ok(Self::Pad(pad));
        }
        Ok(Self::Plain(text.to_owned()))
    }
}

/// The command that a text is, unless it lacks its value; the fault where it is none.
///
/// # Errors
/// The fault of the target.
pub(crate) fn check(text: &str) -> Result<Option<Command>, String> {
    if !text.contains(VALUE) {
        let command = text.parse::<Command>().map_err(|why| format!("\"{text}\": {why}"))?;
        return match command.info().is_for_people() {
            true => Ok(Some(command)),
            false => Err(format!("\"{text}\" is written by programs only; bind another command")),
        };
    }
    match text.replace(VALUE, "1").parse::<Command>() {
        Ok(_) | Err(BadCommand::Range(_)) => Ok(None),
        Err(why) => Err(format!("\"{text}\": {why}")),
    }
}

/// Finds what is wrong with the text of a command that is to be bound.
///
/// # Errors
/// The fault of the target.
pub fn bindable(text: &str) -> Result<(), String> {
    check(text).map(|_| ())
}

/// The reason why a command with a value does not take every value of a range.
#[must_use]
pub fn beyond(text: &str, range: [f32; 2]) -> Option<String> {
    let tried = |end: f32| text.replace(VALUE, &end.to_string()).parse::<Command>();
    range.into_iter().filter(|_| text.contains(VALUE)).find_map(|end| match tried(end) {
        Err(BadCommand::Range(why)) => Some(why),
        Ok(_) | Err(BadCommand::Unknown(_) | BadCommand::Argument { .. } | BadCommand::NoArgument(_)) => None,
    })
}

/// The binding of what was moved to a target, in the way that suits both.
#[must_use]
pub fn bind(source: &str, learned: &Learned, target: &Target) -> Binding {
    let event = learned.address.clone();
    match target {
        Target::Pad(pad) => of_pad(source, learned, *pad),
        Target::Value { text, range } => {
            let plain = Binding { range: *range, ..Binding::new(source, event, text) };
            match learned.moved {
                // A button has the highest value while it is held, and the lowest otherwise.
                Moved::Button => {
                    let at = |number: f32| vec![text.replace(VALUE, &number.to_string())];
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
        Target::Plain(text) => Binding { when: rising(learned), ..Binding::new(source, event, text) },
    }
}

fn of_pad(source: &str, learned: &Learned, pad: usize) -> Binding {
    let event = learned.address.clone();
    match learned.moved {
        Moved::Button => Binding {
            let_go: vec![format!("let-pad-go {pad}")],
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

const _: () = assert!(MOST_SPEED >= 2.0);

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::Coding;

    fn learned(event: &str, moved: Moved) -> Learned {
        Learned { address: event.parse().expect("an event"), moved }
    }

    #[test]
    fn what_lacks_its_value_takes_one_and_what_does_not_is_pressed() {
        let value = |text: &str, range| Target::Value { text: text.into(), range };
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
        assert_eq!((pad.answer, &pad.does[0][..], &pad.let_go[0][..]), (Answer::Held, "hold-pad 3", "let-pad-go 3"));
        let master = Target::of("master").expect("a value");
        let fader = bind("box", &learned("control 7", Moved::Fader), &master);
        assert!(fader.answer == Answer::Value && fader.soft);
        let knob = bind("box", &learned("control 7", Moved::Encoder(Coding::Offset)), &master);
        assert_eq!((knob.answer, knob.coding), (Answer::Relative, Coding::Offset));
        let button = bind("box", &learned("note 1", Moved::Button), &master);
        assert_eq!((&button.does[0][..], &button.let_go[0][..]), ("master 100", "master 0"));
        let program = bind("box", &learned("program", Moved::Program(5.0)), &Target::Plain("panic".into()));
        assert_eq!(program.when, Some(Condition::Equal(5.0)));
    }
}
