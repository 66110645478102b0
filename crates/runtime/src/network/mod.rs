//! The network around a show: what is known of it, and what others may ask of the thread that listens.

mod dmx_input;
mod listen;
mod names;
mod senders;

use std::borrow::Cow;
use std::collections::{BTreeMap, HashMap};
use std::net::{IpAddr, Ipv4Addr};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use arc_swap::{ArcSwap, ArcSwapOption};
use crossbeam_channel::{Receiver, Sender, bounded};
pub use splimo_link::network::{NetworkStatus, Received, SourceSeen, Timed};
use splimo_show::AddressBlock;
use splimo_wire::Protocol;
use splimo_wire::artnet::{time_code, trigger};
use splimo_wire::burst::Identity;
use splimo_wire::interface::Interface;

pub use dmx_input::DmxInput;
pub use listen::{Listener, start};

/// Things that are set off and wait to be sent, at the most.
const TRIGGERS: usize = 64;

/// The network, as far as it has to be known to lay routes out.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Network {
    /// The interfaces of this machine, by name.
    pub interfaces: Vec<Interface>,
    /// Names of machines, and what they were resolved to.
    pub hosts: HashMap<String, Result<IpAddr, String>>,
    /// Port-addresses, and the addresses of the nodes that put them out.
    pub takers: BTreeMap<u16, Vec<Ipv4Addr>>,
}

impl Network {
    /// An interface by its name.
    ///
    /// # Errors
    /// The fault in it, and the way to mend it.
    pub fn interface(&self, name: &str) -> Result<&Interface, String> {
        let names = || self.interfaces.iter().map(|i| i.name.as_str()).collect::<Vec<_>>().join(", ");
        let Some(interface) = self.interfaces.iter().find(|i| i.name == name) else {
            return Err(format!("there is no interface {name}; plug it in, or choose one of {}", names()));
        };
        if interface.v4.is_none() && interface.v6.is_none() {
            return Err(format!("interface {name} has no address; give it one, or choose one of {}", names()));
        }
        Ok(interface)
    }

    /// The directed broadcast addresses of an interface, or of every one that leads away from this machine.
    #[must_use]
    pub fn broadcasts(&self, interface: Option<&Interface>) -> Vec<Ipv4Addr> {
        match interface {
            Some(interface) => interface.broadcast.into_iter().collect(),
            None => self.interfaces.iter().filter(|i| i.up && !i.loopback).filter_map(|i| i.broadcast).collect(),
        }
    }

    /// The same where some nodes take nothing.
    #[must_use]
    pub fn without(&self, ignored: &[Ipv4Addr]) -> Cow<'_, Self> {
        if ignored.is_empty() {
            return Cow::Borrowed(self);
        }
        let mut rest = self.clone();
        rest.takers.values_mut().for_each(|takers| takers.retain(|address| !ignored.contains(address)));
        Cow::Owned(rest)
    }

    /// The directed broadcast address of the network that an address lies in, if it is one of ours.
    #[must_use]
    pub fn broadcast_to(&self, address: Ipv4Addr) -> Option<Ipv4Addr> {
        self.interfaces.iter().find(|i| !i.loopback && i.reaches(address)).and_then(|i| i.broadcast)
    }
}

/// The output, as far as the network's thread has to know it.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Outgoing {
    /// The identity of the sender.
    pub identity: Identity,
    /// The sACN universes that leave, by interface.
    pub announced: BTreeMap<Option<String>, Vec<u16>>,
    /// The single addresses that Art-Net goes to.
    pub art_net: Vec<Ipv4Addr>,
    /// Names of machines that routes go to.
    pub hosts: Vec<String>,
    /// The counting of time code, if it is sent.
    pub time_code: Option<time_code::CountingKind>,
    /// True if all of it goes to this machine itself.
    pub local: bool,
    /// True if what others set off fires pads.
    pub triggers: bool,
    /// The addresses whose triggers do; empty means any.
    pub triggers_from: Vec<AddressBlock>,
    /// The addresses whose time code is followed; empty means any.
    pub time_code_from: Vec<AddressBlock>,
    /// The addresses whose answers to polls are believed; empty means those on our own networks.
    pub nodes_from: Vec<AddressBlock>,
}

/// An exchange between the network's thread and the others. Nobody waits.
pub struct Exchange {
    network: ArcSwap<Network>,
    status: ArcSwap<NetworkStatus>,
    outgoing: ArcSwap<Outgoing>,
    watched: ArcSwapOption<(Protocol, u16)>,
    inputs: ArcSwap<Vec<DmxInput>>,
    triggers: (Sender<trigger::Repr>, Receiver<trigger::Repr>),
    /// Set where devices that are gone are to be forgotten.
    forget: AtomicBool,
}

impl Default for Exchange {
    fn default() -> Self {
        let network = Network { interfaces: splimo_wire::socket::interfaces(), ..Network::default() };
        Self {
            network: ArcSwap::from_pointee(network),
            status: ArcSwap::default(),
            outgoing: ArcSwap::default(),
            watched: ArcSwapOption::empty(),
            inputs: ArcSwap::default(),
            triggers: bounded(TRIGGERS),
            forget: AtomicBool::new(false),
        }
    }
}

impl Exchange {
    /// The network as it is known.
    #[must_use]
    pub fn network(&self) -> Arc<Network> {
        self.network.load_full()
    }

    /// The network as a screen sees it.
    #[must_use]
    pub fn status(&self) -> Arc<NetworkStatus> {
        self.status.load_full()
    }

    /// Says what leaves.
    pub fn set_outgoing(&self, outgoing: Outgoing) {
        self.outgoing.store(Arc::new(outgoing));
    }

    /// What leaves, as it was handed over last.
    #[cfg(test)]
    pub(crate) fn outgoing(&self) -> Arc<Outgoing> {
        self.outgoing.load_full()
    }

    /// Asks for the slots of a universe that comes in.
    pub fn watch(&self, universe: Option<(Protocol, u16)>) {
        if self.watched.load().as_deref() != universe.as_ref() {
            self.watched.store(universe.map(Arc::new));
        }
    }

    /// Says which universes are inputs.
    pub fn listen_to(&self, inputs: Vec<DmxInput>) {
        self.inputs.store(Arc::new(inputs));
    }

    /// Has the devices that are gone forgotten.
    pub fn forget_nodes(&self) {
        self.forget.store(true, Ordering::Relaxed);
    }

    /// Sets something off at everybody's.
    pub fn trigger(&self, what: trigger::Repr) {
        // Where as many wait, somebody leans on a key.
        let _ = self.triggers.0.try_send(what);
    }
}
