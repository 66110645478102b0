//! OSC in packets, and framed in a stream.
#![no_main]

use libfuzzer_sys::fuzz_target;
use splimo_wire::osc::{Framing, messages};

fuzz_target!(|data: &[u8]| {
    if let Ok(all) = messages(data) {
        for message in all {
            let _ = message.tempo();
        }
    }
    let mut framing = Framing::default();
    for byte in data {
        let _ = framing.byte(*byte);
    }
});
