//! LightTest on the lights, and going over to an edited show while it plays.

use std::sync::Arc;

use splimo_document::edit::Edit;
use splimo_document::file;
use splimo_engine::{Engine, Inputs, Prepared, Published};
use splimo_light::rig::Rig;
use splimo_show::command::EngineCommand;
use splimo_show::{Fixture, Show};
use splimo_show::{HeldSlot, LightTest};

fn demo() -> Show {
    let mut show = file::read(include_str!("../../../shows/lantern-quay.splimo")).expect("a good show").show;
    show.settings.dither = false;
    show
}

fn engine(show: Show) -> Engine {
    let mut engine = Engine::new(Arc::new(show));
    engine.cut_to(0);
    engine
}

fn tick(engine: &mut Engine, tick: u32) -> Vec<u8> {
    engine.tick(f64::from(tick) / 44.0, &Inputs::default()).slots.clone()
}

fn walked(engine: &mut Engine) -> Option<(u32, u32)> {
    let mut published = Published::default();
    engine.publish(&mut published);
    published.snapshot.walked.map(|walked| (walked.led, walked.at))
}

#[test]
fn what_is_identified_flashes_over_a_blackout_and_is_gone_when_one_leaves() {
    let (mut plain, mut proved) = (engine(demo()), engine(demo()));
    for engine in [&mut plain, &mut proved] {
        engine.apply(&EngineCommand::Blackout, 0.0);
    }
    proved.apply(&EngineCommand::Test(LightTest::Identify(vec![1])), 0.0);
    let levels: Vec<u8> = (0..44).map(|n| tick(&mut proved, n)[144]).collect();
    assert_eq!(levels.iter().filter(|&&v| v == 255).count(), 22, "half of the time at full: {levels:?}");
    assert_eq!(levels.iter().filter(|&&v| v == 0).count(), 22);
    assert_eq!(tick(&mut proved, 44)[..144], [0; 144], "the others stay as they are");
    proved.apply(&EngineCommand::Test(LightTest::Off), 1.0);
    (0..45).for_each(|n| drop(tick(&mut plain, n)));
    assert_eq!(tick(&mut proved, 45), tick(&mut plain, 45));
}

#[test]
fn a_pixel_walks_along_the_wiring_through_fixtures_in_their_order() {
    let mut engine = engine(demo());
    engine.apply(&EngineCommand::Test(LightTest::Walk { fixtures: vec![1, 0], at: 47, speed: 0.0 }), 0.0);
    let lit = |slots: &[u8]| (0..288).filter(|&slot| slots[slot] > 0).collect::<Vec<_>>();
    assert_eq!(lit(&tick(&mut engine, 0)), [285, 286, 287], "the last pixel of Sail 2, and nothing else");
    engine.apply(&EngineCommand::WalkStep(1), 0.0);
    assert_eq!(lit(&tick(&mut engine, 1)), [0, 1, 2], "the first of Sail 1");
    assert_eq!(walked(&mut engine), Some((0, 48)));
    engine.apply(&EngineCommand::WalkStep(-49), 0.0);
    assert_eq!(lit(&tick(&mut engine, 2)), [141, 142, 143], "round the end");
    engine.apply(&EngineCommand::Test(LightTest::Walk { fixtures: vec![0], at: 0, speed: 10.0 }), 0.0);
    (3..49).for_each(|n| drop(tick(&mut engine, n)));
    assert_eq!(walked(&mut engine), Some((10, 10)), "ten in a second by itself");
}

#[test]
fn slots_are_held_and_let_go() {
    let (mut plain, mut proved) = (engine(demo()), engine(demo()));
    let held = |channel, value| HeldSlot { universe: 17, channel, value };
    proved
        .apply(&EngineCommand::Test(LightTest::Hold(vec![held(1, 77), held(512, 99), held(0, 1), held(600, 1)])), 0.0);
    let slots = tick(&mut proved, 0);
    assert_eq!((slots[16 * 512], slots[17 * 512 - 1]), (77, 99));
    let untouched = tick(&mut plain, 0);
    assert_eq!(slots[1..16 * 512], untouched[1..16 * 512]);
    proved.apply(&EngineCommand::Test(LightTest::Off), 0.1);
    assert_eq!(tick(&mut proved, 1), tick(&mut plain, 1));
}

#[test]
fn an_edit_while_playing_makes_nothing_jump() {
    let (mut plain, mut edited) = (engine(demo()), engine(demo()));
    (0..100).for_each(|n| {
        tick(&mut plain, n);
        tick(&mut edited, n);
    });
    // A light far behind all others: nothing that is there may change by it.
    let mut show = demo();
    show.looks.insert(0, splimo_show::Look::new("New", vec![]));
    let (show, rig) = {
        let far = Edit::Import(vec![Fixture { name: "Far".into(), address: None, ..show.fixtures[0].clone() }], None);
        let show = Arc::new(far.apply(&show).expect("a free name"));
        let rig = Arc::new(Rig::compile(&show));
        (show, rig)
    };
    drop(edited.adopt(Box::new(Prepared::new(show, rig, 7))));
    let (before, after) = (tick(&mut plain, 100), tick(&mut edited, 100));
    assert_eq!(before, after);
    let mut published = Published::default();
    edited.publish(&mut published);
    assert_eq!((published.snapshot.edition, published.snapshot.frame, published.snapshot.stage[0].look), (7, 101, 1));
}
