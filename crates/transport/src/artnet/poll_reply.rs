//! `ArtPollReply`: says who is there and what its ports carry (Art-Net 4, "ArtPollReply packet definition").
//!
//! | bytes | field | |
//! |---|---|---|
//! | 0..8 | ID | `Art-Net\0` |
//! | 8..10 | OpCode | 0x2100, low byte first |
//! | 10..14 | IP address | |
//! | 14..16 | Port | 6454, low byte first |
//! | 16..18 | VersInfo | the node's firmware, high byte first |
//! | 18 | NetSwitch | bits 14 to 8 of the port-addresses |
//! | 19 | SubSwitch | bits 7 to 4 |
//! | 20..22 | Oem | high byte first |
//! | 22 | Ubea version | |
//! | 23 | Status1 | |
//! | 24..26 | EstaMan | low byte first |
//! | 26..44 | ShortName | ASCII, ended by a zero |
//! | 44..108 | LongName | ASCII, ended by a zero |
//! | 108..172 | NodeReport | ASCII, ended by a zero |
//! | 172..174 | NumPorts | high byte first, at most 4 |
//! | 174..178 | PortTypes | bit 7 output, bit 6 input, bits 5..0 the protocol, 0 for DMX512 |
//! | 178..182 | GoodInput | bit 7 data comes in |
//! | 182..186 | GoodOutputA | bit 7 data goes out, bit 3 merging |
//! | 186..190 | SwIn | bits 3 to 0 of the port-address of each input |
//! | 190..194 | SwOut | bits 3 to 0 of the port-address of each output |
//! | 194 | AcnPriority | |
//! | 195..200 | SwMacro, SwRemote, spare | |
//! | 200 | Style | 0 node, 1 controller, 2 media, 3 route, 4 backup, 5 config, 6 visual |
//! | 201..207 | MAC address | |
//! | 207..211 | BindIp | |
//! | 211 | BindIndex | 1 for the root device |
//! | 212 | Status2 | bit 3: port-addresses of 15 bits |
//! | 213..217 | GoodOutputB | |
//! | 217 | Status3 | |
//! | 218..224 | DefaultRespUID | |
//! | 224..226 | User | |
//! | 226..228 | RefreshRate | the fastest that it takes, in hertz; 0 where it does not say |
//! | 228 | BackgroundQueuePolicy | |
//! | 229..239 | filler | |
//!
//! Nodes of before Art-Net 4 end earlier; what is behind the MAC address may be missing.

use std::net::Ipv4Addr;

use serde::{Deserialize, Serialize};

use super::{PORT, check, emit_head};
use crate::{Error, field_of, text_of};

/// The code of this packet.
pub const OP_POLL_REPLY: u16 = 0x2100;
/// The length of the packet.
pub const LENGTH: usize = 239;
/// Up to the MAC address, which is where the first version ended.
const OLD_LENGTH: usize = field::MAC.end;
/// The product code of whoever has none.
pub const OEM_UNKNOWN: u16 = 0x00ff;
/// Ports of one reply; a device with more sends a reply for each four, told apart by their bind index.
pub const PORTS: usize = 4;

const OUTPUT: u8 = 0x80;
const INPUT: u8 = 0x40;
const ACTIVE: u8 = 0x80;
const MERGING: u8 = 0x08;
/// Status1: the front panel is as usual, and port-addresses are set by hand; status2: port-addresses of 15 bits.
const STATUS1: u8 = 0xd0;
const STATUS2: u8 = 0x08;

mod field {
    use std::ops::Range;

    pub(super) const IP: Range<usize> = 10..14;
    pub(super) const PORT: Range<usize> = 14..16;
    pub(super) const VERSION: Range<usize> = 16..18;
    pub(super) const NET_SWITCH: usize = 18;
    pub(super) const SUB_SWITCH: usize = 19;
    pub(super) const OEM: Range<usize> = 20..22;
    pub(super) const STATUS1: usize = 23;
    pub(super) const SHORT_NAME: Range<usize> = 26..44;
    pub(super) const LONG_NAME: Range<usize> = 44..108;
    pub(super) const REPORT: Range<usize> = 108..172;
    pub(super) const NUM_PORTS: Range<usize> = 172..174;
    pub(super) const PORT_TYPES: usize = 174;
    pub(super) const GOOD_INPUT: usize = 178;
    pub(super) const GOOD_OUTPUT: usize = 182;
    pub(super) const SW_IN: usize = 186;
    pub(super) const SW_OUT: usize = 190;
    pub(super) const STYLE: usize = 200;
    pub(super) const MAC: Range<usize> = 201..207;
    pub(super) const BIND_IP: Range<usize> = 207..211;
    pub(super) const BIND_INDEX: usize = 211;
    pub(super) const STATUS2: usize = 212;
    pub(super) const REFRESH_RATE: Range<usize> = 226..228;
}

