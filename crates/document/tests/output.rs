//! The master stage: limits and white points of outputs, what the lights take from their supplies, and the road of a slot.

use std::sync::Arc;

use splimo_document::check::check;
use splimo_document::edit::Edit;
use splimo_document::file;
use splimo_engine::{ChannelPart, Engine, Inputs, Published, trace_slot};
use splimo_show::Severity;
use splimo_show::command::EngineCommand;
use splimo_show::{AnyTransport, Function, Route, Show, Supply, TransportKind};
use splimo_transport::serial::Serial;

fn show(more: &str) -> Show {
    let text = format!(
        r##"
version = 1
name = "Output"
settings = {{ dither = false }}
[[fixtures]]
name = "Bar"
profile = "rgb"
address = "1.1"
shape = {{ line = {{ cells = 100 }} }}
x = 50.0
y = 10.0
[[fixtures]]
name = "Wash"
profile = "dimmer strobe + rgbw"
address = "2.11"
shape = {{ line = {{ cells = 2 }} }}
x = 50.0
y = 20.0
[[groups]]
name = "All"
members = ["Bar", "Wash"]
[[looks]]
name = "White"
[[looks.layers]]
effect = "gradient"
params = {{ colours = ["#ffffff"] }}
[[looks]]
name = "Red"
[[looks.layers]]
effect = "gradient"
params = {{ colours = ["#ff0000"] }}
{more}
"##
    );
    file::read(&text).expect("a good show").show
}

fn route(name: &str, more: &str) -> String {
    format!(
        "[[routes]]\nname = \"{name}\"\nuniverses = \"1-2\"\nprotocol = \"sacn\"\nfirst = 1\nto = \"10.0.0.1\"\n{more}\n"
    )
}

fn engine(show: Show, look: usize) -> Engine {
    let mut engine = Engine::new(Arc::new(show));
    engine.cut_to(look);
    engine.tick(0.0, &Inputs::default());
    engine
}

/// The first slots of a universe as a route sends it.
fn sent(engine: &Engine, route: usize, universe: u32, show: &Show) -> [u8; 3] {
    let block = engine.rig().block_of(universe, show.routes[route].gain()).expect("it is routed");
    engine.frame().slots[block * 512..][..3].try_into().expect("three slots")
}

#[test]
fn each_output_has_a_limit_and_a_white_point_of_its_own() {
    let show =
        show(&[route("Plain", ""), route("Dim", "limit = 40.0"), route("Warm", "white = \"100 60 20\"")].concat());
    let engine = engine(show.clone(), 0);
    assert_eq!(sent(&engine, 0, 1, &show), [255, 255, 255]);
    assert_eq!(sent(&engine, 1, 1, &show), [102, 102, 102]);
    assert_eq!(sent(&engine, 2, 1, &show), [255, 153, 51]);
    assert_eq!(engine.frame().slots.len(), 2 * 3 * 512);
}

#[test]
fn what_rests_and_what_is_held_is_the_same_on_every_output() {
    let show = show(&[route("Plain", ""), route("Half", "limit = 50.0")].concat());
    let mut engine = engine(show.clone(), 0);
    let held = splimo_show::HeldSlot { universe: 2, channel: 200, value: 77 };
    engine.apply(&EngineCommand::Test(splimo_show::LightTest::Hold(vec![held])), 0.1);
    engine.tick(0.1, &Inputs::default());
    for route in 0..2 {
        let block = engine.rig().block_of(2, show.routes[route].gain()).expect("it is routed");
        let slots = &engine.frame().slots[block * 512..][..512];
        assert_eq!((slots[10], slots[11], slots[199]), (255, 255, 77), "master, shutter and what is held");
    }
}

