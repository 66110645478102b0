//! Faults on purpose, to see that the rest runs on: `SPLIMO_FAULT=engine`, `sender`, `sound` or `screen` makes that part
//! panic once, two seconds after it first ran; `screen!` makes it panic at every try.

use std::sync::OnceLock;
use std::sync::atomic::{AtomicBool, Ordering};

use super::clock::Instant;

static WANTED: OnceLock<Option<(String, Instant)>> = OnceLock::new();
static STRUCK: AtomicBool = AtomicBool::new(false);

/// Panics if a fault of this part was asked for and is due.
///
/// # Panics
/// That is what it is for.
pub fn strike(part: &str) {
    let wanted = WANTED.get_or_init(|| std::env::var("SPLIMO_FAULT").ok().map(|part| (part, Instant::now())));
    let Some((wanted, since)) = wanted else { return };
    let always = wanted.strip_suffix('!') == Some(part);
    if (wanted == part || always) && Instant::now().seconds_since(*since) > 2.0 {
        let first = !STRUCK.swap(true, Ordering::Relaxed);
        assert!(!(first || always), "a fault of the {part} was asked for by SPLIMO_FAULT");
    }
}
