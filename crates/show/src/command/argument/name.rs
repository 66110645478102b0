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

/// Declares arguments that are a text with more in it than one name, or none: the kinds of things that complete it, and how it is visited.
macro_rules! texts {
    ($($(#[doc = $doc:literal])* $name:ident completed by $kinds:expr, visited $visit:expr;)*) => {
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
                    let visit: fn(&mut String, &mut dyn Visitor) -> bool = $visit;
                    visit(value, visitor)
                }
            }
        )*
    };
}

texts! {
    /// A file, absolute once it has left whoever asks.
    File completed by &[], visited |path, visitor| {
        visitor.file(path);
        true
    };
    /// A key of the keyboard.
    Key completed by &[], visited |_, _| true;
    /// A word that only the command itself knows.
    Word completed by &[], visited |_, _| true;
    /// The name of a look that is made.
    NewLook completed by &[], visited |_, _| true;
    /// The name of an aim that is made, or recorded anew.
    NewAim completed by &[], visited |name, visitor| visitor.new_name(&[ReferenceKind::Aim], name);
    /// A command, or one that lacks its value.
    Target completed by &[], visited target;
    /// A cue that is recorded: of a list, with its number or without.
    NewCue completed by LISTS, visited new_cue;
    /// A look, on the lowest tier or on one that is named: `top/Tide`.
    LookOnTier completed by &[ReferenceKind::Look], visited |value, visitor| {
        two(value, [&[ReferenceKind::Tier], &[ReferenceKind::Look]], visitor)
    };
    /// An aim, for all heads or for those of a group or fixture: `Gulls/Booth`.
    AimCalled completed by &[ReferenceKind::Aim], visited |value, visitor| {
        two(value, [LIGHTS, &[ReferenceKind::Aim]], visitor)
    };
    /// A cue list, and a file behind a space.
    ListAndFile completed by LISTS, visited |value, visitor| name_and_file(value, LISTS, visitor);
    /// A timeline, and a file behind a space, or none.
    TimelineAndFile completed by TIMELINES, visited |value, visitor| name_and_file(value, TIMELINES, visitor);
}

const LISTS: &[ReferenceKind] = &[ReferenceKind::CueList];
const TIMELINES: &[ReferenceKind] = &[ReferenceKind::Timeline];

/// The command in the text of one that is to be learnt.
fn target(text: &mut String, visitor: &mut dyn Visitor) -> bool {
    let whole = CommandTemplate::from(text.as_str());
    // What lacks its value has it behind.
    let lacking = whole.fault().is_some().then(|| CommandTemplate::from(format!("{text} {VALUE}")));
    let mut inner = lacking.clone().unwrap_or(whole);
    let stays = inner.visit(visitor);
    let after = inner.as_str();
    let after = lacking.map_or(after, |_| after.strip_suffix(VALUE).unwrap_or(after).trim_end());
    after.clone_into(text);
    stays
}

/// The list of a cue; its name may have a stroke of its own in it.
fn new_cue(value: &mut String, visitor: &mut dyn Visitor) -> bool {
    let whole = visitor.is_known(LISTS, value);
    match value.rfind('/').filter(|_| !whole) {
        Some(at) => part(value, 0..at, |name| visitor.name(LISTS, name)),
        None => visitor.name(LISTS, value),
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
    let whole = visitor.is_known(kinds[1], value);
    let Some(at) = value.find('/').filter(|_| !whole) else { return visitor.name(kinds[1], value) };
    // From behind, so that the places before stay where they are.
    let last = part(value, at + 1..value.len(), |name| visitor.name(kinds[1], name));
    part(value, 0..at, |name| visitor.name(kinds[0], name)) && last
}

/// The longest name of a kind with which a text begins, and the file behind it.
fn name_and_file(value: &mut String, kinds: &'static [ReferenceKind], visitor: &mut dyn Visitor) -> bool {
    let ends = value.char_indices().filter(|(_, letter)| *letter == ' ').map(|(at, _)| at).chain([value.len()]);
    let is_known = |end: &usize| visitor.is_known(kinds, &value[..*end]);
    let Some(end) = ends.filter(is_known).last() else {
        return true;
    };
    part(value, end..value.len(), |path| {
        if !path.is_empty() {
            visitor.file(path);
        }
        true
    });
    part(value, 0..end, |name| visitor.name(kinds, name))
}
