//! The whole hue circle, along a line, in rings or around.

use multiversion::multiversion;

use super::handle::{ChoiceParam, NumberParam, RateParam, choices};
use super::params::{choice, number, rate};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::colour::Rgba;
use crate::maths::{angle_turns, cos_turns, fract, sin_turns};
use crate::rate::Phase;
use crate::rig::TILE;

choices! {
    /// The choice "form".
    Form {
        Line = "line",
        Rings = "rings",
        Around = "around",
    }
}

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    choice("form", Form::WORDS, "along a line, in rings, or around the middle"),
    number("angle", [-360.0, 0.0, 360.0], "°", "of the line: 0 runs to the right, 90 down"),
    number("wavelength", [0.0, 0.0, 1000.0], "lights", "the length of a whole circle; 0 fits one on the span"),
    number("saturation", [0.0, 100.0, 100.0], "%", "how far the colours are from white"),
    number("level", [0.0, 100.0, 100.0], "%", "how bright they are"),
    rate("speed", "4 bars", "how long until the hues come round again"),
];

const FORM: ChoiceParam<Form> = ChoiceParam::named(PARAMS, "form");
const ANGLE: NumberParam = NumberParam::named(PARAMS, "angle");
const WAVELENGTH: NumberParam = NumberParam::named(PARAMS, "wavelength");
const SATURATION: NumberParam = NumberParam::named(PARAMS, "saturation");
const LEVEL: NumberParam = NumberParam::named(PARAMS, "level");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "rainbow",
    family: "colour",
    help: "The whole hue circle, along a line, in rings or around the middle",
    params: PARAMS,
    start: |_| Box::new(Rainbow::default()),
};

#[derive(Default)]
struct Rainbow {
    phase: Phase,
}

impl Effect for Rainbow {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        self.phase.advance(params.rate(SPEED), moment.step);
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let mut hues = [0.0; TILE];
        let hues = &mut hues[..out.len()];
        let (sin, cos) = (sin_turns(params.number(ANGLE) / 360.0), cos_turns(params.number(ANGLE) / 360.0));
        let centre = (cells.width / 2.0, cells.height / 2.0);
        let reach = (centre.0 * centre.0 + centre.1 * centre.1).sqrt();
        let fits = match params.choice(FORM) {
            Form::Line => (cells.width * cos).abs() + (cells.height * sin).abs(),
            Form::Rings | Form::Around => reach,
        };
        let length = if params.number(WAVELENGTH) > 0.0 { params.number(WAVELENGTH) } else { fits.max(1.0) };
        let phase = self.phase.behind(cells.late).turns();
        match params.choice(FORM) {
            Form::Line => line(cells.x, cells.y, hues, (cos / length, sin / length), phase),
            Form::Rings => rings(cells.x, cells.y, hues, centre, 1.0 / length, phase),
            Form::Around => around(cells.x, cells.y, hues, centre, phase),
        }
        colour(hues, params.number(SATURATION) / 100.0, params.number(LEVEL) / 100.0, out);
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn line(x: &[f32], y: &[f32], out: &mut [f32], step: (f32, f32), phase: f32) {
    for ((out, x), y) in out.iter_mut().zip(x).zip(y) {
        *out = x * step.0 + y * step.1 - phase;
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn rings(x: &[f32], y: &[f32], out: &mut [f32], centre: (f32, f32), scale: f32, phase: f32) {
    for ((out, x), y) in out.iter_mut().zip(x).zip(y) {
        let (dx, dy) = (x - centre.0, y - centre.1);
        *out = (dx * dx + dy * dy).sqrt() * scale - phase;
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn around(x: &[f32], y: &[f32], out: &mut [f32], centre: (f32, f32), phase: f32) {
    for ((out, x), y) in out.iter_mut().zip(x).zip(y) {
        *out = angle_turns(x - centre.0, y - centre.1) - phase;
    }
}

/// Linear light of hues: each primary rises and falls along a smooth hump, so that their sum hardly changes.
#[multiversion(targets("x86_64+avx2+fma"))]
fn colour(hues: &[f32], saturation: f32, level: f32, out: &mut [Rgba]) {
    for (out, hue) in out.iter_mut().zip(hues) {
        let hump = |shift: f32| {
            let t = (1.5 - 3.0 * (fract(hue + shift) - 0.5).abs() * 2.0 + 0.5).clamp(0.0, 1.0);
            let t = 1.0 - saturation * (1.0 - t * t * (3.0 - 2.0 * t));
            t * level
        };
        *out = [hump(0.5), hump(0.5 - 1.0 / 3.0), hump(0.5 + 1.0 / 3.0), 1.0];
    }
}
