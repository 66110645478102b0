use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use splimo_document::Command;
use splimo_document::making;
use splimo_show::command::EngineCommand;
use splimo_show::{Area, Blend, ModulatorKind, Param, Repeat, Show, Span};

use crate::tests::Scene;

/// The demo on the view Looks, with Undertow chosen, which is on the lights.
fn scene() -> Scene {
    let mut scene = Scene::demo();
    scene.screen(158, 48);
    press(&mut scene, KeyCode::F(4), KeyModifiers::NONE);
    scene.screen(158, 48);
    scene.type_keys("↓↓");
    scene.screen(158, 48);
    scene
}

fn press(scene: &mut Scene, code: KeyCode, with: KeyModifiers) {
    scene.key(KeyEvent::new(code, with));
}

fn tab(scene: &mut Scene) {
    press(scene, KeyCode::Tab, KeyModifiers::NONE);
}

fn show(scene: &Scene) -> Show {
    Show::clone(scene.document.kept())
}

/// Presses keys one by one and draws between them, as a screen does. Returns how many they were.
fn play(scene: &mut Scene, keys: &str) -> usize {
    for key in keys.chars() {
        scene.type_keys(&key.to_string());
        scene.screen(158, 48);
    }
    keys.chars().count()
}

#[test]
fn looks_at_their_three_sizes() {
    let mut scene = scene();
    for (width, height) in [(158, 48), (120, 36), (80, 24)] {
        insta::assert_snapshot!(format!("looks_{width}x{height}"), scene.screen(width, height));
    }
}

#[test]
fn every_sheet_at_two_sizes() {
    for (name, keys) in [
        ("effects", "a"),
        ("colours", "c"),
        ("palette", "p"),
        ("modulator", "m"),
        ("area", "r"),
        ("target", "t"),
        ("variations", "v"),
        ("freeze", "z"),
        ("many", "g"),
        ("name", "e"),
        ("spread", "w"),
    ] {
        let mut scene = scene();
        play(&mut scene, keys);
        for (width, height) in [(158, 48), (80, 24)] {
            insta::assert_snapshot!(format!("looks_{name}_{width}x{height}"), scene.screen(width, height));
        }
        play(&mut scene, "⎋");
        assert_eq!(scene.document.kept(), scene.document.shown(), "{name} leaves nothing behind");
    }
}

#[test]
fn from_an_empty_look_to_three_layers_in_under_forty_keys() {
    let mut scene = scene();
    let before = scene.document.kept().looks.len();
    let mut keys = play(&mut scene, "n");
    keys += play(&mut scene, "agra⏎");
    keys += play(&mut scene, "asw⏎");
    keys += play(&mut scene, "aspa⏎");
    keys += play(&mut scene, "m⏎");
    keys += play(&mut scene, "p↓⏎");
    keys += play(&mut scene, "r→⏎");
    keys += play(&mut scene, "ss");
    // What is nudged is kept with the next key.
    keys += play(&mut scene, "↓");
    assert!(keys < 40, "{keys}");
    let show = show(&scene);
    let look = &show.looks[3];
    assert_eq!((show.looks.len(), look.name.as_str()), (before + 1, "New look"));
    let effects: Vec<&str> = look.layers.iter().map(|l| l.effect.as_str()).collect();
    assert_eq!(effects, ["gradient", "sweep", "sparkle"]);
    let top = &look.layers[2];
    assert_eq!((top.modulators.len(), top.modulators[0].param.as_str()), (1, "colours hue"));
    assert_eq!(top.params["colours"], Param::List(vec!["{Foam}".into()]));
    assert_eq!(making::name_of_area(top.area), Some("left half"));
    assert_eq!(top.span, Span::EachFixture);
    // And all the way back.
    while scene.document.unsaved() {
        press(&mut scene, KeyCode::Char('z'), KeyModifiers::CONTROL);
        scene.screen(158, 48);
    }
    assert_eq!(scene.document.kept().looks.len(), before);
}

