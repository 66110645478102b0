//! Movements of heads: round an aim, or round where the layers below point. It gives no light.

use super::params::handle::{ChoiceParam, NumberParam, RateParam, choices};
use super::params::{aim, choice, number, rate};
use super::{Cells, Effect, EffectSpec, HeadPlace, HeadTurn, Moment, ParamSpec, Params};
use splimo_base::colour::{CLEAR, Rgba};
use splimo_base::maths::{cos_turns, hash, sin_turns, smooth};
use splimo_time::rate::Phase;

choices! {
    /// The choice "figure".
    Figure {
        Circle = "circle",
        Eight = "eight",
        Line = "line",
        Wave = "wave",
        Walk = "random walk",
    }
}

choices! {
    /// The choice "symmetric".
    Symmetric {
        No = "no",
        Yes = "yes",
    }
}

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    choice("figure", Figure::WORDS, "the figure that each head draws; a wave goes up and down only"),
    aim("aim", "round which aim; none goes round where the layers below point"),
    number("size", [0.0, 20.0, 90.0], "degrees", "how far from the aim a head turns"),
    number("slant", [-180.0, 0.0, 180.0], "degrees", "by how much the figure is turned; 90 stands a line upright"),
    number("spread", [-400.0, 0.0, 400.0], "%", "over how much of a cycle the heads are spread; 100 goes once round"),
    choice("symmetric", Symmetric::WORDS, "whether the second half of the heads mirrors the first"),
    rate("speed", "8 beats", "how long a figure takes; negative goes the other way"),
];

const FIGURE: ChoiceParam<Figure> = ChoiceParam::named(PARAMS, "figure");
const SIZE: NumberParam = NumberParam::named(PARAMS, "size");
const SLANT: NumberParam = NumberParam::named(PARAMS, "slant");
const SPREAD: NumberParam = NumberParam::named(PARAMS, "spread");
const SYMMETRIC: ChoiceParam<Symmetric> = ChoiceParam::named(PARAMS, "symmetric");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "movement",
    family: "heads",
    help: "Heads move in a circle, an eight, a line, a wave or at random; it gives no light",
    params: PARAMS,
    start: |seed| Box::new(Movement { phase: Phase::default(), seed: hash(seed) }),
};

struct Movement {
    phase: Phase,
    seed: u32,
}

/// The place on a figure, -1..1 across and down, at a phase.
fn place_on(figure: Figure, phase: Phase, seed: u32) -> [f32; 2] {
    let turns = phase.turns();
    match figure {
        Figure::Circle => [sin_turns(turns), -cos_turns(turns)],
        Figure::Eight => [sin_turns(turns), sin_turns(2.0 * turns) * 0.5],
        Figure::Line => [sin_turns(turns), 0.0],
        Figure::Wave => [0.0, sin_turns(turns)],
        Figure::Walk => [walk(phase, seed), walk(phase, hash(seed ^ 0x51))],
    }
}

/// A way between drawn places, -1..1, one of them each quarter of a cycle.
fn walk(phase: Phase, seed: u32) -> f32 {
    let at = phase.total() * 4.0;
    let step = at.floor();
    let drawn =
        |step: f64| hash((step as i64 as u32).wrapping_mul(0x9e37_79b9) ^ seed) as f32 / u32::MAX as f32 * 2.0 - 1.0;
    let (from, to) = (drawn(step), drawn(step + 1.0));
    from + (to - from) * smooth((at - step) as f32)
}

impl Effect for Movement {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        self.phase.advance(params.rate(SPEED), moment.step);
    }

    fn light(&self, _: &Params, _: &Cells<'_>, out: &mut [Rgba]) {
        out.fill(CLEAR);
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }

    fn turn_head(&self, params: &Params, head: &HeadPlace) -> Option<HeadTurn> {
        let figure = params.choice(FIGURE);
        let symmetric = params.choice(SYMMETRIC) == Symmetric::Yes;
        let mirrored = symmetric && 2 * head.index + 1 > head.count;
        // Half of the heads is the picture of the other in a mirror that stands between them.
        let (index, count) = match symmetric {
            true if mirrored => (head.count - 1 - head.index, head.count.div_ceil(2)),
            true => (head.index, head.count.div_ceil(2)),
            false => (head.index, head.count),
        };
        let spread = params.number(SPREAD) / 100.0;
        let phase = self.phase.behind(head.late + spread * index as f32 / count.max(1) as f32);
        let [x, y] = place_on(figure, phase, self.seed ^ if spread == 0.0 { 0 } else { index });
        let slant = params.number(SLANT) / 360.0;
        let (sin, cos) = (sin_turns(slant), cos_turns(slant));
        let [across, down] = [x * cos - y * sin, x * sin + y * cos];
        let size = params.number(SIZE);
        let by = [if mirrored { -across } else { across } * size, down * size].map(f64::from);
        Some(HeadTurn { by, reach: f64::from(size) })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn figures_close_and_stay_within_their_size() {
        for figure in [Figure::Circle, Figure::Eight, Figure::Line, Figure::Wave, Figure::Walk] {
            let mut before = place_on(figure, Phase::of(0.0), 7);
            for step in 1..=4000 {
                let now = place_on(figure, Phase::of(f64::from(step) / 1000.0), 7);
                for (now, before) in now.into_iter().zip(before) {
                    assert!(now.abs() <= 1.0001, "{figure:?} {now}");
                    assert!((now - before).abs() < 0.02, "{figure:?} jumps at {step}");
                }
                before = now;
            }
            if figure != Figure::Walk {
                let [from, to] = [Phase::of(0.0), Phase::of(1.0)].map(|phase| place_on(figure, phase, 7));
                assert!(from.into_iter().zip(to).all(|(from, to)| (from - to).abs() < 1e-4), "{figure:?}");
            }
        }
    }
}
