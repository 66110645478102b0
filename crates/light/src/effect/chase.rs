//! Lights that run along the order, step by step or gliding.

use multiversion::multiversion;

use super::edges::Bar;
use super::params::handle::{ChoiceParam, ColoursParam, NumberParam, RateParam, choices};
use super::params::{choice, colours, number, rate};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::{CLEAR, Rgba};
use splimo_base::maths::{floor, hash, smooth};
use splimo_time::rate::Phase;

choices! {
    /// The choice "turn".
    Turn {
        HeadToTail = "head to tail",
        InTurn = "in turn",
    }
}

choices! {
    /// The choice "way".
    Way {
        Forward = "forward",
        Back = "back",
        Bounce = "bounce",
        Random = "random",
        FromTheMiddle = "from the middle",
        ToTheMiddle = "to the middle",
    }
}

choices! {
    /// The choice "motion".
    Motion {
        Gliding = "gliding",
        Stepping = "stepping",
    }
}

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(&["#ffe3b0", "#ff7a3d", "#d93a2b"], "from head to tail, or in turn"),
    choice("turn", Turn::WORDS, "the colours lie along each runner, or each takes the next"),
    choice("way", Way::WORDS, "where it runs"),
    choice("motion", Motion::WORDS, "from light to light without a break, or in steps"),
    number("width", [1.0, 3.0, 400.0], "lights", "how many lights are lit"),
    number("tail", [0.0, 3.0, 400.0], "lights", "how many it drags behind"),
    number("step", [0.1, 1.0, 200.0], "lights", "how far it comes in a step"),
    number("spacing", [0.0, 16.0, 2000.0], "lights", "from one runner to the next; 0 has one on the whole order"),
    number("overlap", [0.0, 50.0, 100.0], "%", "how much of a step it takes to change over to the next"),
    rate("speed", "1/4 beat", "how long a step takes"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const TURN: ChoiceParam<Turn> = ChoiceParam::named(PARAMS, "turn");
const WAY: ChoiceParam<Way> = ChoiceParam::named(PARAMS, "way");
const MOTION: ChoiceParam<Motion> = ChoiceParam::named(PARAMS, "motion");
const WIDTH: NumberParam = NumberParam::named(PARAMS, "width");
const TAIL: NumberParam = NumberParam::named(PARAMS, "tail");
const STEP: NumberParam = NumberParam::named(PARAMS, "step");
const SPACING: NumberParam = NumberParam::named(PARAMS, "spacing");
const OVERLAP: NumberParam = NumberParam::named(PARAMS, "overlap");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "chase",
    family: "motion",
    help: "Lights that run along the order, step by step or gliding",
    params: PARAMS,
    start: |seed| Box::new(Chase { phase: Phase::default(), seed: hash(seed) }),
};

struct Chase {
    phase: Phase,
    seed: u32,
}

/// The way the runners of one moment stand.
#[derive(Clone, Copy)]
struct Runners {
    /// The place of the first along its round, in lights.
    at: f64,
    /// Their share of the light.
    share: f32,
    /// The way over the order that one which bounces is on, from 0; every other one leads back.
    leg: Option<i64>,
}

/// The way over the order that one which bounces is on, and the place of its tip along it. It turns round where the first light
/// or the last is fully lit, and never leaves the order.
fn bounced(way: f64, width: f64, length: f64) -> (i64, f64) {
    let room = (length - width).max(0.5);
    let legs = (way / room).floor();
    (legs as i64, width.min(length) + way - legs * room)
}

impl Chase {
    /// The place of the first runner after so many steps, on a round of some length.
    fn place(&self, params: &Params, steps: f64, round: f64, bar: Bar) -> (f64, Option<i64>) {
        let way = steps * f64::from(params.number(STEP));
        let place = match params.choice(WAY) {
            Way::Bounce => {
                let (leg, at) = bounced(way, f64::from(params.number(WIDTH)), round - f64::from(bar.length));
                return (at, Some(leg));
            }
            Way::Random => {
                let places = (round / f64::from(params.number(STEP))).floor().max(1.0);
                let drawn = f64::from(hash(steps.floor().rem_euclid(4e9) as u32 ^ self.seed)) % places;
                drawn * f64::from(params.number(STEP)) + f64::from(bar.length)
            }
            // At the start it stands on the first lights.
            Way::Forward | Way::Back | Way::FromTheMiddle | Way::ToTheMiddle => way + f64::from(params.number(WIDTH)),
        };
        (place, None)
    }

