//! Fire: heat that rises, spreads and cools, on a lattice that steps at a rate of its own.

use multiversion::multiversion;

use super::params::handle::{ColoursParam, NumberParam};
use super::params::{colours, number};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::Rgba;
use splimo_base::maths::{fract, hash, unit};

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(
        &["#00000000", "#5c0f0600 0.12", "#a81e08 0.3", "#f26b12 0.55", "#ffc04a 0.8", "#fff3c9"],
        "from cold to hottest",
    ),
    number("height", [5.0, 80.0, 200.0], "%", "how high the flames reach, of the span"),
    number("size", [0.5, 2.0, 40.0], "lights", "how wide a tongue is"),
    number("turbulence", [0.0, 50.0, 100.0], "%", "how restless it is"),
    number("speed", [5.0, 100.0, 400.0], "%", "how fast it burns"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const HEIGHT: NumberParam = NumberParam::named(PARAMS, "height");
const SIZE: NumberParam = NumberParam::named(PARAMS, "size");
const TURBULENCE: NumberParam = NumberParam::named(PARAMS, "turbulence");
const SPEED: NumberParam = NumberParam::named(PARAMS, "speed");

/// The lattice: so many columns, after which it repeats, and so many rows from the foot of the fire up.
const COLUMNS: usize = 128;
const ROWS: usize = 32;
/// Steps a second at a speed of 100 %.
const STEPS: f64 = 30.0;
/// The most steps made up in one tick, so that a long pause does not stall a frame.
const MOST_STEPS: u32 = 12;

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "embers",
    family: "simulation",
    help: "Fire that rises from the foot of the span",
    params: PARAMS,
    start: |seed| Box::new(Embers::new(seed)),
};

type Heat = [[f32; COLUMNS]; ROWS];

struct Embers {
    /// The heat after the last step, and before it.
    now: Box<Heat>,
    before: Box<Heat>,
    /// The heat between both, at this moment.
    seen: Box<Heat>,
    seed: u32,
    steps: u32,
    due: f64,
}

impl Embers {
    fn new(seed: u32) -> Self {
        let heat = || Box::new([[0.0; COLUMNS]; ROWS]);
        let mut fire = Self { now: heat(), before: heat(), seen: heat(), seed: hash(seed), steps: 0, due: 0.0 };
        // It already burns when it begins.
        for _ in 0..90 {
            fire.step(0.5);
        }
        *fire.seen = *fire.now;
        fire
    }

    /// A number drawn for a place and a time, 0..1.
    fn lot(&self, place: u32, step: u32) -> f32 {
        unit(hash(place.wrapping_mul(0x9e37_79b1) ^ step.wrapping_mul(0x85eb_ca77) ^ self.seed))
    }

    fn step(&mut self, turbulence: f32) {
        self.steps = self.steps.wrapping_add(1);
        std::mem::swap(&mut self.now, &mut self.before);
        // The foot glows in slow waves and in sudden sparks.
        for column in 0..COLUMNS {
            let slow = self.lot(column as u32 / 5, self.steps / 9);
            let quick = self.lot(column as u32 + 1000, self.steps / 2);
            let wanted = (0.55 + 0.35 * slow + turbulence * (quick - 0.5)).clamp(0.0, 1.0);
            self.now[0][column] = self.before[0][column] * 0.6 + wanted * 0.4;
        }
        for row in 1..ROWS {
            // The draught leans to one side and then to the other, another in each row.
            let lean = self.lot(row as u32 / 3 + 5000, self.steps / 4) - 0.5;
            let cooling = 0.010 + 0.022 * self.lot(row as u32 + 9000, self.steps);
            let (now, before) = (&mut self.now[row], &self.before);
            rise(now, &before[row - 1], &before[row], lean * turbulence, cooling);
        }
    }
}

/// The heat of a row out of the row below it and its own, a step earlier.
#[multiversion(targets("x86_64+avx2+fma"))]
fn rise(now: &mut [f32; COLUMNS], below: &[f32; COLUMNS], own: &[f32; COLUMNS], lean: f32, cooling: f32) {
    let (left, right) = (0.25 - 0.2 * lean, 0.25 + 0.2 * lean);
    for column in 0..COLUMNS {
        let (l, r) = ((column + COLUMNS - 1) % COLUMNS, (column + 1) % COLUMNS);
        let heat = below[l] * left + below[column] * 0.4 + below[r] * right + own[column] * 0.1;
        // What spreads evenly looks like fog: hot places rise better than cold ones.
        now[column] = (heat * (1.0 + 0.06 * (heat - 0.4)) - cooling).clamp(0.0, 1.0);
    }
}

impl Effect for Embers {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        self.due += moment.step.seconds * STEPS * f64::from(params.number(SPEED)) / 100.0;
        let mut steps = 0;
        while self.due >= 1.0 {
            self.due -= 1.0;
            if steps < MOST_STEPS {
                self.step(params.number(TURBULENCE) / 100.0);
                steps += 1;
            }
        }
        let share = self.due as f32;
        for (seen, (now, before)) in self.seen.iter_mut().zip(self.now.iter().zip(self.before.iter())) {
            for column in 0..COLUMNS {
                seen[column] = before[column] + (now[column] - before[column]) * share;
            }
        }
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let (mut columns, mut rows) = ([0.0; TILE], [0.0; TILE]);
        let (columns, rows) = (&mut columns[..out.len()], &mut rows[..out.len()]);
        let per_row = (ROWS - 1) as f32 / (cells.height * params.number(HEIGHT) / 100.0).max(1.0);
        let per_column = 1.0 / (params.number(SIZE) * 2.0);
        // Parts of a span that are later burn with other columns.
        let shift = cells.late * 37.0;
        lattice(cells, columns, rows, (per_column, shift), per_row);
        let mut heats = [0.0; TILE];
        let heats = &mut heats[..out.len()];
        for ((heat, column), row) in heats.iter_mut().zip(columns.iter()).zip(rows.iter()) {
            *heat = self.heat_at(*column, *row);
        }
        params.colour_along(COLOURS, heats, out);
    }
}

impl Embers {
    #[inline(always)]
    fn heat_at(&self, column: f32, row: f32) -> f32 {
        let (c, r) = (column as usize, (row as usize).min(ROWS - 2));
        let (u, v) = (column - c as f32, row - r as f32);
        let (c, next) = (c % COLUMNS, (c + 1) % COLUMNS);
        let (low, high) = (&self.seen[r], &self.seen[r + 1]);
        let below = low[c] + (low[next] - low[c]) * u;
        let above = high[c] + (high[next] - high[c]) * u;
        below + (above - below) * v
    }
}

/// The place of each light on the lattice. Above its last row there is no heat.
fn lattice(cells: &Cells<'_>, columns: &mut [f32], rows: &mut [f32], (per_column, shift): (f32, f32), per_row: f32) {
    for i in 0..columns.len() {
        columns[i] = fract((cells.x[i] * per_column + shift) / COLUMNS as f32) * COLUMNS as f32;
        rows[i] = ((cells.height - cells.y[i]) * per_row).clamp(0.0, (ROWS - 1) as f32);
    }
}
