//! The engine as a whole.

use super::*;

#[test]
fn tiles_are_the_same_whoever_lights_them() {
    let look = |name: &str, effect: &str| {
        format!("[[looks]]\nname = \"{name}\"\n[[looks.layers]]\neffect = \"{effect}\"\nopacity = 0.7\n")
    };
    let text = format!(
        "version = 1\nname = \"Tiles\"\n[[fixtures]]\nname = \"Wall\"\nprofile = \"rgb\"\naddress = \"1.1\"\nshape = {{ grid = {{ columns = 120, rows = 90 }} }}\nx = 60.0\ny = 45.0\n{}{}",
        look("First", "plasma"),
        look("Second", "rain")
    );
    let mut engine = Engine::new(Arc::new(splimo_show::file::read_unchecked(&text).expect("a good show")));
    engine.cut_to(0);
    engine.apply(&EngineCommand::Master(80.0), 0.0);
    engine.tick(0.0, &Inputs::default());
    engine.apply(&EngineCommand::FirePad(2), 0.1);
    engine.apply(&EngineCommand::Go, 0.1);
    for tick in 1..12 {
        engine.tick(f64::from(tick) / 44.0, &Inputs::default());
        let one = engine.now.frame.light.clone();
        engine.now.frame.light.fill([9.0; 4]);
        let level = engine.playing.master;
        let scene = Scene {
            tiers: &engine.playing.tiers,
            overlay: &engine.overlay,
            groups: &[],
            recolour: &Recolour::default(),
            level,
        };
        renderer::light_all(&mut engine.now, &scene);
        assert!(engine.now.frame.light == one, "tick {tick}");
    }
    assert_eq!(engine.playing.tiers.looks().count(), 2, "the fade is under way");
}

#[test]
fn the_first_look_of_a_show_that_had_none_is_seen_at_once() {
    let looks = |names: &[&str]| {
        let looks: String = names.iter().map(|name| format!("[[looks]]\nname = \"{name}\"\n")).collect();
        Arc::new(
            splimo_show::file::read_unchecked(&format!("version = 1\nname = \"Bare\"\n{looks}")).expect("a good show"),
        )
    };
    let mut engine = Engine::new(looks(&[]));
    engine.tick(0.0, &Inputs::default());
    let adopt = |engine: &mut Engine, names: &[&str], edition: u64| {
        let show = looks(names);
        let rig = Arc::new(Rig::compile(&show));
        drop(engine.adopt(Box::new(Prepared::new(show, rig, edition))));
        engine.playing.tiers.looks().collect::<Vec<_>>().len()
    };
    assert_eq!(adopt(&mut engine, &[], 1), 0);
    assert_eq!(adopt(&mut engine, &["First"], 2), 1);
    let seen = |engine: &Engine| engine.playing.tiers.looks().collect::<Vec<_>>() == [1];
    assert_eq!(adopt(&mut engine, &["Second", "First"], 3), 1);
    assert!(seen(&engine), "and stays where others come before it");
}

#[test]
fn a_control_drives_the_phase_of_an_effect_and_of_looks_in_turn() {
    let text = |phase: &str, extra: &str| {
        format!(
            "version = 1\nname = \"Phase\"\n[[fixtures]]\nname = \"Bar\"\nprofile = \"rgb\"\naddress = \"1.1\"\nshape = {{ line = {{ cells = 30 }} }}\nx = 30.0\ny = 20.0\n[[looks]]\nname = \"Driven\"\n[[looks.layers]]\n{phase}{extra}\n[[looks]]\nname = \"Red\"\nlayers = [{{ effect = \"solid\", params = {{ colours = [\"red\"] }} }}]\n[[looks]]\nname = \"Blue\"\nlayers = [{{ effect = \"solid\", params = {{ colours = [\"blue\"] }} }}]\n"
        )
    };
    let light = |text: &str, control: f32| {
        let mut engine = Engine::new(Arc::new(splimo_show::file::read_unchecked(text).expect("a good show")));
        engine.cut_to(0);
        engine.apply(&EngineCommand::Control(splimo_show::command::ControlLevel { control: 3, percent: control }), 0.0);
        for tick in 0..4 {
            engine.tick(f64::from(tick) * 0.02, &Inputs::default());
        }
        engine.now.frame.light.clone()
    };
    let driven = "modulators = [{ param = \"phase\", source = \"control\", number = 3, depth = 100.0 }]";
    let gradient = "effect = \"gradient\"\n";
    let (at, still) = (light(&text(gradient, driven), 40.0), light(&text(gradient, "phase = 0.4"), 0.0));
    let apart =
        at.iter().zip(&still).flat_map(|(a, b)| a.iter().zip(b)).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
    assert!(apart < 0.01, "{apart}");
    assert_ne!(still, light(&text(gradient, driven), 0.0));
    let looks = "effect = \"looks\"\nparams = { looks = [\"Red\", \"Blue\"], speed = \"stopped\", overlap = 0.0 }\n";
    let blue = |light: &[splimo_base::colour::Rgba]| light[0][2] > light[0][0];
    assert!(!blue(&light(&text(looks, driven), 40.0)), "in the first step");
    assert!(blue(&light(&text(looks, driven), 100.0)), "a whole step on");
}

