//! What is typed: commands, destinations, addresses, rates and colours; and text from outside as it is shown.
#![no_main]

use libfuzzer_sys::fuzz_target;
use splimo_core::command::Command;
use splimo_core::input::EventAddress;
use splimo_core::outside::{is_hidden, shown};
use splimo_core::rate::Rate;
use splimo_core::show::{Address, AddressBlock, Destinations};

fuzz_target!(|data: &[u8]| {
    let Ok(text) = std::str::from_utf8(data) else { return };
    let _ = text.parse::<Command>();
    let _ = text.parse::<Destinations>();
    let _ = text.parse::<AddressBlock>();
    let _ = text.parse::<Address>();
    let _ = text.parse::<EventAddress>();
    let _ = text.parse::<Rate>();
    assert!(!shown(text).chars().any(is_hidden));
});
