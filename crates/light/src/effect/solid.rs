//! One colour everywhere.

use super::params::handle::{ColoursParam, NumberParam};
use super::params::{colours, number};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use splimo_base::colour::Rgba;

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(&["#ffd9a0"], "the colour, or a gradient of which one place is shown"),
    number("position", [0.0, 0.0, 100.0], "%", "which place of the gradient"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const POSITION: NumberParam = NumberParam::named(PARAMS, "position");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "solid",
    family: "colour",
    help: "One colour everywhere; of several, the one at a position that can be moved",
    params: PARAMS,
    start: |_| Box::new(Solid),
};

struct Solid;

impl Effect for Solid {
    fn advance(&mut self, _: &Params, _: &Moment<'_>) {}

    fn light(&self, params: &Params, _: &Cells<'_>, out: &mut [Rgba]) {
        out.fill(params.colour_at(COLOURS, params.number(POSITION) / 100.0));
    }
}
