//! Universes that come in as inputs: each has sources and an arbitration of its own, so that addresses that may not send to it have no
//! part in it.

use std::net::{IpAddr, Ipv4Addr};
use std::sync::Arc;
use std::sync::atomic::Ordering;

use splimo_document::input::port_address;
use splimo_show::event::{Edge, EventAddress, InputEvent, TriggerKey};
use splimo_show::{Input, InputKind};
use splimo_wire::artnet::trigger;
use splimo_wire::message::Message;
use splimo_wire::reception::Reception;
use splimo_wire::{Protocol, sacn};

use crate::inputs::Counts;
use crate::inputs::inbox::Inbox;

/// A universe that is an input.
#[derive(Clone)]
pub struct DmxInput {
    name: Arc<str>,
    input: Arc<Input>,
    protocol: Protocol,
    universe: u16,
    counts: Arc<Counts>,
}

impl PartialEq for DmxInput {
    fn eq(&self, other: &Self) -> bool {
        self.name == other.name && self.input == other.input && Arc::ptr_eq(&self.counts, &other.counts)
    }
}

impl DmxInput {
    /// The universe of an input, if it is one.
    #[must_use]
    pub fn of(input: &Arc<Input>, name: &Arc<str>, counts: &Arc<Counts>) -> Option<Self> {
        let (protocol, universe) = match input.kind {
            InputKind::ArtNet => (Protocol::ArtNet, port_address(&input.address)?),
            InputKind::Sacn => (Protocol::Sacn, input.address.trim().parse().ok()?),
            InputKind::Midi | InputKind::Osc | InputKind::Ltc | InputKind::Lines => return None,
        };
        Some(Self { name: name.clone(), input: input.clone(), protocol, universe, counts: counts.clone() })
    }
}

/// The universes that are inputs, as they come in.
#[derive(Default)]
pub(super) struct DmxInputs {
    wanted: Arc<Vec<DmxInput>>,
    receptions: Vec<Reception>,
}

impl DmxInputs {
    /// Goes over to other inputs; true if they are others.
    pub(super) fn adopt(&mut self, wanted: &Arc<Vec<DmxInput>>) -> bool {
        if self.wanted == *wanted {
            return false;
        }
        let receptions = wanted.iter().map(|input| {
            let known = self.wanted.iter().position(|known| known == input);
            known.map_or_else(Reception::default, |place| std::mem::take(&mut self.receptions[place]))
        });
        self.receptions = receptions.collect();
        self.wanted = wanted.clone();
        true
    }

    /// The groups of sACN that have to be joined.
    pub(super) fn groups(&self) -> impl Iterator<Item = Ipv4Addr> {
        self.wanted.iter().filter(|one| one.protocol == Protocol::Sacn).map(|one| sacn::multicast(one.universe))
    }

    /// The ports at which somebody on this machine may send to everybody.
    pub(super) fn ports(&self) -> impl Iterator<Item = u16> {
        self.wanted.iter().map(|one| one.protocol.port())
    }

    /// Takes a packet; `own` is the identity under which this program sends itself.
    pub(super) fn take(&mut self, bytes: &[u8], from: IpAddr, now: f64, own: [u8; 16], inbox: &Inbox) {
        if self.wanted.is_empty() {
            return;
        }
        match Message::parse(bytes) {
            Ok(Message::Data(data)) if data.source.is_none_or(|(cid, _)| cid != own) => {
                for (input, reception) in self.wanted.iter().zip(&mut self.receptions) {
                    if input.protocol != data.protocol || input.universe != data.universe {
                        continue;
                    }
                    if !input.input.allows(from) {
                        input.counts.refused.fetch_add(1, Ordering::Relaxed);
                        continue;
                    }
                    input.counts.sent_by(from);
                    reception.receive(bytes, from, now);
                    hand_on(input, reception, now, inbox);
                }
            }
            Ok(Message::ArtSync | Message::SacnSync(_)) => {
                for (input, reception) in self.wanted.iter().zip(&mut self.receptions) {
                    if input.input.allows(from) {
                        reception.receive(bytes, from, now);
                        hand_on(input, reception, now, inbox);
                    }
                }
            }
            Ok(Message::Trigger(what)) => self.trigger(what, from, now, inbox),
            Ok(_) | Err(_) => {}
        }
    }

