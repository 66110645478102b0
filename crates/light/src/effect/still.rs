//! A colour for each light, as it was when it was held.

use super::params::choice;
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::still::Onto;
use splimo_base::colour::{CLEAR, Rgba};

/// The parameters. The map of the layer follows them: here the colours lie as they are to be seen.
const PARAMS: &[ParamSpec] = &[choice(
    "onto",
    Onto::WORDS,
    "which lights get the colours: those they were held from, or the layer's own, along their order, over their span, or by the nearest place",
)];

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "still",
    family: "colour",
    help: "A colour for each light, as freezing a look holds them",
    params: PARAMS,
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