#[test]
fn values_are_nudged_typed_and_refused() {
    let mut scene = scene();
    // To the lines of the pulse of Undertow, and down to its decay.
    tab(&mut scene);
    tab(&mut scene);
    play(&mut scene, "↓↓↓→→→");
    let layer = |scene: &Scene| scene.document.shown().looks[2].layers[2].clone();
    assert_eq!(layer(&scene).params["decay"], Param::Number(1.0), "it is seen at once");
    assert_eq!(scene.document.kept().looks[2].layers[2].params["decay"], Param::Number(0.7), "and not kept yet");
    play(&mut scene, "↓12⏎");
    assert_eq!(scene.document.kept().looks[2].layers[2].params["decay"], Param::Number(1.0));
    assert!(scene.screen(158, 48).contains("type a number from 0 to 4"), "12 beats of spread are too many");
    play(&mut scene, "2⏎");
    assert_eq!(layer(&scene).params["spread"], Param::Number(2.0));
    press(&mut scene, KeyCode::Right, KeyModifiers::SHIFT);
    play(&mut scene, "↑");
    assert_eq!(layer(&scene).params["spread"], Param::Number(3.0), "Shift is coarse");
    press(&mut scene, KeyCode::Char('z'), KeyModifiers::CONTROL);
    assert_eq!(layer(&scene).params["spread"], Param::Number(2.0), "all nudges of a line are one step");
}

#[test]
fn what_is_edited_blind_does_not_go_out_until_it_is_kept() {
    let mut scene = scene();
    tab(&mut scene);
    play(&mut scene, "xxb");
    play(&mut scene, "x");
    assert!(scene.screen(158, 48).contains("BLIND"));
    assert_eq!(scene.document.shown(), scene.document.kept());
    assert!(scene.document.kept().looks[2].layers.iter().all(|layer| !layer.mute));
    // Taken back and made again, still blind.
    press(&mut scene, KeyCode::Char('z'), KeyModifiers::CONTROL);
    assert!(!scene.screen(158, 48).contains("edited blind"));
    press(&mut scene, KeyCode::Char('y'), KeyModifiers::CONTROL);
    assert!(scene.screen(158, 48).contains("edited blind"));
    // What went before is live: it is not reached.
    let live = scene.document.kept().clone();
    for _ in 0..4 {
        press(&mut scene, KeyCode::Char('z'), KeyModifiers::CONTROL);
    }
    assert_eq!(*scene.document.kept(), live);
    assert!(scene.screen(158, 48).contains("nothing to undo, blind"));
    press(&mut scene, KeyCode::Char('y'), KeyModifiers::CONTROL);
    play(&mut scene, "bk");
    assert!(scene.document.kept().looks[2].layers[2].mute);
    assert!(scene.screen(158, 48).contains("live: on the lights now"));
    play(&mut scene, "bxbd");
    assert!(scene.document.kept().looks[2].layers[2].mute, "dropped");
}

#[test]
fn layers_are_ordered_copied_left_out_and_alone() {
    let mut scene = scene();
    tab(&mut scene);
    play(&mut scene, "[");
    let effects = |scene: &Scene| -> Vec<String> {
        scene.document.kept().looks[2].layers.iter().map(|l| l.effect.clone()).collect()
    };
    assert_eq!(effects(&scene), ["gradient", "pulse", "ripple"]);
    play(&mut scene, "]d");
    assert_eq!(effects(&scene), ["gradient", "ripple", "pulse", "pulse"]);
    play(&mut scene, "o");
    assert!(scene.document.kept().looks[2].layers.iter().any(|l| l.solo));
    press(&mut scene, KeyCode::Delete, KeyModifiers::NONE);
    assert_eq!(effects(&scene).len(), 3);
    // The motion of the topmost onto all the others.
    play(&mut scene, "y");
    press(&mut scene, KeyCode::Char('a'), KeyModifiers::CONTROL);
    play(&mut scene, "Yp");
    let targets: Vec<usize> = scene.document.kept().looks[2].layers.iter().map(|l| l.target.len()).collect();
    assert!(targets.iter().all(|count| *count == targets[2]), "{targets:?}");
}

