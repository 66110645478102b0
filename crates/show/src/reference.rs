//! What a show refers to by name: the kinds of things that have one, and the names of each kind.

use std::sync::LazyLock;

use crate::setting::SETTINGS;
use crate::{CONTROLS, Show};

/// The names of the inputs that every show has.
pub const BUILT_IN: [&str; 3] = ["keys", "music", "time"];

/// A kind of thing that a show refers to by its name.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum ReferenceKind {
    /// A look.
    Look,
    /// A fixture.
    Fixture,
    /// A group of fixtures.
    Group,
    /// A profile of fixtures.
    Profile,
    /// An entry of the palette.
    Swatch,
    /// A supply. Nothing in a show refers to one yet.
    Supply,
    /// An incoming control, whose name is its number.
    Control,
    /// An aim of heads.
    Aim,
    /// A region.
    Region,
    /// A tier of the stage.
    Tier,
    /// A bank of pads.
    Bank,
    /// A cue list.
    CueList,
    /// A timeline.
    Timeline,
    /// An input.
    Input,
    /// A binding, by its event. Nothing refers to one.
    Binding,
    /// A program or a sound of the operator's.
    Program,
    /// A value that leaves, by its source. Nothing refers to one.
    ValueOut,
    /// A setting of the show, or its rotation. Nothing refers to one.
    Setting,
}

impl ReferenceKind {
    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Look => "look",
            Self::Fixture => "fixture",
            Self::Group => "group",
            Self::Profile => "profile",
            Self::Swatch => "palette entry",
            Self::Supply => "supply",
            Self::Control => "control",
            Self::Aim => "aim",
            Self::Region => "region",
            Self::Tier => "tier",
            Self::Bank => "bank",
            Self::CueList => "cue list",
            Self::Timeline => "timeline",
            Self::Input => "input",
            Self::Binding => "binding",
            Self::Program => "program",
            Self::ValueOut => "value out",
            Self::Setting => "setting",
        }
    }
}

/// The fate of a name.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Fate<'n> {
    /// It stays.
    Keep,
    /// It is another now.
    Rename(&'n str),
    /// What it names is gone.
    Remove,
}

impl Fate<'_> {
    /// Lets a name have its fate. Whether it stays.
    pub fn befall(self, name: &mut String) -> bool {
        match self {
            Self::Keep => true,
            Self::Rename(new) => {
                new.clone_into(name);
                true
            }
            Self::Remove => false,
        }
    }
}

/// The names of the controls.
static CONTROL_NAMES: LazyLock<Vec<String>> =
    LazyLock::new(|| (1..=CONTROLS).map(|number| number.to_string()).collect());

/// The name of a control, which is its number from 1.
#[must_use]
pub fn name_of_control(number: u32) -> Option<&'static str> {
    CONTROL_NAMES.get((number as usize).wrapping_sub(1)).map(String::as_str)
}

/// The names of a show's things of a kind, in the order of the document; for controls their numbers. Built-in profiles are not
/// among them.
pub fn names(show: &Show, kind: ReferenceKind) -> Box<dyn Iterator<Item = &str> + '_> {
    match kind {
        ReferenceKind::Look => Box::new(show.looks.iter().map(|one| one.name.as_str())),
        ReferenceKind::Fixture => Box::new(show.fixtures.iter().map(|one| one.name.as_str())),
        ReferenceKind::Group => Box::new(show.groups.iter().map(|one| one.name.as_str())),
        ReferenceKind::Profile => Box::new(show.profiles.iter().map(|one| one.name.as_str())),
        ReferenceKind::Swatch => Box::new(show.palette.iter().map(|one| one.name.as_str())),
        ReferenceKind::Supply => Box::new(show.supplies.iter().map(|one| one.name.as_str())),
        ReferenceKind::Control => Box::new(CONTROL_NAMES.iter().map(String::as_str)),
        ReferenceKind::Region => Box::new(show.regions.iter().map(|one| one.name.as_str())),
        ReferenceKind::Aim => Box::new(show.aims.iter().map(|one| one.name.as_str())),
        ReferenceKind::Tier => Box::new(show.stack().iter().map(|one| one.name.as_str())),
        ReferenceKind::Bank => Box::new(show.banks.iter().map(|one| one.name.as_str())),
        ReferenceKind::Timeline => Box::new(show.timelines.iter().map(|one| one.name.as_str())),
        ReferenceKind::CueList => Box::new(show.cue_lists.iter().map(|one| one.name.as_str())),
        ReferenceKind::Input => Box::new(BUILT_IN.into_iter().chain(show.inputs.iter().map(|one| one.name.as_str()))),
        ReferenceKind::Binding => Box::new(show.bindings.iter().map(|one| one.source.as_str())),
        ReferenceKind::Program => Box::new(show.programs.iter().map(|one| one.name.as_str())),
        // What has no name of its own is not named.
        ReferenceKind::ValueOut => Box::new(std::iter::empty()),
        ReferenceKind::Setting => Box::new(SETTINGS.iter().map(|one| one.name)),
    }
}
