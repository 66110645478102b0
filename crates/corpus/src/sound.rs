//! Instruments: each adds one note to a mix.

use crate::RATE;
use crate::lot::Lot;

const TABLE: usize = 2048;

/// The mix of an instrument or of all of them.
pub(crate) type Mix = Vec<f32>;

fn samples(seconds: f32) -> usize {
    (seconds.max(0.0) * RATE as f32) as usize
}

/// The part of a mix from a time on, and how many samples of a note of so many seconds fit.
fn part(mix: &mut Mix, time: f64, seconds: f32) -> &mut [f32] {
    let start = ((time.max(0.0) * RATE) as usize).min(mix.len());
    let end = (start + samples(seconds)).min(mix.len());
    &mut mix[start..end]
}

/// A low-pass of one pole.
#[derive(Clone, Copy, Default)]
struct Low(f32);

impl Low {
    /// With the share of the way that is gone each sample.
    fn step(&mut self, sample: f32, share: f32) -> f32 {
        self.0 += (sample - self.0) * share;
        self.0
    }
}

fn share(hz: f32) -> f32 {
    1.0 - (-std::f32::consts::TAU * hz / RATE as f32).exp()
}

fn fall(seconds: f32) -> f32 {
    (-1.0 / (seconds.max(1e-4) * RATE as f32)).exp()
}

/// A drum that is a falling tone, a noise, or both.
#[derive(Debug, Clone)]
pub(crate) struct Drum {
    /// The tone at its start and at its end, in hertz, and how fast it falls, in seconds.
    tone: [f32; 3],
    tone_level: f32,
    tone_decay: f32,
    noise_level: f32,
    noise_decay: f32,
    /// The noise lies between these, in hertz.
    noise_band: [f32; 2],
    /// How many times the noise sets in, as hands do that do not clap together.
    bursts: usize,
    click: f32,
    /// What it sounds like: some takes, so that no two hits in a row need be the same.
    takes: Vec<Mix>,
}

/// How many takes of a drum there are.
const TAKES: usize = 3;

impl Drum {
    pub(crate) fn kick(lot: &mut Lot) -> Self {
        let end = lot.range(38.0, 90.0);
        if lot.chance(0.35) {
            // A bare low tone, as simple machines have it.
            return Self {
                tone: [end * lot.range(1.0, 1.3), end, 0.03],
                tone_level: 1.0,
                tone_decay: lot.scale(0.04, 0.3),
                noise_level: 0.0,
                noise_decay: 0.005,
                noise_band: [300.0, 2000.0],
                bursts: 1,
                click: 0.0,
                takes: Vec::new(),
            };
        }
        Self {
            tone: [end * lot.range(1.3, 7.0), end, lot.range(0.006, 0.05)],
            tone_level: 1.0,
            tone_decay: lot.scale(0.06, 0.45),
            noise_level: lot.range(0.0, 0.25),
            noise_decay: lot.range(0.004, 0.03),
            noise_band: [300.0, lot.range(1500.0, 9000.0)],
            bursts: 1,
            click: lot.range(0.0, 0.6),
            takes: Vec::new(),
        }
    }

    pub(crate) fn snare(lot: &mut Lot) -> Self {
        let tone = lot.range(140.0, 320.0);
        Self {
            tone: [tone * lot.range(1.0, 1.6), tone, 0.02],
            tone_level: lot.range(0.1, 0.9),
            tone_decay: lot.scale(0.03, 0.15),
            noise_level: lot.range(0.4, 1.0),
            noise_decay: lot.scale(0.04, 0.28),
            noise_band: [lot.scale(150.0, 1500.0), lot.range(5000.0, 14000.0)],
            bursts: 1,
            click: lot.range(0.0, 0.4),
            takes: Vec::new(),
        }
    }

    pub(crate) fn clap(lot: &mut Lot) -> Self {
        Self {
            tone: [1.0, 1.0, 1.0],
            tone_level: 0.0,
            tone_decay: 0.01,
            noise_level: 1.0,
            noise_decay: lot.scale(0.04, 0.2),
            noise_band: [lot.range(500.0, 1200.0), lot.range(2500.0, 8000.0)],
            bursts: 1 + lot.below(4),
            click: 0.0,
            takes: Vec::new(),
        }
    }

