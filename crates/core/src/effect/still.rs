//! A colour for each light, as it was when it was held.

use super::{Cells, Effect, EffectSpec, Moment, Params};
use crate::colour::{CLEAR, Rgba};

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "still",
    family: "colour",
    help: "A colour for each light, as freezing a look holds them",
    params: &[],
    start: |_| Box::new(Still),
};

struct Still;

impl Effect for Still {
    fn advance(&mut self, _: &Params, _: &Moment<'_>) {}

    fn light(&self, _: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        out.fill(CLEAR);
        for (out, held) in out.iter_mut().zip(cells.held) {
            *out = *held;
        }
    }
}
