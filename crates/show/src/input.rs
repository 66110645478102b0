//! Inputs: the sources outside the program whose events may move a show.

use std::net::IpAddr;

use serde::{Deserialize, Serialize};

use super::{AddressBlock, CommandTemplate, RemoteLayout};

/// The most inputs of a show.
pub const MOST_INPUTS: usize = 32;
/// The priority of an input that names none.
pub const INPUT_PRIORITY: u8 = 100;

/// The kind of an input.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum InputKind {
    /// MIDI of a port of this machine, a raw device, a pipe, standard input, or a Standard MIDI File.
    Midi,
    /// OSC from the network.
    Osc,
    /// A universe of Art-Net.
    ArtNet,
    /// A universe of sACN.
    Sacn,
    /// Linear time code (SMPTE 12M) in a sound.
    Ltc,
    /// Commands, one a line, from a pipe or standard input.
    Lines,
}

impl InputKind {
    /// Every kind.
    pub const ALL: [Self; 6] = [Self::Midi, Self::Osc, Self::ArtNet, Self::Sacn, Self::Ltc, Self::Lines];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Midi => "MIDI",
            Self::Osc => "OSC",
            Self::ArtNet => "Art-Net",
            Self::Sacn => "sACN",
            Self::Ltc => "LTC",
            Self::Lines => "lines",
        }
    }

    /// The forms in which its address is written.
    #[must_use]
    pub fn address_form(self) -> &'static str {
        match self {
            Self::Midi => "the name of a port, the path of a device, pipe or .mid file, or - for standard input",
            Self::Osc => "an address and a port, such as 0.0.0.0:9000, or tcp:0.0.0.0:9000",
            Self::ArtNet => "a port-address, 0 to 32767, or net:sub-net:universe, such as 0:6:5",
            Self::Sacn => "a universe, 1 to 63999",
            Self::Ltc => "a capture device, a recording, or raw:PATH,48000,1,s16; with #2 behind it its second channel",
            Self::Lines => "the path of a pipe, or - for standard input",
        }
    }

    /// True if anybody on the network can send to it.
    #[must_use]
    pub fn is_network(self) -> bool {
        match self {
            Self::Osc | Self::ArtNet | Self::Sacn => true,
            Self::Midi | Self::Ltc | Self::Lines => false,
        }
    }
}

/// A source outside the program.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Input {
    /// Its name, unique among inputs.
    pub name: String,
    /// Its kind.
    pub kind: InputKind,
    /// Its address, in the form of its kind.
    pub address: String,
    /// True if it is listened to.
    #[serde(default)]
    pub on: bool,
    /// Its priority, 0..200: one that has moved something keeps it from those of lower priorities.
    #[serde(default = "usual_priority", skip_serializing_if = "is_usual_priority")]
    pub priority: u8,
    /// The addresses and networks that may send to it; empty means any.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub from: Vec<AddressBlock>,
    /// The seconds after which it counts as silent, 0.5..3600; 0 means never.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub silent_after: f32,
    /// The commands that are carried out when it falls silent; without any, the fallback of the show has what it was in charge of.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub when_silent: Vec<CommandTemplate>,
    /// The name of the controller model that says what its controls are called.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub controller: String,
    /// Where what lights the controller and moves its faders goes: a port, a device or a pipe; empty is nowhere.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub feedback: String,
    /// The layout by which a desk moves Splimo as one more fixture.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub remote: Option<Remote>,
}

impl Input {
    /// One that is off, with nothing special about it.
    #[must_use]
    pub fn new(name: &str, kind: InputKind, address: &str) -> Self {
        Self {
            name: name.to_owned(),
            kind,
            address: address.to_owned(),
            on: false,
            priority: INPUT_PRIORITY,
            from: Vec::new(),
            silent_after: 0.0,
            when_silent: Vec::new(),
            controller: String::new(),
            feedback: String::new(),
            remote: None,
        }
    }

    /// True if packets of an address are taken.
    #[must_use]
    pub fn allows(&self, from: IpAddr) -> bool {
        AddressBlock::allow(&self.from, from)
    }
}

/// Splimo as a fixture of a desk: which channels it has, and where they begin.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub struct Remote {
    /// The layout.
    pub layout: RemoteLayout,
    /// The first slot, from 1.
    pub first: u16,
}

fn usual_priority() -> u8 {
    INPUT_PRIORITY
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks by reference")]
fn is_usual_priority(priority: &u8) -> bool {
    *priority == INPUT_PRIORITY
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks by reference")]
fn is_zero(seconds: &f32) -> bool {
    *seconds == 0.0
}
