//! Helpers for tests of this crate and of those that build on it (feature `testing`).

use std::net::{IpAddr, Ipv4Addr, SocketAddr};

use splimo_base::histogram::Quantiles;
use splimo_document::file;
use splimo_light::rig::Rig;
use splimo_show::{Destination, Show};
use splimo_transport::Leaves;
use splimo_wire::Protocol;
use splimo_wire::artnet::poll_reply::{OEM_UNKNOWN, Port, Repr, Style};

use crate::network::{NetworkStatus, Received, SourceSeen};
use crate::output::StreamStatus;

/// The demo show.
///
/// # Panics
/// Where the file that ships is no show.
#[must_use]
pub fn lantern_quay() -> Show {
    file::read(include_str!("../../../shows/lantern-quay.splimo")).expect("the demo show is one").show
}

/// The demo show and its streams.
#[must_use]
pub fn demo() -> (Show, Vec<StreamStatus>) {
    let show = lantern_quay();
    let streams = streams(&show, &Rig::compile(&show));
    (show, streams)
}

/// The streams of the routes that go to single addresses, as the session would report them before anything was sent.
#[must_use]
pub fn streams(show: &Show, rig: &Rig) -> Vec<StreamStatus> {
    let mut streams = Vec::new();
    for (route, of) in show.routes.iter().enumerate().filter(|(_, route)| route.enabled) {
        let Leaves::Packets(packets) = of.transport.leaves() else { continue };
        let port = packets.port();
        for &universe in
            rig.universes.iter().filter(|universe| (of.universes.first..=of.universes.last).contains(universe))
        {
            let (Some(source), Some(number)) = (rig.block_of(universe, of.gain()), of.number_of(universe)) else {
                continue;
            };
            for to in &of.to.0 {
                let Destination::Unicast(IpAddr::V4(address)) = to else { continue };
                let to = SocketAddr::from((*address, port));
                streams.push(StreamStatus { route, universe, source, number, to, packets: 0, rate: 0.0, gap_ms: 0.0 });
            }
        }
    }
    streams
}

/// Has a node at 127.0.0.`last` answer a poll now.
pub fn answer(network: &mut NetworkStatus, last: u8, mac: u8, outputs: &[u16]) {
    let address = Ipv4Addr::new(127, 0, 0, last);
    let reply = Repr {
        address,
        version: 1,
        oem: OEM_UNKNOWN,
        short_name: "Box",
        long_name: "",
        report: "",
        switch: 0,
        ports: std::array::from_fn(|i| Port { output: outputs.get(i).copied(), ..Port::default() }),
        port_count: outputs.len(),
        style: Style::Node,
        mac: [mac; 6],
        bind_address: address,
        bind_index: 1,
        refresh_rate: 0,
    };
    network.directory.answered(&reply, address, network.now);
}

/// A universe that comes in from some sources.
#[must_use]
pub fn received(protocol: Protocol, universe: u16, sources: Vec<SourceSeen>) -> Received {
    Received {
        protocol,
        universe,
        rate: 44.0,
        counts: (100, 51_200, 0),
        gap_ms: Quantiles::default(),
        changed: 1.0,
        sources,
        slots: Vec::new(),
    }
}
