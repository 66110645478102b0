//! The view Output by keys alone, in the real program, with nodes on loopback.

mod desk;

use std::net::Ipv4Addr;
use std::time::{Duration, Instant};

use desk::{Desk, is_there};
use nix::sys::signal::Signal;
use splimo::standin::node::{Node, NodeSpec};
use splimo_wire::Protocol;

const SHOW: &str = r##"
version = 1
name = "Keys"
[[fixtures]]
name = "Bar"
profile = "rgb"
address = "7301.1"
shape = { line = { cells = 100 } }
x = 50.0
y = 10.0
[[looks]]
name = "White"
[[looks.layers]]
effect = "gradient"
params = { colours = ["#ffffff"] }
"##;

fn node(last: u8, ports: &[u16]) -> Node {
    Node::start(NodeSpec { ports: ports.to_vec(), ..NodeSpec::at(Ipv4Addr::new(127, 92, 0, last)) }).expect("free")
}

fn first_slot(node: &Node, port: u16) -> u8 {
    node.reception().universe(Protocol::ArtNet, port).map_or(0, |u| u.slots[0])
}

fn frames(node: &Node, port: u16) -> u64 {
    node.reception().universe(Protocol::ArtNet, port).map_or(0, |u| u.frames)
}

fn wait(what: &str, mut done: impl FnMut() -> bool) {
    let start = Instant::now();
    while !done() {
        assert!(start.elapsed() < desk::PATIENCE, "waited in vain for {what}");
        std::thread::sleep(Duration::from_millis(20));
    }
}

/// The address of the node that is chosen.
fn chosen(screen: &str) -> Option<String> {
    let line = screen.lines().find_map(|line| line.split_once("▸ 127."))?.1;
    line.split_whitespace().next().map(str::to_owned)
}

#[test]
fn a_node_is_found_fed_limited_and_switched_off_by_keys() {
    let node = node(2, &[7300]);
    let desk = Desk::new("output");
    std::fs::write(desk.state.path().join("keys.splimo"), SHOW).expect("written");
    desk.start("", "open keys.splimo --look White");
    desk.keys(&["F3"]);
    desk.wait("an empty list", |s| s.contains("universe 7301 has no route") && s.contains("no route carries it"));
    // Other tests may have nodes of their own on loopback; ours is chosen by its address.
    desk.keys(&["Tab"]);
    desk.wait("the node", |s| s.contains("127.92.0.2") && s.contains("no route feeds it"));
    // Who answers again moves up, so that it may be on either side of what is chosen.
    for _ in 0..100 {
        let screen = desk.wait("a choice", |s| chosen(s).is_some());
        let line = |words: &str| screen.lines().position(|line| line.contains(words));
        let (own, at) = (line(" 127.92.0.2 "), line("▸ 127."));
        if own == at {
            break;
        }
        desk.keys(&[if own < at { "Up" } else { "Down" }]);
        let before = chosen(&screen);
        desk.wait("another choice", |s| chosen(s).is_some() && chosen(s) != before);
    }
    desk.keys(&["n"]);
    desk.wait("the route", |s| s.contains("Stand-in 2") && s.contains("Art-Net 28:8:4"));
    wait("light at the node", || first_slot(&node, 7300) == 255);

    // The road of a slot.
    desk.keys(&["Tab", "Right", "Right"]);
    desk.wait("its road", |s| s.contains("slot 3 = Bar cell 1 blue") && s.contains("light 1.000 × master 100 %"));

    // A limit is seen while it is typed, and taken back by Escape.
    desk.keys(&["Tab", "e"]);
    desk.wait("the form", |s| s.contains("brightness"));
    desk.keys(&["Down", "Down", "Down", "Down", "Down"]);
    desk.tmux(&["send-keys", "-t", "desk", "-l", "50"]);
    wait("half the light", || (126..=129).contains(&first_slot(&node, 7300)));
    desk.keys(&["Escape"]);
    wait("all of it again", || first_slot(&node, 7300) == 255);

    // Off, and on again by undo.
    desk.keys(&["x"]);
    desk.wait("off", |s| s.contains("Stand-in 2 is off"));
    wait("silence", || {
        let before = frames(&node, 7300);
        std::thread::sleep(Duration::from_millis(1500));
        frames(&node, 7300) == before
    });
    desk.keys(&["C-z"]);
    let before = frames(&node, 7300);
    wait("frames", || frames(&node, 7300) > before + 2);

    // What is typed wrongly is said, and nothing is lost.
    desk.keys(&["a", "Down", "Down", "Down"]);
    desk.tmux(&["send-keys", "-t", "desk", "-l", "10.0.0.300"]);
    desk.keys(&["Enter"]);
    desk.wait("the reason", |s| s.contains("\"10.0.0.300\" is not a destination"));

    // A supply of a few amperes dims its lights, and says so. A quick hand's Escape and the next key come in one breath.
    desk.tmux(&["send-keys", "-t", "desk", "Escape", "p", "n"]);
    desk.wait("a supply", |s| s.contains("gives at most"));
    desk.keys(&["Down"]);
    desk.tmux(&["send-keys", "-t", "desk", "-l", "Bar"]);
    desk.keys(&["Down"]);
    desk.tmux(&["send-keys", "-t", "desk", "-l", "3.1"]);
    desk.keys(&["Enter"]);
    desk.wait("dimmed light", |s| s.contains("dimmed to 50 %") && s.contains(" trouble"));
    wait("half the light", || (125..=130).contains(&first_slot(&node, 7300)));
    desk.keys(&["Escape"]);

    desk.keys(&["C-s"]);
    desk.wait("saved", |s| s.contains("saved as"));
    desk.leave();
    let saved = std::fs::read_to_string(desk.state.path().join("keys.splimo")).expect("a file");
    assert!(saved.contains("universes = \"7301\"") && saved.contains("feeds = [\"Bar\"]"), "{saved}");
}

