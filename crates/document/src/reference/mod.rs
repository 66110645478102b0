//! References: where a show names something else of itself. Everything that follows names goes through here: renaming,
//! removing, lists of uses, and `check`. They are found and changed by one walk: a new kind of
//! reference has one place more in it, and a [`Site`].
//!
//! A formula that calls `control(n)` is not counted: `n` may be computed.

mod access;
mod changes;
mod commands;
mod site;
#[cfg(test)]
mod tests;
mod walk;

use std::fmt;

pub use changes::NameChanges;
pub use commands::unknown;
pub use site::Site;
pub use splimo_show::reference::Fate;
pub use walk::{Emptied, rewrite, rewrite_layer, rewrite_look, visit};

use splimo_light::effect::{EffectSpec, ParamKind};
use splimo_show::reference::{ReferenceKind, name_of_control};
use splimo_show::{Modulator, ModulatorSource, Show};

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

/// What the texts of an effect's parameter name.
#[derive(Clone, Copy)]
enum Named {
    /// Looks that take turns.
    Look,
    /// The aim of heads.
    Aim,
    /// Colours, which may be of the palette.
    Swatch,
}

/// What the texts of an effect's parameter name, if they name anything.
fn named_by(effect: Option<&EffectSpec>, param: &str) -> Option<Named> {
    let spec = effect?.params.iter().find(|spec| spec.name == param)?;
    match spec.kind {
        ParamKind::Looks => Some(Named::Look),
        ParamKind::Aim => Some(Named::Aim),
        ParamKind::Colours { .. } => Some(Named::Swatch),
        ParamKind::Number { .. }
        | ParamKind::Rate { .. }
        | ParamKind::Choice { .. }
        | ParamKind::Text { .. }
        | ParamKind::Times
        | ParamKind::File { .. } => None,
    }
}

/// The name of the control that a modulator follows, if it follows one.
fn control_of(modulator: &Modulator) -> Option<&'static str> {
    let ModulatorSource::Control(number) = modulator.source else { return None };
    name_of_control(number)
}
