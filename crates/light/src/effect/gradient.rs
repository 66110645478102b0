//! Own colours along a shape: side by side at any angle, or out of any centre, standing or moving.

use super::params::handle::{ChoiceParam, ColoursParam, NumberParam, RateParam, choices};
use super::params::{choice, colours, number, rate};
use super::shape::{self, Shape, ShapeParams};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::Rgba;
use splimo_base::maths::fract;
use splimo_base::ramp::PATHS;
use splimo_time::rate::Phase;

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
    shape::SHAPE,
    shape::ANGLE,
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
    shape::CENTRE_X,
    shape::CENTRE_Y,
    shape::TWIST,
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const REPEATS: NumberParam = NumberParam::named(PARAMS, "repeats");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");
const FORM: ChoiceParam<Form> = ChoiceParam::named(PARAMS, "form");
const SHAPE: ShapeParams = ShapeParams::among(PARAMS);

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
        let layout = SHAPE.layout(params, params.number(REPEATS));
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
                if phase != 0.0 && params.choice(SHAPE.shape) != Shape::InAndOut {
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
