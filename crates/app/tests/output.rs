//! Output as receivers see it: nodes that are found and fed, synchronised, recorded and replayed, and serial pixels.

mod desk;

use std::net::{Ipv4Addr, SocketAddr};
use std::path::Path;
use std::process::{Command, Output};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

use desk::output::{find, frames, node, route, show, started, text, wait};
use serde_json::Value;
use splimo::standin::controller::Controller;
use splimo::standin::node::{Node, NodeSpec};
use splimo_engine::Snapshot;
use splimo_link::message::{Guest, Request, Update};
use splimo_runtime::network::Timed;
use splimo_runtime::session::{Session, Start};
use splimo_show::{Boundary, Look, TimeCode};
use splimo_time::tempo::ClockSource;
use splimo_wire::Protocol;
use splimo_wire::artnet::{self, poll, time_code, trigger};
use splimo_wire::message::Message;
use splimo_wire::socket::{self, Receiver};

fn splimo(arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_splimo")).args(arguments).envs(desk::apart()).output().expect("it runs")
}

fn json(output: &Output) -> Value {
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    serde_json::from_slice(&output.stdout).expect("one JSON document")
}

#[test]
fn frames_find_the_nodes_that_ask_for_them() {
    // Port-addresses that nobody else asks for.
    let first = node([127, 91, 0, 2], &[7001]);
    let second = node([127, 91, 0, 3], &[7001, 7002]);
    let (runtime, _outlook) = started(show(&route("Found", "art-net", 7001, "nodes", "")));
    wait("both nodes to be fed", || {
        frames(&first, Protocol::ArtNet, 7001) > 3
            && frames(&second, Protocol::ArtNet, 7001) > 3
            && frames(&second, Protocol::ArtNet, 7002) > 3
    });
    assert_eq!(frames(&first, Protocol::ArtNet, 7002), 0, "it did not ask for this one");
    let status = runtime.exchange().status();
    let found = status.directory.devices().iter().any(|d| d.address == first.address() && d.outputs == [7001]);
    assert!(found, "{:?}", status.directory.devices());
    drop(first);
    let left = second.reception().packets;
    wait("the others to go on", || second.reception().packets > left + 50);
    runtime.stop();
}

#[test]
fn a_synchronisation_follows_each_frame() {
    let node = node([127, 91, 1, 2], &[]);
    let to = node.address().to_string();
    let routes = [
        route("Art", "art-net", 0, &to, "sync = true\nunchanged = \"repeat\""),
        route("Sacn", "sacn", 1, &to, "sync = true\nunchanged = \"repeat\"\npriority = 150"),
    ];
    let (runtime, _outlook) = started(show(&routes.concat()));
    wait("frames and synchronisations", || {
        frames(&node, Protocol::Sacn, 2) > 40 && frames(&node, Protocol::ArtNet, 1) > 40 && node.reception().syncs > 60
    });
    let reception = node.reception();
    let universe = reception.universe(Protocol::Sacn, 1).expect("it came");
    assert_eq!(universe.arbiter().sources()[0].priority, 150);
    assert!(universe.slots.iter().any(|slot| *slot > 0), "what waits is put out");
    runtime.stop();
}

