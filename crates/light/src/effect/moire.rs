//! Two sets of rings whose middles wander: where they meet, slow figures appear.

use multiversion::multiversion;

use super::params::handle::{ColoursParam, NumberParam, RateParam};
use super::params::{colours, number, rate};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::Rgba;
use splimo_base::maths::{cos_turns, sin_turns};
use splimo_time::rate::Phase;

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(&["#05060f", "#253a8e", "#d8e6ff"], "from where they cancel to where they add up"),
    number("size", [2.0, 14.0, 400.0], "lights", "from ring to ring"),
    number("distance", [0.0, 30.0, 300.0], "%", "how far apart the middles are, of the span"),
    number("contrast", [0.1, 1.0, 8.0], "", "how hard the figures are"),
    rate("speed", "8 bars", "how long until the middles come round again"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const SIZE: NumberParam = NumberParam::named(PARAMS, "size");
const DISTANCE: NumberParam = NumberParam::named(PARAMS, "distance");
const CONTRAST: NumberParam = NumberParam::named(PARAMS, "contrast");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "moire",
    family: "motion",
    help: "Two sets of rings whose middles wander; where they meet, slow figures appear",
    params: PARAMS,
    start: |_| Box::new(Moire::default()),
};

#[derive(Default)]
struct Moire {
    phase: Phase,
}

#[derive(Clone, Copy)]
struct Rings {
    a: (f32, f32),
    b: (f32, f32),
    frequency: f32,
    gain: f32,
}

impl Effect for Moire {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        self.phase.advance(params.rate(SPEED), moment.step);
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let mut places = [0.0; TILE];
        let places = &mut places[..out.len()];
        let turn = self.phase.behind(cells.late).turns();
        let apart = params.number(DISTANCE) / 200.0 * cells.width.max(cells.height);
        let (cx, cy) = (cells.width / 2.0, cells.height / 2.0);
        // The middles go round the centre at different paces; whole multiples, so that all comes round without a seam.
        let rings = Rings {
            a: (cx + apart * cos_turns(turn), cy + apart * sin_turns(turn)),
            b: (cx - apart * cos_turns(2.0 * turn), cy + apart * sin_turns(-turn)),
            frequency: 1.0 / params.number(SIZE),
            gain: 0.5 * params.number(CONTRAST),
        };
        field(cells.x, cells.y, places, rings);
        params.colour_along(COLOURS, places, out);
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn field(x: &[f32], y: &[f32], out: &mut [f32], rings: Rings) {
    for ((out, x), y) in out.iter_mut().zip(x).zip(y) {
        let distance = |(cx, cy): (f32, f32)| {
            let (dx, dy) = (x - cx, y - cy);
            (dx * dx + dy * dy).sqrt() * rings.frequency
        };
        *out = 0.5 + rings.gain * sin_turns(distance(rings.a)) * sin_turns(distance(rings.b));
    }
}
