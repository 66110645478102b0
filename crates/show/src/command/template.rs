//! A command as a show holds it: read once, with the text as the person wrote it, and with a place for a value where it takes one.

use std::fmt;

use serde::{Deserialize, Deserializer, Serialize, Serializer};

use super::argument::Visitor;
use super::{BadCommand, Command, EngineCommand};

/// The place of the value in the text of a command: `master {}`.
pub const VALUE: &str = "{}";

/// A command of a show. Two are equal if their texts are.
#[derive(Clone)]
pub struct CommandTemplate {
    text: String,
    read: Read,
}

/// What a text was read as.
#[derive(Clone)]
enum Read {
    /// A whole command.
    Whole(Box<Command>),
    /// A command whose number is the value.
    WithValue(Box<Command>),
    /// A command with the value elsewhere than its number, as in `fire-look Tide {}`: it is read anew for each value.
    AsText,
    /// None.
    Bad(BadCommand),
}

impl Read {
    fn of(text: &str) -> Self {
        if !text.contains(VALUE) {
            return text.parse().map_or_else(Self::Bad, |command| Self::Whole(Box::new(command)));
        }
        let with = |value: f32| Command::read(&text.replace(VALUE, &value.to_string()));
        match with(1.0) {
            Ok(mut command) => {
                // Its number is the value if another value gives another number and nothing else.
                let other = command.number_info().map_or(2.0, |number| 2.0f32.clamp(number.range[0], number.range[1]));
                let at_the_end = text.trim_end().ends_with(VALUE) && text.matches(VALUE).count() == 1;
                let is_number =
                    at_the_end && command.set_number(other) && with(other).is_ok_and(|same| same == command);
                if is_number { Self::WithValue(Box::new(command)) } else { Self::AsText }
            }
            Err(bad) => Self::Bad(bad),
        }
    }
}

impl CommandTemplate {
    /// The text, as it was written.
    #[must_use]
    pub fn as_str(&self) -> &str {
        &self.text
    }

    /// The commands of a text, with semicolons between them.
    #[must_use]
    pub fn list(text: &str) -> Vec<Self> {
        text.split(';').map(str::trim).filter(|one| !one.is_empty()).map(Self::from).collect()
    }

    /// True if it takes a value.
    #[must_use]
    pub fn takes_value(&self) -> bool {
        self.text.contains(VALUE)
    }

    /// The command, where it is whole.
    ///
    /// # Errors
    /// The fault of the text; for one that takes a value, that this is no argument.
    pub fn command(&self) -> Result<Command, BadCommand> {
        match &self.read {
            Read::Whole(command) => Ok(Command::clone(command)),
            Read::Bad(bad) => Err(bad.clone()),
            Read::WithValue(_) | Read::AsText => self.text.parse(),
        }
    }

    /// The command, where it is whole, as it was read.
    #[must_use]
    pub fn whole(&self) -> Option<&Command> {
        match &self.read {
            Read::Whole(command) => Some(command),
            Read::WithValue(_) | Read::AsText | Read::Bad(_) => None,
        }
    }

    /// The command of a value; none where it does not take it. A whole command takes any.
    #[must_use]
    pub fn with(&self, value: f32) -> Option<Command> {
        match &self.read {
            Read::Whole(command) => Some(Command::clone(command)),
            Read::WithValue(command) => {
                let mut command = Command::clone(command);
                command.set_number(value).then_some(command).filter(|command| command.out_of_range().is_none())
            }
            Read::AsText => {
                let with = |value: f32| self.text.replace(VALUE, &value.to_string()).parse().ok();
                // Some commands take whole numbers only.
                with((value * 100.0).round() / 100.0).or_else(|| with(value.round()))
            }
            Read::Bad(_) => None,
        }
    }

    /// The command that its value moves, with some number; none for a whole one.
    #[must_use]
    pub fn moves(&self) -> Option<&Command> {
        match &self.read {
            Read::WithValue(command) => Some(command),
            Read::Whole(_) | Read::AsText | Read::Bad(_) => None,
        }
    }

    /// What is wrong with it, if anything is.
    #[must_use]
    pub fn fault(&self) -> Option<&BadCommand> {
        match &self.read {
            Read::Bad(bad) => Some(bad),
            Read::Whole(_) | Read::WithValue(_) | Read::AsText => None,
        }
    }

    /// The reason why a value is not taken, with what is.
    #[must_use]
    pub fn refusal(&self, value: f32) -> Option<String> {
        match self.text.replace(VALUE, &value.to_string()).parse::<Command>() {
            Err(BadCommand::Range(why)) => Some(why),
            Ok(_) | Err(BadCommand::Unknown(_) | BadCommand::Argument { .. } | BadCommand::NoArgument(_)) => None,
        }
    }

    /// The same for people who do not know the commands: a look that is fired by its name alone.
    #[must_use]
    pub fn in_words(&self) -> String {
        if let Some(Command::Engine(EngineCommand::FireLook(look))) = self.whole() {
            return look.clone();
        }
        if let Some(Command::Engine(EngineCommand::ReleaseTier(tier))) = self.whole() {
            return format!("{tier} fades out");
        }
        self.text.clone()
    }

    /// Shows a visitor what it names. False if it is to go with what is gone. Its text changes only where a name does.
    pub fn visit(&mut self, visitor: &mut dyn Visitor) -> bool {
        let (Read::Whole(command) | Read::WithValue(command)) = &self.read else { return true };
        let mut after = Command::clone(command);
        let stays = after.visit(visitor);
        if after != **command {
            let printed = after.to_string();
            let text = match self.read {
                Read::WithValue(_) => {
                    printed.rsplit_once(' ').map_or(printed.clone(), |(what, _)| format!("{what} {VALUE}"))
                }
                Read::Whole(_) | Read::AsText | Read::Bad(_) => printed,
            };
            *self = Self::from(text);
        }
        stays
    }
}