#[test]
fn several_looks_are_changed_and_retargeted_together() {
    let mut scene = scene();
    press(&mut scene, KeyCode::Down, KeyModifiers::SHIFT);
    press(&mut scene, KeyCode::Down, KeyModifiers::SHIFT);
    scene.screen(158, 48);
    play(&mut scene, "g→↓⏎");
    let kept = show(&scene);
    let layers = || kept.looks[2..5].iter().flat_map(|look| &look.layers);
    assert!(layers().all(|layer| layer.blend == Blend::Normal));
    play(&mut scene, "Tsail⏎");
    let kept = show(&scene);
    assert!(kept.looks[2..5].iter().flat_map(|look| &look.layers).all(|layer| layer.target == ["Sail"]));
    assert_ne!(kept.looks[1].layers[0].target, ["Sail"]);
    press(&mut scene, KeyCode::Char('z'), KeyModifiers::CONTROL);
    assert_ne!(scene.document.kept().looks[4].layers[0].target, ["Sail"], "one step for all");
}

#[test]
fn the_palette_changes_every_look_that_uses_it() {
    let mut scene = scene();
    // The second entry is Foam; its red is typed.
    play(&mut scene, "p↓e");
    assert!(scene.screen(158, 48).contains("Foam, wherever it is used"));
    play(&mut scene, "↓↓↓↓↓16⏎");
    assert_eq!(scene.document.kept().palette[1].colours, ["#10fbff"]);
    play(&mut scene, "p↓");
    press(&mut scene, KeyCode::Delete, KeyModifiers::NONE);
    assert!(scene.screen(158, 48).contains("is used by look"), "what is used cannot go");
    play(&mut scene, "⎋");
    // A new one out of the colours of the layer.
    play(&mut scene, "pnSpray⏎");
    assert!(scene.document.kept().palette.iter().any(|swatch| swatch.name == "Spray"));
}

#[test]
fn a_modulator_is_made_changed_and_taken_away() {
    let mut scene = scene();
    tab(&mut scene);
    play(&mut scene, "m");
    play(&mut scene, "formula↓↓↓↓");
    assert!(scene.screen(158, 48).contains("formula"));
    let modulators = |scene: &Scene| scene.document.kept().looks[2].layers[2].modulators.clone();
    // A wrong formula is told with its column, and nothing is kept.
    play(&mut scene, "⎋m");
    for _ in 0..2 {
        play(&mut scene, "form");
    }
    play(&mut scene, "↓↓↓sin(beat⏎");
    let screen = scene.screen(158, 48);
    assert!(screen.contains("column 9") || modulators(&scene).is_empty(), "{screen}");
    play(&mut scene, "⎋");
    assert!(modulators(&scene).is_empty());
    play(&mut scene, "m⏎");
    assert_eq!(modulators(&scene)[0].source.kind(), ModulatorKind::Sine);
    play(&mut scene, "mnoth⏎");
    assert!(modulators(&scene).is_empty());
}

#[test]
fn what_is_on_the_lights_is_frozen_both_ways() {
    let mut scene = scene();
    let before = scene.document.kept().looks.len();
    play(&mut scene, "zs");
    let kept = show(&scene);
    let still = kept.looks.iter().find(|look| look.name == "Undertow still").expect("it is there");
    let gradient = &still.layers[0];
    assert_eq!(gradient.params["speed"], Param::Text("stopped".into()));
    assert!(gradient.phase > 0.0);
    play(&mut scene, "zc");
    let kept = show(&scene);
    let held = kept.looks.iter().find(|look| look.name == "Undertow held").expect("it is there");
    assert_eq!((kept.looks.len(), held.layers[0].effect.as_str()), (before + 2, "still"));
    assert!(held.layers[0].lights.len() > 40 && held.layers[0].lights["Lantern"].len() > 100);
}

#[test]
fn looks_are_found_named_and_taken_out() {
    let mut scene = scene();
    play(&mut scene, "fstrobe⏎");
    let screen = scene.screen(158, 48);
    assert!(screen.contains("Flashbulbs") && screen.contains("White Squall") && !screen.contains("Moonrise"));
    play(&mut scene, "eBlitz⏎");
    assert!(scene.document.kept().looks.iter().any(|look| look.name == "Blitz"));
    play(&mut scene, "⎋");
    let before = scene.document.kept().looks.len();
    press(&mut scene, KeyCode::Delete, KeyModifiers::NONE);
    assert_eq!(scene.document.kept().looks.len(), before - 1);
    press(&mut scene, KeyCode::Char('z'), KeyModifiers::CONTROL);
    assert_eq!(scene.document.kept().looks.len(), before);
    play(&mut scene, "l");
    let arms = |command: &Command| matches!(command, Command::Engine(EngineCommand::FireLook(_)));
    assert!(scene.asked.iter().any(arms));
}