    pub(crate) fn rim(lot: &mut Lot) -> Self {
        let tone = lot.scale(300.0, 4000.0);
        Self {
            tone: [tone, tone * 0.98, 0.01],
            tone_level: 0.8,
            tone_decay: lot.scale(0.006, 0.08),
            noise_level: lot.range(0.0, 0.5),
            noise_decay: 0.01,
            noise_band: [800.0, 9000.0],
            bursts: 1,
            click: lot.range(0.0, 0.6),
            takes: Vec::new(),
        }
    }

    /// Hats, shakers, rides and crashes, by how long they ring.
    pub(crate) fn metal(lot: &mut Lot, decay: f32) -> Self {
        Self {
            tone: [lot.range(3000.0, 9000.0); 3],
            tone_level: lot.range(0.0, 0.25),
            tone_decay: decay,
            noise_level: 1.0,
            noise_decay: decay,
            noise_band: [
                if lot.chance(0.25) { lot.scale(60.0, 3000.0) } else { lot.range(3000.0, 8000.0) },
                lot.range(11000.0, 19000.0),
            ],
            bursts: 1,
            click: lot.range(0.0, 0.2),
            takes: Vec::new(),
        }
    }

    pub(crate) fn tom(lot: &mut Lot) -> Self {
        let tone = lot.range(75.0, 380.0);
        Self {
            tone: [tone * lot.range(1.05, 1.8), tone, 0.04],
            tone_level: 1.0,
            tone_decay: lot.scale(0.05, 0.3),
            noise_level: lot.range(0.0, 0.4),
            noise_decay: 0.03,
            noise_band: [300.0, 6000.0],
            bursts: 1,
            click: lot.range(0.0, 0.5),
            takes: Vec::new(),
        }
    }

    pub(crate) fn hit(&mut self, mix: &mut Mix, time: f64, level: f32, lot: &mut Lot) {
        if self.takes.len() < TAKES {
            let take = self.take(lot);
            self.takes.push(take);
        }
        let take = &self.takes[lot.below(self.takes.len())];
        let seconds = take.len() as f32 / RATE as f32;
        for (out, sample) in part(mix, time, seconds).iter_mut().zip(take) {
            *out += sample * level;
        }
    }

    fn take(&self, lot: &mut Lot) -> Mix {
        let length = (self.tone_decay.max(self.noise_decay) * 5.0 + 0.02).min(2.5);
        let mut take = vec![0.0; samples(length)];
        let out = &mut take;
        let (tone_fall, noise_fall, sweep_fall) = (fall(self.tone_decay), fall(self.noise_decay), fall(self.tone[2]));
        let (mut tone, mut noise, mut sweep) = (self.tone_level, self.noise_level, 1.0f32);
        let (low_share, high_share) = (share(self.noise_band[1]), share(self.noise_band[0]));
        let (mut low, mut high) = (Low::default(), Low::default());
        let mut phase = lot.unit() * 0.1;
        let burst = samples(lot.range(0.006, 0.014)).max(1);
        for (index, out) in out.iter_mut().enumerate() {
            if self.bursts > 1 && index % burst == 0 && index / burst < self.bursts {
                noise = self.noise_level;
            }
            let hz = self.tone[1] + (self.tone[0] - self.tone[1]) * sweep;
            phase += hz / RATE as f32;
            phase -= phase.floor();
            let mut sample = (phase * std::f32::consts::TAU).sin() * tone;
            if noise > 1e-4 {
                let white = lot.both();
                let below = low.step(white, low_share);
                sample += (below - high.step(below, high_share)) * noise * 1.8;
            }
            if index < 40 {
                sample += self.click * (1.0 - index as f32 / 40.0) * lot.both();
            }
            *out = sample;
            tone *= tone_fall;
            noise *= noise_fall;
            sweep *= sweep_fall;
        }
        take
    }
}

/// A pitched instrument: a table of one period, an envelope, a filter.
#[derive(Debug, Clone)]
pub(crate) struct Tone {
    table: Vec<f32>,
    attack: f32,
    /// How long it takes to fall to a third while it is held; 0 holds.
    decay: f32,
    release: f32,
    detune: f32,
    vibrato: [f32; 2],
    /// The filter when the note sets in and when it is held, in hertz.
    bright: [f32; 2],
    /// How much breath or bow is in it.
    air: f32,
    glide: f32,
}

