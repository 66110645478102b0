//! Fields in two colours, as on a board, that move or change over.

use multiversion::multiversion;

use super::edges::{band, there_and_back};
use super::params::handle::{ChoiceParam, ColoursParam, NumberParam, RateParam, choices};
use super::params::{choice, colours, number, rate};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::Rgba;
use splimo_base::maths::{cos_turns, sin_turns, smooth};
use splimo_time::rate::Phase;

choices! {
    /// The choice "motion".
    Motion {
        ChangingOver = "changing over",
        Swapping = "swapping",
        Gliding = "gliding",
    }
}

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(&["#12355b", "#f6e7cb"], "of the one half of the fields, and of the other"),
    number("width", [1.0, 8.0, 400.0], "lights", "of a field"),
    number("height", [1.0, 8.0, 400.0], "lights", "of a field"),
    number("angle", [-360.0, 0.0, 360.0], "°", "how far the board is turned"),
    choice("motion", Motion::WORDS, "the colours cross over, swap at once, or the board glides"),
    rate("speed", "2 beats", "how long until it is as it was"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const WIDTH: NumberParam = NumberParam::named(PARAMS, "width");
const HEIGHT: NumberParam = NumberParam::named(PARAMS, "height");
const ANGLE: NumberParam = NumberParam::named(PARAMS, "angle");
const MOTION: ChoiceParam<Motion> = ChoiceParam::named(PARAMS, "motion");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "checker",
    family: "texture",
    help: "Fields in two colours, as on a board, that change over, glide or stand",
    params: PARAMS,
    start: |_| Box::new(Checker::default()),
};

#[derive(Default)]
struct Checker {
    phase: Phase,
}

#[derive(Clone, Copy)]
struct Board {
    across: (f32, f32),
    down: (f32, f32),
    shift: f32,
    width: f32,
    height: f32,
    swap: f32,
}

impl Effect for Checker {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        self.phase.advance(params.rate(SPEED), moment.step);
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let mut places = [0.0; TILE];
        let places = &mut places[..out.len()];
        let turn = params.number(ANGLE) / 360.0;
        let (sin, cos) = (sin_turns(turn), cos_turns(turn));
        let (width, height) = (params.number(WIDTH) * 2.0, params.number(HEIGHT) * 2.0);
        let phase = self.phase.behind(cells.late).turns();
        let board = Board {
            across: (cos / width, sin / width),
            down: (-sin / height, cos / height),
            shift: if params.choice(MOTION) == Motion::Gliding { phase } else { 0.0 },
            width,
            height,
            swap: match params.choice(MOTION) {
                Motion::ChangingOver => smooth(there_and_back(phase)),
                Motion::Swapping => f32::from(u8::from(phase >= 0.5)),
                Motion::Gliding => 0.0,
            },
        };
        fields(cells.x, cells.y, places, board);
        params.colour_along(COLOURS, places, out);
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn fields(x: &[f32], y: &[f32], places: &mut [f32], board: Board) {
    let Board { across, down, shift, width, height, swap } = board;
    for ((place, x), y) in places.iter_mut().zip(x).zip(y) {
        let (u, v) = (x * across.0 + y * across.1 - shift - 0.25, x * down.0 + y * down.1 - 0.25);
        let (a, b) = (band(u, 0.5, width), band(v, 0.5, height));
        // One of both, but not both; exact on edges as well.
        let on = a + b - 2.0 * a * b;
        *place = on + (1.0 - 2.0 * on) * swap;
    }
}
