use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use splimo_document::DocumentCommand;
use splimo_document::edit::Edit;
use splimo_link::network::{Flood, Received};
use splimo_link::testing::{answer, streams};
use splimo_show::{Destination, Show};
use splimo_wire::Protocol;

use crate::tests::Scene;
use crate::views::ViewId;

/// The demo on the view Output.
fn scene() -> Scene {
    let mut scene = Scene::demo();
    scene.go(ViewId::Output);
    scene.screen(158, 48);
    scene
}

fn press(scene: &mut Scene, code: KeyCode) {
    scene.press(code);
    scene.screen(158, 48);
}

fn tabs(scene: &mut Scene, count: usize) {
    (0..count).for_each(|_| press(scene, KeyCode::Tab));
}

/// A node of one port answers.
fn answers(scene: &mut Scene, last: u8, output: u16) {
    scene.network.now += 1.0;
    answer(&mut scene.network, last, last, &[output]);
    scene.screen(158, 48);
}

fn comes_in(universe: u16) -> Received {
    Received {
        protocol: Protocol::Sacn,
        universe,
        rate: 40.0,
        counts: (40, 25_520, 0),
        gap_ms: Default::default(),
        changed: 1.0,
        sources: Vec::new(),
        slots: vec![universe as u8; 512],
    }
}

/// The line above the slots.
fn head(scene: &mut Scene) -> String {
    let screen = scene.screen(158, 48);
    let line = screen.lines().find(|line| line.contains("universe ") && line.contains("change"));
    line.unwrap_or_else(|| panic!("no universe is shown:\n{screen}")).to_owned()
}

#[test]
fn a_node_stays_chosen_where_another_one_answers() {
    let mut scene = scene();
    for last in [10, 20] {
        answers(&mut scene, last, 0x20 + u16::from(last));
    }
    press(&mut scene, KeyCode::Delete);
    tabs(&mut scene, 1);
    press(&mut scene, KeyCode::Down);
    // The second of two is chosen; now a third one answers whose place is before both.
    answers(&mut scene, 5, 0x30);
    press(&mut scene, KeyCode::Char('n'));
    let to: Vec<String> = scene.document.kept().routes.iter().map(|route| route.to.to_string()).collect();
    assert_eq!(to.last().map(String::as_str), Some("127.0.0.20"), "{to:?}");
    // Once it is fed, it says so.
    scene.output.streams = streams(scene.document.kept(), &scene.rig);
    scene.screen(158, 48);
    let before = scene.document.kept().routes.len();
    press(&mut scene, KeyCode::Char('n'));
    assert!(scene.screen(158, 48).contains("127.0.0.20 is fed already"));
    assert_eq!(scene.document.kept().routes.len(), before);
    // One that is somebody else's is left alone, and counts again.
    scene.type_keys("i");
    assert_eq!(scene.document.kept().settings.ignored_nodes, [std::net::Ipv4Addr::new(127, 0, 0, 20)]);
    assert!(scene.screen(158, 48).contains("left alone (i)"));
    scene.type_keys("i");
    assert!(scene.document.kept().settings.ignored_nodes.is_empty());
}

#[test]
fn a_route_stays_chosen_where_another_comes_back() {
    let mut scene = scene();
    let names = |scene: &Scene| -> Vec<String> {
        scene.document.kept().routes.iter().map(|route| route.name.clone()).collect()
    };
    let before = names(&scene);
    press(&mut scene, KeyCode::Delete);
    assert_eq!(names(&scene), before[1..]);
    press(&mut scene, KeyCode::Down);
    scene.run("undo");
    scene.screen(158, 48);
    press(&mut scene, KeyCode::Char('x'));
    let off: Vec<&str> =
        scene.document.kept().routes.iter().filter(|route| !route.enabled).map(|route| route.name.as_str()).collect();
    assert_eq!(off, [before[2].as_str()], "the second of those that were left is the third now");
    assert!(scene.screen(158, 48).contains(&format!("{} is off", before[2])));
}

