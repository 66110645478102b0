//! The state of the output: each universe on its way, what was refused, and the recording.

use std::net::SocketAddr;
use std::path::PathBuf;

use serde::{Deserialize, Serialize};
use splimo_base::histogram::Quantiles;

/// A universe on its way, for the screen.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct StreamStatus {
    /// Index of the route in the show.
    pub route: usize,
    /// The universe of the show.
    pub universe: u32,
    /// The place among the blocks of 512 slots of a frame.
    pub source: usize,
    /// Its number in the protocol.
    pub number: u16,
    /// The destinations.
    pub to: SocketAddr,
    /// Packets since the start.
    pub packets: u64,
    /// Packets a second, of late.
    pub rate: f32,
    /// The longest time between two packets in the last second, in milliseconds.
    pub gap_ms: f32,
}

/// Packets of a route that the system refused.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Refusals {
    /// The number in the last second.
    pub count: u64,
    /// The reason, the last time.
    pub why: Option<String>,
}

/// The state of the output, for screens and reports.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct OutputStatus {
    /// Frames sent.
    pub frames: u64,
    /// Frames a second, of late.
    pub fps: f32,
    /// Packets that left.
    pub packets: u64,
    /// Packets that the system refused.
    pub errors: u64,
    /// The lateness of frames when they began to leave, in milliseconds, of late.
    pub late_ms: Quantiles,
    /// Each universe on its way.
    pub streams: Vec<StreamStatus>,
    /// The packets that were refused of late, by route.
    pub refused: Vec<(usize, Refusals)>,
    /// The recording under way, if there is one.
    pub recording: Option<RecordingStatus>,
}

/// The way a recording is.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct RecordingStatus {
    /// The file.
    pub path: PathBuf,
    /// Packets written.
    pub packets: u64,
    /// Frames left out, as the disk was too slow.
    pub left_out: u64,
}

/// The way a port is.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct PortStatus {
    /// The path.
    pub path: String,
    /// Index of the route.
    pub route: usize,
    /// The controller, once it has said that it is ready: its name and its room for channels.
    pub controller: Option<(String, u32)>,
    /// Frames that were taken.
    pub frames: u64,
    /// Frames a second, of late.
    pub rate: f32,
    /// Packets that were not taken, or not answered.
    pub failed: u64,
}
