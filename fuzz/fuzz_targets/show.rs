//! Shows: read, checked, read again from what they are written as, and what can be saved of one that is broken.
#![no_main]

use libfuzzer_sys::fuzz_target;
use splimo_document::check::check;
use splimo_document::file;
use splimo_document::salvage;
use splimo_show::write_over;

fuzz_target!(|data: &[u8]| {
    let Ok(text) = std::str::from_utf8(data) else { return };
    let _ = salvage(text);
    let Ok(opened) = file::read(text) else { return };
    let problems = check(&opened.show);
    let _ = file::lines_of(text, &problems);
    if let Ok(written) = write_over(text, &opened.show) {
        let again = file::read(&written).expect("what was written can be read");
        assert_eq!(again.show.fixtures, opened.show.fixtures);
    }
});
