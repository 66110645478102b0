//! One address in all the forms in which boxes and people write it. What a node is to be set to is what leaves, so that the names
//! that Art-Net and sACN have for a universe of the show are those of its routes. Where no route carries it yet, universe 1
//! of the show is port-address 0 of Art-Net and universe 1 of sACN.
//!
//! Source: Art-Net 4, "Universe addressing": a port-address has 15 bits, net (7), sub-net (4) and universe (4).

use std::fmt;

use super::{Address, BadAddress, LAST_UNIVERSE, SLOTS, Show, TransportKind};

/// Port-addresses of Art-Net: 0..32767.
const PORT_ADDRESSES: u32 = 32_768;

/// A slot by the name that it has on its way.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Sent {
    /// The transport of the route.
    pub kind: TransportKind,
    /// The port-address or universe in the protocol; 0 on a serial port.
    pub number: u16,
    /// The channel, 1..512.
    pub channel: u16,
}

impl Sent {
    /// The name of its universe: `Art-Net 0:1:0`, `sACN 4`, `serial`.
    #[must_use]
    pub fn universe(self) -> String {
        self.kind.usual().universe(self.number)
    }
}

impl fmt::Display for Sent {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.kind.usual().numbers() {
            None => f.write_str(&self.universe()),
            Some(_) => write!(f, "{}/{}", self.universe(), self.channel),
        }
    }
}

impl Address {
    /// One number that runs on through all universes of the show, from 1.
    #[must_use]
    pub fn running(self) -> u32 {
        (self.universe - 1) * u32::from(SLOTS) + u32::from(self.channel)
    }
}

impl Show {
    /// The names under which a slot leaves, by the routes that are on, each once. None if no route carries it.
    #[must_use]
    pub fn sent_as(&self, address: Address) -> Vec<Sent> {
        let mut names = Vec::new();
        for route in self.routes.iter().filter(|route| route.enabled) {
            let Some(number) = route.number_of(address.universe) else { continue };
            let name = Sent { kind: route.kind(), number, channel: address.channel };
            if !names.contains(&name) {
                names.push(name);
            }
        }
        names
    }

    /// [`Self::sent_as`] in words: `Art-Net 0:1:0/1, sACN 4/1`, or that no route carries it.
    #[must_use]
    pub fn sent_words(&self, address: Address) -> String {
        let names: Vec<String> = self.sent_as(address).iter().map(Sent::to_string).collect();
        match names.is_empty() {
            true => format!("no route carries universe {}", address.universe),
            false => names.join(", "),
        }
    }

    /// Reads an address in any of the forms: `universe.channel`, `net:subnet:universe/channel`, `port-address/channel`, or one
    /// running number. `sacn 8/1`, `port 7/1` and `running 3585` say which form is meant. What a protocol calls a universe
    /// is looked up in the routes that are on; where none of the protocol sends to it, the usual numbers count.
    ///
    /// # Errors
    /// [`BadAddress`] with the reason; [`BadAddress::SentElsewhere`] if the universe that would usually be meant leaves under
    /// another number.
    pub fn read_address(&self, text: &str) -> Result<Address, BadAddress> {
        let text = text.trim();
        let form = || BadAddress::AnyForm(text.chars().take(60).collect());
        let number = |word: &str| word.trim().parse::<u32>().map_err(|_| form());
        if let Some(rest) = text.strip_prefix("running ") {
            return from_running(number(rest)?);
        }
        if let Some((universe, channel)) = text.strip_prefix("sacn ").and_then(|rest| rest.split_once('/')) {
            let (universe, channel) = (number(universe)?, number(channel)?);
            let usual = Address::checked(universe, channel)?;
            return self.carried(TransportKind::Sacn, universe, usual);
        }
        let plain = text.strip_prefix("port ").unwrap_or(text);
        let art_net = |port: u32, channel: u32| {
            let usual = Address::checked(port + 1, channel)?;
            self.carried(TransportKind::ArtNet, port, usual)
        };
        match plain.split_once('/') {
            Some((port, channel)) => art_net(port_address(port, form)?, number(channel)?),
            None if plain.contains('.') => plain.parse(),
            None if plain.contains(':') => art_net(port_address(plain, form)?, 1),
            None => from_running(number(plain)?),
        }
    }

    /// The slot of the show that a route of a kind sends under a number, else the usual one if that leaves under no other.
    fn carried(&self, kind: TransportKind, number: u32, usual: Address) -> Result<Address, BadAddress> {
        let mut universes =
            self.routes.iter().filter(|route| route.enabled && route.kind() == kind).filter_map(|route| {
                let universe = route.universes.first + number.checked_sub(u32::from(route.first()))?;
                route.number_of(universe).map(|_| universe)
            });
        if let Some(universe) = universes.next() {
            return Ok(Address { universe, ..usual });
        }
        match self.sent_as(usual).into_iter().find(|name| name.kind == kind) {
            Some(other) => Err(BadAddress::SentElsewhere {
                asked: Sent { kind, number: number as u16, channel: usual.channel }.universe(),
                universe: usual.universe,
                sent: other.universe(),
            }),
            None => Ok(usual),
        }
    }
}

