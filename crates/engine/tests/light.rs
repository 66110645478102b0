//! The light itself: golden frames of every effect, the rules that hold for all of them, and what the engine makes of looks.

use std::collections::BTreeMap;
use std::sync::Arc;

use proptest::prelude::*;
use splimo_base::colour::{CLEAR, Rgba};
use splimo_document::file;
use splimo_engine::{Engine, Inputs, Published};
use splimo_light::effect::{Cells, EFFECTS, EffectSpec, Moment, ParamKind, Params, find};
use splimo_light::layer::LayerMap;
use splimo_light::rig::Rig;
use splimo_show::command::EngineCommand;
use splimo_show::{Fixture, Layer, Param, Run, Shape, Show, Wiring};
use splimo_time::music::{BANDS, Bands, Hearing, Wave};
use splimo_time::rate::Step;

const LANTERN_QUAY: &str = include_str!("../../../shows/lantern-quay.splimo");
const TEMPO: f64 = 120.0;

fn hearing(time: f64) -> Hearing {
    let bands: [f32; BANDS] =
        std::array::from_fn(|band| ((band as f32 * 0.37).fract() * 0.6 + 0.4) * (1.0 - (time as f32 * 2.0).fract()));
    Hearing {
        time,
        level: 0.6,
        bands: Bands::of(&bands),
        chroma: std::array::from_fn(|note| ((note as f32 * 0.61 + time as f32).sin() * 0.5 + 0.5).powi(3)),
        wave: Wave(std::array::from_fn(|point| (point as f32 * 0.15).sin() * 0.8)),
        onsets: (time * 4.0) as u64,
        tempo_bpm: 120.0,
        beat: time * 2.0,
        confidence: 1.0,
        ..Hearing::SILENCE
    }
}

/// The light of an effect on a plane of 16 by 8, `seconds` after its start, at a frame rate.
fn light(spec: &EffectSpec, given: &[(&str, Param)], seconds: f64, rate: f64) -> Vec<Rgba> {
    let given = given.iter().map(|(name, param)| ((*name).to_owned(), param.clone())).collect();
    let params = Params::compile(spec, &given, &[]).expect("right parameters");
    let mut effect = (spec.start)(7);
    let frames = (seconds * rate).round() as u64;
    for frame in 0..=frames {
        let time = frame as f64 / rate;
        let seconds = if frame == 0 { 0.0 } else { 1.0 / rate };
        let step = Step { seconds, beats: seconds * TEMPO / 60.0 };
        let heard = hearing(time);
        effect.advance(&params, &Moment::at(time, time * TEMPO / 60.0, step, &heard));
    }
    let x: Vec<f32> = (0..128).map(|i| (i % 16) as f32 + 0.5).collect();
    let y: Vec<f32> = (0..128).map(|i| (i / 16) as f32 + 0.5).collect();
    let mut out = vec![CLEAR; 128];
    effect.light(&params, &Cells::on_plane(&x, &y, 16.0, 8.0), &mut out);
    out
}

/// Light as text: two hexadecimal digits a component over black, a line a row.
fn golden(light: &[Rgba]) -> String {
    let component = |c: f32, alpha: f32| (c * alpha * 255.0).round().clamp(0.0, 255.0) as u8;
    let cell =
        |[r, g, b, a]: &Rgba| format!("{:02x}{:02x}{:02x}", component(*r, *a), component(*g, *a), component(*b, *a));
    light.chunks(16).map(|row| row.iter().map(cell).collect::<Vec<_>>().join(" ")).collect::<Vec<_>>().join("\n")
}

#[test]
fn every_effect_has_its_golden_frames() {
    for spec in EFFECTS.iter().filter(|spec| !spec.turns_heads()) {
        let frames =
            [0.0, 0.6, 2.25].map(|seconds| format!("{seconds} s\n{}", golden(&light(spec, &[], seconds, 44.0))));
        insta::assert_snapshot!(spec.name, frames.join("\n\n"));
    }
}

#[test]
fn every_effect_declares_itself_well() {
    for spec in EFFECTS {
        assert!(std::ptr::eq(*spec, find(spec.name).expect("it is found")), "{} stands twice", spec.name);
        assert!(Params::compile(spec, &Default::default(), &[]).is_ok(), "the defaults of {} are wrong", spec.name);
        assert!(spec.params.iter().all(|p| !p.help.is_empty()));
    }
}

