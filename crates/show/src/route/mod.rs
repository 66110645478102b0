//! Routes: which universes of the show go where, and how.

mod fields;
mod written;

use serde::{Deserialize, Serialize};

pub use fields::RouteFields;

use super::UniverseRange;
use splimo_base::white::WhitePoint;
use splimo_transport::{AnyTransport, Destinations, TransportKind};

/// The fastest that DMX512 carries a full universe, in frames a second (ANSI E1.11).
pub const DMX_RATE: f32 = 44.0;

/// A range of universes on its way to some destinations.
///
/// Files have it as [`RouteFields`].
#[derive(Debug, Clone, PartialEq)]
pub struct Route {
    /// The name, unique among routes.
    pub name: String,
    /// The universes of the show.
    pub universes: UniverseRange,
    /// The protocol, with what only this one has.
    pub transport: AnyTransport,
    /// The destinations.
    pub to: Destinations,
    /// The most frames a second, 1..1000; without it, what DMX512 carries.
    pub rate: Option<f32>,
    /// The spacing of the packets of a frame.
    pub pacing: Pacing,
    /// The packets of a universe that does not change.
    pub unchanged: Unchanged,
    /// The most of the light that it may give, in percent, 0..100.
    pub limit: f32,
    /// The white point.
    pub white: WhitePoint,
    /// True if anything is sent.
    pub enabled: bool,
}

impl Route {
    /// A route that is on, with everything else as usual. A serial port takes no `first`.
    #[must_use]
    pub fn new(name: &str, universes: UniverseRange, kind: TransportKind, first: u16, to: Destinations) -> Self {
        RouteFields::new(name, universes, kind, first, to).into()
    }

    /// The kind of its transport.
    #[must_use]
    pub fn kind(&self) -> TransportKind {
        self.transport.kind()
    }

    /// The number that the first universe has in the protocol; 0 on a serial port.
    #[must_use]
    pub fn first(&self) -> u16 {
        self.transport.numbering().map_or(0, |numbering| numbering.first)
    }

    /// The network interface through which it leaves, if one is chosen.
    #[must_use]
    pub fn interface(&self) -> Option<&str> {
        self.transport.numbering()?.interface.as_deref()
    }

    /// True if a synchronisation packet follows each frame.
    #[must_use]
    pub fn sync(&self) -> bool {
        self.transport.numbering().is_some_and(|numbering| numbering.sync)
    }

    /// The number that a universe of the show has in the protocol, if it is one of the route's and there is such a number.
    #[must_use]
    pub fn number_of(&self, universe: u32) -> Option<u16> {
        let within = self.universes.numbers().contains(&universe).then(|| universe - self.universes.first)?;
        u16::try_from(u32::from(self.first()) + within).ok()
    }

    /// The name of a universe of the show in the protocol, if it is one of the route's.
    #[must_use]
    pub fn name_of(&self, universe: u32) -> Option<String> {
        let number = self.number_of(universe)?;
        Some(self.transport.universe(number))
    }

    /// The number that the last universe has in the protocol, the greatest there is if it would be beyond.
    #[must_use]
    pub fn last(&self) -> u16 {
        u16::try_from(u32::from(self.first()) + self.universes.count() - 1).unwrap_or(u16::MAX)
    }

    /// The factors of red, green and blue on its way.
    #[must_use]
    pub fn gain(&self) -> [f32; 3] {
        self.white.gains().map(|gain| gain * self.limit / 100.0)
    }

    /// The most frames a second.
    #[must_use]
    pub fn fastest(&self) -> f32 {
        self.rate.unwrap_or(DMX_RATE)
    }
}

/// The spacing of the packets of a frame.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Pacing {
    /// As fast as they can.
    #[default]
    Together,
    /// Evenly over half the time of a frame, so that a small switch keeps up.
    Spread,
    /// In bursts that the network card cuts up: the least work for the machine, the most for the switch.
    Burst,
}

impl Pacing {
    /// Every pacing.
    pub const ALL: [Self; 3] = [Self::Together, Self::Spread, Self::Burst];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Together => "together",
            Self::Spread => "spread",
            Self::Burst => "burst",
        }
    }
}

/// The packets of a universe that does not change.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
pub enum Unchanged {
    /// A packet now and then, as the standards ask.
    #[default]
    #[serde(rename = "keep-alive")]
    KeepAlive,
    /// Every frame all the same, so that a receiver's frame rate tells of losses.
    #[serde(rename = "repeat")]
    Repeat,
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn universes_are_numbered_from_the_first() {
        let range = UniverseRange { first: 10, last: 12 };
        let route = Route::new("A", range, TransportKind::ArtNet, 16, "10.0.0.1".parse().expect("an address"));
        assert_eq!((route.number_of(9), route.number_of(10), route.number_of(12)), (None, Some(16), Some(18)));
        assert_eq!((route.number_of(13), route.name_of(10).as_deref()), (None, Some("Art-Net 0:1:0")));
        let late = Route::from(RouteFields { first: 65_535, ..route.into() });
        assert_eq!((late.number_of(10), late.number_of(11)), (Some(65_535), None));
    }

    #[test]
    fn limit_and_white_point_come_together() {
        let range = UniverseRange { first: 1, last: 1 };
        let mut route = Route::new("A", range, TransportKind::Sacn, 1, "multicast".parse().expect("multicast"));
        assert_eq!(route.gain(), [1.0; 3]);
        route.limit = 50.0;
        route.white = "100 80 60".parse().expect("a white point");
        assert_eq!(route.gain(), [0.5, 0.4, 0.3]);
    }
}
