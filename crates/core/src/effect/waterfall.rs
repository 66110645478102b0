//! The bands of what is heard as they go by: each moment is a line, and the lines move on.

use super::follow::{follow, sensed};
use super::params::{choice, colours, number};
use super::{Cells, Effect, EffectSpec, Moment, Params};
use crate::colour::Rgba;
use crate::music::BANDS;
use crate::rig::TILE;

const COLOURS: usize = 0;
const WAY: usize = 1;
const SENSITIVITY: usize = 2;
const ATTACK: usize = 3;
const DECAY: usize = 4;
const WINDOW: usize = 5;

/// Lines that are remembered.
const LINES: usize = 256;

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "waterfall",
    family: "music",
    help: "The bands of what is heard, line by line as they go by",
    params: &[
        colours(&["#00000000", "#12206b", "#c0267e", "#ff9a3c", "#fff6c9"], "from silence to the loudest"),
        choice("way", &["down", "up", "right", "left", "outward"], "where the lines move"),
        number("sensitivity", [0.1, 1.0, 8.0], "", "how bright it is"),
        number("attack", [0.0, 0.01, 2.0], "s", "how long a band takes to rise"),
        number("decay", [0.0, 0.15, 5.0], "s", "how long it takes to fall"),
        number("window", [0.2, 4.0, 60.0], "s", "how long a line takes to go by"),
    ],
    start: |_| Box::new(Waterfall { lines: Box::new([[0.0; BANDS]; LINES]), newest: 0, due: 0.0, bands: [0.0; BANDS] }),
};

struct Waterfall {
    lines: Box<[[f32; BANDS]; LINES]>,
    newest: usize,
    due: f64,
    bands: [f32; BANDS],
}

impl Effect for Waterfall {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        let seconds = moment.step.seconds as f32;
        let before = self.bands;
        for (band, heard) in self.bands.iter_mut().zip(&moment.hearing.bands) {
            let wanted = sensed(*heard, params.number(SENSITIVITY));
            follow(band, wanted, seconds, params.number(ATTACK), params.number(DECAY));
        }
        self.due += moment.step.seconds * (LINES - 2) as f64 / f64::from(params.number(WINDOW));
        let steps = (self.due.floor() as usize).min(LINES);
        self.due -= self.due.floor();
        for step in 1..=steps {
            // Of several lines that are due at once the earlier ones lie between what was and what is.
            let share = step as f32 / steps as f32;
            self.newest = (self.newest + 1) % LINES;
            self.lines[self.newest] =
                std::array::from_fn(|band| before[band] + (self.bands[band] - before[band]) * share);
        }
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let mut places = [0.0; TILE];
        let places = &mut places[..out.len()];
        for (i, place) in places.iter_mut().enumerate() {
            let (u, v) = (cells.x[i] / cells.width.max(1e-3), cells.y[i] / cells.height.max(1e-3));
            let (age, pitch) = match params.choice(WAY) {
                0 => (v, u),
                1 => (1.0 - v, u),
                2 => (u, 1.0 - v),
                3 => (1.0 - u, 1.0 - v),
                _ => ((2.0 * u - 1.0).abs(), 1.0 - v),
            };
            *place = self.level_at(age, pitch);
        }
        params.colour_along(COLOURS, places, out);
    }
}

impl Waterfall {
    fn level_at(&self, age: f32, pitch: f32) -> f32 {
        let age = age.clamp(0.0, 1.0) * (LINES - 3) as f32 + self.due as f32;
        let place = (pitch * BANDS as f32 - 0.5).clamp(0.0, BANDS as f32 - 1.001);
        let (back, band) = (age as usize, (place as usize).min(BANDS - 2));
        let (t, u) = (age - back as f32, place - band as f32);
        let line = |back: usize| {
            let bands = &self.lines[(self.newest + LINES - back) % LINES];
            bands[band] + (bands[band + 1] - bands[band]) * u
        };
        line(back) + (line(back + 1) - line(back)) * t
    }
}