impl From<&str> for CommandTemplate {
    fn from(text: &str) -> Self {
        Self { read: Read::of(text), text: text.to_owned() }
    }
}

impl From<String> for CommandTemplate {
    fn from(text: String) -> Self {
        Self { read: Read::of(&text), text }
    }
}

impl From<Command> for CommandTemplate {
    fn from(command: Command) -> Self {
        Self { text: command.to_string(), read: Read::Whole(Box::new(command)) }
    }
}

impl PartialEq for CommandTemplate {
    fn eq(&self, other: &Self) -> bool {
        self.text == other.text
    }
}

impl Eq for CommandTemplate {}

/// As the text that it is equal by, so that lists of them are joined as texts are.
impl std::hash::Hash for CommandTemplate {
    fn hash<H: std::hash::Hasher>(&self, state: &mut H) {
        self.text.hash(state);
    }
}

impl PartialEq<str> for CommandTemplate {
    fn eq(&self, other: &str) -> bool {
        self.text == other
    }
}

impl PartialEq<&str> for CommandTemplate {
    fn eq(&self, other: &&str) -> bool {
        self.text == *other
    }
}

/// Its text.
impl std::ops::Deref for CommandTemplate {
    type Target = str;
    fn deref(&self) -> &str {
        &self.text
    }
}

impl std::borrow::Borrow<str> for CommandTemplate {
    fn borrow(&self) -> &str {
        &self.text
    }
}

impl fmt::Display for CommandTemplate {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.text)
    }
}

impl fmt::Debug for CommandTemplate {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Debug::fmt(&self.text, f)
    }
}

impl Serialize for CommandTemplate {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(&self.text)
    }
}

impl<'de> Deserialize<'de> for CommandTemplate {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        String::deserialize(deserializer).map(Self::from)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_value_is_the_number_of_its_command_and_needs_no_text() {
        for (text, value, wanted) in [
            ("master {}", 62.504, Some("master 62.5")),
            ("tempo {}", 123.456, Some("tempo 123.46")),
            ("tempo {}", 10.0, None),
            ("tier-level two words {}", 40.0, Some("tier-level two words 40")),
            ("control 3 {}", 12.0, Some("control 3 12")),
            ("colour-part 1 red {}", 100.0, Some("colour-part 1 red 100")),
            ("fire-pad {}", 2.6, Some("fire-pad 3")),
            ("fire-pad {}", 0.2, None),
            ("nudge fade {}", -1.2, Some("nudge fade -1")),
            ("set fade {}", 2.25, Some("set fade 2.25")),
            ("seek-timeline Anchor Song {}", 12.35, Some("seek-timeline Anchor Song 12.35")),
            ("go-to-cue Opening/4.5 {}", 3.0, Some("go-to-cue Opening/4.5 3")),
            ("next-section {}", 2.0, Some("next-section 2")),
        ] {
            let template = CommandTemplate::from(text);
            assert!(template.moves().is_some(), "{text} is read once");
            assert_eq!(template.with(value).map(|command| command.to_string()).as_deref(), wanted, "{text} {value}");
        }
    }

    #[test]
    fn a_value_elsewhere_is_put_into_the_text() {
        for (text, value, wanted) in [
            ("control {} 50", 3.2, Some("control 3 50")),
            ("fire-look Tide {}", 2.0, Some("fire-look Tide 2")),
            ("test identify {}", 4.0, Some("test identify 4")),
            ("go-cue {}", 2.0, Some("go-cue 2")),
        ] {
            let template = CommandTemplate::from(text);
            assert!(template.moves().is_none() && template.fault().is_none(), "{text}");
            assert_eq!(template.with(value).map(|command| command.to_string()).as_deref(), wanted, "{text} {value}");
        }
        assert!(CommandTemplate::from("dance {}").fault().is_some());
        assert!(CommandTemplate::from("go {}").fault().is_some());
    }

    #[test]
    fn what_takes_a_number_gives_and_takes_it_and_says_its_range() {
        for info in super::super::COMMANDS {
            let Some(number) = info.argument.and_then(|argument| argument.number) else { continue };
            let [from, to] = number.range;
            assert!(from < to, "{}", info.name);
            if let Some([low, high]) = number.fader {
                assert!(low < high && low >= from && high <= to, "{}: a fader is within its range", info.name);
            }
        }
    }

    #[test]
    fn numbers_out_of_range_are_refused_with_the_range() {
        for (text, words) in [
            ("master 300", "from 0 to 100"),
            ("master -1", "from 0 to 100"),
            ("tempo 9999", "from 20 to 400"),
            ("speed 9", "from 0 to 8"),
            ("strobe 26", "from 0 to 25"),
            ("next-fade 65", "from 0 to 64"),
            ("nudge-master 101", "from -100 to 100"),
            ("tempo-times 100", "from 0.125 to 8"),
            ("tier-level top -5", "from 0 to 100"),
            ("recolour 120", "from 0 to 100"),
        ] {
            let error = text.parse::<Command>().expect_err(text).to_string();
            assert!(error.contains(words), "{text}: {error}");
        }
        for text in ["master 0", "master 100", "tempo 20", "tempo 400", "nudge-master -5", "tempo-times 0.5"] {
            assert!(text.parse::<Command>().is_ok(), "{text}");
        }
    }
}
