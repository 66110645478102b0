//! Other looks that take turns. The lights are those of the looks; who lights them is [`crate::engine::Player`], which asks
//! here whose turn it is.

use super::handle::{ChoiceParam, LooksParam, NumberParam, RateParam, choices};
use super::params::{choice, looks, number, rate};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params, Turn};
use crate::colour::{CLEAR, Rgba};
use crate::maths::{hash, smooth};
use crate::rate::Phase;

choices! {
    /// The choice "way".
    Way {
        Forward = "forward",
        Back = "back",
        Bounce = "bounce",
        Random = "random",
    }
}

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    looks("looks", "which looks, in their order"),
    choice("way", Way::WORDS, "in which order they come"),
    number("overlap", [0.0, 25.0, 100.0], "%", "how much of a step it takes to change over to the next"),
    rate("speed", "1 bar", "how long a step takes"),
];

pub(super) const LOOKS: LooksParam = LooksParam::named(PARAMS, "looks");
const WAY: ChoiceParam<Way> = ChoiceParam::named(PARAMS, "way");
const OVERLAP: NumberParam = NumberParam::named(PARAMS, "overlap");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "looks",
    family: "motion",
    help: "Other looks that take turns: a chase between looks",
    params: PARAMS,
    start: |seed| Box::new(Looks { phase: Phase::default(), seed: hash(seed) }),
};

struct Looks {
    phase: Phase,
    seed: u32,
}

/// The look of a step, out of `count`. Never the same twice running, where there are several.
fn look_of(step: i64, count: usize, way: Way, seed: u32) -> usize {
    let count = count as i64;
    if count < 2 {
        return 0;
    }
    let drawn = |step: i64| i64::from(hash((step as u32) ^ seed)) % count;
    let look = match way {
        Way::Back => (-step).rem_euclid(count),
        Way::Bounce => {
            let place = step.rem_euclid(2 * count - 2);
            place.min(2 * count - 2 - place)
        }
        // Even steps are free; odd ones take what neither neighbour has, so that nothing has to be remembered.
        Way::Random if count > 2 && step.rem_euclid(2) == 0 => drawn(step),
        Way::Random if count > 2 => {
            let (before, after) = (drawn(step - 1), drawn(step + 1));
            let free = |look: &i64| *look != before && *look != after;
            (0..count).map(|by| (drawn(step) + by) % count).find(free).unwrap_or(0)
        }
        Way::Forward | Way::Random => step.rem_euclid(count),
    };
    look as usize
}

impl Effect for Looks {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        self.phase.advance(params.rate(SPEED), moment.step);
    }

    fn light(&self, _: &Params, _: &Cells<'_>, out: &mut [Rgba]) {
        out.fill(CLEAR);
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }

    fn turns(&self, params: &Params, late: f32) -> [Turn; 2] {
        let count = params.looks(LOOKS).len();
        let phase = self.phase.behind(late);
        let overlap = params.number(OVERLAP) / 100.0;
        let over = if overlap > 0.0 && count > 1 { smooth((phase.turns() - 1.0 + overlap) / overlap) } else { 0.0 };
        let turn = |step: i64, share: f32| Turn { look: look_of(step, count, params.choice(WAY), self.seed), share };
        [turn(phase.whole(), 1.0 - over), turn(phase.whole() + 1, over)]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn looks_come_in_the_order_that_was_asked_for() {
        let order = |way: Way| (0..7).map(|step| look_of(step, 3, way, 1)).collect::<Vec<_>>();
        assert_eq!(order(Way::Forward), [0, 1, 2, 0, 1, 2, 0]);
        assert_eq!(order(Way::Back), [0, 2, 1, 0, 2, 1, 0]);
        assert_eq!(order(Way::Bounce), [0, 1, 2, 1, 0, 1, 2]);
        assert_eq!(look_of(9, 1, Way::Bounce, 1), 0);
    }

    #[test]
    fn a_drawn_look_is_never_the_one_before_and_each_has_its_turns() {
        for count in 2..9 {
            let drawn: Vec<usize> = (-500..500).map(|step| look_of(step, count, Way::Random, 77)).collect();
            assert!(drawn.windows(2).all(|pair| pair[0] != pair[1]), "{count}");
            assert!((0..count).all(|look| drawn.iter().filter(|d| **d == look).count() > 400 / count), "{count}");
        }
    }
}
