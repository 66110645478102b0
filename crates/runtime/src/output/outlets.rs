//! The sockets and ports through which a show leaves. They are kept from one plan to the next, so that an edit elsewhere does
//! not disturb them.

use std::collections::HashMap;
use std::net::{IpAddr, Ipv4Addr, Ipv6Addr, UdpSocket};
use std::sync::Arc;

use splimo_light::rig::Rig;
use splimo_show::{Destination, Show, TimeCode};
use splimo_wire::artnet::time_code::CountingKind;
use splimo_wire::burst::{Burst, Lane};
use splimo_wire::socket::{self, Outlet};

use super::PortStatus;
use super::plan::{Plan, PlannedLane, plan};
use super::port::PortHandle;
use super::{LaneOutlet, NewOutput, identity};
use crate::network::{Network, Outgoing};
use crate::trouble::Troubles;

/// True if all routes of a show, of which there are some, lead to this machine itself.
fn is_local(show: &Show) -> bool {
    let local = |to: &Destination| match to {
        Destination::Unicast(address) => address.is_loopback(),
        Destination::OnlyNodes(nodes) => nodes.iter().all(Ipv4Addr::is_loopback),
        Destination::Port(_) => true,
        Destination::Host(_) | Destination::Multicast | Destination::MulticastV6 => false,
        Destination::Broadcast | Destination::Nodes => false,
    };
    let addressed = show.routes.iter().flat_map(|route| &route.to.0).any(|to| !matches!(to, Destination::Port(_)));
    addressed && show.routes.iter().all(|route| route.to.0.iter().all(local))
}

/// Sockets and ports in use.
pub struct Outlets {
    /// A socket for each route, so that one whose packets pile up holds no other up.
    sockets: HashMap<(String, Outlet), Arc<UdpSocket>>,
    ports: HashMap<(String, u32), PortHandle>,
    troubles: Troubles,
    /// The words that tell this show from others that run on this machine.
    instance: String,
    /// The routes of which something is told.
    told: Vec<String>,
}

impl Outlets {
    /// None yet.
    #[must_use]
    pub fn new(troubles: Troubles, instance: String) -> Self {
        Self { sockets: HashMap::new(), ports: HashMap::new(), troubles, instance, told: Vec::new() }
    }

    /// A show's output, ready to be sent, and what the network's thread has to know of it. What keeps a route from doing
    /// what it says is told as a trouble.
    pub fn ready(&mut self, show: &Show, rig: &Rig, network: &Network) -> (NewOutput, Outgoing) {
        let mut plan = plan(show, rig, network);
        let name = |route: usize| show.routes[route].name.clone();
        let wanted: Vec<_> = plan.lanes.iter().map(|l| (name(l.route), l.outlet.clone())).collect();
        self.sockets.retain(|key, _| wanted.contains(key));
        let mut outlets = Vec::new();
        let mut lanes: Vec<Lane> = Vec::new();
        let mut streams = Vec::new();
        let mut told = plan.streams.drain(..);
        for (lane, key) in plan.lanes.iter().zip(wanted) {
            let theirs: Vec<_> = told.by_ref().take(lane.lane.streams.len()).collect();
            match self.socket(key) {
                Ok(socket) => {
                    outlets.push(outlet(lane, socket));
                    lanes.push(lane.lane.clone());
                    streams.extend(theirs);
                }
                Err(error) => {
                    let kind = if lane.outlet.v6 { "IPv6" } else { "IPv4" };
                    plan.faults.push((lane.route, format!("nothing leaves by {kind}: {error}")));
                }
            }
        }
        drop(told);
        let identity = identity(show, &self.instance);
        let ports = self.ports(&mut plan);
        let output = NewOutput {
            burst: Burst::new(&lanes, &identity),
            outlets,
            ports,
            streams,
            routes: show.routes.iter().map(|r| r.name.clone()).collect(),
            rate: show.settings.rate,
        };
        self.tell(show, &plan.faults);
        let outgoing = Outgoing {
            identity,
            announced: plan.announced(),
            art_net: plan.art_net_unicasts(),
            hosts: hosts(show),
            time_code: kind_of(show.settings.time_code),
            local: is_local(show),
            triggers: show.settings.triggers,
            triggers_from: show.settings.triggers_from.clone(),
            time_code_from: show.settings.time_code_from.clone(),
            nodes_from: show.settings.nodes_from.clone(),
        };
        (output, outgoing)
    }

