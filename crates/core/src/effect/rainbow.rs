//! The whole hue circle, along a line, in rings or around.

use multiversion::multiversion;

use super::params::{choice, number, rate};
use super::{Cells, Effect, EffectSpec, Moment, Params};
use crate::colour::Rgba;
use crate::maths::{angle_turns, cos_turns, fract, sin_turns};
use crate::rate::Phase;
use crate::rig::TILE;

const FORM: usize = 0;
const ANGLE: usize = 1;
const WAVELENGTH: usize = 2;
const SATURATION: usize = 3;
const LEVEL: usize = 4;
const SPEED: usize = 5;

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "rainbow",
    family: "colour",
    help: "The whole hue circle, along a line, in rings or around the middle",
    params: &[
        choice("form", &["line", "rings", "around"], "along a line, in rings, or around the middle"),
        number("angle", [-360.0, 0.0, 360.0], "°", "of the line: 0 runs to the right, 90 down"),
        number("wavelength", [0.0, 0.0, 1000.0], "lights", "the length of a whole circle; 0 fits one on the span"),
        number("saturation", [0.0, 100.0, 100.0], "%", "how far the colours are from white"),
        number("level", [0.0, 100.0, 100.0], "%", "how bright they are"),
        rate("speed", "4 bars", "how long until the hues come round again"),
    ],
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
            0 => (cells.width * cos).abs() + (cells.height * sin).abs(),
            _ => reach,
        };
        let length = if params.number(WAVELENGTH) > 0.0 { params.number(WAVELENGTH) } else { fits.max(1.0) };
        let phase = self.phase.behind(cells.late).turns();
        match params.choice(FORM) {
            0 => line(cells.x, cells.y, hues, (cos / length, sin / length), phase),
            1 => rings(cells.x, cells.y, hues, centre, 1.0 / length, phase),
            _ => around(cells.x, cells.y, hues, centre, phase),
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