#[test]
fn splimo_answers_polls_tells_the_time_and_lets_itself_be_triggered() {
    let own = SocketAddr::from((Ipv4Addr::new(127, 91, 6, 2), artnet::PORT));
    let mut ears = Receiver::default();
    ears.listen(own, false).expect("a free address");
    ears.listen(SocketAddr::from((Ipv4Addr::new(127, 255, 255, 255), artnet::PORT)), true).expect("shared");
    let mut timed = show("");
    timed.name = "Timekeeper 91".into();
    timed.settings.time_code = TimeCode::Ebu;
    timed.settings.triggers = true;
    timed.settings.lands = Boundary::Now;
    let second = Look { name: "Second".into(), ..timed.looks[0].clone() };
    timed.looks.push(second);
    timed.banks.clear();
    timed.give_banks();
    let session = Session::start(Start::within_process(timed)).expect("it starts");
    let (runtime, link) = (session.runtime().clone(), session.attach(Guest::Screen));
    let over = Arc::new(AtomicBool::new(false));
    let until = over.clone();
    let session = std::thread::spawn(move || session.run(|| until.load(Ordering::Relaxed)));
    let mut engine = Snapshot::default();
    let mut present = || {
        for update in link.updates().try_iter() {
            if let Update::Engine(snapshot) = update {
                engine = *snapshot;
            }
        }
        engine.clone()
    };
    let there = find(&mut ears, own, "Timekeeper 91");
    let mut times = Vec::new();
    while times.len() < 30 {
        ears.receive(Duration::from_secs(5), 64, |bytes, from, _| {
            if let (Ok(Message::TimeCode(time)), true) = (Message::parse(bytes), from == there) {
                times.push(time.seconds_since_zero());
            }
        })
        .expect("waits");
    }
    assert!(times.windows(2).all(|pair| pair[1] >= pair[0] && pair[1] - pair[0] < 2.0), "{times:?}");
    ears.send_from(&own, &trigger::Repr::Macro(2).emit(), there).expect("sends");
    wait("the second look", || present().stage.first().is_some_and(|entry| entry.look == 1));
    let heard = |h: Timed<trigger::Repr>| (h.what, h.from) == (trigger::Repr::Macro(2), own.ip());
    wait("the screen to know of it", || runtime.exchange().status().trigger.is_some_and(heard));
    // Who sends the time may lead the clock as well; a tempo goes with it that is the show's own.
    for (number, (name, value)) in [("sync", "time-code"), ("tempo", "90")].into_iter().enumerate() {
        let command = format!("set {name} {value}").parse::<splimo_document::Command>().expect("a setting");
        link.send(Request::Command { number: number as u64, command: Box::new(command), base: None });
    }
    let start = Instant::now();
    wait("time code to lead", || {
        let code = time_code::Repr::at(3600.0 + start.elapsed().as_secs_f64(), time_code::CountingKind::Smpte);
        ears.send_from(&own, &code.emit(), there).expect("sends");
        let clock = present().clock;
        clock.source == ClockSource::TimeCode && (clock.beat - 3600.0 * f64::from(clock.bpm) / 60.0).abs() < 200.0
    });
    // And the other way.
    runtime.trigger(trigger::Repr::Show(9));
    let mut came = None;
    while came.is_none() {
        ears.receive(Duration::from_secs(5), 64, |bytes, from, _| match Message::parse(bytes) {
            Ok(Message::Trigger(what)) if from == there => came = Some(what),
            _ => {}
        })
        .expect("waits");
    }
    assert_eq!(came, Some(trigger::Repr::Show(9)));
    over.store(true, Ordering::Relaxed);
    session.join().expect("it ends");
}

#[test]
fn a_flood_is_told_of_and_the_lights_run_on() {
    let node = node([127, 91, 7, 2], &[]);
    let own = SocketAddr::from((Ipv4Addr::new(127, 91, 7, 3), artnet::PORT));
    let mut ears = Receiver::default();
    ears.listen(own, false).expect("a free address");
    ears.listen(SocketAddr::from((Ipv4Addr::new(127, 255, 255, 255), artnet::PORT)), true).expect("shared");
    let mut flooded = show(&route("Well", "sacn", 1, &node.address().to_string(), "unchanged = \"repeat\""));
    flooded.name = "Flooded 91".into();
    let (runtime, _outlook) = started(flooded);
    let there = find(&mut ears, own, "Flooded 91");
    let socket = socket::open(&socket::Outlet::default()).expect("a socket");
    let mut sender = socket::Sender::default();
    let question = poll::Repr::default().emit();
    let before = frames(&node, Protocol::Sacn, 1);
    wait("the flood to be told", || {
        sender.send(&socket, (0..2000).map(|_| (&question[..], there)), false);
        runtime.exchange().status().flood.is_some() && runtime.troubles().list().iter().any(|t| t.subject == "flood")
    });
    wait("frames", || frames(&node, Protocol::Sacn, 1) > before + 44);
    wait("the end of it", || runtime.troubles().list().iter().all(|t| t.subject != "flood"));
    runtime.stop();
}

