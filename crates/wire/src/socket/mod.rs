//! The sockets: batches of packets out, packets of both protocols in, and the network interfaces. The only module of this
//! crate that does I/O.

mod interfaces;
mod receive;
mod send;

pub use interfaces::interfaces;
pub use receive::Receiver;
pub use send::{Outlet, Sender, Sent, open};

#[cfg(test)]
mod tests {
    use std::net::{Ipv4Addr, SocketAddr};
    use std::time::Duration;

    use nix::errno::Errno;

    use super::*;
    use crate::artnet;

    fn at(last: u8) -> SocketAddr {
        SocketAddr::from((Ipv4Addr::new(127, 81, 0, last), artnet::PORT))
    }

    fn all(receiver: &mut Receiver, count: usize) -> Vec<Vec<u8>> {
        let mut came = Vec::new();
        while came.len() < count {
            receiver.receive(Duration::from_secs(5), 256, |bytes, _, _| came.push(bytes.to_vec())).expect("waits");
        }
        came
    }

    #[test]
    fn batches_and_bursts_arrive_whole_and_in_order() {
        for (last, burst) in [(2, false), (4, true)] {
            let mut receiver = Receiver::default();
            receiver.listen(at(last), false).expect("a port at an address of our own");
            let socket = open(&Outlet::default()).expect("a socket");
            let mut sender = Sender::default();
            // Packets of one length, and one in between that is shorter.
            let packets: Vec<Vec<u8>> = (0..200u8).map(|i| vec![i; if i == 77 { 10 } else { 530 }]).collect();
            let sent = sender.send(&socket, packets.iter().map(|p| (p.as_slice(), at(last))), burst);
            assert_eq!(sent, Sent { packets: 200, errors: 0, last_error: None });
            assert_eq!(all(&mut receiver, 200), packets);
        }
    }

    #[test]
    fn a_refused_packet_does_not_hold_up_the_others() {
        let mut sender = Sender::default();
        let socket = open(&Outlet::default()).expect("a socket");
        let too_long = vec![0; 70_000];
        let packets: [&[u8]; 3] = [&[1], &too_long, &[2]];
        let sent = sender.send(&socket, packets.into_iter().map(|p| (p, at(9))), false);
        assert_eq!((sent.packets, sent.errors, sent.last_error), (2, 1, Some(Errno::EMSGSIZE)));
    }

    #[test]
    fn a_taken_port_is_an_error_unless_it_is_shared() {
        let mut first = Receiver::default();
        first.listen(at(3), false).expect("free");
        let mut second = Receiver::default();
        assert_eq!(second.listen(at(3), false).err().map(|e| e.kind()), Some(std::io::ErrorKind::AddrInUse));
        for _ in 0..2 {
            second.listen(at(5), true).expect("shared");
        }
    }

    #[test]
    fn packets_that_find_no_room_are_counted() {
        let mut receiver = Receiver::default();
        receiver.listen(at(6), false).expect("a port at an address of our own");
        let socket = open(&Outlet::default()).expect("a socket");
        // More than any system gives room for.
        let packet = [0; 1400];
        for _ in 0..20_000 {
            let _ = socket.send_to(&packet, at(6));
        }
        let mut came = 0;
        loop {
            let before = came;
            receiver.receive(Duration::from_millis(100), 256, |_, _, _| came += 1).expect("waits");
            if came == before {
                break;
            }
        }
        let _ = socket.send_to(&packet, at(6));
        receiver.receive(Duration::from_secs(5), 256, |_, _, _| came += 1).expect("waits");
        assert_eq!(receiver.take_dropped() + came, 20_001);
        assert_eq!(receiver.take_dropped(), 0);
    }

    #[test]
    fn loopback_is_among_the_interfaces() {
        let all = interfaces();
        let loopback = all.iter().find(|i| i.v4 == Some(Ipv4Addr::LOCALHOST)).expect("loopback");
        assert!(loopback.loopback && loopback.up && loopback.broadcast.is_none() && loopback.index > 0);
    }
}
