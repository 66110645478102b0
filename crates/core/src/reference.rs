//! References: where a show names something else of itself. Everything that follows names goes through here: renaming,
//! removing, lists of uses, and `check`. A new kind of reference has one place more in [`visit`] and one in [`rewrite`].
//!
//! A formula that calls `control(n)` is not counted: `n` may be computed.

use std::collections::{HashMap, HashSet};
use std::fmt;

use crate::edit::followed;
use crate::effect::{self, ParamKind};
use crate::palette;
use crate::show::{Layer, Look, Modulator, ModulatorSource, Param, Place, Show};

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

/// A place where a show refers to something, by indices from 0.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Site<'s> {
    /// The profile of a fixture.
    Profile(usize),
    /// A member of a group.
    Member {
        /// The group.
        group: usize,
        /// The member within it.
        at: usize,
    },
    /// A light that a supply feeds.
    Feed {
        /// The supply.
        supply: usize,
        /// The place in its list.
        at: usize,
    },
    /// A light that a layer has for its target.
    Target {
        /// The layer.
        of: LayerAt,
        /// The place in its list.
        at: usize,
    },
    /// A fixture whose lights a layer holds.
    Light {
        /// The layer.
        of: LayerAt,
        /// The fixture's name.
        fixture: &'s str,
    },
    /// A look that takes its turn in a layer.
    Turn {
        /// The layer.
        of: LayerAt,
        /// The parameter.
        param: &'s str,
        /// The place in its list.
        at: usize,
    },
    /// A colour of a layer that stands in the palette.
    Colour {
        /// The layer.
        of: LayerAt,
        /// The parameter.
        param: &'s str,
        /// The place in its list.
        at: usize,
    },
    /// A modulator that follows a control.
    Control {
        /// The layer.
        of: LayerAt,
        /// The modulator within it.
        modulator: usize,
    },
}

impl Site<'_> {
    /// The kinds that may be named here.
    #[must_use]
    pub fn accepts(&self) -> &'static [ReferenceKind] {
        match self {
            Self::Profile(_) => &[ReferenceKind::Profile],
            Self::Member { .. } | Self::Light { .. } => &[ReferenceKind::Fixture],
            Self::Feed { .. } | Self::Target { .. } => &[ReferenceKind::Group, ReferenceKind::Fixture],
            Self::Turn { .. } => &[ReferenceKind::Look],
            Self::Colour { .. } => &[ReferenceKind::Swatch],
            Self::Control { .. } => &[ReferenceKind::Control],
        }
    }

    /// The layer that it belongs to, if it is in one.
    #[must_use]
    pub fn layer(&self) -> Option<LayerAt> {
        match self {
            Self::Profile(_) | Self::Member { .. } | Self::Feed { .. } => None,
            Self::Target { of, .. }
            | Self::Light { of, .. }
            | Self::Turn { of, .. }
            | Self::Colour { of, .. }
            | Self::Control { of, .. } => Some(*of),
        }
    }

    /// Its place in the document.
    #[must_use]
    pub fn place(&self) -> Place {
        let entry = |list: &str, index: usize| Place::root().key(list).index(index);
        let layer = |of: &LayerAt| entry("looks", of.look).key("layers").index(of.layer);
        match self {
            Self::Profile(fixture) => entry("fixtures", *fixture).key("profile"),
            Self::Member { group, at } => entry("groups", *group).key("members").index(*at),
            Self::Feed { supply, at } => entry("supplies", *supply).key("feeds").index(*at),
            Self::Target { of, at } => layer(of).key("target").index(*at),
            Self::Light { of, fixture } => layer(of).key("lights").key(fixture),
            Self::Turn { of, param, at } | Self::Colour { of, param, at } => {
                layer(of).key("params").key(param).index(*at)
            }
            Self::Control { of, modulator } => layer(of).key("modulators").index(*modulator),
        }
    }

    /// The user of the reference.
    #[must_use]
    pub fn user(&self, show: &Show) -> Use {
        let (kind, name) = match self {
            Self::Profile(fixture) => (ReferenceKind::Fixture, &show.fixtures[*fixture].name),
            Self::Member { group, .. } => (ReferenceKind::Group, &show.groups[*group].name),
            Self::Feed { supply, .. } => (ReferenceKind::Supply, &show.supplies[*supply].name),
            Self::Target { of, .. }
            | Self::Light { of, .. }
            | Self::Turn { of, .. }
            | Self::Colour { of, .. }
            | Self::Control { of, .. } => (ReferenceKind::Look, &show.looks[of.look].name),
        };
        Use { kind, name: name.clone(), layer: self.layer().map(|of| of.layer) }
    }

    /// The user of the reference, with the effect of the layer.
    #[must_use]
    pub fn subject(&self, show: &Show) -> String {
        let user = self.user(show);
        match self.layer() {
            Some(of) => format!("{user} ({})", show.looks[of.look].layers[of.layer].effect),
            None => user.to_string(),
        }
    }
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

