//! Advice about the network and the routes together: nodes that nothing feeds, universes that no node takes, boxes
//! that get in each other's way, sources that share our universes. Pure.

use std::collections::{BTreeMap, BTreeSet};
use std::net::{IpAddr, Ipv4Addr};

use splimo_show::{Destination, Route, Show, TransportKind, UniverseRange, net_form};
use splimo_wire::directory::Device;

use crate::network::NetworkStatus;
use crate::output::StreamStatus;

/// A piece of advice.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Advice {
    /// Of each device of the directory, in its order.
    pub devices: Vec<Vec<String>>,
    /// Of universes that no node takes: the index of the route, the universe of the show, and why.
    pub untaken: Vec<(usize, u32, String)>,
    /// Of sources that send what we send.
    pub rivals: Vec<String>,
    /// The universes of the show that no route carries, as far as the caller looks for them.
    pub unrouted: Vec<u32>,
}

/// Finds what is worth knowing.
#[must_use]
pub fn advise(show: &Show, streams: &[StreamStatus], network: &NetworkStatus) -> Advice {
    let fed = Fed::of(show, streams);
    let devices = network.directory.devices();
    let mut takers: BTreeMap<u16, Vec<Ipv4Addr>> = BTreeMap::new();
    let ignored = &show.settings.ignored_nodes;
    for device in devices.iter().filter(|d| !d.is_gone(network.now) && !ignored.contains(&d.address)) {
        device.outputs.iter().for_each(|&port| takers.entry(port).or_default().push(device.address));
    }
    Advice {
        devices: devices
            .iter()
            .map(|device| match ignored.contains(&device.address) {
                true => vec!["left alone (i)".to_owned()],
                false => of_device(device, &fed, &takers, network.now),
            })
            .collect(),
        untaken: untaken(show, streams, network, &takers),
        rivals: rivals(show, streams, network),
        unrouted: Vec::new(),
    }
}

/// The universes that Art-Net nodes get.
struct Fed {
    single: BTreeSet<(Ipv4Addr, u16)>,
    everybody: BTreeSet<u16>,
}

impl Fed {
    fn of(show: &Show, streams: &[StreamStatus]) -> Self {
        let mut fed = Self { single: BTreeSet::new(), everybody: BTreeSet::new() };
        for stream in streams {
            let route = show.routes.get(stream.route).filter(|r| r.kind() == TransportKind::ArtNet);
            let (Some(route), IpAddr::V4(to)) = (route, stream.to.ip()) else { continue };
            fed.single.insert((to, stream.number));
            if route.to.0.contains(&Destination::Broadcast) {
                fed.everybody.insert(stream.number);
            }
        }
        fed
    }

    fn reaches(&self, address: Ipv4Addr, port: u16) -> bool {
        self.everybody.contains(&port) || self.single.contains(&(address, port))
    }
}

fn of_device(device: &Device, fed: &Fed, takers: &BTreeMap<u16, Vec<Ipv4Addr>>, now: f64) -> Vec<String> {
    let mut notes = Vec::new();
    if device.is_gone(now) {
        notes.push(format!("gone for {:.0} s", now - device.last));
        return notes;
    }
    if let Some(other) = device.double {
        notes.push(format!("two boxes answer here: {} and {}", mac(device.mac), mac(other)));
    }
    let hungry: Vec<u16> = device.outputs.iter().copied().filter(|p| !fed.reaches(device.address, *p)).collect();
    if !hungry.is_empty() && hungry.len() == device.outputs.len() {
        notes.push("no route feeds it (n)".to_owned());
    } else if !hungry.is_empty() {
        notes.push(format!("nothing comes for {}", ports(&hungry)));
    }
    let shared = device.outputs.iter().find_map(|port| {
        let other = takers.get(port)?.iter().find(|address| **address != device.address)?;
        Some(format!("{} is put out by {other} too", net_form(*port)))
    });
    notes.extend(shared);
    notes
}

fn mac(mac: [u8; 6]) -> String {
    mac.map(|byte| format!("{byte:02x}")).join(":")
}

