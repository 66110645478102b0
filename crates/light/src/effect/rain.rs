//! Drops that fall with a tail. A simulation: it steps at a rate of its own, and what lies between two steps is drawn
//! where the drops are by then, so that the picture depends neither on the frame rate nor on when a frame falls.

use multiversion::multiversion;

use super::params::handle::{ColoursParam, NumberParam, RateParam};
use super::params::{colours, number, rate};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::Rgba;
use splimo_base::maths::{hash, round_to_bits, unit};
use splimo_time::rate::Rate;

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(&["#f2fbff", "#49b6e8", "#06365a00"], "from the drop to the end of its tail"),
    number("density", [0.0, 35.0, 100.0], "%", "how many columns have a drop on its way"),
    number("length", [1.0, 12.0, 200.0], "lights", "the length of a tail"),
    rate("speed", "2 beats", "how long a drop takes from the top to the bottom"),
    number("slant", [-80.0, 0.0, 80.0], "°", "how far the fall leans to the right"),
    number("splash", [0.0, 0.0, 60.0], "lights", "how far a drop splashes where it lands"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const DENSITY: NumberParam = NumberParam::named(PARAMS, "density");
const LENGTH: NumberParam = NumberParam::named(PARAMS, "length");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");
const SLANT: NumberParam = NumberParam::named(PARAMS, "slant");
const SPLASH: NumberParam = NumberParam::named(PARAMS, "splash");

/// Steps of the simulation a second.
const STEPS: f64 = 60.0;
/// The most steps made up in one tick, so that a long pause does not stall a frame.
const MOST_STEPS: u32 = 30;
/// The number of columns that fall independently; wider planes repeat them.
const COLUMNS: usize = 256;

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "rain",
    family: "simulation",
    help: "Drops that fall with a tail, every column by itself",
    params: PARAMS,
    start: |seed| Box::new(Rain::new(seed)),
};

/// The beginning of a drop, in heights of the plane: above it, so that it comes in and does not pop up.
const ABOVE: f32 = -0.25;
/// The place of a drop that does not fall, in heights of the plane.
const NOWHERE: f32 = -1e9;

#[derive(Clone, Copy)]
struct Drop {
    /// The way that it has fallen: 0 at the top, 1 at the bottom; it goes on until its tail is gone.
    place: f32,
    /// Its own speed against the others', 0.7..1.3.
    haste: f32,
    falls: bool,
}

struct Rain {
    columns: [Drop; COLUMNS],
    /// The place of each drop at this moment, in heights; one that does not fall is so far up that nothing of it is seen.
    heads: [f32; COLUMNS],
    draws: u32,
    /// Steps that are due but not made, 0..1.
    due: f64,
    /// The way that a drop of haste 1 falls in a step, of the whole height.
    pace: f32,
}

impl Rain {
    fn new(seed: u32) -> Self {
        let idle = Drop { place: 0.0, haste: 1.0, falls: false };
        let mut rain =
            Self { columns: [idle; COLUMNS], heads: [NOWHERE; COLUMNS], draws: hash(seed), due: 0.0, pace: 0.0 };
        // It is already raining when it begins.
        for column in 0..COLUMNS {
            if rain.draw() < 0.35 {
                rain.columns[column] = Drop { place: rain.draw() * 1.5, haste: 0.7 + 0.6 * rain.draw(), falls: true };
            }
        }
        rain
    }

    fn draw(&mut self) -> f32 {
        self.draws = self.draws.wrapping_add(0x9e37_79b9);
        unit(hash(self.draws))
    }

    fn step(&mut self, density: f32) {
        let pace = self.pace;
        // A drop is under way for about 1.5 heights; idle columns start often enough to keep the density.
        let share = density.min(0.98);
        let birth = if density >= 1.0 { 1.0 } else { pace / 1.5 * share / (1.0 - share) };
        for column in 0..COLUMNS {
            let drop = &mut self.columns[column];
            if drop.falls {
                drop.place += pace * drop.haste;
                // The longest tail is as long as the plane is high, or the drop would end while it is seen.
                drop.falls = drop.place < 2.0;
            } else if density > 0.0 && self.draw() < birth {
                let haste = 0.7 + 0.6 * self.draw();
                self.columns[column] = Drop { place: ABOVE, haste, falls: true };
            }
        }
    }
}

