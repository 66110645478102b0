//! The open doors: what listens where, and who may send it something.

use std::net::{IpAddr, SocketAddr};

use splimo_show::{AddressBlock, Input, InputKind, Show};
use splimo_wire::{artnet, sacn};

use crate::network::NetworkStatus;

/// A place at which something is listened to.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Door {
    /// The address and port, or the device.
    pub at: String,
    /// The kinds of what is listened to.
    pub what: String,
    /// The senders that are allowed, in words.
    pub from: String,
}

/// The doors that a show has open.
#[must_use]
pub fn doors(show: &Show, network: &NetworkStatus) -> Vec<Door> {
    let sockets = network.listening.iter().map(|at| of_socket(*at, show));
    let inputs = show.inputs.iter().filter(|input| input.on).filter_map(of_input);
    sockets.chain(inputs).collect()
}

fn of_socket(at: SocketAddr, show: &Show) -> Door {
    let settings = &show.settings;
    let (what, from) = match (at.port(), at.ip()) {
        (artnet::PORT, ip) => {
            let mut what = vec!["Art-Net: who answers polls"];
            let mut from = vec![match settings.nodes_from.is_empty() {
                true => "nodes: our own networks".to_owned(),
                false => format!("nodes: {}", AddressBlock::words(&settings.nodes_from)),
            }];
            if settings.triggers {
                what.push("triggers");
                from.push(format!("triggers: {}", who(&settings.triggers_from)));
            }
            what.push("time code");
            from.push(format!("time code: {}", who(&settings.time_code_from)));
            let everybody = matches!(ip, IpAddr::V4(v4) if v4.octets()[3] == 255);
            let of = if everybody { ", sent to everybody" } else { "" };
            (format!("{}{of}", what.join(", ")), from.join("; "))
        }
        (sacn::PORT, ip) if ip.is_multicast() => {
            let universe = match ip {
                IpAddr::V4(v4) => u16::from_be_bytes([v4.octets()[2], v4.octets()[3]]),
                IpAddr::V6(_) => 0,
            };
            match universe {
                sacn::DISCOVERY_UNIVERSE => {
                    ("sACN: who announces universes".to_owned(), "any, and only listed".to_owned())
                }
                universe => (format!("sACN: universe {universe}"), "any, and only shown".to_owned()),
            }
        }
        _ => ("sACN: universes sent to this machine".to_owned(), "any, and only shown".to_owned()),
    };
    Door { at: at.to_string(), what, from }
}

fn of_input(input: &Input) -> Option<Door> {
    let (at, what) = match input.kind {
        InputKind::Osc => (input.address.clone(), format!("OSC of {}: any command that inputs may give", input.name)),
        InputKind::ArtNet | InputKind::Sacn => {
            (format!("{} {}", input.kind.name(), input.address), format!("the universe of {}", input.name))
        }
        InputKind::Midi | InputKind::Ltc | InputKind::Lines => return None,
    };
    Some(Door { at, what, from: who(&input.from) })
}

fn who(list: &[AddressBlock]) -> String {
    if list.is_empty() { "any".to_owned() } else { AddressBlock::words(list) }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_door_says_what_and_from_whom() {
        let mut show = Show::empty("Night");
        show.settings.triggers = true;
        show.settings.triggers_from = AddressBlock::list("10.0.0.7").expect("a list");
        let mut osc = Input { on: true, ..Input::new("tablet", InputKind::Osc, "0.0.0.0:9000") };
        osc.from = AddressBlock::list("10.0.0.0/24").expect("a list");
        show.inputs = vec![osc, Input::new("off", InputKind::Osc, "0.0.0.0:9001")];
        let listening = ["10.0.0.2:6454", "239.255.250.214:5568", "239.255.0.9:5568", "10.0.0.2:5568"];
        let listening = listening.map(|at| at.parse().expect("an address")).to_vec();
        let network = NetworkStatus { listening, ..NetworkStatus::default() };
        let told: Vec<String> =
            doors(&show, &network).into_iter().map(|d| format!("{} | {} | {}", d.at, d.what, d.from)).collect();
        assert_eq!(
            told,
            [
                "10.0.0.2:6454 | Art-Net: who answers polls, triggers, time code | nodes: our own networks; triggers: 10.0.0.7; time code: any",
                "239.255.250.214:5568 | sACN: who announces universes | any, and only listed",
                "239.255.0.9:5568 | sACN: universe 9 | any, and only shown",
                "10.0.0.2:5568 | sACN: universes sent to this machine | any, and only shown",
                "0.0.0.0:9000 | OSC of tablet: any command that inputs may give | 10.0.0.0/24",
            ]
        );
    }
}