/// Calls `found` with every reference of a show: where it is and what is named there.
pub fn visit<'s>(show: &'s Show, mut found: impl FnMut(Site<'s>, &'s str)) {
    for (index, fixture) in show.fixtures.iter().enumerate() {
        found(Site::Profile(index), &fixture.profile);
    }
    for (group, one) in show.groups.iter().enumerate() {
        one.members.iter().enumerate().for_each(|(at, name)| found(Site::Member { group, at }, name));
    }
    for (supply, one) in show.supplies.iter().enumerate() {
        one.feeds.iter().enumerate().for_each(|(at, name)| found(Site::Feed { supply, at }, name));
    }
    for (look, one) in show.looks.iter().enumerate() {
        for (layer, one) in one.layers.iter().enumerate() {
            visit_layer(one, LayerAt { look, layer }, &mut found);
        }
    }
}

fn visit_layer<'s>(layer: &'s Layer, of: LayerAt, found: &mut impl FnMut(Site<'s>, &'s str)) {
    layer.target.iter().enumerate().for_each(|(at, name)| found(Site::Target { of, at }, name));
    layer.lights.keys().for_each(|fixture| found(Site::Light { of, fixture }, fixture));
    for (param, value) in &layer.params {
        match named_by(&layer.effect, param) {
            Some(ReferenceKind::Look) => {
                texts(value).iter().enumerate().for_each(|(at, name)| found(Site::Turn { of, param, at }, name));
            }
            Some(ReferenceKind::Swatch) => {
                let names =
                    texts(value).iter().enumerate().filter_map(|(at, text)| Some((at, palette::referred(text)?.0)));
                names.for_each(|(at, name)| found(Site::Colour { of, param, at }, name));
            }
            _ => {}
        }
    }
    for (modulator, one) in layer.modulators.iter().enumerate() {
        if let Some(name) = control_of(one) {
            found(Site::Control { of, modulator }, name);
        }
    }
}

/// The fate of a reference.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Fate<'n> {
    /// It stays as it is.
    Keep,
    /// It names something else. A control is not renamed.
    Rename(&'n str),
    /// It is taken out. A profile is not: every fixture has one.
    Remove,
}

/// Asks about every reference of a show, by what may be named there and what is, and does with it what the answer says. Two
/// that became the same in a list that says *which* are made one. Returns the layers that had a target and have none left.
pub fn rewrite<'n>(show: &mut Show, mut ask: impl FnMut(&[ReferenceKind], &str) -> Fate<'n>) -> Vec<LayerAt> {
    for fixture in &mut show.fixtures {
        if let Fate::Rename(new) = ask(&[ReferenceKind::Profile], &fixture.profile) {
            new.clone_into(&mut fixture.profile);
        }
    }
    for group in &mut show.groups {
        rewrite_set(&mut group.members, |name| ask(&[ReferenceKind::Fixture], name));
    }
    for supply in &mut show.supplies {
        rewrite_set(&mut supply.feeds, |name| ask(&[ReferenceKind::Group, ReferenceKind::Fixture], name));
    }
    let mut emptied = Vec::new();
    for (index, look) in show.looks.iter_mut().enumerate() {
        emptied.extend(rewrite_look(look, &mut ask).into_iter().map(|layer| LayerAt { look: index, layer }));
    }
    emptied
}

/// The same for one look. Returns the layers that had a target and have none left.
pub fn rewrite_look<'n>(look: &mut Look, ask: &mut impl FnMut(&[ReferenceKind], &str) -> Fate<'n>) -> Vec<usize> {
    let layers = look.layers.iter_mut().enumerate();
    layers.filter_map(|(index, layer)| rewrite_layer(layer, ask).then_some(index)).collect()
}

/// The same for one layer. Whether it had a target and has none left.
pub fn rewrite_layer<'n>(layer: &mut Layer, ask: &mut impl FnMut(&[ReferenceKind], &str) -> Fate<'n>) -> bool {
    let had_target = !layer.target.is_empty();
    rewrite_set(&mut layer.target, |name| ask(&[ReferenceKind::Group, ReferenceKind::Fixture], name));
    rewrite_lights(layer, |name| ask(&[ReferenceKind::Fixture], name));
    let Layer { effect, params, modulators, .. } = layer;
    params.retain(|param, value| {
        let Some(kind) = named_by(effect, param) else { return true };
        match value {
            Param::List(list) => list.retain_mut(|text| rewrite_text(text, kind, |name| ask(&[kind], name))),
            Param::Text(text) => return rewrite_text(text, kind, |name| ask(&[kind], name)),
            Param::Flag(_) | Param::Number(_) => {}
        }
        true
    });
    modulators.retain(|one| control_of(one).is_none_or(|name| ask(&[ReferenceKind::Control], name) != Fate::Remove));
    had_target && layer.target.is_empty()
}

