//! A stranger on the network, to see that nothing that he claims puts a light out: made-up answers to polls, so many a second.
//!
//!     cargo run --release -p splimo-wire --example stranger -- empty 10.77.0.1:6454 10.77.0.2 45 20
//!
//! `others` claims other addresses of the same network, `everybody` its broadcast address, `empty` the address of a node without its
//! ports, and `spoofed` the same from that node's own address, for which one has to be root.

use std::net::{Ipv4Addr, SocketAddr, SocketAddrV4};
use std::time::{Duration, Instant};

use socket2::{Domain, Protocol, SockAddr, Socket, Type};
use splimo_wire::artnet;
use splimo_wire::artnet::poll_reply::{OEM_UNKNOWN, Port, Repr, Style};

fn main() {
    let arguments: Vec<String> = std::env::args().collect();
    let [_, kind, to, node, rate, seconds] = &arguments[..] else {
        eprintln!("stranger others|everybody|empty|spoofed ADDRESS:PORT NODE ANSWERS-A-SECOND SECONDS");
        std::process::exit(2);
    };
    let to: SocketAddrV4 = to.parse().expect("an address and a port");
    let node: Ipv4Addr = node.parse().expect("an address");
    let (rate, seconds): (f64, f64) = (rate.parse().expect("a number"), seconds.parse().expect("a number"));
    let spoofed = kind == "spoofed";
    let socket = if spoofed {
        let raw = Socket::new(Domain::IPV4, Type::RAW, Some(Protocol::from(255))).expect("root");
        raw.set_header_included_v4(true).expect("a raw socket");
        raw
    } else {
        let socket = Socket::new(Domain::IPV4, Type::DGRAM, Some(Protocol::UDP)).expect("a socket");
        socket.set_reuse_address(true).expect("a socket");
        socket.bind(&SocketAddr::from((Ipv4Addr::UNSPECIFIED, artnet::PORT)).into()).expect("the port of Art-Net");
        socket
    };
    let (start, mut sent) = (Instant::now(), 0u32);
    while start.elapsed().as_secs_f64() < seconds {
        while f64::from(sent) < start.elapsed().as_secs_f64() * rate {
            let answer = answer(kind, node, sent);
            let packet = if spoofed { from_address(node, to, &answer) } else { answer };
            let _ = socket.send_to(&packet, &SockAddr::from(SocketAddr::V4(to)));
            sent += 1;
        }
        std::thread::sleep(Duration::from_millis(1));
    }
    println!("{sent} answers in {:.1} s", start.elapsed().as_secs_f64());
}

fn answer(kind: &str, node: Ipv4Addr, number: u32) -> Vec<u8> {
    let network = u32::from(node) & 0xffff_ff00;
    let (address, outputs): (Ipv4Addr, &[u16]) = match kind {
        "others" => ((network + 1 + number % 250).into(), &[0, 1, 2, 3]),
        "everybody" => ((network + 255).into(), &[0, 1, 2, 3]),
        _ => (node, &[]),
    };
    let repr = Repr {
        address,
        version: 1,
        oem: OEM_UNKNOWN,
        short_name: "Stranger",
        long_name: "\u{1b}]0;a stranger\u{7}",
        report: "",
        switch: 0,
        ports: std::array::from_fn(|i| Port { output: outputs.get(i).copied(), ..Port::default() }),
        port_count: outputs.len(),
        style: Style::Node,
        mac: [6; 6],
        bind_address: address,
        bind_index: 1,
        refresh_rate: 44,
    };
    repr.emit().to_vec()
}

/// A UDP packet within one of IPv4 (RFC 791, RFC 768) from an address that is not ours. The system puts in the sum of the header.
fn from_address(from: Ipv4Addr, to: SocketAddrV4, data: &[u8]) -> Vec<u8> {
    let length = (28 + data.len()) as u16;
    let mut packet = vec![0x45, 0];
    packet.extend(length.to_be_bytes());
    packet.extend([0, 0, 0x40, 0, 64, 17, 0, 0]);
    packet.extend(from.octets());
    packet.extend(to.ip().octets());
    packet.extend(artnet::PORT.to_be_bytes());
    packet.extend(to.port().to_be_bytes());
    packet.extend((length - 20).to_be_bytes());
    // Without a sum of its own.
    packet.extend([0, 0]);
    packet.extend(data);
    packet
}
