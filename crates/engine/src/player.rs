//! A look compiled for a rig, with the state of its effects.

mod pattern;

use std::collections::BTreeMap;
use std::sync::Arc;

use super::aiming::{Asked, LayerAiming, Pointed};
use pattern::PlayedPattern;
use splimo_base::colour::Rgba;
use splimo_light::blend;
use splimo_light::effect::{self, Cells, Effect, Moment, Params};
use splimo_light::layer::LayerMap;
use splimo_light::modulate::Modulators;
use splimo_light::rig::{Rig, TILE};
use splimo_light::still::Onto;
use splimo_show::{Area, Blend, Layer, Look, Region, Repeat, Show, Span};
use splimo_time::music::Hearing;
use splimo_time::rate::Step;

/// The maps of layers, each once: layers that light the same lights in the same way share theirs, which saves memory, and
/// time where the lights are many.
#[derive(Default)]
pub struct Maps(Vec<(MapKey, Arc<LayerMap>)>);

type MapKey = (Vec<String>, Span, Area, Option<Region>, Repeat, BTreeMap<String, String>, Onto);

impl Maps {
    /// Lets go of the maps that no layer uses any more.
    pub(super) fn forget_unused(&mut self) {
        self.0.retain(|(_, map)| Arc::strong_count(map) > 1);
    }

    pub(super) fn of(&mut self, layer: &Layer, show: &Show, rig: &Rig) -> Arc<LayerMap> {
        let region = show.region(&layer.region).cloned();
        let (target, lights) = (layer.target.clone(), layer.lights.clone());
        let key: MapKey = (target, layer.span, layer.area, region, layer.repeat, lights, Onto::of(layer));
        if let Some((_, map)) = self.0.iter().find(|(known, _)| *known == key) {
            return map.clone();
        }
        let map = Arc::new(LayerMap::compile(layer, show, rig));
        self.0.push((key, map.clone()));
        map
    }
}

/// A request to a layer that goes round in cycles.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum PhaseShift {
    /// To glide to the middle of its cycle, where its picture is centred.
    Centre,
    /// To begin anew on a beat.
    RestartAt(f64),
    /// To step on by whole cycles, or back.
    Step(i64),
}

/// The number of LEDs that the scratch of a player holds: those of a tile for an effect, and twice as many again where looks take turns.
pub const SCRATCH: usize = 3 * TILE;

/// A look that can be lit.
pub struct Player {
    layers: Vec<PlayedLayer>,
    /// The pattern over them, if it is one.
    pattern: Option<PlayedPattern>,
}

struct PlayedLayer {
    name: &'static str,
    map: Arc<LayerMap>,
    /// Its place in the look.
    index: usize,
    /// The parameters as the look says, and as they are moved at the moment.
    base: Params,
    params: Params,
    modulators: Modulators,
    effect: Box<dyn Effect>,
    /// The looks that take turns in it, where it is a chase between looks.
    looks: Vec<Player>,
    /// The opacity as the look says, and as it is at the moment.
    full: f32,
    opacity: f32,
    blend: Blend,
    /// By how many turns each part of the span is later than the one before.
    later: f32,
    /// The place in its cycles at which the look has it begin, in turns.
    start: f64,
    /// By how much modulators have it further in its cycles at the moment, in turns.
    driven: f32,
    /// The beat on which it is to begin anew.
    restarts: Option<f64>,
    /// The way it turns heads, if it does.
    aiming: Option<LayerAiming>,
}

impl Player {
    /// Compiles a look. A layer whose effect or parameters are not right is left out, which the check of a document tells.
    #[must_use]
    pub fn compile(look: &Look, show: &Show, rig: &Rig, maps: &mut Maps) -> Self {
        Self::compile_to(look, show, rig, maps, true)
    }

