//! The plan of the output: a show's routes laid out as lanes of streams, with what is known of the network. Pure.

use std::collections::BTreeMap;
use std::net::{IpAddr, Ipv4Addr, SocketAddr};

use splimo_light::rig::Rig;
use splimo_show::{Destination, Pacing, Route, Show, TransportKind, Unchanged};
use splimo_transport::burst::{Lane, Stream, Sync};
use splimo_transport::{Leaves, Packets};
use splimo_wire::interface::Interface;
use splimo_wire::socket::Outlet;

use super::StreamStatus;
use crate::network::Network;

/// Streams of a show at the most, so that a slip of the pen does not take all memory.
pub const MOST_STREAMS: usize = 65_536;

/// A lane and through what it leaves.
#[derive(Debug, Clone, PartialEq)]
pub struct PlannedLane {
    /// Index of the route.
    pub route: usize,
    /// Through what it leaves.
    pub outlet: Outlet,
    /// The way its packets follow each other.
    pub pacing: Pacing,
    /// Its streams.
    pub lane: Lane,
}

/// Universes on a serial port.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PlannedPort {
    /// Index of the route.
    pub route: usize,
    /// The path of the port.
    pub path: String,
    /// Its speed, in bits a second.
    pub baud: u32,
    /// The blocks of 512 slots of the frame, one behind another, and how many slots of each are in use.
    pub parts: Vec<(usize, usize)>,
    /// Frames a second at the most.
    pub rate: u32,
}

/// Everything that leaves.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Plan {
    /// By the network.
    pub lanes: Vec<PlannedLane>,
    /// By serial ports.
    pub ports: Vec<PlannedPort>,
    /// Each stream of the lanes in their order, for the screen.
    pub streams: Vec<StreamStatus>,
    /// The faults that keep routes from doing what they say: the index of each, what is wrong and how to mend it.
    pub faults: Vec<(usize, String)>,
}

/// Lays a show's routes out.
#[must_use]
pub fn plan(show: &Show, rig: &Rig, network: &Network) -> Plan {
    let mut plan = Plan::default();
    let network = network.without(&show.settings.ignored_nodes);
    for (index, route) in show.routes.iter().enumerate().filter(|(_, r)| r.enabled) {
        match route.transport.leaves() {
            Leaves::Port { baud } => plan.port(index, route, baud, rig),
            Leaves::Packets(packets) => plan.route(index, route, packets, rig, &network),
        }
    }
    plan
}

/// The universes of a route that the rig uses, each with its 512 slots of the frame.
fn carried<'r>(route: &'r Route, rig: &'r Rig) -> impl Iterator<Item = (u32, usize)> + 'r {
    let first = rig.universes.partition_point(|u| *u < route.universes.first);
    let end = rig.universes.partition_point(|u| *u <= route.universes.last);
    let gain = route.gain();
    rig.universes[first..end.max(first)].iter().filter_map(move |&u| Some((u, rig.block_of(u, gain)?)))
}

impl Plan {
    fn route(&mut self, index: usize, route: &Route, packets: &dyn Packets, rig: &Rig, network: &Network) {
        let interface = match route.interface() {
            None => None,
            Some(name) => match network.interface(name) {
                Ok(interface) => Some(interface.clone()),
                Err(why) => return self.faults.push((index, why)),
            },
        };
        let mut lanes = [0, 1].map(|_| Lane::new(route.transport.clone(), Vec::new()));
        let mut told: [Vec<StreamStatus>; 2] = Default::default();
        for (universe, source) in carried(route, rig) {
            let Some(number) = route.number_of(universe) else { continue };
            for to in &route.to.0 {
                for to in self.addresses(index, packets, to, number, interface.as_ref(), network) {
                    let v6 = usize::from(to.is_ipv6());
                    if self.streams.len() + told[0].len() + told[1].len() >= MOST_STREAMS {
                        return self.faults.push((
                            index,
                            format!("more than {MOST_STREAMS} streams; make the ranges of the routes smaller"),
                        ));
                    }
                    let keep_alive = route.unchanged == Unchanged::KeepAlive;
                    lanes[v6].streams.push(Stream { source, universe: number, to, keep_alive });
                    told[v6].push(StreamStatus {
                        route: index,
                        universe,
                        source,
                        number,
                        to,
                        packets: 0,
                        rate: 0.0,
                        gap_ms: 0.0,
                    });
                }
            }
        }
        for ((mut lane, told), v6) in lanes.into_iter().zip(told).zip([false, true]) {
            if lane.streams.is_empty() {
                continue;
            }
            lane.rate = f64::from(route.fastest());
            lane.syncs = if route.sync() { syncs(packets, &lane.streams, network) } else { Vec::new() };
            let outlet = Outlet { interface: interface.clone(), v6 };
            self.streams.extend(told);
            self.lanes.push(PlannedLane { route: index, outlet, pacing: route.pacing, lane });
        }
    }

