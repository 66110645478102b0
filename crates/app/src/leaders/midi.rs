//! MIDI clock out of a stream of bytes.

use std::io;
use std::path::Path;

use splimo_core::leader::{Leader, Pulses};
use splimo_wire::midi::{CLOCKS_A_BEAT, POSITIONS_A_BEAT, Reader, Timing};

use super::Follower;
use crate::stream::{Stream, There};

/// How long a stream that cannot be read is left alone, in seconds.
const RETRY: f64 = 1.0;
/// And one into which nobody writes.
const IDLE: f64 = 0.05;

/// Follows a stream, and again once it is there again.
pub(super) fn follow(follower: &Follower, path: &Path) {
    let path = (path != Path::new("-")).then_some(path);
    let name = path.map_or("standard input".to_owned(), |path| path.display().to_string());
    while !follower.stopped() {
        if let Err(error) = Stream::open(path).and_then(|stream| listen(follower, &stream)) {
            let message = format!("cannot read MIDI from {name}: {error}; it is tried again every second");
            follower.troubles.tell("midi", message);
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
    let (mut reader, mut clock) = (Reader::default(), Clock::default());
    let (mut bytes, mut last) = ([0; 256], f64::MIN);
    while !follower.stopped() {
        let count = match stream.read(&mut bytes)? {
            There::Bytes(count) => count,
            There::Nothing => continue,
            There::End => return Ok(()),
        };
        follower.troubles.over("midi");
        let now = follower.now();
        for timing in bytes[..count].iter().filter_map(|byte| reader.byte(*byte)) {
            clock.take(timing, now);
            // One that stands is told at once: there may be nothing after it.
            if timing == Timing::Stop {
                last = f64::MIN;
            }
        }
        follower.tell(clock.0.beacon(now), &mut last);
    }
    Ok(())
}

/// A machine that sends its clock.
struct Clock(Pulses);

impl Default for Clock {
    fn default() -> Self {
        Self(Pulses::new(Leader::Midi, CLOCKS_A_BEAT))
    }
}

impl Clock {
    fn take(&mut self, timing: Timing, now: f64) {
        match timing {
            Timing::Clock => self.0.pulse(now),
            Timing::Start => {
                self.0.seek(0.0);
                self.0.run(true);
            }
            Timing::Continue => self.0.run(true),
            Timing::Stop => self.0.run(false),
            Timing::Position(sixteenths) => self.0.seek(f64::from(sixteenths) / POSITIONS_A_BEAT),
        }
    }
}
