//! A pattern compiled for a rig: what each of its lanes gives to each of its lights at the moment.

use std::sync::Arc;

use super::course::Course;
use super::player::{Maps, Player};
use crate::colour::Rgba;
use crate::effect::Moment;
use crate::layer::LayerMap;
use crate::maths;
use crate::palette;
use crate::ramp::{Mixing, Ramp};
use crate::rig::{Rig, TILE};
use crate::show::{Lane, LaneKind, Layer, Look, PATTERN_BAR, Pattern, Show};

/// A pattern that can be lit.
pub(super) struct PlayedPattern {
    /// Its length in beats.
    length: f64,
    once: bool,
    speed: f64,
    tempo: Option<f64>,
    lanes: Vec<PlayedLane>,
    /// The beat on which it began, and the time.
    began: f64,
    began_at: Option<f64>,
    /// The beats since it began, at its own speed.
    at: f64,
}

struct PlayedLane {
    kind: LaneKind,
    map: Arc<LayerMap>,
    course: Course,
    /// By how many beats each light is later than the one before.
    later: f64,
    /// The rate of each event, in flashes a second.
    rates: Vec<f64>,
    /// The place in the order of each half step along the map, as far as a light lies there; one place where all are together.
    places: Vec<Option<f64>>,
    /// What it gives at each of these places at the moment.
    values: Vec<Rgba>,
    looks: Vec<(String, Player)>,
    /// The look of each event.
    look_of: Vec<Option<usize>>,
    on: Option<usize>,
}

impl PlayedPattern {
    /// Compiles a pattern. `with_looks` tells whether its lanes may show other looks.
    pub(super) fn compile(pattern: &Pattern, show: &Show, rig: &Rig, maps: &mut Maps, with_looks: bool) -> Self {
        let length = pattern.length().beats().max(1.0);
        let lanes = pattern.lanes.iter().filter(|lane| !lane.mute && (with_looks || lane.kind != LaneKind::Look));
        Self {
            length,
            once: pattern.once,
            speed: pattern.speed,
            tempo: pattern.tempo,
            lanes: lanes.map(|lane| PlayedLane::compile(lane, length, !pattern.once, show, rig, maps)).collect(),
            began: 0.0,
            began_at: None,
            at: 0.0,
        }
    }

    /// Begins anew with the bar that a beat is in.
    pub(super) fn begin(&mut self, beat: f64) {
        self.began = bar_of(beat);
        self.began_at = None;
    }

    /// Moves the count of beats. What began with a bar began with a bar of the new count.
    pub(super) fn shift(&mut self, beats: f64) {
        let bar = f64::from(PATTERN_BAR);
        self.began = ((self.began + beats) / bar).round() * bar;
        self.looks().for_each(|look| look.shift_beats(beats));
    }

    fn looks(&mut self) -> impl Iterator<Item = &mut Player> {
        self.lanes.iter_mut().flat_map(|lane| lane.looks.iter_mut()).map(|(_, look)| look)
    }

    /// Goes on where an older one of the same name is.
    pub(super) fn take_over(&mut self, older: &mut Self) {
        (self.began, self.began_at, self.at) = (older.began, older.began_at, older.at);
        for (place, lane) in self.lanes.iter_mut().enumerate() {
            let Some(before) = older.lanes.get_mut(place) else { continue };
            for (name, look) in &mut lane.looks {
                if let Some((_, before)) = before.looks.iter_mut().find(|(known, _)| known == name) {
                    look.take_over(before);
                }
            }
        }
    }

    /// Keeps chosen LEDs only.
    pub(super) fn thin(&mut self, leds: &[u32]) {
        for lane in &mut self.lanes {
            lane.map = Arc::new(lane.map.thinned(leds));
            lane.looks.iter_mut().for_each(|(_, look)| look.thin(leds));
        }
    }

