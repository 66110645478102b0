//! The names of universes on a network.

/// The names of universes on a network, and their way out.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Numbering {
    /// The number that the first universe has there.
    pub first: u16,
    /// The network interface through which it leaves, by its name; without one, the system's choice.
    pub interface: Option<String>,
    /// True if a synchronisation packet follows each frame.
    pub sync: bool,
}

impl Numbering {
    /// From 0, by the system's choice, without synchronisation.
    pub const USUAL: Self = Self { first: 0, interface: None, sync: false };
}

/// A port-address as net, sub-net and universe (Art-Net 4, "Universe addressing").
#[must_use]
pub fn net_form(port_address: u16) -> String {
    format!("{}:{}:{}", port_address >> 8, port_address >> 4 & 15, port_address & 15)
}
