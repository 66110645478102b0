//! References: where a show names something else of itself. Everything that follows names goes through here: renaming,
//! removing, lists of uses, and `check`. A new kind of reference has one place more in [`visit()`] and one in [`rewrite()`].
//!
//! A formula that calls `control(n)` is not counted: `n` may be computed.

mod changes;
mod command_text;
mod rewrite;
mod site;
#[cfg(test)]
mod tests;
mod visit;

use std::fmt;
use std::sync::LazyLock;

pub use changes::NameChanges;
pub use rewrite::{Emptied, Fate, rewrite, rewrite_layer, rewrite_look};
pub use site::Site;
pub use visit::visit;

use crate::effect::{self, ParamKind};
use crate::input::BUILT_IN;
use crate::setting::SETTINGS;
use crate::show::{Modulator, ModulatorSource, OutSource, Show};

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

/// A layer, by the places of its look and of itself, counted from 0.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct LayerAt {
    /// The look.
    pub look: usize,
    /// The layer within it.
    pub layer: usize,
}

/// A lane of a pattern, by the places of its look and of itself, counted from 0.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct LaneAt {
    /// The look.
    pub look: usize,
    /// The lane within its pattern.
    pub lane: usize,
}

/// A cue, by the places of its list and of itself, counted from 0.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct CueAt {
    /// The list.
    pub list: usize,
    /// The cue within it.
    pub cue: usize,
}

/// A use of something: who uses it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Use {
    /// The kind of user: a look, a group, a supply or a fixture.
    pub kind: ReferenceKind,
    /// Its name.
    pub name: String,
    /// The layer of the look, counted from 0.
    pub layer: Option<usize>,
}

/// As one says it: `group Sails`, or `look Tide, layer 2`.
impl fmt::Display for Use {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} {}", self.kind.name(), self.name)?;
        self.layer.map_or(Ok(()), |layer| write!(f, ", layer {}", layer + 1))
    }
}

/// The uses of something of a show, each layer, group, supply or fixture once.
#[must_use]
pub fn uses(show: &Show, kind: ReferenceKind, name: &str) -> Vec<Use> {
    let mut uses: Vec<Use> = Vec::new();
    visit(show, |site, named| {
        if named == name && site.accepts().contains(&kind) {
            let found = site.user(show);
            if uses.last() != Some(&found) {
                uses.push(found);
            }
        }
    });
    uses
}

/// The kind that the texts of an effect's parameter name, if they name anything.
fn named_by(effect: &str, param: &str) -> Option<ReferenceKind> {
    let spec = effect::find(effect)?.params.iter().find(|spec| spec.name == param)?;
    match spec.kind {
        ParamKind::Looks => Some(ReferenceKind::Look),
        ParamKind::Aim => Some(ReferenceKind::Aim),
        ParamKind::Colours { .. } => Some(ReferenceKind::Swatch),
        ParamKind::Number { .. }
        | ParamKind::Rate { .. }
        | ParamKind::Choice { .. }
        | ParamKind::Text { .. }
        | ParamKind::Times
        | ParamKind::File { .. } => None,
    }
}

/// The name in the source of a value that leaves, if it names anything.
fn named_by_source(what: &OutSource) -> Option<(ReferenceKind, &str)> {
    match what {
        OutSource::Master | OutSource::Control(_) => None,
        OutSource::Tier(name) => Some((ReferenceKind::Tier, name)),
        OutSource::Group(name) => Some((ReferenceKind::Group, name)),
        OutSource::Colour(name) => Some((ReferenceKind::Swatch, name)),
        OutSource::Light(name, _) => Some((ReferenceKind::Fixture, name)),
    }
}

/// The names of the controls.
static CONTROL_NAMES: LazyLock<Vec<String>> =
    LazyLock::new(|| (1..=effect::CONTROLS).map(|number| number.to_string()).collect());

/// The name of the control that a modulator follows, if it follows one.
fn control_of(modulator: &Modulator) -> Option<&'static str> {
    let ModulatorSource::Control(number) = modulator.source else { return None };
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