    /// The one or two ways the runners stand at this moment, while one step changes over to the next.
    fn runners(&self, params: &Params, phase: Phase, round: f64, bar: Bar) -> [Runners; 2] {
        let jumps = params.choice(MOTION) == Motion::Stepping || params.choice(WAY) == Way::Random;
        if !jumps {
            let (at, leg) = self.place(params, phase.total(), round, bar);
            return [Runners { at, share: 1.0, leg }, Runners { at, share: 0.0, leg }];
        }
        let overlap = params.number(OVERLAP) / 100.0;
        let over = if overlap > 0.0 { smooth((phase.turns() - 1.0 + overlap) / overlap) } else { 0.0 };
        let runners = |steps: i64, share: f32| {
            let (at, leg) = self.place(params, steps as f64, round, bar);
            Runners { at, share, leg }
        };
        [runners(phase.whole(), 1.0 - over), runners(phase.whole() + 1, over)]
    }
}

impl Effect for Chase {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        self.phase.advance(params.rate(SPEED), moment.step);
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let (width, tail) = (params.number(WIDTH), params.number(TAIL));
        // What bounces is bright all over its width, wherever it turns round; its tail comes behind.
        let bounces = params.choice(WAY) == Way::Bounce;
        let bar = Bar::new(if bounces { width + (tail.max(1.0) - 1.0) / 2.0 } else { width }, 1.0, tail);
        let middle = matches!(params.choice(WAY), Way::FromTheMiddle | Way::ToTheMiddle);
        // Along the longer side, which on the span of an order is the order.
        let (along, length) = if cells.height > cells.width { (cells.y, cells.height) } else { (cells.x, cells.width) };
        let length = if middle { length / 2.0 } else { length };
        let alone = params.number(SPACING) == 0.0 || bounces || params.choice(WAY) == Way::Random;
        let round = if alone { length + bar.length } else { params.number(SPACING) };
        let runners = self.runners(params, self.phase.behind(cells.late), f64::from(round), bar);
        let in_turn = params.choice(TURN) == Turn::InTurn;
        let mut mixed = [0.0; TILE];
        let mut places = [0.0; TILE];
        let mut laps = [0.0; TILE];
        let mut ways = [0.0; TILE];
        let (mixed, places, laps) = (&mut mixed[..out.len()], &mut places[..out.len()], &mut laps[..out.len()]);
        let ways = &mut ways[..out.len()];
        along_way(params.choice(WAY), along, length, ways);
        for runners in runners.iter().filter(|runners| runners.share > 0.0) {
            if let Some(leg) = runners.leg {
                let bounce = Bounce { tip: runners.at as f32, width, length, leg, bar };
                bounce.run(along, runners.share, Lit { mixed, places, laps });
                continue;
            }
            let lap = (runners.at / f64::from(round)).floor();
            let first = (runners.at - lap * f64::from(round)) as f32;
            let line = Line { first, round, share: runners.share, lap: lap as f32, bar };
            run(ways, Lit { mixed, places, laps }, line);
        }
        if in_turn {
            let stops = params.stops(COLOURS).min(MOST_TURNS);
            let mut turns = [CLEAR; MOST_TURNS];
            for (turn, colour) in turns.iter_mut().enumerate().take(stops) {
                *colour = params.colour_in_turn(COLOURS, turn as i64);
            }
            for (out, lap) in out.iter_mut().zip(laps.iter()) {
                *out = turns[(*lap as i64).rem_euclid(stops.max(1) as i64) as usize];
            }
        } else {
            params.colour_along(COLOURS, places, out);
        }
        for (out, lit) in out.iter_mut().zip(mixed) {
            out[3] *= lit.min(1.0);
        }
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }
}

/// The runners of a moment on their way.
#[derive(Clone, Copy)]
struct Line {
    first: f32,
    round: f32,
    share: f32,
    lap: f32,
    bar: Bar,
}

/// A runner that bounces.
#[derive(Clone, Copy)]
struct Bounce {
    /// The place of its tip along its leg, in lights.
    tip: f32,
    width: f32,
    length: f32,
    leg: i64,
    bar: Bar,
}

impl Bounce {
    /// Lights what it covers, and where its tail still is from before it turned round.
    fn run(self, along: &[f32], share: f32, lit: Lit<'_>) {
        let Self { tip, width, length, leg, bar } = self;
        let Lit { mixed, places, laps } = lit;
        let back = leg.rem_euclid(2) == 1;
        for (((mixed, place), lap), at) in mixed.iter_mut().zip(places).zip(laps).zip(along) {
            let at = if back { length - at } else { *at };
            // The tail on the way here, and that of the way before, which turned round where the order ends.
            let behind = [tip + 0.5 - at, tip + 0.5 + at - width];
            let before = if leg != 0 && at > tip - 0.5 { bar.cover(behind[1]) } else { 0.0 };
            let now = bar.cover(behind[0]);
            let behind = if before > now { behind[1] } else { behind[0] };
            let cover = now.max(before) * share;
            if cover > *mixed {
                (*place, *lap) = (behind / bar.length, leg as f32);
            }
            *mixed += cover;
        }
    }
}

/// The result for each light: how much it is lit, where on its runner it lies, and on which lap that is.
struct Lit<'a> {
    mixed: &'a mut [f32],
    places: &'a mut [f32],
    laps: &'a mut [f32],
}

