//! A look compiled for a rig, with the state of its effects.

use std::sync::Arc;

use crate::blend;
use crate::colour::Rgba;
use crate::effect::{self, Cells, Effect, Moment, Params};
use crate::layer::LayerMap;
use crate::rig::Rig;
use crate::show::{Area, Blend, Layer, Look, Show, Span};

/// The maps of layers, each once: layers that light the same lights in the same way share theirs, which saves memory, and
/// time where the lights are many.
#[derive(Default)]
pub struct Maps(Vec<(MapKey, Arc<LayerMap>)>);

type MapKey = (Vec<String>, Span, Area);

impl Maps {
    fn of(&mut self, layer: &Layer, show: &Show, rig: &Rig) -> Arc<LayerMap> {
        let known = self
            .0
            .iter()
            .find(|((target, span, area), _)| *target == layer.target && *span == layer.span && *area == layer.area);
        if let Some((_, map)) = known {
            return map.clone();
        }
        let map = Arc::new(LayerMap::compile(layer, show, rig));
        self.0.push(((layer.target.clone(), layer.span, layer.area), map.clone()));
        map
    }
}

/// A look that can be lit.
pub struct Player {
    layers: Vec<PlayedLayer>,
}

struct PlayedLayer {
    name: &'static str,
    map: Arc<LayerMap>,
    params: Params,
    effect: Box<dyn Effect>,
    opacity: f32,
    blend: Blend,
}

impl Player {
    /// Compiles a look. A layer whose effect or parameters are not right is left out, which [`crate::check`] tells.
    #[must_use]
    pub fn compile(look: &Look, show: &Show, rig: &Rig, maps: &mut Maps) -> Self {
        let layers = look.layers.iter().enumerate().filter_map(|(index, layer)| {
            let spec = effect::find(&layer.effect)?;
            Some(PlayedLayer {
                name: spec.name,
                map: maps.of(layer, show, rig),
                params: Params::compile(spec, &layer.params).ok()?,
                effect: (spec.start)(index as u32 + 1),
                opacity: layer.opacity,
                blend: layer.blend,
            })
        });
        let mut player = Self { layers: layers.collect() };
        // Effects that prepare something do so now and not on stage.
        let still = Moment { step: Default::default(), time: 0.0, beat: 0.0, hearing: &Default::default() };
        player.advance(&still);
        player
    }

    /// The same look from its start, for chosen LEDs only.
    #[must_use]
    pub fn thinned(look: &Look, show: &Show, rig: &Rig, leds: &[u32]) -> Self {
        let mut player = Self::compile(look, show, rig, &mut Maps::default());
        for layer in &mut player.layers {
            layer.map = Arc::new(layer.map.thinned(leds));
        }
        player
    }

    /// Goes on where an older player of the same look is: layers with the same effect at the same place take its state
    /// over, so that nothing jumps.
    pub fn take_over(&mut self, older: &mut Self) {
        for (layer, before) in self.layers.iter_mut().zip(&mut older.layers).filter(|(a, b)| a.name == b.name) {
            std::mem::swap(&mut layer.effect, &mut before.effect);
        }
    }

    /// Goes on to a moment.
    pub fn advance(&mut self, moment: &Moment<'_>) {
        for layer in &mut self.layers {
            layer.effect.advance(&layer.params, moment);
        }
    }

    /// Lights a tile, which holds as many LEDs as `light`; what was there before is gone. `scratch` is as long as a tile.
    pub fn light(&self, tile: usize, light: &mut [Rgba], scratch: &mut [Rgba]) {
        // Where the first layer covers the whole tile, nothing has to be made black for it to lie on.
        let covers =
            |layer: &PlayedLayer| matches!(layer.map.pieces_of(tile), [one] if one.count as usize == light.len());
        let covered = self.layers.first().is_some_and(covers);
        if !covered {
            light.fill([0.0; 4]);
        }
        for (index, layer) in self.layers.iter().enumerate() {
            for piece in layer.map.pieces_of(tile) {
                let start = piece.start as usize;
                let range = start..start + piece.count as usize;
                let cells = Cells {
                    x: &layer.map.x[range.clone()],
                    y: &layer.map.y[range],
                    width: piece.width,
                    height: piece.height,
                };
                let out = &mut scratch[..piece.count as usize];
                layer.effect.light(&layer.params, &cells, out);
                let first = piece.led as usize % crate::rig::TILE;
                let below = &mut light[first..first + out.len()];
                if covered && index == 0 {
                    blend::on_black(layer.blend, below, out, layer.opacity);
                } else {
                    blend::blend(layer.blend, below, out, layer.opacity);
                }
            }
        }
    }
}