impl Tone {
    /// Whether one hears at once that it sets in.
    pub(crate) fn is_sudden(&self) -> bool {
        self.attack < 0.02
    }

    fn table(partials: usize, slope: f32, even: f32, lot: &mut Lot) -> Vec<f32> {
        let levels: Vec<(f32, f32)> = (1..=partials)
            .map(|n| {
                let own = if n % 2 == 0 { even } else { 1.0 };
                (own * (n as f32).powf(-slope) * lot.range(0.4, 1.0), lot.unit())
            })
            .collect();
        let mut table: Vec<f32> = (0..TABLE)
            .map(|i| {
                let turn = i as f32 / TABLE as f32;
                let partial = |(n, (level, phase)): (usize, &(f32, f32))| {
                    level * ((turn * (n + 1) as f32 + phase) * std::f32::consts::TAU).sin()
                };
                levels.iter().enumerate().map(partial).sum()
            })
            .collect();
        let most = table.iter().fold(1e-6f32, |m, s| m.max(s.abs()));
        table.iter_mut().for_each(|s| *s /= most);
        table
    }

    /// Struck or plucked: it sounds at once and dies away.
    pub(crate) fn struck(lot: &mut Lot) -> Self {
        let bright = lot.scale(600.0, 9000.0);
        let (partials, slope, even) = (4 + lot.below(24), lot.range(0.7, 1.8), lot.range(0.2, 1.0));
        Self {
            table: Self::table(partials, slope, even, lot),
            attack: lot.scale(0.0008, 0.008),
            decay: lot.scale(0.08, 1.2),
            release: lot.range(0.03, 0.25),
            detune: lot.range(0.0, 0.004),
            vibrato: [0.0, 5.0],
            bright: [bright, bright * lot.range(0.1, 0.8)],
            air: 0.0,
            glide: 0.0,
        }
    }

    /// Held: it swells and stays.
    pub(crate) fn held(lot: &mut Lot, attack: [f32; 2]) -> Self {
        let bright = lot.scale(500.0, 7000.0);
        let (partials, slope, even) = (2 + lot.below(30), lot.range(0.7, 2.0), lot.range(0.2, 1.0));
        Self {
            table: Self::table(partials, slope, even, lot),
            attack: lot.scale(attack[0], attack[1]),
            decay: 0.0,
            release: lot.scale(0.04, 0.6),
            detune: lot.range(0.0, 0.012),
            vibrato: [lot.range(0.0, 0.01), lot.range(4.0, 6.5)],
            bright: [bright * lot.range(0.5, 2.0), bright],
            air: lot.range(0.0, 0.06),
            glide: 0.0,
        }
    }

    /// As a voice has it: soft, gliding, with much vibrato.
    pub(crate) fn sung(lot: &mut Lot) -> Self {
        let mut tone = Self::held(lot, [0.02, 0.12]);
        tone.vibrato = [lot.range(0.003, 0.02), lot.range(4.5, 6.5)];
        tone.air = lot.range(0.02, 0.2);
        tone.glide = lot.range(0.0, 0.08);
        tone.detune = 0.0;
        tone
    }

    /// A bass.
    pub(crate) fn bass(lot: &mut Lot) -> Self {
        let (partials, slope, even) = (1 + lot.below(20), lot.range(0.8, 2.0), lot.range(0.2, 1.0));
        let bright = lot.scale(150.0, 2500.0);
        Self {
            table: Self::table(partials, slope, even, lot),
            attack: lot.scale(0.001, 0.025),
            decay: if lot.chance(0.5) { lot.scale(0.1, 0.8) } else { 0.0 },
            release: lot.range(0.02, 0.12),
            detune: lot.range(0.0, 0.006),
            vibrato: [0.0, 5.0],
            bright: [bright * lot.range(1.0, 4.0), bright],
            air: 0.0,
            glide: if lot.chance(0.2) { 0.05 } else { 0.0 },
        }
    }