#[test]
fn a_dead_route_is_told_of_and_the_others_run_on() {
    let node = node([127, 91, 2, 2], &[]);
    let routes = [
        route("Lost", "sacn", 1, "no-such-box.invalid", ""),
        route("Elsewhere", "sacn", 1, "10.1.2.3", "interface = \"eth77\""),
        route("Well", "sacn", 1, &node.address().to_string(), "unchanged = \"repeat\""),
    ];
    let (runtime, mut outlook) = started(show(&routes.concat()));
    let told = |subject: &str, word: &str| {
        runtime.troubles().list().iter().any(|t| t.subject == subject && t.message.contains(word))
    };
    wait("both troubles", || told("route Lost", "cannot be resolved") && told("route Elsewhere", "no interface eth77"));
    let before = frames(&node, Protocol::Sacn, 1);
    wait("the others to run on", || frames(&node, Protocol::Sacn, 1) > before + 44);
    wait("the frame rate", || outlook.output.read().fps > 30.0);
    runtime.stop();
}

#[test]
fn what_was_recorded_leaves_again() {
    let node = node([127, 91, 3, 2], &[]);
    let folder = tempfile::tempdir().expect("a folder");
    let path = |name: &str| folder.path().join(name);
    let to = node.address().to_string();
    let routes = [
        route("Art", "art-net", 0, &to, "unchanged = \"repeat\""),
        route("Sacn", "sacn", 1, &to, "unchanged = \"repeat\""),
    ];
    std::fs::write(path("show.splimo"), text(&routes.concat())).expect("written");
    let (show, recording) = (path("show.splimo"), path("night.pcapng"));
    let (show, recording) = (show.to_str().expect("a path"), recording.to_str().expect("a path"));
    let first = json(&splimo(&["run", show, "--for", "2s", "--record", recording, "--json"]));
    let recorded = packets_in(Path::new(recording));
    let sent = first["packets"].as_u64().expect("a number");
    // What was begun when it ended, and the ends of sACN streams, may be missing.
    assert!(recorded <= sent && recorded + 40 > sent, "{recorded} of {sent} packets");
    let before = frames(&node, Protocol::ArtNet, 0);
    let again = json(&splimo(&["run", show, "--replay", recording, "--json"]));
    assert!(again["frames"].as_u64().is_some_and(|frames| frames > 60), "{again}");
    assert!(frames(&node, Protocol::ArtNet, 0) > before + 60);
    let slots = node.reception().universe(Protocol::ArtNet, 0).expect("it came").slots;
    assert!(slots.iter().any(|slot| *slot > 100), "the colours of the recording");
    let taken = splimo(&["run", show, "--for", "1s", "--record", recording]);
    assert!(!taken.status.success() && String::from_utf8_lossy(&taken.stderr).contains("recorded into"));
    let bad = splimo(&["run", show, "--replay", show]);
    assert!(!bad.status.success() && String::from_utf8_lossy(&bad.stderr).contains("pcapng and pcap can be replayed"));
}

/// The number of packets that a recording has, by its blocks (pcapng, section 3.1): each has its type and its length in front.
fn packets_in(path: &Path) -> u64 {
    const ENHANCED_PACKET: u32 = 6;
    let bytes = std::fs::read(path).expect("a recording");
    let word = |at: usize| u32::from_be_bytes(bytes[at..at + 4].try_into().expect("four bytes"));
    let little = |at: usize| u32::from_le_bytes(bytes[at..at + 4].try_into().expect("four bytes"));
    let read: &dyn Fn(usize) -> u32 = if word(8) == 0x1a2b_3c4d { &word } else { &little };
    let (mut at, mut count) = (0, 0);
    while at + 12 <= bytes.len() {
        count += u64::from(read(at) == ENHANCED_PACKET);
        at += read(at + 4) as usize;
    }
    assert_eq!(at, bytes.len(), "the last block is whole");
    count
}

