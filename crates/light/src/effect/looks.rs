//! Other looks that take turns. The lights are those of the looks; who lights them is [`splimo_engine::Player`], which asks
//! here whose turn it is.

use super::params::handle::{ChoiceParam, LooksParam, NumberParam, RateParam, TimesParam, choices};
use super::params::{choice, looks, number, rate, times};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params, Turn};
use splimo_base::colour::{CLEAR, Rgba};
use splimo_base::maths::{hash, smooth};
use splimo_time::rate::{Phase, Rate, Step};

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
    rate("speed", "1 bar", "how long a step takes; stopped waits to be stepped"),
    times(
        "durations",
        "how long each look stays, in their order, where it is not the speed; stopped stays until it is stepped",
    ),
    times("fades", "how long each look takes to come in, where it is not the overlap; cut for none"),
];

pub(super) const LOOKS: LooksParam = LooksParam::named(PARAMS, "looks");
const WAY: ChoiceParam<Way> = ChoiceParam::named(PARAMS, "way");
const OVERLAP: NumberParam = NumberParam::named(PARAMS, "overlap");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");
const DURATIONS: TimesParam = TimesParam::named(PARAMS, "durations");
const FADES: TimesParam = TimesParam::named(PARAMS, "fades");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "looks",
    family: "motion",
    help: "Other looks that take turns: a chase between looks",
    params: PARAMS,
    start: |seed| Box::new(Looks { phase: Phase::default(), seed: hash(seed), pace: 2.0, stepped: None }),
};

struct Looks {
    phase: Phase,
    seed: u32,
    /// Beats a second.
    pace: f64,
    /// The change that a step by hand has begun, as long as it lasts.
    stepped: Option<Change>,
}

/// A change from one look to another under way.
#[derive(Debug, Clone, Copy)]
struct Change {
    /// The step of the look that goes.
    from: i64,
    /// The share of it that is over, 0..1.
    over: f32,
    /// The rate at which it goes on.
    fade: Rate,
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

/// The seconds that something of a rate takes at so many beats a second; none where it never ends.
fn seconds(rate: Rate, pace: f64) -> Option<f64> {
    let cycles = rate.cycles(Step { seconds: 1.0, beats: pace }).abs();
    (cycles > 0.0).then(|| 1.0 / cycles)
}

impl Looks {
    /// The place of a step's look among those that are named.
    fn entry(&self, params: &Params, step: i64) -> usize {
        look_of(step, params.looks(LOOKS).len(), params.choice(WAY), self.seed)
    }

    /// The rate of a step: that of its look, in the direction of the layer's.
    fn rate(&self, params: &Params, step: i64) -> Rate {
        params.time(DURATIONS, self.entry(params, step)).unwrap_or_else(|| params.rate(SPEED))
    }

    /// The share of a step in which it changes over to the look of another.
    fn overlap(&self, params: &Params, step: i64, to: i64) -> f32 {
        let lasts = seconds(self.rate(params, step), self.pace);
        match (params.time(FADES, self.entry(params, to)), lasts) {
            (None, _) => params.number(OVERLAP) / 100.0,
            (Some(fade), Some(lasts)) => (seconds(fade, self.pace).unwrap_or(0.0) / lasts).min(1.0) as f32,
            (Some(_), None) => 0.0,
        }
    }

