//! Routes as files and forms have them.

use serde::{Deserialize, Serialize};

use super::super::{Destinations, UniverseRange};
use super::{Numbering, Pacing, Route, Transport, TransportKind, Unchanged};
use splimo_base::white::WhitePoint;

/// The usual speed of a serial port, in bits a second.
const USUAL_BAUD: u32 = 1_000_000;

/// A route as files and forms have it: the fields of all transports side by side, of which its own are taken.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct RouteFields {
    /// The name, unique among routes.
    pub name: String,
    /// The universes of the show.
    pub universes: UniverseRange,
    /// The protocol.
    pub protocol: TransportKind,
    /// The number that the first of them has in the protocol.
    #[serde(default)]
    pub first: u16,
    /// The destinations.
    pub to: Destinations,
    /// The network interface through which it leaves.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub interface: Option<String>,
    /// The priority of the source (sACN).
    #[serde(default = "usual_priority", skip_serializing_if = "is_usual_priority")]
    pub priority: u8,
    /// True if receivers are told that it is not for live output (sACN).
    #[serde(default, skip_serializing_if = "is_false")]
    pub preview: bool,
    /// The most frames a second.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rate: Option<f32>,
    /// The spacing of the packets of a frame.
    #[serde(default, skip_serializing_if = "Pacing::is_usual")]
    pub pacing: Pacing,
    /// True if a synchronisation packet follows each frame.
    #[serde(default, skip_serializing_if = "is_false")]
    pub sync: bool,
    /// The packets of a universe that does not change.
    #[serde(default)]
    pub unchanged: Unchanged,
    /// The most of the light that it may give, in percent.
    #[serde(default = "full", skip_serializing_if = "is_full")]
    pub limit: f32,
    /// The white point.
    #[serde(default, skip_serializing_if = "WhitePoint::is_plain")]
    pub white: WhitePoint,
    /// The speed of a serial port, in bits a second.
    #[serde(default = "usual_baud", skip_serializing_if = "is_usual_baud")]
    pub baud: u32,
    /// True if anything is sent.
    #[serde(default = "on", skip_serializing_if = "is_on")]
    pub enabled: bool,
}

impl RouteFields {
    /// The fields of a route that is on, with everything else as usual.
    #[must_use]
    pub fn new(name: &str, universes: UniverseRange, kind: TransportKind, first: u16, to: Destinations) -> Self {
        Self {
            name: name.to_owned(),
            universes,
            protocol: kind,
            first,
            to,
            interface: None,
            priority: usual_priority(),
            preview: false,
            rate: None,
            pacing: Pacing::default(),
            sync: false,
            unchanged: Unchanged::default(),
            limit: full(),
            white: WhitePoint::default(),
            baud: USUAL_BAUD,
            enabled: true,
        }
    }
}

impl From<RouteFields> for Route {
    fn from(fields: RouteFields) -> Self {
        let RouteFields { name, universes, protocol, first, to, interface, priority, preview, .. } = fields;
        let RouteFields { rate, pacing, sync, unchanged, limit, white, baud, enabled, .. } = fields;
        let numbering = Numbering { first, interface, sync };
        let transport = match protocol {
            TransportKind::ArtNet => Transport::ArtNet(numbering),
            TransportKind::Sacn => Transport::Sacn { numbering, priority, preview },
            TransportKind::Serial => Transport::Serial { baud },
        };
        Self { name, universes, transport, to, rate, pacing, unchanged, limit, white, enabled }
    }
}

impl From<Route> for RouteFields {
    fn from(route: Route) -> Self {
        let Route { name, universes, transport, to, rate, pacing, unchanged, limit, white, enabled } = route;
        let (protocol, Numbering { first, interface, sync }) =
            (transport.kind(), transport.numbering().cloned().unwrap_or_default());
        let (priority, preview) = match transport {
            Transport::Sacn { priority, preview, .. } => (priority, preview),
            Transport::ArtNet(_) | Transport::Serial { .. } => (usual_priority(), false),
        };
        let baud = if let Transport::Serial { baud } = transport { baud } else { USUAL_BAUD };
        Self {
            name,
            universes,
            protocol,
            first,
            to,
            interface,
            priority,
            preview,
            rate,
            pacing,
            sync,
            unchanged,
            limit,
            white,
            baud,
            enabled,
        }
    }
}

fn usual_priority() -> u8 {
    100
}

fn is_usual_priority(priority: &u8) -> bool {
    *priority == usual_priority()
}

fn usual_baud() -> u32 {
    USUAL_BAUD
}

fn is_usual_baud(baud: &u32) -> bool {
    *baud == USUAL_BAUD
}

fn full() -> f32 {
    100.0
}

fn is_full(percent: &f32) -> bool {
    *percent == full()
}

fn on() -> bool {
    true
}

fn is_on(on: &bool) -> bool {
    *on
}

fn is_false(flag: &bool) -> bool {
    !flag
}