#[test]
fn two_colours_are_typed_and_mirrored_and_go_on_from_there() {
    let mut scene = scene();
    let top = |scene: &Scene| show(scene).looks[2].layers.last().expect("a layer").clone();
    let layers = show(&scene).looks[2].layers.len();
    play(&mut scene, "wr↓3200 K↓→⏎");
    let layer = top(&scene);
    assert_eq!((layer.effect.as_str(), &layer.params["form"]), ("gradient", &Param::Text("mirrored".into())));
    assert_eq!(layer.params["colours"], Param::List(vec!["red".into(), "3200 K".into()]), "a beginning is completed");
    // The same key goes on with the layer that has two colours: it moves, and the second takes three quarters.
    play(&mut scene, "w↓↓↓→→→↓75↓40↓2⏎");
    let layer = top(&scene);
    assert_eq!(layer.params["colours"], Param::List(vec!["red x0.5".into(), "3200 K x1.5".into()]));
    assert_eq!(layer.params["speed"], Param::Text("8 bars".into()));
    assert_eq!([&layer.params["sharpness"], &layer.params["repeats"]], [&Param::Number(40.0), &Param::Number(2.0)]);
    assert_eq!(show(&scene).looks[2].layers.len(), layers + 1, "one layer in all");
    play(&mut scene, "w");
    let screen = scene.screen(158, 48);
    assert!(screen.contains("first            red") && screen.contains("of the second    75  %"), "{screen}");
    play(&mut scene, "notacolour⏎");
    let screen = scene.screen(158, 48);
    assert!(screen.contains("\"notacolour\" is not a colour"), "{screen}");
    assert_eq!(top(&scene).params["colours"], layer.params["colours"], "what was there stays");
}

#[test]
fn colours_are_written_by_name_and_by_temperature_wherever_they_are_chosen() {
    let mut scene = scene();
    play(&mut scene, "c");
    for _ in 0..8 {
        press(&mut scene, KeyCode::Down, KeyModifiers::NONE);
    }
    play(&mut scene, "hot pink⏎");
    let colours = show(&scene).looks[2].layers.last().map(|layer| layer.params["colours"].clone());
    assert!(matches!(&colours, Some(Param::List(list)) if list[0].starts_with("#ff69b4")), "{colours:?}");
}

#[test]
fn a_layer_is_stepped_and_its_phase_has_a_modulator() {
    let mut scene = scene();
    tab(&mut scene);
    play(&mut scene, "uU");
    let stepped: Vec<&Command> = scene
        .asked
        .iter()
        .filter(|c| matches!(c, Command::Engine(EngineCommand::StepForward(_) | EngineCommand::StepBack(_))))
        .collect();
    assert_eq!(stepped.len(), 2, "{stepped:?}");
    tab(&mut scene);
    // The last line is the phase.
    play(&mut scene, &"↓".repeat(30));
    play(&mut scene, "m⏎");
    let modulators = show(&scene).looks[2].layers.last().map(|layer| layer.modulators.clone()).unwrap_or_default();
    assert_eq!(modulators.last().map(|m| (m.param.as_str(), m.depth)), Some(("phase", 100.0)));
}