#[test]
fn what_ran_is_offered_after_a_kill_and_not_after_leaving() {
    let desk = Desk::new("resume");
    desk.start("", "demo --audio none");
    desk.wait("the demo", |s| s.contains("PLAY") && s.contains(" fps"));
    desk.keys(&["4", "Enter", "-", "-"]);
    desk.wait("Phosphor", |s| s.contains("master  90") && s.contains("Phosphor"));
    let folder = desk.state.path().join("splimo");
    wait("a note of it", || {
        std::fs::read_to_string(folder.join("Lantern-Quay.running"))
            .is_ok_and(|text| text.contains("Phosphor") && text.contains("90"))
    });
    desk.signal_session(Signal::SIGKILL);
    desk.sit_down_anew();
    desk.start("", "demo --audio none");
    desk.wait("the offer", |s| s.contains("go on where it ended?") && s.contains("Phosphor on stage, master 90"));
    desk.keys(&["Enter"]);
    desk.wait("what ran", |s| s.contains("master  90") && !s.contains("go on where it ended?"));
    desk.leave();
    desk.sit_down_anew();
    desk.start("", "demo --audio none");
    desk.wait("a fresh start", |s| s.contains("PLAY") && s.contains("master 100"));
    desk.leave();
}

#[test]
fn nodes_show_what_comes_and_end_with_their_terminal() {
    let desk = Desk::new("node");
    desk.type_line(&format!(
        "{} node --bind 127.92.1.2 --count 2 --universes 1-2 --name Box",
        env!("CARGO_BIN_EXE_splimo")
    ));
    desk.wait("two nodes", |s| {
        s.contains("127.92.1.2  Box 1") && s.contains("127.92.1.3  Box 2") && s.contains("waits for")
    });
    let socket = std::net::UdpSocket::bind("127.0.0.1:0").expect("a socket");
    let repr = splimo_wire::artnet::dmx::Repr { sequence: 1, physical: 0, port_address: 1, data: &[200; 510] };
    let mut packet = vec![0; repr.buffer_len()];
    repr.emit(&mut splimo_wire::artnet::dmx::Packet::new_unchecked(&mut packet));
    socket.send_to(&packet, "127.92.1.3:6454").expect("sends");
    desk.wait("the universe", |s| s.contains("Art-Net 0:0:1") && s.contains("127.0.0.1"));
    desk.keys(&["q"]);
    desk.wait("the report", |s| s.contains("malformed packets") && s.contains("ready$"));
    // One whose terminal vanishes does not live on, even where the signal that tells of it is ignored.
    desk.type_line(&format!("trap '' HUP; exec {} node --bind 127.92.1.4", env!("CARGO_BIN_EXE_splimo")));
    desk.wait("a node", |s| s.contains("127.92.1.4  Stand-in 4"));
    let process = desk.shell_pid();
    desk.tmux(&["kill-pane", "-t", "desk"]);
    wait("its end", || !is_there(process));
}

