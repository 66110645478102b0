//! A pattern compiled for a rig: what each of its lanes gives to each of its lights at the moment.

use std::sync::Arc;

use super::{Maps, Player};
use crate::aiming::{Asked, LaneAiming, Pointed};
use crate::course::Course;
use splimo_base::colour::Rgba;
use splimo_base::maths;
use splimo_base::ramp::{Mixing, Ramp};
use splimo_light::effect::Moment;
use splimo_light::layer::LayerMap;
use splimo_light::rig::{Rig, TILE};
use splimo_show::palette;
use splimo_show::{Lane, LaneKind, Layer, Look, PATTERN_BAR, Pattern, Show, TICKS};

/// A pattern that can be lit.
pub(crate) struct PlayedPattern {
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
    /// The places in the order at which lights lie, from the first; one where all are together.
    places: Vec<f64>,
    /// The number of places after which all comes again, if it does.
    again: Option<usize>,
    /// The values that it gives at each of these places at the moment.
    values: Vec<Rgba>,
    /// For each light of the map its place among these.
    place_of: Vec<u32>,
    looks: Vec<(String, Player)>,
    /// The look of each event.
    look_of: Vec<Option<usize>>,
    on: Option<usize>,
    aiming: Option<LaneAiming>,
}

impl PlayedPattern {
    /// Compiles a pattern. `with_looks` tells whether its lanes may show other looks.
    pub(crate) fn compile(pattern: &Pattern, show: &Show, rig: &Rig, maps: &mut Maps, with_looks: bool) -> Self {
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
    pub(crate) fn begin(&mut self, beat: f64) {
        self.began = bar_of(beat);
        self.began_at = None;
    }

    /// Moves the count of beats. What began with a bar began with a bar of the new count.
    pub(crate) fn shift(&mut self, beats: f64) {
        let bar = f64::from(PATTERN_BAR);
        self.began = ((self.began + beats) / bar).round() * bar;
        self.looks().for_each(|look| look.shift_beats(beats));
    }

    fn looks(&mut self) -> impl Iterator<Item = &mut Player> {
        self.lanes.iter_mut().flat_map(|lane| lane.looks.iter_mut()).map(|(_, look)| look)
    }

    /// Goes on where an older one of the same name is.
    pub(crate) fn take_over(&mut self, older: &mut Self) {
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
    pub(crate) fn thin(&mut self, leds: &[u32]) {
        for lane in &mut self.lanes {
            lane.thin(leds);
            lane.looks.iter_mut().for_each(|(_, look)| look.thin(leds));
        }
    }

    /// The place where it is, in beats since it began and within it; none once it has been played.
    pub(crate) fn place(&self) -> Option<f64> {
        match self.once {
            true => (self.at < self.length).then_some(self.at),
            false => Some(self.at.rem_euclid(self.length)),
        }
    }

    /// The number of times that it has come to its end up to a beat. Of one with a tempo of its own: up to the last moment.
    pub(crate) fn ends(&self, beat: f64) -> u64 {
        let at = if self.tempo.is_some() { self.at } else { (beat - self.began) * self.speed };
        (at / self.length).max(0.0) as u64
    }

    /// Goes on to a moment.
    pub(crate) fn advance(&mut self, moment: &Moment<'_>) {
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

    /// Lays where its lanes, and the looks in them, point a head over where it points without them.
    pub(crate) fn point(&self, asked: &Asked<'_>, below: Pointed) -> Pointed {
        self.lanes.iter().fold(below, |below, lane| match (&lane.aiming, lane.on) {
            (Some(aiming), _) => aiming.point(asked, below, &lane.course, self.at, lane.later),
            (None, Some(look)) => lane.looks[look].1.point(asked, below),
            (None, None) => below,
        })
    }

    /// Lays it over the light of a tile. `scratch` is as long as that of a player.
    pub(crate) fn light(&self, tile: usize, light: &mut [Rgba], scratch: &mut [Rgba]) {
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

/// The places in the order at which lights of a lane lie, from the first, and for each light of its map its place among these.
fn places_of(lane: &Lane, map: &LayerMap) -> (Vec<f64>, Vec<u32>) {
    if lane.later.is_none() {
        return (vec![0.0], vec![0; map.x.len()]);
    }
    let mut steps: Vec<usize> = map.x.iter().map(|x| step_of(*x)).collect();
    steps.sort_unstable();
    steps.dedup();
    let place_of = |x: &f32| steps.binary_search(&step_of(*x)).unwrap_or(0) as u32;
    let place_of: Vec<u32> = map.x.iter().map(place_of).collect();
    let Some(seed) = lane.mixed else {
        return (steps.iter().map(|step| *step as f64 / 2.0 - 0.5).collect(), place_of);
    };
    let place_now = maths::mixed_order(seed, steps.iter().map(|step| *step as u32));
    let places = (0..steps.len()).map(|place| place as f64).collect();
    (places, place_of.iter().map(|place| place_now[*place as usize]).collect())
}

/// The half step along a map at which a light lies.
fn step_of(x: f32) -> usize {
    (x * 2.0).round() as usize
}

/// The points at even distances by which a gradient is drawn over an event.
const POINTS: u16 = 48;

/// The light of a colour of a lane, with its cover, at even distances; one where it is a colour alone.
fn colours_of(text: &str, show: &Show) -> Option<Vec<[f64; 4]>> {
    let stops = palette::gradient(text, &show.palette).ok()?;
    let ramp = Ramp::open(&stops, Mixing::default());
    let point = |place: f32| {
        let [r, g, b, alpha] = ramp.at(place);
        [r * alpha, g * alpha, b * alpha, alpha].map(f64::from)
    };
    match stops.len() {
        0 | 1 => Some(vec![point(0.0)]),
        _ => Some((0..=POINTS).map(|at| point(f32::from(at) / f32::from(POINTS))).collect()),
    }
}

impl PlayedLane {
    fn compile(lane: &Lane, length: f64, loops: bool, show: &Show, rig: &Rig, maps: &mut Maps) -> Self {
        let over =
            Layer { target: lane.lights.clone(), span: lane.order, repeat: lane.turned, ..Layer::new("pattern") };
        let map = maps.of(&over, show, rig);
        let (places, place_of) = places_of(lane, &map);
        let later = lane.later.map_or(0.0, |note| note.ticks().beats());
        let each = lane.later.map_or(0, |note| note.ticks().0);
        let steady = each > 0 && places.windows(2).all(|pair| pair[1] - pair[0] == 1.0);
        let ticks = (length * f64::from(TICKS)).round() as u32;
        let again = (steady && loops && ticks.is_multiple_of(each)).then(|| (ticks / each) as usize);
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
            course: Course::of(lane, length, loops, |text| colours_of(text, show)),
            later,
            again,
            place_of,
            rates: lane.events.iter().map(|event| f64::from(event.rate.unwrap_or(0.0))).collect(),
            values: vec![[0.0; 4]; places.len()],
            places,
            map,
            looks,
            look_of,
            on: None,
            aiming: LaneAiming::compile(lane, &over, length, show, rig),
        }
    }

    /// Goes on to a place, at so many beats of the pattern a second.
    fn advance(&mut self, at: f64, pace: f64, moment: &Moment<'_>) {
        if self.kind == LaneKind::Aim {
            return;
        }
        if self.kind == LaneKind::Look {
            self.on = self.course.event(at).and_then(|(event, _)| self.look_of[event]);
            if let Some(look) = self.on {
                self.looks[look].1.advance(moment);
            }
            return;
        }
        let mut means = self.course.means(self.later);
        for place in 0..self.places.len() {
            let here = at - self.places[place] * self.later;
            // Where there are more lights than places in the pattern, the next have what others have, once they have begun.
            let same = self.again.and_then(|again| place.checked_sub(again));
            if let Some(same) = same.filter(|_| here >= self.later) {
                self.values[place] = self.values[same];
                continue;
            }
            let now = match self.kind {
                LaneKind::Strobe => [strobe(&self.course, &self.rates, here, pace); 4],
                _ if self.later > 0.0 => means.at(here),
                LaneKind::Level | LaneKind::Colour | LaneKind::Look | LaneKind::Aim => self.course.value(here),
            };
            self.values[place] = now.map(|part| part as f32);
        }
    }

    /// Keeps chosen LEDs only.
    fn thin(&mut self, leds: &[u32]) {
        let kept = leds.iter().filter_map(|led| {
            let after = self.map.pieces.partition_point(|piece| piece.led <= *led);
            let piece = self.map.pieces[..after].last().filter(|piece| *led < piece.led + piece.count)?;
            Some(self.place_of[(piece.start + led - piece.led) as usize])
        });
        self.place_of = kept.collect();
        self.map = Arc::new(self.map.thinned(leds));
    }

    fn light(&self, tile: usize, light: &mut [Rgba], scratch: &mut [Rgba]) {
        let pieces = self.map.pieces_of(tile);
        if pieces.is_empty() || self.kind == LaneKind::Aim {
            return;
        }
        let (shown, rest) = scratch.split_at_mut(TILE);
        let shown = &mut shown[..light.len()];
        match (self.kind, self.on) {
            (LaneKind::Look, None) => return,
            (LaneKind::Look, Some(look)) => self.looks[look].1.light(tile, shown, rest),
            (LaneKind::Level | LaneKind::Colour | LaneKind::Strobe | LaneKind::Aim, _) => {}
        }
        for piece in pieces {
            let (first, start) = (piece.led as usize % TILE, piece.start as usize);
            let count = piece.count as usize;
            let below = &mut light[first..first + count];
            let places = &self.place_of[start..start + count];
            let value = |place: &u32| self.values[*place as usize];
            match self.kind {
                LaneKind::Level | LaneKind::Strobe => {
                    below.iter_mut().zip(places).for_each(|(light, place)| dim(light, value(place)[0]));
                }
                LaneKind::Colour => below.iter_mut().zip(places).for_each(|(light, place)| cover(light, value(place))),
                LaneKind::Aim => {}
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
