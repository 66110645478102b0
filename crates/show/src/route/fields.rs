//! Routes as files and forms have them.

use serde::Deserialize;

use super::super::UniverseRange;
use super::{Pacing, Route, Unchanged};
use splimo_base::white::WhitePoint;
use splimo_transport::{AnyTransport, Destinations, FieldValue, Numbering, TransportKind};

/// A route as files and forms have it: the fields of all transports side by side, of which its own are taken.
#[derive(Debug, Clone, PartialEq, Deserialize)]
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
    #[serde(default)]
    pub interface: Option<String>,
    /// The most frames a second.
    #[serde(default)]
    pub rate: Option<f32>,
    /// The spacing of the packets of a frame.
    #[serde(default)]
    pub pacing: Pacing,
    /// True if a synchronisation packet follows each frame.
    #[serde(default)]
    pub sync: bool,
    /// The packets of a universe that does not change.
    #[serde(default)]
    pub unchanged: Unchanged,
    /// The most of the light that it may give, in percent.
    #[serde(default = "full")]
    pub limit: f32,
    /// The white point.
    #[serde(default)]
    pub white: WhitePoint,
    /// True if anything is sent.
    #[serde(default = "on")]
    pub enabled: bool,
    /// The fields that only some transports have: those of a route, or those that stand in a file.
    #[serde(skip)]
    pub own: Vec<(&'static str, FieldValue)>,
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
            rate: None,
            pacing: Pacing::default(),
            sync: false,
            unchanged: Unchanged::default(),
            limit: full(),
            white: WhitePoint::default(),
            enabled: true,
            own: Vec::new(),
        }
    }
}

impl From<RouteFields> for Route {
    fn from(fields: RouteFields) -> Self {
        let RouteFields { name, universes, protocol, first, to, interface, rate, pacing, .. } = fields;
        let RouteFields { sync, unchanged, limit, white, enabled, own, .. } = fields;
        let mut transport = AnyTransport::of(protocol);
        if let Some(numbering) = transport.numbering_mut() {
            *numbering = Numbering { first, interface, sync };
        }
        for (field, value) in own {
            transport.set(field, value);
        }
        Self { name, universes, transport, to, rate, pacing, unchanged, limit, white, enabled }
    }
}

impl From<Route> for RouteFields {
    fn from(route: Route) -> Self {
        let Route { name, universes, transport, to, rate, pacing, unchanged, limit, white, enabled } = route;
        let Numbering { first, interface, sync } = transport.numbering().cloned().unwrap_or_default();
        let own = transport.fields().iter().map(|field| (field.name, transport.value(field.name))).collect();
        let protocol = transport.kind();
        Self {
            name,
            universes,
            protocol,
            first,
            to,
            interface,
            rate,
            pacing,
            sync,
            unchanged,
            limit,
            white,
            enabled,
            own,
        }
    }
}

fn full() -> f32 {
    100.0
}

fn on() -> bool {
    true
}