    fn socket(&mut self, key: (String, Outlet)) -> std::io::Result<Arc<UdpSocket>> {
        if let Some(socket) = self.sockets.get(&key) {
            return Ok(socket.clone());
        }
        let socket = Arc::new(socket::open(&key.1)?);
        self.sockets.insert(key, socket.clone());
        Ok(socket)
    }

    fn ports(&mut self, plan: &mut Plan) -> Vec<PortHandle> {
        self.ports.retain(|(path, baud), _| plan.ports.iter().any(|p| p.path == *path && p.baud == *baud));
        let mut handles: Vec<PortHandle> = Vec::new();
        let mut used: Vec<&str> = Vec::new();
        for port in &plan.ports {
            if used.contains(&port.path.as_str()) {
                let message = format!("another route has the port {}; one of them has to go elsewhere", port.path);
                plan.faults.push((port.route, message));
                continue;
            }
            used.push(&port.path);
            let key = (port.path.clone(), port.baud);
            let handle = match self.ports.get(&key) {
                Some(handle) => Ok(handle.planned(port)),
                None => PortHandle::open(port, self.troubles.clone()),
            };
            match handle {
                Ok(handle) => {
                    self.ports.insert(key, handle.clone());
                    handles.push(handle);
                }
                Err(error) => plan.faults.push((port.route, format!("nothing leaves: {error}"))),
            }
        }
        handles
    }

    fn tell(&mut self, show: &Show, faults: &[(usize, String)]) {
        let subject = |route: &str| format!("route {route}");
        let mut now: Vec<String> = Vec::new();
        for (route, why) in faults {
            let name = &show.routes[*route].name;
            // The first of a route is told; what is left comes when that is mended.
            if !now.contains(name) {
                self.troubles.tell(&subject(name), why.clone());
                now.push(name.clone());
            }
        }
        for name in self.told.iter().filter(|name| !now.contains(name)) {
            self.troubles.over(&subject(name));
        }
        self.told = now;
    }

    /// The way the ports are.
    #[must_use]
    pub fn port_status(&self) -> Vec<PortStatus> {
        let mut all: Vec<PortStatus> = self.ports.values().map(PortHandle::status).collect();
        all.sort_by_key(|port| port.route);
        all
    }
}

fn outlet(lane: &PlannedLane, socket: Arc<UdpSocket>) -> LaneOutlet {
    let own = match (&lane.outlet.interface, lane.outlet.v6) {
        (Some(interface), false) => interface.v4.map(IpAddr::V4),
        (Some(interface), true) => interface.v6.map(IpAddr::V6),
        (None, _) => None,
    };
    let unknown = if lane.outlet.v6 { IpAddr::V6(Ipv6Addr::LOCALHOST) } else { IpAddr::V4(Ipv4Addr::LOCALHOST) };
    LaneOutlet { route: lane.route, socket, pacing: lane.pacing, own: own.unwrap_or(unknown) }
}

fn hosts(show: &Show) -> Vec<String> {
    let all = show.routes.iter().filter(|r| r.enabled).flat_map(|r| &r.to.0);
    let mut names: Vec<String> = all
        .filter_map(|to| match to {
            Destination::Host(name) => Some(name.clone()),
            _ => None,
        })
        .collect();
    names.sort_unstable();
    names.dedup();
    names
}

fn kind_of(time_code: TimeCode) -> Option<CountingKind> {
    match time_code {
        TimeCode::Off => None,
        TimeCode::Film => Some(CountingKind::Film),
        TimeCode::Ebu => Some(CountingKind::Ebu),
        TimeCode::Drop => Some(CountingKind::Drop),
        TimeCode::Smpte => Some(CountingKind::Smpte),
    }
}
