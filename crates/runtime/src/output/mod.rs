//! The output: planned from the routes of a show, sent by a thread of its own, measured and recorded.

mod meter;
mod outlets;
pub mod plan;
pub mod port;
pub mod record;
mod send;

use std::collections::{BTreeSet, HashMap};
use std::net::{IpAddr, Ipv4Addr, UdpSocket};
use std::sync::Arc;

use serde::Serialize;
use splimo_base::histogram::{Histogram, Quantiles};
use splimo_show::{Destination, Pacing, Show};
use splimo_wire::burst::{Burst, Identity};
use uuid::Uuid;

use crate::trouble::PastTrouble;

pub use outlets::Outlets;
pub use send::{SendLoop, SenderEnds};
pub use splimo_link::output::{OutputStatus, PortStatus, RecordingStatus, Refusals, StreamStatus};

use meter::Meter;
use port::PortHandle;

/// The name space of the sources' UUIDs.
const NAME_SPACE: Uuid = Uuid::from_u128(0x5b1f_6a3c_9f0e_4c57_8d21_7a90_51e0_c0de);

/// Totals of what was sent.
#[derive(Debug, Clone, Default)]
pub struct OutputTotals {
    /// Frames sent.
    pub frames: u64,
    /// Seconds between the first and the last of them.
    pub seconds: f64,
    /// Packets that left.
    pub packets: u64,
    /// Packets that the system refused.
    pub errors: u64,
    /// The lateness of frames when they began to leave.
    pub late: Histogram,
    /// The time that sending a frame took.
    pub send: Histogram,
}

/// The totals as they are reported.
#[derive(Debug, Clone, Serialize)]
pub struct Report {
    /// Frames sent.
    pub frames: u64,
    /// Frames a second.
    pub fps: f64,
    /// Their lateness.
    pub late_ms: Quantiles,
    /// The number of universes of the rig that have a route.
    pub universes: usize,
    /// Packets that left.
    pub packets: u64,
    /// Packets that the system refused.
    pub send_errors: u64,
    /// The tempo at the end.
    pub tempo_bpm: f64,
    /// The troubles that were, each with whether it is over.
    pub troubles: Vec<PastTrouble>,
}

impl OutputTotals {
    /// Frames a second between the first and the last.
    #[must_use]
    pub fn fps(&self) -> f64 {
        let fps = if self.seconds > 0.0 { self.frames.saturating_sub(1) as f64 / self.seconds } else { 0.0 };
        (fps * 1000.0).round() / 1000.0
    }
}

/// The identity of a show on the network: the same on the same machine at every start. Of two that run at a time each has its own, by
/// the words that tell them apart: the file or the session.
#[must_use]
pub fn identity(show: &Show, instance: &str) -> Identity {
    let machine = std::fs::read_to_string("/etc/machine-id").unwrap_or_default();
    let host = std::fs::read_to_string("/proc/sys/kernel/hostname").unwrap_or_default();
    let user = nix::unistd::Uid::effective();
    let cid = Uuid::new_v5(&NAME_SPACE, format!("{machine}\n{host}\n{user}\n{instance}\n{}", show.name).as_bytes());
    Identity { cid: *cid.as_bytes(), name: format!("Splimo {}", show.name) }
}

/// Through what a lane leaves.
#[derive(Clone)]
pub struct LaneOutlet {
    /// Index of the route.
    pub route: usize,
    /// The socket.
    pub socket: Arc<UdpSocket>,
    /// The way its packets follow each other.
    pub pacing: Pacing,
    /// The address that its packets seem to come from, for a recording.
    pub own: IpAddr,
}

/// The streams of a show, ready to be sent.
#[derive(Default)]
pub struct NewOutput {
    /// The packets.
    pub burst: Burst,
    /// Through what each lane leaves.
    pub outlets: Vec<LaneOutlet>,
    /// Universes on serial ports.
    pub ports: Vec<PortHandle>,
    /// The streams as they begin.
    pub streams: Vec<StreamStatus>,
    /// Names of the routes, for what is told of them.
    pub routes: Vec<String>,
    /// Frames a second that the show asks for.
    pub rate: f32,
}

impl NewOutput {
    /// The number of universes that have a route.
    #[must_use]
    pub fn universes(&self) -> usize {
        let streams: BTreeSet<u32> = self.streams.iter().map(|stream| stream.universe).collect();
        let blocks: BTreeSet<_> =
            self.ports.iter().flat_map(|port| port.parts.iter().map(|(block, _)| *block)).collect();
        streams.len() + blocks.len()
    }
}

/// Sends every unicast route elsewhere: to `map` of its address.
pub fn redirect(show: &mut Show, map: &HashMap<Ipv4Addr, Ipv4Addr>) {
    for to in show.routes.iter_mut().flat_map(|route| &mut route.to.0) {
        if let Destination::Unicast(IpAddr::V4(address)) = to {
            *address = map.get(address).copied().unwrap_or(*address);
        }
    }
}

#[cfg(test)]
mod tests;
