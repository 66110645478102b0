//! The directory of the network: devices that answered a poll (Art-Net), and sources that announced what they send (sACN).

mod announced;
mod device;
mod doubted;

use std::net::{IpAddr, Ipv4Addr};

use serde::{Deserialize, Serialize};

pub use announced::Announced;
pub use device::Device;
pub use doubted::Doubted;

use crate::artnet::poll_reply::Repr;
use crate::belief::Doubt;
use crate::sacn::{DISCOVERY_INTERVAL, discovery};

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
/// The time after which a device is forgotten that answered one poll and fell silent, in seconds: a flood of made-up ones is over
/// then, and so is what it took of the memory.
const FORGOTTEN: f64 = 30.0;

/// Everybody who is known.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Directory {
    devices: Vec<Device>,
    sources: Vec<Announced>,
    doubted: Vec<Doubted>,
    /// Answers that there was no room for.
    pub ignored: u64,
}

impl Directory {
    /// Takes an answer to a poll that is believed (see [`crate::belief`]). Returns whether anything but the time is new.
    pub fn answered(&mut self, reply: &Repr<'_>, from: Ipv4Addr, now: f64) -> bool {
        // In some devices the field is empty; then the packet's own address counts.
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
        before.is_new()
            || before.is_gone(now)
            || (&before.outputs, &before.inputs, &before.name, before.double)
                != (&after.outputs, &after.inputs, &after.name, after.double)
    }

    /// Takes note of an answer that is not believed.
    pub fn doubt(&mut self, reply: &Repr<'_>, from: Ipv4Addr, why: Doubt, now: f64) {
        doubted::note(&mut self.doubted, from, reply.address, why, now);
    }

    /// Gives up devices that are gone for one that is there: first those that answered one poll alone, then the one that has been
    /// gone longest. Those that are there keep their place.
    fn make_room(&mut self, now: f64) -> bool {
        let before = self.devices.len();
        self.devices.retain(|d| d.is_known() || !d.is_gone(now));
        if self.devices.len() == before {
            let gone = self.devices.iter().enumerate().filter(|(_, d)| d.is_gone(now));
            let Some((longest, _)) = gone.min_by(|(_, a), (_, b)| a.last.total_cmp(&b.last)) else { return false };
            self.devices.remove(longest);
        }
        true
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
                self.sources.push(Announced::new(page.cid, from, now));
                self.sources.len() - 1
            }
        };
        self.sources[index].take(page, from, now);
    }

    /// Forgets sources that fell silent, and devices that did so after a single answer; others are kept, and count as gone.
    pub fn pass_time(&mut self, now: f64) {
        self.sources.retain(|s| now - s.last <= SOURCE_GONE);
        self.devices.retain(|d| d.is_known() || now - d.last <= FORGOTTEN);
        self.devices.iter_mut().for_each(|device| device.pass_time(now));
        doubted::pass_time(&mut self.doubted, now);
        give_back(&mut self.devices);
        give_back(&mut self.sources);
    }

    /// Lets so many seconds not count in which packets were lost on this machine: nobody falls silent while nobody listens.
    pub fn hold(&mut self, seconds: f64) {
        self.devices.iter_mut().for_each(|device| device.hold(seconds));
        self.sources.iter_mut().for_each(|source| source.last += seconds);
    }

    /// Forgets the devices at addresses that are not wanted.
    pub fn keep(&mut self, wanted: impl Fn(Ipv4Addr) -> bool) {
        self.devices.retain(|device| wanted(device.address));
    }

    /// Forgets the devices that are gone.
    pub fn forget_gone(&mut self, now: f64) {
        self.devices.retain(|device| !device.is_gone(now));
    }

    /// This directory in the order in which a person reads it: who is there and known, then newcomers, then who is gone; each by
    /// address.
    #[must_use]
    pub fn in_reading_order(&self, now: f64) -> Self {
        let mut read = self.clone();
        read.devices.sort_by_key(|device| (device.is_gone(now), !device.is_known(), device.address));
        read
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

    /// The senders of answers that were not believed of late, the latest first.
    #[must_use]
    pub fn doubted(&self) -> &[Doubted] {
        &self.doubted
    }

    /// The devices that put out a port-address and are there.
    pub fn takers(&self, port_address: u16, now: f64) -> impl Iterator<Item = &Device> {
        self.devices.iter().filter(move |d| !d.is_gone(now) && d.outputs.binary_search(&port_address).is_ok())
    }
}