/// The kind of device that replies.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
pub enum Style {
    /// A node: it takes or gives DMX512.
    #[default]
    Node,
    /// A controller.
    Controller,
    /// Anything else, by its code.
    Other(u8),
}

impl From<u8> for Style {
    fn from(code: u8) -> Self {
        match code {
            0 => Self::Node,
            1 => Self::Controller,
            other => Self::Other(other),
        }
    }
}

impl From<Style> for u8 {
    fn from(style: Style) -> Self {
        match style {
            Style::Node => 0,
            Style::Controller => 1,
            Style::Other(code) => code,
        }
    }
}

/// One port.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Port {
    /// The port-address that it puts out, if it is an output.
    pub output: Option<u16>,
    /// The port-address that it brings in, if it is an input.
    pub input: Option<u16>,
    /// True if data goes through it now.
    pub active: bool,
    /// True if it merges two sources.
    pub merging: bool,
}

/// An `ArtPollReply` packet by its meaning.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Repr<'a> {
    /// The address of the device.
    pub address: Ipv4Addr,
    /// The version of its firmware.
    pub version: u16,
    /// Its product code.
    pub oem: u16,
    /// Its short name, at most 17 bytes.
    pub short_name: &'a str,
    /// Its long name, at most 63 bytes.
    pub long_name: &'a str,
    /// The way it is, in its own words, at most 63 bytes.
    pub report: &'a str,
    /// Bits 14 to 4 of the port-addresses of its ports.
    pub switch: u16,
    /// Its ports, at most four.
    pub ports: [Port; PORTS],
    /// The number of them.
    pub port_count: usize,
    /// The kind of device.
    pub style: Style,
    /// Its MAC address.
    pub mac: [u8; 6],
    /// The address of the root device, or zeros.
    pub bind_address: Ipv4Addr,
    /// The place among the replies of one device; 0 and 1 both are the first.
    pub bind_index: u8,
    /// The fastest that it takes, in hertz; 0 where it does not say.
    pub refresh_rate: u16,
}

impl<'a> Repr<'a> {
    /// Reads a packet. Names are read up to what is no text any more, since any bytes are found in them.
    ///
    /// # Errors
    /// [`Error::NotThis`] or [`Error::Truncated`].
    pub fn parse(bytes: &'a [u8]) -> Result<Self, Error> {
        check(bytes, OP_POLL_REPLY, OLD_LENGTH)?;
        let later = |at: usize| bytes.get(at).copied().unwrap_or(0);
        let switch =
            (u16::from(bytes[field::NET_SWITCH] & 0x7f) << 8) | (u16::from(bytes[field::SUB_SWITCH] & 0x0f) << 4);
        let port_count = usize::from(u16::from_be_bytes(field_of(bytes, field::NUM_PORTS))).min(PORTS);
        let port = |i: usize| {
            let kind = bytes[field::PORT_TYPES + i];
            let (input, output) = (bytes[field::GOOD_INPUT + i], bytes[field::GOOD_OUTPUT + i]);
            let there = i < port_count;
            Port {
                output: (there && kind & OUTPUT != 0).then(|| switch | u16::from(bytes[field::SW_OUT + i] & 0x0f)),
                input: (there && kind & INPUT != 0).then(|| switch | u16::from(bytes[field::SW_IN + i] & 0x0f)),
                active: there && (input | output) & ACTIVE != 0,
                merging: there && output & MERGING != 0,
            }
        };
        Ok(Self {
            address: Ipv4Addr::from(field_of::<4>(bytes, field::IP)),
            version: u16::from_be_bytes(field_of(bytes, field::VERSION)),
            oem: u16::from_be_bytes(field_of(bytes, field::OEM)),
            short_name: text_of(&bytes[field::SHORT_NAME]),
            long_name: text_of(&bytes[field::LONG_NAME]),
            report: text_of(&bytes[field::REPORT]),
            switch,
            ports: std::array::from_fn(port),
            port_count,
            style: Style::from(bytes[field::STYLE]),
            mac: field_of(bytes, field::MAC),
            bind_address: Ipv4Addr::from(std::array::from_fn::<u8, 4, _>(|i| later(field::BIND_IP.start + i))),
            bind_index: later(field::BIND_INDEX),
            refresh_rate: u16::from_be_bytes(std::array::from_fn(|i| later(field::REFRESH_RATE.start + i))),
        })
    }