    pub(crate) fn play(&self, mix: &mut Mix, time: f64, seconds: f32, hz: f32, level: f32, lot: &mut Lot) {
        let ring = if self.decay > 0.0 { (self.decay * 3.0).min(seconds.max(0.15) + 0.6) } else { seconds };
        let out = part(mix, time, ring.max(0.04) + self.release);
        let held = samples(ring.max(0.04));
        let decay = if self.decay > 0.0 { fall(self.decay) } else { 1.0 };
        let release = fall(self.release / 3.0);
        let rise = 1.0 / samples(self.attack).max(1) as f32;
        let (mut attack, mut body) = (0.0f32, 1.0f32);
        let (mut low, mut phases) = (Low::default(), [lot.unit(), lot.unit()]);
        let steps = [1.0 - self.detune, 1.0 + self.detune].map(|d| hz * d / RATE as f32);
        let bright_fall = fall(0.08);
        let (mut bright, shares) = (1.0f32, [share(self.bright[1]), share(self.bright[0])]);
        let (mut vibrato, lean) = (0.0f32, lot.unit() * std::f32::consts::TAU);
        for (index, out) in out.iter_mut().enumerate() {
            if index % 64 == 0 && (self.vibrato[0] > 0.0 || self.glide > 0.0) {
                let since = index as f32 / RATE as f32;
                vibrato = self.vibrato[0] * (since * self.vibrato[1] * std::f32::consts::TAU + lean).sin();
                if self.glide > 0.0 {
                    vibrato -= 0.06 * (-since / self.glide).exp();
                }
            }
            attack = (attack + rise).min(1.0);
            body *= if index < held { decay } else { release };
            let mut sample = 0.0;
            for (phase, step) in phases.iter_mut().zip(steps) {
                *phase += step * (1.0 + vibrato);
                *phase -= phase.floor();
                sample += self.table[(*phase * TABLE as f32) as usize & (TABLE - 1)];
            }
            if self.air > 0.0 {
                sample += lot.both() * self.air;
            }
            bright *= bright_fall;
            let share = shares[0] + (shares[1] - shares[0]) * bright;
            *out += low.step(sample * 0.5, share) * attack * body * level;
        }
    }
}

/// A room: combs and all-passes (M. R. Schroeder, "Natural sounding artificial reverberation", 1962).
pub(crate) fn room(mix: &mut [f32], wet: f32, size: f32, lot: &mut Lot) {
    let mut sum = vec![0.0f32; mix.len()];
    for base in [0.0297f32, 0.0371, 0.0411, 0.0437] {
        let delay = samples(base * size * lot.range(0.9, 1.1)).max(1);
        let back = 0.7 + 0.14 * (size - 0.5).clamp(0.0, 1.0);
        let (mut line, mut damp) = (vec![0.0f32; delay], Low::default());
        let mut at = 0;
        let share = share(4500.0);
        for (sum, dry) in sum.iter_mut().zip(mix.iter()) {
            let late = line[at];
            *sum += late * 0.25;
            line[at] = dry + damp.step(late, share) * back;
            at = (at + 1) % delay;
        }
    }
    for base in [0.005f32, 0.0017] {
        let delay = samples(base).max(1);
        let (mut line, mut at) = (vec![0.0f32; delay], 0);
        for sample in &mut sum {
            let late = line[at];
            let input = *sample + 0.7 * late;
            line[at] = input;
            *sample = late - 0.7 * input;
            at = (at + 1) % delay;
        }
    }
    for (mix, wet_sample) in mix.iter_mut().zip(sum) {
        *mix = *mix * (1.0 - 0.4 * wet) + wet_sample * wet;
    }
}

/// Bass and treble turned up or down, in factors.
pub(crate) fn tone_controls(mix: &mut [f32], bass: f32, treble: f32) {
    let (mut low, mut high) = (Low::default(), Low::default());
    let (low_share, high_share) = (share(250.0), share(3000.0));
    for sample in mix.iter_mut() {
        let below = low.step(*sample, low_share);
        let above = *sample - high.step(*sample, high_share);
        *sample += below * (bass - 1.0) + above * (treble - 1.0);
    }
}

/// What is above this is cut off, steeply.
pub(crate) fn dull(mix: &mut [f32], hz: f32) {
    let share = share(hz);
    for _ in 0..3 {
        let mut low = Low::default();
        mix.iter_mut().for_each(|sample| *sample = low.step(*sample, share));
    }
}

/// Loud is made less loud.
pub(crate) fn compress(mix: &mut [f32], amount: f32, release: f32) {
    let (mut level, slow) = (0.0f32, 1.0 - fall(release));
    for sample in mix.iter_mut() {
        let now = sample.abs();
        level += (now - level) * if now > level { 0.02 } else { slow };
        *sample /= 1.0 + amount * level * 4.0;
    }
}
