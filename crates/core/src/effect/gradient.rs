//! Own colours along a shape: side by side at any angle, or out of any centre, standing or moving.

use super::handle::{ChoiceParam, ColoursParam, NumberParam, RateParam, choices};
use super::params::{choice, colours, number, rate};
use super::shape::{CENTRE, Layout, SHAPE_HELP, Shape};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::colour::Rgba;
use crate::maths::fract;
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
    choice("shape", Shape::WORDS, SHAPE_HELP),
    number("angle", [-360.0, 0.0, 360.0], "°", "0 runs to the right, 90 down; other shapes are turned by it"),
    number(
        "repeats",
        [0.05, 1.0, 64.0],
        "times",
        "how often it fits on the span, or from the centre to its corners; under 1 shows a part of it",
    ),
    rate("speed", "stopped", "how long until it has moved by its own length"),
    choice(
        "form",
        Form::WORDS,
        "round comes back to its first colour, mirrored goes there and back, straight ends at the last",
    ),
    number("wavelength", [0.0, 0.0, 2000.0], "lights", "the length of all colours; 0 fits them on the span"),
    choice("mix", PATHS, "how one colour becomes the next: smoothly, along the hue circle either way, or not"),
    number("sharpness", [0.0, 0.0, 100.0], "%", "how sharply they meet"),
    number(
        "centre x",
        CENTRE,
        "%",
        "the centre of the shape, from the left of the span; beyond 0 to 100 it is off the lights",
    ),
    number("centre y", CENTRE, "%", "the same from the top"),
    number("twist", [-16.0, 1.0, 16.0], "turns", "how often a spiral winds around; negative winds the other way"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const SHAPE: ChoiceParam<Shape> = ChoiceParam::named(PARAMS, "shape");
const CENTRE_X: NumberParam = NumberParam::named(PARAMS, "centre x");
const CENTRE_Y: NumberParam = NumberParam::named(PARAMS, "centre y");
const TWIST: NumberParam = NumberParam::named(PARAMS, "twist");
const ANGLE: NumberParam = NumberParam::named(PARAMS, "angle");
const REPEATS: NumberParam = NumberParam::named(PARAMS, "repeats");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");
const FORM: ChoiceParam<Form> = ChoiceParam::named(PARAMS, "form");
const WAVELENGTH: NumberParam = NumberParam::named(PARAMS, "wavelength");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "gradient",
    family: "colour",
    help: "Your colours along a line, a circle, a spiral or another shape, from any centre, standing or moving",
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
        let layout = Layout {
            shape: params.choice(SHAPE),
            turn: params.number(ANGLE) / 360.0,
            centre: [params.number(CENTRE_X) / 100.0, params.number(CENTRE_Y) / 100.0],
            repeats: params.number(REPEATS),
            wavelength: params.number(WAVELENGTH),
            twist: params.number(TWIST),
        };
        let phase = self.phase.behind(cells.late).turns();
        let mut places = [0.0; TILE];
        let places = &mut places[..out.len()];
        layout.on(cells, phase).places(cells, places);
        match params.choice(FORM) {
            Form::Round => params.colour_around(COLOURS, places, out),
            Form::Mirrored => {
                for place in places.iter_mut() {
                    *place = 1.0 - (2.0 * fract(*place) - 1.0).abs();
                }
                params.colour_along(COLOURS, places, out);
            }
            Form::Straight => {
                // What comes back has no need to begin anew.
                if phase != 0.0 && params.choice(SHAPE) != Shape::InAndOut {
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
