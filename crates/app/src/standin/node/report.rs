//! Reports of nodes.

use std::net::Ipv4Addr;

use serde::Serialize;
use splimo_base::histogram::Quantiles;
use splimo_wire::Protocol;
use splimo_wire::reception::Universe;

use super::Node;

/// Reports of nodes.
#[derive(Debug, Clone, Serialize)]
pub struct Report {
    /// Each node.
    pub nodes: Vec<NodeReport>,
    /// Packets that were no valid packet, at all of them.
    pub malformed: u64,
}

/// The report of one node.
#[derive(Debug, Clone, Serialize)]
pub struct NodeReport {
    /// Its name.
    pub name: String,
    /// The address at which it listens.
    pub address: Ipv4Addr,
    /// Polls that it answered.
    pub polls: u64,
    /// Synchronisation packets that came.
    pub syncs: u64,
    /// The universes that came in.
    pub universes: Vec<UniverseReport>,
}

/// The report of a universe.
#[derive(Debug, Clone, Serialize)]
pub struct UniverseReport {
    /// Its number in the protocol.
    pub universe: u16,
    /// `art-net` or `sacn`.
    pub protocol: &'static str,
    /// Frames that came.
    pub frames: u64,
    /// Frames a second between the first and the last.
    pub fps: f64,
    /// Frames that did not come, by their sequence numbers.
    pub lost: u64,
    /// Frames that came late or twice.
    pub reordered: u64,
    /// Packets that said that the stream ends.
    pub terminated: u64,
    /// The time between frames.
    pub gap_ms: Quantiles,
    /// The sources that send it, the latest ones.
    pub sources: Vec<SourceReport>,
}

/// The report of a source of a universe.
#[derive(Debug, Clone, Serialize)]
pub struct SourceReport {
    /// Its place.
    pub address: String,
    /// Its name, where the protocol has one.
    pub name: String,
    /// Its priority.
    pub priority: u8,
}

/// The report of some nodes.
#[must_use]
pub fn report(nodes: &[Node]) -> Report {
    let reports: Vec<_> = nodes.iter().map(of_node).collect();
    let malformed = reports.iter().map(|(_, malformed)| malformed).sum();
    Report { nodes: reports.into_iter().map(|(node, _)| node).collect(), malformed }
}

fn of_node(node: &Node) -> (NodeReport, u64) {
    let reception = node.reception();
    let universes = reception.universes().map(|(protocol, number, seen)| of_universe(protocol, number, seen)).collect();
    let report = NodeReport {
        name: node.spec.name.clone(),
        address: node.spec.address,
        polls: node.polls(),
        syncs: reception.syncs,
        universes,
    };
    (report, reception.malformed)
}

fn of_universe(protocol: Protocol, universe: u16, seen: &Universe) -> UniverseReport {
    UniverseReport {
        universe,
        protocol: protocol.kind().key(),
        frames: seen.frames,
        fps: (seen.fps() * 100.0).round() / 100.0,
        lost: seen.lost,
        reordered: seen.reordered,
        terminated: seen.terminated,
        gap_ms: seen.gap_ms(),
        sources: seen
            .arbiter()
            .sources()
            .iter()
            .map(|s| SourceReport { address: s.address.to_string(), name: s.name.clone(), priority: s.priority })
            .collect(),
    }
}
