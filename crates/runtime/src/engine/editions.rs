//! The show while it is edited: a thread compiles each edition beside the engine, gives it over, and checks it.

use std::cell::RefCell;
use std::collections::VecDeque;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use crossbeam_channel::{Receiver, Sender, select};
use splimo_document::check::check;
use splimo_engine::{Maps, Prepared};
use splimo_light::rig::Rig;
use splimo_show::{Parts, Problem, Show};

use super::frames::{AdoptedShow, EngineInput};
use crate::media::Library;
use crate::network::Exchange;
use crate::output::PortStatus;
use crate::output::{NewOutput, Outlets};
use crate::trouble::{Troubles, keep_alive};

/// Editions that are remembered: more than can be on their way at once.
const REMEMBERED: usize = 16;
/// The number of times that the serial ports are looked at.
const PORTS: std::time::Duration = std::time::Duration::from_millis(300);
/// The parts of a show of which the streams that leave are made, and what the network is to believe.
const OUTPUT: Parts = Parts::HANGING.and(Parts::OUTPUT_SETTINGS);
/// The edition that ends the thread.
const END: u64 = u64::MAX;

/// A show and its rig.
#[derive(Debug, Clone)]
pub struct Edition {
    /// Its number, ascending.
    pub number: u64,
    /// The show.
    pub show: Arc<Show>,
    /// Its rig.
    pub rig: Arc<Rig>,
}

/// The editions that snapshots may be of.
#[derive(Debug)]
pub struct Editions {
    known: Mutex<Known>,
}

#[derive(Debug)]
struct Known {
    editions: VecDeque<Edition>,
    universes: usize,
    problems: Arc<Vec<Problem>>,
    ports: Vec<PortStatus>,
}

impl Editions {
    /// The first edition.
    #[must_use]
    pub fn new(show: Arc<Show>, rig: Arc<Rig>, universes: usize) -> Self {
        let editions = VecDeque::from([Edition { number: 0, show, rig }]);
        Self { known: Mutex::new(Known { editions, universes, problems: Arc::default(), ports: Vec::new() }) }
    }

    fn known(&self) -> MutexGuard<'_, Known> {
        self.known.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// The edition of a snapshot.
    #[must_use]
    pub fn get(&self, number: u64) -> Edition {
        let known = self.known();
        let found = known.editions.iter().rev().find(|e| e.number <= number);
        found.unwrap_or(&known.editions[0]).clone()
    }

    /// The newest that is compiled.
    #[must_use]
    pub fn newest(&self) -> Edition {
        self.get(u64::MAX)
    }

    /// The problems of the newest edition that was looked at.
    #[must_use]
    pub fn problems(&self) -> Arc<Vec<Problem>> {
        self.known().problems.clone()
    }

    /// The way the serial ports are.
    #[must_use]
    pub fn ports(&self) -> Vec<PortStatus> {
        self.known().ports.clone()
    }

    /// The number of universes of the newest that have a route.
    #[must_use]
    pub fn universes(&self) -> usize {
        self.known().universes
    }

    fn add(&self, edition: Edition, universes: Option<usize>) {
        let mut known = self.known();
        if known.editions.len() == REMEMBERED {
            known.editions.pop_front();
        }
        known.editions.push_back(edition);
        known.universes = universes.unwrap_or(known.universes);
    }
}

/// Everything that the thread has in its hands.
pub struct Compiler {
    /// Shows as they are edited.
    pub shows: Receiver<(u64, Arc<Show>)>,
    /// Editions that the engine does not need any more.
    pub retired: Receiver<Box<Prepared>>,
    /// The engine.
    pub engine: Sender<EngineInput>,
    /// The place where editions are told.
    pub editions: Arc<Editions>,
    /// The sockets and ports in use.
    pub outlets: RefCell<Outlets>,
    /// The media that shows take from files.
    pub library: RefCell<Library>,
    /// The maps that were compiled for looks on the present rig.
    pub maps: RefCell<Maps>,
    /// The network.
    pub exchange: Arc<Exchange>,
    /// Told when the network is another than it was.
    pub refresh: Receiver<()>,
    /// The troubles, where failures are told.
    pub troubles: Troubles,
}

