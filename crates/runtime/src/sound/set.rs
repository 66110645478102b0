//! The DJ set of the demo, synthesised: intro, build, drop, breakdown, a build into a faster drop, and outro, in A minor.
//! It is the same set every time, sample for sample, and goes round for ever.

use splimo_base::maths::{cos_turns, fract, hash, sin_turns, unit};
use splimo_hear::SAMPLE_RATE;

/// A part of the set.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Part {
    /// Kick and hats.
    Intro,
    /// Everything rises.
    Build,
    /// Everything plays.
    Drop,
    /// Chords, and hardly any drums.
    Breakdown,
    /// Kick and hats again, thinning out.
    Outro,
}

/// The parts in their order: bars, and beats a minute.
pub(crate) const PARTS: [(Part, u32, f64); 7] = [
    (Part::Intro, 8, 124.0),
    (Part::Build, 8, 124.0),
    (Part::Drop, 16, 124.0),
    (Part::Breakdown, 8, 124.0),
    (Part::Build, 8, 128.0),
    (Part::Drop, 16, 128.0),
    (Part::Outro, 8, 128.0),
];

/// Steps a bar: sixteenths.
const STEPS: u32 = 16;

/// Roots of the chords, bar by bar, in hertz: A, F, C, G.
const ROOTS: [f32; 4] = [55.0, 43.65, 65.41, 49.0];
/// True if the third of each chord is minor.
const MINOR: [bool; 4] = [true, false, false, false];

/// The set, playing.
#[derive(Debug, Clone)]
pub struct Set {
    part: usize,
    bar: u32,
    step: u32,
    /// Samples until the next step.
    until_step: f64,
    clock: u64,
    kick: Decay,
    clap: Decay,
    hat: Decay,
    bass: Decay,
    bass_hz: f32,
    bass_phase: f32,
    kick_phase: f32,
    chord: [f32; 4],
    phases: [f32; 8],
    noise: u32,
    noise_low: f32,
    pad_low: f32,
}

impl Default for Set {
    fn default() -> Self {
        Self {
            part: PARTS.len() - 1,
            bar: PARTS[PARTS.len() - 1].1 - 1,
            step: STEPS - 1,
            until_step: 0.0,
            clock: 0,
            kick: Decay::new(0.16),
            clap: Decay::new(0.07),
            hat: Decay::new(0.03),
            bass: Decay::new(0.14),
            bass_hz: 55.0,
            bass_phase: 0.0,
            kick_phase: 0.0,
            chord: [0.0; 4],
            phases: [0.0; 8],
            noise: 1,
            noise_low: 0.0,
            pad_low: 0.0,
        }
    }
}

impl Set {
    /// The set from the first bar of a part of the set on.
    #[must_use]
    pub fn from_part(part: usize) -> Self {
        let part = (part + PARTS.len() - 1) % PARTS.len();
        Self { part, bar: PARTS[part].1 - 1, ..Self::default() }
    }

    /// The part that is playing.
    #[must_use]
    pub fn part(&self) -> Part {
        PARTS[self.part].0
    }

    /// The true tempo, in beats a minute.
    #[must_use]
    pub fn tempo(&self) -> f64 {
        PARTS[self.part].2
    }

    /// The true position in the present beat, 0..1.
    #[must_use]
    pub fn beat_phase(&self) -> f64 {
        let samples = self.samples_a_step();
        (f64::from(self.step % 4) + 1.0 - self.until_step / samples) / 4.0
    }

    /// The next samples, mono, within -1..1.
    pub fn fill(&mut self, out: &mut [f32]) {
        for sample in out {
            if self.until_step <= 0.0 {
                self.next_step();
                self.until_step += self.samples_a_step();
            }
            self.until_step -= 1.0;
            *sample = self.sample();
            self.clock += 1;
        }
    }

    fn samples_a_step(&self) -> f64 {
        60.0 / self.tempo() / 4.0 * f64::from(SAMPLE_RATE)
    }

    fn next_step(&mut self) {
        self.step += 1;
        if self.step == STEPS {
            self.step = 0;
            self.bar += 1;
            if self.bar == PARTS[self.part].1 {
                self.bar = 0;
                self.part = (self.part + 1) % PARTS.len();
            }
            self.set_chord();
        }
        self.strike();
    }

    fn set_chord(&mut self) {
        let which = (self.bar % 4) as usize;
        let root = ROOTS[which] * 4.0;
        let third = if MINOR[which] { 1.189_2 } else { 1.259_9 };
        self.chord = [root, root * third, root * 1.498_3, root * 2.0];
    }

    fn strike(&mut self) {
        let (step, bar, bars) = (self.step, self.bar, PARTS[self.part].1);
        let on_beat = step % 4 == 0;
        let last_bars = bar + 2 >= bars;
        let (kick, clap, hat, bass) = match self.part() {
            Part::Intro => (on_beat, bar >= 4 && step % 8 == 4, if step % 4 == 2 { 0.6 } else { 0.0 }, false),
            Part::Build if last_bars => (step % 2 == 0, step % 2 == 0, 0.4, false),
            Part::Build => (on_beat, step % 8 == 4, if step % 2 == 0 { 0.5 } else { 0.2 }, bar >= 4 && step % 4 == 2),
            Part::Drop => (on_beat, step % 8 == 4, if step % 4 == 2 { 0.8 } else { 0.25 }, step % 4 != 0),
            Part::Breakdown => (bar >= bars / 2 && step == 0, false, if on_beat { 0.35 } else { 0.0 }, false),
            Part::Outro => (on_beat, false, if step % 4 == 2 && bar < 6 { 0.5 } else { 0.0 }, false),
        };
        if kick {
            self.kick.strike(1.0);
            self.kick_phase = 0.0;
        }
        if clap {
            self.clap.strike(0.8);
        }
        if hat > 0.0 {
            self.hat.strike(hat);
        }
        if bass {
            let octave = if step % 8 == 7 { 2.0 } else { 1.0 };
            self.bass_hz = ROOTS[(bar % 4) as usize] * octave;
            self.bass.strike(if step % 4 == 2 { 1.0 } else { 0.7 });
        }
    }

