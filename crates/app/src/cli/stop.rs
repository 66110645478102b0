//! Signals that ask the program to end.

use std::io;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use signal_hook::consts::{SIGHUP, SIGINT, SIGTERM};
use signal_hook::flag;

/// Set once a signal has come that ends the program.
#[derive(Debug, Clone)]
pub(super) struct StopSignal(Arc<AtomicBool>);

impl StopSignal {
    /// Begins to wait for SIGINT, SIGTERM and SIGHUP; one of them that was ignored when the program began, as by `nohup`, stays
    /// so. The second signal ends the process at once, should it hang.
    ///
    /// # Errors
    /// If the system does not allow it.
    pub(super) fn register() -> io::Result<Self> {
        Self::of(&[SIGINT, SIGTERM, SIGHUP])
    }

    /// The same for a session that has a process of its own: no terminal that goes away is to end it.
    ///
    /// # Errors
    /// If the system does not allow it.
    pub(super) fn register_detached() -> io::Result<Self> {
        // A signal that something waits for does not end the process.
        flag::register(SIGHUP, Arc::default())?;
        Self::of(&[SIGINT, SIGTERM])
    }

    fn of(signals: &[i32]) -> io::Result<Self> {
        let stop = Arc::new(AtomicBool::new(false));
        for &signal in signals.iter().filter(|signal| !is_ignored(**signal)) {
            flag::register_conditional_shutdown(signal, 1, stop.clone())?;
            flag::register(signal, stop.clone())?;
        }
        Ok(Self(stop))
    }

    /// True if one has come.
    #[must_use]
    pub(super) fn came(&self) -> bool {
        self.0.load(Ordering::Relaxed)
    }
}

/// True if this process ignores a signal (proc(5): `SigIgn`, a mask in which signal 1 is the lowest bit).
fn is_ignored(signal: i32) -> bool {
    let status = std::fs::read_to_string("/proc/self/status").unwrap_or_default();
    let mask = status.lines().find_map(|line| line.strip_prefix("SigIgn:"));
    let mask = mask.and_then(|mask| u64::from_str_radix(mask.trim(), 16).ok()).unwrap_or(0);
    signal == SIGHUP && mask & (1 << (signal - 1)) != 0
}
