//! Four slow waves that cross each other, as colour.

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
    colours(&["#020b1c", "#0b4f8a", "#19c3b2", "#f2f7c9"], "from the troughs to the crests"),
    number("size", [2.0, 40.0, 400.0], "lights", "the length of the longest wave"),
    rate("speed", "16 beats", "how long until the picture comes round again"),
    number("contrast", [0.1, 1.0, 4.0], "", "how far the waves reach towards the end colours"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const SIZE: NumberParam = NumberParam::named(PARAMS, "size");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");
const CONTRAST: NumberParam = NumberParam::named(PARAMS, "contrast");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "plasma",
    family: "motion",
    help: "Four slow waves that cross each other, as drifting fields of colour",
    params: PARAMS,
    start: |_| Box::new(Plasma::default()),
};

#[derive(Default)]
struct Plasma {
    phase: Phase,
}

impl Effect for Plasma {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        self.phase.advance(params.rate(SPEED), moment.step);
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let mut places = [0.0; TILE];
        let places = &mut places[..out.len()];
        let phase = self.phase.behind(cells.late).turns();
        let waves = Waves {
            frequency: 1.0 / params.number(SIZE),
            // Whole multiples of the phase, so that the picture comes round without a seam.
            a: phase,
            b: -2.0 * phase,
            drift_x: 0.8 * cos_turns(phase),
            drift_y: 0.8 * sin_turns(phase),
            gain: 0.15 * params.number(CONTRAST),
        };
        field(cells.x, cells.y, places, waves);
        params.colour_along(COLOURS, places, out);
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }
}

#[derive(Clone, Copy)]
struct Waves {
    frequency: f32,
    a: f32,
    b: f32,
    drift_x: f32,
    drift_y: f32,
    gain: f32,
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn field(x: &[f32], y: &[f32], out: &mut [f32], waves: Waves) {
    for ((out, x), y) in out.iter_mut().zip(x).zip(y) {
        let (u, v) = (x * waves.frequency, y * waves.frequency);
        let (dx, dy) = (u - waves.drift_x, v - waves.drift_y);
        let sum = sin_turns(u + waves.a)
            + sin_turns(1.3 * v + waves.b)
            + sin_turns(0.7 * (u + v) - waves.a)
            + sin_turns((dx * dx + dy * dy) * 0.5 + waves.a);
        *out = 0.5 + waves.gain * sum;
    }
}
