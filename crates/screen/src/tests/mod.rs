//! The screens as text, drawn from a real engine on a clock of the test's own.

mod kinds;
mod scene;
mod terminals;

use ratatui::crossterm::event::{KeyCode, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use splimo_document::{Command, DocumentCommand};
use splimo_link::network::{NetworkStatus, Received, SourceSeen};
use splimo_link::trouble::Trouble;
use splimo_show::command::{EngineCommand, SessionCommand};
use splimo_show::{Fixture, Shape, Show};
use splimo_show::{HeldSlot, LightTest};

use crate::overlay::Leaving;
use crate::views::ViewId;

pub(crate) use scene::Scene;

#[test]
fn play_at_its_three_sizes() {
    let mut scene = Scene::demo();
    for (width, height) in [(158, 48), (120, 36), (80, 24)] {
        insta::assert_snapshot!(format!("play_{width}x{height}"), scene.screen(width, height));
    }
}

#[test]
fn cues_at_their_three_sizes() {
    let mut show = splimo_link::testing::lantern_quay();
    show.cue_lists[0].priority = 50;
    let go = |at: u32| (at, EngineCommand::GoCue("Opening".to_owned()));
    let play = (50, EngineCommand::PlayTimeline("Anchor Song".to_owned()));
    let mut scene = Scene::of(show, &[go(0), go(10), go(20), go(30), go(40), play], 1100);
    scene.go(ViewId::Cues);
    for (width, height) in [(158, 48), (120, 36), (80, 24)] {
        insta::assert_snapshot!(format!("cues_{width}x{height}"), scene.screen(width, height));
    }
    scene.press(KeyCode::Tab);
    scene.press(KeyCode::Tab);
    scene.press(KeyCode::Tab);
    for (width, height) in [(158, 48), (80, 24)] {
        insta::assert_snapshot!(format!("timeline_{width}x{height}"), scene.screen(width, height));
    }
    // Every view says which list Ctrl-N goes on in, and where it is.
    scene.go(ViewId::Rig);
    assert!(scene.screen(120, 36).contains("Opening ■5 ⟨6⟩"));
    scene.press_with(KeyCode::Char('n'), KeyModifiers::CONTROL);
    assert_eq!(scene.asked.pop(), Some(EngineCommand::GoCue("Opening".to_owned()).into()));
}

/// Half a minute as it is heard: a build over two beats that slow down, then a drop.
fn heard(scene: &mut Scene) {
    let mut hearing = scene.published.snapshot.hearing;
    hearing.hits = [0; 3];
    for tenth in 0..300u32 {
        let gone = f64::from(tenth) / 10.0;
        let dropped = tenth >= 200;
        hearing.time = gone;
        hearing.tempo_bpm = 128.0 - 4.0 * (gone / 30.0) as f32;
        hearing.beat = gone * 2.1;
        hearing.bar_start = (hearing.beat / 4.0).floor() * 4.0;
        hearing.bar_confidence = 0.6;
        hearing.confidence = (gone / 8.0).min(0.9) as f32;
        (hearing.loudness, hearing.peak, hearing.centroid) = (-9.4, 0.8, 1460.0);
        (hearing.pitch, hearing.interval, hearing.chords) = (220.0, 7.0, 14);
        (hearing.key.tonic, hearing.key.minor, hearing.key_confidence) = (9, true, 0.8);
        hearing.chroma = std::array::from_fn(|pitch| [1.0, 0.1, 0.3, 0.1, 0.7, 0.2][(pitch + 3) % 6]);
        hearing.section = if dropped { splimo_time::music::Section::Drop } else { splimo_time::music::Section::Build };
        hearing.section_start = if dropped { 20.0 } else { 0.0 };
        hearing.hits[0] += u64::from(dropped && tenth.is_multiple_of(5));
        hearing.hits[1] += u64::from(tenth.is_multiple_of(10));
        hearing.hits[2] += u64::from(tenth % 5 == 2);
        scene.published.snapshot.hearing = hearing;
        scene.screen(80, 24);
    }
}

#[test]
fn inputs_at_its_three_sizes() {
    let mut scene = Scene::demo();
    heard(&mut scene);
    scene.go(ViewId::Inputs);
    for (width, height) in [(158, 48), (120, 36), (80, 24)] {
        insta::assert_snapshot!(format!("inputs_{width}x{height}"), scene.screen(width, height));
    }
    // Of a part that was told a moment ago it says how late that was; later on what comes next.
    assert!(!scene.screen(158, 48).contains("known after"));
    let started = scene.published.snapshot.hearing.section_start;
    let told = scene.published.snapshot.hearing.time - 2.0;
    (scene.published.snapshot.hearing.section_start, scene.published.snapshot.hearing.section_delay) = (told, 1.4);
    for (width, height) in [(158, 48), (120, 36)] {
        assert!(scene.screen(width, height).contains("known after 1.4 s"), "{width}");
    }
    (scene.published.snapshot.hearing.section_start, scene.published.snapshot.hearing.section_delay) = (started, 0.0);
    // What is too loud is called out, and what is silent as well.
    scene.published.snapshot.hearing.peak = 1.0;
    scene.published.snapshot.hearing.time += 0.1;
    assert!(scene.screen(120, 36).contains("TOO LOUD"));
    (scene.published.snapshot.hearing.peak, scene.published.snapshot.hearing.level) = (0.0, 0.0);
    assert!(scene.screen(120, 36).contains("silence"));
}

/// A network with a node that is well, one that nothing feeds, one that is gone, and a desk that sends what we send.
fn busy_network() -> NetworkStatus {
    use splimo_wire::artnet::poll_reply::{OEM_UNKNOWN, Port, Repr, Style};
    let mut network = NetworkStatus { now: 20.0, packets: 3.0, ..NetworkStatus::default() };
    for (last, name, outputs, when) in [
        (2, "Sail box", &[0u16, 1, 2, 3][..], 19.2),
        (4, "Masts box", &[16, 17, 18, 19], 2.0),
        (9, "Spare", &[40, 41], 18.0),
    ] {
        let address = std::net::Ipv4Addr::new(127, 0, 0, last);
        let reply = Repr {
            address,
            version: 1,
            oem: OEM_UNKNOWN,
            short_name: name,
            long_name: "",
            report: "",
            switch: outputs[0] & 0x7ff0,
            ports: std::array::from_fn(|i| Port { output: outputs.get(i).copied(), ..Port::default() }),
            port_count: outputs.len(),
            style: Style::Node,
            mac: [last; 6],
            bind_address: address,
            bind_index: 1,
            refresh_rate: 0,
        };
        network.directory.answered(&reply, address, when);
    }
    let source = |last: u8, name: &str, wins: bool, own: bool| SourceSeen {
        address: std::net::IpAddr::from([10, 0, 0, last]),
        name: name.into(),
        priority: Some(if wins { 120 } else { 100 }),
        wins,
        own,
    };
    network.received = vec![Received {
        protocol: splimo_wire::Protocol::Sacn,
        universe: 8,
        rate: 88.0,
        counts: (1760, 1_122_880, 3),
        gap_ms: Default::default(),
        changed: 19.5,
        sources: vec![source(1, "", false, true), source(7, "House desk", true, false)],
        slots: (0..512).map(|slot| (slot / 2) as u8).collect(),
    }];
    network
}

#[test]
fn output_calls_out_what_is_wrong_and_shows_what_comes_in() {
    let mut scene = Scene::demo();
    scene.network = busy_network();
    scene.go(ViewId::Output);
    insta::assert_snapshot!("output_nodes_158x48", scene.screen(158, 48));
    scene.run("received");
    let screen = scene.screen(158, 48);
    let told = ["comes in: sACN 8", "this show priority 100 waits", "10.0.0.7 House desk priority 120 has it"];
    assert!(told.iter().all(|words| screen.contains(words)), "{screen}");
    assert_eq!(scene.ui.subscription().received, Some((splimo_wire::Protocol::Sacn, 8)));
}

#[test]
fn a_node_is_fed_by_one_key_and_a_route_is_made_by_a_form() {
    let mut scene = Scene::demo();
    scene.network = busy_network();
    scene.go(ViewId::Output);
    scene.screen(158, 48);
    scene.press(KeyCode::Tab);
    scene.type_keys("↓↓n");
    assert!(scene.screen(158, 48).contains("every universe with lights has a route"));
    // The route of the masts goes, and what it carried waits for another.
    scene.type_keys("⇥⇥↓↓");
    scene.press(KeyCode::Delete);
    let screen = scene.screen(158, 48);
    assert!(screen.contains("universes 10-14 have no route"), "{screen}");
    scene.type_keys("⇥n");
    let routes = &scene.document.shown().routes;
    let told = (routes[3].name.as_str(), routes[3].universes.to_string(), routes[3].first(), routes[3].to.to_string());
    assert_eq!(told, ("Spare", "10-11".into(), 40, "127.0.0.9".into()));
    // The rest of it is proposed by hand.
    scene.screen(158, 48);
    scene.type_keys("a⏎");
    assert_eq!(scene.document.shown().routes[4].universes.to_string(), "12-14");
    assert!(!scene.screen(158, 48).contains("no route:"));
    // A route by hand: universes, protocol, and what goes along with it.
    scene.type_keys("a↓50-51↓s");
    insta::assert_snapshot!("output_route_120x36", scene.screen(120, 36));
    scene.type_keys("⏎");
    let route = scene.document.shown().routes[5].clone();
    assert_eq!(
        (route.first(), route.to.to_string(), route.universes.to_string()),
        (50, "multicast".into(), "50-51".into())
    );
    // What cannot be is said in the form, and nothing is lost of it.
    scene.screen(158, 48);
    scene.type_keys("a↓9-1⏎");
    assert!(scene.screen(120, 36).contains("is not a range of universes"));
    scene.type_keys("⎋");
    assert_eq!(scene.document.shown().routes.len(), 6);
}

#[test]
fn supplies_tell_what_they_give() {
    let mut scene = Scene::demo();
    scene.go(ViewId::Output);
    scene.screen(120, 36);
    scene.type_keys("p");
    let screen = scene.screen(120, 36);
    assert!(screen.contains("Sail rail") && screen.contains("80.00") && screen.contains("all fixtures"), "{screen}");
    scene.type_keys("n");
    assert!(scene.screen(120, 36).contains("gives at most"));
    scene.type_keys("⏎");
    assert_eq!(scene.document.shown().supplies.len(), 4);
    scene.type_keys("↓↓↓");
    scene.press(KeyCode::Delete);
    assert_eq!(scene.document.shown().supplies.len(), 3);
    scene.type_keys("r⎋");
    assert_eq!(scene.asked, [EngineCommand::ResetPeaks.into()]);
}

#[test]
fn output_as_numbers_and_as_bars() {
    let mut scene = Scene::demo();
    scene.go(ViewId::Output);
    scene.screen(120, 36);
    scene.run("next-universe 7");
    insta::assert_snapshot!("output_120x36", scene.screen(120, 36));
    insta::assert_snapshot!("output_80x24", scene.screen(80, 24));
    scene.run("slot-bars");
    insta::assert_snapshot!("output_bars_120x36", scene.screen(120, 36));
}

#[test]
fn help_and_palette_float_over_the_view() {
    let mut scene = Scene::demo();
    scene.run("help");
    insta::assert_snapshot!("help_120x36", scene.screen(120, 36));
    scene.run("find-action");
    scene.type_keys("tem");
    assert_eq!(scene.asked, [], "typing fires no pads");
    insta::assert_snapshot!("palette_100x30", scene.screen(100, 30));
}

#[test]
fn the_palette_asks_for_what_a_command_needs() {
    let mut scene = Scene::demo();
    scene.run("find-action");
    scene.type_keys("tempo⏎");
    assert_eq!(scene.asked, [], "it needs a number first");
    assert!(scene.screen(120, 36).contains("type a number"), "{}", scene.screen(120, 36));
    scene.type_keys("12x⏎");
    assert_eq!(scene.asked, []);
    assert!(scene.screen(120, 36).contains("\"12x\" is no bpm; give it a number"));
    scene.press(KeyCode::Backspace);
    scene.type_keys("8⏎");
    assert_eq!(scene.asked, [EngineCommand::Tempo(128.0).into()]);
    assert!(!scene.ui.has_open());
}

#[test]
fn the_palette_finds_looks_and_lights_by_their_names() {
    let mut scene = Scene::demo();
    scene.run("find-action");
    scene.type_keys("gale⏎");
    assert_eq!(scene.asked, [EngineCommand::FireLook("Gale".into()).into()]);
    scene.run("find-action");
    scene.type_keys("sail 12⏎");
    let screen = scene.screen(158, 48);
    assert!(screen.contains("RIG") && screen.contains("▸▌Sail 12"), "{screen}");
}

#[test]
fn an_action_of_another_view_does_nothing_and_says_so() {
    // With a route chosen, `remove` is not for a fixture that nobody sees.
    let mut scene = Scene::demo();
    scene.go(ViewId::Output);
    scene.screen(158, 48);
    scene.run("find-action");
    scene.type_keys("remove⏎");
    assert!(!scene.document.unsaved(), "nothing is removed");
    scene.type_keys("⎋");
    for name in ["remove", "duplicate"] {
        for view in [ViewId::Output, ViewId::Play, ViewId::Inputs] {
            scene.go(view);
            let action = ViewId::Rig.action(name, "").expect("it is the rig's");
            scene.ask(crate::view::Ask::Action(action));
            assert!(!scene.document.unsaved(), "{name} on {view:?}");
            let screen = scene.screen(158, 48);
            assert!(screen.contains("is for the view rig: F2 goes there"), "{screen}");
        }
    }
    // On its own view it does what it says.
    scene.go(ViewId::Rig);
    scene.type_keys("↓");
    scene.run("find-action");
    scene.type_keys("remove⏎");
    assert_eq!(scene.document.kept().fixtures.len(), scene.show.fixtures.len() - 1);
}

#[test]
fn a_route_or_a_node_is_changed_only_where_it_is_seen_to_be_chosen() {
    let mut scene = Scene::demo();
    scene.network = busy_network();
    scene.go(ViewId::Output);
    scene.screen(158, 48);
    scene.type_keys("n");
    assert!(scene.screen(158, 48).contains("no node is chosen: Tab goes to the nodes"));
    scene.press(KeyCode::Tab);
    scene.press(KeyCode::Delete);
    scene.type_keys("x");
    assert!(!scene.document.unsaved() && scene.screen(158, 48).contains("no route is chosen"));
}

#[test]
fn the_settings_are_a_form_made_of_what_they_are_declared_as() {
    let mut scene = Scene::demo();
    scene.press(KeyCode::F(9));
    let screen = scene.screen(120, 36);
    for setting in splimo_show::setting::SETTINGS {
        assert!(screen.contains(setting.name), "{} is missing:\n{screen}", setting.name);
    }
    scene.type_keys("↓↓↓8");
    assert_eq!(scene.document.kept().settings.phrase_bars, 8);
    scene.type_keys("⎋");
    scene.run("undo");
    assert_eq!(scene.document.kept().settings.phrase_bars, 16);
    assert!(!scene.ui.has_open());
}

#[test]
fn leaving_is_asked_for_and_escape_stays() {
    let mut scene = Scene::demo();
    scene.run("leave");
    let screen = scene.screen(120, 36);
    assert!(screen.contains("ends the show") && screen.contains("leaves it running"), "{screen}");
    scene.type_keys("q⎋");
    assert!(!scene.ui.has_open() && scene.ui.leaves().is_none());
    scene.run("leave");
    scene.type_keys("r");
    assert_eq!((scene.ui.leaves(), scene.asked.as_slice()), (Some(&Leaving::RunOn), &[][..]));
    let mut scene = Scene::demo();
    scene.run("leave");
    scene.type_keys("⏎");
    let end = [SessionCommand::End.into()];
    assert_eq!((scene.ui.leaves(), scene.asked.as_slice()), (Some(&Leaving::EndShow), &end[..]));
    // Ctrl-C asks, and leaves at the second press, whatever is open.
    let mut scene = Scene::demo();
    scene.run("find-action");
    scene.press_with(KeyCode::Char('c'), KeyModifiers::CONTROL);
    assert!(scene.screen(120, 36).contains("leave Splimo?") && scene.ui.leaves().is_none());
    scene.press_with(KeyCode::Char('c'), KeyModifiers::CONTROL);
    assert_eq!((scene.ui.leaves(), scene.asked.as_slice()), (Some(&Leaving::RunOn), &[][..]));
}

#[test]
fn trouble_is_a_word() {
    let mut scene = Scene::demo();
    scene.troubles = vec![Trouble { subject: "output".into(), message: "3 packets could not be sent".into() }];
    let screen = scene.screen(120, 36);
    assert!(screen.contains("1 trouble") && screen.contains("output: 3 packets could not be sent"), "{screen}");
}

#[test]
fn empty_places_say_what_to_do() {
    let mut scene = Scene::of(Show::empty("Nothing"), &[], 3);
    let play = scene.screen(120, 36);
    assert!(play.contains("Nothing hangs here yet: a adds fixtures."), "{play}");
    scene.go(ViewId::Play);
    let play = scene.screen(120, 36);
    assert!(play.contains("No fixtures yet") && play.contains("no looks yet"), "{play}");
    scene.go(ViewId::Output);
    assert!(scene.screen(120, 36).contains("Nothing leaves yet"));
}

#[test]
fn a_click_on_a_pad_or_a_tab_does_what_its_key_does() {
    let mut scene = Scene::demo();
    let click = |scene: &mut Scene, word: &str| {
        let screen = scene.screen(120, 36);
        let row = screen.lines().position(|l| l.contains(word)).expect("it is on the screen");
        let line = screen.lines().nth(row).expect("a line");
        let column = line[..line.find(word).expect("in it")].chars().count() as u16;
        let kind = MouseEventKind::Down(MouseButton::Left);
        scene.mouse(MouseEvent { kind, column, row: row as u16, modifiers: KeyModifiers::NONE });
    };
    click(&mut scene, "Ember");
    assert_eq!(scene.asked, [EngineCommand::FirePad(7).into()]);
    click(&mut scene, "Lantern Quay");
    click(&mut scene, "output");
    assert_eq!((scene.asked.len(), scene.ui.view()), (1, ViewId::Output));
}

#[test]
fn letters_and_numbers_are_pads_on_play_and_nothing_else() {
    let mut scene = Scene::demo();
    scene.screen(158, 48);
    scene.type_keys("→");
    for (pad, key) in "1234567890qwertyuiopasdfghjklzxcvbnm".chars().enumerate() {
        scene.type_keys(&key.to_string());
        assert_eq!(scene.asked.pop(), Some(EngineCommand::FirePad(36 + pad + 1).into()), "{key}");
    }
    scene.press_with(KeyCode::Char('Q'), KeyModifiers::SHIFT);
    assert_eq!(scene.asked.pop(), Some(EngineCommand::FirePad(47).into()));
    scene.press_with(KeyCode::Char('q'), KeyModifiers::CONTROL);
    assert!(scene.asked.is_empty() && scene.ui.has_open(), "that one leaves");
}

#[test]
fn what_is_no_letter_is_not_typed() {
    let mut scene = Scene::demo();
    scene.go(ViewId::Rig);
    scene.type_keys("e");
    let before = scene.screen(120, 36);
    scene.type_keys("\u{7f}\u{1b}\u{85}\u{0}");
    assert_eq!(scene.screen(120, 36), before);
    scene.type_keys("x");
    assert_ne!(scene.screen(120, 36), before);
}

#[test]
fn a_paste_fires_nothing() {
    let mut scene = Scene::demo();
    scene.paste("qwerty 12345");
    assert_eq!(scene.asked, []);
    scene.run("find-action");
    scene.paste("black\nout");
    assert!(scene.screen(120, 36).contains("› blackout"));
}

#[test]
fn the_rig_at_its_three_sizes() {
    let mut scene = Scene::demo();
    scene.go(ViewId::Rig);
    scene.type_keys("↓↓c");
    for (width, height) in [(158, 48), (120, 36), (80, 24)] {
        insta::assert_snapshot!(format!("rig_{width}x{height}"), scene.screen(width, height));
    }
}

#[test]
fn a_wall_is_added_with_ten_keys_and_taken_back_with_one() {
    let mut scene = Scene::of(Show::empty("Wall"), &[], 1);
    scene.type_keys("a10↓↓16↓d");
    assert!(!scene.document.unsaved(), "it is only tried");
    insta::assert_snapshot!("rig_adding_120x36", scene.screen(120, 36));
    scene.type_keys("⏎");
    let show = scene.document.kept().clone();
    assert_eq!(show.fixtures.len(), 10);
    assert!(show.fixtures.iter().all(|f| f.angle == 90.0 && f.shape == Shape::Line { cells: 16 }));
    let ends: Vec<String> = [0, 9].map(|i| show.fixtures[i].address.expect("patched").to_string()).to_vec();
    assert_eq!(ends, ["1.1", "1.433"]);
    scene.run("undo");
    assert!(scene.document.shown().fixtures.is_empty());
    scene.type_keys("a24x18⏎");
    assert_eq!(scene.document.shown().fixtures.len(), 432);
}

#[test]
fn what_is_changed_is_seen_kept_or_restored() {
    let mut scene = Scene::demo();
    scene.go(ViewId::Rig);
    scene.type_keys("↓↓e↓↓8.1");
    let screen = scene.screen(120, 36);
    assert!(screen.contains("Sail 2 would overlap Bridge at 8.1"), "{screen}");
    scene.type_keys("⏎");
    assert!(scene.screen(120, 36).contains("would overlap"), "it is not taken, and the form stays open");
    scene.type_keys("⎋");
    assert_eq!(**scene.document.shown(), *scene.show);
    scene.type_keys("e↓↓0:1:3/1");
    let screen = scene.screen(120, 36);
    assert!(screen.contains("at 13.1"), "what leaves as 0:1:3 is universe 13:\n{screen}");
    scene.type_keys("⎋e↓↓0:8:3/1⏎");
    assert_eq!(scene.document.shown().fixtures[1].address, "132.1".parse().ok());
    scene.type_keys("e↓↓1.513");
    assert!(scene.screen(120, 36).contains("channel 513 does not exist"));
    scene.type_keys("⎋m→→↓⏎");
    let moved = &scene.document.shown().fixtures[1];
    assert_eq!((moved.x, moved.y), (scene.show.fixtures[1].x + 2.0, scene.show.fixtures[1].y + 1.0));
}

#[test]
fn proof_ends_when_one_leaves() {
    let mut scene = Scene::demo();
    scene.go(ViewId::Rig);
    scene.type_keys("↓↓i");
    scene.go(ViewId::Play);
    let test = |test: LightTest| Command::from(EngineCommand::Test(test));
    assert_eq!(scene.asked, [test(LightTest::Identify(vec![1])), test(LightTest::Off)]);
    scene.asked.clear();
    scene.go(ViewId::Rig);
    scene.type_keys("w→a⎋");
    let walk = |speed| test(LightTest::Walk { fixtures: vec![1], at: 0, speed });
    assert_eq!(scene.asked, [walk(0.0), EngineCommand::WalkStep(1).into(), walk(5.0), test(LightTest::Off)]);
    scene.asked.clear();
    scene.type_keys("t9");
    let held = HeldSlot { universe: 1, channel: 145, value: 9 };
    assert_eq!(scene.asked.last(), Some(&test(LightTest::Hold(vec![held]))));
    scene.press_with(KeyCode::Char('q'), KeyModifiers::CONTROL);
    scene.type_keys("r");
    assert_eq!(scene.asked.last(), Some(&test(LightTest::Off)));
}

#[test]
fn groups_are_made_of_what_is_chosen() {
    let mut scene = Scene::demo();
    scene.go(ViewId::Rig);
    scene.run("choose-all");
    scene.type_keys("gnOdd ones↓od↓rgbw⏎");
    let group = scene.document.shown().groups.last().cloned().expect("it is there");
    assert_eq!(
        (group.name.as_str(), group.members.len()),
        ("Odd ones", 9),
        "every other of the 17 that are rgbw: {group:?}"
    );
    scene.type_keys("⏎");
    assert!(scene.screen(120, 36).contains("9 chosen"), "Enter chooses the lights of the new group");
    scene.type_keys("gr⎋");
    assert_eq!(scene.document.shown().groups[0].members[0], "Sail 24");
    assert_eq!(scene.document.shown().groups[0].members.len(), 24);
}

#[test]
fn problems_lead_to_where_they_are() {
    let mut show = splimo_link::testing::lantern_quay();
    show.fixtures[26].address = show.fixtures[25].address;
    let mut scene = Scene::of(show, &[], 1);
    scene.go(ViewId::Rig);
    scene.type_keys("k");
    let screen = scene.screen(120, 36);
    assert!(
        screen.contains("error: fixture Mast R: it overlaps") && screen.contains("mend: move one of them"),
        "{screen}"
    );
    scene.type_keys("⏎");
    let screen = scene.screen(120, 36);
    assert!(screen.lines().any(|l| l.contains("▸▌Mast R")) && screen.contains('╳'), "{screen}");
}

#[test]
fn a_group_with_a_problem_is_found_among_the_groups() {
    let mut show = splimo_link::testing::lantern_quay();
    show.groups.push(show.groups[0].clone());
    let mut scene = Scene::of(show, &[], 1);
    scene.go(ViewId::Rig);
    scene.type_keys("k");
    assert!(scene.screen(120, 36).contains("its name is used twice"));
    scene.type_keys("⏎");
    let screen = scene.screen(120, 36);
    assert!(screen.lines().any(|l| l.trim() == "groups" || l.starts_with(" groups")), "{screen}");
}

#[test]
fn a_slot_that_does_not_leave_is_told() {
    let mut scene = Scene::demo();
    scene.go(ViewId::Rig);
    scene.type_keys("t↑30.1");
    assert!(scene.screen(158, 48).contains("universe 30 does not leave"), "{}", scene.screen(158, 48));
    scene.type_keys("⎋t↑17.9");
    assert!(!scene.screen(158, 48).contains("does not leave"));
}

#[test]
fn a_profile_of_ones_own_is_made_and_used() {
    let mut scene = Scene::demo();
    scene.go(ViewId::Rig);
    // Like rgbw, with a shutter for the whole fixture as its fifth channel.
    scene.type_keys("rnBlinder↓↓gamma 2.2↓↓↓5↓5↓shut↓↓200↓0");
    insta::assert_snapshot!("rig_profile_120x36", scene.screen(120, 36));
    scene.type_keys("⏎⎋");
    let profile = scene.document.shown().profiles.first().cloned().expect("it is there");
    assert_eq!((profile.name.as_str(), profile.channels.len(), profile.layout().tail), ("Blinder", 5, 1));
    assert_eq!(profile.tail()[0].rest(), 200);
    scene.type_keys("↓↓e↓Blin⏎");
    assert_eq!(scene.document.shown().fixtures[1].profile, "Blinder");
}

#[test]
fn undoing_ends_what_was_begun() {
    let mut scene = Scene::demo();
    scene.go(ViewId::Rig);
    scene.type_keys("↓↓m→⏎e");
    scene.press_with(KeyCode::Char('z'), KeyModifiers::CONTROL);
    assert_eq!(**scene.document.shown(), *scene.show);
    assert!(!scene.ui.has_open(), "a form of the show as it was is of no use");
}

#[test]
fn the_same_fixtures_stay_chosen_when_others_come_and_go() {
    let mut scene = Scene::demo();
    scene.go(ViewId::Rig);
    let names = |scene: &Scene| -> Vec<String> {
        scene.document.kept().fixtures.iter().map(|fixture| fixture.name.clone()).collect()
    };
    let before = names(&scene);
    // The second goes; then the third and the fourth of those that were there are chosen, and the second comes back.
    scene.type_keys("↓↓");
    scene.run("remove");
    assert_eq!(names(&scene).len(), before.len() - 1);
    assert!(!scene.screen(158, 48).contains("chosen"), "what takes its place is not chosen");
    scene.type_keys("↓");
    scene.run("choose-more 1");
    assert!(scene.screen(158, 48).contains("2 chosen"));
    scene.run("undo");
    assert_eq!(names(&scene), before);
    scene.run("remove");
    let left: Vec<String> = before[..2].iter().chain(&before[4..]).cloned().collect();
    assert_eq!(names(&scene), left);
    // Taken out once more there are others, one at a time.
    scene.run("remove");
    assert_eq!(names(&scene).len(), left.len() - 1);
}

#[test]
fn every_arrangement_and_packing_can_be_asked_for() {
    let added = |keys: &str| {
        let mut scene = Scene::of(Show::empty("Added"), &[], 1);
        scene.type_keys(keys);
        let screen = scene.screen(158, 48);
        assert!(!scene.ui.has_open(), "{keys} is refused: {screen}");
        scene.document.shown().clone()
    };
    // A column of four panels of 3 by 2, wired from the bottom right along columns, turning round.
    let show = added("a4↓grid↓3↓2↓bottom r↓colu↓y↓↓↓↓column⏎");
    let wiring = show.fixtures[0].wiring.to_string();
    assert_eq!(
        (show.fixtures[0].shape.to_string(), wiring),
        ("grid 3x2".into(), "bottom right, columns, turns".into())
    );
    assert_eq!(show.fixtures[3].y - show.fixtures[0].y, 6.0);
    // A circle of twelve washes of 24 channels offset.
    let show = added("a12↓↓↓↓↓↓circle↓20↓2.1↓fixed↓24⏎");
    let addresses: Vec<String> = show.fixtures.iter().filter_map(|f| f.address).map(|a| a.to_string()).collect();
    assert_eq!((addresses[0].as_str(), addresses[11].as_str()), ("2.1", "2.265"));
    assert!((show.fixtures[3].x - show.fixtures[0].x - 20.0).abs() < 1e-3 && show.fixtures[3].angle == 90.0);
    // Five to a universe.
    let show = added("a7↓↓16↓d↓↓↓↓↓↓fixtures↓5⏎");
    let universes: Vec<u32> = show.fixtures.iter().filter_map(|f| f.address).map(|a| a.universe).collect();
    assert_eq!(universes, [1, 1, 1, 1, 1, 2, 2]);
    // A moving head, whose pan can be set.
    let mut scene = Scene::of(Show::empty("Heads"), &[], 1);
    scene.type_keys("a↑moving⏎e↑↑↑↑↑↑");
    scene.type_keys("⎋e");
    (0..40).for_each(|_| scene.type_keys("↓"));
    scene.type_keys("80⏎");
    assert_eq!((scene.document.shown().fixtures[0].tilt, scene.document.shown().fixtures[0].pan), (80.0, 50.0));
}

#[test]
fn points_come_from_a_table_and_bad_ones_say_why() {
    let path = Scene::file("star.csv", "x,y\n0,0\n4,2\n8,0\n");
    let mut scene = Scene::of(Show::empty("Points"), &[], 1);
    scene.type_keys("a↓points↓/nowhere.csv");
    assert!(scene.screen(158, 48).contains("/nowhere.csv: it cannot be"));
    scene.type_keys("⏎");
    assert!(scene.ui.has_open(), "it is not taken");
    scene.type_keys("⎋a↓points↓");
    scene.type_keys(&path.display().to_string());
    scene.type_keys("⏎");
    let shape = &scene.document.shown().fixtures[0].shape;
    assert_eq!(*shape, Shape::Points { at: vec![[-4.0, -1.0], [0.0, 1.0], [4.0, -1.0]] });
}

#[test]
fn wiring_is_drawn_as_numbers_and_arrows() {
    let mut show = Show::empty("Panel");
    let panel = Fixture::new("Panel", "rgb", Shape::Grid { columns: 6, rows: 3 }).at(60.0, 30.0).patched(1, 1);
    show.fixtures.push(panel);
    let mut scene = Scene::of(show, &[], 1);
    scene.go(ViewId::Rig);
    scene.type_keys("↓fe↓↓↓↓↓↓↓");
    let drawn = |scene: &mut Scene| {
        let screen = scene.screen(158, 48);
        let lines = screen.lines().skip(4).filter(|l| l.contains(['→', '←'])).take(3);
        lines.map(|l| l.chars().skip(52).collect::<String>()).collect::<Vec<_>>()
    };
    let screen = scene.screen(158, 48);
    assert!(drawn(&mut scene).iter().any(|l| l.contains("1→") && l.contains("2→") && l.contains('6')), "{screen}");
    scene.type_keys("↓y");
    let turning = drawn(&mut scene).join("\n");
    assert!(turning.contains("12") && turning.find("12") < turning.find("11"), "the second row runs back: {turning}");
}

#[test]
fn the_rig_can_be_coloured_in_every_way() {
    let mut scene = Scene::demo();
    scene.go(ViewId::Rig);
    let mut seen = std::collections::BTreeSet::new();
    for name in ["live colour", "fixture", "universe", "group", "wiring order", "live colour"] {
        let screen = scene.screen(158, 48);
        assert!(screen.contains(&format!("coloured by {name}")), "{name}");
        let map: Vec<String> = screen.lines().skip(4).take(34).map(|l| l.chars().skip(52).collect()).collect();
        seen.insert(map);
        scene.type_keys("c");
    }
    assert_eq!(seen.len(), 5, "each way looks different, without colours as well");
}

#[test]
fn the_camera_goes_where_it_is_sent() {
    let mut scene = Scene::demo();
    scene.go(ViewId::Rig);
    let whole = scene.screen(158, 48);
    assert!(whole.contains("all lights"));
    scene.type_keys("z");
    let near = scene.screen(158, 48);
    assert!(near.contains("zoom 200 %") && near != whole);
    scene.run("pan-across 1");
    let right = scene.screen(158, 48);
    scene.run("pan-across -1");
    assert!(right != near && scene.screen(158, 48) == near, "there and back");
    scene.type_keys("f");
    assert_eq!(scene.screen(158, 48), whole);
    scene.type_keys("f");
    assert!(scene.screen(158, 48).contains("the canvas"), "nothing is chosen, so the canvas is next");
}

#[test]
fn the_canvas_takes_a_size_that_can_be() {
    let mut scene = Scene::demo();
    scene.go(ViewId::Rig);
    scene.type_keys("s-5");
    assert_eq!(scene.document.shown().canvas.width, 106.0);
    assert!(scene.screen(120, 36).contains("out of range"), "{}", scene.screen(120, 36));
    scene.type_keys("⎋s200↓80.5⏎");
    let canvas = scene.document.shown().canvas;
    assert_eq!((canvas.width, canvas.height), (200.0, 80.5));
    assert!(scene.screen(120, 36).contains("canvas 200 x 80.5"));
}

#[test]
fn copies_and_removals_are_one_step_each() {
    let mut scene = Scene::demo();
    scene.go(ViewId::Rig);
    scene.type_keys("↓↓");
    scene.run("choose-more 1");
    scene.type_keys("d");
    let show = scene.document.shown().clone();
    let names: Vec<&str> = show.fixtures[46..].iter().map(|f| f.name.as_str()).collect();
    assert_eq!(names, ["Sail 25", "Sail 26"]);
    assert!(show.fixtures[46].address.is_none() && scene.screen(120, 36).contains("not patched"));
    // The copies are chosen, and patched behind everything.
    scene.type_keys("p⏎");
    let address = |scene: &Scene, index: usize| scene.document.shown().fixtures[index].address.map(|a| a.to_string());
    assert_eq!((address(&scene, 46), address(&scene, 47)), (Some("17.130".into()), Some("17.274".into())));
    scene.run("remove");
    assert_eq!(scene.document.shown().fixtures.len(), 46);
    scene.run("undo");
    scene.run("undo");
    assert_eq!(address(&scene, 46), None);
    scene.run("undo");
    assert_eq!(**scene.document.shown(), *scene.show);
    // What a look needs stays, and why is said.
    let bridge = scene.show.fixtures.iter().position(|f| f.name == "Bridge").expect("it is there");
    scene.type_keys("⎋");
    // The first only chooses the one that the arrows are at.
    for by in [-100, -100] {
        scene.run(&format!("choose-fixture {by}"));
    }
    scene.run(&format!("choose-fixture {bridge}"));
    scene.run("remove");
    assert!(scene.screen(158, 48).contains("lights nothing else"), "{}", scene.screen(158, 48));
    assert_eq!(scene.document.shown().fixtures.len(), 46);
}

#[test]
fn groups_are_merged_recoloured_and_renamed() {
    let mut scene = Scene::demo();
    scene.go(ViewId::Rig);
    scene.type_keys("g↓↓x↓xm");
    let show = scene.document.shown().clone();
    assert_eq!(show.groups.iter().map(|g| g.name.as_str()).collect::<Vec<_>>(), ["Sail", "Masts", "Gangway", "Gulls"]);
    scene.type_keys("eDeck↓↓↓#12");
    scene.type_keys("⏎");
    assert!(scene.screen(120, 36).contains("is not a colour"), "half a colour is none");
    scene.type_keys("3456⏎");
    let deck = scene.document.shown().groups[2].clone();
    assert_eq!((deck.name.as_str(), deck.colour.map(|c| c.to_string())), ("Deck", Some("#123456".into())));
    assert!(scene.document.shown().looks.iter().flat_map(|l| &l.layers).any(|l| l.target.contains(&"Deck".to_owned())));
    // A name that is taken is refused where it is typed.
    scene.type_keys("eMasts⏎");
    assert!(scene.screen(120, 36).contains("there is a \"Masts\" already"));
}

#[test]
fn a_form_takes_letters_and_lets_nothing_else_happen() {
    let mut scene = Scene::demo();
    scene.go(ViewId::Rig);
    scene.type_keys("↓e");
    scene.asked.clear();
    scene.type_keys("a b,.-=/z x");
    assert_eq!(scene.asked, [], "no tap, no bar, no master while a name is typed");
    assert!(scene.screen(120, 36).contains("a b,.-=/z x"));
    scene.type_keys("`");
    assert_eq!(scene.asked, [EngineCommand::Blackout.into()], "but the blackout is one key everywhere");
    scene.paste("Long name");
    scene.type_keys("⏎");
    assert!(scene.document.shown().fixtures[0].name.ends_with("Long name"));
}

#[test]
fn a_question_asks_for_the_name_of_a_file() {
    let mut scene = Scene::demo();
    scene.go(ViewId::Rig);
    scene.press_with(KeyCode::Char('w'), KeyModifiers::CONTROL);
    assert!(scene.screen(120, 36).contains("type its name, then Enter"), "{}", scene.screen(120, 36));
    scene.type_keys("/tmp/two words⏎");
    assert_eq!(scene.asked, [SessionCommand::SaveAs("/tmp/two words".into()).into()]);
    scene.run("import-patch /nowhere.csv");
    assert!(scene.screen(158, 48).contains("/nowhere.csv: it cannot be read"));
}

#[test]
fn work_that_was_found_is_offered_and_then_what_was_on_stage() {
    let mut scene = Scene::demo();
    scene.state.found = true;
    scene.state.ran = Some("Tide on stage, master 80".into());
    let screen = scene.screen(120, 36);
    assert!(screen.contains("work that was not saved") && screen.contains("Nothing is lost"), "{screen}");
    scene.type_keys("q");
    assert_eq!(scene.asked, [], "a pad is not fired by the way");
    scene.state.found = false;
    scene.type_keys("⎋");
    let screen = scene.screen(120, 36);
    assert!(screen.contains("Tide on stage, master 80."), "{screen}");
    scene.state.ran = None;
    scene.type_keys("⏎");
    let wanted = [SessionCommand::LeaveFound.into(), SessionCommand::Resume.into()];
    assert_eq!((scene.asked.as_slice(), scene.ui.has_open()), (&wanted[..], false));
    // What another screen has answered is not asked any more.
    scene.state.found = true;
    scene.screen(120, 36);
    scene.state.found = false;
    assert!(!scene.screen(120, 36).contains("work that was not saved"));
}

#[test]
fn two_screens_edit_at_once_and_neither_loses_anything_without_a_word() {
    use splimo_document::edit::Edit;
    let mut scene = Scene::demo();
    scene.go(ViewId::Rig);
    scene.screen(158, 48);
    scene.type_keys("↓↓e");
    // Another screen takes out the fixture before it, and changes this one.
    let before = scene.document.kept().fixtures[1].clone();
    scene.apply_elsewhere(&DocumentCommand::Edit(Edit::Remove(vec![0])));
    assert_eq!(scene.document.kept().fixtures[0].name, before.name);
    let moved = Fixture { x: before.x + 5.0, ..before.clone() };
    scene.apply_elsewhere(&DocumentCommand::Edit(Edit::Put(vec![(0, moved.clone())])));
    scene.type_keys("⏎");
    assert_eq!(scene.document.kept().fixtures[0].x, moved.x, "what the other did stays");
}

#[test]
fn the_stage_of_every_view_follows_the_rig_at_once() {
    use splimo_document::edit::{Arrangement, Edit};
    for view in [ViewId::Play, ViewId::Looks, ViewId::Output, ViewId::Inputs] {
        let mut scene = Scene::demo();
        scene.go(view);
        let lit = |scene: &mut Scene| -> Vec<(u16, u16)> {
            let buffer = scene.buffer(158, 48);
            let dots = |x: u16, y: u16| matches!(buffer[(x, y)].symbol(), "·" | "░" | "▒" | "▓" | "█");
            (5..30).flat_map(|y| (60..158).map(move |x| (x, y))).filter(|(x, y)| dots(*x, *y)).collect()
        };
        let before = lit(&mut scene);
        let all: Vec<usize> = (0..scene.document.kept().fixtures.len()).collect();
        scene.apply_elsewhere(&DocumentCommand::Edit(Edit::Arrange(all, Arrangement::Move(0.0, -9.0))));
        scene.adopt();
        let moved = lit(&mut scene);
        assert_ne!(before, moved, "{view:?} keeps old places");
        let canvas = splimo_show::Canvas { width: 300.0, height: 150.0 };
        scene.apply_elsewhere(&DocumentCommand::Edit(Edit::Canvas(canvas)));
        scene.adopt();
        assert_ne!(moved, lit(&mut scene), "{view:?} keeps the old size of the canvas");
    }
}

#[test]
fn several_are_changed_at_once_and_keep_what_was_not_touched() {
    let mut scene = Scene::demo();
    scene.go(ViewId::Rig);
    scene.type_keys("↓");
    (0..3).for_each(|_| scene.run("choose-more 1"));
    scene.type_keys("e");
    let screen = scene.screen(120, 36);
    assert!(screen.contains("4 chosen") || screen.contains("various"), "{screen}");
    // Only the profile: names, places and wirings stay their own.
    scene.type_keys("↓grb⏎");
    let (before, after) = (scene.show.clone(), scene.document.shown().clone());
    for (was, is) in before.fixtures.iter().zip(&after.fixtures).take(4) {
        assert_eq!(*is, Fixture { profile: "grb".into(), ..was.clone() });
    }
    assert_eq!(after.fixtures[4], before.fixtures[4]);
}

#[test]
fn the_mouse_chooses_moves_and_zooms() {
    let mut scene = Scene::demo();
    scene.go(ViewId::Rig);
    scene.type_keys("c");
    let screen = scene.screen(158, 48);
    let place = |scene: &mut Scene, kind, column, row| {
        scene.mouse(MouseEvent { kind, column, row, modifiers: KeyModifiers::NONE });
    };
    // The first light of the panel is somewhere in the lower half; a band around all of it chooses it.
    let row = screen.lines().position(|l| l.contains("Sail 3 ")).expect("it is listed") as u16;
    place(&mut scene, MouseEventKind::Down(MouseButton::Left), 10, row);
    assert!(scene.screen(158, 48).lines().any(|l| l.contains("▸▌■ Sail 3")));
    let before = scene.document.shown().fixtures[2].clone();
    scene.run("fit");
    let screen = scene.screen(158, 48);
    let label = screen.lines().enumerate().find_map(|(y, l)| Some((l.find("┌Sail 3")?, y, l))).expect("its name");
    let column = label.2[..label.0].chars().count() as u16 + 1;
    let row = label.1 as u16 + 4;
    place(&mut scene, MouseEventKind::Down(MouseButton::Left), column, row);
    place(&mut scene, MouseEventKind::Drag(MouseButton::Left), column + 20, row);
    assert!(!scene.document.unsaved());
    place(&mut scene, MouseEventKind::Up(MouseButton::Left), column + 20, row);
    let after = &scene.document.shown().fixtures[2];
    assert!(after.x > before.x && after.y == before.y, "{} {}", before.x, after.x);
    place(&mut scene, MouseEventKind::ScrollUp, column, row);
    assert!(scene.screen(158, 48).contains("zoom"));
}

/// The time that an edit of a show of 10,000 fixtures takes until it is drawn. A measurement, not a test:
/// `cargo test --release -p splimo --lib -- --ignored --nocapture an_edit_of`
#[test]
#[ignore = "a measurement"]
fn an_edit_of_a_large_show_on_the_screen() {
    let mut show = Show::empty("Large");
    show.canvas = splimo_show::Canvas { width: 1800.0, height: 110.0 };
    show.fixtures = (0..10_000u32)
        .map(|i| {
            let tube = Fixture::new(&format!("Tube {i}"), "rgb", Shape::Line { cells: 17 });
            tube.at((i % 100) as f32 * 18.0 + 9.0, (i / 100) as f32 + 2.0).patched(i / 10 + 1, (i % 10) as u16 * 51 + 1)
        })
        .collect();
    let mut scene = Scene::of(show, &[], 1);
    scene.go(ViewId::Rig);
    scene.type_keys("↓");
    scene.screen(158, 48);
    let (mut times, mut edits) = (Vec::new(), Vec::new());
    for _ in 0..20 {
        scene.type_keys("m");
        for keys in ["→", "↓", "⏎"] {
            let start = std::time::Instant::now();
            scene.type_keys(keys);
            edits.push(start.elapsed().as_secs_f64() * 1e3);
            scene.screen(158, 48);
            times.push(start.elapsed().as_secs_f64() * 1e3);
        }
    }
    times.sort_by(f64::total_cmp);
    edits.sort_by(f64::total_cmp);
    println!("the edit alone: {:.1} ms at the median", edits[edits.len() / 2]);
    println!(
        "an edit to the screen: {:.1} ms at the median, {:.1} at most",
        times[times.len() / 2],
        times[times.len() - 1]
    );
}