#[test]
fn amperes_follow_the_light() {
    let show = show("");
    let mut engine = engine(show, 0);
    let mut published = Published::default();
    engine.publish(&mut published);
    // 100 cells of three emitters of 20 mA, and 1 mA each in the dark.
    assert!((published.loads[0].now - 6.1).abs() < 0.01, "{:?}", published.loads[0]);
    assert_eq!(published.loads[1].now, 0.0, "nobody knows what the washes take");
    engine.apply(&EngineCommand::Master(25.0), 0.1);
    for tick in 1..20 {
        engine.tick(f64::from(tick) / 44.0, &Inputs::default());
    }
    engine.publish(&mut published);
    assert!((published.loads[0].now - 1.6).abs() < 0.01 && (published.loads[0].peak - 6.1).abs() < 0.01);
    engine.apply(&EngineCommand::ResetPeaks, 1.0);
    engine.publish(&mut published);
    assert!((published.loads[0].peak - 1.6).abs() < 0.01);
}

#[test]
fn a_supply_is_never_asked_for_more_than_it_gives_and_lets_go_gently() {
    let show = show("[[supplies]]\nname = \"Rail\"\nfeeds = [\"All\"]\nlimit = 3.0\n");
    let mut engine = engine(show, 0);
    let mut published = Published::default();
    let mut state = |engine: &mut Engine, tick: u32| {
        engine.tick(f64::from(tick) / 44.0, &Inputs::default());
        engine.publish(&mut published);
        (published.snapshot.supplies[0].load.now, published.snapshot.supplies[0].gain)
    };
    let (now, gain) = state(&mut engine, 1);
    assert!((now - 3.0).abs() < 0.001 && (gain - 2.9 / 6.0).abs() < 0.001, "{now} A at {gain}");
    assert!((100..130).contains(&engine.frame().slots[0]), "the light itself is dimmed: {}", engine.frame().slots[0]);
    engine.apply(&EngineCommand::Master(10.0), 0.05);
    let gains: Vec<f32> = (2..300).map(|tick| state(&mut engine, tick).1).collect();
    assert!(gains.windows(2).all(|pair| pair[1] >= pair[0] && pair[1] - pair[0] < 0.03), "{gains:?}");
    assert!(gains[0] < 0.55 && gains[gains.len() - 1] > 0.97);
    engine.apply(&EngineCommand::Master(100.0), 8.0);
    let (now, _) = state(&mut engine, 400);
    assert!(now <= 3.001, "{now} A at once");
}

#[test]
fn the_road_of_a_slot_ends_at_its_value() {
    let show = show(&route("Half", "limit = 50.0"));
    let mut engine = engine(show.clone(), 1);
    let mut published = Published::default();
    engine.publish(&mut published);
    let rig = engine.rig();
    let at = |universe: u32, slot: u16| {
        let block = rig.block_of(universe, [0.5; 3]).expect("it is routed");
        let value = published.slots[block * 512 + usize::from(slot)];
        (trace_slot(&show, rig, &published.light, published.snapshot.master, block, slot), value)
    };
    let (red, value) = at(1, 6);
    let red = red.expect("it belongs to the bar");
    assert_eq!((red.fixture, red.cell, red.does, red.part), (0, Some(2), Function::Red, ChannelPart::Whole));
    let lit = red.lit.expect("it carries light");
    assert!((lit.light - 1.0).abs() < 1e-3 && (lit.output - 0.5).abs() < 1e-6);
    assert_eq!(lit.exact.round() as u8, value);
    let (master, value) = at(2, 10);
    let master = master.expect("it belongs to the wash");
    assert_eq!((master.fixture, master.cell, master.does, master.lit, value), (1, None, Function::Dimmer, None, 255));
    let (white, value) = at(2, 15);
    let white = white.expect("it belongs to the wash");
    assert_eq!((white.cell, white.does, value), (Some(0), Function::White, 0));
    let (second, _) = at(2, 16);
    assert_eq!(second.map(|road| (road.cell, road.does)), Some((Some(1), Function::Red)));
    assert_eq!(at(1, 400).0, None);
}

