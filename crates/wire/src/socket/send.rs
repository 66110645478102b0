//! Packets out.

use std::io::{self, IoSlice};
use std::iter::Peekable;
use std::net::{Ipv4Addr, Ipv6Addr, SocketAddr, UdpSocket};
use std::os::fd::AsRawFd;

use nix::errno::Errno;
use nix::sys::socket::{ControlMessage, MsgFlags, MultiHeaders, SockaddrStorage, sendmmsg, sendmsg};
use socket2::{Domain, Protocol, Socket, Type};

use crate::interface::Interface;

/// Packets a system call takes, at the most; a burst has as many segments at the most (Linux, `UDP_MAX_SEGMENTS` of old).
const BATCH: usize = 64;
/// Bytes of a burst, at the most: what a UDP datagram can carry.
const BURST: usize = 65_000;
/// Room for a frame of 4,000 universes, so that a burst is not lost in our own machine.
const SEND_BUFFER: usize = 4 << 20;
/// The number of routers that multicast may pass.
const HOPS: u32 = 8;

/// Through what packets leave.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Default)]
pub struct Outlet {
    /// The interface; without one, the system's choice.
    pub interface: Option<Interface>,
    /// True if it is for IPv6.
    pub v6: bool,
}

/// Opens a socket that sends to any address through an outlet. It is never connected: a connected one loses every second
/// packet to a destination where nobody listens.
///
/// # Errors
/// If the system gives none, or the interface has no address of the kind.
pub fn open(outlet: &Outlet) -> io::Result<UdpSocket> {
    let domain = if outlet.v6 { Domain::IPV6 } else { Domain::IPV4 };
    let socket = Socket::new(domain, Type::DGRAM, Some(Protocol::UDP))?;
    // Larger than the system allows is cut down by it, which is no reason to stop.
    let _ = socket.set_send_buffer_size(SEND_BUFFER);
    let none = || io::Error::new(io::ErrorKind::AddrNotAvailable, "the interface has no address");
    if outlet.v6 {
        socket.set_only_v6(true)?;
        socket.set_multicast_hops_v6(HOPS)?;
        if let Some(interface) = &outlet.interface {
            interface.v6.ok_or_else(none)?;
            socket.set_multicast_if_v6(interface.index)?;
        }
        socket.bind(&SocketAddr::from((Ipv6Addr::UNSPECIFIED, 0)).into())?;
    } else {
        socket.set_broadcast(true)?;
        socket.set_multicast_ttl_v4(HOPS)?;
        let mut address = Ipv4Addr::UNSPECIFIED;
        if let Some(interface) = &outlet.interface {
            address = interface.v4.ok_or_else(none)?;
            socket.set_multicast_if_v4(&address)?;
        }
        socket.bind(&SocketAddr::from((address, 0)).into())?;
    }
    if let Some(interface) = &outlet.interface {
        // Unicast follows the routing table where the system does not permit this.
        let _ = socket.bind_device(Some(interface.name.as_bytes()));
    }
    Ok(socket.into())
}

/// The fate of some packets.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Sent {
    /// The number of packets that are left.
    pub packets: u64,
    /// The number of packets that the system refused.
    pub errors: u64,
    /// The reason of the last refusal.
    pub last_error: Option<Errno>,
}

impl Sent {
    /// Adds what became of others.
    pub fn add(&mut self, other: Self) {
        self.packets += other.packets;
        self.errors += other.errors;
        self.last_error = other.last_error.or(self.last_error);
    }

    fn refuse(&mut self, count: usize, why: Option<Errno>) {
        self.errors += count as u64;
        self.last_error = why.or(self.last_error);
    }
}

/// Sends packets in batches, through any socket. It lives on one thread.
pub struct Sender {
    headers: MultiHeaders<SockaddrStorage>,
}

impl Default for Sender {
    fn default() -> Self {
        Self { headers: MultiHeaders::preallocate(BATCH, None) }
    }
}

impl Sender {
    /// Sends packets in their order. A packet that is refused is left out and counted; none is waited for. As a `burst`,
    /// packets of one length to one address are handed over together, and cut up by the system or the network card.
    pub fn send<'p>(
        &mut self,
        socket: &UdpSocket,
        packets: impl Iterator<Item = (&'p [u8], SocketAddr)>,
        burst: bool,
    ) -> Sent {
        let mut packets = packets.peekable();
        let mut sent = Sent::default();
        while packets.peek().is_some() {
            if burst {
                self.send_burst(socket, &mut packets, &mut sent);
            } else {
                self.send_some(socket, &mut packets, &mut sent);
            }
        }
        sent
    }

    fn send_some<'p>(
        &mut self,
        socket: &UdpSocket,
        packets: &mut impl Iterator<Item = (&'p [u8], SocketAddr)>,
        sent: &mut Sent,
    ) {
        let mut slices = [[IoSlice::new(&[])]; BATCH];
        let mut addresses = [None; BATCH];
        let mut count = 0;
        while count < BATCH {
            let Some((packet, to)) = packets.next() else { break };
            slices[count] = [IoSlice::new(packet)];
            addresses[count] = Some(SockaddrStorage::from(to));
            count += 1;
        }
        self.send_batch(socket, &slices[..count], &addresses[..count], sent);
    }

    fn send_batch(
        &mut self,
        socket: &UdpSocket,
        slices: &[[IoSlice<'_>; 1]],
        addresses: &[Option<SockaddrStorage>],
        sent: &mut Sent,
    ) {
        let fd = socket.as_raw_fd();
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
                    sent.refuse(1, failed.err());
                    done += 1;
                }
            }
        }
    }

    /// Sends the packets at the front that have one length and one address.
    fn send_burst<'p, I: Iterator<Item = (&'p [u8], SocketAddr)>>(
        &mut self,
        socket: &UdpSocket,
        packets: &mut Peekable<I>,
        sent: &mut Sent,
    ) {
        let Some((first, to)) = packets.next() else { return };
        let mut slices = [IoSlice::new(first); BATCH];
        let most = (BURST / first.len().max(1)).clamp(1, BATCH);
        let mut count = 1;
        while count < most
            && let Some((packet, _)) = packets.next_if(|(packet, other)| packet.len() == first.len() && *other == to)
        {
            slices[count] = IoSlice::new(packet);
            count += 1;
        }
        let (address, length) = (SockaddrStorage::from(to), first.len() as u16);
        let segments = [ControlMessage::UdpGsoSegments(&length)];
        let whole = if count > 1 { &segments[..] } else { &[] };
        let fd = socket.as_raw_fd();
        match sendmsg(fd, &slices[..count], whole, MsgFlags::MSG_DONTWAIT, Some(&address)) {
            Ok(_) => sent.packets += count as u64,
            // Not every interface can; one by one they go through any.
            Err(_) => {
                for slice in &slices[..count] {
                    self.send_batch(socket, &[[*slice]], &[Some(address)], sent);
                }
            }
        }
    }
}