    /// Goes on through the steps, each at its own rate, so that none begins late because the one before was longer or shorter.
    fn go_on(&mut self, params: &Params, step: Step) {
        // A tick spans a few steps at the most; what is left of it then is lost.
        let mut left = 1.0;
        for _ in 0..8 {
            let rate = self.rate(params, self.phase.whole());
            let turns = rate.cycles(step) * left;
            let part = f64::from(self.phase.turns());
            let room = if turns >= 0.0 { 1.0 - part } else { -part - f64::EPSILON };
            if turns == 0.0 || turns.abs() < room.abs() {
                return self.phase.add(turns);
            }
            left *= 1.0 - room / turns;
            let whole = self.phase.whole() + if turns > 0.0 { 1 } else { -1 };
            self.phase.move_to(if turns > 0.0 { whole as f64 } else { whole as f64 + 1.0 - 1e-9 });
        }
    }
}

impl Effect for Looks {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        self.pace = f64::from(moment.tempo) / 60.0;
        // What it was asked to glide goes on beside what passes by itself.
        self.phase.advance(Rate::Stopped, moment.step);
        self.go_on(params, moment.step);
        if let Some(change) = &mut self.stepped {
            change.over += change.fade.cycles(moment.step).abs() as f32;
            if change.over >= 1.0 {
                self.stepped = None;
            }
        }
    }

    fn step(&mut self, params: &Params, by: i64) {
        let from = self.phase.whole();
        self.phase = Phase::of((from + by) as f64);
        let own = params.time(FADES, self.entry(params, from + by));
        // Without a time of its own it takes as much of its step as the overlap says.
        let share = params.number(OVERLAP) / 100.0;
        let fade = own.or_else(|| {
            let lasts = seconds(self.rate(params, from + by), self.pace)?;
            (share > 0.0).then_some(Rate::Seconds(lasts as f32 * share))
        });
        let lasts = fade.is_some_and(|fade| seconds(fade, self.pace).is_some());
        self.stepped = fade.filter(|_| lasts).map(|fade| Change { from, over: 0.0, fade });
    }

    fn light(&self, _: &Params, _: &Cells<'_>, out: &mut [Rgba]) {
        out.fill(CLEAR);
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }

    fn turns(&self, params: &Params, late: f32) -> [Turn; 2] {
        let turn = |step: i64, share: f32| Turn { look: self.entry(params, step), share };
        let phase = self.phase.behind(late);
        if let Some(change) = self.stepped {
            let over = smooth(change.over);
            let from = change.from + phase.whole() - self.phase.whole();
            return [turn(phase.whole(), over), turn(from, 1.0 - over)];
        }
        let overlap = self.overlap(params, phase.whole(), phase.whole() + 1);
        let several = params.looks(LOOKS).len() > 1;
        let over = if overlap > 0.0 && several { smooth((phase.turns() - 1.0 + overlap) / overlap) } else { 0.0 };
        [turn(phase.whole(), 1.0 - over), turn(phase.whole() + 1, over)]
    }
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeMap;

    use super::*;
    use splimo_show::Param;
    use splimo_time::music::Hearing;

    const SECOND: Step = Step { seconds: 1.0, beats: 2.0 };

    fn params(of: &[(&str, Param)]) -> Params {
        let mut given = BTreeMap::from([("looks".to_owned(), list(&["A", "B", "C"]))]);
        given.extend(of.iter().map(|(name, param)| ((*name).to_owned(), param.clone())));
        Params::compile(&SPEC, &given, &[]).expect("they are right")
    }

    fn list(texts: &[&str]) -> Param {
        Param::List(texts.iter().map(|text| (*text).to_owned()).collect())
    }

    fn chase() -> Looks {
        Looks { phase: Phase::default(), seed: 1, pace: 2.0, stepped: None }
    }

    fn go_on(chase: &mut Looks, params: &Params, seconds: f64) {
        let step = Step { seconds: seconds * SECOND.seconds, beats: seconds * SECOND.beats };
        chase.advance(params, &Moment::at(0.0, 0.0, step, &Hearing::SILENCE));
    }

    /// The looks that are seen, by their letters, with their shares in percent.
    fn seen(chase: &Looks, params: &Params) -> String {
        let turns = chase.turns(params, 0.0).into_iter().filter(|turn| turn.share > 0.001);
        turns.map(|turn| format!("{}{:.0} ", ["A", "B", "C"][turn.look], turn.share * 100.0)).collect()
    }

