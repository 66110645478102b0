//! Shapes that are born, grow and fade: at random, or on the beat.

use multiversion::multiversion;

use super::params::handle::{ChoiceParam, ColoursParam, NumberParam, RateParam, choices};
use super::params::{choice, colours, number, rate};
use super::{BeatWatch, Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::Rgba;
use splimo_base::maths::{floor, hash, smooth, unit};
use splimo_time::rate::Phase;

choices! {
    /// The choice "shape".
    Shape {
        Disc = "disc",
        Ring = "ring",
        Square = "square",
        Diamond = "diamond",
    }
}

choices! {
    /// The choice "born".
    Born {
        AtRandom = "at random",
        OnTheBeat = "on the beat",
    }
}

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(&["#ff3d68", "#ffc93d", "#33d6a6", "#3d8bff", "#c45cff"], "each shape takes one of them"),
    choice("shape", Shape::WORDS, "what is born"),
    choice("born", Born::WORDS, "when it is born"),
    number("size", [1.0, 10.0, 200.0], "lights", "how large it grows"),
    number("density", [1.0, 45.0, 100.0], "%", "how many there are"),
    rate("speed", "2 beats", "how long one lives"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const SHAPE: ChoiceParam<Shape> = ChoiceParam::named(PARAMS, "shape");
const BORN: ChoiceParam<Born> = ChoiceParam::named(PARAMS, "born");
const SIZE: NumberParam = NumberParam::named(PARAMS, "size");
const DENSITY: NumberParam = NumberParam::named(PARAMS, "density");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "confetti",
    family: "motion",
    help: "Shapes that are born, grow and fade, at random or on the beat",
    params: PARAMS,
    start: |seed| {
        Box::new(Confetti { phase: Phase::default(), watch: BeatWatch::default(), beat: 0.0, seed: hash(seed) })
    },
};

struct Confetti {
    phase: Phase,
    watch: BeatWatch,
    beat: f64,
    seed: u32,
}

#[derive(Clone, Copy)]
struct Field {
    /// The lattice in whose fields shapes live, in lights; moved so that two of them do not lie on each other.
    side: f32,
    shift: f32,
    seed: u32,
    whole: u32,
    part: f32,
    together: bool,
    density: f32,
    radius: f32,
}

impl Effect for Confetti {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        self.phase.advance(params.rate(SPEED), moment.step);
        self.watch.advance(moment);
        self.beat = self.watch.count() as f64 + moment.beat.rem_euclid(1.0);
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let (mut places, mut cover) = ([0.0; TILE], [0.0; TILE]);
        let (places, cover) = (&mut places[..out.len()], &mut cover[..out.len()]);
        let (x, y) = (cells.x, cells.y);
        let together = params.choice(BORN) == Born::OnTheBeat;
        let phase = if together { Phase::of(self.beat) } else { self.phase }.behind(cells.late);
        let radius = params.number(SIZE) / 2.0;
        let field = Field {
            side: radius * 2.0 + 2.0 + radius * 0.6,
            shift: 0.0,
            seed: self.seed,
            whole: phase.whole() as u32,
            part: phase.turns(),
            together,
            density: params.number(DENSITY) / 100.0,
            radius,
        };
        let shapes = match params.choice(SHAPE) {
            Shape::Disc => discs,
            Shape::Ring => rings,
            Shape::Square => squares,
            Shape::Diamond => diamonds,
        };
        shapes(x, y, places, cover, field);
        // A second lattice between the fields of the first hides both.
        let other = Field { shift: field.side * 0.5, seed: field.seed ^ 0x51ed_2701, ..field };
        shapes(x, y, places, cover, other);
        params.covered_around(COLOURS, places, cover, out);
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }
}

/// A number that stands for a whole one; found without a cast, which would be checked for overflow and not vectorise.
#[inline(always)]
fn mark(whole: f32) -> u32 {
    (whole + 12_582_912.0).to_bits()
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn discs(x: &[f32], y: &[f32], places: &mut [f32], cover: &mut [f32], field: Field) {
    shapes::<0>(x, y, places, cover, field);
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn rings(x: &[f32], y: &[f32], places: &mut [f32], cover: &mut [f32], field: Field) {
    shapes::<1>(x, y, places, cover, field);
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn squares(x: &[f32], y: &[f32], places: &mut [f32], cover: &mut [f32], field: Field) {
    shapes::<2>(x, y, places, cover, field);
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn diamonds(x: &[f32], y: &[f32], places: &mut [f32], cover: &mut [f32], field: Field) {
    shapes::<3>(x, y, places, cover, field);
}

/// Adds the shapes of one lattice: where one covers more than what was there, it takes the place over. Each shape has a loop
/// of its own, so that none decides anything for each light.
#[inline(always)]
fn shapes<const SHAPE: usize>(x: &[f32], y: &[f32], places: &mut [f32], cover: &mut [f32], field: Field) {
    let Field { side, shift, seed, whole, part, together, density, radius } = field;
    let per_side = 1.0 / side;
    let room = side - 2.0 * radius - 1.0;
    for (((place, cover), x), y) in places.iter_mut().zip(cover).zip(x).zip(y) {
        let (u, v) = ((x + shift) * per_side, (y + shift) * per_side);
        let (column, row) = (floor(u), floor(v));
        let lot = hash(mark(column).wrapping_mul(0x9e37_79b1) ^ mark(row).wrapping_mul(0x85eb_ca77) ^ seed);
        // Each field is ahead of the others by its own share of a life.
        let age = part + if together { 0.0 } else { unit(lot) };
        let (life, age) = if age >= 1.0 { (1, age - 1.0) } else { (0, age) };
        let lot = hash(lot ^ whole.wrapping_add(life).wrapping_mul(0xc2b2_ae3d));
        let draw = |n: u32| unit(lot.wrapping_mul(n));
        let grown = radius * smooth(age * 2.5);
        let (dx, dy) = (
            (u - column) * side - (radius + 0.5 + room * draw(0x27d4_eb2f)),
            (v - row) * side - (radius + 0.5 + room * draw(0x1656_67b1)),
        );
        let (ax, ay) = (dx.abs(), dy.abs());
        let distance = match SHAPE {
            0 | 1 => (dx * dx + dy * dy).sqrt(),
            2 => ax.max(ay),
            _ => (ax + ay) * std::f32::consts::FRAC_1_SQRT_2,
        };
        let inside = (grown - distance + 0.5).clamp(0.0, 1.0);
        let thick = (radius * 0.25).max(1.0);
        let inside = if SHAPE == 1 { inside - (grown - thick - distance + 0.5).clamp(0.0, 1.0) } else { inside };
        let there = ((density - draw(0xd3a2_646c)) * 24.0).clamp(0.0, 1.0);
        let fades = 1.0 - smooth((age - 0.45) / 0.55);
        let lit = inside * there * fades;
        *place = if lit > *cover { draw(0xfd70_46c5) } else { *place };
        *cover = lit.max(*cover);
    }
}