#[test]
fn layers_that_change_places_go_on_where_they_are() {
    let look = |effects: [&str; 2]| {
        let layers: String = effects
            .iter()
            .map(|effect| format!("[[looks.layers]]\neffect = \"{effect}\"\nparams = {{ speed = \"8 s\" }}\n"))
            .collect();
        let text = format!("version = 1\nname = \"Order\"\n[[looks]]\nname = \"One\"\n{layers}");
        Arc::new(splimo_show::file::read_unchecked(&text).expect("a good show"))
    };
    let mut engine = Engine::new(look(["plasma", "rainbow"]));
    engine.cut_to(0);
    engine.tick(0.0, &Inputs::default());
    engine.tick(2.0, &Inputs::default());
    let show = look(["rainbow", "plasma"]);
    let rig = Arc::new(Rig::compile(&show));
    drop(engine.adopt(Box::new(Prepared::new(show, rig, 1))));
    engine.tick(2.0, &Inputs::default());
    let mut published = Published::default();
    engine.publish(&mut published);
    assert!(
        published.snapshot.phases.iter().all(|phase| (phase.turns - 0.25).abs() < 1e-6),
        "{:?}",
        published.snapshot.phases
    );
}

#[test]
fn sudden_are_beats_onsets_and_what_was_asked_for() {
    let text = "version = 1\nname = \"One\"\n[[looks]]\nname = \"One\"\n";
    let mut engine = Engine::new(Arc::new(splimo_show::file::read_unchecked(text).expect("a good show")));
    let bpm = engine.clock().bpm();
    let mut tick = |frame: u32, onsets: u64, asked: bool| {
        if asked {
            engine.apply(&EngineCommand::Blackout, f64::from(frame) / 100.0);
        }
        let hearing = Hearing { onsets, ..Hearing::default() };
        engine.tick(f64::from(frame) / 100.0, &Inputs { hearing, ..Inputs::default() });
        (engine.is_sudden(), engine.clock().beat().floor())
    };
    let (mut beat, mut beats) = (tick(0, 0, false).1, 0);
    for frame in 1..400 {
        let (onset, asked) = (frame % 37 == 0, frame % 53 == 0);
        let (sudden, now) = tick(frame, u64::from(frame / 37), asked);
        assert_eq!(sudden, onset || asked || now != beat, "frame {frame}");
        beats += u32::from(now != beat);
        beat = now;
    }
    assert!(f64::from(beats) >= (4.0 * bpm / 60.0).floor() - 1.0, "{beats}");
}

#[test]
fn what_was_hit_fades_within_a_beat_for_whoever_looks() {
    let text = "version = 1\nname = \"One\"\n[settings]\ntempo = 120.0\n";
    let mut engine = Engine::new(Arc::new(splimo_show::file::read_unchecked(text).expect("a good show")));
    let mut published = Published::default();
    let mut told = |frame: u32, hits: [u64; 3]| {
        let hearing = Hearing { hits, ..Hearing::default() };
        engine.tick(f64::from(frame) / 100.0, &Inputs { hearing, ..Inputs::default() });
        engine.publish(&mut published);
        published.snapshot.hits
    };
    assert_eq!(told(0, [0; 3]), [0.0; 3]);
    assert_eq!(told(10, [1, 0, 0]), [1.0, 0.0, 0.0]);
    let [kick, snare, hat] = told(35, [1, 0, 1]);
    assert!((kick - 0.5).abs() < 1e-4 && snare == 0.0 && hat == 1.0, "{kick} {snare} {hat}");
    assert_eq!(told(61, [1, 0, 1])[0], 0.0);
}

