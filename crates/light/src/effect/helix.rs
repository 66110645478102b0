//! Bars that wind around the lights as around a column: on a cone by the angle at which its strings hang.

use multiversion::multiversion;

use super::edges::band;
use super::params::handle::{ColoursParam, NumberParam, RateParam};
use super::params::{colours, number, rate};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::Rgba;
use splimo_base::maths::round;
use splimo_time::rate::Phase;

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(&["#ff4d6d", "#ffb347", "#3ddad7", "#6a5cff"], "each bar takes its place among them"),
    number("bars", [1.0, 3.0, 32.0], "", "how many wind around"),
    number("width", [1.0, 40.0, 100.0], "%", "how wide a bar is, of the room that it has"),
    number(
        "twist",
        [-16.0, 1.0, 16.0],
        "turns",
        "how often it winds around from top to bottom; negative winds the other way",
    ),
    number(
        "range",
        [-100.0, 20.0, 100.0],
        "%",
        "how many of the colours each bar shows across itself; negative shows them the other way round",
    ),
    rate("speed", "2 bars", "how long a turn takes; negative turns to the left"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const BARS: NumberParam = NumberParam::named(PARAMS, "bars");
const WIDTH: NumberParam = NumberParam::named(PARAMS, "width");
const TWIST: NumberParam = NumberParam::named(PARAMS, "twist");
const RANGE: NumberParam = NumberParam::named(PARAMS, "range");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "helix",
    family: "motion",
    help: "Bars that wind around the lights as around a column, on a cone all around it, turning either way",
    params: PARAMS,
    start: |_| Box::new(Helix::default()),
};

#[derive(Default)]
struct Helix {
    phase: Phase,
}

#[derive(Clone, Copy)]
struct Winding {
    across: f32,
    down: f32,
    phase: f32,
    share: f32,
    period: f32,
    bars: f32,
    range: f32,
}

impl Effect for Helix {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        self.phase.advance(params.rate(SPEED), moment.step);
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let (mut places, mut cover) = ([0.0; TILE], [0.0; TILE]);
        let (places, cover) = (&mut places[..out.len()], &mut cover[..out.len()]);
        let bars = params.number(BARS).floor();
        let (across, down) = (bars / cells.width.max(1.0), params.number(TWIST) * bars / cells.height.max(1.0));
        // Edges are one light across the bar, however it leans; around a cone lights lie as its strings do.
        let lights = if cells.lights_around > 0.0 { cells.lights_around } else { cells.width };
        let leans = bars / lights.max(1.0);
        let steepness = (leans * leans + down * down).sqrt();
        let winding = Winding {
            across,
            down,
            // All bars go round together, so that a whole turn brings each to where it was.
            phase: self.phase.behind(cells.late).turns() * bars,
            share: params.number(WIDTH) / 100.0,
            period: 1.0 / steepness.max(1e-4),
            bars,
            range: params.number(RANGE) / 100.0,
        };
        match cells.around.is_empty() {
            true => wind(cells.x, cells.y, places, cover, winding),
            false => wind_around(cells, places, cover, winding),
        }
        params.covered_around(COLOURS, places, cover, out);
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn wind(x: &[f32], y: &[f32], places: &mut [f32], cover: &mut [f32], winding: Winding) {
    let Winding { across, down, phase, share, period, bars, range } = winding;
    let per_bar = 1.0 / bars;
    for (((place, cover), x), y) in places.iter_mut().zip(cover).zip(x).zip(y) {
        let turns = x * across + y * down - phase - 0.5;
        *cover = band(turns, share, period);
        let bar = round(turns);
        *place = bar * per_bar + (turns - bar) / share * range;
    }
}

/// The same by the angle of each light, where it has one.
fn wind_around(cells: &Cells<'_>, places: &mut [f32], cover: &mut [f32], winding: Winding) {
    let mut x = [0.0; TILE];
    let x = &mut x[..places.len()];
    for ((x, around), flat) in x.iter_mut().zip(cells.around).zip(cells.x) {
        *x = if around.is_nan() { *flat } else { around * cells.width };
    }
    wind(x, cells.y, places, cover, winding);
}
