//! Clouds that drift and change: value noise of two sizes.

use multiversion::multiversion;

use super::noise::noise;
use super::params::handle::{ColoursParam, NumberParam, RateParam};
use super::params::{colours, number, rate};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::Rgba;
use splimo_base::maths::{cos_turns, sin_turns, smooth};
use splimo_time::rate::Phase;

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(&["#0a1024", "#274b74", "#7fb2c8", "#f2efe4"], "from the clear sky to the thickest cloud"),
    number("size", [2.0, 30.0, 400.0], "lights", "how large the clouds are"),
    number("detail", [0.0, 40.0, 100.0], "%", "how ragged they are"),
    number("contrast", [0.1, 1.4, 6.0], "", "how far they stand out"),
    number("drift", [-20.0, 1.0, 20.0], "", "how far they go by while they change, in their own size"),
    number("angle", [-360.0, 0.0, 360.0], "°", "where they drift: 0 to the right, 90 down"),
    rate("speed", "2 bars", "how long until they are others"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const SIZE: NumberParam = NumberParam::named(PARAMS, "size");
const DETAIL: NumberParam = NumberParam::named(PARAMS, "detail");
const CONTRAST: NumberParam = NumberParam::named(PARAMS, "contrast");
const DRIFT: NumberParam = NumberParam::named(PARAMS, "drift");
const ANGLE: NumberParam = NumberParam::named(PARAMS, "angle");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");

/// After so many sizes of the clouds the drift begins anew, so that the noise stays exact; see `noise`.
const ROUND: f64 = 4096.0;

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "clouds",
    family: "motion",
    help: "Clouds that drift over the lights and change as they go",
    params: PARAMS,
    start: |_| Box::new(Clouds::default()),
};

#[derive(Default)]
struct Clouds {
    phase: Phase,
}

#[derive(Clone, Copy)]
struct Sky {
    frequency: f32,
    shift: (f32, f32),
    z: u32,
    w: f32,
    detail: f32,
    contrast: f32,
}

impl Effect for Clouds {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        self.phase.advance(params.rate(SPEED), moment.step);
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let mut places = [0.0; TILE];
        let places = &mut places[..out.len()];
        let phase = self.phase.behind(cells.late);
        let gone = (phase.total() * f64::from(params.number(DRIFT))).rem_euclid(ROUND) as f32;
        let turn = params.number(ANGLE) / 360.0;
        let sky = Sky {
            frequency: 1.0 / params.number(SIZE),
            shift: (-gone * cos_turns(turn), -gone * sin_turns(turn)),
            z: phase.whole() as u32,
            w: smooth(phase.turns()),
            detail: params.number(DETAIL) / 100.0,
            contrast: params.number(CONTRAST),
        };
        field(cells.x, cells.y, places, sky);
        params.colour_along(COLOURS, places, out);
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn field(x: &[f32], y: &[f32], out: &mut [f32], sky: Sky) {
    let Sky { frequency, shift, z, w, detail, contrast } = sky;
    for ((out, x), y) in out.iter_mut().zip(x).zip(y) {
        let (u, v) = (x * frequency + shift.0, y * frequency + shift.1);
        let coarse = noise(u, v, z, w);
        let fine = noise(2.17 * u + 31.3, 2.17 * v + 17.1, z.wrapping_add(77), w);
        *out = 0.5 + ((coarse - 0.5) + (fine - 0.5) * detail) * contrast;
    }
}
