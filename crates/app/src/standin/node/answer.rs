//! The answer of a stand-in node to a poll.

use std::net::Ipv4Addr;

use splimo_wire::artnet::poll::Repr as Poll;
use splimo_wire::artnet::poll_reply::{LENGTH, OEM_UNKNOWN, PORTS, Port, Repr, Style};
use splimo_wire::reception::Reception;
use splimo_wire::{Protocol, arbitration::Arbiter};

/// The answers of a node with some port-addresses: one for each four ports of one net and sub-net.
#[must_use]
pub(super) fn answers(
    address: Ipv4Addr,
    name: &str,
    ports: &[u16],
    poll: &Poll,
    reception: &Reception,
    wrong: bool,
) -> Vec<[u8; LENGTH]> {
    let mut parts: Vec<&[u16]> = Vec::new();
    for of_one_switch in ports.chunk_by(|a, b| a >> 4 == b >> 4) {
        parts.extend(of_one_switch.chunks(PORTS));
    }
    if parts.is_empty() {
        parts.push(&[]);
    }
    let asked = ports.is_empty() || ports.iter().any(|port| poll.asks(*port));
    let [a, b, c, d] = address.octets();
    let reply = |(index, part): (usize, &&[u16])| {
        let port = |i: usize| {
            let output = part.get(i).copied();
            let universe = output.and_then(|o| reception.universe(Protocol::ArtNet, o));
            let sources = universe.map(|u| u.arbiter()).map_or(&[][..], Arbiter::sources);
            Port { output, input: None, active: !sources.is_empty(), merging: sources.len() > 1 }
        };
        let bytes = Repr {
            address,
            version: 1,
            oem: OEM_UNKNOWN,
            short_name: name,
            long_name: &format!("{name}, a stand-in of Splimo's"),
            report: &format!("#0001 [{:04}] well", reception.packets % 10_000),
            switch: part.first().map_or(0, |port| port & 0x7ff0),
            ports: std::array::from_fn(port),
            port_count: part.len(),
            style: Style::Node,
            mac: [0x02, 0x00, a, b, c, d],
            bind_address: address,
            bind_index: index as u8 + 1,
            refresh_rate: 44,
        }
        .emit();
        if wrong { spoilt(bytes) } else { bytes }
    };
    if asked { parts.iter().enumerate().take(255).map(reply).collect() } else { Vec::new() }
}

/// An answer as a broken box gives it: texts without an end, more ports than there are, an odd address.
fn spoilt(mut bytes: [u8; LENGTH]) -> [u8; LENGTH] {
    bytes[10..14].fill(0);
    bytes[26..172].fill(0xff);
    bytes[172..174].fill(0xff);
    bytes
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_wire::directory::Directory;

    #[test]
    fn a_node_of_many_ports_is_one_device_with_all_of_them() {
        let ports: Vec<u16> = (0..6).chain([20, 21]).collect();
        let address = Ipv4Addr::new(10, 0, 0, 7);
        let (poll, reception) = (Poll::default(), Reception::default());
        let answers = answers(address, "Box", &ports, &poll, &reception, false);
        assert_eq!(answers.len(), 3);
        let mut directory = Directory::default();
        for answer in &answers {
            directory.answered(&Repr::parse(answer).expect("a reply"), address, 0.0);
        }
        assert_eq!((directory.devices().len(), &directory.devices()[0].outputs), (1, &ports));
    }

    #[test]
    fn only_who_is_asked_answers_and_even_a_wrong_answer_can_be_read() {
        let address = Ipv4Addr::new(10, 0, 0, 7);
        let reception = Reception::default();
        let elsewhere = Poll { on_change: false, range: Some((100, 200)) };
        assert!(answers(address, "Box", &[1], &elsewhere, &reception, false).is_empty());
        let wrong = answers(address, "Box", &[1], &Poll::default(), &reception, true);
        assert!(Repr::parse(&wrong[0]).is_ok_and(|r| r.short_name.is_empty() && r.address.is_unspecified()));
    }
}
