//! Flashes at a rate: all lights together, or each by lot.

use super::params::handle::{ChoiceParam, ColoursParam, NumberParam, RateParam, choices};
use super::params::{choice, colours, number, rate};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use splimo_base::colour::Rgba;
use splimo_base::maths::{floor, hash, unit};
use splimo_time::rate::Phase;

choices! {
    /// The choice "who".
    Lot {
        AllTogether = "all together",
        ByLot = "by lot",
    }
}

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(&["#ffffff"], "of the flash; of several, each flash takes the next"),
    number("duty", [1.0, 25.0, 99.0], "%", "how much of the time it is lit"),
    number("chance", [0.0, 100.0, 100.0], "%", "how likely a flash comes at all"),
    choice("who", Lot::WORDS, "the lot is drawn for all, or for each patch of lights"),
    number("grain", [1.0, 4.0, 400.0], "lights", "how large a patch is for which the lot is drawn"),
    rate("speed", "1/16 note", "how long from flash to flash"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const DUTY: NumberParam = NumberParam::named(PARAMS, "duty");
const CHANCE: NumberParam = NumberParam::named(PARAMS, "chance");
const WHO: ChoiceParam<Lot> = ChoiceParam::named(PARAMS, "who");
const GRAIN: NumberParam = NumberParam::named(PARAMS, "grain");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "strobe",
    family: "texture",
    help: "Flashes at a rate or on a note value, all lights together or some by lot",
    params: PARAMS,
    start: |seed| Box::new(Strobe { phase: Phase::default(), seed: hash(seed) }),
};

struct Strobe {
    phase: Phase,
    seed: u32,
}

impl Effect for Strobe {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        self.phase.advance(params.rate(SPEED), moment.step);
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let phase = self.phase.behind(cells.late);
        let colour = params.colour_in_turn(COLOURS, phase.whole());
        let lit = phase.turns() < params.number(DUTY) / 100.0;
        let dark = [colour[0], colour[1], colour[2], 0.0];
        let flash = hash(self.seed ^ phase.whole() as u32);
        let chance = params.number(CHANCE) / 100.0;
        if params.choice(WHO) == Lot::AllTogether || !lit {
            out.fill(if lit && unit(flash) < chance { colour } else { dark });
            return;
        }
        let per_grain = 1.0 / params.number(GRAIN);
        for (i, out) in out.iter_mut().enumerate() {
            let (u, v) = (floor(cells.x[i] * per_grain), floor(cells.y[i] * per_grain));
            let lot = unit(hash(u.to_bits() ^ v.to_bits().rotate_left(13) ^ flash));
            *out = if lot < chance { colour } else { dark };
        }
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }
}
