//! Chases between looks: which looks take turns in which others.

use splimo_light::effect::{self, ParamKind};
use splimo_show::{Layer, Look, Param, Show};

/// The number of looks that a chase gets that nobody has named.
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
    let simple = |look: &&Look| look.name != name && !look.layers.iter().any(has_turns);
    behind.filter(simple).map(|look| look.name.as_str()).take(FIRST_FEW).collect()
}

/// True if looks take turns in a layer.
pub(crate) fn has_turns(layer: &Layer) -> bool {
    let params = effect::find(&layer.effect).map_or(&[][..], |spec| spec.params);
    let named = |name: &str| matches!(layer.params.get(name), Some(Param::List(names)) if !names.is_empty());
    params.iter().any(|param| matches!(param.kind, ParamKind::Looks) && named(param.name))
}
