//! Clock sources outside the program: pulses of another machine, as MIDI clock and OSC send them, or the time of a recording.

use serde::{Deserialize, Serialize};

use splimo_base::Seconds;

/// The source that is to lead the clock. Where it is silent, the music leads, and where that is not clear, the last tempo is held.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum SyncSource {
    /// The music that is heard.
    #[default]
    Music,
    /// MIDI clock.
    Midi,
    /// Time code from the network (Art-Net): its time, at the tempo of the show.
    TimeCode,
    /// OSC messages.
    Osc,
}

impl SyncSource {
    /// Every source.
    pub const ALL: [Self; 4] = [Self::Music, Self::Midi, Self::TimeCode, Self::Osc];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Music => "music",
            Self::Midi => "MIDI clock",
            Self::TimeCode => "time code",
            Self::Osc => "OSC",
        }
    }

    /// The word for it in files and commands.
    #[must_use]
    pub fn key(self) -> &'static str {
        match self {
            Self::Music => "music",
            Self::Midi => "midi",
            Self::TimeCode => "time-code",
            Self::Osc => "osc",
        }
    }

    /// True if it is the show's usual one, which its file does not name.
    #[must_use]
    pub fn is_music(&self) -> bool {
        *self == Self::Music
    }
}

/// The position of a source outside the program at a moment.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SyncPosition {
    /// The source.
    pub source: SyncSource,
    /// The time.
    pub time: Seconds,
    /// The place.
    pub place: MusicPlace,
}

/// A place in the music of a source outside the program.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum MusicPlace {
    /// Beats since its beginning, and beats a minute.
    Beats {
        /// The beat.
        beat: f64,
        /// The tempo.
        bpm: f64,
        /// True if beat 0 is where a bar begins, rather than wherever one came in.
        counted: bool,
    },
    /// Seconds since its beginning.
    Seconds(f64),
    /// It stands.
    Stopped,
}

impl SyncPosition {
    /// For how long it is believed, in seconds: a beat of the slowest tempo and a little.
    pub const FRESH: Seconds = 2.5;
}

/// Pulses that are kept, at the most: two beats of MIDI clock.
const KEPT: usize = 48;
/// The most that a pulse may be off its place, in pulses, before the tempo counts as another one.
const FAR: f64 = 0.3;

/// Follows pulses that come evenly but for the jitter of what carries them: the line through the last ones, by least squares.
#[derive(Debug, Clone)]
pub struct Pulses {
    source: SyncSource,
    per_beat: f64,
    /// The times of the last pulses, and where the next one is written: it goes on whatever they are counted as.
    times: [Seconds; KEPT],
    next: usize,
    kept: usize,
    /// The number of the next pulse.
    count: i64,
    counted: bool,
    running: bool,
    far: u32,
    /// The time of pulse 0 and the time between two, once there are two pulses.
    line: Option<[f64; 2]>,
}

impl Pulses {
    /// So many pulses a beat.
    #[must_use]
    pub fn new(source: SyncSource, per_beat: f64) -> Self {
        Self {
            source,
            per_beat,
            times: [0.0; KEPT],
            next: 0,
            kept: 0,
            count: 0,
            counted: false,
            running: true,
            far: 0,
            line: None,
        }
    }

    /// The next pulse is at this beat, counted from where a bar begins.
    pub fn seek(&mut self, beat: f64) {
        let count = (beat * self.per_beat).round() as i64;
        if let Some([zero, period]) = &mut self.line {
            *zero -= (count - self.count) as f64 * *period;
        }
        (self.count, self.counted) = (count, true);
    }

    /// The beat of the next pulse, where beats are counted from where a bar begins.
    #[must_use]
    pub fn next_beat(&self) -> Option<f64> {
        self.counted.then_some(self.count as f64 / self.per_beat)
    }

    /// It goes on, or stands.
    pub fn run(&mut self, running: bool) {
        self.running = running;
    }

