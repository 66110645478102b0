//! Packets of Art-Net and sACN, and what becomes of them: each begins with its length, so that a run is a conversation.
#![no_main]

use std::net::{IpAddr, Ipv4Addr};

use libfuzzer_sys::fuzz_target;
use splimo_wire::belief;
use splimo_wire::directory::Directory;
use splimo_wire::message::Message;
use splimo_wire::reception::Reception;

fuzz_target!(|data: &[u8]| {
    let (mut reception, mut directory) = (Reception::default(), Directory::default());
    let (mut rest, mut now) = (data, 0.0);
    while let [low, high, tail @ ..] = rest {
        let length = usize::from(u16::from_le_bytes([*low, *high])).min(tail.len());
        let (packet, next) = tail.split_at(length);
        rest = next;
        now += 0.3;
        let from = Ipv4Addr::new(10, 0, 0, *low);
        match reception.receive(packet, IpAddr::V4(from), now) {
            Some(Message::PollReply(reply)) => match belief::doubt(reply.address, from, &[], &[]) {
                Some(why) => directory.doubt(&reply, from, why, now),
                None => drop(directory.answered(&reply, from, now)),
            },
            Some(Message::Discovery(page)) => directory.announced(&page, IpAddr::V4(from), now),
            _ => {}
        }
        reception.pass_time(now);
        directory.pass_time(now);
    }
    // A packet without a length in front, as a seed is.
    let _ = Message::parse(data);
});
