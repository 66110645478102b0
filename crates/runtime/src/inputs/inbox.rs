//! The inbox: what has come in and waits for the session. It holds a bounded amount; in a flood only the latest of a value that moves
//! waits, and a release is never left out whose press was taken.

use std::collections::{HashMap, VecDeque};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use crossbeam_channel::{Receiver, Sender, bounded};
use splimo_base::Seconds;
use splimo_document::Command;
use splimo_show::CommandTemplate;
use splimo_show::event::{Edge, InputEvent};

/// Arrivals that wait at the most, besides releases.
pub const MOST: usize = 2048;
/// From so many arrivals on it is a flood. Before, every value counts: each of an encoder is a step.
const FLOOD: usize = 512;
/// Arrivals that are looked through for an older value of the same address.
const LOOKED_AT: usize = 64;

/// Somebody who waits for a reading of what a command moves.
pub type Reply = Box<dyn FnOnce(Option<f32>) + Send>;

/// Something that came in.
pub enum Arrival {
    /// An event, which bindings look at.
    Event(InputEvent),
    /// A command in words of its own, from an input.
    Ask(Arc<str>, Box<Command>, Seconds),
    /// A question where that is which a command moves.
    Query(CommandTemplate, Reply),
    /// The slots of a universe that comes in.
    Slots(Arc<str>, Box<[u8; 512]>, Seconds),
}

/// The state of an inbox.
#[derive(Default)]
struct Waiting {
    all: VecDeque<Arrival>,
    /// The slots of each universe, of which the latest count.
    slots: HashMap<Arc<str>, (Box<[u8; 512]>, Seconds)>,
    left_out: HashMap<Arc<str>, u64>,
}

/// The inbox.
pub struct Inbox {
    waiting: Mutex<Waiting>,
    wake: (Sender<()>, Receiver<()>),
}

impl Default for Inbox {
    fn default() -> Self {
        Self { waiting: Mutex::default(), wake: bounded(1) }
    }
}

impl Inbox {
    fn waiting(&self) -> MutexGuard<'_, Waiting> {
        self.waiting.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// The way by which one learns that something has come in.
    #[must_use]
    pub fn wake(&self) -> &Receiver<()> {
        &self.wake.1
    }

    /// Puts an event in.
    pub fn event(&self, event: InputEvent) {
        self.waiting().event(event);
        let _ = self.wake.0.try_send(());
    }

    /// Puts in what an input asks for in words of its own.
    pub fn ask(&self, source: &Arc<str>, command: Command, at: Seconds) {
        let arrival = Arrival::Ask(source.clone(), Box::new(command), at);
        self.waiting().put(source, arrival);
        let _ = self.wake.0.try_send(());
    }

    /// Puts a question in.
    pub fn query(&self, source: &Arc<str>, command: CommandTemplate, reply: Reply) {
        self.waiting().put(source, Arrival::Query(command, reply));
        let _ = self.wake.0.try_send(());
    }

    /// Puts the slots of a universe in; those that waited are forgotten.
    pub fn slots(&self, source: &Arc<str>, slots: &[u8; 512], at: Seconds) {
        let mut waiting = self.waiting();
        match waiting.slots.get_mut(source) {
            Some(latest) => (*latest.0, latest.1) = (*slots, at),
            None => drop(waiting.slots.insert(source.clone(), (Box::new(*slots), at))),
        }
        drop(waiting);
        let _ = self.wake.0.try_send(());
    }

    /// Takes note of something of an input that was not taken.
    pub fn leave_out(&self, source: &Arc<str>) {
        self.waiting().leave_out(source);
    }

    /// Takes everything out, in the order in which it came.
    pub fn drain(&self, all: &mut Vec<Arrival>) {
        let mut waiting = self.waiting();
        all.extend(waiting.all.drain(..));
        all.extend(waiting.slots.drain().map(|(source, (slots, at))| Arrival::Slots(source, slots, at)));
    }

    /// The arrivals of each input that were left out, since it was last asked.
    #[must_use]
    pub fn left_out(&self) -> HashMap<Arc<str>, u64> {
        std::mem::take(&mut self.waiting().left_out)
    }
}

impl Waiting {
    fn event(&mut self, event: InputEvent) {
        if event.edge == Edge::Value && self.all.len() >= FLOOD && self.replaces(&event) {
            return;
        }
        let source = event.source.clone();
        match event.edge {
            Edge::Press | Edge::Value => self.put(&source, Arrival::Event(event)),
            Edge::Release => self.release(event),
        }
    }

    fn put(&mut self, source: &Arc<str>, arrival: Arrival) {
        if self.all.len() < MOST {
            self.all.push_back(arrival);
        } else {
            self.leave_out(source);
        }
    }

