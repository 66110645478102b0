//! Signals that ask the program to end.

use std::io;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use signal_hook::consts::{SIGHUP, SIGINT, SIGTERM};
use signal_hook::flag;

/// Set once SIGINT, SIGTERM or SIGHUP has come.
#[derive(Debug, Clone)]
pub(super) struct StopSignal(Arc<AtomicBool>);

impl StopSignal {
    /// Begins to wait for the signals. The second one ends the process at once, should it hang.
    ///
    /// # Errors
    /// Where the system does not allow it.
    pub(super) fn register() -> io::Result<Self> {
        let stop = Arc::new(AtomicBool::new(false));
        for signal in [SIGINT, SIGTERM, SIGHUP] {
            flag::register_conditional_shutdown(signal, 1, stop.clone())?;
            flag::register(signal, stop.clone())?;
        }
        Ok(Self(stop))
    }

    /// Whether one has come.
    #[must_use]
    pub(super) fn came(&self) -> bool {
        self.0.load(Ordering::Relaxed)
    }
}
