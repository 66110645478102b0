//! The network: who is there, and what comes in.

use std::net::{IpAddr, SocketAddr};

use serde::{Deserialize, Serialize};
use splimo_base::histogram::Quantiles;
use splimo_wire::Protocol;
use splimo_wire::artnet::{time_code, trigger};
use splimo_wire::directory::Directory;
use splimo_wire::interface::Interface;

/// A source of a universe that comes in.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct SourceSeen {
    /// Its place.
    pub address: IpAddr,
    /// Its name; empty where the protocol has none.
    pub name: String,
    /// Its priority, where the protocol has one.
    pub priority: Option<u8>,
    /// True if the universe is its own alone, or shared with others of its priority.
    pub wins: bool,
    /// True if it is this program.
    pub own: bool,
}

/// A universe that comes in.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Received {
    /// The protocol.
    pub protocol: Protocol,
    /// Its number in the protocol.
    pub universe: u16,
    /// Frames a second, of late.
    pub rate: f32,
    /// Frames, bytes and frames that were lost.
    pub counts: (u64, u64, u64),
    /// The time between frames, in milliseconds.
    pub gap_ms: Quantiles,
    /// The time when a slot last became another, in seconds of the listener.
    pub changed: f64,
    /// Its sources.
    pub sources: Vec<SourceSeen>,
    /// Its slots, for the one that is watched.
    pub slots: Vec<u8>,
}

/// Something that somebody else set off, or a time that they told.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Timed<T> {
    /// The content.
    pub what: T,
    /// The source.
    pub from: IpAddr,
    /// The time, in seconds of the listener.
    pub at: f64,
}

/// The network as a screen sees it.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct NetworkStatus {
    /// The time of it, in seconds of the listener.
    pub now: f64,
    /// The devices that are there.
    pub directory: Directory,
    /// The interfaces of this machine.
    pub interfaces: Vec<Interface>,
    /// The addresses at which it listens.
    pub listening: Vec<SocketAddr>,
    /// The universes that come in.
    pub received: Vec<Received>,
    /// The time code that comes in.
    pub time_code: Option<Timed<time_code::Repr>>,
    /// The trigger that was last set off.
    pub trigger: Option<Timed<trigger::Repr>>,
    /// Packets a second that come in.
    pub packets: f32,
    /// The sender of most of them, while so many come that some are lost unread.
    pub flood: Option<Flood>,
}

/// A flood of packets.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Flood {
    /// The address that sends most.
    pub address: IpAddr,
    /// Packets a second from it.
    pub rate: f32,
    /// Packets a second from all.
    pub all: f32,
    /// The number of senders that were told apart.
    pub senders: usize,
}

impl Flood {
    /// In words.
    #[must_use]
    pub fn words(&self) -> String {
        let Self { address, rate, all, senders } = self;
        // Where nobody stands out the addresses are made up.
        if *senders > 32 && rate * 4.0 < *all {
            return format!("{senders} addresses or more send {all:.0} packets a second here");
        }
        format!("{address} sends {rate:.0} packets a second here")
    }
}
