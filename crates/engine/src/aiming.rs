//! Aiming: what a layer of a look, or a lane of a pattern, says of where heads point.

use super::course::Course;
use splimo_base::maths::{self, smooth};
use splimo_light::effect::{Effect, EffectSpec, HeadPlace, Params};
use splimo_light::layer::planes_of;
use splimo_light::rig::{Head, Rig};
use splimo_show::{Lane, LaneKind, Layer, Repeat, Show};

/// A direction on its way up through layers and tiers.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Pointed {
    /// Pan and tilt in degrees.
    pub at: [f64; 2],
    /// The part of it that is said by what was asked, 0..1.
    pub share: f64,
    /// True if it hangs on aims alone, and not on where the head was before.
    pub sure: bool,
}

impl Pointed {
    /// The direction in which a head was left.
    pub(super) fn left(at: [f64; 2]) -> Self {
        Self { at, share: 0.0, sure: false }
    }

    /// The same with so much of a direction laid over it.
    fn aimed(self, at: [f64; 2], share: f64) -> Self {
        Self { at: mixed(self.at, at, share), share: over(self.share, share), sure: self.sure || share >= WHOLE }
    }

    /// The same turned away by degrees, as far as `share` goes.
    fn turned(self, by: [f64; 2], share: f64) -> Self {
        let at = std::array::from_fn(|axis| self.at[axis] + by[axis] * share);
        Self { at, share: over(self.share, share), sure: self.sure }
    }
}

/// The share from which on a direction counts as whole.
pub(super) const WHOLE: f64 = 0.9999;

fn over(below: f64, share: f64) -> f64 {
    1.0 - (1.0 - below) * (1.0 - share)
}

/// The direction on the way from one to another.
pub(super) fn mixed(from: [f64; 2], to: [f64; 2], share: f64) -> [f64; 2] {
    std::array::from_fn(|axis| from[axis] + (to[axis] - from[axis]) * share)
}

/// A head as it is asked about: which it is, and which of several equal pans it is to be near to.
#[derive(Debug, Clone, Copy)]
pub(super) struct Asked<'r> {
    pub head: &'r Head,
    /// Its index in the rig.
    pub index: usize,
    /// The pan in degrees that it last had for sure.
    pub near: f64,
}

/// The place of a head in the order of a layer or a lane.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Place {
    index: u32,
    count: u32,
    /// The part of the span.
    part: u32,
}

/// The places of all heads of the rig.
type Places = Vec<Option<Place>>;

fn places_of(layer: &Layer, show: &Show, rig: &Rig) -> Places {
    let mut places: Places = vec![None; rig.heads.len()];
    for (part, fixtures) in planes_of(layer, show).into_iter().enumerate() {
        let mut heads: Vec<usize> = fixtures.into_iter().filter_map(|fixture| rig.head_of(fixture)).collect();
        let reversed = match layer.repeat {
            Repeat::Reversed => true,
            Repeat::Alternate => part % 2 == 1,
            Repeat::Alike | Repeat::Mirrored => false,
        };
        if reversed {
            heads.reverse();
        }
        let count = heads.len() as u32;
        for (index, head) in heads.into_iter().enumerate() {
            places[head].get_or_insert(Place { index: index as u32, count, part: part as u32 });
        }
    }
    places
}

/// The directions, in degrees, that an aim has for the heads of the rig.
fn directions(name: &str, show: &Show, rig: &Rig) -> Vec<Option<[f64; 2]>> {
    let Some(aim) = show.aim(name) else { return vec![None; rig.heads.len()] };
    let name = |head: &Head| show.fixtures.get(head.fixture as usize).map(|fixture| fixture.name.as_str());
    rig.heads.iter().map(|head| Some(head.degrees(aim.of(name(head)?)?))).collect()
}

/// The aiming of a layer.
pub(super) struct LayerAiming {
    places: Places,
    aims: Vec<Option<[f64; 2]>>,
    /// True if the layer names an aim: a head that this has no direction for is left alone.
    named: bool,
}

impl LayerAiming {
    /// The aiming of a layer, if it turns heads and there are any.
    pub(super) fn compile(layer: &Layer, spec: &EffectSpec, params: &Params, show: &Show, rig: &Rig) -> Option<Self> {
        if rig.heads.is_empty() || !spec.turns_heads() {
            return None;
        }
        let named = params.named_aim();
        Some(Self {
            places: places_of(layer, show, rig),
            aims: directions(named.unwrap_or(""), show, rig),
            named: named.is_some(),
        })
    }

