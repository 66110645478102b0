//! The bands of what is heard, as bars.

use super::follow::{follow, sensed};
use super::params::{choice, colours, number};
use super::{Cells, Effect, EffectSpec, Moment, Params};
use crate::colour::Rgba;
use crate::maths::angle_turns;
use crate::music::BANDS;
use crate::rig::TILE;

const COLOURS: usize = 0;
const FORM: usize = 1;
const SENSITIVITY: usize = 2;
const ATTACK: usize = 3;
const DECAY: usize = 4;
const PEAKS: usize = 5;

/// How long a peak stays before it falls, and how fast it falls then, in seconds and shares a second.
const HOLD: f32 = 0.4;
const FALL: f32 = 0.5;

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "spectrum",
    family: "music",
    help: "The bands of what is heard as bars, the low ones to the left",
    params: &[
        colours(&["#08457e", "#21c7a8", "#f7e26b", "#ff5d3b"], "from the foot of a bar to its top"),
        choice("form", &["upward", "centred", "downward", "around"], "where the bars stand"),
        number("sensitivity", [0.1, 1.0, 8.0], "", "how far the bars reach"),
        number("attack", [0.0, 0.0, 5.0], "s", "how long a bar takes to rise"),
        number("decay", [0.02, 0.35, 10.0], "s", "how long a bar takes to fall"),
        choice("peaks", &["none", "fall"], "a mark at the highest of each bar's last moments, which falls"),
    ],
    start: |_| Box::new(Spectrum { bars: [0.0; BANDS], peaks: [0.0; BANDS], held: [0.0; BANDS] }),
};

struct Spectrum {
    bars: [f32; BANDS],
    peaks: [f32; BANDS],
    /// For how long each peak has been there, in seconds.
    held: [f32; BANDS],
}

impl Effect for Spectrum {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        let seconds = moment.step.seconds as f32;
        let (attack, decay) = (params.number(ATTACK), params.number(DECAY));
        for band in 0..BANDS {
            let wanted = sensed(moment.hearing.bands[band], params.number(SENSITIVITY));
            follow(&mut self.bars[band], wanted, seconds, attack, decay);
            self.held[band] += seconds;
            if self.bars[band] >= self.peaks[band] {
                (self.peaks[band], self.held[band]) = (self.bars[band], 0.0);
            } else if self.held[band] > HOLD {
                self.peaks[band] = (self.peaks[band] - FALL * seconds).max(self.bars[band]);
            }
        }
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let (mut heights, mut cover) = ([0.0; TILE], [0.0; TILE]);
        let (heights, cover) = (&mut heights[..out.len()], &mut cover[..out.len()]);
        let peaks = params.choice(PEAKS) == 1;
        let (width, height) = (cells.width, cells.height);
        for i in 0..out.len() {
            let (x, y) = (cells.x[i], cells.y[i]);
            // Which band it belongs to, how high above the foot of its bar it lies, and how high a full bar is, in lights.
            let (share, above, full) = match params.choice(FORM) {
                0 => (x / width, height - y, height),
                1 => (x / width, (y - height / 2.0).abs(), height / 2.0),
                2 => (x / width, y, height),
                _ => {
                    let (dx, dy) = (x - width / 2.0, height / 2.0 - y);
                    let turn = angle_turns(dy, dx);
                    // Low at the top, high at the bottom, alike on both sides: nowhere an edge.
                    (turn.abs() * 2.0, (dx * dx + dy * dy).sqrt(), width.max(height) / 2.0)
                }
            };
            let (bar, peak) = self.levels_at(share);
            heights[i] = above / full.max(1e-3);
            // The top edge moves through an LED, not from one to the next.
            let lit = (bar * full - above + 0.5).clamp(0.0, 1.0) * (bar * full * 4.0).clamp(0.0, 1.0);
            let marked =
                if peaks { (1.0 - (peak * full - above).abs()).clamp(0.0, 1.0) * (peak * 8.0).min(1.0) } else { 0.0 };
            cover[i] = lit.max(marked);
        }
        params.colour_along(COLOURS, heights, out);
        for (out, cover) in out.iter_mut().zip(cover) {
            out[3] *= *cover;
        }
    }
}

impl Spectrum {
    /// The bar and its peak at a share of the width, gliding from band to band.
    fn levels_at(&self, share: f32) -> (f32, f32) {
        let place = (share * BANDS as f32 - 0.5).clamp(0.0, BANDS as f32 - 1.0);
        let band = (place as usize).min(BANDS - 2);
        let between = place - band as f32;
        let glide = |levels: &[f32; BANDS]| levels[band] + (levels[band + 1] - levels[band]) * between;
        (glide(&self.bars), glide(&self.peaks))
    }
}
