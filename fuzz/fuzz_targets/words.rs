//! What is typed: commands, destinations, addresses, rates and colours; and text from outside as it is shown.
#![no_main]

use libfuzzer_sys::fuzz_target;
use splimo_document::Command;
use splimo_show::event::EventAddress;
use splimo_base::outside::{is_hidden, shown};
use splimo_time::rate::Rate;
use splimo_show::{Address, AddressBlock, Destinations};

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
