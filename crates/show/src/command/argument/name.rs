//! Arguments that name something: of the show, of this machine, or something that is made.

use super::{Argument, Visitor};
use crate::command::template::{CommandTemplate, VALUE};
use crate::reference::ReferenceKind;

/// Declares arguments that are one name.
macro_rules! names {
    ($($(#[doc = $doc:literal])* $name:ident of $kinds:expr;)*) => {
        $(
            $(#[doc = $doc])*
            pub struct $name;

            impl Argument for $name {
                type Value = String;
                const TAKES: &'static str = "its name";
                const NAMES: &'static [ReferenceKind] = $kinds;
                fn parse(text: &str) -> Option<String> {
                    some(text)
                }
                fn text(value: &String) -> String {
                    value.clone()
                }
                fn visit(value: &mut String, visitor: &mut dyn Visitor) -> bool {
                    visitor.name($kinds, value)
                }
            }
        )*
    };
}

names! {
    /// A tier.
    TierNamed of &[ReferenceKind::Tier];
    /// A cue list.
    List of &[ReferenceKind::CueList];
    /// A timeline.
    TimelineNamed of &[ReferenceKind::Timeline];
    /// A group, or a fixture.
    LightsNamed of LIGHTS;
    /// An input.
    Input of &[ReferenceKind::Input];
    /// An input whose controller has a model.
    InputModel of &[ReferenceKind::Input];
    /// A program or a sound of the show.
    ProgramNamed of &[ReferenceKind::Program];
}

/// Lights are a group, or a fixture.
pub(super) const LIGHTS: &[ReferenceKind] = &[ReferenceKind::Group, ReferenceKind::Fixture];

/// Declares arguments that are a text which names nothing of the show.
macro_rules! texts {
    ($($(#[doc = $doc:literal])* $name:ident takes $takes:literal visited $visit:expr;)*) => {
        $(
            $(#[doc = $doc])*
            pub struct $name;

            impl Argument for $name {
                type Value = String;
                const TAKES: &'static str = $takes;
                fn parse(text: &str) -> Option<String> {
                    some(text)
                }
                fn text(value: &String) -> String {
                    value.clone()
                }
                fn visit(value: &mut String, visitor: &mut dyn Visitor) -> bool {
                    let visit: fn(&mut String, &mut dyn Visitor) -> bool = $visit;
                    visit(value, visitor)
                }
            }
        )*
    };
}

texts! {
    /// A file, absolute once it has left whoever asks.
    File takes "its name" visited |path, visitor| {
        visitor.file(path);
        true
    };
    /// A key of the keyboard.
    Key takes "its name" visited |_, _| true;
    /// A word that only the command itself knows.
    Word takes "its name" visited |_, _| true;
    /// The name of a look that is made.
    NewLook takes "its name" visited |_, _| true;
    /// The name of an aim that is made, or recorded anew.
    NewAim takes "its name" visited |name, visitor| visitor.new_name(&[ReferenceKind::Aim], name);
    /// A command, or one that lacks its value.
    Target takes "its name" visited |text, visitor| {
        let whole = CommandTemplate::from(text.as_str());
        // What lacks its value has it behind.
        let lacking = whole.fault().is_some().then(|| CommandTemplate::from(format!("{text} {VALUE}")));
        let mut inner = lacking.clone().unwrap_or(whole);
        let stays = inner.visit(visitor);
        let after = inner.as_str();
        let after = lacking.map_or(after, |_| after.strip_suffix(VALUE).unwrap_or(after).trim_end());
        after.clone_into(text);
        stays
    };
}

/// A cue that is recorded: of a list, with its number or without.
pub struct NewCue;

impl Argument for NewCue {
    type Value = String;
    const TAKES: &'static str = "its name";
    const NAMES: &'static [ReferenceKind] = &[ReferenceKind::CueList];
    fn parse(text: &str) -> Option<String> {
        some(text)
    }
    fn text(value: &String) -> String {
        value.clone()
    }
    fn visit(value: &mut String, visitor: &mut dyn Visitor) -> bool {
        // The name of a list may have a stroke of its own in it.
        let whole = visitor.is_known(ReferenceKind::CueList, value);
        match value.rfind('/').filter(|_| !whole) {
            Some(at) => part(value, 0..at, |name| visitor.name(&[ReferenceKind::CueList], name)),
            None => visitor.name(&[ReferenceKind::CueList], value),
        }
    }
}

/// A look, on the lowest tier or on one that is named: `top/Tide`.
pub struct LookOnTier;

impl Argument for LookOnTier {
    type Value = String;
    const TAKES: &'static str = "its name";
    const NAMES: &'static [ReferenceKind] = &[ReferenceKind::Look];
    fn parse(text: &str) -> Option<String> {
        some(text)
    }
    fn text(value: &String) -> String {
        value.clone()
    }
    fn visit(value: &mut String, visitor: &mut dyn Visitor) -> bool {
        two(value, [&[ReferenceKind::Tier], &[ReferenceKind::Look]], visitor)
    }
}

/// An aim, for all heads or for those of a group or fixture: `Gulls/Booth`.
pub struct AimCalled;

impl Argument for AimCalled {
    type Value = String;
    const TAKES: &'static str = "its name";
    const NAMES: &'static [ReferenceKind] = &[ReferenceKind::Aim];
    fn parse(text: &str) -> Option<String> {
        some(text)
    }
    fn text(value: &String) -> String {
        value.clone()
    }
    fn visit(value: &mut String, visitor: &mut dyn Visitor) -> bool {
        two(value, [LIGHTS, &[ReferenceKind::Aim]], visitor)
    }
}

/// A cue list, and a file behind a space.
pub struct ListAndFile;

impl Argument for ListAndFile {
    type Value = String;
    const TAKES: &'static str = "its name";
    const NAMES: &'static [ReferenceKind] = &[ReferenceKind::CueList];
    fn parse(text: &str) -> Option<String> {
        some(text)
    }
    fn text(value: &String) -> String {
        value.clone()
    }
    fn visit(value: &mut String, visitor: &mut dyn Visitor) -> bool {
        name_and_file(value, ReferenceKind::CueList, visitor)
    }
}

/// A timeline, and a file behind a space, or none.
pub struct TimelineAndFile;

impl Argument for TimelineAndFile {
    type Value = String;
    const TAKES: &'static str = "its name";
    const NAMES: &'static [ReferenceKind] = &[ReferenceKind::Timeline];
    fn parse(text: &str) -> Option<String> {
        some(text)
    }
    fn text(value: &String) -> String {
        value.clone()
    }
    fn visit(value: &mut String, visitor: &mut dyn Visitor) -> bool {
        name_and_file(value, ReferenceKind::Timeline, visitor)
    }
}

fn some(text: &str) -> Option<String> {
    (!text.is_empty()).then(|| text.to_owned())
}

/// Has a part of a text be looked at and changed, without the blanks around it.
fn part(text: &mut String, range: std::ops::Range<usize>, look: impl FnOnce(&mut String) -> bool) -> bool {
    let within = &text[range.clone()];
    let start = range.start + (within.len() - within.trim_start().len());
    let range = start..start + within.trim().len();
    let mut name = text[range.clone()].to_owned();
    let stays = look(&mut name);
    text.replace_range(range, &name);
    stays
}

/// Something, before it, with a stroke between, something else or not: the last is one name where there is one of that name.
fn two(value: &mut String, kinds: [&'static [ReferenceKind]; 2], visitor: &mut dyn Visitor) -> bool {
    let whole = kinds[1].iter().any(|kind| visitor.is_known(*kind, value));
    let Some(at) = value.find('/').filter(|_| !whole) else { return visitor.name(kinds[1], value) };
    // From behind, so that the places before stay where they are.
    let last = part(value, at + 1..value.len(), |name| visitor.name(kinds[1], name));
    part(value, 0..at, |name| visitor.name(kinds[0], name)) && last
}

/// The longest name of a kind with which a text begins, and the file behind it.
fn name_and_file(value: &mut String, kind: ReferenceKind, visitor: &mut dyn Visitor) -> bool {
    let ends = value.char_indices().filter(|(_, letter)| *letter == ' ').map(|(at, _)| at).chain([value.len()]);
    let Some(end) = ends.filter(|end| visitor.is_known(kind, &value[..*end])).last() else {
        return true;
    };
    part(value, end..value.len(), |path| {
        if !path.is_empty() {
            visitor.file(path);
        }
        true
    });
    let kinds: &'static [ReferenceKind] = match kind {
        ReferenceKind::CueList => &[ReferenceKind::CueList],
        _ => &[ReferenceKind::Timeline],
    };
    part(value, 0..end, |name| visitor.name(kinds, name))
}
