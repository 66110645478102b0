//! Troubles: what went wrong while the show runs on, for the screen and the log.

use std::any::Any;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::{Arc, Mutex, PoisonError};

pub use splimo_link::trouble::Trouble;

use crate::clock::Instant;

/// The most troubles that are kept; the oldest go.
const MOST: usize = 100;

/// The troubles of the moment. Taken only where something changes, never in a frame that goes well.
#[derive(Debug, Clone, Default)]
pub struct Troubles(Arc<Mutex<Vec<Trouble>>>);

impl Troubles {
    /// Tells of a trouble, and logs it.
    pub fn tell(&self, subject: &str, message: impl Into<String>) {
        let message = message.into();
        let mut list = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        // One that lasts is told again and again, and logged once.
        if list.iter().all(|t| t.subject != subject) {
            tracing::warn!(subject, message, "trouble");
        }
        list.retain(|t| t.subject != subject);
        if list.len() == MOST {
            list.remove(0);
        }
        list.push(Trouble { subject: subject.to_owned(), message });
    }

    /// The trouble with a subject is over.
    pub fn over(&self, subject: &str) {
        let mut list = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if list.iter().any(|t| t.subject == subject) {
            tracing::info!(subject, "trouble is over");
            list.retain(|t| t.subject != subject);
        }
    }

    /// The troubles, the oldest first.
    #[must_use]
    pub fn list(&self) -> Vec<Trouble> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).clone()
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
    }
}
