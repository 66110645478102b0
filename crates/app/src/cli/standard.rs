//! Standard input and output in the place of files: `-`.

use std::io::{IsTerminal, Read, Write};
use std::path::Path;

use splimo_document::file::{self, FileError};
use splimo_runtime::files;
use splimo_show::Show;

use super::{Failure, said};

/// As much of standard input as is read, in bytes.
const MOST: u64 = 256 << 20;

/// True if a path stands for standard input or output.
pub(super) fn is_meant(path: &Path) -> bool {
    path.as_os_str() == "-"
}

/// Reads all of standard input.
///
/// # Errors
/// If it cannot be read, or is longer than 256 MB.
pub(super) fn bytes() -> Result<Vec<u8>, Failure> {
    let mut bytes = Vec::new();
    let stdin = std::io::stdin().lock();
    stdin.take(MOST + 1).read_to_end(&mut bytes).map_err(|why| format!("standard input cannot be read: {why}"))?;
    if bytes.len() as u64 > MOST {
        return Err(format!("standard input is longer than {} MB; name a file", MOST >> 20).into());
    }
    Ok(bytes)
}

/// Reads the text of a show from its file, or from standard input.
pub(super) fn text(path: &Path) -> Result<String, Failure> {
    if !is_meant(path) {
        return Ok(files::read_text(path)?);
    }
    String::from_utf8(bytes()?).map_err(|_| "standard input is not UTF-8 text; a show is a text file".into())
}

/// Opens a show from its file, or from standard input; what is odd about it is told on standard error.
pub(super) fn opened(path: &Path) -> Result<Show, Failure> {
    let name = name(path);
    let opened = if is_meant(path) {
        file::read(&text(path)?).map_err(|why: FileError| format!("{name}: {why}"))?
    } else {
        files::open(path)?
    };
    for warning in &opened.warnings {
        say_aside!("splimo: {name}: warning: {warning}");
    }
    Ok(opened.show)
}

/// The name of a file in messages.
pub(super) fn name(path: &Path) -> String {
    if is_meant(path) { "standard input".to_owned() } else { path.display().to_string() }
}

/// Writes a file, or standard output. A terminal is not written to: it would take what is in a picture for its own signs.
///
/// # Errors
/// If it cannot be written.
pub(super) fn write(path: &Path, bytes: &[u8]) -> Result<(), Failure> {
    if !is_meant(path) {
        return Ok(files::write(path, bytes)?);
    }
    not_a_terminal()?;
    said::raw(bytes);
    Ok(())
}

/// Refuses to write to a terminal.
///
/// # Errors
/// If standard output is one.
pub(super) fn not_a_terminal() -> Result<(), Failure> {
    if std::io::stdout().is_terminal() {
        return Err("standard output is a terminal; send it on with | or >, or name a file".into());
    }
    Ok(())
}

/// Writes to whatever standard output is, from a reader.
///
/// # Errors
/// If the reader fails.
pub(super) fn copy(mut from: impl Read) -> Result<(), Failure> {
    let mut piece = vec![0; 1 << 16];
    loop {
        let count = from.read(&mut piece)?;
        if count == 0 {
            std::io::stdout().flush().ok();
            return Ok(());
        }
        said::raw(&piece[..count]);
    }
}
