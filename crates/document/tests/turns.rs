//! Looks that take turns: whose light it is, when it changes, and what becomes of it when looks are renamed or go.

use std::sync::Arc;

use splimo_document::check;
use splimo_document::edit::Edit;
use splimo_document::file;
use splimo_document::making;
use splimo_engine::{Engine, Inputs};
use splimo_show::command::EngineCommand;
use splimo_show::{Layer, Look, Param, Show};

/// Four bare colours and a chase between three of them, a beat each, on two fixtures of four lights.
fn show() -> Show {
    let fixture = |name: &str, address: &str, y: f32| {
        format!(
            "[[fixtures]]\nname = \"{name}\"\nprofile = \"rgb\"\naddress = \"{address}\"\nshape = {{ line = {{ cells = 4 }} }}\nx = 4.0\ny = {y}\n"
        )
    };
    let head = "version = 1\nname = \"Turns\"\nsettings = { dither = false, lands = \"bar\", fade_beats = 0.0, tempo = 120.0 }\n";
    let text = format!("{head}{}{}", fixture("Upper", "1.1", 2.0), fixture("Lower", "1.101", 6.0));
    let mut show = file::read(&text).expect("a good show").show;
    for (name, colour) in [("Red", "#ff0000"), ("Green", "#00ff00"), ("Blue", "#0000ff")] {
        let mut layer = Layer::new("solid");
        layer.params.insert("colours".into(), Param::List(vec![colour.into()]));
        show.looks.push(Look::new(name, vec![layer]));
    }
    let mut turns = making::in_turn(&["Red", "Green", "Blue"]);
    turns.params.insert("speed".into(), Param::Text("1 beat".into()));
    turns.params.insert("overlap".into(), Param::Number(50.0));
    show.looks.push(Look::new("In turn", vec![turns]));
    show
}

/// The light of the first and the last LED so many beats after the chase landed.
fn seen(show: &Show, beats: f64) -> [[f32; 3]; 2] {
    let mut engine = Engine::new(Arc::new(show.clone()));
    engine.cut_to(3);
    engine.tick(0.0, &Inputs::default());
    let frame = engine.tick(beats / 2.0, &Inputs::default());
    let last = frame.light.len() - 1;
    [0, last].map(|led| rounded(&frame.light[led]))
}

/// Colours are mixed in another space and back, which leaves a trace in the last digits.
fn rounded(light: &[f32; 4]) -> [f32; 3] {
    [light[0], light[1], light[2]].map(|part| (part * 1000.0).round() / 1000.0)
}

#[test]
fn each_look_has_its_step_and_leads_over_to_the_next() {
    let show = show();
    assert_eq!(seen(&show, 0.25), [[1.0, 0.0, 0.0]; 2]);
    assert_eq!(seen(&show, 1.25), [[0.0, 1.0, 0.0]; 2]);
    assert_eq!(seen(&show, 2.25), [[0.0, 0.0, 1.0]; 2]);
    assert_eq!(seen(&show, 3.25), [[1.0, 0.0, 0.0]; 2]);
    let [[red, green, blue], _] = seen(&show, 0.75);
    assert!((red - 0.5).abs() < 0.01 && (green - 0.5).abs() < 0.01 && blue == 0.0, "{red} {green} {blue}");
}

#[test]
fn the_layer_keeps_to_its_target_and_its_opacity() {
    let mut show = show();
    show.looks[3].layers[0].target = vec!["Lower".into()];
    show.looks[3].layers[0].opacity = 0.5;
    let blue = show.looks[2].layers[0].clone();
    show.looks[3].layers.insert(0, blue);
    assert_eq!(seen(&show, 0.25), [[0.0, 0.0, 1.0], [0.5, 0.0, 0.5]]);
}

#[test]
fn it_begins_with_the_first_look_whenever_it_lands() {
    let show = show();
    let names: Vec<String> = show.looks.iter().map(|look| look.name.clone()).collect();
    let mut engine = Engine::new(Arc::new(show));
    // Lands a look at a time in beats, and returns the first light some beats later.
    let mut land = |look: usize, at: f64, then: f64| {
        engine.apply(&EngineCommand::FireLook(names[look].clone()), at / 2.0);
        engine.apply(&EngineCommand::Go, at / 2.0);
        engine.tick(at / 2.0, &Inputs::default());
        rounded(&engine.tick((at + then) / 2.0, &Inputs::default()).light[0])
    };
    assert_eq!(land(3, 0.0, 1.2), [0.0, 1.0, 0.0]);
    assert_eq!(land(0, 1.3, 0.1), [1.0, 0.0, 0.0]);
    assert_eq!(land(3, 1.5, 1.2), [0.0, 1.0, 0.0], "red came first again, and green second");
}

#[test]
fn a_look_that_is_renamed_or_goes_takes_its_turn_along() {
    let names = |show: &Show| match &show.looks.last().expect("the chase").layers[0].params["looks"] {
        Param::List(names) => names.clone(),
        other => panic!("{other:?}"),
    };
    let show = show();
    let renamed = Look { name: "Leaf".into(), ..show.looks[1].clone() };
    let show = Edit::PutLooks(vec![(1, renamed)]).apply(&show).expect("it is renamed");
    assert_eq!(names(&show), ["Red", "Leaf", "Blue"]);
    let show = Edit::RemoveLooks(vec![0]).apply(&show).expect("it goes");
    assert_eq!(names(&show), ["Leaf", "Blue"]);
    assert!(check::structure(&show).is_empty());
}

#[test]
fn looks_that_are_not_there_and_chases_of_chases_are_told_and_do_no_harm() {
    let mut show = show();
    let mut turns = making::in_turn(&["In turn", "Nobody", "Round"]);
    turns.params.insert("speed".into(), Param::Text("1 beat".into()));
    show.looks.push(Look::new("Round", vec![turns]));
    let told: Vec<String> = check::structure(&show).iter().map(|p| format!("{} {}", p.place, p.message)).collect();
    assert_eq!(told.len(), 3, "{told:?}");
    assert!(told[1].contains("looks[2]") && told[1].contains("no look \"Nobody\""), "{told:?}");
    let mut engine = Engine::new(Arc::new(show));
    engine.cut_to(4);
    for tick in 0..200 {
        assert_eq!(engine.tick(f64::from(tick) * 0.05, &Inputs::default()).light[0][..3], [0.0; 3]);
    }
}