#[test]
fn who_answers_is_listed() {
    let node = node([127, 91, 4, 2], &[7100, 7101]);
    let address = node.address().to_string();
    wait("the node to be listed", || {
        let report = json(&splimo(&["nodes", "--seconds", "1", "--json"]));
        let nodes = report["nodes"].as_array().expect("a list");
        nodes.iter().any(|n| n["address"] == address.as_str() && n["outputs"] == serde_json::json!([7100, 7101]))
    });
}

#[test]
fn a_node_misbehaves_as_it_is_told() {
    let spec = |last: u8, faults: &str| NodeSpec {
        faults: faults.parse().expect("faults"),
        ..NodeSpec::at(Ipv4Addr::new(127, 91, 5, last))
    };
    let lossy = Node::start(spec(2, "drop 30%")).expect("a free address");
    let gone = Node::start(spec(3, "vanish 0")).expect("a free address");
    let to = format!("{}, {}", lossy.address(), gone.address());
    let (runtime, _outlook) = started(show(&route("Both", "sacn", 1, &to, "unchanged = \"repeat\"")));
    wait("losses", || lossy.reception().universe(Protocol::Sacn, 1).is_some_and(|u| u.lost > 10 && u.frames > u.lost));
    assert_eq!(gone.reception().packets, 0);
    runtime.stop();
}

#[test]
fn serial_pixels_wait_for_their_controller_and_come_back_to_it() {
    let controller = Controller::start("Window", 2000).expect("a pseudo-terminal");
    controller.set_silent(true);
    let port = controller.path().display().to_string();
    let (runtime, _outlook) = started(show(&route("Window", "serial", 0, &port, "limit = 50.0")));
    let told =
        |word: &str| runtime.troubles().list().iter().any(|t| t.subject.contains(&port) && t.message.contains(word));
    wait("the wait to be told", || told("waits for the controller"));
    assert_eq!(controller.shown().frames, 0);
    controller.set_silent(false);
    wait("frames", || controller.shown().frames > 20);
    let shown = controller.shown();
    assert_eq!((shown.channels.len(), shown.damaged), (1024, 0));
    let most = shown.channels.iter().max().copied().expect("channels");
    assert!((100..=129).contains(&most), "half as bright as it could be: {most}");
    wait("the trouble to be over", || !told("controller"));
    controller.set_silent(true);
    wait("the silence to be told", || told("does not answer any more") || told("waits for the controller"));
    controller.set_silent(false);
    let before = controller.shown().frames;
    wait("frames again", || controller.shown().frames > before + 20);
    runtime.stop();
}

#[test]
fn a_controller_may_be_unplugged_and_plugged_in_again_and_again() {
    let folder = tempfile::tempdir().expect("a folder");
    // The name of a port stays the same, whatever is plugged in there.
    let port = folder.path().join("port");
    let name = port.display().to_string();
    let (runtime, _outlook) = started(show(&route("Window", "serial", 0, &name, "")));
    for time in 0..4 {
        let controller = Controller::start("Window", 2000).expect("a pseudo-terminal");
        std::os::unix::fs::symlink(controller.path(), &port).expect("a name for it");
        wait(&format!("frames, plugged in for the time number {time}"), || controller.shown().frames > 10);
        std::fs::remove_file(&port).expect("the name is free again");
        drop(controller);
        let told = |word: &str| {
            runtime.troubles().list().iter().any(|t| t.subject.contains(&name) && t.message.contains(word))
        };
        wait("the loss to be told", || told("plug the controller in"));
    }
    runtime.stop();
}

#[test]
fn a_port_that_is_not_there_is_told_of() {
    let (runtime, _outlook) = started(show(&route("Window", "serial", 0, "/dev/no-such-port", "")));
    wait("the trouble", || runtime.troubles().list().iter().any(|t| t.message.contains("plug the controller in")));
    runtime.stop();
}
