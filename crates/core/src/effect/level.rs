//! How loud it is, as a bar that rises and falls, or as the brightness of everything.

use multiversion::multiversion;

use super::follow::{follow, sensed};
use super::params::{choice, colours, number};
use super::{Cells, Effect, EffectSpec, Moment, Params};
use crate::colour::Rgba;
use crate::maths::angle_turns;
use crate::rig::TILE;

const COLOURS: usize = 0;
const FORM: usize = 1;
const OF: usize = 2;
const SENSITIVITY: usize = 3;
const ATTACK: usize = 4;
const DECAY: usize = 5;
const PEAK: usize = 6;

/// How long the peak stays before it falls, in seconds.
const HOLD: f32 = 0.6;

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "level",
    family: "music",
    help: "How loud it is, as a bar that rises and falls, or as the brightness of everything",
    params: &[
        colours(&["#1d7a4c", "#a6d944", "#ffd23d", "#ff4b2e"], "from the foot of the bar to its top"),
        choice("form", &["upward", "rightward", "from the middle", "around", "brightness"], "where the bar grows"),
        choice("of", &["loudness", "bass", "mids", "highs"], "what is measured"),
        number("sensitivity", [0.1, 1.0, 8.0], "", "how far the bar reaches"),
        number("attack", [0.0, 0.02, 5.0], "s", "how long it takes to rise"),
        number("decay", [0.0, 0.4, 10.0], "s", "how long it takes to fall"),
        choice("peak", &["falls", "none"], "a mark at the highest of the last moments"),
    ],
    start: |_| Box::new(Level { level: 0.0, peak: 0.0, held: 0.0 }),
};

struct Level {
    level: f32,
    peak: f32,
    /// For how long the peak has been there, in seconds.
    held: f32,
}

impl Effect for Level {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        let heard = moment.hearing;
        let wanted = match params.choice(OF) {
            1 => heard.bass(),
            2 => heard.mids(),
            3 => heard.highs(),
            _ => heard.level,
        };
        let seconds = moment.step.seconds as f32;
        let wanted = sensed(wanted, params.number(SENSITIVITY));
        follow(&mut self.level, wanted, seconds, params.number(ATTACK), params.number(DECAY));
        self.held += seconds;
        if self.level >= self.peak {
            (self.peak, self.held) = (self.level, 0.0);
        } else if self.held > HOLD {
            self.peak = (self.peak - seconds * 0.5).max(self.level);
        }
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        if params.choice(FORM) == 4 {
            let [r, g, b, a] = params.colour_at(COLOURS, self.level);
            out.fill([r, g, b, a * self.level * self.level]);
            return;
        }
        let (mut places, mut cover) = ([0.0; TILE], [0.0; TILE]);
        let (places, cover) = (&mut places[..out.len()], &mut cover[..out.len()]);
        let length = heights(params.choice(FORM), cells, places);
        let mark = if params.choice(PEAK) == 0 { self.peak * length } else { -10.0 };
        fill(places, cover, self.level * length, mark, 1.0 / length.max(1e-3));
        params.colour_along(COLOURS, places, out);
        for (out, cover) in out.iter_mut().zip(cover) {
            out[3] *= *cover;
        }
    }
}

/// How far each light lies from the foot of the bar, in lights; returns the length of a full bar.
fn heights(form: usize, cells: &Cells<'_>, out: &mut [f32]) -> f32 {
    let (width, height) = (cells.width, cells.height);
    for (i, out) in out.iter_mut().enumerate() {
        let (x, y) = (cells.x[i], cells.y[i]);
        *out = match form {
            0 => height - y,
            1 => x,
            2 if width >= height => (x - width / 2.0).abs(),
            2 => (y - height / 2.0).abs(),
            _ => (angle_turns(height / 2.0 - y, x - width / 2.0) + 0.5) * (width + height),
        };
    }
    match form {
        0 => height,
        1 => width,
        2 => width.max(height) / 2.0,
        _ => width + height,
    }
}

/// Lights what lies below `reach`, and a mark of a light at `mark`; what was a height becomes a place.
#[multiversion(targets("x86_64+avx2+fma"))]
fn fill(places: &mut [f32], cover: &mut [f32], reach: f32, mark: f32, per_length: f32) {
    for (place, cover) in places.iter_mut().zip(cover) {
        let below = (reach - *place + 0.5).clamp(0.0, 1.0);
        let marked = (1.0 - (mark - *place).abs()).clamp(0.0, 1.0);
        // Silence is dark: not even half a light at the foot.
        *cover = below.max(marked) * (reach * 4.0).clamp(0.0, 1.0);
        *place *= per_length;
    }
}
