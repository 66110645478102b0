//! Tests of modulators, on a clock that is driven by hand.

use proptest::prelude::*;

use super::*;
use crate::effect::{Counts, find};
use splimo_show::{CountEvent, ModulatorFields, ModulatorKind};
use splimo_time::music::{Bands, Hearing};
use splimo_time::rate::Step;

const RATE: f64 = 50.0;
/// Beats a second.
const TEMPO: f64 = 2.0;

/// An effect with a number, colours and a rate.
fn plasma() -> (&'static EffectSpec, Params) {
    let spec = find("plasma").expect("an effect");
    (spec, Params::compile(spec, &Default::default(), &[]).expect("right parameters"))
}

/// The first number of the effect, which is moved here.
fn number(spec: &EffectSpec) -> (NumberParam, &'static str, [f32; 2]) {
    let found = spec.params.iter().enumerate().find_map(|(index, param)| match param.kind {
        ParamKind::Number { min, max, .. } => Some((NumberParam::at(spec.params, index)?, param.name, [min, max])),
        _ => None,
    });
    found.expect("a number")
}

fn moving(source: ModulatorKind, rate: &str) -> ModulatorFields {
    ModulatorFields { rate: rate.into(), ..Modulator::new(number(plasma().0).1, source, 1.0).into() }
}

/// A clock that goes on by frames, and where it is.
struct Clock {
    frame: u32,
    /// The number of beats that it counts more.
    moved: f64,
    hearing: Hearing,
    counts: Counts,
    controls: [f32; splimo_show::CONTROLS],
}

impl Default for Clock {
    fn default() -> Self {
        let hearing = Hearing { level: 0.5, bands: Bands::of(&[0.25; 24]), ..Hearing::SILENCE };
        Self { frame: 0, moved: 0.0, hearing, counts: Counts::default(), controls: [0.0; splimo_show::CONTROLS] }
    }
}

impl Clock {
    /// The next moment, at `rate` frames a second.
    fn next(&mut self, rate: f64) -> Moment<'_> {
        let seconds = if self.frame == 0 { 0.0 } else { 1.0 / rate };
        let time = f64::from(self.frame) / rate;
        self.frame += 1;
        let step = Step { seconds, beats: seconds * TEMPO };
        Moment {
            controls: &self.controls,
            counts: self.counts,
            ..Moment::at(time, time * TEMPO + self.moved, step, &self.hearing)
        }
    }
}

/// The values of a modulator after each frame of some seconds.
fn values(fields: &ModulatorFields, seconds: f64, mut each: impl FnMut(&mut Clock)) -> Vec<f32> {
    let (spec, base) = plasma();
    let modulator = &Modulator::from(fields.clone());
    check(modulator, spec).expect("a right modulator");
    let mut running = Modulators::compile(std::slice::from_ref(modulator), spec, 3);
    let (mut params, mut clock) = (base.clone(), Clock::default());
    (0..=(seconds * RATE) as u32)
        .map(|_| {
            each(&mut clock);
            running.apply(&clock.next(RATE), &base, &mut params);
            running.values().next().expect("one modulator")
        })
        .collect()
}

#[test]
fn waves_have_their_shapes() {
    use ModulatorKind::{SawDown, SawUp, Sine, Square, Triangle};
    // At the quarters of a cycle of two seconds.
    for (source, quarters) in [
        (Sine, [0.0, 1.0, 0.0, -1.0]),
        (Triangle, [0.0, 1.0, 0.0, -1.0]),
        (SawUp, [-1.0, -0.5, 0.0, 0.5]),
        (SawDown, [1.0, 0.5, 0.0, -0.5]),
        (Square, [1.0, 1.0, -1.0, -1.0]),
    ] {
        let given = values(&moving(source, "4 beats"), 2.0, |_| {});
        for (quarter, right) in quarters.into_iter().enumerate() {
            let value = given[quarter * 25];
            assert!((value - right).abs() < 0.13, "{source:?} at {quarter}/4: {value}");
        }
    }
}

#[test]
fn a_phase_begins_elsewhere_and_a_curve_and_steps_are_followed() {
    let late = ModulatorFields { phase: 0.25, ..moving(ModulatorKind::Sine, "4 beats") };
    assert!((values(&late, 0.0, |_| {})[0] - 1.0).abs() < 1e-3);
    let curved = ModulatorFields { curve: 2.0, ..moving(ModulatorKind::SawUp, "4 beats") };
    let given = values(&curved, 1.9, |_| {});
    assert!((given[25] + 0.25).abs() < 0.03 && (given[75] - 0.25).abs() < 0.03, "{} {}", given[25], given[75]);
    let steps = ModulatorFields { steps: vec![0.0, 50.0, -100.0], ..moving(ModulatorKind::Steps, "3 s") };
    let given = values(&steps, 2.9, |_| {});
    assert_eq!([given[20], given[70], given[120]], [0.0, 0.5, -1.0]);
}

