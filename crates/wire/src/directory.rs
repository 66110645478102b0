//! The directory of the network: devices that answered a poll (Art-Net), and sources that announced what they send (sACN).

use std::net::{IpAddr, Ipv4Addr};

use serde::{Deserialize, Serialize};

use crate::artnet::poll_reply::{Repr, Style};
use crate::sacn::{DISCOVERY_INTERVAL, discovery};
use crate::shown;

/// The number of times that a controller polls, in seconds (Art-Net 4: every 2.5 to 3 s).
pub const POLL_INTERVAL: f64 = 2.8;
/// After how long without an answer a device counts as gone, in seconds: three polls.
pub const GONE: f64 = 3.0 * POLL_INTERVAL + 0.6;
/// After how long without an announcement a source counts as gone, in seconds: two intervals and a little (E1.31, 8.2 lets
/// receivers choose).
const SOURCE_GONE: f64 = 2.0 * DISCOVERY_INTERVAL + 2.0;
/// The most devices that are kept, so that a flood of made-up ones cannot fill the memory.
pub const MOST_DEVICES: usize = 1024;
/// The most sources that are kept.
pub const MOST_SOURCES: usize = 256;
/// The most universes of a source.
const MOST_UNIVERSES: usize = 16_384;

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
    /// The time of its last answer, in the caller's seconds.
    pub last: f64,
    /// Another MAC address that answered from the same address, if one did.
    pub double: Option<[u8; 6]>,
    /// Its answers by bind index.
    parts: Vec<Part>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
struct Part {
    bind_index: u8,
    outputs: Vec<u16>,
    inputs: Vec<u16>,
    last: f64,
}

impl Device {
    /// True if it has been silent for too long.
    #[must_use]
    pub fn is_gone(&self, now: f64) -> bool {
        now - self.last > GONE
    }

    /// The number of ports that it has.
    #[must_use]
    pub fn ports(&self) -> usize {
        self.parts.iter().map(|p| p.outputs.len() + p.inputs.len()).sum()
    }

    fn gather(&mut self) {
        let all = |of: fn(&Part) -> &Vec<u16>| {
            let mut all: Vec<u16> = self.parts.iter().flat_map(|p| of(p).iter().copied()).collect();
            all.sort_unstable();
            all.dedup();
            all
        };
        (self.outputs, self.inputs) = (all(|p| &p.outputs), all(|p| &p.inputs));
    }
}

/// A source that announced itself.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Announced {
    /// Its UUID.
    pub cid: [u8; 16],
    /// Its place.
    pub address: IpAddr,
    /// Its name.
    pub name: String,
    /// The universes that it sends, ascending.
    pub universes: Vec<u16>,
    /// The time of its last announcement, in the caller's seconds.
    pub last: f64,
    /// The pages that have come of the announcement under way, and what they told.
    pages: (u16, Vec<u16>),
}

/// Everybody who is known.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Directory {
    devices: Vec<Device>,
    sources: Vec<Announced>,
    /// Answers that there was no room for.
    pub ignored: u64,
}

impl Directory {
    /// Takes an answer to a poll. Returns whether anything but the time is new.
    pub fn answered(&mut self, reply: &Repr<'_>, from: Ipv4Addr, now: f64) -> bool {
        // Behind some routers and in some devices the field is empty; then the packet's own address counts.
        let address = if reply.address.is_unspecified() { from } else { reply.address };
        let index = match self.devices.iter().position(|d| d.address == address) {
            Some(index) => index,
            None if self.devices.len() == MOST_DEVICES && !self.make_room(now) => {
                self.ignored += 1;
                return false;
            }
            None => {
                let place = self.devices.partition_point(|d| d.address < address);
                self.devices.insert(place, Device::new(address, reply, now));
                place
            }
        };
        let before = self.devices[index].clone();
        self.devices[index].take(reply, now);
        let after = &self.devices[index];
        before.parts.is_empty()
            || before.is_gone(now)
            || (&before.outputs, &before.inputs, &before.name, before.double)
                != (&after.outputs, &after.inputs, &after.name, after.double)
    }

