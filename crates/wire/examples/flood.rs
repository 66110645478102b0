//! A flood, to see that a receiver stands it: so many packets a second of noise, of `ArtPoll`, or of sACN from 1,000 sources.
//!
//!     cargo run --release -p splimo-wire --example flood -- noise 10.0.0.1:6454 100000 10

use std::net::SocketAddr;
use std::time::{Duration, Instant};

use splimo_wire::artnet::poll;
use splimo_wire::sacn::data::{Packet, Repr};
use splimo_wire::socket::{Outlet, Sender, open};

/// Packets that are made beforehand, and sent over and over.
const READY: usize = 1000;

fn main() {
    let arguments: Vec<String> = std::env::args().collect();
    let [_, kind, to, rate, seconds] = &arguments[..] else {
        eprintln!("flood noise|poll|sacn ADDRESS:PORT PACKETS-A-SECOND SECONDS");
        std::process::exit(2);
    };
    let to: SocketAddr = to.parse().expect("an address and a port");
    let (rate, seconds): (f64, f64) = (rate.parse().expect("a number"), seconds.parse().expect("a number"));
    let packets: Vec<Vec<u8>> = (0..READY).map(|i| packet(kind, i)).collect();
    let socket = open(&Outlet::default()).expect("a socket");
    let mut sender = Sender::default();
    let (start, mut sent) = (Instant::now(), 0usize);
    while start.elapsed().as_secs_f64() < seconds {
        let wanted = (start.elapsed().as_secs_f64() * rate) as usize;
        let some = (wanted - sent).min(READY);
        let batch = (sent..sent + some).map(|i| (packets[i % READY].as_slice(), to));
        sender.send(&socket, batch, false);
        sent += some;
        std::thread::sleep(Duration::from_millis(1));
    }
    println!("{sent} packets in {:.1} s", start.elapsed().as_secs_f64());
}

fn packet(kind: &str, index: usize) -> Vec<u8> {
    match kind {
        "poll" => poll::Repr::default().emit().to_vec(),
        "sacn" => {
            let mut cid = [7; 16];
            cid[..8].copy_from_slice(&(index as u64).to_be_bytes());
            let repr = Repr {
                cid,
                source_name: "Flood",
                priority: 100,
                sync_address: 0,
                sequence: 0,
                preview: false,
                terminated: false,
                force_sync: false,
                universe: 1 + (index % 60_000) as u16,
                start_code: 0,
                slots: &[255; 512],
            };
            let mut bytes = vec![0; repr.buffer_len()];
            repr.emit(&mut Packet::new_unchecked(&mut bytes));
            bytes
        }
        _ => (0..300).map(|at| (index * 31 + at * 7) as u8).collect(),
    }
}