/// Two looks, of which the second is to land with a phrase of two bars; at 120 beats a minute, from 0.
fn phrased(boundary: &str) -> Engine {
    let text = format!(
        "version = 1\nname = \"Two\"\n[settings]\ntempo = 120.0\nphrase_bars = 2\nlands = \"{boundary}\"\n[[looks]]\nname = \"One\"\n[[looks]]\nname = \"Two\"\n"
    );
    Engine::new(Arc::new(splimo_show::file::read_unchecked(&text).expect("a good show")))
}

/// The beat at which the next look lands, from `start` seconds on.
fn landing(engine: &mut Engine, start: f64) -> f64 {
    for tick in 0..2000 {
        let landings = engine.conductor.counts.landings;
        engine.tick(start + f64::from(tick) / 100.0, &Inputs::default());
        if engine.conductor.counts.landings > landings {
            return engine.clock().beat();
        }
    }
    f64::NAN
}

#[test]
fn what_waits_for_a_bar_or_a_phrase_lands_where_somebody_says_it_is() {
    // At 1.2 s it is 0.4 behind beat 2, and at 1.4 s 0.2 before beat 3.
    for (at, boundary, action, lands) in [
        (1.2, "phrase", EngineCommand::PhraseHere, 0.4),
        (1.2, "bar", EngineCommand::BarHere, 0.4),
        (1.2, "bar", EngineCommand::PhraseHere, 0.4),
        (1.4, "phrase", EngineCommand::PhraseHere, 0.0),
        (1.4, "bar", EngineCommand::BarHere, 0.0),
        (1.4, "now", EngineCommand::BarHere, -0.2),
    ] {
        let mut engine = phrased(boundary);
        engine.tick(0.0, &Inputs::default());
        engine.tick(at, &Inputs::default());
        engine.apply(&EngineCommand::FirePad(2), at);
        engine.apply(&action, at);
        let landed = landing(&mut engine, at).rem_euclid(8.0);
        let off = (landed - lands).rem_euclid(4.0);
        assert!(off.min(4.0 - off) < 0.03, "{action:?} at {at} s for a {boundary}: {landed}");
    }
    // The first bar of a phrase is one of its bars, but another of its bars is no phrase.
    let mut engine = phrased("phrase");
    engine.tick(0.0, &Inputs::default());
    engine.tick(2.6, &Inputs::default());
    engine.apply(&EngineCommand::FirePad(2), 2.6);
    engine.apply(&EngineCommand::BarHere, 2.6);
    let landed = landing(&mut engine, 2.6);
    assert!((landed - 8.0).abs() < 0.03, "{landed}");
}

#[test]
fn what_waits_for_a_phrase_lands_with_it_when_phrases_become_longer() {
    let mut engine = phrased("phrase");
    engine.tick(0.0, &Inputs::default());
    engine.tick(1.0, &Inputs::default());
    engine.apply(&EngineCommand::FirePad(2), 1.0);
    let mut show = Show::clone(&engine.now.show);
    show.settings.phrase_bars = 4;
    engine.adopt_settings(Arc::new(show), 1);
    assert!((landing(&mut engine, 1.0) - 16.0).abs() < 0.03);
    // The same where more was edited.
    engine.apply(&EngineCommand::FirePad(1), 9.0);
    let mut show = Show::clone(&engine.now.show);
    show.settings.phrase_bars = 3;
    let show = Arc::new(show);
    drop(engine.adopt(Box::new(Prepared::new(show.clone(), Arc::new(Rig::compile(&show)), 2))));
    assert!((landing(&mut engine, 9.0) - 24.0).abs() < 0.03);
}