    #[test]
    fn each_look_stays_as_long_as_it_says_whatever_the_frames() {
        let params = params(&[
            ("durations", list(&["1 s", "", "3 s"])),
            ("overlap", Param::Number(0.0)),
            ("speed", Param::Text("2 s".into())),
        ]);
        for rate in [7.0, 44.0, 0.4] {
            let mut chase = chase();
            let (mut seen, mut at) = (Vec::new(), 0.0);
            while at < 11.9 {
                seen.push(chase.turns(&params, 0.0)[0].look);
                go_on(&mut chase, &params, 1.0 / rate);
                at += 1.0 / rate;
            }
            // One round takes six seconds: 1, 2 and 3.
            let share = |look| seen.iter().filter(|s| **s == look).count() as f64 / seen.len() as f64;
            if rate > 1.0 {
                assert!((share(1) - 2.0 / 6.0).abs() < 0.03 && (share(2) - 3.0 / 6.0).abs() < 0.03, "{rate}");
            }
            assert!((chase.phase.total() - 6.0).abs() < 1.1, "{rate}: {}", chase.phase.total());
        }
    }

    #[test]
    fn a_look_comes_in_as_fast_as_it_says_and_a_cut_at_once() {
        let params = params(&[
            ("speed", Param::Text("4 s".into())),
            ("fades", list(&["", "2 s", "cut"])),
            ("overlap", Param::Number(25.0)),
        ]);
        let mut chase = chase();
        go_on(&mut chase, &params, 3.0);
        assert_eq!(seen(&chase, &params), "A50 B50 ");
        go_on(&mut chase, &params, 4.9);
        assert_eq!(seen(&chase, &params), "B100 ", "C cuts");
        go_on(&mut chase, &params, 0.2);
        assert_eq!(seen(&chase, &params), "C100 ");
        go_on(&mut chase, &params, 3.4);
        assert_eq!(seen(&chase, &params), "C50 A50 ", "A has the overlap");
    }

    #[test]
    fn a_chase_that_is_stopped_is_stepped_on_and_back_with_its_fades() {
        let params = params(&[("speed", Param::Text("stopped".into())), ("fades", list(&["", "2 s"]))]);
        let mut chase = chase();
        go_on(&mut chase, &params, 100.0);
        assert_eq!(seen(&chase, &params), "A100 ");
        chase.step(&params, 1);
        go_on(&mut chase, &params, 1.0);
        assert_eq!(seen(&chase, &params), "B50 A50 ");
        go_on(&mut chase, &params, 1.1);
        assert_eq!(seen(&chase, &params), "B100 ");
        chase.step(&params, -2);
        assert_eq!(seen(&chase, &params), "C100 ", "back over the first, without a fade of its own");
        chase.phase.restart();
        assert_eq!(seen(&chase, &params), "A100 ");
    }

    #[test]
    fn a_glide_to_the_centre_goes_on_when_the_next_look_begins() {
        let arrives = |at: f64| {
            let params = params(&[("speed", Param::Text("2 s".into()))]);
            let mut chase = chase();
            chase.phase = Phase::of(at);
            chase.phase.glide_to(0.2);
            for _ in 0..100 {
                go_on(&mut chase, &params, 0.02);
            }
            // Two seconds are one step: what remains is where the glide has taken it.
            chase.phase.total() - 1.0
        };
        assert!((arrives(0.8) - 1.2).abs() < 0.01, "over the border: {}", arrives(0.8));
        assert!((arrives(0.1) - 0.2).abs() < 0.01, "within a look: {}", arrives(0.1));
    }

    #[test]
    fn durations_go_backwards_too() {
        let params = params(&[("durations", list(&["-1 s", "-1 s", "-2 s"])), ("overlap", Param::Number(0.0))]);
        let mut chase = chase();
        for _ in 0..41 {
            go_on(&mut chase, &params, 0.1);
        }
        // C for two seconds, B for one, A for one, and C again.
        assert_eq!(seen(&chase, &params), "C100 ");
        assert_eq!(chase.phase.whole(), -4);
    }

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