    /// The addresses of a destination for a universe.
    fn addresses(
        &mut self,
        index: usize,
        packets: &dyn Packets,
        to: &Destination,
        number: u16,
        interface: Option<&Interface>,
        network: &Network,
    ) -> Vec<SocketAddr> {
        let port = packets.port();
        let group = |v6| packets.group(number, v6).map(|group| SocketAddr::new(group, port)).into_iter().collect();
        match to {
            Destination::Unicast(address) => vec![SocketAddr::new(*address, port)],
            Destination::Multicast => group(false),
            Destination::MulticastV6 => group(true),
            Destination::Nodes => {
                let takers = network.takers.get(&number).map_or(&[][..], Vec::as_slice);
                takers.iter().map(|address| SocketAddr::from((*address, port))).collect()
            }
            Destination::OnlyNodes(nodes) => {
                let takers = network.takers.get(&number).map_or(&[][..], Vec::as_slice);
                let taken: Vec<Ipv4Addr> = nodes.iter().copied().filter(|node| takers.contains(node)).collect();
                // Where none of them says that it takes it, all are sent it: nobody who speaks for them puts the light out.
                let to = if taken.is_empty() { nodes } else { &taken };
                to.iter().map(|address| SocketAddr::from((*address, port))).collect()
            }
            Destination::Broadcast => {
                let all = network.broadcasts(interface);
                if all.is_empty() {
                    self.fault(index, "no interface to broadcast on has an address; connect a network".to_owned());
                }
                all.into_iter().map(|address| SocketAddr::from((address, port))).collect()
            }
            Destination::Host(name) => match network.hosts.get(name) {
                Some(Ok(address)) => vec![SocketAddr::new(*address, port)],
                Some(Err(why)) => {
                    let mend = "correct the name, or write the address";
                    self.fault(index, format!("the name {name} cannot be resolved ({why}); {mend}"));
                    Vec::new()
                }
                None => {
                    self.fault(index, format!("waits for the address of {name}"));
                    Vec::new()
                }
            },
            // The check has told of it.
            Destination::Port(_) => Vec::new(),
        }
    }

    /// Tells of a fault once.
    fn fault(&mut self, index: usize, why: String) {
        if self.faults.last() != Some(&(index, why.clone())) {
            self.faults.push((index, why));
        }
    }

    fn port(&mut self, index: usize, route: &Route, baud: u32, rig: &Rig) {
        let parts: Vec<(usize, usize)> = carried(route, rig).map(|(_, block)| (block, 512)).collect();
        for to in &route.to.0 {
            let Destination::Port(path) = to else { continue };
            if !parts.is_empty() {
                let rate = route.fastest().ceil() as u32;
                self.ports.push(PlannedPort { route: index, path: path.clone(), baud, parts: parts.clone(), rate });
            }
        }
    }

    /// The sACN universes that leave, ascending, and through what; for their announcement.
    #[must_use]
    pub fn announced(&self) -> BTreeMap<Option<String>, Vec<u16>> {
        let mut all: BTreeMap<Option<String>, Vec<u16>> = BTreeMap::new();
        for lane in self.lanes.iter().filter(|lane| lane.lane.transport.kind() == TransportKind::Sacn) {
            let name = lane.outlet.interface.as_ref().map(|i| i.name.clone());
            let universes: Vec<u16> = lane.lane.streams.iter().map(|stream| stream.universe).collect();
            if !universes.is_empty() {
                all.entry(name).or_default().extend(universes);
            }
        }
        for universes in all.values_mut() {
            universes.sort_unstable();
            universes.dedup();
        }
        all
    }

    /// The single addresses that Art-Net goes to.
    #[must_use]
    pub fn art_net_unicasts(&self) -> Vec<Ipv4Addr> {
        let art_net = self.lanes.iter().filter(|lane| lane.lane.transport.kind() == TransportKind::ArtNet);
        let mut all: Vec<Ipv4Addr> = art_net
            .flat_map(|lane| &lane.lane.streams)
            .filter_map(|s| match s.to.ip() {
                IpAddr::V4(address) => Some(address),
                IpAddr::V6(_) => None,
            })
            .collect();
        all.sort_unstable();
        all.dedup();
        all
    }
}

/// The synchronisation behind the streams of a route: one packet for each network or node that has any of them.
fn syncs(packets: &dyn Packets, streams: &[Stream], network: &Network) -> Vec<Sync> {
    let mut all: Vec<Sync> = Vec::new();
    for stream in streams {
        let sync = packets.sync_to(stream.to, &|address| network.broadcast_to(address));
        if !all.contains(&sync) {
            all.push(sync);
        }
    }
    all
}
