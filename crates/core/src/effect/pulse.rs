//! A flash that dies away, on the beat or on what is heard.

use super::params::number;
use super::{Cells, Effect, EffectSpec, Kind, Moment, OnsetWatch, ParamSpec, Params};
use crate::colour::Rgba;
use crate::rig::TILE;

const COLOURS: usize = 0;
const ON: usize = 1;
const DECAY: usize = 2;
const SPREAD: usize = 3;
const FLOOR: usize = 4;
const SENSITIVITY: usize = 5;
const ATTACK: usize = 6;

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "pulse",
    family: "music",
    help: "A flash that dies away, on the beat or on what is heard",
    params: &[
        ParamSpec {
            name: "colours",
            kind: Kind::Colours { default: &["#ffffff", "#ffb454", "#b3220000"] },
            help: "from the flash to where it has died away",
        },
        ParamSpec {
            name: "on",
            kind: Kind::Choice { options: &["beat", "bar", "off-beat", "onset", "bass"] },
            help: "what strikes it; bass follows the level of the low bands",
        },
        ParamSpec {
            name: "decay",
            kind: Kind::Number { min: 0.05, max: 16.0, default: 0.9, unit: "beats" },
            help: "how long it takes to die away",
        },
        ParamSpec {
            name: "spread",
            kind: Kind::Number { min: 0.0, max: 4.0, default: 0.0, unit: "beats" },
            help: "how much later it arrives at the edges than in the middle",
        },
        ParamSpec {
            name: "floor",
            kind: Kind::Number { min: 0.0, max: 100.0, default: 0.0, unit: "%" },
            help: "what stays between two flashes",
        },
        number("sensitivity", [0.1, 1.0, 8.0], "", "how bright what is heard makes it"),
        number("attack", [0.0, 0.0, 4.0], "beats", "how long it takes to come"),
    ],
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
    fn clock(on: usize, beat: f64, bar: f64) -> (i64, f32) {
        let (every, shift) = match on {
            1 => (bar.max(1.0), 0.0),
            2 => (1.0, 0.5),
            _ => (1.0, 0.0),
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
            0..=2 => {
                let (strike, ago) = Self::clock(on, moment.beat, moment.bar_beats);
                if self.last != Some(strike) {
                    self.strike(ago);
                }
                self.last = Some(strike);
            }
            3 => {
                if new_onset {
                    self.strike(0.0);
                }
            }
            _ => {
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
                4 => 1.0 - self.level,
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
