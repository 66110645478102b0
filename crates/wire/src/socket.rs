//! The sockets: batches of packets out, packets of both protocols in. The only module of this crate that does I/O.

use std::io::{self, IoSlice};
use std::net::{Ipv4Addr, SocketAddr, SocketAddrV4, UdpSocket};
use std::os::fd::{AsFd, AsRawFd};
use std::time::Duration;

use nix::errno::Errno;
use nix::poll::{PollFd, PollFlags, PollTimeout, poll};
use nix::sys::socket::{MsgFlags, MultiHeaders, SockaddrIn, sendmmsg};
use socket2::{Domain, Protocol as IpProtocol, Socket, Type};

use crate::{artnet, sacn};

/// Packets a system call takes, at the most.
const BATCH: usize = 64;
/// Room for a frame of 4,000 universes, so that a burst is not lost in our own machine.
const SEND_BUFFER: usize = 4 << 20;
/// Room for what comes in while the receiving thread waits for its turn.
const RECEIVE_BUFFER: usize = 4 << 20;
/// Larger than any packet of either protocol.
const LARGEST: usize = 1500;

/// What became of some packets.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Sent {
    /// How many left.
    pub packets: u64,
    /// How many the system refused.
    pub errors: u64,
    /// The reason of the last refusal.
    pub last_error: Option<Errno>,
}

/// A socket that sends to any address. It is never connected: a connected one loses every second packet to a
/// destination where nobody listens.
pub struct Sender {
    socket: UdpSocket,
    headers: MultiHeaders<SockaddrIn>,
}

/// Opens a socket for a [`Sender`], which lives on one thread; the socket itself may be handed to it from another.
///
/// # Errors
/// Where the system gives none.
pub fn open() -> io::Result<UdpSocket> {
    let socket = Socket::new(Domain::IPV4, Type::DGRAM, Some(IpProtocol::UDP))?;
    // Larger than the system allows is cut down by it, which is no reason to stop.
    let _ = socket.set_send_buffer_size(SEND_BUFFER);
    socket.set_broadcast(true)?;
    socket.set_multicast_ttl_v4(8)?;
    socket.bind(&SocketAddr::from((Ipv4Addr::UNSPECIFIED, 0)).into())?;
    Ok(socket.into())
}

impl Sender {
    /// Sends through a socket from [`open`].
    #[must_use]
    pub fn new(socket: UdpSocket) -> Self {
        Self { socket, headers: MultiHeaders::preallocate(BATCH, None) }
    }