    /// Gives up a device that is gone for one that is there.
    fn make_room(&mut self, now: f64) -> bool {
        let before = self.devices.len();
        self.devices.retain(|d| !d.is_gone(now));
        self.devices.len() < before
    }

    /// Takes an announcement.
    pub fn announced(&mut self, page: &discovery::Repr<'_>, from: IpAddr, now: f64) {
        let index = match self.sources.iter().position(|s| s.cid == page.cid) {
            Some(index) => index,
            None if self.sources.len() == MOST_SOURCES => {
                self.ignored += 1;
                return;
            }
            None => {
                self.sources.push(Announced {
                    cid: page.cid,
                    address: from,
                    name: String::new(),
                    universes: Vec::new(),
                    last: now,
                    pages: (0, Vec::new()),
                });
                self.sources.len() - 1
            }
        };
        self.sources[index].take(page, from, now);
    }

    /// Forgets sources that fell silent; devices are kept, and count as gone.
    pub fn pass_time(&mut self, now: f64) {
        self.sources.retain(|s| now - s.last <= SOURCE_GONE);
        for device in &mut self.devices {
            let (before, gone) = (device.parts.len(), device.is_gone(now));
            device.parts.retain(|p| gone || now - p.last <= GONE);
            if device.parts.len() != before {
                device.gather();
            }
        }
    }

    /// The devices, by address.
    #[must_use]
    pub fn devices(&self) -> &[Device] {
        &self.devices
    }

    /// The sources.
    #[must_use]
    pub fn sources(&self) -> &[Announced] {
        &self.sources
    }

    /// The devices that put out a port-address and are there.
    pub fn takers(&self, port_address: u16, now: f64) -> impl Iterator<Item = &Device> {
        self.devices.iter().filter(move |d| !d.is_gone(now) && d.outputs.binary_search(&port_address).is_ok())
    }
}

impl Device {
    fn new(address: Ipv4Addr, reply: &Repr<'_>, now: f64) -> Self {
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
            last: now,
            double: None,
            parts: Vec::new(),
        }
    }

    fn take(&mut self, reply: &Repr<'_>, now: f64) {
        if reply.mac != self.mac {
            // A box that was exchanged for another is no double: the first has to answer as well.
            let both = now - self.last < 2.0 && !self.parts.is_empty();
            self.double = both.then_some(self.mac);
            self.mac = reply.mac;
        }
        let ports = || reply.ports.iter().take(reply.port_count);
        let part = Part {
            bind_index: reply.bind_index.max(1),
            outputs: ports().filter_map(|p| p.output).collect(),
            inputs: ports().filter_map(|p| p.input).collect(),
            last: now,
        };
        if part.bind_index == 1 || self.parts.is_empty() {
            self.name = shown(reply.short_name);
            self.long_name = shown(reply.long_name);
            self.report = shown(reply.report);
            (self.style, self.refresh_rate) = (reply.style, reply.refresh_rate);
        }
        match self.parts.iter_mut().find(|p| p.bind_index == part.bind_index) {
            Some(known) => *known = part,
            None => self.parts.push(part),
        }
        self.last = now;
        self.gather();
    }
}

