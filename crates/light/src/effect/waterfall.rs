//! The bands of what is heard as they go by: each moment is a line, and the lines move on.

use super::follow::{follow, sensed};
use super::params::handle::{ChoiceParam, ColoursParam, NumberParam, choices};
use super::params::{choice, colours, number};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::Rgba;
use splimo_time::music::{Bands, MOST_BANDS};

choices! {
    /// The choice "way".
    Way {
        Down = "down",
        Up = "up",
        Right = "right",
        Left = "left",
        Outward = "outward",
    }
}

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(&["#00000000", "#12206b", "#c0267e", "#ff9a3c", "#fff6c9"], "from silence to the loudest"),
    choice("way", Way::WORDS, "where the lines move"),
    number("sensitivity", [0.1, 1.0, 8.0], "", "how bright it is"),
    number("attack", [0.0, 0.01, 2.0], "s", "how long a band takes to rise"),
    number("decay", [0.0, 0.15, 5.0], "s", "how long it takes to fall"),
    number("window", [0.2, 4.0, 60.0], "s", "how long a line takes to go by"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const WAY: ChoiceParam<Way> = ChoiceParam::named(PARAMS, "way");
const SENSITIVITY: NumberParam = NumberParam::named(PARAMS, "sensitivity");
const ATTACK: NumberParam = NumberParam::named(PARAMS, "attack");
const DECAY: NumberParam = NumberParam::named(PARAMS, "decay");
const WINDOW: NumberParam = NumberParam::named(PARAMS, "window");

/// Lines that are remembered.
const LINES: usize = 256;

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "waterfall",
    family: "music",
    help: "The bands of what is heard, line by line as they go by",
    params: PARAMS,
    start: |_| {
        let lines = Box::new([[0.0; MOST_BANDS]; LINES]);
        Box::new(Waterfall { lines, newest: 0, due: 0.0, bands: Bands::SILENCE })
    },
};

struct Waterfall {
    lines: Box<[[f32; MOST_BANDS]; LINES]>,
    newest: usize,
    due: f64,
    bands: Bands,
}

impl Effect for Waterfall {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        let seconds = moment.step.seconds as f32;
        if self.bands.len() != moment.hearing.bands.len() {
            // Other bands than before: what went by cannot be told in them.
            self.bands = Bands::silent(moment.hearing.bands.len());
            self.lines.fill([0.0; MOST_BANDS]);
        }
        let before = self.bands;
        for (band, heard) in self.bands.iter_mut().zip(moment.hearing.bands.iter()) {
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
            for ((line, before), now) in self.lines[self.newest].iter_mut().zip(before.iter()).zip(self.bands.iter()) {
                *line = before + (now - before) * share;
            }
        }
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let mut places = [0.0; TILE];
        let places = &mut places[..out.len()];
        let mut ages = [0.0; TILE];
        let ages = &mut ages[..out.len()];
        lie(params.choice(WAY), cells, ages, places);
        for (place, age) in places.iter_mut().zip(ages.iter()) {
            *place = self.level_at(*age, *place);
        }
        params.colour_along(COLOURS, places, out);
    }
}

impl Waterfall {
    #[inline(always)]
    fn level_at(&self, age: f32, pitch: f32) -> f32 {
        let age = age * (LINES - 3) as f32 + self.due as f32;
        let count = self.bands.len();
        let place = (pitch * count as f32 - 0.5).clamp(0.0, count as f32 - 1.001);
        let (back, band) = (age as u32 as usize, (place as u32 as usize).min(count - 2));
        let (t, u) = (age - back as f32, place - band as f32);
        let line = |back: usize| {
            let bands = &self.lines[(self.newest + LINES - back) & (LINES - 1)];
            bands[band] + (bands[band + 1] - bands[band]) * u
        };
        let (a, b) = (line(back), line(back + 1));
        a + (b - a) * t
    }
}

/// The age and the pitch of what each light shows, 0..1 each.
fn lie(way: Way, cells: &Cells<'_>, ages: &mut [f32], pitches: &mut [f32]) {
    let (per_width, per_height) = (1.0 / cells.width.max(1e-3), 1.0 / cells.height.max(1e-3));
    let shares = cells.x.iter().zip(cells.y).map(|(x, y)| (x * per_width, y * per_height));
    let lights = ages.iter_mut().zip(pitches).zip(shares);
    match way {
        Way::Down => lights.for_each(|((age, pitch), (u, v))| (*age, *pitch) = (v, u)),
        Way::Up => lights.for_each(|((age, pitch), (u, v))| (*age, *pitch) = (1.0 - v, u)),
        Way::Right => lights.for_each(|((age, pitch), (u, v))| (*age, *pitch) = (u, 1.0 - v)),
        Way::Left => lights.for_each(|((age, pitch), (u, v))| (*age, *pitch) = (1.0 - u, 1.0 - v)),
        Way::Outward => lights.for_each(|((age, pitch), (u, v))| (*age, *pitch) = ((2.0 * u - 1.0).abs(), 1.0 - v)),
    }
    ages.iter_mut().for_each(|age| *age = age.clamp(0.0, 1.0));
}