    fn sample(&mut self) -> f32 {
        self.noise = self.noise.wrapping_add(0x9e37_79b9);
        let noise = unit(hash(self.noise)) * 2.0 - 1.0;
        let bright = noise - self.noise_low;
        self.noise_low += 0.35 * (noise - self.noise_low);

        let kick = self.kick.next();
        self.kick_phase = fract(self.kick_phase + (46.0 + 130.0 * kick * kick * kick) / SAMPLE_RATE as f32);
        let bass = self.bass.next();
        self.bass_phase = fract(self.bass_phase + self.bass_hz / SAMPLE_RATE as f32);
        let bass_wave = sin_turns(self.bass_phase)
            + 0.4 * sin_turns(2.0 * self.bass_phase)
            + 0.2 * sin_turns(3.0 * self.bass_phase);

        // The chords make room for the kick, as they would in such music.
        let pad = self.pad() * (1.0 - 0.7 * kick);
        let sum = 0.75 * sin_turns(self.kick_phase) * kick
            + 0.28 * bass_wave * bass
            + 0.35 * (0.4 * noise + 0.6 * bright) * self.clap.next()
            + 0.22 * bright * self.hat.next()
            + pad
            + self.riser() * bright;
        // Soft saturation keeps the sum within -1..1.
        let sum = sum.clamp(-1.5, 1.5);
        sum - sum * sum * sum / 6.75
    }

    fn pad(&mut self) -> f32 {
        let level = match self.part() {
            Part::Breakdown => 0.10,
            Part::Build => 0.07,
            Part::Drop => 0.045,
            Part::Intro | Part::Outro => 0.02,
        };
        let mut sum = 0.0;
        for voice in 0..8 {
            let detune = if voice % 2 == 0 { 1.0 } else { 1.004 };
            let phase = &mut self.phases[voice];
            *phase = fract(*phase + self.chord[voice / 2] * detune / SAMPLE_RATE as f32);
            sum += 2.0 * *phase - 1.0;
        }
        // A slow filter movement of eight seconds.
        let sweep =
            0.5 - 0.5 * cos_turns((self.clock % (8 * u64::from(SAMPLE_RATE))) as f32 / (8 * SAMPLE_RATE) as f32);
        self.pad_low += (0.03 + 0.12 * sweep) * (sum - self.pad_low);
        level * self.pad_low
    }

    /// Noise that rises through a build.
    fn riser(&self) -> f32 {
        if self.part() != Part::Build {
            return 0.0;
        }
        let done = (self.bar * STEPS + self.step) as f32 / (PARTS[self.part].1 * STEPS) as f32;
        0.12 * done * done
    }
}

/// A level that is struck and dies away.
#[derive(Debug, Clone)]
struct Decay {
    level: f32,
    keep: f32,
}

impl Decay {
    /// Dies away to a third within `seconds`.
    fn new(seconds: f64) -> Self {
        Self { level: 0.0, keep: (-1.0 / (seconds * f64::from(SAMPLE_RATE))).exp() as f32 }
    }

    fn strike(&mut self, level: f32) {
        self.level = level;
    }

    fn next(&mut self) -> f32 {
        self.level *= self.keep;
        self.level
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_hear::{HOP, Listener};

    #[test]
    fn it_is_the_same_every_time_and_never_clips() {
        let (mut a, mut b) = (Set::default(), Set::default());
        let (mut left, mut right) = (vec![0.0; 480_000], vec![0.0; 480_000]);
        a.fill(&mut left);
        right.chunks_mut(777).for_each(|chunk| b.fill(chunk));
        assert_eq!(left, right);
        assert!(left.iter().all(|s| s.abs() <= 1.0) && left.iter().any(|s| s.abs() > 0.4));
        assert_eq!((a.part(), Set::from_part(2).tempo()), (Part::Intro, 124.0));
    }

    /// Hears the whole set, and returns for each second from the start how far tempo and beat were off.
    fn heard_against_truth(seconds: usize) -> Vec<(Part, f64, f64, f32)> {
        let (mut set, mut listener) = (Set::default(), Listener::default());
        let mut samples = [0.0; HOP];
        let hops_a_second = SAMPLE_RATE as usize / HOP;
        let mut rows = Vec::new();
        for hop in 0..seconds * hops_a_second {
            set.fill(&mut samples);
            listener.listen(&samples, |_| {});
            if hop % hops_a_second == 0 {
                let hearing = listener.hearing();
                let off = hearing.beat - set.beat_phase();
                let off = off - (off + 0.5).floor();
                rows.push((set.part(), f64::from(hearing.tempo_bpm) / set.tempo() - 1.0, off, hearing.confidence));
            }
        }
        rows
    }

    #[test]
    fn the_set_is_followed_from_its_first_bars_on() {
        let rows = heard_against_truth(130);
        let good = |row: &&(Part, f64, f64, f32)| row.1.abs() < 0.01 && row.2.abs() < 0.1 && row.3 >= 0.5;
        let settled = &rows[8..];
        let drops: Vec<_> = settled.iter().filter(|row| row.0 == Part::Drop).collect();
        let in_drops = drops.iter().copied().filter(good).count();
        assert_eq!(in_drops, drops.len(), "{drops:?}");
        let all = settled.iter().filter(good).count();
        assert!(all * 100 >= settled.len() * 95, "{all} of {} seconds: {rows:?}", settled.len());
    }
}
