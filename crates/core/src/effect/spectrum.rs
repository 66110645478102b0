//! The bands of what is heard, as bars.

use super::{Cells, Effect, EffectSpec, Kind, Moment, ParamSpec, Params};
use crate::colour::Rgba;
use crate::music::BANDS;
use crate::rig::TILE;

const COLOURS: usize = 0;
const FORM: usize = 1;
const GAIN: usize = 2;
const FALL: usize = 3;

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "spectrum",
    family: "music",
    help: "The bands of what is heard, low to the left, as bars",
    params: &[
        ParamSpec {
            name: "colours",
            kind: Kind::Colours { default: &["#08457e", "#21c7a8", "#f7e26b", "#ff5d3b"] },
            help: "from the foot of a bar to its top",
        },
        ParamSpec {
            name: "form",
            kind: Kind::Choice { options: &["upward", "centred", "downward"] },
            help: "where the bars stand",
        },
        ParamSpec {
            name: "gain",
            kind: Kind::Number { min: 0.1, max: 4.0, default: 1.0, unit: "" },
            help: "how far the bars reach",
        },
        ParamSpec {
            name: "fall",
            kind: Kind::Number { min: 0.02, max: 5.0, default: 0.35, unit: "s" },
            help: "how long a full bar takes to fall",
        },
    ],
    start: |_| Box::new(Spectrum { bars: [0.0; BANDS] }),
};

struct Spectrum {
    bars: [f32; BANDS],
}

impl Effect for Spectrum {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        let fall = moment.step.seconds as f32 / params.number(FALL);
        for (bar, &band) in self.bars.iter_mut().zip(&moment.hearing.bands) {
            let level = (band * params.number(GAIN)).clamp(0.0, 1.0);
            *bar = level.max(*bar - fall);
        }
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let mut heights = [0.0; TILE];
        let mut cover = [0.0; TILE];
        let (heights, cover) = (&mut heights[..out.len()], &mut cover[..out.len()]);
        for i in 0..out.len() {
            let reach = self.level_at(cells.x[i] / cells.width) * cells.height;
            // How high above the foot of its bar this LED is, in lights.
            let height = match params.choice(FORM) {
                0 => cells.height - cells.y[i],
                1 => (cells.y[i] - cells.height / 2.0).abs() * 2.0,
                _ => cells.y[i],
            };
            heights[i] = height / cells.height;
            // The top edge moves through an LED, not from one to the next.
            cover[i] = (reach - height + 0.5).clamp(0.0, 1.0);
        }
        params.colour_along(COLOURS, heights, out);
        for (out, cover) in out.iter_mut().zip(cover) {
            out[3] *= *cover;
        }
    }
}

impl Spectrum {
    /// The level at a share of the width, gliding from band to band.
    fn level_at(&self, share: f32) -> f32 {
        let place = (share * BANDS as f32 - 0.5).clamp(0.0, BANDS as f32 - 1.0);
        let band = (place as usize).min(BANDS - 2);
        let between = place - band as f32;
        self.bars[band] + (self.bars[band + 1] - self.bars[band]) * between
    }
}