impl Announced {
    fn take(&mut self, page: &discovery::Repr<'_>, from: IpAddr, now: f64) {
        let (came, list) = &mut self.pages;
        if page.page == 0 {
            (*came, self.last) = (0, now);
            list.clear();
        }
        // Pages come in order; one that is missing makes the list wait for the next announcement.
        if u16::from(page.page) != *came {
            return;
        }
        *came += 1;
        let room = MOST_UNIVERSES.saturating_sub(list.len());
        list.extend(page.universes().take(room));
        if page.page == page.last_page {
            list.sort_unstable();
            list.dedup();
            self.universes.clone_from(list);
            self.address = from;
            self.name = shown(page.source_name);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::artnet::poll_reply::{OEM_UNKNOWN, Port};

    fn reply(last: u8, bind_index: u8, outputs: &[u16]) -> Repr<'static> {
        let address = Ipv4Addr::new(10, 0, 0, last);
        let port = |i: usize| Port { output: outputs.get(i).copied(), ..Port::default() };
        Repr {
            address,
            version: 1,
            oem: OEM_UNKNOWN,
            short_name: "Box",
            long_name: "Pixel box",
            report: "",
            switch: outputs.first().map_or(0, |o| o & 0x7ff0),
            ports: std::array::from_fn(port),
            port_count: outputs.len(),
            style: Style::Node,
            mac: [last; 6],
            bind_address: address,
            bind_index,
            refresh_rate: 44,
        }
    }

    const FROM: Ipv4Addr = Ipv4Addr::new(10, 0, 0, 99);

    #[test]
    fn the_answers_of_one_device_come_together() {
        let mut directory = Directory::default();
        assert!(directory.answered(&reply(7, 1, &[0, 1, 2, 3]), FROM, 0.0));
        assert!(directory.answered(&reply(7, 2, &[4, 5]), FROM, 0.0));
        assert!(!directory.answered(&reply(7, 1, &[0, 1, 2, 3]), FROM, 2.8), "nothing new");
        let device = &directory.devices()[0];
        assert_eq!((device.outputs.as_slice(), device.ports()), (&[0, 1, 2, 3, 4, 5][..], 6));
        assert_eq!((directory.takers(4, 3.0).count(), directory.takers(6, 3.0).count()), (1, 0));
    }

    #[test]
    fn a_silent_device_counts_as_gone_and_comes_back() {
        let mut directory = Directory::default();
        directory.answered(&reply(7, 1, &[0]), FROM, 0.0);
        directory.pass_time(20.0);
        assert!(directory.devices()[0].is_gone(20.0) && directory.takers(0, 20.0).count() == 0);
        assert!(directory.answered(&reply(7, 1, &[0]), FROM, 21.0), "that it is back is new");
    }

    #[test]
    fn two_boxes_at_one_address_are_told() {
        let mut directory = Directory::default();
        directory.answered(&reply(7, 1, &[0]), FROM, 0.0);
        directory.answered(&Repr { mac: [9; 6], ..reply(7, 1, &[0]) }, FROM, 0.1);
        assert_eq!(directory.devices()[0].double, Some([7; 6]));
        directory.answered(&Repr { mac: [9; 6], ..reply(8, 1, &[0]) }, FROM, 0.0);
        directory.answered(&Repr { mac: [5; 6], ..reply(8, 1, &[0]) }, FROM, 60.0);
        assert_eq!(directory.devices()[1].double, None, "one took the other's place");
    }

    #[test]
    fn a_flood_of_devices_is_bounded_and_gives_way_to_those_that_are_there() {
        let mut directory = Directory::default();
        for i in 0..3000u32 {
            let address = Ipv4Addr::from(0x0a00_0000 + i);
            directory.answered(&Repr { address, ..reply(0, 1, &[0]) }, FROM, 0.0);
        }
        assert_eq!((directory.devices().len(), directory.ignored), (1024, 3000 - 1024));
        directory.answered(&Repr { address: Ipv4Addr::new(10, 9, 9, 9), ..reply(0, 1, &[0]) }, FROM, 60.0);
        assert_eq!(directory.devices().len(), 1);
    }

    #[test]
    fn announcements_are_whole_or_wait() {
        let from = IpAddr::V4(FROM);
        let universes: Vec<u16> = (1..=600).collect();
        let pages = discovery::pages([3; 16], "Desk", &universes);
        let mut directory = Directory::default();
        let tell = |directory: &mut Directory, page: usize, now: f64| {
            directory.announced(&discovery::Repr::parse(&pages[page]).expect("a page"), from, now);
            directory.sources()[0].universes.len()
        };
        assert_eq!(tell(&mut directory, 1, 0.0), 0, "a last page without its first");
        assert_eq!((tell(&mut directory, 0, 10.0), tell(&mut directory, 1, 10.0)), (0, 600));
        directory.pass_time(31.0);
        assert_eq!(directory.sources().len(), 1);
        directory.pass_time(33.0);
        assert!(directory.sources().is_empty());
    }
}