    /// The tempo from now on, in beats a minute, whatever the pulses were.
    pub fn set(&mut self, time: Seconds, bpm: f64) {
        let period = 60.0 / (bpm * self.per_beat);
        let place = self.line.map_or(self.count as f64, |[zero, period]| (time - zero) / period);
        (self.line, self.kept) = (Some([time - place * period, period]), 0);
    }

    /// A pulse came.
    pub fn pulse(&mut self, time: Seconds) {
        if self.kept > 0 && time <= self.time(1) {
            return;
        }
        if let Some([zero, period]) = &mut self.line {
            let off = (time - *zero) / *period - self.count as f64;
            self.far = if off.abs() > FAR { self.far + 1 } else { 0 };
            // After a pause, or where it goes otherwise from here on, what was before tells nothing.
            if !(-1.0..=4.0).contains(&off) {
                self.kept = 0;
                *zero = time - self.count as f64 * *period;
            } else if self.far >= self.patience() {
                (self.kept, self.far) = (self.kept.min(self.patience() as usize - 1), 0);
            }
        }
        self.times[self.next] = time;
        self.next = (self.next + 1) % KEPT;
        self.count += 1;
        self.kept = (self.kept + 1).min(KEPT);
        self.line = self.fit().or(self.line);
    }

    /// The time of one of the last pulses: 1 is the last.
    fn time(&self, back: usize) -> Seconds {
        self.times[(self.next + KEPT - back) % KEPT]
    }

    /// Pulses in a row that have to be far off: a quarter of a beat, as a machine that is held up sends a few late.
    fn patience(&self) -> u32 {
        (self.per_beat / 4.0).max(2.0) as u32
    }

    /// The line through the pulses that are kept.
    fn fit(&self) -> Option<[f64; 2]> {
        let times = || (1..=self.kept).map(|back| ((self.count - back as i64) as f64, self.time(back)));
        let many = self.kept as f64;
        let middle = times().map(|(n, _)| n).sum::<f64>() / many;
        let mean = times().map(|(_, time)| time).sum::<f64>() / many;
        let spread: f64 = times().map(|(n, _)| (n - middle).powi(2)).sum();
        let slope: f64 = times().map(|(n, time)| (n - middle) * (time - mean)).sum();
        let period = slope / spread;
        (self.kept >= 2 && period > 1e-4).then_some([mean - period * middle, period])
    }

