//! Loudness, as a bar that rises and falls, or as the brightness of everything.

use multiversion::multiversion;

use super::follow::{follow, sensed};
use super::params::handle::{ChoiceParam, ColoursParam, NumberParam, choices};
use super::params::{choice, colours, number};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::Rgba;
use splimo_base::maths::angle_turns;

choices! {
    /// The choice "form".
    Form {
        Upward = "upward",
        Rightward = "rightward",
        FromTheMiddle = "from the middle",
        Around = "around",
        Brightness = "brightness",
    }
}

choices! {
    /// The choice "of".
    Measure {
        Loudness = "loudness",
        Bass = "bass",
        Mids = "mids",
        Highs = "highs",
    }
}

choices! {
    /// The choice "peak".
    Peak {
        Falls = "falls",
        None = "none",
    }
}

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(&["#1d7a4c", "#a6d944", "#ffd23d", "#ff4b2e"], "from the foot of the bar to its top"),
    choice("form", Form::WORDS, "where the bar grows"),
    choice("of", Measure::WORDS, "what is measured"),
    number("sensitivity", [0.1, 1.0, 8.0], "", "how far the bar reaches"),
    number("attack", [0.0, 0.02, 5.0], "s", "how long it takes to rise"),
    number("decay", [0.0, 0.4, 10.0], "s", "how long it takes to fall"),
    choice("peak", Peak::WORDS, "a mark at the highest of the last moments"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const FORM: ChoiceParam<Form> = ChoiceParam::named(PARAMS, "form");
const OF: ChoiceParam<Measure> = ChoiceParam::named(PARAMS, "of");
const SENSITIVITY: NumberParam = NumberParam::named(PARAMS, "sensitivity");
const ATTACK: NumberParam = NumberParam::named(PARAMS, "attack");
const DECAY: NumberParam = NumberParam::named(PARAMS, "decay");
const PEAK: ChoiceParam<Peak> = ChoiceParam::named(PARAMS, "peak");

/// The time that the peak stays before it falls, in seconds.
const HOLD: f32 = 0.6;

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "level",
    family: "music",
    help: "How loud it is, as a bar that rises and falls, or as the brightness of everything",
    params: PARAMS,
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
            Measure::Loudness => heard.level,
            Measure::Bass => heard.bass(),
            Measure::Mids => heard.mids(),
            Measure::Highs => heard.highs(),
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
        if params.choice(FORM) == Form::Brightness {
            let [r, g, b, a] = params.colour_at(COLOURS, self.level);
            out.fill([r, g, b, a * self.level * self.level]);
            return;
        }
        let (mut places, mut cover) = ([0.0; TILE], [0.0; TILE]);
        let (places, cover) = (&mut places[..out.len()], &mut cover[..out.len()]);
        let length = heights(params.choice(FORM), cells, places);
        let mark = if params.choice(PEAK) == Peak::Falls { self.peak * length } else { -10.0 };
        fill(places, cover, self.level * length, mark, 1.0 / length.max(1e-3));
        params.covered_along(COLOURS, places, cover, out);
    }
}

/// The distance of each light from the foot of the bar, in lights; returns the length of a full bar.
fn heights(form: Form, cells: &Cells<'_>, out: &mut [f32]) -> f32 {
    let (width, height) = (cells.width, cells.height);
    for (i, out) in out.iter_mut().enumerate() {
        let (x, y) = (cells.x[i], cells.y[i]);
        *out = match form {
            Form::Upward => height - y,
            Form::Rightward => x,
            Form::FromTheMiddle if width >= height => (x - width / 2.0).abs(),
            Form::FromTheMiddle => (y - height / 2.0).abs(),
            Form::Around | Form::Brightness => {
                (angle_turns(height / 2.0 - y, x - width / 2.0) + 0.5) * (width + height)
            }
        };
    }
    match form {
        Form::Upward => height,
        Form::Rightward => width,
        Form::FromTheMiddle => width.max(height) / 2.0,
        Form::Around | Form::Brightness => width + height,
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
