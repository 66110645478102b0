//! Bars that sweep over the lights: along a line, outward, inward, as boxes, around, or from a corner.

use multiversion::multiversion;

use super::edges::{Bar, there_and_back};
use super::params::handle::{ChoiceParam, ColoursParam, NumberParam, RateParam, choices};
use super::params::{choice, colours, number, rate};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::Rgba;
use splimo_base::maths::{angle_turns, cos_turns, floor, fract, sin_turns, smooth};
use splimo_time::rate::Phase;

choices! {
    /// The choice "form".
    Form {
        Straight = "straight",
        Outward = "outward",
        Inward = "inward",
        Box = "box",
        Ring = "ring",
        Corner = "corner",
    }
}

choices! {
    /// The choice "easing".
    Easing {
        Even = "even",
        Smooth = "smooth",
        StartsSlow = "starts slow",
        EndsSlow = "ends slow",
    }
}

choices! {
    /// The choice "way".
    Way {
        There = "there",
        ThereAndBack = "there and back",
    }
}

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(&["#fff4dc", "#ff9a3c", "#c2371e"], "from the head of a bar to its tail"),
    choice("form", Form::WORDS, "the way it goes"),
    number("angle", [-360.0, 0.0, 360.0], "°", "of a straight one: 0 goes to the right, 90 down"),
    number("bars", [1.0, 1.0, 32.0], "", "how many are under way"),
    number("width", [0.1, 8.0, 400.0], "lights", "how wide a bar is"),
    number("head", [0.0, 1.0, 200.0], "lights", "over how many lights it comes"),
    number("tail", [0.0, 6.0, 400.0], "lights", "over how many lights it goes"),
    number("spacing", [1.0, 100.0, 100.0], "%", "how far apart bars are; 100 spreads them over the whole way"),
    choice("easing", Easing::WORDS, "how the way is gone"),
    choice("way", Way::WORDS, "only there, or back as well"),
    rate("speed", "1 bar", "how long a bar takes for the whole way"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const FORM: ChoiceParam<Form> = ChoiceParam::named(PARAMS, "form");
const ANGLE: NumberParam = NumberParam::named(PARAMS, "angle");
const BARS: NumberParam = NumberParam::named(PARAMS, "bars");
const WIDTH: NumberParam = NumberParam::named(PARAMS, "width");
const HEAD: NumberParam = NumberParam::named(PARAMS, "head");
const TAIL: NumberParam = NumberParam::named(PARAMS, "tail");
const SPACING: NumberParam = NumberParam::named(PARAMS, "spacing");
const EASING: ChoiceParam<Easing> = ChoiceParam::named(PARAMS, "easing");
const WAY: ChoiceParam<Way> = ChoiceParam::named(PARAMS, "way");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "sweep",
    family: "motion",
    help: "Bars that sweep over what is below: along a line, outward, inward, around or from a corner",
    params: PARAMS,
    start: |_| Box::new(Sweep::default()),
};

#[derive(Default)]
struct Sweep {
    phase: Phase,
}

/// The bars at a moment.
#[derive(Clone, Copy)]
struct Bars {
    bar: Bar,
    /// The place of the tip of the first, in lights.
    tip: f32,
    /// From one tip to the next, and after how much way all begins again.
    gap: f32,
    way: f32,
    count: f32,
}

impl Sweep {
    fn bars(&self, params: &Params, cells: &Cells<'_>, length: f32) -> Bars {
        let bar = Bar::new(params.number(WIDTH), params.number(HEAD), params.number(TAIL));
        let count = floor(params.number(BARS));
        // All the way, until the last bit of the bar is gone; around, it comes back to where it was.
        let way = if params.choice(FORM) == Form::Ring { length } else { length + bar.length };
        let gap = way / count * params.number(SPACING) / 100.0;
        let turns = self.phase.behind(cells.late).turns();
        let share = if params.choice(WAY) == Way::ThereAndBack { there_and_back(turns) } else { turns };
        let eased = match params.choice(EASING) {
            Easing::Even => share,
            Easing::Smooth => smooth(share),
            Easing::StartsSlow => share * share,
            Easing::EndsSlow => share * (2.0 - share),
        };
        Bars { bar, tip: eased * way, gap: gap.max(1e-3), way, count }
    }
}

