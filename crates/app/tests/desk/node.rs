//! A stand-in for a node: it hears the frames of one universe.

use std::net::{Ipv4Addr, UdpSocket};
use std::time::{Duration, Instant};

use super::PATIENCE;

/// A node that hears one universe.
pub(crate) struct Node {
    pub(crate) address: Ipv4Addr,
    socket: UdpSocket,
}

impl Node {
    pub(crate) fn new(number: u8) -> Self {
        let pid = std::process::id();
        let address = Ipv4Addr::new(127, 130 + number, (pid / 250 % 250) as u8, (pid % 250 + 2) as u8);
        let socket = UdpSocket::bind((address, 6454)).expect("a node's port");
        socket.set_read_timeout(Some(Duration::from_secs(1))).expect("a socket");
        Self { address, socket }
    }

    /// The red of the first light in the next frame, if one comes.
    pub(crate) fn red(&self) -> Option<u8> {
        let mut packet = [0; 2048];
        let length = self.socket.recv(&mut packet).ok()?;
        splimo_wire::parse(&packet[..length]).ok().map(|data| data.slots[0])
    }

    /// The slots of the next frame, if one comes.
    pub(crate) fn slots(&self) -> Option<Vec<u8>> {
        let mut packet = [0; 2048];
        let length = self.socket.recv(&mut packet).ok()?;
        splimo_wire::parse(&packet[..length]).ok().map(|data| data.slots.to_vec())
    }

    /// Waits for a frame whose slots are as wanted.
    pub(crate) fn frame(&self, what: &str, wanted: impl Fn(&[u8]) -> bool) -> Vec<u8> {
        let start = Instant::now();
        self.drain();
        loop {
            let slots = self.slots();
            if let Some(slots) = slots.filter(|slots| wanted(slots)) {
                return slots;
            }
            assert!(start.elapsed() < PATIENCE, "waited in vain for {what}");
        }
    }

    /// Drops what has come until now.
    pub(crate) fn drain(&self) {
        self.socket.set_nonblocking(true).expect("a socket");
        while self.socket.recv(&mut [0; 2048]).is_ok() {}
        self.socket.set_nonblocking(false).expect("a socket");
    }

    /// Values of the light, so many of them, each another than the one before and there for two frames at the least.
    pub(crate) fn changes(&self, count: usize) -> Vec<u8> {
        let (start, mut seen, mut last) = (Instant::now(), Vec::new(), None);
        self.drain();
        while seen.len() < count {
            assert!(start.elapsed() < PATIENCE, "waited in vain for changes after {seen:?}");
            let red = self.red();
            if let Some(red) = red.filter(|_| red == last && seen.last().copied() != red) {
                seen.push(red);
            }
            last = red;
        }
        seen
    }

    /// Waits until the light has been the same for a while, and not dark.
    pub(crate) fn stays(&self, what: &str, long: Duration) -> u8 {
        let start = Instant::now();
        let (mut last, mut since) = (None, Instant::now());
        self.drain();
        loop {
            let red = self.red().filter(|red| *red > 0);
            if red.is_none() || red != last {
                (last, since) = (red, Instant::now());
            }
            if let Some(red) = last.filter(|_| since.elapsed() >= long) {
                return red;
            }
            assert!(start.elapsed() < PATIENCE, "waited in vain for {what}; the last was {red:?}");
        }
    }

    /// Waits until the light is as wanted.
    pub(crate) fn arrives(&self, what: &str, wanted: impl Fn(u8) -> bool) -> u8 {
        let start = Instant::now();
        self.drain();
        loop {
            let red = self.red();
            if let Some(red) = red.filter(|red| wanted(*red)) {
                return red;
            }
            assert!(start.elapsed() < PATIENCE, "waited in vain for {what}; the last was {red:?}");
        }
    }
}
