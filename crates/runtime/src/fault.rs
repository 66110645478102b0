//! Faults on purpose, to see that the rest runs on: `SPLIMO_FAULT=engine`, `sender`, `sound` or `screen` makes that part
//! panic once, two seconds after it first ran; `engine@FILE` does so as soon as there is such a file, and `screen!` makes it
//! panic at every try.

use std::path::PathBuf;
use std::sync::OnceLock;
use std::sync::atomic::{AtomicBool, Ordering};

use super::clock::Instant;

static WANTED: OnceLock<Option<Fault>> = OnceLock::new();
static STRUCK: AtomicBool = AtomicBool::new(false);

/// A fault that was asked for.
struct Fault {
    part: String,
    always: bool,
    /// The file that it waits for.
    file: Option<PathBuf>,
    since: Instant,
}

impl Fault {
    fn of(text: &str) -> Self {
        let (text, file) = match text.split_once('@') {
            Some((part, file)) => (part, Some(PathBuf::from(file))),
            None => (text, None),
        };
        let part = text.trim_end_matches('!');
        Self { part: part.to_owned(), always: part != text, file, since: Instant::now() }
    }

    fn is_due(&self) -> bool {
        self.file.as_ref().map_or_else(|| Instant::now().seconds_since(self.since) > 2.0, |file| file.exists())
    }
}

/// Panics if a fault of this part was asked for and is due.
///
/// # Panics
/// That is what it is for.
pub fn strike(part: &str) {
    let wanted = WANTED.get_or_init(|| std::env::var("SPLIMO_FAULT").ok().map(|text| Fault::of(&text)));
    let Some(fault) = wanted.as_ref().filter(|fault| fault.part == part) else { return };
    if fault.is_due() {
        let first = !STRUCK.swap(true, Ordering::Relaxed);
        assert!(!(first || fault.always), "a fault of the {part} was asked for by SPLIMO_FAULT");
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn faults_are_asked_for_in_three_ways() {
        let asked = |text: &str| {
            let fault = Fault::of(text);
            (fault.part.clone(), fault.always, fault.file.clone(), fault.is_due())
        };
        assert_eq!(asked("engine"), ("engine".into(), false, None, false));
        assert_eq!(asked("screen!"), ("screen".into(), true, None, false));
        let file = std::env::current_exe().expect("this test is a file");
        assert_eq!(
            asked(&format!("sound@{}", file.display())),
            ("sound".into(), false, Some(file), true),
            "what it waits for is there"
        );
        assert!(!asked("engine@/no/such/file").3);
    }
}
