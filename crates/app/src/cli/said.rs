//! Lines to standard output and standard error. Where nobody reads them any more, or the disk is full that they go to, a show plays on:
//! the macros of the standard library would panic.

use std::fmt::Arguments;
use std::io::Write;

use splimo_base::outside::Outside;

/// Writes bytes to standard output as they are. Where that cannot be, the program ends, as [`output`] does.
pub(super) fn raw(bytes: &[u8]) {
    if let Err(why) = std::io::stdout().lock().write_all(bytes) {
        end(&why);
    }
}

/// Writes a line to standard output; what it has from outside can do nothing but be read. Where that cannot be, the program ends: well where whoever read it has gone, as `head` does.
pub(super) fn output(words: Arguments<'_>) {
    let words = words.to_string();
    let Err(why) = writeln!(std::io::stdout().lock(), "{}", Outside(&words).page()) else { return };
    end(&why);
}

/// Ends the program, as standard output cannot be written.
fn end(why: &std::io::Error) -> ! {
    if why.kind() == std::io::ErrorKind::BrokenPipe {
        std::process::exit(0);
    }
    error(format_args!("splimo: standard output cannot be written: {why}"));
    std::process::exit(1);
}

/// Writes a line to standard error.
pub(super) fn error(words: Arguments<'_>) {
    let words = words.to_string();
    let _ = writeln!(std::io::stderr().lock(), "{}", Outside(&words).page());
}

/// Writes a line to standard output.
macro_rules! say {
    ($($words:tt)*) => { $crate::cli::said::output(format_args!($($words)*)) };
}

/// Writes a line to standard error.
macro_rules! say_aside {
    ($($words:tt)*) => { $crate::cli::said::error(format_args!($($words)*)) };
}