/// The place of each light along the way.
fn along_way(way: Way, along: &[f32], length: f32, out: &mut [f32]) {
    let pairs = out.iter_mut().zip(along);
    match way {
        Way::Back => pairs.for_each(|(out, at)| *out = length - at),
        Way::FromTheMiddle => pairs.for_each(|(out, at)| *out = (at - length).abs()),
        Way::ToTheMiddle => pairs.for_each(|(out, at)| *out = length - (at - length).abs()),
        Way::Forward | Way::Bounce | Way::Random => pairs.for_each(|(out, at)| *out = *at),
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn run(ways: &[f32], lit: Lit<'_>, line: Line) {
    let Line { first, round, share, lap, bar } = line;
    let (per_round, per_length) = (1.0 / round, 1.0 / bar.length);
    let Lit { mixed, places, laps } = lit;
    for (((mixed, place), laps), way) in mixed.iter_mut().zip(places).zip(laps).zip(ways) {
        // Half a light before its middle a runner is already there a little.
        let turns = (first + 0.5 - way) * per_round;
        let which = floor(turns);
        let behind = (turns - which) * round;
        // Where the tail of the one before is still there, the brighter counts.
        let cover = bar.cover(behind).max(bar.cover(behind + round)) * share;
        let brighter = cover > *mixed;
        *place = if brighter { behind * per_length } else { *place };
        *laps = if brighter { lap + which } else { *laps };
        *mixed += cover;
    }
}

/// The most colours that take turns.
const MOST_TURNS: usize = 64;

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::Param;

    /// The light of each of 12 lights, by a bar of 4 after so many quarters of a step.
    fn bouncing(quarters: usize, tail: f64) -> Vec<f32> {
        let given =
            [("way", Param::Text("bounce".to_owned())), ("width", Param::Number(4.0)), ("tail", Param::Number(tail))];
        let given = given.map(|(name, value)| (name.to_owned(), value)).into();
        let params = Params::compile(&SPEC, &given, &[]).expect("right parameters");
        let chase = Chase { phase: Phase::of(quarters as f64 / 4.0), seed: 1 };
        let x: Vec<f32> = (0..12).map(|i| i as f32 + 0.5).collect();
        let mut out = vec![CLEAR; 12];
        chase.light(&params, &Cells::on_plane(&x, &[0.5; 12], 12.0, 1.0), &mut out);
        out.iter().map(|light| light[3]).collect()
    }

    #[test]
    fn at_the_start_of_its_cycle_it_stands_on_the_first_lights_of_its_way() {
        let lit = |way: &str, width: f64| {
            let given = [
                ("way", Param::Text(way.to_owned())),
                ("width", Param::Number(width)),
                ("tail", Param::Number(0.0)),
                ("spacing", Param::Number(0.0)),
            ];
            let given = given.map(|(name, value)| (name.to_owned(), value)).into();
            let params = Params::compile(&SPEC, &given, &[]).expect("right parameters");
            let x: Vec<f32> = (0..12).map(|i| i as f32 + 0.5).collect();
            let mut out = vec![CLEAR; 12];
            let chase = Chase { phase: Phase::default(), seed: 1 };
            chase.light(&params, &Cells::on_plane(&x, &[0.5; 12], 12.0, 1.0), &mut out);
            (0..12).filter(|i| out[*i][3] > 0.99).map(|i| i + 1).collect::<Vec<_>>()
        };
        assert_eq!(lit("forward", 1.0), [1]);
        assert_eq!(lit("forward", 3.0), [1, 2, 3]);
        assert_eq!(lit("back", 1.0), [12]);
        assert_eq!(lit("bounce", 2.0), [1, 2]);
        assert_eq!(lit("to the middle", 1.0), [1, 12]);
    }

    #[test]
    fn what_bounces_lights_the_first_and_the_last_and_never_leaves() {
        let frames: Vec<Vec<f32>> = (0..128).map(|quarters| bouncing(quarters, 0.0)).collect();
        for (quarters, lights) in frames.iter().enumerate() {
            let sum: f32 = lights.iter().sum();
            assert!((sum - 4.0).abs() < 0.01, "{quarters}: {lights:?}");
        }
        assert_eq!(frames[0][..5], [1.0, 1.0, 1.0, 1.0, 0.0]);
        // Eight steps there, eight back.
        assert_eq!(frames[32][7..], [0.0, 1.0, 1.0, 1.0, 1.0]);
        assert_eq!(frames[64], frames[0]);
        // The tail follows on both ways, and round the end.
        let (there, back) = (bouncing(16, 4.0), bouncing(48, 4.0));
        assert!(there[3] > 0.5 && there[3] < 1.0 && there[9] == 0.0, "{there:?}");
        assert!(back.iter().rev().eq(there.iter()), "{back:?}");
        let turned = bouncing(36, 4.0);
        assert!(turned[7] == 1.0 && turned[6] == 0.25 && turned[11] > 0.5, "{turned:?}");
    }
}