#[test]
fn what_is_heard_and_what_is_sent_is_given() {
    let given = |source: ModulatorKind, number: u32| {
        let modulator = ModulatorFields { number, ..moving(source, "1 beat") };
        values(&modulator, 0.0, |clock| {
            clock.hearing.bands[3] = 0.75;
            clock.controls[4] = 0.6;
        })[0]
    };
    assert_eq!(
        [given(ModulatorKind::Level, 1), given(ModulatorKind::Band, 4), given(ModulatorKind::Band, 5)],
        [0.5, 0.75, 0.25]
    );
    assert_eq!([given(ModulatorKind::Control, 5), given(ModulatorKind::Control, 4)], [0.6, 0.0]);
    assert!(given(ModulatorKind::Bass, 1) > 0.25 && (given(ModulatorKind::Highs, 1) - 0.25).abs() < 1e-6);
    // A show may name a band that is not heard at the moment.
    assert_eq!(given(ModulatorKind::Band, 60), 0.0);
    let formula = ModulatorFields { formula: "beat / 2".into(), ..moving(ModulatorKind::Formula, "1 beat") };
    assert!((values(&formula, 1.0, |_| {})[50] - 1.0).abs() < 1e-6);
}

#[test]
fn hits_and_beats_die_away_within_a_cycle() {
    // An onset after half a second, and a cycle of one.
    let hit =
        values(&moving(ModulatorKind::Onset, "1 s"), 2.0, |clock| clock.hearing.onsets = u64::from(clock.frame >= 25));
    assert_eq!([hit[24], hit[25]], [0.0, 1.0]);
    assert!((hit[50] - 0.5).abs() < 0.03 && hit[80] == 0.0, "{} {}", hit[50], hit[80]);
    // A beat lasts half a second.
    let beat = values(&moving(ModulatorKind::Beat, "1 beat"), 1.0, |_| {});
    assert!(beat[0] == 1.0 && (beat[12] - 0.52).abs() < 0.01 && beat[25] > 0.99, "{} {}", beat[12], beat[25]);
}

#[test]
fn numbers_are_drawn_anew_each_cycle_or_beat_and_glide_where_they_drift() {
    for (source, lengths) in [(ModulatorKind::Random, 50), (ModulatorKind::Draw, 25)] {
        let given = values(&moving(source, "1 s"), 6.0, |_| {});
        assert!(given.iter().all(|value| (-1.0..=1.0).contains(value)));
        let changes: Vec<usize> = (1..given.len()).filter(|&i| given[i] != given[i - 1]).collect();
        assert!(changes.len() >= 300 / lengths - 1, "{source:?}: {changes:?}");
        assert!(changes.iter().all(|at| at % lengths <= 1), "{source:?}: {changes:?}");
    }
    let drift = values(&moving(ModulatorKind::Drift, "1 s"), 6.0, |_| {});
    assert!(drift.windows(2).all(|pair| (pair[1] - pair[0]).abs() < 0.07), "no step in it");
    assert!(drift.iter().any(|value| (value - drift[0]).abs() > 0.2), "and yet it moves");
}

