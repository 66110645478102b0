//! A look compiled for a rig, with the state of its effects.

use crate::blend;
use crate::colour::Rgba;
use crate::effect::{self, Cells, Effect, Moment, Params};
use crate::layer::LayerMap;
use crate::rig::Rig;
use crate::show::{Blend, Look, Show};

/// A look that can be lit.
pub struct Player {
    layers: Vec<PlayedLayer>,
}

struct PlayedLayer {
    name: &'static str,
    map: LayerMap,
    params: Params,
    effect: Box<dyn Effect>,
    opacity: f32,
    blend: Blend,
}

impl Player {
    /// Compiles a look. A layer whose effect or parameters are not right is left out, which [`crate::check`] tells.
    #[must_use]
    pub fn compile(look: &Look, show: &Show, rig: &Rig) -> Self {
        let layers = look.layers.iter().enumerate().filter_map(|(index, layer)| {
            let spec = effect::find(&layer.effect)?;
            Some(PlayedLayer {
                name: spec.name,
                map: LayerMap::compile(layer, show, rig),
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
        let mut player = Self::compile(look, show, rig);
        for layer in &mut player.layers {
            layer.map = layer.map.thinned(leds);
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

    /// Lays its layers on the light of a tile, which holds as many LEDs as the tile has. `scratch` is as long as a tile.
    pub fn light(&self, tile: usize, light: &mut [Rgba], scratch: &mut [Rgba]) {
        for layer in &self.layers {
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
                blend::blend(layer.blend, &mut light[first..first + out.len()], out, layer.opacity);
            }
        }
    }
}