#[test]
fn where_there_is_no_route_the_keys_say_so() {
    let mut scene = Scene::of(Show::empty("Nothing"), &[], 1);
    scene.go(ViewId::Output);
    scene.screen(120, 36);
    scene.type_keys("e");
    assert!(scene.screen(120, 36).contains("there is no route yet: a adds one"));
    scene.press(KeyCode::Tab);
    scene.type_keys("n");
    assert!(scene.screen(120, 36).contains("no node has answered yet"));
    scene.type_keys("x");
    press(&mut scene, KeyCode::Delete);
    assert!(scene.document.kept().routes.is_empty() && !scene.document.unsaved());
    assert!(scene.screen(120, 36).contains("No light is patched yet"));
}

#[test]
fn slots_are_chosen_by_arrows_and_never_beyond_the_ends() {
    let mut scene = scene();
    tabs(&mut scene, 2);
    let slot = |scene: &mut Scene| {
        let screen = scene.screen(158, 48);
        let at = screen.find("slot ").unwrap_or_else(|| panic!("no slot is told:\n{screen}"));
        screen[at + 5..].split_whitespace().next().expect("a number").parse::<usize>().expect("a number")
    };
    assert_eq!(slot(&mut scene), 1);
    press(&mut scene, KeyCode::Left);
    assert_eq!(slot(&mut scene), 1);
    press(&mut scene, KeyCode::Right);
    assert_eq!(slot(&mut scene), 2);
    press(&mut scene, KeyCode::Down);
    assert_eq!(slot(&mut scene), 34, "a line has 32");
    (0..40).for_each(|_| press(&mut scene, KeyCode::Down));
    assert_eq!(slot(&mut scene), 512);
    press(&mut scene, KeyCode::Char('b'));
    press(&mut scene, KeyCode::Up);
    assert!(slot(&mut scene) < 512 - 100, "a line of bars is longer");
}

#[test]
fn a_click_chooses_the_slot_that_is_seen_there() {
    let mut scene = scene();
    tabs(&mut scene, 2);
    // So far down that the first lines are out of sight on a small screen.
    (0..15).for_each(|_| press(&mut scene, KeyCode::Down));
    for (width, height) in [(158, 48), (80, 24)] {
        let screen = scene.screen(width, height);
        let lines: Vec<&str> = screen.lines().collect();
        let (row, first) = lines
            .iter()
            .enumerate()
            .rev()
            .find_map(|(row, line)| Some((row, line.split_whitespace().next()?.parse::<usize>().ok()?)))
            .expect("a line of slots");
        let row = row - 1;
        let per_line = if width > 100 { 32 } else { 16 };
        // The third number of the line above the last one.
        let column = 5 + 2 * 4 + 2;
        let event = MouseEvent {
            kind: MouseEventKind::Down(MouseButton::Left),
            column,
            row: row as u16,
            modifiers: KeyModifiers::NONE,
        };
        scene.mouse(event);
        let expected = format!("slot {} ", first - per_line + 2);
        let screen = scene.screen(width, height);
        assert!(screen.contains(&expected), "{expected} at {width}x{height}:\n{screen}");
    }
}

#[test]
fn a_universe_that_is_looked_at_stays_when_more_come_in() {
    let mut scene = scene();
    scene.network.received = vec![comes_in(4), comes_in(7)];
    scene.run("received");
    scene.screen(158, 48);
    assert_eq!(scene.ui.subscription().received, Some((Protocol::Sacn, 4)));
    scene.run("next-universe 1");
    scene.screen(158, 48);
    assert_eq!(scene.ui.subscription().received, Some((Protocol::Sacn, 7)));
    scene.network.received.insert(0, comes_in(1));
    let screen = scene.screen(158, 48);
    assert!(screen.contains("comes in: sACN 7") && screen.contains("3 of 3"), "{screen}");
    assert_eq!(scene.ui.subscription().received, Some((Protocol::Sacn, 7)));
    // It falls silent: the list goes on with what there is.
    scene.network.received.truncate(2);
    assert!(scene.screen(158, 48).contains("comes in: sACN 4"));
    scene.network.received.clear();
    assert!(scene.screen(158, 48).contains("comes in: nothing; v shows what goes out"));
    assert_eq!(scene.ui.subscription().received, None);
}

