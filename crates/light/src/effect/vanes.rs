//! Sectors that turn around a point, as the vanes of a windmill.

use multiversion::multiversion;

use super::params::handle::{ColoursParam, NumberParam, RateParam};
use super::params::{colours, number, rate};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::Rgba;
use splimo_base::maths::{angle_turns, fract, round};
use splimo_time::rate::Phase;

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(&["#fdf3d8", "#e2734b", "#7a2048"], "each sector takes its place among them"),
    number("vanes", [1.0, 4.0, 32.0], "", "how many sectors there are"),
    number("width", [1.0, 45.0, 100.0], "%", "how wide each is, of the room that it has"),
    number("twist", [-4.0, 0.0, 4.0], "turns", "how far each is bent from the middle to the edge"),
    number("softness", [0.0, 10.0, 100.0], "%", "how softly each ends, of its width"),
    number("x", [-500.0, 50.0, 600.0], "%", "the middle, from the left of the span"),
    number("y", [-500.0, 50.0, 600.0], "%", "the middle, from the top of the span"),
    rate("speed", "2 bars", "how long a turn takes; negative turns to the left"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const VANES: NumberParam = NumberParam::named(PARAMS, "vanes");
const WIDTH: NumberParam = NumberParam::named(PARAMS, "width");
const TWIST: NumberParam = NumberParam::named(PARAMS, "twist");
const SOFTNESS: NumberParam = NumberParam::named(PARAMS, "softness");
const X: NumberParam = NumberParam::named(PARAMS, "x");
const Y: NumberParam = NumberParam::named(PARAMS, "y");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "vanes",
    family: "motion",
    help: "Sectors that turn around a point, straight or bent",
    params: PARAMS,
    start: |_| Box::new(Vanes::default()),
};

#[derive(Default)]
struct Vanes {
    phase: Phase,
}

#[derive(Clone, Copy)]
struct Wheel {
    centre: (f32, f32),
    vanes: f32,
    phase: f32,
    twist: f32,
    share: f32,
    soft: f32,
}

impl Effect for Vanes {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        self.phase.advance(params.rate(SPEED), moment.step);
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let (mut places, mut cover) = ([0.0; TILE], [0.0; TILE]);
        let (places, cover) = (&mut places[..out.len()], &mut cover[..out.len()]);
        let reach = (cells.width * cells.width + cells.height * cells.height).sqrt() / 2.0;
        let wheel = Wheel {
            centre: (params.number(X) / 100.0 * cells.width, params.number(Y) / 100.0 * cells.height),
            vanes: params.number(VANES).floor(),
            phase: self.phase.behind(cells.late).turns(),
            twist: params.number(TWIST) / reach.max(1.0),
            share: params.number(WIDTH) / 100.0,
            soft: params.number(SOFTNESS) / 100.0,
        };
        turn(cells.x, cells.y, places, cover, wheel);
        params.covered_around(COLOURS, places, cover, out);
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn turn(x: &[f32], y: &[f32], places: &mut [f32], cover: &mut [f32], wheel: Wheel) {
    let Wheel { centre, vanes, phase, twist, share, soft } = wheel;
    for (((place, cover), x), y) in places.iter_mut().zip(cover).zip(x).zip(y) {
        let (dx, dy) = (x - centre.0, y - centre.1);
        let distance = (dx * dx + dy * dy).sqrt();
        let turns = (angle_turns(dx, dy) + distance * twist - phase) * vanes;
        let vane = round(turns);
        // The room of a vane in lights grows with the distance; its edge is a light wide at the least.
        let room = distance * std::f32::consts::TAU / vanes + 0.5;
        let edge = (soft * share * room).max(1.0);
        *cover = ((share * 0.5 - (turns - vane).abs()) * room / edge + 0.5).clamp(0.0, 1.0);
        *place = fract(vane / vanes);
    }
}
