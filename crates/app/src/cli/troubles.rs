//! Troubles of a show without a screen: each is told as it comes and as it goes, and counts in the exit code.

use std::process::ExitCode;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::{Builder, JoinHandle};
use std::time::Duration;

use splimo_link::trouble::{PastTrouble, Trouble};
use splimo_runtime::trouble::Troubles;

/// The number of times that it is looked for others.
const PAUSE: Duration = Duration::from_millis(100);
/// The exit code of a show that ran, and of whose output something failed.
const OUTPUT_FAILED: u8 = 3;

/// Tells of troubles on standard error until it is dropped.
pub(super) struct Teller {
    over: Arc<AtomicBool>,
    thread: Option<JoinHandle<()>>,
}

impl Teller {
    /// Begins to tell.
    ///
    /// # Errors
    /// If the system gives no thread.
    pub(super) fn start(troubles: Troubles) -> std::io::Result<Self> {
        let over = Arc::new(AtomicBool::new(false));
        let stop = over.clone();
        let work = move || {
            let mut known: Vec<String> = Vec::new();
            loop {
                let last = stop.load(Ordering::Relaxed);
                for line in changes(&mut known, &troubles.list()) {
                    say_aside!("splimo: {line}");
                }
                if last {
                    return;
                }
                std::thread::sleep(PAUSE);
            }
        };
        let thread = Builder::new().name("troubles".into()).spawn(work)?;
        Ok(Self { over, thread: Some(thread) })
    }
}

impl Drop for Teller {
    fn drop(&mut self) {
        self.over.store(true, Ordering::Relaxed);
        if let Some(thread) = self.thread.take() {
            let _ = thread.join();
        }
    }
}

/// The lines that tell how troubles have changed: those that came, each once, and those that are over.
fn changes(known: &mut Vec<String>, now: &[Trouble]) -> Vec<String> {
    let gone = known.iter().filter(|subject| now.iter().all(|trouble| trouble.subject != **subject));
    let mut lines: Vec<String> = gone.map(|subject| format!("over: {subject}")).collect();
    let come = now.iter().filter(|trouble| !known.contains(&trouble.subject));
    lines.extend(come.map(|trouble| format!("trouble: {}: {}", trouble.subject, trouble.message)));
    *known = now.iter().map(|trouble| trouble.subject.clone()).collect();
    lines
}

/// The exit code of a show that ran with some troubles.
pub(super) fn exit_code(troubles: &[PastTrouble]) -> ExitCode {
    if troubles.iter().any(PastTrouble::fails_output) { ExitCode::from(OUTPUT_FAILED) } else { ExitCode::SUCCESS }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_trouble_is_told_once_as_it_comes_and_as_it_goes() {
        let trouble = |subject: &str, message: &str| Trouble { subject: subject.into(), message: message.into() };
        let mut known = Vec::new();
        assert_eq!(changes(&mut known, &[trouble("node 10.0.0.7", "silent")]), ["trouble: node 10.0.0.7: silent"]);
        assert!(changes(&mut known, &[trouble("node 10.0.0.7", "silent for longer")]).is_empty());
        assert_eq!(changes(&mut known, &[trouble("flood", "much")]), ["over: node 10.0.0.7", "trouble: flood: much"]);
        assert_eq!(changes(&mut known, &[]), ["over: flood"]);
    }
}
