use super::*;
use crate::clock::Instant;
use crate::network::Network;
use plan::plan;
use splimo_document::file;
use splimo_light::rig::Rig;
use splimo_show::{AnyTransport, RouteFields, Show};
use splimo_transport::burst::Sync;
use splimo_transport::serial;
use splimo_wire::interface::Interface;

fn demo() -> Show {
    file::read(crate::files::LANTERN_QUAY).expect("a good show").show
}

fn planned(show: &Show, network: &Network) -> plan::Plan {
    plan(show, &Rig::compile(show), network)
}

fn to(text: &str) -> splimo_show::Destinations {
    text.parse().expect("destinations")
}

fn interface(name: &str, last: u8) -> Interface {
    Interface {
        name: name.into(),
        index: u32::from(last),
        v4: Some(Ipv4Addr::new(10, 0, last, 1)),
        netmask: Some(Ipv4Addr::new(255, 255, 255, 0)),
        broadcast: Some(Ipv4Addr::new(10, 0, last, 255)),
        v6: None,
        up: true,
        link: true,
        loopback: false,
    }
}

fn network() -> Network {
    Network { interfaces: vec![interface("eth0", 1), interface("eth1", 2)], ..Network::default() }
}

/// Changes the first route as its form does.
fn change(show: &mut Show, change: impl FnOnce(&mut RouteFields)) {
    let mut fields = RouteFields::from(show.routes[0].clone());
    change(&mut fields);
    show.routes[0] = fields.into();
}

#[test]
fn routes_number_universes_as_their_protocol_does() {
    let plan = planned(&demo(), &Network::default());
    assert_eq!((plan.lanes.len(), plan.streams.len(), plan.faults.len()), (4, 17, 0));
    let told = |universe: u32| {
        let stream = plan.streams.iter().find(|s| s.universe == universe).expect("it is routed");
        (stream.number, stream.to.to_string())
    };
    assert_eq!(told(1), (0, "127.0.0.2:6454".into()));
    assert_eq!(told(9), (9, "127.0.0.3:5568".into()));
    assert_eq!(told(14), (20, "127.0.0.4:6454".into()));
}

#[test]
fn routes_that_are_off_or_carry_nothing_send_nothing() {
    let mut show = demo();
    show.routes[0].enabled = false;
    show.routes[1].universes.last = 2000;
    assert_eq!(planned(&show, &Network::default()).streams.len(), 10 + 8, "the second now carries 8 to 17 too");
}

#[test]
fn a_universe_goes_to_as_many_as_it_is_to() {
    let mut show = demo();
    show.routes.truncate(1);
    show.routes[0].to = to("10.0.1.7, box.local, broadcast, nodes");
    let mut network = network();
    network.hosts.insert("box.local".into(), Ok("10.9.9.9".parse().expect("an address")));
    network.takers.insert(3, vec![Ipv4Addr::new(10, 0, 1, 50), Ipv4Addr::new(10, 0, 2, 50)]);
    let plan = planned(&show, &network);
    let of = |number: u16| -> Vec<String> {
        plan.streams.iter().filter(|s| s.number == number).map(|s| s.to.ip().to_string()).collect()
    };
    assert_eq!(of(0), ["10.0.1.7", "10.9.9.9", "10.0.1.255", "10.0.2.255"]);
    assert_eq!(of(3), ["10.0.1.7", "10.9.9.9", "10.0.1.255", "10.0.2.255", "10.0.1.50", "10.0.2.50"]);
    change(&mut show, |route| route.interface = Some("eth1".into()));
    let only = planned(&show, &network);
    assert!(only.streams.iter().all(|s| s.to.ip().to_string() != "10.0.1.255"));
    assert_eq!(only.lanes[0].outlet.interface.as_ref().map(|i| i.name.as_str()), Some("eth1"));
}

#[test]
fn both_kinds_of_multicast_are_lanes_of_their_own() {
    let mut show = demo();
    show.routes.truncate(2);
    show.routes.remove(0);
    show.routes[0].to = to("multicast, multicast v6");
    change(&mut show, |route| route.sync = true);
    let plan = planned(&show, &network());
    let addresses: Vec<String> = plan.streams.iter().map(|s| s.to.to_string()).collect();
    assert_eq!(addresses, ["239.255.0.8:5568", "239.255.0.9:5568", "[ff18::8300:8]:5568", "[ff18::8300:9]:5568"]);
    assert_eq!(plan.lanes.iter().map(|l| l.outlet.v6).collect::<Vec<_>>(), [false, true]);
    assert_eq!(plan.lanes[0].lane.syncs, [Sync { number: 8, to: "239.255.0.8:5568".parse().expect("an address") }]);
    let burst = Burst::new(&[plan.lanes[0].lane.clone()], &Identity::default());
    assert_eq!(burst.len(), 2);
    assert!(plan.lanes[0].lane.transport.numbering().is_some_and(|numbering| numbering.sync && numbering.first == 8));
    assert_eq!(plan.announced().into_values().collect::<Vec<_>>(), [vec![8, 9]]);
}

