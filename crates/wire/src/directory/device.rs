//! A device that answers polls, and the ports that it said it has.

use std::net::Ipv4Addr;

use serde::{Deserialize, Serialize};

use super::{GONE, POLL_INTERVAL};
use crate::artnet::poll_reply::{Repr, Style};
use crate::shown;

/// The time for which a port is kept that its device does not name any more, in seconds: answers to two polls have to lack it, so
/// that one packet, lost, cut or made up, darkens nothing.
const KEPT: f64 = 1.5 * POLL_INTERVAL;
/// The most port-addresses of one answer's bind index, those that are still kept among them.
const MOST_PORTS: usize = 64;
/// The time between two answers that count as answers to two polls, in seconds.
const ANOTHER_POLL: f64 = 1.0;

/// A device that answered a poll. One with more than four ports answers several times, each with its bind index.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Device {
    /// Its place.
    pub address: Ipv4Addr,
    /// Its short name.
    pub name: String,
    /// Its long name.
    pub long_name: String,
    /// The way it is, in its own words.
    pub report: String,
    /// Its kind.
    pub style: Style,
    /// Its MAC address.
    pub mac: [u8; 6],
    /// The fastest that it takes, in hertz; 0 where it does not say.
    pub refresh_rate: u16,
    /// The port-addresses that it puts out, ascending.
    pub outputs: Vec<u16>,
    /// The port-addresses that it brings in, ascending.
    pub inputs: Vec<u16>,
    /// The time of its first answer, in the caller's seconds.
    pub since: f64,
    /// The time of its last answer, in the caller's seconds.
    pub last: f64,
    /// Another MAC address that answered from the same address, if one did.
    pub double: Option<[u8; 6]>,
    /// The number of polls that it has answered, as far as 2.
    polls: u8,
    /// The time of the last answer that counted as one to another poll.
    counted: f64,
    /// Its answers by bind index.
    parts: Vec<Part>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
struct Part {
    bind_index: u8,
    outputs: Vec<Port>,
    inputs: Vec<u16>,
    last: f64,
}

/// A port that an answer named.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
struct Port {
    number: u16,
    /// The time when it was last named.
    named: f64,
    /// The number of answers since that did not name it.
    lacked: u8,
}

impl Device {
    pub(super) fn new(address: Ipv4Addr, reply: &Repr<'_>, now: f64) -> Self {
        Self {
            address,
            name: String::new(),
            long_name: String::new(),
            report: String::new(),
            style: reply.style,
            mac: reply.mac,
            refresh_rate: 0,
            outputs: Vec::new(),
            inputs: Vec::new(),
            since: now,
            last: now,
            double: None,
            polls: 0,
            counted: f64::MIN,
            parts: Vec::new(),
        }
    }

    /// True if it has been silent for too long.
    #[must_use]
    pub fn is_gone(&self, now: f64) -> bool {
        now - self.last > GONE
    }

    /// True if it has answered more than one poll: what a flood makes up seldom does.
    #[must_use]
    pub fn is_known(&self) -> bool {
        self.polls > 1
    }

    /// The number of ports that it has.
    #[must_use]
    pub fn ports(&self) -> usize {
        self.parts.iter().map(|p| p.outputs.len() + p.inputs.len()).sum()
    }

    /// True if it has not answered before.
    pub(super) fn is_new(&self) -> bool {
        self.parts.is_empty()
    }

    /// Takes an answer.
    pub(super) fn take(&mut self, reply: &Repr<'_>, now: f64) {
        if reply.mac != self.mac {
            // A box that was exchanged for another is no double: the first has to answer as well.
            let both = now - self.last < 2.0 && !self.parts.is_empty();
            self.double = both.then_some(self.mac);
            self.mac = reply.mac;
        }
        let bind_index = reply.bind_index.max(1);
        if bind_index == 1 || self.parts.is_empty() {
            self.name = shown(reply.short_name);
            self.long_name = shown(reply.long_name);
            self.report = shown(reply.report);
            (self.style, self.refresh_rate) = (reply.style, reply.refresh_rate);
        }
        let place = self.parts.iter().position(|p| p.bind_index == bind_index).unwrap_or_else(|| {
            self.parts.push(Part { bind_index, outputs: Vec::new(), inputs: Vec::new(), last: now });
            self.parts.len() - 1
        });
        self.parts[place].take(reply, now);
        if now - self.counted >= ANOTHER_POLL {
            (self.polls, self.counted) = ((self.polls + 1).min(2), now);
        }
        self.last = now;
        self.gather();
    }

    /// Forgets what it has not said for too long. One that is gone keeps what it said last.
    pub(super) fn pass_time(&mut self, now: f64) {
        let (before, gone) = (self.parts.len(), self.is_gone(now));
        self.parts.retain(|p| gone || now - p.last <= GONE);
        if self.parts.len() != before {
            self.gather();
        }
    }

    /// Lets so many seconds not count, in which it may have answered unheard.
    pub(super) fn hold(&mut self, seconds: f64) {
        self.last += seconds;
        for part in &mut self.parts {
            part.last += seconds;
            part.outputs.iter_mut().for_each(|port| port.named += seconds);
        }
    }

    fn gather(&mut self) {
        let mut outputs: Vec<u16> = self.parts.iter().flat_map(|p| p.outputs.iter().map(|port| port.number)).collect();
        let mut inputs: Vec<u16> = self.parts.iter().flat_map(|p| p.inputs.iter().copied()).collect();
        for all in [&mut outputs, &mut inputs] {
            all.sort_unstable();
            all.dedup();
        }
        (self.outputs, self.inputs) = (outputs, inputs);
    }
}

impl Part {
    fn take(&mut self, reply: &Repr<'_>, now: f64) {
        let ports = || reply.ports.iter().take(reply.port_count);
        for port in &mut self.outputs {
            port.lacked = port.lacked.saturating_add(1);
        }
        for number in ports().filter_map(|port| port.output) {
            let named = Port { number, named: now, lacked: 0 };
            match self.outputs.iter().position(|port| port.number == number) {
                Some(place) => self.outputs[place] = named,
                None if self.outputs.len() < MOST_PORTS => self.outputs.push(named),
                None => {}
            }
        }
        self.outputs.retain(|port| port.lacked < 2 || now - port.named <= KEPT);
        self.inputs = ports().filter_map(|port| port.input).collect();
        self.last = now;
    }
}
