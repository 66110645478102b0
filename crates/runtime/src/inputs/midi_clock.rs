//! The clock of a machine that sends MIDI clock, and the time of one that sends MIDI time code.

use splimo_time::sync::{MusicPlace, Pulses, SyncPosition, SyncSource};
use splimo_wire::midi::time_code::TimeReader;
use splimo_wire::midi::{CLOCKS_A_BEAT, Message, POSITIONS_A_BEAT, Timing};

/// The longest time between two clocks: that of 20 beats a minute, in seconds.
const LONGEST: f64 = 60.0 / 20.0 / CLOCKS_A_BEAT;
/// The time that a time code that has come holds for as running, in seconds: two times over eight quarter frames, and a little.
const RUNS: f64 = 0.25;

/// A machine that sends its clock.
pub(super) struct Clock {
    pub(super) pulses: Pulses,
    /// The time when something was read last.
    read: f64,
    /// True if it stands.
    stands: bool,
    /// The beat from which it is to go on, if that is known.
    from: Option<f64>,
}

impl Default for Clock {
    fn default() -> Self {
        Self { pulses: Pulses::new(SyncSource::Midi, CLOCKS_A_BEAT), read: f64::MIN, stands: false, from: None }
    }
}

impl Clock {
    /// Takes what was read at once. Where that is several clocks, we were held up, and they came one after the other since
    /// something was read last: each counts, or the beat would be off by as many from then on.
    pub(super) fn take_all(&mut self, timings: &[Timing], now: f64) {
        let clocks = timings.iter().filter(|timing| **timing == Timing::Clock).count() as f64;
        let since = self.read.max(now - clocks * LONGEST);
        let mut place = 0.0;
        for timing in timings {
            place += f64::from(u8::from(*timing == Timing::Clock));
            self.take(*timing, if place < clocks { since + (now - since) * place / clocks } else { now });
        }
        self.read = now;
    }

    /// Many machines send their clock while they stand as well, and go on from where they stopped (MIDI 1.0 Detailed
    /// Specification 4.2, "System Real Time Messages").
    fn take(&mut self, timing: Timing, time: f64) {
        match timing {
            Timing::Clock => self.pulses.pulse(time),
            Timing::Start => {
                self.pulses.seek(0.0);
                self.go_on();
            }
            Timing::Continue => {
                if let Some(beat) = self.from.filter(|_| self.stands) {
                    self.pulses.seek(beat);
                }
                self.go_on();
            }
            Timing::Stop if self.stands => {}
            Timing::Stop => {
                (self.stands, self.from) = (true, self.pulses.next_beat());
                self.pulses.run(false);
            }
            Timing::Position(sixteenths) => {
                let beat = f64::from(sixteenths) / POSITIONS_A_BEAT;
                self.pulses.seek(beat);
                self.from = Some(beat);
            }
        }
    }

    fn go_on(&mut self) {
        (self.stands, self.from) = (false, None);
        self.pulses.run(true);
    }
}

/// The time of a machine that sends time code.
#[derive(Default)]
pub(super) struct Code {
    reader: TimeReader,
    /// The last time in seconds, and when it came.
    last: Option<(f64, f64)>,
}

