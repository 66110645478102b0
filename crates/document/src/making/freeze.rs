//! Freezing what is on the lights into a look that stands still.

use crate::edit::Edit;
use splimo_engine::Published;
use splimo_light::effect::{self, ParamKind};
use splimo_light::rig::Rig;
use splimo_light::still;
use splimo_show::{Layer, Look, Param, Show};

/// A look whose layers stand still where they are in their cycles now: `phases` has the place of a layer in the look, and
/// its turns. Effects that have no phase, such as simulations and those that follow the music, go on.
#[must_use]
pub fn frozen_layers(look: &Look, phases: &[(usize, f64)]) -> Look {
    let mut frozen = look.clone();
    for (index, layer) in frozen.layers.iter_mut().enumerate() {
        let Some((_, turns)) = phases.iter().find(|(place, _)| *place == index) else { continue };
        layer.phase = *turns;
        let Some(spec) = effect::find(&layer.effect) else { continue };
        for param in spec.params.iter().filter(|param| matches!(param.kind, ParamKind::Rate { .. })) {
            layer.params.insert(param.name.to_owned(), Param::Text("stopped".to_owned()));
        }
        layer.modulators.clear();
    }
    frozen.name = format!("{} still", look.name);
    frozen
}

/// The edit that adds a look which holds the colour of each light, after the look that landed last.
#[must_use]
pub fn frozen_light(name: &str, published: &Published, show: &Show, rig: &Rig) -> Edit {
    let mut layer = Layer::new("still");
    layer.lights = still::hold(&published.light, show, rig);
    let on_stage = published.snapshot.stage.first().map(|on_stage| on_stage.look);
    let place = on_stage.map_or(show.looks.len(), |look| (look + 1).min(show.looks.len()));
    Edit::AddLooks(place, vec![Look::new(name, vec![layer])])
}