#[test]
fn the_picture_does_not_depend_on_the_frame_rate() {
    for spec in EFFECTS {
        // A flash is there or not: not one that begins in this very frame.
        let given: &[(&str, Param)] =
            if spec.name == "strobe" { &[("speed", Param::Text("0.92 s".into()))] } else { &[] };
        let reference = light(spec, given, 2.0, 44.0);
        for rate in [30.0, 120.0] {
            let other = light(spec, given, 2.0, rate);
            let mean: f32 = reference
                .iter()
                .zip(&other)
                .map(|(a, b)| (0..3).map(|c| (a[c] * a[3] - b[c] * b[3]).abs()).sum::<f32>())
                .sum::<f32>()
                / reference.len() as f32;
            // What follows the music hears it only as often as there are frames.
            let most = if spec.family == "music" { 0.08 } else { 0.06 };
            assert!(mean < most, "{} at {rate}: {mean} off in the mean", spec.name);
        }
    }
}

#[test]
fn a_moving_gradient_glides() {
    // One light a second: at 44 frames a second no frame may change the light of the whole by more than 1 %.
    let given =
        [("speed", Param::Text("16 s".into())), ("colours", Param::List(vec!["#000000".into(), "#ffffff".into()]))];
    let spec = find("gradient").expect("it is there");
    let sum = |frame: u32| light(spec, &given, f64::from(frame) / 44.0, 44.0).iter().map(|c| c[1]).sum::<f32>();
    let sums: Vec<f32> = (0..44).map(sum).collect();
    for pair in sums.windows(2) {
        assert!((pair[1] / pair[0] - 1.0).abs() < 0.01, "{} after {}", pair[1], pair[0]);
    }
}

/// The light of all lights together at each of some frames, of an effect that moves by `given`.
fn sums(name: &str, given: &[(&str, Param)], frames: u32) -> Vec<f32> {
    let spec = find(name).expect("it is there");
    let all = |light: Vec<Rgba>| light.iter().map(|c| (c[0] + c[1] + c[2]) * c[3]).sum();
    (0..frames).map(|frame| all(light(spec, given, 1.25 + f64::from(frame) / 44.0, 44.0))).collect()
}

#[test]
fn bars_glide_and_never_step() {
    let (white, wide) = (Param::List(vec!["#ffffff".into()]), Param::Number(3.0));
    // A tenth of a light a frame, which is 4.4 lights a second.
    let sweep = [
        ("colours", white.clone()),
        ("width", wide.clone()),
        ("head", Param::Number(1.0)),
        ("tail", Param::Number(1.0)),
        ("speed", Param::Text("4.55 s".into())),
    ];
    let chase = [
        ("colours", white.clone()),
        ("width", wide),
        ("tail", Param::Number(0.0)),
        ("spacing", Param::Number(0.0)),
        ("speed", Param::Text("4.4 hz".into())),
    ];
    let helix = [("colours", white), ("twist", Param::Number(0.0)), ("speed", Param::Text("4 s".into()))];
    for (name, given) in [("sweep", &sweep[..]), ("chase", &chase), ("helix", &helix)] {
        // While the bar is whole on the plane.
        let sums = sums(name, given, 44);
        for pair in sums.windows(2) {
            assert!((pair[1] / pair[0] - 1.0).abs() < 0.01, "{name}: {} after {}", pair[1], pair[0]);
        }
    }
}

#[test]
fn a_change_of_rate_never_makes_a_jump() {
    for spec in EFFECTS {
        let Some(rate) = spec.params.iter().find(|p| matches!(p.kind, ParamKind::Rate { .. })) else {
            continue;
        };
        // What flashes or draws lots jumps by its nature.
        if matches!(spec.name, "strobe" | "pulse" | "picture") {
            continue;
        }
        let compiled = |speed: &str| {
            let mut given: BTreeMap<String, Param> = [(rate.name.to_owned(), Param::Text(speed.into()))].into();
            if spec.name == "chase" {
                given.insert("overlap".into(), Param::Number(100.0));
            }
            Params::compile(spec, &given, &[]).expect("right parameters")
        };
        let (slow, fast) = (compiled("16 s"), compiled("8 s"));
        let mut effect = (spec.start)(7);
        let x: Vec<f32> = (0..128).map(|i| (i % 16) as f32 + 0.5).collect();
        let y: Vec<f32> = (0..128).map(|i| (i / 16) as f32 + 0.5).collect();
        let mut before: Option<Vec<Rgba>> = None;
        for frame in 0..400 {
            let seconds = if frame == 0 { 0.0 } else { 0.002 };
            let heard = Hearing::SILENCE;
            let params = if frame % 7 < 3 { &slow } else { &fast };
            let step = Step { seconds, beats: seconds * 2.0 };
            effect.advance(params, &Moment::at(f64::from(frame) * 0.002, 0.25, step, &heard));
            let mut out = vec![CLEAR; 128];
            effect.light(params, &Cells::on_plane(&x, &y, 16.0, 8.0), &mut out);
            if let Some(before) = before.replace(out.clone()) {
                let most = before.iter().zip(&out).map(|(a, b)| (a[1] * a[3] - b[1] * b[3]).abs()).fold(0.0, f32::max);
                assert!(most < 0.12, "{}: {most} in frame {frame}", spec.name);
            }
        }
    }
}