    /// A release goes in wherever there is room for twice as much: there are no more of them than presses that were taken, or somebody
    /// sends releases of nothing.
    fn release(&mut self, event: InputEvent) {
        if self.all.len() < 2 * MOST {
            self.all.push_back(Arrival::Event(event));
            return;
        }
        // The press that it belongs to has been taken already, or waits: the last value of what waits there is enough.
        let same = |one: &Arrival| matches!(one, Arrival::Event(e) if e.edge == Edge::Value);
        if let Some(place) = self.all.iter().position(same) {
            self.all.remove(place);
            self.all.push_back(Arrival::Event(event));
        } else {
            self.leave_out(&event.source.clone());
        }
    }

    fn leave_out(&mut self, source: &Arc<str>) {
        match self.left_out.get_mut(source) {
            Some(count) => *count += 1,
            None => drop(self.left_out.insert(source.clone(), 1)),
        }
    }

    /// Puts a value in the place of an older one that waits, unless something else of its address came between.
    fn replaces(&mut self, event: &InputEvent) -> bool {
        let recent = self.all.iter_mut().rev().take(LOOKED_AT);
        for arrival in recent {
            let Arrival::Event(older) = arrival else { continue };
            if older.address != event.address || older.source != event.source {
                continue;
            }
            // The edge between the lower and the upper half is a press to some: those that cross it all count.
            let same_half = (older.value() >= 0.5) == (event.value() >= 0.5);
            if older.edge == Edge::Value && same_half && event.most > 1.0 {
                (older.raw, older.at) = (event.raw, event.at);
                return true;
            }
            return false;
        }
        false
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::event::EventAddress;

    fn event(address: &str, raw: f32, edge: Edge) -> InputEvent {
        let address: EventAddress = address.parse().expect("an event");
        InputEvent { source: "box".into(), most: address.most(), address, raw, edge, at: 0.0 }
    }

    fn drained(inbox: &Inbox) -> Vec<(String, f32)> {
        let mut all = Vec::new();
        inbox.drain(&mut all);
        let events = all.into_iter().filter_map(|one| if let Arrival::Event(e) = one { Some(e) } else { None });
        events.map(|event| (format!("{:?} {}", event.edge, event.address), event.raw)).collect()
    }

    #[test]
    fn in_a_flood_the_latest_of_a_value_waits_and_no_press_or_release_is_lost_between() {
        let inbox = Inbox::default();
        (0..FLOOD).for_each(|n| inbox.event(event("control 9", (n % 100) as f32, Edge::Value)));
        for raw in 10..60 {
            inbox.event(event("control 7", raw as f32, Edge::Value));
        }
        inbox.event(event("note 1", 90.0, Edge::Press));
        inbox.event(event("note 1", 0.0, Edge::Release));
        inbox.event(event("control 7", 61.0, Edge::Value));
        inbox.event(event("control 7", 127.0, Edge::Value));
        inbox.event(event("control 7", 0.0, Edge::Value));
        let wanted = [
            ("Value control 7", 61.0),
            ("Press note 1", 90.0),
            ("Release note 1", 0.0),
            ("Value control 7", 127.0),
            ("Value control 7", 0.0),
        ];
        let all = drained(&inbox);
        assert!(all[..FLOOD].iter().all(|(what, _)| what == "Value control 9"), "before, each counts");
        assert_eq!(all[FLOOD..], wanted.map(|(what, raw)| (what.to_owned(), raw)));
    }

    #[test]
    fn a_flood_is_bounded_and_releases_get_through() {
        let inbox = Inbox::default();
        inbox.event(event("note 1", 90.0, Edge::Press));
        for n in 0..100_000u32 {
            inbox.event(event(&format!("note {}", n % 128), 90.0, Edge::Press));
        }
        inbox.event(event("note 1", 0.0, Edge::Release));
        let all = drained(&inbox);
        assert_eq!(all.len(), MOST + 1);
        assert_eq!(all.last().map(|(what, _)| what.as_str()), Some("Release note 1"));
        assert_eq!(inbox.left_out().get("box"), Some(&(100_001 - MOST as u64)));
        for n in 0..100_000u32 {
            inbox.event(event(&format!("note {}", n % 128), 0.0, Edge::Release));
        }
        assert!(drained(&inbox).len() <= 2 * MOST, "nobody fills the memory with releases of nothing");
    }

    #[test]
    fn of_a_universe_the_latest_slots_wait() {
        let inbox = Inbox::default();
        let source: Arc<str> = "desk".into();
        for value in 0..200 {
            inbox.slots(&source, &[value; 512], 1.0);
        }
        let mut all = Vec::new();
        inbox.drain(&mut all);
        assert!(matches!(all.as_slice(), [Arrival::Slots(_, slots, _)] if slots[0] == 199));
    }
}
