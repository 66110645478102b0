//! Single lights that flash up and die away, each by itself.

use multiversion::multiversion;

use super::params::handle::{ChoiceParam, ColoursParam, NumberParam, RateParam, choices};
use super::params::{choice, colours, number, rate};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::Rgba;
use splimo_base::maths::{hash, unit};
use splimo_time::rate::Phase;

choices! {
    /// The choice "turn".
    Turn {
        Drawn = "drawn",
        AsItDiesAway = "as it dies away",
    }
}

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(&["#ffffff", "#bfe3ff", "#ffe9c2"], "drawn for each sparkle, or from its flash to its end"),
    choice("turn", Turn::WORDS, "each sparkle has one colour, or goes through them"),
    number("density", [0.0, 12.0, 100.0], "%", "how many lights sparkle at a time"),
    number("attack", [0.0, 4.0, 100.0], "%", "how much of its time one takes to come"),
    number("decay", [0.0, 60.0, 100.0], "%", "how much of its time one takes to go"),
    rate("speed", "1 beat", "how long a sparkle has"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const TURN: ChoiceParam<Turn> = ChoiceParam::named(PARAMS, "turn");
const DENSITY: NumberParam = NumberParam::named(PARAMS, "density");
const ATTACK: NumberParam = NumberParam::named(PARAMS, "attack");
const DECAY: NumberParam = NumberParam::named(PARAMS, "decay");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "sparkle",
    family: "texture",
    help: "Single lights that flash up and die away, each by itself",
    params: PARAMS,
    start: |seed| Box::new(Sparkle { phase: Phase::default(), seed: hash(seed) }),
};

struct Sparkle {
    phase: Phase,
    seed: u32,
}

#[derive(Clone, Copy)]
struct Sparks {
    seed: u32,
    whole: u32,
    part: f32,
    density: f32,
    attack: f32,
    decay: f32,
    ages: bool,
}

impl Effect for Sparkle {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        self.phase.advance(params.rate(SPEED), moment.step);
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let (mut places, mut cover) = ([0.0; TILE], [0.0; TILE]);
        let (places, cover) = (&mut places[..out.len()], &mut cover[..out.len()]);
        let phase = self.phase.behind(cells.late);
        let sparks = Sparks {
            seed: self.seed,
            whole: phase.whole() as u32,
            part: phase.turns(),
            density: params.number(DENSITY) / 100.0,
            attack: 1.0 / (params.number(ATTACK) / 100.0).max(1e-3),
            decay: 1.0 / (params.number(DECAY) / 100.0).max(1e-3),
            ages: params.choice(TURN) == Turn::AsItDiesAway,
        };
        strike(cells.x, cells.y, places, cover, sparks);
        params.covered_along(COLOURS, places, cover, out);
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn strike(x: &[f32], y: &[f32], places: &mut [f32], cover: &mut [f32], sparks: Sparks) {
    let Sparks { seed, whole, part, density, attack, decay, ages } = sparks;
    for (((place, cover), x), y) in places.iter_mut().zip(cover).zip(x).zip(y) {
        // A light is known by where it lies.
        let lot = hash(x.to_bits() ^ y.to_bits().rotate_left(13) ^ seed);
        let age = part + unit(lot);
        let (life, age) = if age >= 1.0 { (1, age - 1.0) } else { (0, age) };
        let drawn = hash(lot ^ whole.wrapping_add(life).wrapping_mul(0x9e37_79b9));
        // Around the density lights come and go softly, so that moving it does not make them jump.
        let there = ((density - unit(drawn)) * 40.0).clamp(0.0, 1.0);
        let shape = (age * attack).min(1.0) * ((1.0 - age) * decay).clamp(0.0, 1.0);
        *cover = there * shape * shape;
        *place = if ages { age } else { unit(drawn.wrapping_mul(0x85eb_ca6b)) };
    }
}