#[test]
fn art_sync_is_broadcast_on_the_network_of_the_nodes() {
    let mut show = demo();
    show.routes.truncate(1);
    change(&mut show, |route| route.sync = true);
    show.routes[0].to = to("10.0.2.7, 10.0.2.8, 172.16.0.1");
    let plan = planned(&show, &network());
    let address = |text: &str| Sync { number: 0, to: text.parse().expect("an address") };
    assert_eq!(plan.lanes[0].lane.syncs, [address("10.0.2.255:6454"), address("172.16.0.1:6454")]);
}

#[test]
fn what_cannot_be_is_told_and_the_rest_goes_on() {
    let mut show = demo();
    change(&mut show, |route| route.interface = Some("eth9".into()));
    show.routes[1].to = to("no-such.box");
    show.routes[2].to = to("broadcast");
    let mut network = Network::default();
    network.hosts.insert("no-such.box".into(), Err("not known".into()));
    network.interfaces = vec![Interface { v4: None, broadcast: None, ..interface("eth0", 1) }];
    let plan = planned(&show, &network);
    let told: Vec<(usize, &str)> = plan.faults.iter().map(|(r, why)| (*r, why.as_str())).collect();
    assert!(told[0].1.contains("no interface eth9") && told[0].1.contains("eth0"), "{told:?}");
    assert!(told[1].0 == 1 && told[1].1.contains("not known"), "{told:?}");
    assert!(told[2].0 == 2 && told[2].1.contains("broadcast"), "{told:?}");
    assert_eq!((plan.faults.len(), plan.lanes.len()), (3, 1), "the last route is well");
    change(&mut show, |route| route.interface = Some("eth0".into()));
    let plan = planned(&show, &network);
    assert!(plan.faults[0].1.contains("has no address"), "{:?}", plan.faults);
}

#[test]
fn routes_with_limits_of_their_own_take_their_own_slots() {
    let mut show = demo();
    let mut second = show.routes[0].clone();
    second.name = "Sail, half".into();
    second.to = to("10.0.1.9");
    second.limit = 50.0;
    show.routes.push(second);
    let rig = Rig::compile(&show);
    let plan = plan(&show, &rig, &Network::default());
    let source = |route: usize, universe: u32| {
        plan.streams.iter().find(|s| s.route == route && s.universe == universe).map(|s| s.source)
    };
    assert_eq!((source(0, 2), source(4, 2)), (Some(1), Some(1 + rig.universes.len())));
    assert_eq!(rig.slots(), rig.universes.len() * 512 * 2);
}

#[test]
fn serial_routes_are_ports() {
    let mut show = demo();
    show.routes[1].transport = AnyTransport::Serial(serial::USUAL.clone());
    show.routes[1].to = to("/dev/ttyUSB7");
    let plan = planned(&show, &Network::default());
    assert_eq!((plan.lanes.len(), plan.ports.len()), (3, 1));
    assert_eq!((plan.ports[0].path.as_str(), plan.ports[0].baud), ("/dev/ttyUSB7", 1_000_000));
    assert_eq!(plan.ports[0].parts.iter().map(|p| p.0).collect::<Vec<_>>(), [7, 8]);
}

#[test]
fn a_show_keeps_its_identity_and_another_has_another() {
    let mut show = demo();
    let first = identity(&show, "/shows/night.splimo");
    assert_eq!(identity(&show, "/shows/night.splimo"), first);
    assert_ne!(identity(&show, "/shows/copy.splimo").cid, first.cid, "a copy that runs beside it");
    show.name = "Another".into();
    assert_ne!(identity(&show, "/shows/night.splimo").cid, first.cid);
}

#[test]
fn a_slow_second_is_seen_as_such() {
    let mut meter = Meter::new(planned(&demo(), &Network::default()).streams);
    let start: Instant = meter.window;
    let mut full = 0;
    for frame in 1..=30i64 {
        full += u32::from(meter.count([0, 3].into_iter(), 0.1, start.plus(frame * 50_000_000)));
    }
    assert_eq!(full, 1);
    assert!((meter.fps - 20.0).abs() < 0.1, "{}", meter.fps);
    assert!((meter.streams[3].rate - 20.0).abs() < 0.1 && meter.streams[1].rate == 0.0);
    assert!((meter.streams[3].gap_ms - 50.0).abs() < 0.1 && meter.streams[1].gap_ms == 0.0);
}

#[test]
fn a_node_that_is_left_alone_gets_nothing_of_what_goes_to_nodes() {
    let mut show = demo();
    change(&mut show, |route| route.to = to("nodes"));
    let mut network = network();
    let [box_, other] = [Ipv4Addr::new(10, 0, 1, 7), Ipv4Addr::new(10, 0, 1, 8)];
    network.takers.insert(0, vec![box_, other]);
    let sent = |show: &Show| -> Vec<String> {
        let plan = planned(show, &network);
        plan.streams.iter().filter(|s| s.route == 0).map(|s| s.to.ip().to_string()).collect()
    };
    assert_eq!(sent(&show), ["10.0.1.7", "10.0.1.8"]);
    show.settings.ignored_nodes = vec![box_];
    assert_eq!(sent(&show), ["10.0.1.8"]);
    // Who is named by address is meant all the same.
    change(&mut show, |route| route.to = to("10.0.1.7"));
    assert_eq!(sent(&show)[0], "10.0.1.7");
}
