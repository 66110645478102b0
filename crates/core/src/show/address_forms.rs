//! One address in all the forms in which boxes and people write it. Universe 1 of the show is port-address 0 of Art-Net
//! and universe 1 of sACN, unless a route says otherwise.
//!
//! Source: Art-Net 4, "Universe addressing": a port-address has 15 bits, net (7), sub-net (4) and universe (4).

use super::{Address, BadAddress, LAST_UNIVERSE, SLOTS};

/// Port-addresses of Art-Net: 0..32767.
const PORT_ADDRESSES: u32 = 32_768;

/// An address in every form.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Forms(pub Address);

impl Forms {
    /// The port-address, 0..32767, where Art-Net has one for the universe.
    #[must_use]
    pub fn port_address(self) -> Option<u16> {
        let port = self.0.universe - 1;
        (port < PORT_ADDRESSES).then_some(port as u16)
    }

    /// `net:subnet:universe/channel`, where Art-Net reaches it.
    #[must_use]
    pub fn net_form(self) -> Option<String> {
        let port = self.port_address()?;
        Some(format!("{}:{}:{}/{}", port >> 8, port >> 4 & 15, port & 15, self.0.channel))
    }

    /// `port-address/channel`, where Art-Net reaches it.
    #[must_use]
    pub fn port_form(self) -> Option<String> {
        Some(format!("{}/{}", self.port_address()?, self.0.channel))
    }

    /// One number that runs on through all universes, from 1.
    #[must_use]
    pub fn running(self) -> u32 {
        (self.0.universe - 1) * u32::from(SLOTS) + u32::from(self.0.channel)
    }

    /// All forms in one line, counted from one and from zero.
    #[must_use]
    pub fn line(self) -> String {
        let Address { universe, channel } = self.0;
        let art_net = match (self.net_form(), self.port_form()) {
            (Some(net), Some(port)) => format!("Art-Net {net} = port {port}"),
            _ => "beyond Art-Net".to_owned(),
        };
        format!(
            "{} = {art_net} = sACN {universe}/{channel} = running {}; from 0: {}.{}, running {}",
            self.0,
            self.running(),
            universe - 1,
            channel - 1,
            self.running() - 1
        )
    }
}

/// Reads an address in any of the forms: `universe.channel`, `net:subnet:universe/channel`, `port-address/channel`, or one
/// running number. `sacn 8/1`, `port 7/1` and `running 3585` say which form is meant.
///
/// # Errors
/// [`BadAddress`] with the reason.
pub fn from_any_form(text: &str) -> Result<Address, BadAddress> {
    let text = text.trim();
    let form = || BadAddress::AnyForm(text.chars().take(60).collect());
    let number = |word: &str| word.trim().parse::<u32>().map_err(|_| form());
    if let Some(rest) = text.strip_prefix("running ") {
        return from_running(number(rest)?);
    }
    if let Some((universe, channel)) = text.strip_prefix("sacn ").and_then(|rest| rest.split_once('/')) {
        return Address::checked(number(universe)?, number(channel)?);
    }
    let plain = text.strip_prefix("port ").unwrap_or(text);
    match plain.split_once('/') {
        Some((port, channel)) => Address::checked(port_address(port, form)? + 1, number(channel)?),
        None if plain.contains('.') => plain.parse(),
        None if plain.contains(':') => Address::checked(port_address(plain, form)? + 1, 1),
        None => from_running(number(plain)?),
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

    fn address(universe: u32, channel: u16) -> Address {
        Address { universe, channel }
    }

    #[test]
    fn one_address_in_all_forms() {
        let line = Forms(address(8, 1)).line();
        assert_eq!(line, "8.1 = Art-Net 0:0:7/1 = port 7/1 = sACN 8/1 = running 3585; from 0: 7.0, running 3584");
        for text in ["8.1", "0:0:7/1", "7/1", "port 7/1", "3585", "running 3585", "sacn 8/1", " 0:0:7 "] {
            assert_eq!(from_any_form(text), Ok(address(8, 1)), "{text}");
        }
        assert!(Forms(address(40_000, 1)).line().contains("beyond Art-Net"));
    }

    #[test]
    fn forms_round_trip_over_every_port_address_and_universe() {
        for universe in 1..=LAST_UNIVERSE {
            let channel = (universe % 512 + 1) as u16;
            let forms = Forms(address(universe, channel));
            assert_eq!(from_any_form(&forms.0.to_string()), Ok(forms.0));
            assert_eq!(from_any_form(&forms.running().to_string()), Ok(forms.0));
            assert_eq!(from_any_form(&format!("sacn {universe}/{channel}")), Ok(forms.0));
            assert_eq!(forms.net_form().is_some(), universe <= 32_768);
            for form in [forms.net_form(), forms.port_form()].into_iter().flatten() {
                assert_eq!(from_any_form(&form), Ok(forms.0), "{form}");
            }
        }
    }

    #[test]
    fn what_does_not_exist_is_refused_with_its_reason() {
        assert_eq!(from_any_form("1.513"), Err(BadAddress::Channel(513)));
        assert_eq!(from_any_form("0.1"), Err(BadAddress::Universe(0)));
        assert_eq!(from_any_form("70000.1"), Err(BadAddress::Universe(70_000)));
        assert_eq!(from_any_form("32768/1"), Err(BadAddress::PortAddress("32768".into())));
        assert_eq!(from_any_form("0:16:0/1"), Err(BadAddress::PortAddress("0:16:0".into())));
        assert_eq!(from_any_form("0/0"), Err(BadAddress::Channel(0)));
        assert_eq!(from_any_form("0"), Err(BadAddress::Running(0)));
        for text in ["", "one", "1.", "1:2/3", "-1.1", "1/2/3", "99999999999"] {
            let error = from_any_form(text).expect_err("it is no address");
            assert!(error.to_string().contains("write"), "{text}: {error}");
        }
    }
}