/// An effect with its usual parameters, and with each of its choices.
fn chosen(spec: &EffectSpec) -> Vec<(String, BTreeMap<String, Param>)> {
    let mut all = vec![(spec.name.to_owned(), BTreeMap::new())];
    for param in spec.params {
        let ParamKind::Choice { options } = param.kind else { continue };
        all.extend(options.iter().map(|option| {
            let given = [(param.name.to_owned(), Param::Text((*option).to_owned()))].into();
            (format!("{}, {} {option}", spec.name, param.name), given)
        }));
    }
    all
}

#[test]
fn that_beats_are_counted_from_elsewhere_is_not_seen() {
    let x: Vec<f32> = (0..128).map(|i| (i % 16) as f32 + 0.5).collect();
    let y: Vec<f32> = (0..128).map(|i| (i / 16) as f32 + 0.5).collect();
    for (spec, (name, given)) in EFFECTS.iter().flat_map(|spec| chosen(spec).into_iter().map(move |one| (spec, one))) {
        // Bars begin elsewhere then.
        if name.contains(" bar") {
            continue;
        }
        let params = Params::compile(spec, &given, &[]).expect("right parameters");
        let lit = |moved: f64| {
            let mut effect = (spec.start)(7);
            let mut lit = Vec::new();
            for frame in 0..150 {
                let time = f64::from(frame) / 44.0;
                let seconds = if frame == 0 { 0.0 } else { 1.0 / 44.0 };
                let beat = time * TEMPO / 60.0 + if frame < 75 { 0.0 } else { moved };
                let (step, heard) = (Step { seconds, beats: seconds * TEMPO / 60.0 }, hearing(time));
                effect.advance(&params, &Moment::at(time, beat, step, &heard));
                let mut out = vec![CLEAR; 128];
                effect.light(&params, &Cells::on_plane(&x, &y, 16.0, 8.0), &mut out);
                lit.push(out);
            }
            lit
        };
        let still = lit(0.0);
        for moved in [13.0, -3.0] {
            for (frame, (one, other)) in still.iter().zip(lit(moved)).enumerate() {
                let same = one.iter().flatten().zip(other.iter().flatten()).all(|(a, b)| (a - b).abs() < 1e-3);
                assert!(same, "{name}, moved by {moved}: frame {frame}");
            }
        }
    }
}

#[test]
fn every_effect_has_its_golden_frames_on_a_line() {
    for spec in EFFECTS.iter().filter(|spec| !spec.turns_heads()) {
        let params = Params::compile(spec, &Default::default(), &[]).expect("right parameters");
        let mut effect = (spec.start)(7);
        for frame in 0..=66 {
            let time = f64::from(frame) / 44.0;
            let seconds = if frame == 0 { 0.0 } else { 1.0 / 44.0 };
            let heard = hearing(time);
            effect.advance(&params, &Moment::at(time, time * 2.0, Step { seconds, beats: seconds * 2.0 }, &heard));
        }
        // Along an order, and on an upright strip that is a quarter of a cycle later.
        let along: Vec<f32> = (0..32).map(|i| i as f32 + 0.5).collect();
        let flat = vec![0.5; 32];
        let mut lines = Vec::new();
        for (x, y, width, height, late) in [(&along, &flat, 32.0, 1.0, 0.0), (&flat, &along, 1.0, 32.0, 0.25)] {
            let mut out = vec![CLEAR; 32];
            effect.light(&params, &Cells { late, ..Cells::on_plane(x, y, width, height) }, &mut out);
            lines.push(golden(&out));
        }
        insta::assert_snapshot!(format!("{} on a line", spec.name), lines.join("\n\n"));
    }
}