#[test]
fn a_change_is_told_once_it_was_seen() {
    let mut scene = scene();
    assert!(head(&mut scene).contains("no change seen yet"));
    scene.published.slots[3] ^= 0xff;
    scene.published.snapshot.time += 1.0;
    assert!(head(&mut scene).contains("changed 0.0 s ago"));
    scene.published.snapshot.time += 2.5;
    assert!(head(&mut scene).contains("changed 2.5 s ago"));
    // Another universe has slots of its own, which is no change.
    let key = KeyEvent::new(KeyCode::PageDown, KeyModifiers::NONE);
    scene.key(key);
    assert!(head(&mut scene).contains("no change seen yet"));
}

#[test]
fn a_route_to_nodes_is_kept_to_those_that_take_it_and_let_go_again() {
    let mut scene = scene();
    press(&mut scene, KeyCode::Char('o'));
    assert!(scene.screen(158, 48).contains("only routes to nodes can be kept to some"));
    let mut route = scene.document.kept().routes[0].clone();
    route.to = Destination::Nodes.into();
    scene.apply(&DocumentCommand::Edit(Edit::PutRoute(0, route)));
    scene.screen(158, 48);
    press(&mut scene, KeyCode::Char('o'));
    assert!(scene.screen(158, 48).contains("no node takes"), "there is none to keep it to");
    answers(&mut scene, 20, 0);
    answers(&mut scene, 10, 3);
    answers(&mut scene, 30, 0x700);
    press(&mut scene, KeyCode::Char('o'));
    assert_eq!(scene.document.kept().routes[0].to.to_string(), "nodes 127.0.0.10 127.0.0.20");
    assert!(scene.screen(158, 48).contains("only, whoever else answers"));
    press(&mut scene, KeyCode::Char('o'));
    assert_eq!(scene.document.kept().routes[0].to.to_string(), "nodes");
}

#[test]
fn what_others_claim_flood_and_leave_behind_is_seen() {
    let mut scene = scene();
    answers(&mut scene, 20, 0);
    scene.network.now = 60.0;
    let [from, claimed] = [[10, 0, 0, 66], [10, 0, 0, 7]].map(std::net::Ipv4Addr::from);
    let reply = splimo_wire::artnet::poll_reply::Repr { address: claimed, ..reply() };
    scene.network.directory.doubt(&reply, from, splimo_wire::belief::Doubt::OtherAddress, 60.0);
    scene.network.flood = Some(Flood { address: from.into(), rate: 12_000.0, all: 12_100.0, senders: 2 });
    scene.network.listening = vec!["10.0.0.2:6454".parse().expect("an address")];
    let screen = scene.screen(158, 48);
    assert!(screen.contains("1 gone, g forgets"), "{screen}");
    assert!(screen.contains("10.0.0.66 says it is 10.0.0.7 (1x): it sends from another address"), "{screen}");
    assert!(screen.contains("10.0.0.66 sends 12000 packets a second here: some is lost"), "{screen}");
    press(&mut scene, KeyCode::Char('l'));
    let screen = scene.screen(158, 48);
    assert!(screen.contains("what listens on the network") && screen.contains("10.0.0.2:6454"), "{screen}");
    assert!(screen.contains("nodes: our own networks"), "{screen}");
    press(&mut scene, KeyCode::Esc);
    assert!(!scene.screen(158, 48).contains("what listens on the network"));
}

fn reply() -> splimo_wire::artnet::poll_reply::Repr<'static> {
    use splimo_wire::artnet::poll_reply::{OEM_UNKNOWN, Repr, Style};
    Repr {
        address: std::net::Ipv4Addr::UNSPECIFIED,
        version: 1,
        oem: OEM_UNKNOWN,
        short_name: "",
        long_name: "",
        report: "",
        switch: 0,
        ports: Default::default(),
        port_count: 0,
        style: Style::Node,
        mac: [6; 6],
        bind_address: std::net::Ipv4Addr::UNSPECIFIED,
        bind_index: 1,
        refresh_rate: 0,
    }
}