impl Code {
    /// Takes a message; the position, where it completes one.
    pub(super) fn take(&mut self, message: &Message, now: f64) -> Option<SyncPosition> {
        let (seconds, stands) = match message {
            Message::QuarterFrame(data) => (self.reader.quarter(*data)?, false),
            // A machine that goes somewhere says where, and runs by quarter frames.
            Message::FullFrame(bytes) => (TimeReader::full(*bytes)?, true),
            Message::Timing(_) | Message::Channel(..) => return None,
        };
        // Time that runs backward leads nobody: it stands until it goes on.
        let backward = self.last.is_some_and(|(before, when)| now - when < RUNS && seconds < before);
        self.last = Some((seconds, now));
        let place = if stands || backward { MusicPlace::Stopped } else { MusicPlace::Seconds(seconds) };
        Some(SyncPosition { source: SyncSource::TimeCode, time: now, place })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn beat(clock: &Clock, time: f64) -> f64 {
        match clock.pulses.position(time).map(|position| position.place) {
            Some(MusicPlace::Beats { beat, .. }) => beat,
            other => panic!("{other:?}"),
        }
    }

    #[test]
    fn clocks_that_are_read_at_once_after_one_was_held_up_all_count() {
        let period = 0.02;
        for held in [2usize, 5, 40] {
            let mut clock = Clock::default();
            clock.take_all(&[Timing::Start], 0.9);
            for n in 0..400 {
                let now = 1.0 + n as f64 * period;
                match n {
                    // They wait, and are read with the last of them.
                    200.. if n < 200 + held - 1 => {}
                    n if n == 200 + held - 1 => clock.take_all(&vec![Timing::Clock; held], now),
                    _ => clock.take_all(&[Timing::Clock], now),
                }
                if n > 48 && !(200..200 + held).contains(&n) {
                    assert!(
                        (beat(&clock, now) - n as f64 / 24.0).abs() < 1e-3,
                        "{held} held, {n}: {}",
                        beat(&clock, now)
                    );
                }
            }
        }
    }

    #[test]
    fn after_a_long_pause_clocks_that_come_together_are_close_to_each_other() {
        let mut clock = Clock::default();
        (0..48).for_each(|n| clock.take_all(&[Timing::Clock], f64::from(n) * 0.02));
        clock.take_all(&[Timing::Stop], 1.0);
        clock.take_all(&[Timing::Start, Timing::Clock, Timing::Clock], 600.0);
        (1..48).for_each(|n| clock.take_all(&[Timing::Clock], 600.0 + f64::from(n) * 0.02));
        let off = beat(&clock, 600.94) - 48.0 / 24.0;
        assert!(off.abs() < 0.05, "{off}");
    }

    #[test]
    fn who_stands_and_sends_its_clock_goes_on_from_where_it_stopped_or_from_where_it_was_put() {
        for (put, from) in [(None, 6.0), (Some(Timing::Position(40)), 10.0)] {
            let mut clock = Clock::default();
            clock.take_all(&[Timing::Start], 0.0);
            let at = |n: u32| f64::from(n + 1) * 0.02;
            (0..144).for_each(|n| clock.take_all(&[Timing::Clock], at(n)));
            clock.take_all(&[Timing::Stop], at(143));
            (144..190).for_each(|n| clock.take_all(&[Timing::Clock], at(n)));
            clock.take_all(put.as_slice(), at(189));
            (190..250).for_each(|n| clock.take_all(&[Timing::Clock], at(n)));
            assert_eq!(clock.pulses.position(at(249)).map(|position| position.place), Some(MusicPlace::Stopped));
            clock.take_all(&[Timing::Stop, Timing::Continue], at(249));
            for n in 250..300 {
                clock.take_all(&[Timing::Clock], at(n));
                let off = beat(&clock, at(n)) - from - f64::from(n - 250) / 24.0;
                assert!(off.abs() < 1e-3, "{n} from {from}: {off}");
            }
        }
    }

    #[test]
    fn time_code_leads_forward_and_stands_where_it_runs_backward_or_goes_somewhere() {
        use splimo_wire::midi::time_code::quarter_of;
        let mut code = Code::default();
        let mut now = 0.0;
        let mut places = |code: &mut Code, messages: Vec<Message>| -> Vec<MusicPlace> {
            let all = messages.into_iter().filter_map(|message| {
                now += 0.01;
                code.take(&message, now)
            });
            all.map(|position| position.place).collect()
        };
        let frame = |time: f64| (0..8).map(move |piece| Message::QuarterFrame(quarter_of(time, piece)));
        let forward = places(&mut code, frame(10.0).chain(frame(10.08)).collect());
        assert!(matches!(forward.as_slice(), [MusicPlace::Seconds(first), MusicPlace::Seconds(next)] if next > first));
        let back: Vec<Message> = frame(8.92).chain(frame(9.0)).collect::<Vec<_>>().into_iter().rev().collect();
        assert!(places(&mut code, back).iter().all(|place| *place == MusicPlace::Stopped));
        assert_eq!(places(&mut code, vec![Message::FullFrame([0x20, 1, 2, 3])]), [MusicPlace::Stopped]);
    }
}