#[test]
fn counters_go_by_what_happens_and_not_by_where_beats_are_counted_from() {
    let counter = |forward, backward, reset| ModulatorFields {
        forward,
        backward,
        reset,
        count: 8,
        ..moving(ModulatorKind::Counter, "1 beat")
    };
    let eighths = |modulator: &ModulatorFields, seconds, each: &mut dyn FnMut(&mut Clock)| {
        let given = values(modulator, seconds, each);
        (given[given.len() - 1] * 8.0).round() as u32
    };
    // 6.1 seconds are 12 beats, three bars, and nothing of a phrase.
    for (event, right) in [(CountEvent::Beat, 12 % 8), (CountEvent::Bar, 3), (CountEvent::Phrase, 0)] {
        let modulator = counter(event, CountEvent::Never, CountEvent::Never);
        assert_eq!(eighths(&modulator, 6.1, &mut |_| {}), right, "{event:?}");
        // Twelve beats more are three bars more, which nobody heard.
        let moved = &mut |clock: &mut Clock| clock.moved = if clock.frame > 120 { 12.0 } else { 0.0 };
        assert_eq!(eighths(&modulator, 6.1, moved), right, "{event:?}, counted from elsewhere");
    }
    let by_hand = counter(CountEvent::Forward, CountEvent::Back, CountEvent::Reset);
    let pressed = |frame: u32, clock: &mut Clock| {
        clock.counts.forward = u64::from(frame > 10) + u64::from(frame > 20) + u64::from(frame > 30);
        clock.counts.back = u64::from(frame > 40);
        clock.counts.reset = u64::from(frame > 80);
    };
    assert_eq!(eighths(&by_hand, 1.2, &mut |clock| pressed(clock.frame, clock)), 2);
    assert_eq!(eighths(&by_hand, 2.0, &mut |clock| pressed(clock.frame, clock)), 0);
    let landed = counter(CountEvent::Onset, CountEvent::Landing, CountEvent::Never);
    let both = &mut |clock: &mut Clock| {
        clock.hearing.onsets = u64::from(clock.frame / 10);
        clock.counts.landings = u64::from(clock.frame > 35);
    };
    assert_eq!(eighths(&landed, 1.0, both), 4);
}

#[test]
fn smoothing_does_not_depend_on_the_frame_rate() {
    let (spec, base) = plasma();
    let smoothed = Modulator { smooth: 1.0, ..moving(ModulatorKind::Control, "1 beat").into() };
    let after_a_second = |rate: f64| {
        let mut running = Modulators::compile(std::slice::from_ref(&smoothed), spec, 0);
        let (mut params, mut clock) = (base.clone(), Clock::default());
        running.apply(&clock.next(rate), &base, &mut params);
        clock.controls[0] = 1.0;
        (0..rate as u32).for_each(|_| {
            running.apply(&clock.next(rate), &base, &mut params);
        });
        running.values().next().expect("one")
    };
    let (slow, fast) = (after_a_second(20.0), after_a_second(200.0));
    assert!((slow - fast).abs() < 0.01 && (slow - 0.75).abs() < 0.01, "{slow} {fast}");
}

#[test]
fn what_is_moved_adds_up_and_stays_in_its_range() {
    let (spec, base) = plasma();
    let (index, name, [min, max]) = number(spec);
    let applied = |all: &[Modulator]| {
        let (mut params, mut clock) = (base.clone(), Clock::default());
        let moved = Modulators::compile(all, spec, 0).apply(&clock.next(RATE), &base, &mut params);
        (params.number(index), moved)
    };
    let by = |param: &str, offset: f32| Modulator { offset, ..Modulator::new(param, ModulatorKind::Control, 0.0) };
    let step = (max - base.number(index)) / 4.0;
    let (value, moved) = applied(&[by(name, step), by(name, step)]);
    assert!((value - base.number(index) - 2.0 * step).abs() < 1e-3 && moved == Moved::default(), "{value}");
    assert_eq!(applied(&[by(name, 9e4)]).0, max);
    assert_eq!(applied(&[by(name, -9e4)]).0, min);
    assert_eq!(applied(&[by(OPACITY, -30.0)]).1, Moved { opacity: -0.3, phase: 0.0 });
    assert_eq!(applied(&[by(PHASE, 125.0)]).1, Moved { opacity: 0.0, phase: 1.25 });
    assert_eq!(applied(&[]), (base.number(index), Moved::default()));
}

#[test]
fn everything_that_can_be_moved_has_a_name_and_a_fair_depth() {
    for spec in crate::effect::EFFECTS {
        for name in Target::names(spec) {
            let target = Target::named(&name, spec).unwrap_or_else(|| panic!("{}: {name}", spec.name));
            assert!(target.fair_depth() > 0.0, "{}: {name}", spec.name);
            assert_eq!(check(&Modulator::new(&name, ModulatorKind::Sine, target.fair_depth()), spec), Ok(()));
        }
    }
}