    /// The place where it is, in beats since it began and within it; none once it has been played.
    pub(super) fn place(&self) -> Option<f64> {
        match self.once {
            true => (self.at < self.length).then_some(self.at),
            false => Some(self.at.rem_euclid(self.length)),
        }
    }

    /// The number of times that it has come to its end up to a beat. Of one with a tempo of its own: up to the last moment.
    pub(super) fn ends(&self, beat: f64) -> u64 {
        let at = if self.tempo.is_some() { self.at } else { (beat - self.began) * self.speed };
        (at / self.length).max(0.0) as u64
    }

    /// Goes on to a moment.
    pub(super) fn advance(&mut self, moment: &Moment<'_>) {
        let began_at = *self.began_at.get_or_insert(moment.time);
        self.at = self.speed
            * match self.tempo {
                Some(tempo) => (moment.time - began_at) * tempo / 60.0,
                None => moment.beat - self.began,
            };
        let pace = self.speed * self.tempo.unwrap_or(f64::from(moment.tempo)) / 60.0;
        for lane in &mut self.lanes {
            lane.advance(self.at, pace, moment);
        }
    }

    /// Lays it over the light of a tile. `scratch` is as long as that of a player.
    pub(super) fn light(&self, tile: usize, light: &mut [Rgba], scratch: &mut [Rgba]) {
        for lane in &self.lanes {
            lane.light(tile, light, scratch);
        }
    }
}

/// The beat with which the bar of a beat begins.
fn bar_of(beat: f64) -> f64 {
    let bar = f64::from(PATTERN_BAR);
    (beat / bar).floor() * bar
}

/// The places of the lights of a lane: for each half step along its map, where in the order it is.
fn places_of(lane: &Lane, map: &LayerMap) -> Vec<Option<f64>> {
    if lane.later.is_none() {
        return vec![Some(0.0)];
    }
    let steps = map.x.iter().map(|x| step_of(*x)).max().unwrap_or(0) + 1;
    let mut places = vec![None; steps];
    for x in &map.x {
        places[step_of(*x)] = Some(f64::from(*x) - 0.5);
    }
    if let Some(seed) = lane.mixed {
        let mut order: Vec<(u32, usize)> = (0..steps)
            .filter(|step| places[*step].is_some())
            .map(|step| (maths::hash(seed ^ (step as u32).wrapping_mul(0x9e37_79b9)), step))
            .collect();
        order.sort_unstable();
        for (place, (_, step)) in order.into_iter().enumerate() {
            places[step] = Some(place as f64);
        }
    }
    places
}

/// The half step along a map at which a light lies.
fn step_of(x: f32) -> usize {
    (x * 2.0).round() as usize
}

/// The light of a colour of a lane, with its cover.
fn colour_of(text: &str, show: &Show) -> Option<[f64; 4]> {
    let stops = palette::stops(std::iter::once(text), &show.palette).ok()?;
    let [r, g, b, alpha] = Ramp::open(&stops, Mixing::default()).at(0.0);
    Some([r * alpha, g * alpha, b * alpha, alpha].map(f64::from))
}

impl PlayedLane {
    fn compile(lane: &Lane, length: f64, loops: bool, show: &Show, rig: &Rig, maps: &mut Maps) -> Self {
        let over =
            Layer { target: lane.lights.clone(), span: lane.order, repeat: lane.turned, ..Layer::new("pattern") };
        let map = maps.of(&over, show, rig);
        let places = places_of(lane, &map);
        let mut looks: Vec<(String, Player)> = Vec::new();
        let look_of = lane.events.iter().map(|event| {
            let (_, look) = show.look(event.look.as_deref()?)?;
            let known = looks.iter().position(|(name, _)| *name == look.name);
            Some(known.unwrap_or_else(|| {
                looks.push((look.name.clone(), in_lane(look, show, rig, maps)));
                looks.len() - 1
            }))
        });
        let look_of = look_of.collect();
        Self {
            kind: lane.kind,
            course: Course::of(lane, length, loops, |text| colour_of(text, show)),
            later: lane.later.map_or(0.0, |note| note.ticks().beats()),
            rates: lane.events.iter().map(|event| f64::from(event.rate.unwrap_or(0.0))).collect(),
            values: vec![[0.0; 4]; places.len()],
            places,
            map,
            looks,
            look_of,
            on: None,
        }
    }