    /// A trigger is an event of every input of Art-Net.
    fn trigger(&self, what: trigger::Repr, from: IpAddr, now: f64, inbox: &Inbox) {
        let (key, number) = match what {
            trigger::Repr::Ascii(number) => (TriggerKey::Ascii, number),
            trigger::Repr::Macro(number) => (TriggerKey::Macro, number),
            trigger::Repr::SoftKey(number) => (TriggerKey::SoftKey, number),
            trigger::Repr::Show(number) => (TriggerKey::Show, number),
        };
        for input in self.wanted.iter().filter(|one| one.protocol == Protocol::ArtNet && one.input.allows(from)) {
            let (source, address) = (input.name.clone(), EventAddress::Trigger(key, number));
            inbox.event(InputEvent { source, address, raw: 1.0, most: 1.0, edge: Edge::Press, at: now });
        }
    }

    /// Lets so many seconds not count in which packets were lost.
    pub(super) fn hold(&mut self, seconds: f64) {
        self.receptions.iter_mut().for_each(|reception| reception.hold(seconds));
    }

    /// Forgets sources that are lost.
    pub(super) fn pass_time(&mut self, now: f64, inbox: &Inbox) {
        for (input, reception) in self.wanted.iter().zip(&mut self.receptions) {
            let before = changed(input, reception);
            reception.pass_time(now);
            if changed(input, reception) != before {
                hand_slots_on(input, reception, now, inbox);
            }
        }
    }
}

fn changed(input: &DmxInput, reception: &Reception) -> Option<f64> {
    reception.universe(input.protocol, input.universe).map(|universe| universe.changed)
}

/// Hands the slots on as they are now; each frame counts as an event.
fn hand_on(input: &DmxInput, reception: &Reception, now: f64, inbox: &Inbox) {
    input.counts.events.fetch_add(1, Ordering::Relaxed);
    hand_slots_on(input, reception, now, inbox);
}

fn hand_slots_on(input: &DmxInput, reception: &Reception, now: f64, inbox: &Inbox) {
    let Some(universe) = reception.universe(input.protocol, input.universe) else { return };
    // What has not changed has been told; the first frame has.
    if universe.changed >= now - 1e-9 || universe.frames == 1 {
        inbox.slots(&input.name, &universe.slots, now);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::inputs::inbox::Arrival;
    use splimo_wire::data_of;

    const DESK: IpAddr = IpAddr::V4(Ipv4Addr::new(10, 0, 0, 1));
    const STRANGER: IpAddr = IpAddr::V4(Ipv4Addr::new(10, 0, 0, 2));

    fn packet(protocol: Protocol, universe: u16, sequence: u8, value: u8) -> Vec<u8> {
        let slots = [value; 512];
        splimo_wire::Data { slots: &slots, ..data_of(protocol, universe, sequence) }.emit()
    }

    #[test]
    fn a_universe_is_handed_on_when_it_changes_and_strangers_have_no_part_in_it() {
        for (kind, protocol) in [(InputKind::ArtNet, Protocol::ArtNet), (InputKind::Sacn, Protocol::Sacn)] {
            let input = Input { from: vec![DESK.into()], on: true, ..Input::new("desk", kind, "7") };
            let counts: Arc<Counts> = Arc::default();
            let one = DmxInput::of(&Arc::new(input), &"desk".into(), &counts).expect("a universe");
            let (mut inputs, inbox) = (DmxInputs::default(), Inbox::default());
            assert!(inputs.adopt(&Arc::new(vec![one.clone()])) && !inputs.adopt(&Arc::new(vec![one])));
            let mut taken = |bytes: &[u8], from, now| -> Vec<u8> {
                inputs.take(bytes, from, now, [9; 16], &inbox);
                let mut all = Vec::new();
                inbox.drain(&mut all);
                all.iter()
                    .filter_map(|one| if let Arrival::Slots(_, slots, _) = one { Some(slots[0]) } else { None })
                    .collect()
            };
            assert_eq!(taken(&packet(protocol, 7, 1, 0), DESK, 1.0), [0], "the first counts, whatever it says");
            assert!(taken(&packet(protocol, 7, 2, 0), DESK, 2.0).is_empty());
            assert_eq!(taken(&packet(protocol, 7, 3, 50), DESK, 3.0), [50]);
            assert!(taken(&packet(protocol, 7, 1, 200), STRANGER, 4.0).is_empty());
            assert!(taken(&packet(protocol, 8, 4, 200), DESK, 5.0).is_empty());
            assert_eq!(counts.events.load(Ordering::Relaxed), 3);
            assert_eq!(counts.refused.load(Ordering::Relaxed), 1);
        }
    }
}