#[test]
fn a_ripple_is_born_on_the_beat_and_moves_outward() {
    let spec = find("ripple").expect("it is there");
    let given = [
        ("born", Param::Text("beat".into())),
        ("length", Param::Number(4.0)),
        ("speed", Param::Text("1 beat".into())),
        ("x", Param::Number(0.0)),
    ];
    // The centre of the light on the middle rows, half a beat and almost a whole beat after one was born.
    let front = |seconds: f64| {
        let lit = light(spec, &given, seconds, 100.0);
        let row = &lit[64..80];
        row.iter().rposition(|c| c[3] > 0.5).unwrap_or(0)
    };
    assert!(front(0.95) > front(0.70), "{} and {}", front(0.95), front(0.70));
    assert!(light(spec, &given, 0.3, 100.0).iter().all(|c| c[3] == 0.0), "none before the first beat");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    #[test]
    fn light_is_never_out_of_range(seconds in 0f64..20.0, choice in any::<prop::sample::Index>(), extreme: bool) {
        for spec in EFFECTS {
            let given: Vec<(&str, Param)> = spec.params.iter().filter_map(|p| match p.kind {
                splimo_light::effect::ParamKind::Number { min, max, .. } => {
                    Some((p.name, Param::Number(f64::from(if extreme { max } else { min }))))
                }
                splimo_light::effect::ParamKind::Choice { options } => {
                    Some((p.name, Param::Text(options[choice.index(options.len())].into())))
                }
                _ => None,
            }).collect();
            for cell in light(spec, &given, seconds, 10.0) {
                prop_assert!(cell.iter().all(|c| (0.0..=1.0).contains(c)), "{}: {:?}", spec.name, cell);
            }
        }
    }
}

fn demo() -> Arc<Show> {
    Arc::new(file::read(LANTERN_QUAY).expect("a good show").show)
}

fn play(show: &Arc<Show>, script: &[(u32, EngineCommand)], ticks: u32) -> (Vec<u8>, Published) {
    let mut engine = Engine::new(show.clone());
    let mut frames = Vec::new();
    for tick in 0..ticks {
        let time = f64::from(tick) / 44.0;
        for (_, action) in script.iter().filter(|(at, _)| *at == tick) {
            engine.apply(action, time);
        }
        frames.extend_from_slice(&engine.tick(time, &Inputs { hearing: hearing(time), ..Inputs::default() }).slots);
    }
    let mut published = Published::default();
    engine.publish(&mut published);
    (frames, published)
}

#[test]
fn the_same_inputs_give_the_same_bytes() {
    let script = [
        (3, EngineCommand::FirePad(5)),
        (4, EngineCommand::Go),
        (50, EngineCommand::FirePad(3)),
        (55, EngineCommand::Tap),
        (80, EngineCommand::Master(60.0)),
    ];
    let (a, b) = (play(&demo(), &script, 150), play(&demo(), &script, 150));
    assert_eq!(a.0, b.0);
    assert!(a.0.iter().any(|&v| v > 100));
}

#[test]
fn an_armed_look_lands_on_the_bar_and_fades_in() {
    let show = demo();
    // 120 beats a minute: a bar ends at 2 s, which is tick 88; the fade of 2 beats is over at 3 s.
    let script = [(0, EngineCommand::FirePad(1)), (0, EngineCommand::Go), (60, EngineCommand::FirePad(4))];
    let armed = play(&show, &script, 85).1;
    assert_eq!(armed.snapshot.next_to_land().map(|a| (a.wish.look, a.lands_at)), Some((Some(3), 4.0)));
    assert_eq!(armed.snapshot.stage.iter().map(|s| s.look).collect::<Vec<_>>(), [0]);
    let fading = play(&show, &script, 110).1;
    assert_eq!(fading.snapshot.next_to_land(), None);
    assert_eq!(fading.snapshot.stage.iter().map(|s| (s.look, s.comes)).collect::<Vec<_>>(), [(3, true), (0, false)]);
    assert!((fading.snapshot.stage[0].weight - 0.48).abs() < 0.03, "{:?}", fading.snapshot.stage);
    let landed = play(&show, &script, 140).1;
    assert_eq!(landed.snapshot.stage.iter().map(|s| (s.look, s.weight)).collect::<Vec<_>>(), [(3, 1.0)]);
}