/// Gives memory back that a flood took.
fn give_back<T>(list: &mut Vec<T>) {
    if list.capacity() > 64 && list.len() < list.capacity() / 4 {
        list.shrink_to(list.len() * 2);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::artnet::poll_reply::{OEM_UNKNOWN, Port, Style};

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
    fn a_port_goes_by_its_own_word_twice_and_not_by_one_packet() {
        let mut directory = Directory::default();
        let takes = |directory: &Directory, port: u16, now: f64| directory.takers(port, now).count() == 1;
        directory.answered(&reply(7, 1, &[0, 1]), FROM, 0.0);
        directory.answered(&reply(7, 1, &[]), FROM, 2.8);
        assert!(takes(&directory, 0, 2.9), "ports that vanish for one poll");
        directory.answered(&reply(7, 1, &[0, 1]), FROM, 5.6);
        // A flood in its name between two polls changes nothing.
        for i in 0..120 {
            directory.answered(&reply(7, 1, &[]), FROM, 5.7 + f64::from(i) * 0.02);
        }
        directory.answered(&reply(7, 1, &[0, 1]), FROM, 8.4);
        assert!(takes(&directory, 0, 8.5) && takes(&directory, 1, 8.5));
        // It was set to another universe.
        for poll in 1..=2 {
            directory.answered(&reply(7, 1, &[5]), FROM, 8.4 + f64::from(poll) * 2.8);
        }
        assert!(!takes(&directory, 0, 14.1) && takes(&directory, 5, 14.1));
    }

    #[test]
    fn nobody_falls_silent_while_nobody_listens() {
        let mut directory = Directory::default();
        directory.answered(&reply(7, 1, &[0]), FROM, 0.0);
        directory.announced(&announcement(), IpAddr::V4(FROM), 0.0);
        for tenth in 1..=600 {
            directory.hold(0.1);
            directory.pass_time(f64::from(tenth) * 0.1);
        }
        assert_eq!((directory.takers(0, 60.0).count(), directory.sources().len()), (1, 1));
        directory.pass_time(90.0);
        assert_eq!((directory.takers(0, 90.0).count(), directory.sources().len()), (0, 0), "then silence counts");
    }

    #[test]
    fn what_a_flood_took_is_given_back_and_who_answers_again_stays() {
        let mut directory = Directory::default();
        for poll in 0..3 {
            directory.answered(&reply(7, 1, &[0]), FROM, f64::from(poll) * 2.8);
        }
        for i in 0..1023u32 {
            let address = Ipv4Addr::from(0x0a09_0000 + i);
            directory.answered(&Repr { address, ..reply(0, 1, &[0]) }, FROM, 6.0);
        }
        assert_eq!(directory.devices().len(), 1024);
        directory.pass_time(40.0);
        assert_eq!(directory.devices().len(), 1, "the one that answered polls is gone, and told of");
        assert!(directory.devices.capacity() < 128);
        directory.forget_gone(40.0);
        assert!(directory.devices().is_empty());
    }

    #[test]
    fn who_is_not_believed_is_told_of_a_while() {
        let mut directory = Directory::default();
        for i in 0..300u16 {
            let from = Ipv4Addr::from(0x0a00_0000 + u32::from(i % 20));
            directory.doubt(&reply(7, 1, &[0]), from, Doubt::OtherAddress, f64::from(i) * 0.01);
        }
        let told = directory.doubted();
        assert_eq!(
            (told.len(), told[0].claimed, told[0].from),
            (8, Ipv4Addr::new(10, 0, 0, 7), Ipv4Addr::new(10, 0, 0, 19))
        );
        directory.doubt(&reply(7, 1, &[0]), told[0].from, Doubt::OtherAddress, 3.0);
        assert_eq!(directory.doubted()[0].count, 2);
        directory.pass_time(70.0);
        assert!(directory.doubted().is_empty() && directory.devices().is_empty());
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

    fn announcement() -> discovery::Repr<'static> {
        let page = discovery::pages([3; 16], "Desk", &[1]).remove(0).leak();
        discovery::Repr::parse(page).expect("a page")
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