#[test]
fn a_region_is_made_shared_and_changed_in_one_place() {
    let mut scene = scene();
    let layers = |scene: &Scene| show(scene).looks[2].layers.clone();
    tab(&mut scene);
    // A new region on the top layer, by keys: above the area is the region.
    play(&mut scene, "r↑");
    play(&mut scene, "a new");
    play(&mut scene, "↓Left wing↓↓↓10↓20↓30↓40⏎");
    let region = show(&scene).regions.first().cloned().expect("a region");
    assert_eq!((region.name.as_str(), region.of.as_str()), ("Left wing", ""));
    assert_eq!(region.area, Area { x: 10.0, y: 20.0, width: 30.0, height: 40.0 });
    assert_eq!(layers(&scene)[2].region, "Left wing");
    assert!(scene.screen(158, 48).contains("region Left wing"), "{}", scene.screen(158, 48));
    // Another layer takes it, and changes it for both.
    play(&mut scene, "↓r↑left⏎");
    assert_eq!(layers(&scene)[1].region, "Left wing");
    play(&mut scene, "r");
    let screen = scene.screen(158, 48);
    assert!(screen.contains("the region Left wing, in percent; 2 layers share it"), "{screen}");
    play(&mut scene, "↓50⏎");
    assert_eq!(show(&scene).regions[0].area.x, 50.0);
    assert_eq!(layers(&scene).iter().filter(|layer| layer.region == "Left wing").count(), 2);
    // It is not taken out while a layer has it.
    play(&mut scene, "r↑↑↑");
    press(&mut scene, KeyCode::Delete, KeyModifiers::NONE);
    assert_eq!(show(&scene).regions.len(), 1);
    assert!(scene.screen(158, 48).contains("is used by look Undertow"), "{}", scene.screen(158, 48));
    // A layer leaves it with a preset of its own.
    play(&mut scene, "of this⏎");
    assert_eq!(layers(&scene)[1].region, "");
}

#[test]
fn a_region_is_drawn_with_the_mouse() {
    use ratatui::crossterm::event::{MouseButton, MouseEvent, MouseEventKind};
    let mut scene = scene();
    tab(&mut scene);
    play(&mut scene, "r↑");
    play(&mut scene, "a new");
    let mouse = |scene: &mut Scene, kind, column, row| {
        scene.mouse(MouseEvent { kind, column, row, modifiers: KeyModifiers::NONE });
        scene.screen(158, 48);
    };
    // The stage is to the right of column 86.
    mouse(&mut scene, MouseEventKind::Down(MouseButton::Right), 100, 20);
    mouse(&mut scene, MouseEventKind::Drag(MouseButton::Right), 120, 30);
    mouse(&mut scene, MouseEventKind::Up(MouseButton::Right), 120, 30);
    play(&mut scene, "⏎");
    let region = show(&scene).regions.first().cloned().expect("a region");
    let Area { x, y, width, height } = region.area;
    assert!(x > 5.0 && y > 5.0 && (5.0..60.0).contains(&width) && (5.0..60.0).contains(&height), "{region:?}");
    assert_eq!(show(&scene).looks[2].layers[2].region, region.name);
}

#[test]
fn repeats_and_offsets_are_lines_as_well() {
    let mut scene = scene();
    tab(&mut scene);
    tab(&mut scene);
    // From the bottom up: phase, each later, repeat, area.
    play(&mut scene, &"↓".repeat(30));
    play(&mut scene, "25⏎↑→→→↑→↑→↑");
    let layer = scene.document.kept().looks[2].layers[2].clone();
    assert_eq!((layer.phase, layer.later, layer.repeat), (0.25, 3.0, Repeat::Mirrored));
    assert_ne!(layer.area, Area::WHOLE);
}

#[test]
fn an_empty_show_says_what_to_do() {
    let mut scene = Scene::of(Show::empty("Nothing"), &[], 3);
    scene.screen(158, 48);
    press(&mut scene, KeyCode::F(4), KeyModifiers::NONE);
    for size in [(158, 48), (80, 24), (60, 18)] {
        let screen = scene.screen(size.0, size.1);
        assert!(screen.contains("n makes one") || screen.contains("n: a new look"), "{screen}");
    }
    // No key does harm where there is nothing.
    for key in "aemcptsrbbvzlf⎋[]xoSTwkyYgjJhd←→↑↓123⏎".chars() {
        play(&mut scene, &key.to_string());
        play(&mut scene, "⎋");
    }
}

#[test]
fn what_is_turned_is_restored_by_esc_and_kept_by_enter() {
    let mut scene = scene();
    tab(&mut scene);
    let opacity = |scene: &Scene| scene.document.shown().looks[2].layers[2].opacity;
    play(&mut scene, "←←");
    assert_eq!(opacity(&scene), 0.9);
    play(&mut scene, "⎋");
    assert_eq!(opacity(&scene), 1.0);
    play(&mut scene, "←⏎");
    assert_eq!(scene.document.kept().looks[2].layers[2].opacity, 0.95);
    assert!(!scene.asked.contains(&EngineCommand::Go.into()), "keeping lands nothing");
    play(&mut scene, "⏎");
    assert!(scene.asked.contains(&EngineCommand::Go.into()), "and Enter is what it is everywhere");
}