    /// The packet. Names that are too long are cut at a character. Of each port the lowest four bits of its port-address
    /// are written; the others are those of [`Self::switch`].
    #[must_use]
    pub fn emit(&self) -> [u8; LENGTH] {
        let mut bytes = [0; LENGTH];
        emit_head(&mut bytes, OP_POLL_REPLY);
        bytes[field::IP].copy_from_slice(&self.address.octets());
        bytes[field::PORT].copy_from_slice(&PORT.to_le_bytes());
        bytes[field::VERSION].copy_from_slice(&self.version.to_be_bytes());
        bytes[field::NET_SWITCH] = (self.switch >> 8) as u8 & 0x7f;
        bytes[field::SUB_SWITCH] = (self.switch >> 4) as u8 & 0x0f;
        bytes[field::OEM].copy_from_slice(&self.oem.to_be_bytes());
        bytes[field::STATUS1] = STATUS1;
        put_text(&mut bytes[field::SHORT_NAME], self.short_name);
        put_text(&mut bytes[field::LONG_NAME], self.long_name);
        put_text(&mut bytes[field::REPORT], self.report);
        bytes[field::NUM_PORTS].copy_from_slice(&(self.port_count.min(PORTS) as u16).to_be_bytes());
        for (i, port) in self.ports.iter().enumerate().take(self.port_count) {
            let bit = |set: bool, bit: u8| if set { bit } else { 0 };
            bytes[field::PORT_TYPES + i] = bit(port.output.is_some(), OUTPUT) | bit(port.input.is_some(), INPUT);
            bytes[field::GOOD_INPUT + i] = bit(port.input.is_some() && port.active, ACTIVE);
            bytes[field::GOOD_OUTPUT + i] =
                bit(port.output.is_some() && port.active, ACTIVE) | bit(port.merging, MERGING);
            bytes[field::SW_IN + i] = port.input.unwrap_or(0) as u8 & 0x0f;
            bytes[field::SW_OUT + i] = port.output.unwrap_or(0) as u8 & 0x0f;
        }
        bytes[field::STYLE] = self.style.into();
        bytes[field::MAC].copy_from_slice(&self.mac);
        bytes[field::BIND_IP].copy_from_slice(&self.bind_address.octets());
        bytes[field::BIND_INDEX] = self.bind_index;
        bytes[field::STATUS2] = STATUS2;
        bytes[field::REFRESH_RATE].copy_from_slice(&self.refresh_rate.to_be_bytes());
        bytes
    }
}

