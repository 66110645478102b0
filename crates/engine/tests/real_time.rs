//! The engine in real time: once it is warm, a tick allocates nothing, whatever is played.

use std::alloc::System;
use std::sync::Arc;

use splimo_document::file;
use splimo_engine::{Engine, Inputs, Prepared, Published};
use splimo_light::rig::Rig;
use splimo_show::LightTest;
use splimo_show::command::{EngineCommand, NamedLevel, TimelinePlace};
use splimo_show::{Boundary, Param, Show};
use splimo_time::music::{Bands, Hearing};
use stats_alloc::{INSTRUMENTED_SYSTEM, Region, StatsAlloc};

#[global_allocator]
static COUNTED: &StatsAlloc<System> = &INSTRUMENTED_SYSTEM;

fn inputs(tick: u32) -> Inputs {
    let time = f64::from(tick) / 44.0;
    let hearing = Hearing {
        time,
        level: 0.5,
        bands: Bands::of(&[0.5; 24]),
        onsets: u64::from(tick / 7),
        tempo_bpm: 128.0,
        beat: time * 128.0 / 60.0,
        confidence: 1.0,
        ..Hearing::SILENCE
    };
    Inputs { hearing, ..Inputs::default() }
}

// One test in this file: the count is of the whole process.
#[test]
fn a_tick_allocates_nothing_once_warm() {
    let show = Arc::new(file::read(include_str!("../../../shows/lantern-quay.splimo")).expect("a good show").show);
    let looks = show.looks.len();
    let mut engine = Engine::new(show.clone());
    let mut published = Published::default();
    engine.tick(0.0, &inputs(0));
    engine.publish(&mut published);
    // Two looks are on stage while one fades into the next, which is as many as the list will hold from then on.
    let warm_up = 60;
    let actions: Vec<EngineCommand> = (1..=looks)
        .map(EngineCommand::FirePad)
        .chain([
            EngineCommand::Tap,
            EngineCommand::Blackout,
            EngineCommand::Blackout,
            EngineCommand::NudgeMaster(-5.0),
            EngineCommand::BarHere,
            EngineCommand::FollowMusic,
            EngineCommand::Rotate(true),
        ])
        .chain([73, 74, 75, 83, 93].map(EngineCommand::FirePad))
        .chain([
            EngineCommand::HoldPad(73),
            EngineCommand::NextLands(Boundary::Phrase),
            EngineCommand::FirePad(84),
            EngineCommand::Push(1),
            EngineCommand::LetPadGo(73),
            EngineCommand::TierLevel(NamedLevel { name: "top".into(), percent: 40.0 }),
            EngineCommand::GroupLevel(NamedLevel { name: "Sail".into(), percent: 60.0 }),
            EngineCommand::Speed(0.5),
            EngineCommand::MuteTier("top".into()),
            EngineCommand::ClearTiers,
        ])
        .chain((0..12).map(|_| EngineCommand::GoCue("Opening".into())))
        .chain([EngineCommand::PauseCues("Opening".into()), EngineCommand::BackCue("Opening".into())])
        .chain([EngineCommand::SkipCue("Opening".into()), EngineCommand::GoCue("Opening".into())])
        .chain([EngineCommand::PlayTimeline("Anchor Song".into())])
        .chain(
            [8.0, 24.0, 40.0].map(|at| EngineCommand::SeekTimeline(TimelinePlace { name: "Anchor Song".into(), at })),
        )
        .chain([EngineCommand::StopTimeline("Anchor Song".into())])
        .chain(
            ["Drop Hits", "Slack Water", "First Lamps", "Gangway Run", "Gull Flight"]
                .map(|name| EngineCommand::CutTo(format!("top/{name}"))),
        )
        .chain([
            EngineCommand::HeadPan(NamedLevel { name: "Gulls".into(), percent: 70.0 }),
            EngineCommand::NudgeTilt(NamedLevel { name: "Gull 2".into(), percent: -3.0 }),
            EngineCommand::CallAim("Gulls/Booth".into()),
            EngineCommand::LetHeads("Gull 1".into()),
            EngineCommand::LetAllHeads,
        ])
        .chain([EngineCommand::ReleaseCues("Opening".into())])
        .collect();
    for tick in 1..warm_up {
        engine.tick(f64::from(tick) / 44.0, &inputs(tick));
        engine.apply(&EngineCommand::FirePad(tick as usize % 3 + 1), f64::from(tick) / 44.0);
        engine.apply(&EngineCommand::Go, f64::from(tick) / 44.0);
        engine.publish(&mut published);
    }
    // Going over to an edited show, and proving something on its lights, makes the next ticks no dearer.
    let mut edited = Show::clone(&show);
    edited.fixtures[0].x += 1.0;
    // Words that are edited are drawn where they are compiled, and not in the tick that shows them.
    for layer in edited.looks.iter_mut().flat_map(|look| &mut look.layers).filter(|layer| layer.effect == "marquee") {
        layer.params.insert("text".into(), Param::Text("ANOTHER TEXT AT {clock}".into()));
    }
    let edited = Arc::new(edited);
    let rig = Arc::new(Rig::compile(&edited));
    drop(engine.adopt(Box::new(Prepared::new(edited, rig, 1))));
    let words = show.looks.iter().position(|look| look.layers.iter().any(|layer| layer.effect == "marquee"));
    engine.cut_to(words.expect("a look with words"));
    let region = Region::new(COUNTED);
    engine.tick(f64::from(warm_up - 3) / 44.0, &inputs(warm_up - 3));
    let change = region.change();
    assert_eq!((change.allocations, change.reallocations), (0, 0), "the first tick of an edited text: {change:?}");
    engine.apply(&EngineCommand::Test(LightTest::Walk { fixtures: vec![0, 24], at: 0, speed: 90.0 }), 1.0);
    for tick in warm_up - 3..warm_up {
        engine.tick(f64::from(tick) / 44.0, &inputs(tick));
        engine.publish(&mut published);
    }
    let mut state = None;
    let region = Region::new(COUNTED);
    for tick in warm_up..warm_up + 40 * actions.len() as u32 {
        let time = f64::from(tick) / 44.0;
        if tick % 40 == 0 {
            engine.apply(&actions[(tick / 40) as usize % actions.len()], time);
        }
        engine.tick(time, &inputs(tick));
        engine.publish(&mut published);
        state = Some(engine.state());
    }
    let change = region.change();
    assert_eq!((change.allocations, change.reallocations), (0, 0), "{change:?}");
    assert!(published.snapshot.walked.is_some_and(|w| w.of == 48 + 320));
    assert!(published.snapshot.stage.len() < 10 && published.snapshot.frame > 500);
    assert_eq!(state.and_then(|state| state.tiers[0].look), published.snapshot.stage.first().map(|entry| entry.look));
}