#[test]
fn the_mouse_chooses_turns_and_moves_an_area() {
    let mut scene = scene();
    let event = |kind, column, row| MouseEvent { kind, column, row, modifiers: KeyModifiers::NONE };
    let left = MouseButton::Left;
    let at = |scene: &mut Scene, word: &str| {
        let screen = scene.screen(158, 48);
        let (row, line) = screen.lines().enumerate().find(|(_, l)| l.contains(word)).expect("it is seen");
        let column = line[..line.find(word).unwrap_or(0)].chars().count();
        (column as u16, row as u16)
    };
    let (x, y) = at(&mut scene, "Moonrise");
    scene.mouse(event(MouseEventKind::Down(left), x, y));
    let (x, y) = at(&mut scene, "opacity");
    let before = scene.document.kept().looks[9].layers.last().expect("a layer").opacity;
    scene.mouse(event(MouseEventKind::ScrollDown, x, y));
    scene.mouse(event(MouseEventKind::ScrollDown, x, y));
    let look = &scene.document.shown().looks[9];
    assert_eq!(look.name, "Moonrise");
    assert!((look.layers.last().expect("a layer").opacity - (before - 0.02)).abs() < 1e-4);
    // An area is dragged on the stage, across only, and made larger by the wheel.
    play(&mut scene, "r↓↓↓↓↓→");
    scene.mouse(event(MouseEventKind::Down(left), 110, 20));
    scene.mouse(event(MouseEventKind::Drag(left), 124, 26));
    scene.mouse(event(MouseEventKind::Up(left), 124, 26));
    scene.mouse(event(MouseEventKind::ScrollUp, 124, 26));
    play(&mut scene, "⏎");
    let area = scene.document.kept().looks[9].layers.last().expect("a layer").area;
    assert_eq!((area.y, area.width, area.height), (0.0, 110.0, 100.0));
    assert!(area.x > 5.0 && area.x < 40.0, "{area:?}");
}

#[test]
fn what_was_edited_blind_and_where_one_was_outlives_the_screen() {
    let mut scene = scene();
    play(&mut scene, "b");
    tab(&mut scene);
    play(&mut scene, "x");
    assert!(!scene.document.kept().looks[2].layers[2].mute && scene.screen(158, 48).contains("BLIND"));
    scene.attach_anew();
    let screen = scene.screen(158, 48);
    assert!(
        screen.contains("BLIND") && screen.contains("layers of Undertow") && screen.contains("edited blind"),
        "{screen}"
    );
    play(&mut scene, "bk");
    assert!(scene.document.kept().looks[2].layers[2].mute && scene.document.unsaved());
}

#[test]
fn frozen_and_other_looks_take_turns_in_a_new_one() {
    let mut scene = scene();
    play(&mut scene, "i");
    assert!(scene.screen(158, 48).contains("choose several looks first"));
    // What is on the lights is frozen into the look below, and both are chosen.
    play(&mut scene, "zc");
    press(&mut scene, KeyCode::Down, KeyModifiers::SHIFT);
    play(&mut scene, "i");
    let names = |scene: &Scene| show(scene).looks[4].layers[0].params["looks"].clone();
    let list = |names: &[&str]| Param::List(names.iter().map(|&name| name.to_owned()).collect());
    assert_eq!(show(&scene).looks[4].name, "In turn");
    assert_eq!(names(&scene), list(&["Undertow", "Undertow held"]));
    // Another name for one of them is known to the chase at once; names that nobody has are refused.
    tab(&mut scene);
    tab(&mut scene);
    play(&mut scene, "↓e");
    play(&mut scene, ", Nobody⏎");
    assert!(scene.screen(158, 48).contains("there is no look \"Nobody\""));
    play(&mut scene, "⎋eUndertow, Undertow held, Tide⏎");
    assert_eq!(names(&scene), list(&["Undertow", "Undertow held", "Tide"]));
}