/// Port-addresses in few words.
#[must_use]
pub fn ports(ports: &[u16]) -> String {
    let mut words: Vec<String> = Vec::new();
    for run in ports.chunk_by(|a, b| a + 1 == *b && a >> 4 == b >> 4) {
        words.push(match run {
            [first, .., last] => format!("{}-{}", net_form(*first), last & 15),
            [one] => net_form(*one),
            [] => continue,
        });
    }
    words.join(", ")
}

/// Universes on their way to a node that does not take them, or that is not there.
fn untaken(
    show: &Show,
    streams: &[StreamStatus],
    network: &NetworkStatus,
    takers: &BTreeMap<u16, Vec<Ipv4Addr>>,
) -> Vec<(usize, u32, String)> {
    let mut all = Vec::new();
    for stream in streams {
        let art_net = show.routes.get(stream.route).is_some_and(|r| r.kind() == TransportKind::ArtNet);
        let (true, IpAddr::V4(to)) = (art_net, stream.to.ip()) else { continue };
        let device = network.directory.devices().iter().find(|d| d.address == to);
        match device {
            Some(device) if device.is_gone(network.now) => {
                all.push((stream.route, stream.universe, format!("{to} is gone")));
            }
            Some(device) if !device.outputs.contains(&stream.number) => {
                let why = format!("{to} has no port {}", net_form(stream.number));
                all.push((stream.route, stream.universe, why));
            }
            _ => {}
        }
    }
    let asked_for = |route: &Route| route.enabled && route.to.0 == [Destination::Nodes];
    for (index, route) in show.routes.iter().enumerate().filter(|(_, route)| asked_for(route)) {
        for universe in route.universes.numbers().take(4096) {
            let taken = route.number_of(universe).is_some_and(|number| takers.contains_key(&number));
            if !taken {
                let name = route.name_of(universe).unwrap_or_default();
                all.push((index, universe, format!("no node takes {name}")));
            }
        }
    }
    all.sort();
    all.dedup();
    all
}

/// The nodes that take universes of a route now, by address.
#[must_use]
pub fn takers_of(route: &Route, ignored: &[Ipv4Addr], network: &NetworkStatus) -> Vec<Ipv4Addr> {
    let numbers: BTreeSet<u16> = route.universes.numbers().filter_map(|universe| route.number_of(universe)).collect();
    let devices = network.directory.devices().iter().filter(|device| !device.is_gone(network.now));
    let taking = devices.filter(|device| device.outputs.iter().any(|port| numbers.contains(port)));
    let mut all: Vec<Ipv4Addr> = taking.map(|device| device.address).filter(|one| !ignored.contains(one)).collect();
    all.sort_unstable();
    all
}

/// Others who send what we send: announced, or come in.
fn rivals(show: &Show, streams: &[StreamStatus], network: &NetworkStatus) -> Vec<String> {
    let sent = |kind: TransportKind| -> BTreeSet<u16> {
        let of_kind = |s: &&StreamStatus| show.routes.get(s.route).is_some_and(|r| r.kind() == kind);
        streams.iter().filter(of_kind).map(|s| s.number).collect()
    };
    let (ours, art_net) = (sent(TransportKind::Sacn), sent(TransportKind::ArtNet));
    let mut all: Vec<String> = Vec::new();
    for source in network.directory.sources() {
        let shared: Vec<String> =
            source.universes.iter().filter(|u| ours.contains(u)).take(8).map(ToString::to_string).collect();
        if !shared.is_empty() {
            all.push(format!("{} at {} sends sACN {} too", source.name, source.address, shared.join(", ")));
        }
    }
    for received in network.received.iter().filter(|r| r.protocol == splimo_wire::Protocol::Sacn) {
        for source in received.sources.iter().filter(|s| !s.own && ours.contains(&received.universe)) {
            let priority = source.priority.unwrap_or(splimo_wire::USUAL_PRIORITY);
            let words = format!(
                "{} at {} sends sACN {} with priority {priority}",
                source.name, source.address, received.universe
            );
            let told = all.iter().any(|known| known.starts_with(&format!("{} at {}", source.name, source.address)));
            if !told {
                all.push(words);
            }
        }
    }
    for received in network.received.iter().filter(|r| r.protocol == splimo_wire::Protocol::ArtNet) {
        for source in received.sources.iter().filter(|s| !s.own && art_net.contains(&received.universe)) {
            all.push(format!("{} sends Art-Net {} too", source.address, net_form(received.universe)));
        }
    }
    all
}