#[test]
fn what_is_armed_can_be_taken_back() {
    let script = [(0, EngineCommand::FirePad(2)), (10, EngineCommand::Disarm)];
    let published = play(&demo(), &script, 200).1;
    assert!(published.snapshot.queue.is_empty() && published.snapshot.stage.is_empty());
}

#[test]
fn blackout_is_dark_at_once_and_everything_goes_on_behind_it() {
    let show = demo();
    let script = [
        (0, EngineCommand::FirePad(1)),
        (0, EngineCommand::Go),
        (100, EngineCommand::Blackout),
        (120, EngineCommand::Blackout),
    ];
    let universes = 17 * 512;
    let dark = play(&show, &script, 101).0;
    // The heads keep where they point, and their dimmers what they rest at, behind the light: from slot 101 of universe 17 on.
    let heads = 16 * 512 + 100;
    let lights = dark[100 * universes..].iter().enumerate().filter(|(slot, _)| !(heads..heads + 30).contains(slot));
    assert!(lights.into_iter().all(|(_, &value)| value == 0));
    assert!(dark[100 * universes + heads..].iter().any(|&value| value > 0), "a head does not turn for a blackout");
    let (back, _) = play(&show, &script, 121);
    let (never, _) = play(&show, &script[..2], 121);
    assert_eq!(back[120 * universes..], never[120 * universes..]);
}

#[test]
fn pads_and_looks_that_do_not_exist_change_nothing() {
    let script = [
        (0, EngineCommand::FirePad(1000)),
        (1, EngineCommand::FireLook("No such look".into())),
        (2, EngineCommand::Go),
    ];
    let published = play(&demo(), &script, 10).1;
    assert!(published.snapshot.queue.is_empty() && published.snapshot.stage.is_empty());
}

#[test]
fn a_snapshot_can_be_told_to_another_process() {
    let published = play(&demo(), &[(0, EngineCommand::FirePad(1)), (0, EngineCommand::Go)], 60).1;
    let text = serde_json::to_string(&published.snapshot).expect("serialises");
    assert_eq!(serde_json::from_str::<splimo_engine::Snapshot>(&text).expect("deserialises"), published.snapshot);
}

/// The strings, of 16 all around a cone, that one thin bar lights on each of 12 rows.
fn wound(unrolled: bool, twist: f64) -> Vec<Vec<usize>> {
    let shape = Shape::Cone { strings: 16, cells: 12, degrees: 360.0, width: 12.0, unrolled };
    let wiring = Wiring { along: Run::Columns, ..Wiring::default() };
    let mut show = Show::empty("Cone");
    show.fixtures.push(Fixture { wiring, ..Fixture::new("Cone", "rgb", shape).at(20.0, 20.0) });
    let map = LayerMap::compile(&Layer::new("helix"), &show, &Rig::compile(&show));
    let given = [("bars", 1.0), ("width", 12.0), ("twist", twist)].map(|(k, v)| (k.to_owned(), Param::Number(v)));
    let spec = find("helix").expect("it is there");
    let params = Params::compile(spec, &given.into(), &[]).expect("right parameters");
    let piece = map.pieces[0];
    let cells = Cells {
        around: &map.around,
        lights_around: map.lights_around,
        ..Cells::on_plane(&map.x, &map.y, piece.width, piece.height)
    };
    let mut out = vec![CLEAR; map.x.len()];
    (spec.start)(1).light(&params, &cells, &mut out);
    let lit = |row: usize| (0..16).filter(|string| out[string * 12 + row][3] > 0.4).collect();
    (0..12).map(lit).collect()
}

#[test]
fn a_helix_winds_around_a_cone_one_way_seen_from_the_front_and_cut_open() {
    for twist in [1.0, -1.0, 2.0] {
        let rows = wound(false, twist);
        assert_eq!(rows, wound(true, twist), "twist {twist}");
        // From row to row the bar goes on around, also from the last string to the first.
        let middle = |lit: &Vec<usize>| -> f64 {
            let turns =
                |part: fn(f64) -> f64| lit.iter().map(|s| part(*s as f64 / 16.0 * std::f64::consts::TAU)).sum::<f64>();
            turns(f64::sin).atan2(turns(f64::cos)) / std::f64::consts::TAU
        };
        for pair in rows.windows(2) {
            assert!(!pair[0].is_empty() && pair[0].len() <= 3, "{rows:?}");
            let step = (middle(&pair[1]) - middle(&pair[0]) + 0.5).rem_euclid(1.0) - 0.5;
            assert!((step + twist / 12.0).abs() < 0.04, "twist {twist}: a step of {step} in {rows:?}");
        }
    }
}

