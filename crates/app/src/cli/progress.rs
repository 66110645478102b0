//! Long work on a terminal: how far it is, the time that is left, and its end by Ctrl-C. Where standard error is no terminal, nothing
//! is shown.

use std::time::{Duration, Instant};

use indicatif::{ProgressBar, ProgressStyle};

use super::Failure;
use super::stop::StopSignal;

/// Steps into which a piece of work is divided.
const STEPS: u64 = 1000;

/// A piece of long work.
pub(super) struct Progress {
    bar: ProgressBar,
    stop: StopSignal,
    began: Instant,
}

impl Progress {
    /// Begins a piece of work, which is told by a word.
    ///
    /// # Errors
    /// If the system does not let the program wait for Ctrl-C.
    pub(super) fn begin(what: &str) -> Result<Self, Failure> {
        let stop = StopSignal::register()?;
        let bar = ProgressBar::new(STEPS).with_message(what.to_owned());
        // ASCII, which every terminal has.
        let style = ProgressStyle::with_template("{msg} [{bar:32}] {percent:>3} %  {eta} left  (Ctrl-C stops)")?;
        bar.set_style(style.progress_chars("=> "));
        bar.enable_steady_tick(Duration::from_millis(250));
        Ok(Self { bar, stop, began: Instant::now() })
    }

    /// Tells how far the work is, 0 to 1.
    ///
    /// # Errors
    /// If the person stopped it.
    pub(super) fn at(&self, share: f64) -> Result<(), Failure> {
        self.bar.set_position((share.clamp(0.0, 1.0) * STEPS as f64) as u64);
        if self.stop.came() {
            return Err("stopped; nothing was written".into());
        }
        Ok(())
    }

    /// Ends it, and tells how long it took, in seconds.
    pub(super) fn end(self) -> f64 {
        self.bar.finish_and_clear();
        self.began.elapsed().as_secs_f64()
    }
}

impl Drop for Progress {
    fn drop(&mut self) {
        self.bar.finish_and_clear();
    }
}