/// Presses a key with others held, and draws.
fn held(scene: &mut Scene, code: KeyCode, with: KeyModifiers) {
    press(scene, code, with);
    scene.screen(158, 48);
}

fn names(scene: &Scene) -> Vec<String> {
    scene.document.kept().looks.iter().map(|look| look.name.clone()).collect()
}

#[test]
fn chosen_looks_stay_chosen_where_they_go() {
    let mut scene = scene();
    let before = names(&scene);
    held(&mut scene, KeyCode::Down, KeyModifiers::SHIFT);
    // The lower of two that are chosen moves down past one that is not.
    play(&mut scene, "[");
    let mut moved = before.clone();
    moved.swap(3, 4);
    assert_eq!(names(&scene), moved);
    held(&mut scene, KeyCode::Delete, KeyModifiers::NONE);
    let left: Vec<String> = before.iter().filter(|name| **name != before[2] && **name != before[3]).cloned().collect();
    assert_eq!(names(&scene), left, "those two go, and not the one that came between them");
    held(&mut scene, KeyCode::Char('z'), KeyModifiers::CONTROL);
    held(&mut scene, KeyCode::Char('z'), KeyModifiers::CONTROL);
    assert_eq!(names(&scene), before);
}

#[test]
fn chosen_layers_stay_chosen_where_they_go() {
    let mut scene = scene();
    let effects = |scene: &Scene| -> Vec<String> {
        scene.document.kept().looks[2].layers.iter().map(|l| l.effect.clone()).collect()
    };
    let before = effects(&scene);
    assert_eq!(before, ["gradient", "ripple", "pulse"]);
    tab(&mut scene);
    held(&mut scene, KeyCode::Down, KeyModifiers::SHIFT);
    // The ripple, which is pointed at, goes below the gradient.
    play(&mut scene, "[");
    assert_eq!(effects(&scene), ["ripple", "gradient", "pulse"]);
    play(&mut scene, "x");
    let mute: Vec<bool> = scene.document.kept().looks[2].layers.iter().map(|layer| layer.mute).collect();
    assert_eq!(mute, [true, false, true]);
    play(&mut scene, "[");
    assert!(scene.screen(158, 48).contains("it is the lowest already"));
    // Where a layer comes back, none is chosen but the one that is pointed at.
    held(&mut scene, KeyCode::Delete, KeyModifiers::NONE);
    assert_eq!(effects(&scene), ["gradient"]);
    held(&mut scene, KeyCode::Char('z'), KeyModifiers::CONTROL);
    held(&mut scene, KeyCode::Delete, KeyModifiers::NONE);
    assert_eq!(effects(&scene).len(), 2);
}

#[test]
fn several_looks_are_copied_and_taken_out_in_one_step_each() {
    let mut scene = scene();
    let before = names(&scene);
    held(&mut scene, KeyCode::Down, KeyModifiers::SHIFT);
    play(&mut scene, "d");
    assert_eq!(names(&scene).len(), before.len() + 2);
    assert_eq!(names(&scene)[..4], before[..4], "copies come behind the last of them");
    assert_eq!(names(&scene)[6..], before[4..]);
    held(&mut scene, KeyCode::Char('z'), KeyModifiers::CONTROL);
    assert_eq!(names(&scene), before);
    held(&mut scene, KeyCode::Char('a'), KeyModifiers::CONTROL);
    held(&mut scene, KeyCode::Delete, KeyModifiers::NONE);
    assert_eq!(names(&scene).len(), 0, "{:?}", names(&scene));
    assert!(scene.screen(158, 48).contains("n"), "an empty list says what to do");
    held(&mut scene, KeyCode::Char('z'), KeyModifiers::CONTROL);
    assert_eq!(names(&scene), before);
}

