//! Packets in.

use std::io;
use std::net::{IpAddr, Ipv4Addr, Ipv6Addr, SocketAddr, UdpSocket};
use std::os::fd::AsFd;
use std::time::Duration;

use nix::errno::Errno;
use nix::poll::{PollFd, PollFlags, PollTimeout, poll};
use socket2::{Domain, Protocol, Socket, Type};

/// Room for what comes in while the receiving thread waits for its turn.
const RECEIVE_BUFFER: usize = 4 << 20;
/// Larger than any packet of either protocol.
const LARGEST: usize = 1500;

/// Sockets that receive at any number of addresses.
pub struct Receiver {
    sockets: Vec<(SocketAddr, UdpSocket)>,
    buffer: Box<[u8; LARGEST]>,
}

impl Default for Receiver {
    fn default() -> Self {
        Self { sockets: Vec::new(), buffer: Box::new([0; LARGEST]) }
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
        self.sockets.push((address, socket.into()));
        Ok(())
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
        let Some((_, socket)) = self.sockets.last() else { return Ok(()) };
        let result = join(socket);
        if result.is_err() {
            self.sockets.pop();
        }
        result
    }

    /// Leaves every address that is not wanted.
    pub fn keep(&mut self, wanted: impl Fn(&SocketAddr) -> bool) {
        self.sockets.retain(|(address, _)| wanted(address));
    }

    /// True if it listens at an address.
    #[must_use]
    pub fn listens(&self, address: &SocketAddr) -> bool {
        self.sockets.iter().any(|(own, _)| own == address)
    }

    /// Sends a packet from the socket at an address that it listens at.
    ///
    /// # Errors
    /// If it does not listen there, or the system refuses.
    pub fn send_from(&self, own: &SocketAddr, packet: &[u8], to: SocketAddr) -> io::Result<()> {
        let socket = self.sockets.iter().find(|(address, _)| address == own);
        let (_, socket) = socket.ok_or_else(|| io::Error::from(io::ErrorKind::NotConnected))?;
        socket.send_to(packet, to).map(|_| ())
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
            self.sockets.iter().map(|(_, socket)| PollFd::new(socket.as_fd(), PollFlags::POLLIN)).collect();
        match poll(&mut ready, timeout) {
            Ok(0) | Err(Errno::EINTR) => return Ok(()),
            Ok(_) => {}
            Err(error) => return Err(error.into()),
        }
        let ready: Vec<bool> = ready.iter().map(|fd| fd.any().unwrap_or(true)).collect();
        for ((own, socket), _) in self.sockets.iter().zip(ready).filter(|(_, ready)| *ready) {
            for _ in 0..most {
                match socket.recv_from(&mut self.buffer[..]) {
                    Ok((length, from)) => take(&self.buffer[..length], plain(from), *own),
                    Err(_) => break,
                }
            }
        }
        Ok(())
    }
}

/// An address without the scope that only this machine knows.
fn plain(address: SocketAddr) -> SocketAddr {
    SocketAddr::new(IpAddr::to_canonical(&address.ip()), address.port())
}
