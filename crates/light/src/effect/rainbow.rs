//! The hue circle, or a range of it, along a shape.

use multiversion::multiversion;

use super::params::handle::{NumberParam, RateParam};
use super::params::{number, rate};
use super::shape::{self, ShapeParams};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::Rgba;
use splimo_base::maths::fract;
use splimo_time::rate::Phase;

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    shape::SHAPE,
    shape::ANGLE,
    number("wavelength", [0.0, 0.0, 1000.0], "lights", "the length of all the hues; 0 fits them on the span"),
    number("hue", [0.0, 0.0, 360.0], "°", "where the hues begin: 0 is red, 120 green, 240 blue"),
    number(
        "range",
        [-360.0, 360.0, 360.0],
        "°",
        "how far they go; less than all come there and back, and negative go the other way",
    ),
    number("saturation", [0.0, 100.0, 100.0], "%", "how far the colours are from white"),
    number("level", [0.0, 100.0, 100.0], "%", "how bright they are"),
    rate("speed", "4 bars", "how long until the hues come round again"),
    shape::CENTRE_X,
    shape::CENTRE_Y,
    shape::TWIST,
];

const HUE: NumberParam = NumberParam::named(PARAMS, "hue");
const RANGE: NumberParam = NumberParam::named(PARAMS, "range");
const SATURATION: NumberParam = NumberParam::named(PARAMS, "saturation");
const LEVEL: NumberParam = NumberParam::named(PARAMS, "level");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");
const SHAPE: ShapeParams = ShapeParams::among(PARAMS);

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "rainbow",
    family: "colour",
    help: "The hue circle, or a range of it, along a line, a circle, a spiral or another shape",
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
        let layout = SHAPE.layout(params, 1.0);
        layout.on(cells, self.phase.behind(cells.late).turns()).places(cells, hues);
        in_range(hues, params.number(HUE) / 360.0, params.number(RANGE) / 360.0);
        colour(hues, params.number(SATURATION) / 100.0, params.number(LEVEL) / 100.0, out);
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }
}

/// Makes hues, in turns, of places: those from `start` on as far as `range` goes, there and back where that is less than a turn.
fn in_range(places: &mut [f32], start: f32, range: f32) {
    if range.abs() >= 1.0 {
        return places.iter_mut().for_each(|place| *place = start + *place * range);
    }
    for place in places {
        *place = start + range * (1.0 - (2.0 * fract(*place) - 1.0).abs());
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_range_of_hues_comes_there_and_back_either_way() {
        let hues = |range: f32| {
            let mut places = [0.0, 0.25, 0.5, 0.75];
            in_range(&mut places, 0.5, range);
            places
        };
        assert_eq!(hues(1.0), [0.5, 0.75, 1.0, 1.25]);
        assert_eq!(hues(0.2), [0.5, 0.6, 0.7, 0.6]);
        assert_eq!(hues(-0.2), [0.5, 0.4, 0.3, 0.4]);
    }
}
