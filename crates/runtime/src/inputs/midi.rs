//! MIDI of a port of this machine, a raw device, a pipe, standard input, or a Standard MIDI File: its clock and time code lead, and
//! all else are events.

use std::io;
use std::path::{Path, PathBuf};

use splimo_show::InputKind;

use super::midi_ear::Ear;
use super::{Follower, InputSource, midi_file, midi_port, spawn};
use crate::stream::{Stream, There};

/// The time that a stream that cannot be read is left alone, in seconds.
const RETRY: f64 = 1.0;
/// And one into which nobody writes.
const IDLE: f64 = 0.05;

/// MIDI.
pub(super) const SOURCE: InputSource = InputSource {
    kind: InputKind::Midi,
    name: "midi",
    takes: "PORT|PATH",
    help: "Where MIDI comes from: the name of a port, a raw device, a pipe, a .mid file, or \"-\" for standard input",
    check: |_| Ok(()),
    start: |follower, text| {
        let place = Place::of(text);
        spawn("midi", follower, move |follower| match &place {
            Place::StandardInput => follow(follower, None),
            Place::Path(path) => follow(follower, Some(path)),
            Place::File(path) => midi_file::play(follower, path),
            Place::Port(name) => midi_port::follow(follower, name),
        })
    },
};

/// A source of MIDI.
#[derive(Debug, Clone, PartialEq)]
enum Place {
    StandardInput,
    Path(PathBuf),
    File(PathBuf),
    Port(String),
}

impl Place {
    fn of(text: &str) -> Self {
        let path = PathBuf::from(text);
        let is_file =
            path.extension().is_some_and(|end| end.eq_ignore_ascii_case("mid") || end.eq_ignore_ascii_case("midi"));
        match text {
            "-" => Self::StandardInput,
            _ if is_file && path.is_file() => Self::File(path),
            _ if text.contains('/') || path.exists() => Self::Path(path),
            _ => Self::Port(text.to_owned()),
        }
    }
}

/// Follows a stream, and again once it is there again.
fn follow(follower: &Follower, path: Option<&Path>) {
    let name = path.map_or("standard input".to_owned(), |path| path.display().to_string());
    while !follower.stopped() {
        if let Err(error) = Stream::open(path).and_then(|stream| listen(follower, &stream)) {
            follower.failed(format!("cannot read MIDI from {name}: {error}; it is tried again every second"));
            follower.wait(RETRY);
        } else if path.is_none() {
            return;
        } else {
            follower.wait(IDLE);
        }
    }
}

/// Until the stream ends.
fn listen(follower: &Follower, stream: &Stream) -> io::Result<()> {
    let (mut ear, mut bytes) = (Ear::default(), [0; 256]);
    while !follower.stopped() {
        let count = match stream.read(&mut bytes)? {
            There::Bytes(count) => count,
            There::Nothing => continue,
            There::End => break,
        };
        follower.well();
        ear.take(follower, &bytes[..count], follower.now());
    }
    ear.let_go(follower);
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_address_is_a_port_a_path_or_standard_input() {
        for (text, wanted) in [
            ("-", Place::StandardInput),
            ("/dev/snd/midiC1D0", Place::Path("/dev/snd/midiC1D0".into())),
            ("./pipe", Place::Path("./pipe".into())),
            ("Pad Box", Place::Port("Pad Box".into())),
            ("/nowhere/song.mid", Place::Path("/nowhere/song.mid".into())),
        ] {
            assert_eq!(Place::of(text), wanted, "{text}");
        }
    }
}
