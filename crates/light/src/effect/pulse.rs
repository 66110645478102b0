//! A flash that dies away, on the beat or on what is heard.

use super::params::handle::{ChoiceParam, ColoursParam, NumberParam, choices};
use super::params::{choice, colours, number};
use super::{Cells, Effect, EffectSpec, Moment, OnsetWatch, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::Rgba;

choices! {
    /// The choice "on".
    Strike {
        Beat = "beat",
        Bar = "bar",
        OffBeat = "off-beat",
        Onset = "onset",
        Bass = "bass",
    }
}

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(&["#ffffff", "#ffb454", "#b3220000"], "from the flash to where it has died away"),
    choice("on", Strike::WORDS, "what strikes it; bass follows the level of the low bands"),
    number("decay", [0.05, 0.9, 16.0], "beats", "how long it takes to die away"),
    number("spread", [0.0, 0.0, 4.0], "beats", "how much later it arrives at the edges than in the middle"),
    number("floor", [0.0, 0.0, 100.0], "%", "what stays between two flashes"),
    number("sensitivity", [0.1, 1.0, 8.0], "", "how bright what is heard makes it"),
    number("attack", [0.0, 0.0, 4.0], "beats", "how long it takes to come"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const ON: ChoiceParam<Strike> = ChoiceParam::named(PARAMS, "on");
const DECAY: NumberParam = NumberParam::named(PARAMS, "decay");
const SPREAD: NumberParam = NumberParam::named(PARAMS, "spread");
const FLOOR: NumberParam = NumberParam::named(PARAMS, "floor");
const SENSITIVITY: NumberParam = NumberParam::named(PARAMS, "sensitivity");
const ATTACK: NumberParam = NumberParam::named(PARAMS, "attack");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "pulse",
    family: "music",
    help: "A flash that dies away, on the beat or on what is heard",
    params: PARAMS,
    start: |_| Box::new(Pulse { since: FAR, before: FAR, onsets: OnsetWatch::default(), last: None, level: 0.0 }),
};

/// Longer ago than anything is remembered, in beats.
const FAR: f32 = 1e6;

struct Pulse {
    /// Beats since it was last struck, and since the time before that.
    since: f32,
    before: f32,
    onsets: OnsetWatch,
    last: Option<i64>,
    level: f32,
}

impl Pulse {
    fn strike(&mut self, ago: f32) {
        self.before = self.since;
        self.since = ago;
    }

    /// The strike index of the clock, and how many beats ago it struck.
    fn clock(on: Strike, beat: f64, bar: f64) -> (i64, f32) {
        let (every, shift) = match on {
            Strike::Bar => (bar.max(1.0), 0.0),
            Strike::OffBeat => (1.0, 0.5),
            Strike::Beat | Strike::Onset | Strike::Bass => (1.0, 0.0),
        };
        let place = (beat - shift) / every;
        (place.floor() as i64, ((place - place.floor()) * every) as f32)
    }
}

impl Effect for Pulse {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        let beats = moment.step.beats as f32;
        let new_onset = self.onsets.advance(moment);
        self.since = (self.since + beats).min(FAR);
        self.before = (self.before + beats).min(FAR);
        let on = params.choice(ON);
        match on {
            Strike::Beat | Strike::Bar | Strike::OffBeat => {
                let (strike, ago) = Self::clock(on, moment.beat, moment.bar_beats);
                if self.last != Some(strike) {
                    self.strike(ago);
                }
                self.last = Some(strike);
            }
            Strike::Onset => {
                if new_onset {
                    self.strike(0.0);
                }
            }
            Strike::Bass => {
                let heard = super::follow::sensed(moment.hearing.bass(), params.number(SENSITIVITY));
                let fall = beats / params.number(DECAY);
                self.level = heard.max(self.level - fall);
            }
        }
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let mut places = [0.0; TILE];
        let places = &mut places[..out.len()];
        let (decay, spread) = (params.number(DECAY), params.number(SPREAD));
        let attack = params.number(ATTACK);
        let (cx, cy) = (cells.width / 2.0, cells.height / 2.0);
        let reach = (cx * cx + cy * cy).sqrt().max(0.5);
        for (i, place) in places.iter_mut().enumerate() {
            let (dx, dy) = (cells.x[i] - cx, cells.y[i] - cy);
            let late = cells.late + spread * (dx * dx + dy * dy).sqrt() / reach;
            let age = if self.since >= late { self.since - late } else { self.before - late };
            *place = match params.choice(ON) {
                Strike::Bass => 1.0 - self.level,
                // While it comes it is on its way from the end back to the beginning.
                _ if age < attack => 1.0 - age / attack,
                _ => (age - attack) / decay,
            };
        }
        params.colour_along(COLOURS, places, out);
        let floor = params.number(FLOOR) / 100.0;
        for (out, &place) in out.iter_mut().zip(places.iter()) {
            let left = (1.0 - place).clamp(0.0, 1.0);
            out[3] *= floor + (1.0 - floor) * left * left;
        }
    }
}
