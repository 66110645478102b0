//! Rings that spread from a point, on their own or one on each beat.

use multiversion::multiversion;

use super::params::handle::{ChoiceParam, ColoursParam, NumberParam, RateParam, choices};
use super::params::{choice, colours, number, rate};
use super::{BeatWatch, Cells, Effect, EffectSpec, Moment, OnsetWatch, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::Rgba;
use splimo_base::maths::smooth;
use splimo_time::rate::{Phase, Rate};

choices! {
    /// The choice "born".
    Born {
        Always = "always",
        Beat = "beat",
        Onset = "onset",
    }
}

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(&["#e8fbff", "#1fa2d8", "#03263f00"], "from the front of a ring to its tail"),
    number("x", [-500.0, 50.0, 600.0], "%", "the middle, from the left of the span"),
    number("y", [-500.0, 50.0, 600.0], "%", "the middle, from the top of the span"),
    number("length", [1.0, 24.0, 400.0], "lights", "from the front of a ring to the end of its tail"),
    rate("speed", "2 beats", "how long a ring takes to move by its length"),
    choice("born", Born::WORDS, "ring behind ring, one on each beat, or one on each onset that is heard"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const X: NumberParam = NumberParam::named(PARAMS, "x");
const Y: NumberParam = NumberParam::named(PARAMS, "y");
const LENGTH: NumberParam = NumberParam::named(PARAMS, "length");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");
const BORN: ChoiceParam<Born> = ChoiceParam::named(PARAMS, "born");

/// Rings that are under way at the same time, at the most; the oldest makes room.
const RINGS: usize = 8;

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "ripple",
    family: "motion",
    help: "Rings that spread from a point, which may lie off the stage",
    params: PARAMS,
    start: |_| {
        Box::new(Ripple {
            phase: Phase::default(),
            ages: [f32::MAX; RINGS],
            next: 0,
            watch: BeatWatch::default(),
            onsets: OnsetWatch::default(),
        })
    },
};

struct Ripple {
    phase: Phase,
    /// The way that each ring has come, in lengths of a ring.
    ages: [f32; RINGS],
    next: usize,
    watch: BeatWatch,
    onsets: OnsetWatch,
}

impl Effect for Ripple {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        let rate = params.rate(SPEED);
        self.phase.advance(rate, moment.step);
        let on = rate.cycles(moment.step).abs() as f32;
        self.ages.iter_mut().for_each(|age| *age += on);
        let new_beat = self.watch.advance(moment).over(1.0);
        let new_onset = self.onsets.advance(moment);
        match params.choice(BORN) {
            // It was born at the beat itself, a fraction of a step ago.
            Born::Beat if new_beat => self.bear(match rate {
                Rate::Beats(beats) => (moment.beat.fract() / f64::from(beats.abs())) as f32,
                _ => 0.0,
            }),
            Born::Onset if new_onset => self.bear(0.0),
            Born::Always | Born::Beat | Born::Onset => {}
        }
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let centre = (params.number(X) / 100.0 * cells.width, params.number(Y) / 100.0 * cells.height);
        let length = params.number(LENGTH);
        let mut places = [0.0; TILE];
        let places = &mut places[..out.len()];
        distances(cells.x, cells.y, places, centre, 1.0 / length);
        if params.choice(BORN) == Born::Always {
            let phase = self.phase.behind(cells.late).turns();
            places.iter_mut().for_each(|place| *place = phase - *place);
            params.colour_around(COLOURS, places, out);
            return;
        }
        let mut fronts = [0.0; TILE];
        let fronts = &mut fronts[..out.len()];
        self.nearest_front(places, fronts, cells.late);
        params.colour_along(COLOURS, fronts, out);
        // One light of softness before the front, and nothing where no ring is.
        for (out, &front) in out.iter_mut().zip(fronts.iter()) {
            out[3] *= smooth(front * length + 1.0) * smooth((1.0 - front) * 4.0);
        }
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }
}

impl Ripple {
    fn bear(&mut self, age: f32) {
        self.ages[self.next] = age;
        self.next = (self.next + 1) % RINGS;
    }

    /// The distance of each place behind the nearest front, in lengths; 1 or more where no ring is.
    fn nearest_front(&self, places: &[f32], fronts: &mut [f32], late: f32) {
        fronts.fill(2.0);
        for &age in self.ages.iter().filter(|&&age| age < 1e6) {
            for (front, place) in fronts.iter_mut().zip(places) {
                let behind = age - late - place;
                // A ring that has not come here yet counts only within the softness of its front.
                let behind = if behind < -1.0 { 2.0 } else { behind };
                *front = front.min(behind);
            }
        }
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn distances(x: &[f32], y: &[f32], out: &mut [f32], centre: (f32, f32), scale: f32) {
    for ((out, x), y) in out.iter_mut().zip(x).zip(y) {
        let (dx, dy) = (x - centre.0, y - centre.1);
        *out = (dx * dx + dy * dy).sqrt() * scale;
    }
}