    /// Goes on to a place, at so many beats of the pattern a second.
    fn advance(&mut self, at: f64, pace: f64, moment: &Moment<'_>) {
        if self.kind == LaneKind::Look {
            self.on = self.course.event(at).and_then(|(event, _)| self.look_of[event]);
            if let Some(look) = self.on {
                self.looks[look].1.advance(moment);
            }
            return;
        }
        let mut near = 0;
        for (place, value) in self.places.iter().zip(&mut self.values) {
            let Some(place) = place else { continue };
            let here = at - place * self.later;
            let now = match self.kind {
                LaneKind::Strobe => [strobe(&self.course, &self.rates, here, pace); 4],
                _ if self.later > 0.0 => self.course.mean(here, self.later, &mut near),
                LaneKind::Level | LaneKind::Colour | LaneKind::Look => self.course.value(here),
            };
            *value = now.map(|part| part as f32);
        }
    }

    /// What the light at a place along the map is given.
    fn at(&self, x: f32) -> Rgba {
        self.values[if self.later > 0.0 { step_of(x) } else { 0 }]
    }

    fn light(&self, tile: usize, light: &mut [Rgba], scratch: &mut [Rgba]) {
        let pieces = self.map.pieces_of(tile);
        if pieces.is_empty() {
            return;
        }
        let (shown, rest) = scratch.split_at_mut(TILE);
        let shown = &mut shown[..light.len()];
        match (self.kind, self.on) {
            (LaneKind::Look, None) => return,
            (LaneKind::Look, Some(look)) => self.looks[look].1.light(tile, shown, rest),
            (LaneKind::Level | LaneKind::Colour | LaneKind::Strobe, _) => {}
        }
        for piece in pieces {
            let (first, start) = (piece.led as usize % TILE, piece.start as usize);
            let count = piece.count as usize;
            let below = &mut light[first..first + count];
            let along = &self.map.x[start..start + count];
            match self.kind {
                LaneKind::Level | LaneKind::Strobe => {
                    below.iter_mut().zip(along).for_each(|(light, x)| dim(light, self.at(*x)[0]));
                }
                LaneKind::Colour => below.iter_mut().zip(along).for_each(|(light, x)| cover(light, self.at(*x))),
                LaneKind::Look => below.iter_mut().zip(&shown[first..]).for_each(|(light, look)| cover(light, *look)),
            }
        }
    }
}

/// A look that a lane shows. It shows no others itself, so that no look ever waits for itself.
fn in_lane(look: &Look, show: &Show, rig: &Rig, maps: &mut Maps) -> Player {
    Player::compile_to(look, show, rig, maps, false)
}

/// 1 or 0: whether the flashes of the event at a place let light through.
fn strobe(course: &Course, rates: &[f64], at: f64, pace: f64) -> f64 {
    let Some((event, since)) = course.event(at) else { return 1.0 };
    let flashes = since / pace.max(1e-6) * rates[event];
    f64::from(u8::from(flashes.fract() < 0.5))
}

/// Takes a light, and what is below it, down to a level: what it does not cover is covered by darkness instead.
fn dim(light: &mut Rgba, level: f32) {
    if level < 1.0 {
        let through = level * (1.0 - light[3]);
        light.iter_mut().take(3).for_each(|part| *part *= level);
        light[3] = 1.0 - through;
    }
}

/// Lays a light, weighted with its cover, over another.
fn cover(below: &mut Rgba, light: Rgba) {
    let through = 1.0 - light[3];
    below.iter_mut().zip(light).for_each(|(below, light)| *below = *below * through + light);
}
