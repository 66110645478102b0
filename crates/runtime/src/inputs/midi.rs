//! MIDI of a port of this machine, a raw device, a pipe, standard input, or a Standard MIDI File: its clock and time code lead, and
//! all else are events.

use std::collections::HashMap;
use std::io;
use std::path::{Path, PathBuf};

use splimo_show::InputKind;
use splimo_show::event::{Edge, EventAddress};
use splimo_wire::midi::{Message, Reader, Timing, Voice};

use super::midi_clock::{Clock, Code};
use super::{Follower, InputSource, midi_file, midi_port, spawn};
use crate::stream::{Stream, There};

/// The time that a stream that cannot be read is left alone, in seconds.
const RETRY: f64 = 1.0;
/// And one into which nobody writes.
const IDLE: f64 = 0.05;
/// The time within which the fine part of a controller follows the coarse one, in seconds.
const TOGETHER: f64 = 0.02;

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

/// Takes bytes of MIDI: tells the engine of clock and time code, and makes events of the rest.
#[derive(Default)]
pub(super) struct Ear {
    reader: Reader,
    clock: Clock,
    code: Code,
    timings: Vec<Timing>,
    told: f64,
    /// The coarse value of each 14-bit controller, and when it came.
    coarse: HashMap<(u8, u8), (u8, f64)>,
    /// The notes that are held.
    held: Vec<(u8, u8)>,
}

impl Ear {
    /// Takes bytes that were read at once.
    pub(super) fn take(&mut self, follower: &Follower, bytes: &[u8], now: f64) {
        self.timings.clear();
        for byte in bytes {
            let Some(message) = self.reader.byte(*byte) else { continue };
            match message {
                Message::Timing(timing) => self.timing(follower, timing, now),
                Message::Channel(channel, voice) => self.voice(follower, channel, voice, now),
                Message::QuarterFrame(_) | Message::FullFrame(_) => {
                    follower.tell(self.code.take(&message, now), &mut f64::MIN.clone());
                }
            }
        }
        let malformed = std::mem::take(&mut self.reader.malformed);
        follower.counts.malformed.fetch_add(malformed, std::sync::atomic::Ordering::Relaxed);
        if self.timings.is_empty() {
            return;
        }
        self.clock.take_all(&self.timings, now);
        // One that stands is told at once: there may be nothing after it.
        if self.timings.contains(&Timing::Stop) {
            self.told = f64::MIN;
        }
        follower.tell(self.clock.pulses.position(now), &mut self.told);
    }

    fn timing(&mut self, follower: &Follower, timing: Timing, now: f64) {
        self.timings.push(timing);
        let address = match timing {
            Timing::Start => EventAddress::Start,
            Timing::Stop => EventAddress::Stop,
            Timing::Continue => EventAddress::Continue,
            Timing::Clock | Timing::Position(_) => return,
        };
        follower.event(address, 1.0, Edge::Press, now);
    }

    fn voice(&mut self, follower: &Follower, channel: u8, voice: Voice, now: f64) {
        let on = Some(channel);
        match voice {
            Voice::NoteOn(note, velocity) => {
                if !self.held.contains(&(channel, note)) {
                    self.held.push((channel, note));
                }
                follower.event(EventAddress::Note(on, note), f32::from(velocity), Edge::Press, now);
            }
            Voice::NoteOff(note, _) => {
                self.held.retain(|held| *held != (channel, note));
                follower.event(EventAddress::Note(on, note), 0.0, Edge::Release, now);
            }
            Voice::KeyPressure(note, pressure) => {
                follower.event(EventAddress::Pressure(on, Some(note)), f32::from(pressure), Edge::Value, now);
            }
            Voice::Control(number, value) => self.control(follower, channel, number, value, now),
            Voice::Program(program) => {
                follower.event(EventAddress::Program(on), f32::from(program), Edge::Press, now);
            }
            Voice::Pressure(pressure) => {
                follower.event(EventAddress::Pressure(on, None), f32::from(pressure), Edge::Value, now);
            }
            Voice::Bend(bend) => follower.event(EventAddress::Bend(on), f32::from(bend), Edge::Value, now),
        }
    }

    /// A controller: 0..31 may be the coarse part of one of 14 bits, of which 32 numbers higher is the fine one.
    fn control(&mut self, follower: &Follower, channel: u8, number: u8, value: u8, now: f64) {
        if let Some(coarse_number) = number.checked_sub(32).filter(|number| *number < 32)
            && let Some((coarse, when)) = self.coarse.get(&(channel, coarse_number))
            && now - when < TOGETHER
        {
            let fine = f32::from(u16::from(*coarse) << 7 | u16::from(value));
            follower.event(EventAddress::Control(Some(channel), coarse_number, true), fine, Edge::Value, now);
            return;
        }
        if number < 32 {
            self.coarse.insert((channel, number), (value, now));
        }
        follower.event(EventAddress::Control(Some(channel), number, false), f32::from(value), Edge::Value, now);
    }

    /// Lets go of the notes that are held: whoever sent them is gone.
    pub(super) fn let_go(&mut self, follower: &Follower) {
        for (channel, note) in self.held.drain(..) {
            follower.event(EventAddress::Note(Some(channel), note), 0.0, Edge::Release, follower.now());
        }
    }
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
