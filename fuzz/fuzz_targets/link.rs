//! The link between a session and its screens, both ways.
#![no_main]

use libfuzzer_sys::fuzz_target;
use splimo_link::frame::read;
use splimo_link::message::{Request, Update};

fuzz_target!(|data: &[u8]| {
    let _ = read::<Request>(&mut &data[..], 1 << 20);
    let _ = read::<Update>(&mut &data[..], 1 << 20);
});
