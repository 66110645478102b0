//! Troubles: what went wrong while the show runs on, for the screen and the log.

use std::any::Any;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::{Arc, Mutex, PoisonError};

pub use splimo_link::trouble::{PastTrouble, Trouble};

use crate::clock::Instant;

/// The most troubles that are kept; the oldest go.
const MOST: usize = 100;

/// The troubles of the moment, and those that were. Taken only where something changes, never in a frame that goes well.
#[derive(Debug, Clone, Default)]
pub struct Troubles(Arc<Mutex<All>>);

#[derive(Debug, Default)]
struct All {
    now: Vec<Trouble>,
    past: Vec<PastTrouble>,
}

impl Troubles {
    /// Tells of a trouble, and logs it.
    pub fn tell(&self, subject: &str, message: impl Into<String>) {
        let message = message.into();
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        // One that lasts is told again and again, and logged once.
        let new = all.now.iter().all(|t| t.subject != subject);
        if new {
            tracing::warn!(subject, message, "trouble");
        }
        all.remember(subject, &message, new);
        let list = &mut all.now;
        list.retain(|t| t.subject != subject);
        if list.len() == MOST {
            list.remove(0);
        }
        list.push(Trouble { subject: subject.to_owned(), message });
    }

    /// The trouble with a subject is over.
    pub fn over(&self, subject: &str) {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if all.now.iter().any(|t| t.subject == subject) {
            tracing::info!(subject, "trouble is over");
            all.now.retain(|t| t.subject != subject);
            all.past.iter_mut().filter(|t| t.subject == subject).for_each(|t| t.over = true);
        }
    }

    /// The troubles, the oldest first.
    #[must_use]
    pub fn list(&self) -> Vec<Trouble> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).now.clone()
    }

    /// Every trouble since the start, those that are over too: each subject once, in the order in which they came first.
    #[must_use]
    pub fn past(&self) -> Vec<PastTrouble> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).past.clone()
    }
}

impl All {
    fn remember(&mut self, subject: &str, message: &str, new: bool) {
        match self.past.iter_mut().find(|t| t.subject == subject) {
            Some(known) => {
                known.times += u64::from(new);
                (known.over, known.message) = (false, message.to_owned());
            }
            None => {
                if self.past.len() == MOST {
                    let over = self.past.iter().position(|t| t.over).unwrap_or(0);
                    self.past.remove(over);
                }
                let (subject, message) = (subject.to_owned(), message.to_owned());
                self.past.push(PastTrouble { subject, message, times: 1, over: false });
            }
        }
    }
}

/// Runs a thread's work, and again after a panic: `work` returns when it is done. A part that fails over and over is left
/// alone for a moment, so that it cannot take the machine from the others.
pub fn keep_alive(part: &'static str, troubles: &Troubles, mut work: impl FnMut()) {
    loop {
        let started = Instant::now();
        match catch_unwind(AssertUnwindSafe(&mut work)) {
            Ok(()) => return,
            Err(panic) => {
                troubles.tell(part, format!("failed and was started anew: {}", reason(panic.as_ref())));
                if Instant::now().seconds_since(started) < 1.0 {
                    std::thread::sleep(std::time::Duration::from_millis(200));
                }
            }
        }
    }
}

/// The words of a panic.
#[must_use]
pub fn reason(panic: &(dyn Any + Send)) -> String {
    let text = panic.downcast_ref::<String>().cloned();
    text.or_else(|| panic.downcast_ref::<&str>().map(|s| (*s).to_owned())).unwrap_or_else(|| "no reason given".into())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_part_that_panics_is_started_anew_and_told_of() {
        let troubles = Troubles::default();
        let mut runs = 0;
        keep_alive("test part", &troubles, || {
            runs += 1;
            assert!(runs > 1, "the first run fails");
        });
        assert_eq!(runs, 2);
        assert!(troubles.list()[0].message.contains("the first run fails"));
        troubles.over("test part");
        assert!(troubles.list().is_empty());
    }

    #[test]
    fn troubles_are_bounded_and_each_subject_stands_once() {
        let troubles = Troubles::default();
        for i in 0..500 {
            troubles.tell(&format!("route {}", i % 200), format!("{i}"));
        }
        let list = troubles.list();
        assert_eq!((list.len(), list[99].message.as_str()), (100, "499"));
        assert_eq!(troubles.past().len(), 100);
    }

    #[test]
    fn what_is_over_is_remembered() {
        let troubles = Troubles::default();
        for _ in 0..2 {
            troubles.tell("node 10.0.0.7", "silent");
            troubles.tell("node 10.0.0.7", "silent for longer");
            troubles.over("node 10.0.0.7");
        }
        let past = troubles.past();
        assert_eq!((past.len(), past[0].times, past[0].over, past[0].fails_output()), (1, 2, true, false));
        troubles.tell("node 10.0.0.7", "silent");
        assert!(troubles.past()[0].fails_output());
    }
}