/// Writes a text and a zero behind it.
fn put_text(field: &mut [u8], text: &str) {
    let text = &text[..text.floor_char_boundary(field.len() - 1)];
    field[..text.len()].copy_from_slice(text.as_bytes());
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn repr() -> Repr<'static> {
        let mut ports = [Port::default(); PORTS];
        ports[0] = Port { output: Some(0x0123), input: None, active: true, merging: true };
        ports[1] = Port { output: None, input: Some(0x0124), active: true, merging: false };
        Repr {
            address: Ipv4Addr::new(10, 20, 0, 11),
            version: 0x0102,
            oem: OEM_UNKNOWN,
            short_name: "Box",
            long_name: "Pixel box",
            report: "#0001 [0003] well",
            switch: 0x0120,
            ports,
            port_count: 2,
            style: Style::Node,
            mac: [2, 0, 10, 20, 0, 11],
            bind_address: Ipv4Addr::new(10, 20, 0, 11),
            bind_index: 1,
            refresh_rate: 44,
        }
    }

    #[test]
    fn emits_the_bytes_of_the_table() {
        let padded = |text: &str, length: usize| {
            let mut bytes = text.as_bytes().to_vec();
            bytes.resize(length, 0);
            bytes
        };
        let mut wanted = b"Art-Net\0\x00\x21".to_vec();
        wanted.extend([10, 20, 0, 11, 0x36, 0x19]); // IP, Port with its low byte first
        wanted.extend([0x01, 0x02, 0x01, 0x02, 0x00, 0xff]); // VersInfo, NetSwitch, SubSwitch, Oem
        wanted.extend([0x00, 0xd0, 0x00, 0x00]); // Ubea, Status1, EstaMan
        wanted.extend(padded("Box", 18));
        wanted.extend(padded("Pixel box", 64));
        wanted.extend(padded("#0001 [0003] well", 64));
        wanted.extend([0x00, 0x02, 0x80, 0x40, 0x00, 0x00]); // NumPorts, PortTypes
        wanted.extend([0x00, 0x80, 0x00, 0x00, 0x88, 0x00, 0x00, 0x00]); // GoodInput, GoodOutputA
        wanted.extend([0x00, 0x04, 0x00, 0x00, 0x03, 0x00, 0x00, 0x00]); // SwIn, SwOut
        wanted.extend([0; 6]); // AcnPriority, SwMacro, SwRemote, spare
        wanted.push(0x00); // Style
        wanted.extend([2, 0, 10, 20, 0, 11, 10, 20, 0, 11, 1, 0x08]); // MAC, BindIp, BindIndex, Status2
        wanted.extend([0; 13]); // GoodOutputB, Status3, DefaultRespUID, User
        wanted.extend([0x00, 44]); // RefreshRate
        wanted.extend([0; 11]); // BackgroundQueuePolicy, filler
        assert_eq!(wanted.len(), LENGTH);
        assert_eq!(repr().emit()[..], wanted);
    }

    #[test]
    fn every_cut_is_an_older_reply_or_an_error() {
        let bytes = repr().emit();
        for length in 0..LENGTH {
            match Repr::parse(&bytes[..length]) {
                Ok(reply) => assert!(length >= OLD_LENGTH && reply.ports == repr().ports, "{length} bytes"),
                Err(error) => assert_eq!((error, length < OLD_LENGTH), (Error::Truncated, true), "{length} bytes"),
            }
        }
    }

    #[test]
    fn odd_bytes_in_names_end_them() {
        let mut bytes = repr().emit();
        bytes[field::SHORT_NAME].fill(b'x');
        bytes[27] = 0xff;
        bytes[172..174].copy_from_slice(&[0xff, 0xff]);
        let reply = Repr::parse(&bytes).expect("a reply");
        assert_eq!((reply.short_name, reply.port_count), ("x", 4));
    }

    proptest! {
        #[test]
        fn what_is_emitted_is_parsed_again(
            address: u32, version: u16, oem: u16, short_name in "[ -~]{0,17}", long_name in "[ -~]{0,63}",
            report in "[ -~]{0,63}", switch in (0u16..0x800).prop_map(|s| s << 4), port_count in 0usize..=4,
            kinds: [(bool, bool, u8, u8); 4], style: u8, mac: [u8; 6], bind_index: u8, refresh_rate: u16,
        ) {
            let port = |i: usize| {
                let (output, active, low_in, low_out) = kinds[i];
                let number = |low: u8| switch | u16::from(low & 0x0f);
                if i >= port_count { return Port::default() }
                Port {
                    output: output.then(|| number(low_out)),
                    input: (!output).then(|| number(low_in)),
                    active,
                    merging: output && active,
                }
            };
            let repr = Repr {
                address: Ipv4Addr::from(address), version, oem, short_name: &short_name, long_name: &long_name,
                report: &report, switch, ports: std::array::from_fn(port), port_count, style: Style::from(style), mac,
                bind_address: Ipv4Addr::from(!address), bind_index, refresh_rate,
            };
            let bytes = repr.emit();
            prop_assert_eq!(Repr::parse(&bytes), Ok(repr));
        }
    }
}
