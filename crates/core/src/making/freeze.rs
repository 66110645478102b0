//! What is on the lights now as a look that stands still.

use crate::effect::{self, Kind};
use crate::rig::Rig;
use crate::show::{Layer, Look, Param, Show};
use crate::still;

/// A look whose layers stand still where they are in their cycles now: `phases` has the place of a layer in the look, and
/// its turns. Effects that have no phase, such as simulations and those that follow the music, go on.
#[must_use]
pub fn frozen_layers(look: &Look, phases: &[(usize, f64)]) -> Look {
    let mut frozen = look.clone();
    for (index, layer) in frozen.layers.iter_mut().enumerate() {
        let Some((_, turns)) = phases.iter().find(|(place, _)| *place == index) else { continue };
        layer.phase = *turns;
        let Some(spec) = effect::find(&layer.effect) else { continue };
        for param in spec.params.iter().filter(|param| matches!(param.kind, Kind::Rate { .. })) {
            layer.params.insert(param.name.to_owned(), Param::Text("stopped".to_owned()));
        }
        layer.modulators.clear();
    }
    frozen.name = format!("{} still", look.name);
    frozen
}

/// A look that holds a colour for each light.
#[must_use]
pub fn frozen_light(name: &str, light: &[[f32; 3]], show: &Show, rig: &Rig) -> Look {
    let mut layer = Layer::new("still");
    layer.lights = still::hold(light, show, rig);
    Look::new(name, vec![layer])
}