#[test]
fn words_that_are_stopped_while_they_are_away_stand_in_the_middle() {
    let spec = find("marquee").expect("it is there");
    let x: Vec<f32> = (0..320).map(|i| (i % 40) as f32 + 0.5).collect();
    let y: Vec<f32> = (0..320).map(|i| (i / 40) as f32 + 0.5).collect();
    let params = |speed: &str| {
        let given = [("text", "HI"), ("speed", speed)].map(|(k, v)| (k.to_owned(), Param::Text(v.to_owned())));
        Params::compile(spec, &given.into(), &[]).expect("right parameters")
    };
    let mut effect = (spec.start)(1);
    let mut lit = |params: &Params, time: f64, seconds: f64| {
        effect.advance(params, &Moment::at(time, time, Step { seconds, beats: seconds }, &Hearing::SILENCE));
        let mut out = vec![CLEAR; 320];
        effect.light(params, &Cells::on_plane(&x, &y, 40.0, 8.0), &mut out);
        (0..320).filter(|i| out[*i][3] > 0.5).map(|i| i % 40).collect::<Vec<_>>()
    };
    // Almost round: they are away.
    assert!(lit(&params("10 s"), 0.0, 9.95).is_empty());
    let there = lit(&params("stopped"), 1.0, 0.02);
    let (left, right) = (there.iter().min().expect("light"), there.iter().max().expect("light"));
    assert!((left + right).abs_diff(39) <= 1, "{left} to {right}");
}

#[test]
fn words_stand_where_they_are_aligned_and_the_room_behind_the_last_letter_moves_nothing() {
    let spec = find("marquee").expect("it is there");
    let x: Vec<f32> = (0..1000).map(|i| (i % 50) as f32 + 0.5).collect();
    let y: Vec<f32> = (0..1000).map(|i| (i / 50) as f32 + 0.5).collect();
    // The columns and the rows that are lit, from the first to the last.
    let lit = |across: &str, down: &str, spacing: f64, weight: &str| {
        let words = [("text", "HOH"), ("speed", "stopped"), ("across", across), ("down", down), ("weight", weight)];
        let mut given = BTreeMap::from(words.map(|(k, v)| (k.to_owned(), Param::Text(v.to_owned()))));
        given.extend([("size", 8.0), ("spacing", spacing)].map(|(k, v)| (k.to_owned(), Param::Number(v))));
        let params = Params::compile(spec, &given, &[]).expect("right parameters");
        let mut effect = (spec.start)(1);
        effect.advance(&params, &Moment::at(0.0, 0.0, Step { seconds: 0.02, beats: 0.04 }, &Hearing::SILENCE));
        let mut out = vec![CLEAR; 1000];
        effect.light(&params, &Cells::on_plane(&x, &y, 50.0, 20.0), &mut out);
        let on: Vec<usize> = (0..1000).filter(|i| out[*i][3] > 0.4).collect();
        let ends =
            |of: fn(&usize) -> usize| [on.iter().map(of).min(), on.iter().map(of).max()].map(Option::unwrap_or_default);
        (ends(|i| i % 50), ends(|i| i / 50), on.len())
    };
    for spacing in [0.0, 25.0, 100.0] {
        let ([left, right], [top, bottom], _) = lit("centre", "middle", spacing, "regular");
        assert!((left + right).abs_diff(49) <= 1, "{spacing}: {left} to {right}");
        assert!((top + bottom).abs_diff(19) <= 1, "{spacing}: {top} to {bottom}");
        assert_eq!(lit("left", "top", spacing, "regular").0[0], 0);
        assert_eq!(lit("right", "bottom", spacing, "regular").0[1], 49);
        assert_eq!(lit("right", "top", spacing, "regular").1[0], 0);
        assert!(lit("right", "bottom", spacing, "regular").1[1] >= 18);
    }
    assert!(lit("centre", "middle", 0.0, "bold").2 > lit("centre", "middle", 0.0, "regular").2 + 10);
}
