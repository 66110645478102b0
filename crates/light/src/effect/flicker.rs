//! A random level for each light, changing all the time.

use multiversion::multiversion;

use super::params::handle::{ChoiceParam, ColoursParam, NumberParam, RateParam, choices};
use super::params::{choice, colours, number, rate};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::Rgba;
use splimo_base::maths::{floor, hash, smooth, unit};
use splimo_time::rate::Phase;

choices! {
    /// The choice "change".
    Change {
        Smooth = "smooth",
        Hard = "hard",
    }
}

choices! {
    /// The choice "timing".
    Timing {
        Together = "together",
        Free = "free",
    }
}

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(&["#5a1c08", "#e8701a", "#ffe2a0"], "from the lowest level to the highest"),
    choice("change", Change::WORDS, "levels glide, or jump"),
    choice("timing", Timing::WORDS, "all change at the same time, or each when it likes"),
    number("floor", [0.0, 15.0, 100.0], "%", "the lowest level"),
    number("grain", [1.0, 1.0, 100.0], "lights", "how many lights side by side have the same level"),
    rate("speed", "1/2 beat", "how long a level lasts"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const CHANGE: ChoiceParam<Change> = ChoiceParam::named(PARAMS, "change");
const TIMING: ChoiceParam<Timing> = ChoiceParam::named(PARAMS, "timing");
const FLOOR: NumberParam = NumberParam::named(PARAMS, "floor");
const GRAIN: NumberParam = NumberParam::named(PARAMS, "grain");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "flicker",
    family: "texture",
    help: "A random level for each light, on a note value or free, smooth or hard",
    params: PARAMS,
    start: |seed| Box::new(Flicker { phase: Phase::default(), seed: hash(seed) }),
};

struct Flicker {
    phase: Phase,
    seed: u32,
}

#[derive(Clone, Copy)]
struct Levels {
    seed: u32,
    whole: u32,
    part: f32,
    hard: bool,
    free: bool,
    per_grain: f32,
}

impl Effect for Flicker {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        self.phase.advance(params.rate(SPEED), moment.step);
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let mut places = [0.0; TILE];
        let places = &mut places[..out.len()];
        let phase = self.phase.behind(cells.late);
        let levels = Levels {
            seed: self.seed,
            whole: phase.whole() as u32,
            part: phase.turns(),
            hard: params.choice(CHANGE) == Change::Hard,
            free: params.choice(TIMING) == Timing::Free,
            per_grain: 1.0 / params.number(GRAIN),
        };
        draw(cells.x, cells.y, places, levels);
        let floor = params.number(FLOOR) / 100.0;
        let mut cover = [0.0; TILE];
        for (cover, level) in cover.iter_mut().zip(places.iter()) {
            *cover = floor + (1.0 - floor) * level * level;
        }
        params.covered_along(COLOURS, places, &cover, out);
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn draw(x: &[f32], y: &[f32], places: &mut [f32], levels: Levels) {
    let Levels { seed, whole, part, hard, free, per_grain } = levels;
    for ((place, x), y) in places.iter_mut().zip(x).zip(y) {
        let (u, v) = (floor(x * per_grain), floor(y * per_grain));
        let lot = hash(u.to_bits() ^ v.to_bits().rotate_left(13) ^ seed);
        let t = part + if free { unit(lot) } else { 0.0 };
        let (over, t) = if t >= 1.0 { (1, t - 1.0) } else { (0, t) };
        let now = whole.wrapping_add(over);
        let level = |n: u32| unit(hash(lot ^ n.wrapping_mul(0x9e37_79b9)));
        let (from, to) = (level(now), level(now.wrapping_add(1)));
        *place = if hard { from } else { from + (to - from) * smooth(t) };
    }
}