    /// Lays it over where a head points without it. `late` tells by how many turns a part of the span is late.
    pub(super) fn point(
        &self,
        asked: &Asked<'_>,
        below: Pointed,
        (effect, params): (&dyn Effect, &Params),
        opacity: f32,
        late: impl Fn(u32) -> f32,
    ) -> Pointed {
        let Some(place) = self.places.get(asked.index).copied().flatten() else { return below };
        let place = HeadPlace { index: place.index, count: place.count, late: late(place.part) };
        let Some(turn) = effect.turn_head(params, &place) else { return below };
        let share = f64::from(opacity);
        match self.aims[asked.index] {
            Some([pan, tilt]) => {
                let pan = asked.head.nearest(pan, asked.near, turn.reach);
                below.aimed([pan + turn.by[0], tilt + turn.by[1]], share)
            }
            None if self.named => below,
            None => below.turned(turn.by, share),
        }
    }
}

/// The aiming of a lane.
pub(super) struct LaneAiming {
    /// The place of each head in the order of the lane.
    places: Vec<Option<f64>>,
    events: Vec<AimedEvent>,
}

struct AimedEvent {
    directions: Vec<Option<[f64; 2]>>,
    /// The time in which heads glide there, in beats.
    glide: f64,
    /// The event that ends where it begins.
    before: Option<usize>,
}

impl LaneAiming {
    /// The aiming of a lane, if it is one of aims and there are heads.
    pub(super) fn compile(lane: &Lane, over: &Layer, length: f64, show: &Show, rig: &Rig) -> Option<Self> {
        if rig.heads.is_empty() || lane.kind != LaneKind::Aim {
            return None;
        }
        let places = places_of(over, show, rig);
        let indices = 0..places.iter().flatten().map(|place| place.index + 1).max().unwrap_or(0);
        let order =
            lane.mixed.map_or_else(|| indices.clone().collect(), |seed| maths::mixed_order(seed, indices.clone()));
        let place = |place: &Option<Place>| Some(f64::from(order[place.as_ref()?.index as usize]));
        let last = lane.events.len().checked_sub(1);
        let before = |at: usize| match at.checked_sub(1) {
            Some(before) => (lane.events[before].end() == lane.events[at].at).then_some(before),
            None => last.filter(|last| lane.events[at].at.0 == 0 && lane.events[*last].end().beats() >= length),
        };
        let event = |(at, event): (usize, &splimo_show::PatternEvent)| AimedEvent {
            directions: directions(event.aim.as_deref().unwrap_or(""), show, rig),
            glide: event.glide.map_or(0.0, |glide| glide.beats()),
            before: before(at),
        };
        Some(Self {
            places: places.iter().map(place).collect(),
            events: lane.events.iter().enumerate().map(event).collect(),
        })
    }

    /// Lays what it says at a place of its pattern over where a head points without it.
    pub(super) fn point(&self, asked: &Asked<'_>, below: Pointed, course: &Course, at: f64, later: f64) -> Pointed {
        let Some(place) = self.places.get(asked.index).copied().flatten() else { return below };
        let here = at - place * later;
        let Some((number, since)) = course.event(here) else { return below };
        let event = &self.events[number];
        let Some(to) = event.directions[asked.index] else { return below };
        let share = if since < event.glide { f64::from(smooth((since / event.glide) as f32)) } else { 1.0 };
        let begun = |before: &usize| *before < number || here >= course.length();
        let from = event.before.filter(begun).and_then(|before| self.events[before].directions[asked.index]);
        match from.filter(|_| share < WHOLE) {
            Some(from) => below.aimed(asked.between(from, to, share), 1.0),
            None => below.aimed([asked.head.nearest(to[0], asked.near, 0.0), to[1]], share),
        }
    }
}

impl Asked<'_> {
    /// The direction on the short way from one to another, where of all such ways that one is taken on which the head is.
    fn between(&self, from: [f64; 2], to: [f64; 2], share: f64) -> [f64; 2] {
        let way = |turns: f64| {
            let pan = from[0] + turns * 360.0;
            let whole = (0.0..=self.head.ranges[0]).contains(&pan);
            whole.then(|| mixed([pan, from[1]], [self.head.nearest(to[0], pan, 0.0), to[1]], share))
        };
        let ways = [-2.0, -1.0, 0.0, 1.0, 2.0].into_iter().filter_map(way);
        let far = |at: &[f64; 2]| (at[0] - self.near).abs();
        ways.min_by(|a, b| far(a).total_cmp(&far(b))).unwrap_or(to)
    }
}