/// Routes that bring universes which no route carries yet to the ports of a node that nothing feeds: one for each stretch of
/// neighbouring ports and universes. A stretch of ports gets the universes that these numbers usually are (port-address 0
/// is universe 1), where all of them wait for a route, else the first that do.
#[must_use]
pub fn routes_to(show: &Show, streams: &[StreamStatus], device: &Device, unrouted: &[u32]) -> Vec<Route> {
    let fed = Fed::of(show, streams);
    let routed = |port: u16| {
        fed.reaches(device.address, port)
            || show.routes.iter().any(|r| {
                let to = Destination::Unicast(device.address.into());
                r.kind() == TransportKind::ArtNet
                    && r.to.0.contains(&to)
                    && r.universes.numbers().any(|u| r.number_of(u) == Some(port))
            })
    };
    let free: Vec<u16> = device.outputs.iter().copied().filter(|port| !routed(*port)).collect();
    let mut waiting: Vec<u32> = unrouted.to_vec();
    let mut pairs: Vec<(u16, u32)> = Vec::new();
    for run in free.chunk_by(|a, b| a + 1 == *b) {
        let usual: Vec<u32> = run.iter().map(|port| u32::from(*port) + 1).collect();
        let meant = if usual.iter().all(|universe| waiting.contains(universe)) { usual } else { waiting.clone() };
        pairs.extend(run.iter().copied().zip(meant));
        waiting.retain(|universe| !pairs.iter().any(|(_, taken)| taken == universe));
    }
    let plain = if device.name.trim().is_empty() { device.address.to_string() } else { device.name.clone() };
    let mut taken: Vec<String> = show.routes.iter().map(|r| r.name.clone()).collect();
    let mut routes = Vec::new();
    for run in pairs.chunk_by(|a, b| a.0 + 1 == b.0 && a.1 + 1 == b.1) {
        let (Some(&(port, first)), Some(&(_, last))) = (run.first(), run.last()) else { continue };
        let numbered = |number: usize| if number == 1 { plain.clone() } else { format!("{plain} {number}") };
        let name = (1..).map(numbered).find(|name| !taken.contains(name)).unwrap_or_default();
        taken.push(name.clone());
        let to = Destination::Unicast(device.address.into()).into();
        routes.push(Route::new(&name, UniverseRange { first, last }, TransportKind::ArtNet, port, to));
    }
    routes
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::network::SourceSeen;
    use crate::testing::{answer, demo, received};
    use splimo_wire::Protocol;
    use splimo_wire::sacn::discovery;

    #[test]
    fn what_does_not_fit_together_is_called_out() {
        let (show, streams) = demo();
        let mut network = NetworkStatus { now: 1.0, ..NetworkStatus::default() };
        answer(&mut network, 2, 1, &[0, 1, 2, 9]);
        answer(&mut network, 9, 2, &[2, 3]);
        answer(&mut network, 4, 3, &[16, 17, 18, 19]);
        answer(&mut network, 4, 7, &[16, 17, 18, 19]);
        let advice = advise(&show, &streams, &network);
        assert_eq!(advice.devices[0], ["nothing comes for 0:0:9", "0:0:2 is put out by 127.0.0.9 too"]);
        assert_eq!(advice.devices[1][0], "two boxes answer here: 07:07:07:07:07:07 and 03:03:03:03:03:03");
        assert_eq!(advice.devices[2][0], "no route feeds it (n)");
        let untaken: Vec<u32> = advice.untaken.iter().map(|(_, universe, _)| *universe).collect();
        assert_eq!(untaken, [4, 5, 6, 7, 14], "{:?}", advice.untaken);
        network.now = 100.0;
        let later = advise(&show, &streams, &network);
        assert!(
            later.devices[0][0].starts_with("gone for")
                && later.untaken.iter().any(|(_, _, why)| why.contains("is gone"))
        );
    }

    #[test]
    fn what_nobody_asks_for_is_told_of_its_own_route() {
        let (mut show, streams) = demo();
        show.routes[2].to = Destination::Nodes.into();
        let advice = advise(&show, &streams[..9], &NetworkStatus::default());
        assert_eq!(advice.untaken.len(), 5);
        assert_eq!(advice.untaken[0], (2, 10, "no node takes Art-Net 0:1:0".to_owned()));
    }

    #[test]
    fn a_source_that_sends_what_we_send_is_a_rival() {
        let (show, streams) = demo();
        let mut network = NetworkStatus::default();
        for (cid, universes) in [(1, &[8, 900][..]), (2, &[901])] {
            let page = discovery::pages([cid; 16], "Desk", universes).remove(0);
            let page = discovery::Repr::parse(&page).expect("a page");
            network.directory.announced(&page, IpAddr::from([10, 0, 0, cid]), 0.0);
        }
        assert_eq!(advise(&show, &streams, &network).rivals, ["Desk at 10.0.0.1 sends sACN 8 too"]);
        // Art-Net announces nothing: what comes in tells.
        for universe in [3, 900] {
            let source = SourceSeen {
                address: IpAddr::from([10, 0, 0, 8]),
                name: String::new(),
                priority: None,
                wins: true,
                own: false,
            };
            network.received.push(received(Protocol::ArtNet, universe, vec![source]));
        }
        let rivals = advise(&show, &streams, &network).rivals;
        assert_eq!(rivals[1..], ["10.0.0.8 sends Art-Net 0:0:3 too"]);
    }

    #[test]
    fn one_key_brings_what_waits_for_a_route_to_the_ports_that_nothing_feeds() {
        let (mut show, streams) = demo();
        let mut network = NetworkStatus::default();
        answer(&mut network, 9, 2, &[16, 17, 18, 30]);
        let device = network.directory.devices()[0].clone();
        assert!(routes_to(&show, &streams, &device, &[]).is_empty(), "nothing waits");
        let told = |show: &Show, waiting: &[u32]| -> Vec<(String, String, u16)> {
            let routes = routes_to(show, &streams, &device, waiting);
            routes.iter().map(|r| (r.name.clone(), r.universes.to_string(), r.first())).collect()
        };
        show.routes.clear();
        // What waits, not the numbers of the ports; a gap in either makes another route.
        assert_eq!(told(&show, &[1, 2]), [("Box".into(), "1-2".into(), 16)]);
        let three =
            [("Box".into(), "1-2".into(), 16), ("Box 2".into(), "5".into(), 18), ("Box 3".into(), "6".into(), 30)];
        assert_eq!(told(&show, &[1, 2, 5, 6, 7]), three);
        // Where the usual numbers wait, they are meant.
        let waiting: Vec<u32> = (1..40).collect();
        assert_eq!(told(&show, &waiting), [("Box".into(), "17-19".into(), 16), ("Box 2".into(), "31".into(), 30)]);
        let routes = routes_to(&show, &streams, &device, &[1, 2, 3, 4]);
        let with = splimo_document::edit::Edit::AddRoutes(routes).apply(&show).expect("they can be added");
        assert!(routes_to(&with, &streams, &device, &[5]).is_empty(), "a second press adds nothing");
        assert_eq!(ports(&[0, 1, 2, 15, 16, 17, 300]), "0:0:0-2, 0:0:15, 0:1:0-1, 1:2:12");
    }

    #[test]
    fn a_node_that_is_left_alone_is_not_advised_and_takes_nothing() {
        let (mut show, streams) = demo();
        show.settings.ignored_nodes = vec![Ipv4Addr::new(127, 0, 0, 9)];
        let mut network = NetworkStatus { now: 1.0, ..NetworkStatus::default() };
        answer(&mut network, 2, 1, &[0, 1, 2, 3, 4, 5, 6]);
        answer(&mut network, 9, 2, &[2, 3]);
        let advice = advise(&show, &streams, &network);
        assert_eq!((advice.devices[0].len(), advice.devices[1][0].as_str()), (0, "left alone (i)"));
    }
}