fn port_address(text: &str, form: impl Fn() -> BadAddress) -> Result<u32, BadAddress> {
    let parts: Vec<u32> =
        text.split(':').map(|part| part.trim().parse().map_err(|_| form())).collect::<Result<_, _>>()?;
    match parts[..] {
        [port] if port < PORT_ADDRESSES => Ok(port),
        [port] => Err(BadAddress::PortAddress(port.to_string())),
        [net, subnet, universe] if net < 128 && subnet < 16 && universe < 16 => Ok(net << 8 | subnet << 4 | universe),
        [_, _, _] => Err(BadAddress::PortAddress(text.to_owned())),
        _ => Err(form()),
    }
}

fn from_running(number: u32) -> Result<Address, BadAddress> {
    let slots = u32::from(SLOTS);
    if number == 0 || number > LAST_UNIVERSE * slots {
        return Err(BadAddress::Running(number));
    }
    Address::checked((number - 1) / slots + 1, (number - 1) % slots + 1)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Route, UniverseRange};
    use proptest::prelude::*;

    fn address(universe: u32, channel: u16) -> Address {
        Address { universe, channel }
    }

    fn route(first: u32, last: u32, kind: TransportKind, number: u16) -> Route {
        Route::new("A", UniverseRange { first, last }, kind, number, "10.0.0.1".parse().expect("an address"))
    }

    fn show(routes: &[Route]) -> Show {
        Show { routes: routes.to_vec(), ..Show::empty("Routed") }
    }

    #[test]
    fn one_address_in_all_forms_without_a_route() {
        for text in ["8.1", "0:0:7/1", "7/1", "port 7/1", "3585", "running 3585", "sacn 8/1", " 0:0:7 "] {
            assert_eq!(show(&[]).read_address(text), Ok(address(8, 1)), "{text}");
        }
        assert_eq!(address(8, 1).running(), 3585);
        assert_eq!(show(&[]).sent_words(address(8, 1)), "no route carries universe 8");
    }

    #[test]
    fn the_numbers_are_those_that_leave() {
        let show = show(&[
            route(1, 7, TransportKind::ArtNet, 16),
            route(4, 4, TransportKind::Sacn, 90),
            Route { enabled: false, ..route(1, 7, TransportKind::ArtNet, 0) },
            route(1, 7, TransportKind::ArtNet, 16),
        ]);
        assert_eq!(show.sent_words(address(1, 5)), "Art-Net 0:1:0/5");
        assert_eq!(show.sent_words(address(4, 1)), "Art-Net 0:1:3/1, sACN 90/1");
        for text in ["0:1:3/1", "19/1", "port 19/1", "sacn 90/1", "4.1"] {
            assert_eq!(show.read_address(text), Ok(address(4, 1)), "{text}");
        }
        // Nobody sends 0:1:7: universe 24 is free to be routed there.
        assert_eq!(show.read_address("0:1:7/1"), Ok(address(24, 1)));
        let error = show.read_address("0:0:2/1").expect_err("universe 3 leaves as something else").to_string();
        assert!(error.contains("universe 3 leaves as Art-Net 0:1:2") && error.contains("3.1"), "{error}");
    }

    #[test]
    fn forms_round_trip_over_every_port_address_and_universe() {
        let show = show(&[]);
        for universe in 1..=LAST_UNIVERSE {
            let address = address(universe, (universe % 512 + 1) as u16);
            assert_eq!(show.read_address(&address.to_string()), Ok(address));
            assert_eq!(show.read_address(&address.running().to_string()), Ok(address));
            assert_eq!(show.read_address(&format!("sacn {universe}/{}", address.channel)), Ok(address));
        }
    }

    proptest! {
        #[test]
        fn what_leaves_is_read_back_as_its_slot(first in 1u32..900, count in 0u32..50, number in 1u16..9000, within in 0u32..50,
            art_net: bool, channel in 1u16..=512) {
            let kind = if art_net { TransportKind::ArtNet } else { TransportKind::Sacn };
            let show = show(&[route(first, first + count, kind, number)]);
            let address = address(first + within.min(count), channel);
            let text = show.sent_words(address);
            let text = text.strip_prefix("Art-Net ").map_or_else(|| text.to_lowercase(), str::to_owned);
            prop_assert_eq!(show.read_address(&text), Ok(address));
        }
    }

    #[test]
    fn what_does_not_exist_is_refused_with_its_reason() {
        let read = |text: &str| show(&[]).read_address(text);
        assert_eq!(read("1.513"), Err(BadAddress::Channel(513)));
        assert_eq!(read("0.1"), Err(BadAddress::Universe(0)));
        assert_eq!(read("70000.1"), Err(BadAddress::Universe(70_000)));
        assert_eq!(read("32768/1"), Err(BadAddress::PortAddress("32768".into())));
        assert_eq!(read("0:16:0/1"), Err(BadAddress::PortAddress("0:16:0".into())));
        assert_eq!(read("0/0"), Err(BadAddress::Channel(0)));
        assert_eq!(read("0"), Err(BadAddress::Running(0)));
        for text in ["", "one", "1.", "1:2/3", "-1.1", "1/2/3", "99999999999"] {
            let error = read(text).expect_err("it is no address");
            assert!(error.to_string().contains("write"), "{text}: {error}");
        }
    }
}