    /// `with_looks` tells whether other looks may take turns in it. Those that take turns show none themselves, so that no
    /// look ever waits for itself.
    pub(super) fn compile_to(look: &Look, show: &Show, rig: &Rig, maps: &mut Maps, with_looks: bool) -> Self {
        let layers = look.seen().filter_map(|(index, layer)| {
            let spec = effect::find(&layer.effect)?;
            let seed = index as u32 + 1;
            let base = Params::compile(spec, &layer.params, &show.palette).ok()?.with_media(&rig.media);
            let looks: Vec<Self> = match with_looks {
                true => base.named_looks().map(|name| Self::in_turn(name, show, rig, maps)).collect(),
                false if base.named_looks().next().is_some() => return None,
                false => Vec::new(),
            };
            Some(PlayedLayer {
                looks,
                aiming: LayerAiming::compile(layer, spec, &base, show, rig),
                name: spec.name,
                index,
                map: maps.of(layer, show, rig),
                params: base.clone(),
                base,
                modulators: Modulators::compile(&layer.modulators, spec, seed),
                effect: (spec.start)(seed),
                full: layer.opacity,
                opacity: layer.opacity,
                blend: layer.blend,
                later: layer.later / 100.0,
                start: layer.phase,
                driven: 0.0,
                restarts: None,
            })
        });
        let layers: Vec<PlayedLayer> = layers.collect();
        let pattern = look.pattern.as_ref();
        let pattern = pattern.map(|pattern| PlayedPattern::compile(pattern, show, rig, maps, with_looks));
        let mut player = Self { layers, pattern };
        // Effects that prepare something do so now and not on stage.
        let silence = Hearing::SILENCE;
        player.advance(&Moment::at(0.0, 0.0, Step::default(), &silence));
        player
    }

    /// A look that takes its turn in another. One that is not there is dark.
    fn in_turn(name: &str, show: &Show, rig: &Rig, maps: &mut Maps) -> Self {
        let dark = Self { layers: Vec::new(), pattern: None };
        show.look(name).map_or(dark, |(_, look)| Self::compile_to(look, show, rig, maps, false))
    }

    /// The same look from its start, for chosen LEDs only.
    #[must_use]
    pub fn thinned(look: &Look, show: &Show, rig: &Rig, leds: &[u32], maps: &mut Maps) -> Self {
        let mut player = Self::compile(look, show, rig, maps);
        player.thin(leds);
        player
    }

    pub(super) fn thin(&mut self, leds: &[u32]) {
        self.pattern.iter_mut().for_each(|pattern| pattern.thin(leds));
        for layer in &mut self.layers {
            layer.map = Arc::new(layer.map.thinned(leds));
            layer.looks.iter_mut().for_each(|look| look.thin(leds));
        }
    }

    /// Goes on where an older player of the same look is: layers with the same effect at the same place take its state
    /// over, so that nothing jumps.
    pub fn take_over(&mut self, older: &mut Self) {
        if let (Some(pattern), Some(before)) = (&mut self.pattern, &mut older.pattern) {
            pattern.take_over(before);
        }
        let mut taken = vec![false; older.layers.len()];
        // Layers that stay where they are first, then those that were moved among the others.
        let mut places: Vec<usize> = (0..self.layers.len()).collect();
        let stays = |layer: &PlayedLayer| older.layers.iter().any(|b| b.index == layer.index && b.name == layer.name);
        places.sort_by_key(|place| !stays(&self.layers[*place]));
        for place in places {
            let layer = &mut self.layers[place];
            let fits = |same_place: bool| {
                let mut all = older.layers.iter().enumerate();
                all.position(|(i, b)| !taken[i] && b.name == layer.name && (b.index == layer.index || !same_place))
            };
            let Some(found) = fits(true).or_else(|| fits(false)) else { continue };
            taken[found] = true;
            let before = &mut older.layers[found];
            if !layer.effect.has_prepared() {
                std::mem::swap(&mut layer.effect, &mut before.effect);
            } else if let (Some(phase), Some(older)) = (layer.effect.phase(), before.effect.phase()) {
                *phase = *older;
            }
            layer.modulators.take_over(&before.modulators);
            for (place, look) in layer.looks.iter_mut().enumerate() {
                // By its name, as others may have been put before it.
                let named =
                    before.base.named_looks().position(|name| layer.base.named_looks().nth(place) == Some(name));
                if let Some(before) = named.and_then(|place| before.looks.get_mut(place)) {
                    look.take_over(before);
                }
            }
            layer.restarts = before.restarts;
        }
    }