#[test]
fn what_a_key_cannot_do_there_it_says() {
    let mut scene = scene();
    let says = |scene: &mut Scene, keys: &str, words: &str| {
        play(scene, keys);
        let screen = scene.screen(158, 48);
        assert!(screen.contains(words), "{keys:?} does not say {words:?}:\n{screen}");
    };
    says(&mut scene, "Y", "nothing is copied yet");
    play(&mut scene, "fstrobe⏎");
    says(&mut scene, "]", "looks are moved where all are listed");
    play(&mut scene, "⎋");
    tab(&mut scene);
    says(&mut scene, "]", "it is the topmost already");
    says(&mut scene, "y", "is copied; Y puts it");
    tab(&mut scene);
    // The first line is the effect; the target is the sixth from below.
    says(&mut scene, "↑↑↑↑m", "choose one of them");
    says(&mut scene, &format!("{}↑↑↑↑↑→", "↓".repeat(30)), "t chooses the lights");
}

#[test]
fn a_light_is_chosen_and_its_value_shown() {
    let mut scene = scene();
    let shown = |scene: &mut Scene| scene.screen(158, 48);
    let hidden = shown(&mut scene);
    play(&mut scene, "'");
    let first = shown(&mut scene);
    assert_ne!(first, hidden);
    play(&mut scene, "';");
    assert_eq!(shown(&mut scene), first, "there and back");
    play(&mut scene, ";;;;");
    let start = shown(&mut scene);
    play(&mut scene, ";");
    assert_eq!(shown(&mut scene), start, "nothing is before the first");
    play(&mut scene, "h");
    assert_eq!(shown(&mut scene), hidden);
}

#[test]
fn phases_are_centred_and_begun_anew_by_a_key() {
    let mut scene = scene();
    tab(&mut scene);
    play(&mut scene, "jJ");
    let place = |command: &Command| match command {
        Command::Engine(EngineCommand::CentrePhase(place) | EngineCommand::RestartPhase(place)) => {
            Some((place.look.clone(), place.layer))
        }
        _ => None,
    };
    let places: Vec<_> = scene.asked.iter().filter_map(place).collect();
    assert_eq!(places, vec![("Undertow".to_owned(), Some(2)); 2]);
}

#[test]
fn a_layer_of_an_aim_goes_through_the_aims_and_says_which_there_are() {
    let mut scene = scene();
    tab(&mut scene);
    play(&mut scene, "aaim⏎");
    let aim = |scene: &Scene| {
        let show = show(scene);
        let layer = show.looks[2].layers.iter().find(|layer| layer.effect == "aim").cloned();
        layer.and_then(|layer| layer.params.get("aim").cloned())
    };
    assert_eq!(aim(&scene), Some(Param::Text("Booth".into())), "the first, to begin with");
    let target = show(&scene).looks[2].layers.last().map(|layer| layer.target.clone());
    assert_eq!(target, Some(Vec::new()), "nothing of the floods and the gangway turns: it is on every head");
    scene.screen(158, 48);
    play(&mut scene, "→");
    assert!(scene.screen(158, 48).contains("▸ aim          Floor"), "{}", scene.screen(158, 48));
    play(&mut scene, "←←");
    assert!(scene.screen(158, 48).contains("▸ aim          Beams"), "round to the last");
    play(&mut scene, "↓");
    assert_eq!(aim(&scene), Some(Param::Text("Beams".into())), "kept where one leaves the line");
    play(&mut scene, "↑eRoof⏎");
    let screen = scene.screen(158, 48);
    assert!(screen.contains("there is no aim \"Roof\"; there is Booth, Floor"), "{screen}");
}

#[test]
fn reduced_motion_holds_the_miniatures_of_every_sheet() {
    let pictures = |scene: &mut Scene| {
        // Without colours a picture is told by shades. Those of the meters above it are no pictures.
        let below = scene.screen(158, 48).lines().skip(5).collect::<Vec<_>>().join("\n");
        below.chars().filter(|letter| "·░▒▓█".contains(*letter)).collect::<String>()
    };
    for sheet in ["a", "v"] {
        let moves = [false, true].map(|reduced| {
            let mut scene = scene();
            scene.ui.begin(false, reduced);
            scene.type_keys(sheet);
            let first = pictures(&mut scene);
            assert!(first.len() > 100, "there are miniatures");
            (0..24).any(|_| {
                scene.published.snapshot.time += 0.1;
                scene.published.snapshot.clock.beat += 0.2;
                pictures(&mut scene) != first
            })
        });
        assert_eq!(moves, [true, false], "{sheet}");
    }
}