#[test]
fn what_cannot_work_says_which_field_and_how_to_mend_it() {
    let (spec, _) = plasma();
    let usual = Modulator::from(moving(ModulatorKind::Sine, "1 beat"));
    let fields = || moving(ModulatorKind::Sine, "1 beat");
    let steps = |steps: Vec<f32>| ModulatorFields { steps, ..moving(ModulatorKind::Steps, "1 beat") }.into();
    for (field, words, modulator) in [
        ("param", "it has", Modulator { param: "loudness".into(), ..usual.clone() }),
        ("depth", "100000", Modulator { depth: f32::NAN, ..usual.clone() }),
        ("offset", "100000", Modulator { offset: 1e9, ..usual.clone() }),
        ("phase", "64", ModulatorFields { phase: 65.0, ..fields() }.into()),
        ("curve", "0.05", Modulator { curve: 0.0, ..usual.clone() }),
        ("smooth", "60", Modulator { smooth: -1.0, ..usual.clone() }),
        ("rate", "beats", ModulatorFields { rate: "often".into(), ..fields() }.into()),
        ("number", "1 to 64", ModulatorFields { number: 65, ..moving(ModulatorKind::Control, "1 beat") }.into()),
        ("count", "1 to", ModulatorFields { count: 0, ..moving(ModulatorKind::Counter, "1 beat") }.into()),
        ("steps", "give it", steps(vec![])),
        ("steps", "-100 to 100", steps(vec![101.0])),
        (
            "formula",
            "effects",
            ModulatorFields { formula: "1 +".into(), ..moving(ModulatorKind::Formula, "1 beat") }.into(),
        ),
    ] {
        let why = check(&modulator, spec).expect_err(field);
        assert!(why.field == field && why.mend.contains(words), "{why:?}");
        // It is left out, and the rest works.
        assert_eq!(Modulators::compile(&[modulator, usual.clone()], spec, 0).values().count(), 1, "{field}");
    }
}

#[test]
fn an_edit_leaves_every_other_modulator_where_it_is() {
    let (spec, base) = plasma();
    let moving = |kind, rate: &str| Modulator::from(moving(kind, rate));
    let opacity = Modulator { param: OPACITY.into(), depth: 20.0, ..moving(ModulatorKind::SawUp, "7 s") };
    let all = [moving(ModulatorKind::SawUp, "16 s"), moving(ModulatorKind::Drift, "3 s"), opacity.clone()];
    let mut running = Modulators::compile(&all, spec, 0);
    let (mut params, mut clock) = (base.clone(), Clock::default());
    (0..120).for_each(|_| {
        running.apply(&clock.next(RATE), &base, &mut params);
    });
    let before: Vec<f32> = running.values().collect();
    let mut after = |edited: &[Modulator]| -> Vec<f32> {
        let mut edited = Modulators::compile(edited, spec, 0);
        edited.take_over(&running);
        let moment = Moment { step: Step::default(), ..clock.next(RATE) };
        edited.apply(&moment, &base, &mut params);
        edited.values().collect()
    };
    assert_eq!(after(&[all[0].clone(), all[2].clone()]), [before[0], before[2]], "one is taken out");
    assert_eq!(after(&[all[2].clone(), all[0].clone()]), [before[2], before[0]], "they change places");
    let other = moving(ModulatorKind::SawDown, "16 s");
    assert_eq!(after(&[other])[0], -before[0], "another wave goes on in the same place of its cycle");
}

proptest! {
    // Whatever is heard and however time goes: what is lit by it stays a number within its range.
    #[test]
    fn what_is_moved_is_never_out_of_range(
        source in proptest::sample::select(ModulatorKind::ALL),
        depth in -1e5f32..1e5,
        curve in 0.05f32..20.0,
        rate in proptest::sample::select(vec!["stopped", "1 beat", "-3 beats", "0.01 s", "900 s", "50 hz"]),
        steps in proptest::collection::vec((0f64..1e4, -50f64..50.0, 0f32..1.0, any::<u64>()), 1..30),
    ) {
        let (spec, base) = plasma();
        let (index, _, [min, max]) = number(spec);
        let modulator = ModulatorFields {
            depth, curve, steps: vec![10.0, -90.0], formula: "beat / level".into(), ..moving(source, "1 beat")
        };
        let modulator = Modulator::from(ModulatorFields { rate: rate.into(), ..modulator });
        prop_assert_eq!(check(&modulator, spec), Ok(()));
        let (mut running, mut params) = (Modulators::compile(&[modulator], spec, 9), base.clone());
        for (time, beat, level, onsets) in steps {
            let hearing = Hearing { level, onsets, ..Hearing::SILENCE };
            let step = Step { seconds: f64::from(level), beats: f64::from(level) * 3.0 };
            running.apply(&Moment::at(time, beat, step, &hearing), &base, &mut params);
            prop_assert!((min..=max).contains(&params.number(index)), "{}", params.number(index));
        }
    }
}