    /// Lays where it points a head over where that points without it.
    pub(super) fn point(&self, asked: &Asked<'_>, below: Pointed) -> Pointed {
        let mut pointed = below;
        for layer in &self.layers {
            if let Some(aiming) = &layer.aiming {
                let late = |part: u32| part as f32 * layer.later + layer.late();
                let effect = (&*layer.effect, &layer.params);
                pointed = aiming.point(asked, pointed, effect, layer.opacity, late);
            } else if let Some(turn) = layer.turn() {
                pointed = layer.looks[turn].point(asked, pointed);
            }
        }
        match &self.pattern {
            Some(pattern) => pattern.point(asked, pointed),
            None => pointed,
        }
    }

    /// The number of layers that it lights.
    #[must_use]
    pub fn layers(&self) -> usize {
        self.layers.len()
    }

    /// Goes on to a moment.
    pub fn advance(&mut self, moment: &Moment<'_>) {
        for layer in &mut self.layers {
            if layer.restarts.is_some_and(|beat| moment.beat >= beat) {
                layer.restarts = None;
                if let Some(phase) = layer.effect.phase() {
                    phase.restart();
                }
            }
            let moved = layer.modulators.apply(moment, &layer.base, &mut layer.params);
            layer.opacity = (layer.full + moved.opacity).clamp(0.0, 1.0);
            layer.driven = moved.phase;
            layer.effect.advance(&layer.params, moment);
            if !layer.looks.is_empty() {
                for turn in layer.effect.turns(&layer.params, layer.late()).iter().filter(|turn| turn.share > 0.0) {
                    layer.looks[turn.look].advance(moment);
                }
            }
        }
        if let Some(pattern) = &mut self.pattern {
            pattern.advance(moment);
        }
    }

    /// The place where its pattern is, in beats, if it is one and has not been played.
    #[must_use]
    pub fn pattern_place(&self) -> Option<f64> {
        self.pattern.as_ref()?.place()
    }

    /// The number of times that its pattern has come to its end up to a beat, if it is one.
    #[must_use]
    pub fn pattern_ends(&self, beat: f64) -> Option<u64> {
        Some(self.pattern.as_ref()?.ends(beat))
    }

    /// Begins on a beat, where it comes onto the stage: the turns of its looks, so that they change where the music does, and its
    /// pattern, with the bar that the beat is in.
    pub fn begin(&mut self, beat: f64) {
        if let Some(pattern) = &mut self.pattern {
            pattern.begin(beat);
        }
        for layer in self.layers.iter_mut().filter(|layer| !layer.looks.is_empty()) {
            if let Some(phase) = layer.effect.phase() {
                phase.restart();
            }
        }
    }

    /// Has what waits for a beat wait for the same one where beats are counted from elsewhere.
    pub fn shift_beats(&mut self, by: f64) {
        self.pattern.iter_mut().for_each(|pattern| pattern.shift(by));
        for layer in &mut self.layers {
            layer.restarts = layer.restarts.map(|beat| beat + by);
            layer.looks.iter_mut().for_each(|look| look.shift_beats(by));
        }
    }

    /// Moves a layer, or all of them, in their cycles.
    pub fn shift(&mut self, layer: Option<usize>, shift: PhaseShift) {
        for played in self.layers.iter_mut().filter(|played| layer.is_none_or(|index| played.index == index)) {
            let centre = played.effect.centre() - played.start - f64::from(played.driven);
            match (shift, played.effect.phase()) {
                (PhaseShift::Centre, Some(phase)) => phase.glide_to(centre),
                (PhaseShift::RestartAt(beat), Some(_)) => played.restarts = Some(beat),
                (PhaseShift::Step(by), Some(_)) => played.effect.step(&played.params, by),
                (PhaseShift::Centre | PhaseShift::RestartAt(_) | PhaseShift::Step(_), None) => {}
            }
        }
    }