impl Compiler {
    /// Compiles until the end is asked for.
    pub fn run(self) {
        keep_alive("rig", &self.troubles, || self.work());
    }

    fn work(&self) {
        self.look_for_problems();
        loop {
            let asked = select! {
                recv(self.shows) -> asked => asked,
                recv(self.retired) -> retired => { drop(retired); continue }
                recv(self.refresh) -> asked => {
                    if asked.is_ok() {
                        self.lay_out_anew();
                    }
                    continue
                }
                default(PORTS) => {
                    self.tell_of_ports();
                    continue
                }
            };
            // Only the last of those that came meanwhile counts.
            let Some((number, show)) = asked.ok().map(|first| self.shows.try_iter().last().unwrap_or(first)) else {
                return;
            };
            if number == END {
                return;
            }
            self.compile(number, show);
            if self.shows.is_empty() {
                self.look_for_problems();
            }
        }
    }

    pub(super) fn compile(&self, number: u64, show: Arc<Show>) {
        let before = self.editions.newest();
        let changed = Parts::changed(&before.show, &show);
        let (rig, universes, command) = if changed.only(Parts::SETTINGS) && !changed.touch(OUTPUT) {
            (before.rig, None, EngineInput::Settings(show.clone(), number))
        } else {
            let media = self.library.borrow_mut().media(&show);
            let rig = if changed.touch(Parts::HANGING) {
                *self.maps.borrow_mut() = Maps::default();
                Arc::new(Rig { media, ..Rig::compile(&show) })
            } else if before.rig.media == media {
                before.rig
            } else {
                Arc::new(Rig { media, ..Rig::clone(&before.rig) })
            };
            let output = changed.touch(OUTPUT).then(|| Box::new(self.output(&show, &rig)));
            let maps = &mut self.maps.borrow_mut();
            let prepared = Box::new(Prepared::with_maps(show.clone(), rig.clone(), number, maps));
            let universes = output.as_ref().map(|output| output.universes());
            let change = AdoptedShow { show: show.clone(), rig: rig.clone(), edition: number, prepared, output };
            (rig, universes, EngineInput::Adopt(Box::new(change)))
        };
        self.editions.add(Edition { number, show, rig }, universes);
        // The engine takes commands every frame; one that does not is told of by whoever asks it next.
        let _ = self.engine.send_timeout(command, std::time::Duration::from_secs(2));
    }

    /// The streams of a show on the network as it is.
    fn output(&self, show: &Show, rig: &Rig) -> NewOutput {
        let (output, outgoing) = self.outlets.borrow_mut().ready(show, rig, &self.exchange.network());
        self.exchange.set_outgoing(outgoing);
        output
    }

    /// Goes over to other streams of the same show, as the network has changed.
    fn lay_out_anew(&self) {
        let newest = self.editions.newest();
        let output = Box::new(self.output(&newest.show, &newest.rig));
        self.editions.known().universes = output.universes();
        let _ = self.engine.send_timeout(EngineInput::Output(output), std::time::Duration::from_secs(2));
    }

    fn tell_of_ports(&self) {
        let ports = self.outlets.borrow().port_status();
        self.editions.known().ports = ports;
    }

    fn look_for_problems(&self) {
        let problems = Arc::new(check(&self.editions.newest().show));
        self.editions.known().problems = problems;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_snapshot_finds_its_edition() {
        let show = Arc::new(Show::empty("First"));
        let editions = Editions::new(show.clone(), Arc::default(), 0);
        for number in [2, 5] {
            let show = Arc::new(Show::empty(&format!("Edition {number}")));
            editions.add(Edition { number, show, rig: Arc::default() }, Some(number as usize));
        }
        let name = |number| editions.get(number).show.name.clone();
        assert_eq!((name(0), name(2), name(5)), ("First".into(), "Edition 2".into(), "Edition 5".into()));
        assert_eq!((editions.newest().number, editions.universes()), (5, 5));
        for number in 6..60 {
            editions.add(Edition { number, show: show.clone(), rig: Arc::default() }, None);
        }
        assert_eq!(editions.known().editions.len(), REMEMBERED);
        assert_eq!(editions.get(1).number, 44, "the oldest that is left");
    }
}
