//! The direction of heads: an aim of the show. It gives no light; the heads of its layer point where the aim says.

use super::params::aim;
use super::{Cells, Effect, EffectSpec, HeadPlace, HeadTurn, Moment, ParamSpec, Params};
use splimo_base::colour::{CLEAR, Rgba};

/// The parameters.
const PARAMS: &[ParamSpec] = &[aim("aim", "where the heads point")];

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "aim",
    family: "heads",
    help: "Heads point where an aim says; it gives no light",
    params: PARAMS,
    start: |_| Box::new(Point),
};

struct Point;

impl Effect for Point {
    fn advance(&mut self, _: &Params, _: &Moment<'_>) {}

    fn light(&self, _: &Params, _: &Cells<'_>, out: &mut [Rgba]) {
        out.fill(CLEAR);
    }

    fn turn_head(&self, _: &Params, _: &HeadPlace) -> Option<HeadTurn> {
        Some(HeadTurn::default())
    }
}