    /// The phase of each layer that goes round in cycles, in turns, with its place in the look.
    pub fn phases(&mut self) -> impl Iterator<Item = (usize, f64)> + '_ {
        self.layers.iter_mut().filter_map(|layer| {
            let turns = layer.effect.phase()?.total();
            Some((layer.index, turns + layer.start + f64::from(layer.driven)))
        })
    }

    /// The values of the modulators of a layer at the moment, -1..1.
    pub fn modulation(&self, layer: usize) -> impl Iterator<Item = f32> + '_ {
        self.layers.iter().filter(move |played| played.index == layer).flat_map(|played| played.modulators.values())
    }

    /// Lights a tile, which holds as many LEDs as `light`; what was there before is gone. `scratch` is [`SCRATCH`] long.
    pub fn light(&self, tile: usize, light: &mut [Rgba], scratch: &mut [Rgba]) {
        // Where the first layer covers the whole tile, nothing has to be made black for it to lie on.
        let covers =
            |layer: &PlayedLayer| matches!(layer.map.pieces_of(tile), [one] if one.count as usize == light.len());
        let covered = self.layers.first().is_some_and(|layer| layer.looks.is_empty() && covers(layer));
        if !covered {
            light.fill([0.0; 4]);
        }
        for (index, layer) in self.layers.iter().enumerate() {
            if !layer.looks.is_empty() {
                layer.light_looks(tile, light, scratch);
                continue;
            }
            for piece in layer.map.pieces_of(tile) {
                let start = piece.start as usize;
                let range = start..start + piece.count as usize;
                let cells = Cells {
                    x: &layer.map.x[range.clone()],
                    y: &layer.map.y[range.clone()],
                    width: piece.width,
                    height: piece.height,
                    late: piece.part as f32 * layer.later + layer.late(),
                    around: layer.map.around.get(range.clone()).unwrap_or(&[]),
                    lights_around: layer.map.lights_around,
                    held: layer.map.held.get(range).unwrap_or(&[]),
                };
                if covered && index == 0 {
                    layer.effect.light(&layer.params, &cells, light);
                    blend::on_black(layer.blend, light, layer.opacity);
                    continue;
                }
                let out = &mut scratch[..piece.count as usize];
                layer.effect.light(&layer.params, &cells, out);
                let first = piece.led as usize % TILE;
                let below = &mut light[first..first + out.len()];
                blend::blend(layer.blend, below, out, layer.opacity);
            }
        }
        if let Some(pattern) = &self.pattern {
            pattern.light(tile, light, scratch);
        }
    }
}

impl PlayedLayer {
    /// The look whose turn it is, most of all.
    fn turn(&self) -> Option<usize> {
        let [now, next] = (!self.looks.is_empty()).then(|| self.effect.turns(&self.params, self.late()))?;
        Some(if next.share > now.share { next.look } else { now.look })
    }

    fn late(&self) -> f32 {
        -(self.start as f32 + self.driven)
    }

    /// Lights a tile with the looks whose turn it is, as far as the layer has its lights.
    fn light_looks(&self, tile: usize, light: &mut [Rgba], scratch: &mut [Rgba]) {
        let pieces = self.map.pieces_of(tile);
        if pieces.is_empty() {
            return;
        }
        let [now, next] = self.effect.turns(&self.params, self.late());
        let (shown, rest) = scratch.split_at_mut(TILE);
        let shown = &mut shown[..light.len()];
        self.looks[now.look].light(tile, shown, rest);
        if next.share > 0.0 {
            blend::scale(shown, now.share);
            let (coming, rest) = rest.split_at_mut(TILE);
            let coming = &mut coming[..light.len()];
            self.looks[next.look].light(tile, coming, rest);
            blend::add_weighted(shown, coming, next.share);
        }
        // A look covers what is below it, where it is dark too.
        shown.iter_mut().for_each(|light| light[3] = 1.0);
        for piece in pieces {
            let first = piece.led as usize % TILE;
            let range = first..first + piece.count as usize;
            blend::blend(self.blend, &mut light[range.clone()], &shown[range], self.opacity);
        }
    }
}
