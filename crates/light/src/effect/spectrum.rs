//! The bands of what is heard, as bars.

use multiversion::multiversion;

use super::follow::{follow, sensed};
use super::params::handle::{ChoiceParam, ColoursParam, NumberParam, choices};
use super::params::{choice, colours, number};
use super::table::Table;
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::Rgba;
use splimo_base::maths::angle_turns;
use splimo_time::music::Bands;

choices! {
    /// The choice "form".
    Form {
        Upward = "upward",
        Centred = "centred",
        Downward = "downward",
        Around = "around",
    }
}

choices! {
    /// The choice "peaks".
    Peaks {
        None = "none",
        Fall = "fall",
    }
}

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(&["#08457e", "#21c7a8", "#f7e26b", "#ff5d3b"], "from the foot of a bar to its top"),
    choice("form", Form::WORDS, "where the bars stand"),
    number("sensitivity", [0.1, 1.0, 8.0], "", "how far the bars reach"),
    number("attack", [0.0, 0.0, 5.0], "s", "how long a bar takes to rise"),
    number("decay", [0.02, 0.35, 10.0], "s", "how long a bar takes to fall"),
    choice("peaks", Peaks::WORDS, "a mark at the highest of each bar's last moments, which falls"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const FORM: ChoiceParam<Form> = ChoiceParam::named(PARAMS, "form");
const SENSITIVITY: NumberParam = NumberParam::named(PARAMS, "sensitivity");
const ATTACK: NumberParam = NumberParam::named(PARAMS, "attack");
const DECAY: NumberParam = NumberParam::named(PARAMS, "decay");
const PEAKS: ChoiceParam<Peaks> = ChoiceParam::named(PARAMS, "peaks");

/// The time that a peak stays before it falls, and how fast it falls then, in seconds and shares a second.
const HOLD: f32 = 0.4;
const FALL: f32 = 0.5;

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "spectrum",
    family: "music",
    help: "The bands of what is heard as bars, the low ones to the left",
    params: PARAMS,
    start: |_| {
        Box::new(Spectrum {
            bars: Bands::SILENCE,
            peaks: Bands::SILENCE,
            held: Bands::SILENCE,
            bar_table: Table::default(),
            peak_table: Table::default(),
        })
    },
};

struct Spectrum {
    bars: Bands,
    peaks: Bands,
    /// For how long each peak has been there, in seconds.
    held: Bands,
    /// Bars and peaks along the width, gliding from band to band.
    bar_table: Table,
    peak_table: Table,
}

impl Effect for Spectrum {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        let seconds = moment.step.seconds as f32;
        let (attack, decay) = (params.number(ATTACK), params.number(DECAY));
        let count = moment.hearing.bands.len();
        if self.bars.len() != count {
            [self.bars, self.peaks, self.held] = [Bands::silent(count); 3];
        }
        for band in 0..count {
            let wanted = sensed(moment.hearing.bands[band], params.number(SENSITIVITY));
            follow(&mut self.bars[band], wanted, seconds, attack, decay);
            self.held[band] += seconds;
            if self.bars[band] >= self.peaks[band] {
                (self.peaks[band], self.held[band]) = (self.bars[band], 0.0);
            } else if self.held[band] > HOLD {
                self.peaks[band] = (self.peaks[band] - FALL * seconds).max(self.bars[band]);
            }
        }
        let (bars, peaks) = (self.bars, self.peaks);
        self.bar_table.fill(|share| bars.at(share));
        self.peak_table.fill(|share| peaks.at(share));
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let (mut heights, mut cover) = ([0.0; TILE], [0.0; TILE]);
        let (heights, cover) = (&mut heights[..out.len()], &mut cover[..out.len()]);
        let mut shares = [0.0; TILE];
        let shares = &mut shares[..out.len()];
        // How high a full bar is, in lights.
        let full = stand(params.choice(FORM), cells, shares, heights);
        let bars: &Table = &self.bar_table;
        for (cover, share) in cover.iter_mut().zip(shares.iter()) {
            *cover = bars.at(*share);
        }
        if params.choice(PEAKS) == Peaks::Fall {
            shares.iter_mut().for_each(|share| *share = self.peak_table.at(*share));
        } else {
            shares.fill(0.0);
        }
        rise(heights, cover, shares, full);
        params.covered_along(COLOURS, heights, cover, out);
    }
}

/// The share of the bands that each light belongs to, and its height above the foot of its bar, in lights; returns how high
/// a full bar is.
fn stand(form: Form, cells: &Cells<'_>, shares: &mut [f32], heights: &mut [f32]) -> f32 {
    let (width, height) = (cells.width.max(1e-3), cells.height);
    let lights = shares.iter_mut().zip(heights).zip(cells.x.iter().zip(cells.y));
    match form {
        Form::Upward => lights.for_each(|((share, above), (x, y))| (*share, *above) = (x / width, height - y)),
        Form::Centred => {
            lights.for_each(|((share, above), (x, y))| (*share, *above) = (x / width, (y - height / 2.0).abs()))
        }
        Form::Downward => lights.for_each(|((share, above), (x, y))| (*share, *above) = (x / width, *y)),
        // Low at the top, high at the bottom, alike on both sides: nowhere an edge.
        Form::Around => lights.for_each(|((share, above), (x, y))| {
            let (dx, dy) = (x - width / 2.0, height / 2.0 - y);
            (*share, *above) = (angle_turns(dy, dx).abs() * 2.0, (dx * dx + dy * dy).sqrt());
        }),
    }
    match form {
        Form::Centred => height / 2.0,
        Form::Around => width.max(height) / 2.0,
        Form::Upward | Form::Downward => height,
    }
}

/// From the height of each light, its bar and its peak to where it lies on the bar and how much it is lit.
#[multiversion(targets("x86_64+avx2+fma"))]
fn rise(heights: &mut [f32], bars: &mut [f32], peaks: &[f32], full: f32) {
    let per_full = 1.0 / full.max(1e-3);
    for ((height, bar), peak) in heights.iter_mut().zip(bars).zip(peaks) {
        let (reach, top) = (*bar * full, peak * full);
        // The top edge moves through an LED, not from one to the next; silence is dark.
        let lit = (reach - *height + 0.5).clamp(0.0, 1.0) * (reach * 4.0).clamp(0.0, 1.0);
        let marked = (1.0 - (top - *height).abs()).clamp(0.0, 1.0) * (peak * 8.0).clamp(0.0, 1.0);
        *bar = lit.max(marked);
        *height *= per_full;
    }
}
