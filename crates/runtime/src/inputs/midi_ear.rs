//! MIDI as it is taken, wherever it comes from: clock and time code lead, and all else are events.

use std::collections::HashMap;

use splimo_show::event::{Edge, EventAddress};
use splimo_wire::midi::{Message, Reader, Timing, Voice};

use super::Follower;
use super::midi_clock::{Clock, Code};

/// The time within which the fine part of a controller follows the coarse one, in seconds.
const TOGETHER: f64 = 0.02;

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
