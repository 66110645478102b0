//! Tables: patch, points and cue sheets as CSV.
#![no_main]

use libfuzzer_sys::fuzz_target;
use splimo_document::making::read_sheet;
use splimo_document::patch::csv;
use splimo_show::Show;

fuzz_target!(|data: &[u8]| {
    let show = Show::empty("Fuzz");
    let _ = csv::read(data, &show);
    let _ = csv::read_points(data);
    let _ = read_sheet(data, &show);
});