    /// Sends packets in batches, in their order. A packet that is refused is left out and counted; none is waited for.
    pub fn send<'p>(&mut self, packets: impl Iterator<Item = (&'p [u8], SocketAddrV4)>) -> Sent {
        let mut packets = packets.peekable();
        let mut sent = Sent::default();
        while packets.peek().is_some() {
            let mut slices = [[IoSlice::new(&[])]; BATCH];
            let mut addresses = [None; BATCH];
            let mut count = 0;
            while count < BATCH {
                let Some((packet, to)) = packets.next() else { break };
                slices[count] = [IoSlice::new(packet)];
                addresses[count] = Some(SockaddrIn::from(to));
                count += 1;
            }
            self.send_batch(&slices[..count], &addresses[..count], &mut sent);
        }
        sent
    }

    fn send_batch(&mut self, slices: &[[IoSlice<'_>; 1]], addresses: &[Option<SockaddrIn>], sent: &mut Sent) {
        let fd = self.socket.as_raw_fd();
        let mut done = 0;
        while done < slices.len() {
            let result =
                sendmmsg(fd, &mut self.headers, &slices[done..], &addresses[done..], [], MsgFlags::MSG_DONTWAIT);
            match result.map(Iterator::count) {
                Ok(count) if count > 0 => {
                    sent.packets += count as u64;
                    done += count;
                }
                Err(Errno::EINTR) => {}
                failed => {
                    // The first packet that is left was refused; the ones behind it may go elsewhere.
                    sent.errors += 1;
                    sent.last_error = failed.err();
                    done += 1;
                }
            }
        }
    }
}

/// Sockets that receive both protocols at one address.
pub struct Receiver {
    art_net: UdpSocket,
    sacn: UdpSocket,
    buffer: Box<[u8; LARGEST]>,
}

impl Receiver {
    /// Binds the ports of both protocols at `address`.
    ///
    /// # Errors
    /// Where one of them is taken, or the address is not this machine's.
    pub fn bind(address: Ipv4Addr) -> io::Result<Self> {
        let open = |port: u16| -> io::Result<UdpSocket> {
            let socket = Socket::new(Domain::IPV4, Type::DGRAM, Some(IpProtocol::UDP))?;
            let _ = socket.set_recv_buffer_size(RECEIVE_BUFFER);
            socket.bind(&SocketAddr::from((address, port)).into())?;
            socket.set_nonblocking(true)?;
            Ok(socket.into())
        };
        Ok(Self { art_net: open(artnet::PORT)?, sacn: open(sacn::PORT)?, buffer: Box::new([0; LARGEST]) })
    }

    /// Joins the multicast group of an sACN universe.
    ///
    /// # Errors
    /// Where the system has no interface for it.
    pub fn join(&self, universe: u16) -> io::Result<()> {
        self.sacn.join_multicast_v4(&sacn::multicast(universe), &Ipv4Addr::UNSPECIFIED)
    }

    /// Waits for packets and hands each to `take`, at most 256 of each protocol at a time, so that a flood cannot keep
    /// the caller from what else it does. Returns after `timeout` if none comes.
    ///
    /// # Errors
    /// Where waiting fails; a single packet that cannot be read is passed over.
    pub fn receive(&mut self, timeout: Duration, mut take: impl FnMut(&[u8])) -> io::Result<()> {
        let timeout = PollTimeout::try_from(timeout).unwrap_or(PollTimeout::MAX);
        let mut ready =
            [PollFd::new(self.art_net.as_fd(), PollFlags::POLLIN), PollFd::new(self.sacn.as_fd(), PollFlags::POLLIN)];
        match poll(&mut ready, timeout) {
            Ok(0) | Err(Errno::EINTR) => return Ok(()),
            Ok(_) => {}
            Err(error) => return Err(error.into()),
        }
        for socket in [&self.art_net, &self.sacn] {
            for _ in 0..256 {
                match socket.recv(&mut self.buffer[..]) {
                    Ok(length) => take(&self.buffer[..length]),
                    Err(_) => break,
                }
            }
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn batches_arrive_whole_and_in_order() {
        let address = Ipv4Addr::new(127, 81, 0, 2);
        let mut receiver = Receiver::bind(address).expect("ports at an address of our own");
        let mut sender = Sender::new(open().expect("a socket"));
        let packets: Vec<Vec<u8>> = (0..200u8).map(|i| vec![i; 20]).collect();
        let to = SocketAddrV4::new(address, artnet::PORT);
        let sent = sender.send(packets.iter().map(|p| (p.as_slice(), to)));
        assert_eq!(sent, Sent { packets: 200, errors: 0, last_error: None });
        let mut came = Vec::new();
        while came.len() < 200 {
            receiver.receive(Duration::from_secs(5), |bytes| came.push(bytes.to_vec())).expect("waits");
        }
        assert_eq!(came, packets);
    }

    #[test]
    fn a_refused_packet_does_not_hold_up_the_others() {
        let mut sender = Sender::new(open().expect("a socket"));
        let too_long = vec![0; 70_000];
        let to = SocketAddrV4::new(Ipv4Addr::new(127, 81, 0, 9), artnet::PORT);
        let packets: [&[u8]; 3] = [&[1], &too_long, &[2]];
        let sent = sender.send(packets.into_iter().map(|p| (p, to)));
        assert_eq!((sent.packets, sent.errors, sent.last_error), (2, 1, Some(Errno::EMSGSIZE)));
    }

    #[test]
    fn a_taken_port_is_an_error() {
        let address = Ipv4Addr::new(127, 81, 0, 3);
        let _first = Receiver::bind(address).expect("free");
        assert_eq!(Receiver::bind(address).err().map(|e| e.kind()), Some(io::ErrorKind::AddrInUse));
    }
}
