//! Commands, one a line, out of a pipe or standard input: `fire-pad 3`, as `splimo do` takes them.

use std::io;
use std::path::{Path, PathBuf};

use splimo_document::Command;
use splimo_show::InputKind;

use super::{Follower, InputSource, spawn};
use crate::stream::{Stream, There};

/// The time that a stream that cannot be read is left alone, in seconds.
const RETRY: f64 = 1.0;
/// And one into which nobody writes.
const IDLE: f64 = 0.05;
/// The longest line, in bytes.
const LONGEST: usize = 1024;

/// Commands, one a line.
pub(super) const SOURCE: InputSource = InputSource {
    kind: InputKind::Lines,
    name: "lines",
    takes: "PATH",
    help: "Where commands come from, one a line as \"splimo do\" takes them: a pipe, or \"-\" for standard input",
    check: |_| Ok(()),
    start: |follower, text| {
        let path = PathBuf::from(text);
        spawn("lines", follower, move |follower| follow(follower, &path))
    },
};

fn follow(follower: &Follower, path: &Path) {
    let path = (path != Path::new("-")).then_some(path);
    let name = path.map_or("standard input".to_owned(), |path| path.display().to_string());
    while !follower.stopped() {
        if let Err(error) = Stream::open(path).and_then(|stream| listen(follower, &stream)) {
            follower.failed(format!("cannot read commands from {name}: {error}; it is tried again every second"));
            follower.wait(RETRY);
        } else if path.is_none() {
            return;
        } else {
            follower.wait(IDLE);
        }
    }
}

fn listen(follower: &Follower, stream: &Stream) -> io::Result<()> {
    let (mut bytes, mut line, mut too_long) = ([0; 512], Vec::with_capacity(LONGEST), false);
    while !follower.stopped() {
        let count = match stream.read(&mut bytes)? {
            There::Bytes(count) => count,
            There::Nothing => continue,
            There::End => return Ok(()),
        };
        for byte in &bytes[..count] {
            match byte {
                b'\n' if std::mem::take(&mut too_long) => line.clear(),
                b'\n' => {
                    take(follower, &String::from_utf8_lossy(&line));
                    line.clear();
                }
                _ if line.len() < LONGEST => line.push(*byte),
                _ => too_long = true,
            }
        }
    }
    Ok(())
}

fn take(follower: &Follower, line: &str) {
    let line = line.trim();
    if line.is_empty() || line.starts_with('#') {
        return;
    }
    match line.parse::<Command>() {
        Ok(command) => {
            follower.well();
            follower.ask(command, follower.now());
        }
        Err(why) => follower.malformed(format!("\"{}\": {why}", line.escape_debug())),
    }
}