impl Effect for Rain {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        let cycles = match params.rate(SPEED) {
            Rate::Stopped => 0.0,
            rate => rate.cycles(moment.step).abs(),
        };
        if moment.step.seconds > 0.0 {
            self.pace = (cycles / moment.step.seconds / STEPS) as f32;
        }
        self.due += moment.step.seconds * STEPS;
        let mut steps = 0;
        while self.due >= 1.0 {
            self.due -= 1.0;
            if steps < MOST_STEPS {
                self.step(params.number(DENSITY) / 100.0);
                steps += 1;
            }
        }
        let ahead = self.due as f32 * self.pace;
        for (head, drop) in self.heads.iter_mut().zip(&self.columns) {
            *head = if drop.falls { drop.place + ahead * drop.haste } else { NOWHERE };
        }
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let mut behind = [0.0; TILE];
        let mut cover = [0.0; TILE];
        let (behind, cover) = (&mut behind[..out.len()], &mut cover[..out.len()]);
        let degrees = params.number(SLANT);
        let lean = splimo_base::maths::sin_turns(degrees / 360.0) / splimo_base::maths::cos_turns(degrees / 360.0);
        let length = params.number(LENGTH).min(cells.height.max(1.0));
        let mut columns = [0; TILE];
        columns_of(cells.x, cells.y, lean, &mut columns[..out.len()]);
        for (behind, &column) in behind.iter_mut().zip(&columns) {
            *behind = self.heads[column as usize & (COLUMNS - 1)] * cells.height;
        }
        tails(cells.y, length, behind, cover);
        params.covered_along(COLOURS, behind, cover, out);
        if params.number(SPLASH) > 0.0 {
            self.splash(params, cells, lean, out);
        }
    }
}

impl Rain {
    /// Lights what is thrown up near the foot of the plane by drops that have just landed.
    fn splash(&self, params: &Params, cells: &Cells<'_>, lean: f32, out: &mut [Rgba]) {
        let reach = params.number(SPLASH);
        let colour = params.colour_at(COLOURS, 0.0);
        let wide = (reach.ceil() as i32).min(60);
        for (i, out) in out.iter_mut().enumerate() {
            let up = cells.height - cells.y[i];
            if up > reach {
                continue;
            }
            let place = cells.x[i] - cells.height * lean;
            let middle = (place - 0.5).round() as i32;
            let mut lit = 0.0f32;
            for column in middle - wide..=middle + wide {
                let head = self.heads[column as usize & (COLUMNS - 1)];
                // It spreads and is gone after the drop would have fallen a fifth of the way farther.
                let age = (head - 1.0) * 5.0;
                if !(0.0..1.0).contains(&age) {
                    continue;
                }
                let (dx, dy) = (place - column as f32 - 0.5, up - 0.5);
                let ring = (dx * dx + dy * dy * 2.0).sqrt() - age * reach;
                lit = lit.max((1.0 - ring.abs()).clamp(0.0, 1.0) * (1.0 - age));
            }
            let [r, g, b, a] = colour;
            let share = lit * a;
            let over = |below: f32, above: f32| below + (above - below) * share;
            *out = [over(out[0], r), over(out[1], g), over(out[2], b), out[3].max(share)];
        }
    }
}

/// The column of each LED.
#[multiversion(targets("x86_64+avx2+fma"))]
fn columns_of(x: &[f32], y: &[f32], lean: f32, out: &mut [u32]) {
    for ((out, x), y) in out.iter_mut().zip(x).zip(y) {
        // The nearest whole number to the middle of a column; the lowest bits repeat the columns of wider planes.
        *out = round_to_bits::<{ COLUMNS as u32 - 1 }>(x - y * lean - 0.5);
    }
}

/// From how far down the drop of each LED is to how far along its tail the LED lies, 0..1, and how much of it is there.
#[multiversion(targets("x86_64+avx2+fma"))]
fn tails(y: &[f32], length: f32, behind: &mut [f32], cover: &mut [f32]) {
    for ((behind, cover), y) in behind.iter_mut().zip(cover).zip(y) {
        let distance = *behind - y;
        *behind = distance / length;
        *cover = (distance + 1.0).clamp(0.0, 1.0) * (length - distance).clamp(0.0, 1.0);
    }
}
