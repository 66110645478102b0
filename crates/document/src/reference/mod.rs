//! References: where a show names something else of itself. Everything that follows names goes through here: renaming,
//! removing, lists of uses, and `check`. A new kind of reference has one place more in [`visit()`] and one in [`rewrite()`].
//!
//! A formula that calls `control(n)` is not counted: `n` may be computed.

mod changes;
mod commands;
mod rewrite;
mod site;
#[cfg(test)]
mod tests;
mod visit;

use std::fmt;

pub use changes::NameChanges;
pub use commands::unknown;
pub use rewrite::{Emptied, rewrite, rewrite_layer, rewrite_look};
pub use site::Site;
pub use splimo_show::reference::Fate;
pub use visit::visit;

use splimo_light::effect::{self, ParamKind};
use splimo_show::reference::{ReferenceKind, name_of_control};
use splimo_show::{Modulator, ModulatorSource, OutSource, Show};

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
fn named_by(effect: &str, param: &str) -> Option<&'static [ReferenceKind]> {
    let spec = effect::find(effect)?.params.iter().find(|spec| spec.name == param)?;
    match spec.kind {
        ParamKind::Looks => Some(&[ReferenceKind::Look]),
        ParamKind::Aim => Some(&[ReferenceKind::Aim]),
        ParamKind::Colours { .. } => Some(&[ReferenceKind::Swatch]),
        ParamKind::Number { .. }
        | ParamKind::Rate { .. }
        | ParamKind::Choice { .. }
        | ParamKind::Text { .. }
        | ParamKind::Times
        | ParamKind::File { .. } => None,
    }
}

/// The name in the source of a value that leaves, if it names anything, and of what kinds that may be.
fn named_by_source(what: &OutSource) -> Option<(&'static [ReferenceKind], &str)> {
    match what {
        OutSource::Master | OutSource::Control(_) => None,
        OutSource::Tier(name) => Some((&[ReferenceKind::Tier], name)),
        OutSource::Group(name) => Some((&[ReferenceKind::Group], name)),
        OutSource::Colour(name) => Some((&[ReferenceKind::Swatch], name)),
        OutSource::Light(name, _) => Some((&[ReferenceKind::Fixture], name)),
    }
}

/// The name of the control that a modulator follows, if it follows one.
fn control_of(modulator: &Modulator) -> Option<&'static str> {
    let ModulatorSource::Control(number) = modulator.source else { return None };
    name_of_control(number)
}