impl Effect for Sweep {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        self.phase.advance(params.rate(SPEED), moment.step);
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let (mut places, mut cover) = ([0.0; TILE], [0.0; TILE]);
        let (places, cover) = (&mut places[..out.len()], &mut cover[..out.len()]);
        let length = ways(params, cells, places);
        under(places, cover, self.bars(params, cells, length));
        params.covered_along(COLOURS, places, cover, out);
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }

    fn centre(&self) -> f64 {
        0.5
    }
}

/// The place of each light along the way, in lights; returns the length of the way.
fn ways(params: &Params, cells: &Cells<'_>, out: &mut [f32]) -> f32 {
    let (x, y) = (cells.x, cells.y);
    let centre = (cells.width / 2.0, cells.height / 2.0);
    let reach = (centre.0 * centre.0 + centre.1 * centre.1).sqrt().max(0.5);
    match params.choice(FORM) {
        Form::Straight => {
            let turn = params.number(ANGLE) / 360.0;
            let (sin, cos) = (sin_turns(turn), cos_turns(turn));
            let first = cos.min(0.0) * cells.width + sin.min(0.0) * cells.height;
            line(x, y, out, cos, sin, -first);
            (cells.width * cos).abs() + (cells.height * sin).abs()
        }
        Form::Outward => {
            rings(x, y, out, centre, 1.0, 0.0);
            reach
        }
        Form::Inward => {
            rings(x, y, out, centre, -1.0, reach);
            reach
        }
        Form::Box => {
            boxes(x, y, out, centre);
            centre.0.max(centre.1)
        }
        Form::Ring => {
            // As long as half way out.
            let round = reach * std::f32::consts::PI;
            around(x, y, out, centre, round);
            round
        }
        Form::Corner => {
            let half = std::f32::consts::FRAC_1_SQRT_2;
            line(x, y, out, half, half, 0.0);
            (cells.width + cells.height) * half
        }
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn line(x: &[f32], y: &[f32], out: &mut [f32], dx: f32, dy: f32, offset: f32) {
    for ((out, x), y) in out.iter_mut().zip(x).zip(y) {
        *out = x * dx + y * dy + offset;
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn rings(x: &[f32], y: &[f32], out: &mut [f32], centre: (f32, f32), sign: f32, offset: f32) {
    for ((out, x), y) in out.iter_mut().zip(x).zip(y) {
        let (dx, dy) = (x - centre.0, y - centre.1);
        *out = (dx * dx + dy * dy).sqrt() * sign + offset;
    }
}

/// Boxes that have the form of the plane, and are measured along its longer side.
#[multiversion(targets("x86_64+avx2+fma"))]
fn boxes(x: &[f32], y: &[f32], out: &mut [f32], centre: (f32, f32)) {
    let longer = centre.0.max(centre.1);
    let (across, down) = (longer / centre.0.max(0.5), longer / centre.1.max(0.5));
    for ((out, x), y) in out.iter_mut().zip(x).zip(y) {
        let (dx, dy) = ((x - centre.0).abs() * across, (y - centre.1).abs() * down);
        *out = if dx > dy { dx } else { dy };
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn around(x: &[f32], y: &[f32], out: &mut [f32], centre: (f32, f32), round: f32) {
    for ((out, x), y) in out.iter_mut().zip(x).zip(y) {
        *out = (angle_turns(x - centre.0, y - centre.1) + 0.5) * round;
    }
}

/// From ways to how far along its bar each light lies (0..1), and how much of it is lit.
#[multiversion(targets("x86_64+avx2+fma"))]
fn under(places: &mut [f32], cover: &mut [f32], bars: Bars) {
    let Bars { bar, tip, gap, way, count } = bars;
    let (per_way, per_gap, per_length) = (1.0 / way, 1.0 / gap, 1.0 / bar.length);
    for (place, cover) in places.iter_mut().zip(cover) {
        let behind = fract((tip - *place) * per_way) * way;
        let which = floor(behind * per_gap);
        let behind = behind - which * gap;
        // Where the tail of the bar before is still there, the brighter counts.
        let lit = bar.cover(behind).max(bar.cover(behind + gap) * (which > 0.5) as u8 as f32);
        *cover = if which < count { lit } else { 0.0 };
        *place = behind * per_length;
    }
}