#[test]
fn routes_and_supplies_are_edited_by_name() {
    let mut now = show(&route("A", ""));
    let second = Route { name: "B".into(), ..now.routes[0].clone() };
    now = Edit::AddRoutes(vec![second.clone()]).apply(&now).expect("a free name");
    let taken = Edit::AddRoutes(vec![second.clone()]).apply(&now).expect_err("the name is taken");
    assert!(taken.0.contains("B") && taken.0.contains("another name"), "{taken}");
    let same = Edit::PutRoute(0, Route { name: "B".into(), ..second.clone() }).apply(&now);
    assert!(same.is_err());
    let art_net = Route {
        transport: AnyTransport::of(TransportKind::ArtNet),
        to: "multicast".parse().expect("multicast"),
        ..second
    };
    let refused = Edit::PutRoute(1, art_net).apply(&now).expect_err("there is no such thing");
    assert!(refused.0.contains("does not go to multicast"), "{refused}");
    now = Edit::AddSupply(Supply { name: "Rail".into(), feeds: vec!["Bar".into()], limit: None })
        .apply(&now)
        .expect("good");
    let renamed = splimo_show::Fixture { name: "Rod".into(), ..now.fixtures[0].clone() };
    now = Edit::Put(vec![(0, renamed)]).apply(&now).expect("a free name");
    assert_eq!(now.supplies[0].feeds, ["Rod"]);
    now = Edit::Remove(vec![0]).apply(&now).expect("it may go");
    assert!(now.supplies[0].feeds.is_empty());
    now = Edit::RemoveRoute(0).apply(&now).expect("it is there");
    assert_eq!(now.routes.iter().map(|r| r.name.as_str()).collect::<Vec<_>>(), ["B"]);
    assert!(Edit::RemoveSupply(7).apply(&now).is_err());
}

#[test]
fn what_is_wrong_with_outputs_is_told_with_its_mend() {
    let supplies = "[[supplies]]\nname = \"One\"\nfeeds = [\"Bar\"]\n[[supplies]]\nname = \"Two\"\nfeeds = [\"All\"]\n";
    let doubled = show(&[route("A", ""), route("B", "").replace("\"1-2\"", "\"2-3\""), supplies.to_owned()].concat());
    let problems = check(&doubled);
    let about = |word: &str| {
        problems.iter().find(|p| p.message.contains(word)).unwrap_or_else(|| panic!("{word}: {problems:?}"))
    };
    assert_eq!(about("so does route A").severity, Severity::Error);
    assert_eq!(about("is fed by supply One already").severity, Severity::Warning);
    let fast = show(&route("A", "rate = 100.0"));
    assert!(check(&fast).iter().any(|p| p.message.contains("only 44 are made") && p.mend.contains("raise rate")));
    let mut bad = show(&route("A", ""));
    bad.routes[0].limit = 120.0;
    bad.routes[0].rate = Some(0.5);
    bad.routes[0].transport = AnyTransport::Serial(Serial { baud: 7 });
    bad.routes[0].to = "/dev/ttyUSB0".parse().expect("a port");
    let broken: Vec<String> =
        check(&bad).into_iter().filter(|p| p.severity == Severity::Broken).map(|p| p.place.to_string()).collect();
    assert_eq!(broken, ["routes[1].baud", "routes[1].limit", "routes[1].rate"]);
}

#[test]
fn routes_are_written_as_they_were_read() {
    let text = route(
        "A",
        "interface = \"eth1\"\nrate = 30.0\npacing = \"spread\"\nsync = true\nlimit = 80.0\nwhite = \"4500 K\"\npreview = true",
    );
    let first = show(&[text, "[[supplies]]\nname = \"Rail\"\nfeeds = [\"Bar\"]\nlimit = 20.0\n".into()].concat());
    let written = file::write(&first).expect("it can be written");
    assert_eq!(file::read(&written).expect("it can be read").show, first);
    for line in ["pacing = \"spread\"", "white = \"4500 K\"", "interface = \"eth1\"", "feeds = [\"Bar\"]"] {
        assert!(written.contains(line), "{line} is not in\n{written}");
    }
}
