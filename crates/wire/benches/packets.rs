//! The cost of packets: encoding, decoding, renewing a whole frame, and sending it against sending the same bytes in a bare
//! loop.

use std::hint::black_box;
use std::net::{Ipv4Addr, SocketAddr, UdpSocket};

use criterion::{Criterion, Throughput, criterion_group, criterion_main};
use splimo_transport::{AnyTransport, TransportKind};
use splimo_wire::artnet::{self, dmx};
use splimo_wire::burst::{Burst, Identity, Lane, Stream};
use splimo_wire::sacn::data;
use splimo_wire::socket;

const UNIVERSES: usize = 100;

fn codecs(c: &mut Criterion) {
    let slots = [127; 512];
    let mut buffer = [0; 638];
    c.bench_function("emit ArtDmx", |b| {
        let repr = dmx::Repr { sequence: 1, physical: 0, port_address: 7, data: &slots };
        b.iter(|| repr.emit(&mut dmx::Packet::new_unchecked(black_box(&mut buffer))));
    });
    c.bench_function("parse ArtDmx", |b| b.iter(|| splimo_wire::parse(black_box(&buffer[..530])).map(|d| d.sequence)));
    let repr = data::Repr {
        cid: [7; 16],
        source_name: "Bench",
        priority: 100,
        sync_address: 0,
        sequence: 1,
        preview: false,
        terminated: false,
        force_sync: false,
        universe: 7,
        start_code: 0,
        slots: &slots,
    };
    c.bench_function("emit E1.31", |b| {
        b.iter(|| repr.emit(&mut data::Packet::new_unchecked(black_box(&mut buffer))));
    });
    c.bench_function("parse E1.31", |b| b.iter(|| splimo_wire::parse(black_box(&buffer)).map(|d| d.sequence)));
}

fn frames(c: &mut Criterion) {
    let address = Ipv4Addr::new(127, 83, 0, 2);
    let _sink = UdpSocket::bind((address, artnet::PORT)).expect("an address of our own");
    let stream = |source| Stream {
        source,
        universe: source as u16,
        to: SocketAddr::from((address, artnet::PORT)),
        keep_alive: false,
    };
    let transport = AnyTransport::of(TransportKind::ArtNet);
    let lane = Lane::new(transport, (0..UNIVERSES).map(stream).collect());
    let mut burst = Burst::new(&[lane], &Identity { cid: [7; 16], name: "Bench".into() });
    let mut slots = vec![0u8; UNIVERSES * 512];
    let outlet = socket::open(&socket::Outlet::default()).expect("a socket");
    let mut sender = socket::Sender::default();

    let mut group = c.benchmark_group("frame of 100 universes");
    group.throughput(Throughput::Elements(UNIVERSES as u64));
    group.bench_function("renew", |b| {
        b.iter(|| {
            slots[0] = slots[0].wrapping_add(1);
            burst.prepare(black_box(&slots), 0.0, false)
        });
    });
    group.bench_function("renew and send", |b| {
        b.iter(|| {
            burst.prepare(black_box(&slots), 0.0, false);
            sender.send(&outlet, burst.packets(0, 0..UNIVERSES), false)
        });
    });
    group.bench_function("renew and send, in bursts", |b| {
        b.iter(|| {
            burst.prepare(black_box(&slots), 0.0, false);
            sender.send(&outlet, burst.packets(0, 0..UNIVERSES), true)
        });
    });
    let prepared: Vec<(Vec<u8>, SocketAddr)> = burst.packets(0, 0..UNIVERSES).map(|(p, to)| (p.to_vec(), to)).collect();
    let bare = socket::open(&socket::Outlet::default()).expect("a socket");
    group.bench_function("send, bare loop", |b| {
        b.iter(|| prepared.iter().for_each(|(packet, to)| drop(bare.send_to(packet, to))));
    });
    group.finish();
}

criterion_group!(benches, codecs, frames);
criterion_main!(benches);