fn rewrite_set<'n>(names: &mut Vec<String>, mut ask: impl FnMut(&str) -> Fate<'n>) {
    let mut renamed = false;
    names.retain_mut(|name| match ask(name) {
        Fate::Keep => true,
        Fate::Rename(new) => {
            renamed = true;
            new.clone_into(name);
            true
        }
        Fate::Remove => false,
    });
    if renamed {
        let mut seen = HashSet::new();
        names.retain(|name| seen.insert(name.clone()));
    }
}

fn rewrite_lights<'n>(layer: &mut Layer, mut ask: impl FnMut(&str) -> Fate<'n>) {
    let mut renamed = Vec::new();
    layer.lights.retain(|name, lights| match ask(name) {
        Fate::Keep => true,
        Fate::Rename(new) => {
            renamed.push((new.to_owned(), std::mem::take(lights)));
            false
        }
        Fate::Remove => false,
    });
    layer.lights.extend(renamed);
}

/// Changes what is named in a text of a parameter. Whether the text stays.
fn rewrite_text<'n>(text: &mut String, kind: ReferenceKind, mut ask: impl FnMut(&str) -> Fate<'n>) -> bool {
    if kind != ReferenceKind::Swatch {
        let fate = ask(text);
        if let Fate::Rename(new) = fate {
            new.clone_into(text);
        }
        return fate != Fate::Remove;
    }
    let Some((name, behind)) = palette::referred(text) else { return true };
    match ask(name) {
        Fate::Keep => true,
        Fate::Rename(new) => {
            *text = format!("{} {behind}", palette::reference(new)).trim_end().to_owned();
            true
        }
        Fate::Remove => false,
    }
}

/// The kind that the texts of an effect's parameter name, if they name anything.
fn named_by(effect: &str, param: &str) -> Option<ReferenceKind> {
    let spec = effect::find(effect)?.params.iter().find(|spec| spec.name == param)?;
    match spec.kind {
        ParamKind::Looks => Some(ReferenceKind::Look),
        ParamKind::Colours { .. } => Some(ReferenceKind::Swatch),
        ParamKind::Number { .. }
        | ParamKind::Rate { .. }
        | ParamKind::Choice { .. }
        | ParamKind::Text { .. }
        | ParamKind::File { .. } => None,
    }
}

fn texts(param: &Param) -> &[String] {
    match param {
        Param::List(list) => list,
        Param::Text(text) => std::slice::from_ref(text),
        _ => &[],
    }
}

/// The names of the controls.
const CONTROL_NAMES: [&str; effect::CONTROLS] =
    ["1", "2", "3", "4", "5", "6", "7", "8", "9", "10", "11", "12", "13", "14", "15", "16"];

/// The name of the control that a modulator follows, if it follows one.
fn control_of(modulator: &Modulator) -> Option<&'static str> {
    let ModulatorSource::Control(number) = modulator.source else { return None };
    CONTROL_NAMES.get((number as usize).wrapping_sub(1)).copied()
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
        ReferenceKind::Control => Box::new(CONTROL_NAMES.into_iter()),
    }
}

/// The changes of names between two editions of a show: what is called otherwise, and what is gone.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct NameChanges(HashMap<(ReferenceKind, String), Option<String>>);

impl NameChanges {
    /// The changes from one edition to another.
    #[must_use]
    pub fn between(before: &Show, after: &Show) -> Self {
        let mut changes = HashMap::new();
        for kind in [
            ReferenceKind::Look,
            ReferenceKind::Fixture,
            ReferenceKind::Group,
            ReferenceKind::Profile,
            ReferenceKind::Swatch,
            ReferenceKind::Supply,
        ] {
            let [was, is] = [before, after].map(|show| names(show, kind).collect::<Vec<_>>());
            if was == is {
                continue;
            }
            for (name, place) in was.iter().zip(followed(&was, &is)) {
                let now = place.and_then(|place| is.get(place)).map(|now| (*now).to_owned());
                if now.as_deref() != Some(name) {
                    changes.insert((kind, (*name).to_owned()), now);
                }
            }
        }
        Self(changes)
    }

    /// Whether nothing has.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// The fate of a reference.
    #[must_use]
    pub fn fate(&self, kinds: &[ReferenceKind], name: &str) -> Fate<'_> {
        match kinds.iter().find_map(|kind| self.0.get(&(*kind, name.to_owned()))) {
            None => Fate::Keep,
            Some(Some(now)) => Fate::Rename(now),
            Some(None) => Fate::Remove,
        }
    }
}

#[cfg(test)]
mod tests;
