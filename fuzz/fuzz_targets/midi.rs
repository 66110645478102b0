//! MIDI as a stream of bytes.
#![no_main]

use libfuzzer_sys::fuzz_target;
use splimo_wire::midi::Reader;

fuzz_target!(|data: &[u8]| {
    let mut reader = Reader::default();
    for byte in data {
        let _ = reader.byte(*byte);
    }
});
