//! Colours side by side at any angle, standing or moving.

use multiversion::multiversion;

use super::handle::{ChoiceParam, ColoursParam, NumberParam, RateParam, choices};
use super::params::{choice, colours, number, rate};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::colour::Rgba;
use crate::maths::{cos_turns, fract, sin_turns};
use crate::ramp::PATHS;
use crate::rate::Phase;
use crate::rig::TILE;

choices! {
    /// The choice "form".
    Form {
        Round = "round",
        Mirrored = "mirrored",
        Straight = "straight",
    }
}

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(&["#06324f", "#2fc6c8", "#f4f1de"], "the colours, mixed in OKLab"),
    number("angle", [-360.0, 0.0, 360.0], "°", "0 runs to the right, 90 down"),
    number("repeats", [0.05, 1.0, 64.0], "times", "how often it fits on the span; under 1 shows a part of it"),
    rate("speed", "stopped", "how long until it has moved by its own length"),
    choice(
        "form",
        Form::WORDS,
        "round comes back to its first colour, mirrored goes there and back, straight ends at the last",
    ),
    number("wavelength", [0.0, 0.0, 2000.0], "lights", "the length of all colours; 0 fits them on the span"),
    choice("mix", PATHS, "how one colour becomes the next: smoothly, along the hue circle either way, or not"),
    number("sharpness", [0.0, 0.0, 100.0], "%", "how sharply they meet"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const ANGLE: NumberParam = NumberParam::named(PARAMS, "angle");
const REPEATS: NumberParam = NumberParam::named(PARAMS, "repeats");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");
const FORM: ChoiceParam<Form> = ChoiceParam::named(PARAMS, "form");
const WAVELENGTH: NumberParam = NumberParam::named(PARAMS, "wavelength");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "gradient",
    family: "colour",
    help: "Colours side by side at any angle, standing or gliding",
    params: PARAMS,
    start: |_| Box::new(Gradient::default()),
};

#[derive(Default)]
struct Gradient {
    phase: Phase,
}

impl Effect for Gradient {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        self.phase.advance(params.rate(SPEED), moment.step);
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let turn = params.number(ANGLE) / 360.0;
        let (sin, cos) = (sin_turns(turn), cos_turns(turn));
        // The length of the span as seen along the gradient, so that one repeat just fills it.
        let length = (cells.width * cos).abs() + (cells.height * sin).abs();
        let wavelength = params.number(WAVELENGTH);
        let scale = params.number(REPEATS) / if wavelength > 0.0 { wavelength } else { length.max(1.0) };
        let phase = self.phase.behind(cells.late).turns();
        let line = Line {
            dx: cos * scale,
            dy: sin * scale,
            // Starts at the corner that comes first in its direction.
            offset: -((cos.min(0.0) * cells.width + sin.min(0.0) * cells.height) * scale) - phase,
        };
        let mut places = [0.0; TILE];
        let places = &mut places[..out.len()];
        line.places(cells.x, cells.y, places);
        match params.choice(FORM) {
            Form::Round => params.colour_around(COLOURS, places, out),
            Form::Mirrored => {
                for place in places.iter_mut() {
                    *place = 1.0 - (2.0 * fract(*place) - 1.0).abs();
                }
                params.colour_along(COLOURS, places, out);
            }
            Form::Straight => {
                if phase != 0.0 {
                    places.iter_mut().for_each(|place| *place = fract(*place));
                }
                params.colour_along(COLOURS, places, out);
            }
        }
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }
}

#[derive(Clone, Copy)]
struct Line {
    dx: f32,
    dy: f32,
    offset: f32,
}

impl Line {
    fn places(self, x: &[f32], y: &[f32], out: &mut [f32]) {
        along(x, y, out, self.dx, self.dy, self.offset);
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn along(x: &[f32], y: &[f32], out: &mut [f32], dx: f32, dy: f32, offset: f32) {
    for ((out, x), y) in out.iter_mut().zip(x).zip(y) {
        *out = x * dx + y * dy + offset;
    }
}