/// A source of sACN on this machine: it announces universes, and sends the first of them and one that it keeps to itself.
fn desk_on_loopback(
    name: &'static str,
    announced: u16,
    silent: u16,
    over: std::sync::Arc<std::sync::atomic::AtomicBool>,
) {
    use splimo_wire::sacn;
    let interface = splimo_wire::socket::interfaces().into_iter().find(|interface| interface.loopback);
    let socket = splimo_wire::socket::open(&splimo_wire::socket::Outlet { interface, v6: false }).expect("a socket");
    let send = |packet: &[u8], universe: u16| drop(socket.send_to(packet, (sacn::multicast(universe), sacn::PORT)));
    let mut sequence = 0u8;
    while !over.load(std::sync::atomic::Ordering::Relaxed) {
        for page in sacn::discovery::pages([7; 16], name, &[announced]) {
            send(&page, sacn::DISCOVERY_UNIVERSE);
        }
        for universe in [announced, silent] {
            let repr = sacn::data::Repr {
                cid: [7; 16],
                source_name: name,
                priority: 100,
                sync_address: 0,
                sequence,
                preview: false,
                terminated: false,
                force_sync: false,
                universe,
                start_code: 0,
                slots: &[universe as u8; 512],
            };
            let mut packet = vec![0; repr.buffer_len()];
            repr.emit(&mut sacn::data::Packet::new_unchecked(&mut packet));
            send(&packet, universe);
        }
        sequence = sequence.wrapping_add(1);
        std::thread::sleep(Duration::from_millis(50));
    }
}

#[test]
fn what_others_announce_is_heard_and_any_universe_can_be_looked_at() {
    let over = std::sync::Arc::new(std::sync::atomic::AtomicBool::new(false));
    let source = {
        let over = over.clone();
        std::thread::spawn(move || desk_on_loopback("House desk", 31_001, 31_002, over))
    };
    let desk = Desk::new("incoming");
    std::fs::write(desk.state.path().join("keys.splimo"), SHOW).expect("written");
    desk.start("", "open keys.splimo --look White");
    desk.keys(&["F3", "v"]);
    // Other tests announce universes too; ours is the highest.
    for _ in 0..100 {
        if desk.screen().contains("comes in: sACN 31001") {
            break;
        }
        desk.keys(&["PageDown"]);
        std::thread::sleep(Duration::from_millis(50));
    }
    desk.wait("its slots", |s| {
        s.contains("comes in: sACN 31001") && s.contains("House desk") && s.contains(" 25  25 ")
    });
    desk.keys(&["u"]);
    desk.type_line("31002");
    desk.wait("one that nobody announced", |s| s.contains("comes in: sACN 31002") && s.contains(" 26  26 "));
    desk.keys(&["u"]);
    desk.type_line("elsewhere");
    desk.wait("the reason", |s| s.contains("\"elsewhere\" is no universe"));
    desk.leave();
    over.store(true, std::sync::atomic::Ordering::Relaxed);
    source.join().expect("it ends");
}
