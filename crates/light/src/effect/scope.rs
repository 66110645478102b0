//! The form of the sound as a line, or its loudness as it goes by.

use super::follow::sensed;
use super::params::handle::{ChoiceParam, ColoursParam, NumberParam, choices};
use super::params::{choice, colours, number};
use super::table::Table;
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::Rgba;
use splimo_time::music::{WAVE, Wave};

choices! {
    /// The choice "form".
    Form {
        Still = "still",
        Running = "running",
    }
}

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(&["#e9fff4", "#39d98a", "#0b4a3a"], "from the middle outward"),
    choice("form", Form::WORDS, "the wave of this moment, or the loudness of the last ones"),
    number("sensitivity", [0.1, 1.0, 8.0], "", "how far the line moves"),
    number("thickness", [0.5, 1.5, 40.0], "lights", "of the line"),
    number("attack", [0.0, 0.0, 2.0], "s", "how long the line takes to move out"),
    number("decay", [0.0, 0.1, 5.0], "s", "how long it takes to come back"),
    number("window", [0.2, 4.0, 60.0], "s", "how long something takes to run by"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const FORM: ChoiceParam<Form> = ChoiceParam::named(PARAMS, "form");
const SENSITIVITY: NumberParam = NumberParam::named(PARAMS, "sensitivity");
const THICKNESS: NumberParam = NumberParam::named(PARAMS, "thickness");
const ATTACK: NumberParam = NumberParam::named(PARAMS, "attack");
const DECAY: NumberParam = NumberParam::named(PARAMS, "decay");
const WINDOW: NumberParam = NumberParam::named(PARAMS, "window");

/// Points of the loudness that goes by.
const POINTS: usize = 512;

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "scope",
    family: "music",
    help: "The form of the sound as a line that stands still, or its loudness as it runs by",
    params: PARAMS,
    start: |_| {
        Box::new(Scope {
            wave: Wave::SILENCE,
            levels: [0.0; POINTS],
            newest: 0,
            due: 0.0,
            level: 0.0,
            line: Table::default(),
            loudness: Table::default(),
        })
    },
};

struct Scope {
    wave: Wave,
    /// Loudness, the newest at `newest`, in steps of a share of the window.
    levels: [f32; POINTS],
    newest: usize,
    /// Steps that are due but not made, 0..1.
    due: f64,
    level: f32,
    /// The line along the width: the wave, and the loudness of the last moments.
    line: Table,
    loudness: Table,
}

impl Effect for Scope {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        let seconds = moment.step.seconds as f32;
        let (attack, decay) = (params.number(ATTACK), params.number(DECAY));
        for (point, heard) in self.wave.0.iter_mut().zip(&moment.hearing.wave.0) {
            let wanted = (heard * params.number(SENSITIVITY)).clamp(-1.0, 1.0);
            let whole = if wanted.abs() > point.abs() { attack } else { decay * 0.2 };
            let left = if whole > 0.0 { splimo_base::maths::exp2(-4.0 * seconds / whole) } else { 0.0 };
            *point = wanted + (*point - wanted) * left;
        }
        let wanted = sensed(moment.hearing.level, params.number(SENSITIVITY));
        let before = self.level;
        super::follow::follow(&mut self.level, wanted, seconds, attack, decay);
        self.due += moment.step.seconds * POINTS as f64 / f64::from(params.number(WINDOW));
        let steps = (self.due.floor() as usize).min(POINTS);
        self.due -= self.due.floor();
        for step in 1..=steps {
            let share = step as f32 / steps as f32;
            self.newest = (self.newest + 1) % POINTS;
            self.levels[self.newest] = before + (self.level - before) * share;
        }
        let (wave, levels, newest, due) = (&self.wave, &self.levels, self.newest, self.due as f32);
        self.line.fill(|share| wave.at(share));
        self.loudness.fill(|share| level_at(levels, newest, due, share));
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let (mut places, mut cover) = ([0.0; TILE], [0.0; TILE]);
        let (places, cover) = (&mut places[..out.len()], &mut cover[..out.len()]);
        let middle = cells.height / 2.0;
        let half = params.number(THICKNESS) / 2.0;
        let reach = (middle - half).max(0.5);
        let flat = cells.height <= 1.5;
        let (per_width, per_middle) = (1.0 / cells.width.max(1e-3), 1.0 / middle.max(0.5));
        let half_light = 0.5 * per_width;
        let still = params.choice(FORM) == Form::Still;
        for (((place, cover), x), y) in places.iter_mut().zip(cover.iter_mut()).zip(cells.x).zip(cells.y) {
            let share = x * per_width;
            let from_middle = (y - middle).abs();
            *place = from_middle * per_middle;
            *cover = match (still, flat) {
                // One row of lights has no room for a line: there it is how bright they are.
                (true, true) => self.line.at(share).abs(),
                (true, false) => {
                    // As thick as its slope makes it, or it would break where it is steep.
                    let value = self.line.at(share) * reach;
                    let slope = (self.line.at(share + half_light) - self.line.at(share - half_light)).abs() * reach;
                    (half.max(slope * 0.5) + 0.5 - (y - middle + value).abs()).clamp(0.0, 1.0)
                }
                (false, true) => self.loudness.at(share),
                (false, false) => (self.loudness.at(share) * middle + half - from_middle).clamp(0.0, 1.0),
            };
            if flat {
                *place = 1.0 - *cover;
            }
        }
        params.covered_along(COLOURS, places, cover, out);
    }
}

const _: () = assert!(WAVE > 2);

/// The loudness at a share of the window: the newest at the right.
fn level_at(levels: &[f32; POINTS], newest: usize, due: f32, share: f32) -> f32 {
    let age = (1.0 - share.clamp(0.0, 1.0)) * (POINTS - 2) as f32 + due;
    let whole = age as usize;
    let at = |back: usize| levels[(newest + POINTS - back.min(POINTS - 1)) % POINTS];
    at(whole) + (at(whole + 1) - at(whole)) * (age - whole as f32)
}
