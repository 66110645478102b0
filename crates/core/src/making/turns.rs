//! Chases between looks: which looks take turns in which others.

use crate::effect::{self, Kind};
use crate::show::{Layer, Look, Param, Show};

/// How many looks a chase gets that nobody has named.
const FIRST_FEW: usize = 4;

/// The name of the effect.
const EFFECT: &str = "looks";

/// A layer in which looks take turns.
#[must_use]
pub fn in_turn(names: &[&str]) -> Layer {
    let mut layer = Layer::new(EFFECT);
    let names = names.iter().map(|&name| name.to_owned()).collect();
    layer.params.insert("looks".to_owned(), Param::List(names));
    layer
}

/// The names of a few looks behind the one of this name that show no others, for a chase to begin with.
#[must_use]
pub fn next_looks<'s>(show: &'s Show, name: &str) -> Vec<&'s str> {
    let after = show.look(name).map_or(0, |(index, _)| index + 1);
    let behind = show.looks.iter().skip(after).chain(show.looks.iter().take(after));
    let simple = |look: &&Look| look.name != name && !look.layers.iter().any(|l| turns_of(l).next().is_some());
    behind.filter(simple).map(|look| look.name.as_str()).take(FIRST_FEW).collect()
}

/// The names of looks that take turns in a layer, with the parameter that has them.
pub(crate) fn turns_of(layer: &Layer) -> impl Iterator<Item = (&'static str, usize, &str)> {
    let params = effect::find(&layer.effect).map_or(&[][..], |spec| spec.params);
    params.iter().filter(|param| matches!(param.kind, Kind::Looks)).flat_map(|param| {
        let names = if let Some(Param::List(names)) = layer.params.get(param.name) { &names[..] } else { &[] };
        names.iter().enumerate().map(|(place, name)| (param.name, place, name.as_str()))
    })
}

/// Puts another name, or none, where a look takes its turn.
pub(crate) fn rename_turns(show: &mut Show, old: &str, new: Option<&str>) {
    for layer in show.looks.iter_mut().flat_map(|look| &mut look.layers).filter(|layer| layer.effect == EFFECT) {
        let Some(Param::List(names)) = layer.params.get_mut("looks") else { continue };
        match new {
            Some(new) => names.iter_mut().filter(|name| *name == old).for_each(|name| new.clone_into(name)),
            None => names.retain(|name| name != old),
        }
    }
}
