//! Packets in.

use std::io;
use std::io::IoSliceMut;
use std::net::{IpAddr, Ipv4Addr, Ipv6Addr, SocketAddr, UdpSocket};
use std::os::fd::{AsFd, AsRawFd};
use std::time::Duration;

use nix::errno::Errno;
use nix::poll::{PollFd, PollFlags, PollTimeout, poll};
use nix::sys::socket::{ControlMessageOwned, MsgFlags, SockaddrStorage, recvmsg, setsockopt, sockopt::RxqOvfl};
use socket2::{Domain, Protocol, Socket, Type};

/// Room for what comes in while the receiving thread waits for its turn.
const RECEIVE_BUFFER: usize = 4 << 20;
/// Larger than any packet of either protocol.
const LARGEST: usize = 1500;

/// Sockets that receive at any number of addresses.
pub struct Receiver {
    sockets: Vec<Ear>,
    buffer: Box<[u8; LARGEST]>,
    control: Vec<u8>,
    dropped: u64,
}

/// A socket at an address.
struct Ear {
    at: SocketAddr,
    socket: UdpSocket,
    /// The packets for which the system had no room so far, as it told last.
    overflowed: u32,
}

impl Default for Receiver {
    fn default() -> Self {
        let control = nix::cmsg_space!(u32);
        Self { sockets: Vec::new(), buffer: Box::new([0; LARGEST]), control, dropped: 0 }
    }
}

impl Receiver {
    /// Listens at an address and port. One that is shared, as a group or a broadcast address is, may be listened at by
    /// others too, and everybody gets what comes.
    ///
    /// # Errors
    /// If it is taken, or not this machine's.
    pub fn listen(&mut self, address: SocketAddr, shared: bool) -> io::Result<()> {
        let socket = Socket::new(Domain::for_address(address), Type::DGRAM, Some(Protocol::UDP))?;
        let _ = socket.set_recv_buffer_size(RECEIVE_BUFFER);
        if shared {
            socket.set_reuse_address(true)?;
        }
        if address.is_ipv6() {
            socket.set_only_v6(true)?;
        } else {
            socket.set_broadcast(true)?;
        }
        socket.bind(&address.into())?;
        socket.set_nonblocking(true)?;
        // Where the system cannot tell, packets are lost unseen.
        let _ = setsockopt(&socket, RxqOvfl, &1);
        self.sockets.push(Ear { at: address, socket: socket.into(), overflowed: 0 });
        Ok(())
    }

    /// The number of packets since this was last asked that came in and for which the system had no room.
    pub fn take_dropped(&mut self) -> u64 {
        std::mem::take(&mut self.dropped)
    }

    /// Listens to an IPv4 group on the interface of an address.
    ///
    /// # Errors
    /// If the system has no such interface, or has no room for another group.
    pub fn join_v4(&mut self, group: Ipv4Addr, port: u16, interface: Ipv4Addr) -> io::Result<()> {
        // Bound to the group, a socket gets its packets and no others.
        self.listen(SocketAddr::from((group, port)), true)?;
        self.joined(|socket| {
            // Else it would get the group's packets from other interfaces that somebody else listens on as well.
            let _ = socket2::SockRef::from(socket).set_multicast_all_v4(false);
            socket.join_multicast_v4(&group, &interface)
        })
    }

    /// Listens to an IPv6 group on an interface by its number.
    ///
    /// # Errors
    /// As [`Self::join_v4`].
    pub fn join_v6(&mut self, group: Ipv6Addr, port: u16, interface: u32) -> io::Result<()> {
        self.listen(SocketAddr::from((group, port)), true)?;
        self.joined(|socket| socket.join_multicast_v6(&group, interface))
    }

    fn joined(&mut self, join: impl FnOnce(&UdpSocket) -> io::Result<()>) -> io::Result<()> {
        let Some(ear) = self.sockets.last() else { return Ok(()) };
        let result = join(&ear.socket);
        if result.is_err() {
            self.sockets.pop();
        }
        result
    }