    /// The position after the last pulse, unless that is not known yet.
    #[must_use]
    pub fn position(&self, time: Seconds) -> Option<SyncPosition> {
        let place = match self.line {
            _ if !self.running => MusicPlace::Stopped,
            Some([zero, period]) => {
                let bpm = 60.0 / (period * self.per_beat);
                let beat = (time - zero) / period / self.per_beat;
                (20.0..=400.0).contains(&bpm).then_some(MusicPlace::Beats { beat, bpm, counted: self.counted })?
            }
            None => return None,
        };
        Some(SyncPosition { source: self.source, time, place })
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn beats(position: Option<SyncPosition>) -> [f64; 2] {
        match position.map(|position| position.place) {
            Some(MusicPlace::Beats { beat, bpm, .. }) => [beat, bpm],
            other => panic!("{other:?}"),
        }
    }

    /// A jitter of up to 2 ms that is the same each time.
    fn jitter(n: u32) -> f64 {
        f64::from(n * 7919 % 41) / 10_000.0 - 0.002
    }

    #[test]
    fn pulses_that_jitter_give_an_even_tempo() {
        let mut pulses = Pulses::new(SyncSource::Midi, 24.0);
        pulses.seek(0.0);
        for n in 0..240u32 {
            pulses.pulse(3.0 + f64::from(n) * 0.02 + jitter(n));
            if n > 48 {
                let [beat, bpm] = beats(pulses.position(3.0 + f64::from(n) * 0.02));
                assert!((bpm - 125.0).abs() < 0.5 && (beat - f64::from(n) / 24.0).abs() < 0.02, "{n}: {beat} {bpm}");
            }
        }
    }

    #[test]
    fn another_tempo_is_taken_over_within_half_a_beat() {
        let mut pulses = Pulses::new(SyncSource::Midi, 24.0);
        (0..96).for_each(|n| pulses.pulse(f64::from(n) * 0.02));
        (1..=12).for_each(|n| pulses.pulse(1.9 + f64::from(n) * 0.03));
        let [_, bpm] = beats(pulses.position(2.3));
        assert!((bpm - 60.0 / 0.03 / 24.0).abs() < 1.0, "{bpm}");
    }

    #[test]
    fn it_goes_on_from_a_place_and_stands_when_told() {
        let mut pulses = Pulses::new(SyncSource::Midi, 24.0);
        (0..48).for_each(|n| pulses.pulse(f64::from(n) * 0.02));
        pulses.seek(16.0);
        pulses.pulse(0.96);
        let [beat, bpm] = beats(pulses.position(0.96));
        assert!((beat - 16.0).abs() < 1e-6 && (bpm - 125.0).abs() < 1e-6, "{beat} {bpm}");
        pulses.run(false);
        assert_eq!(pulses.position(1.0).map(|b| b.place), Some(MusicPlace::Stopped));
    }

    #[test]
    fn going_elsewhere_leaves_the_tempo_whatever_was_counted() {
        // Machines send their clock while they stand as well, and start wherever they are in it.
        for before in [40, 100, 1003] {
            let mut pulses = Pulses::new(SyncSource::Midi, 24.0);
            let at = |n: u32| f64::from(n) * 60.0 / 120.0 / 24.0 + jitter(n);
            (0..before).for_each(|n| pulses.pulse(at(n)));
            pulses.seek(64.0);
            for n in before..before + 60 {
                pulses.pulse(at(n));
                let [beat, bpm] = beats(pulses.position(at(n)));
                let right = 64.0 + f64::from(n - before) / 24.0;
                assert!((bpm - 120.0).abs() < 2.0 && (beat - right).abs() < 0.02, "{before}, {n}: {beat} {bpm}");
            }
        }
    }

    #[test]
    fn a_pause_begins_anew_and_times_that_run_back_are_left_out() {
        let mut pulses = Pulses::new(SyncSource::Osc, 1.0);
        assert_eq!(pulses.position(0.0), None);
        for time in [1.0, 1.5, 2.0, 30.0, 30.4, 30.4, 30.1, 30.8] {
            pulses.pulse(time);
        }
        let [_, bpm] = beats(pulses.position(30.8));
        assert!((bpm - 150.0).abs() < 1e-6, "{bpm}");
    }

    proptest! {
        // Whatever comes: a place that is told has a tempo within range, and is a number.
        #[test]
        fn nothing_that_comes_makes_nonsense(happenings in proptest::collection::vec((0u8..6, 0f64..1.0), 1..300)) {
            let (mut pulses, mut time) = (Pulses::new(SyncSource::Osc, 1.0), 0.0);
            for (what, share) in happenings {
                match what {
                    0 => time += share * 4.0,
                    1 => pulses.seek((share * 40.0).round() * if share > 0.9 { 1e15 } else { 1.0 }),
                    2 => pulses.set(time, 20.0 + share * 380.0),
                    3 => pulses.run(share > 0.3),
                    4 => pulses.pulse(time - share),
                    _ => {
                        time += 0.3 + share * 0.4;
                        pulses.pulse(time);
                    }
                }
                if let Some(SyncPosition { place: MusicPlace::Beats { beat, bpm, .. }, .. }) = pulses.position(time) {
                    prop_assert!(beat.is_finite() && (20.0..=400.0).contains(&bpm), "{} at {}", beat, bpm);
                }
            }
        }
    }
}