    /// Leaves every address that is not wanted.
    pub fn keep(&mut self, wanted: impl Fn(&SocketAddr) -> bool) {
        self.sockets.retain(|ear| wanted(&ear.at));
    }

    /// The addresses at which it listens.
    pub fn addresses(&self) -> impl Iterator<Item = SocketAddr> {
        self.sockets.iter().map(|ear| ear.at)
    }

    /// True if it listens at an address.
    #[must_use]
    pub fn listens(&self, address: &SocketAddr) -> bool {
        self.sockets.iter().any(|ear| ear.at == *address)
    }

    /// Sends a packet from the socket at an address that it listens at.
    ///
    /// # Errors
    /// If it does not listen there, or the system refuses.
    pub fn send_from(&self, own: &SocketAddr, packet: &[u8], to: SocketAddr) -> io::Result<()> {
        let ear = self.sockets.iter().find(|ear| ear.at == *own);
        let ear = ear.ok_or_else(|| io::Error::from(io::ErrorKind::NotConnected))?;
        ear.socket.send_to(packet, to).map(|_| ())
    }

    /// Waits for packets and hands each to `take` with the sender's address and the own one, at most `most` of each socket
    /// at a time, so that a flood at one cannot keep the caller from the others and from what else it does. Returns after
    /// `timeout` if none comes.
    ///
    /// # Errors
    /// If waiting fails; a single packet that cannot be read is passed over.
    pub fn receive(
        &mut self,
        timeout: Duration,
        most: usize,
        mut take: impl FnMut(&[u8], SocketAddr, SocketAddr),
    ) -> io::Result<()> {
        let timeout = PollTimeout::try_from(timeout).unwrap_or(PollTimeout::MAX);
        let mut ready: Vec<PollFd<'_>> =
            self.sockets.iter().map(|ear| PollFd::new(ear.socket.as_fd(), PollFlags::POLLIN)).collect();
        match poll(&mut ready, timeout) {
            Ok(0) | Err(Errno::EINTR) => return Ok(()),
            Ok(_) => {}
            Err(error) => return Err(error.into()),
        }
        let ready: Vec<bool> = ready.iter().map(|fd| fd.any().unwrap_or(true)).collect();
        for (ear, _) in self.sockets.iter_mut().zip(ready).filter(|(_, ready)| *ready) {
            for _ in 0..most {
                let Some((length, from)) = ear.read(&mut self.buffer[..], &mut self.control, &mut self.dropped) else {
                    break;
                };
                if let Some(from) = from {
                    take(&self.buffer[..length], plain(from), ear.at);
                }
            }
        }
        Ok(())
    }
}

impl Ear {
    /// Reads one packet: its length, and its sender where the system tells it. None where no packet waits.
    fn read(
        &mut self,
        buffer: &mut [u8],
        control: &mut [u8],
        dropped: &mut u64,
    ) -> Option<(usize, Option<SocketAddr>)> {
        let mut slices = [IoSliceMut::new(buffer)];
        let flags = MsgFlags::MSG_DONTWAIT;
        let came = recvmsg::<SockaddrStorage>(self.socket.as_raw_fd(), &mut slices, Some(control), flags).ok()?;
        for message in came.cmsgs().into_iter().flatten() {
            if let ControlMessageOwned::RxqOvfl(count) = message {
                *dropped += u64::from(count.wrapping_sub(self.overflowed));
                self.overflowed = count;
            }
        }
        Some((came.bytes, came.address.as_ref().and_then(address_of)))
    }
}

/// An address as the system tells it.
fn address_of(storage: &SockaddrStorage) -> Option<SocketAddr> {
    let v4 = storage.as_sockaddr_in().map(|v4| SocketAddr::from((v4.ip(), v4.port())));
    v4.or_else(|| storage.as_sockaddr_in6().map(|v6| SocketAddr::from((v6.ip(), v6.port()))))
}

/// An address without the scope that only this machine knows.
fn plain(address: SocketAddr) -> SocketAddr {
    SocketAddr::new(IpAddr::to_canonical(&address.ip()), address.port())
}
