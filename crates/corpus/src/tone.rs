//! Pitched instruments: each note is added to a mix.

use crate::RATE;
use crate::lot::Lot;
use crate::sound::{Low, Mix, fall, part, samples, share};

/// Samples of a period in a table.
const TABLE: usize = 2048;

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

#[cfg(test)]
mod tests {
    use super::*;

    fn note(tone: &Tone, seconds: f32, hz: f32) -> Mix {
        let mut mix = vec![0.0; RATE as usize * 3];
        tone.play(&mut mix, 0.0, seconds, hz, 1.0, &mut Lot::new(9));
        mix
    }

    /// How alike a sound is with itself so many samples later, -1..1.
    fn alike(mix: &[f32], later: usize) -> f32 {
        let part = &mix[4_800..24_000];
        let moved = &mix[4_800 + later..24_000 + later];
        let product = |a: &[f32], b: &[f32]| a.iter().zip(b).map(|(a, b)| a * b).sum::<f32>();
        product(part, moved) / (product(part, part) * product(moved, moved)).sqrt().max(1e-9)
    }

    #[test]
    fn notes_have_their_pitch() {
        let lot = &mut Lot::new(5);
        for _ in 0..6 {
            for hz in [110.0, 240.0] {
                let mut tone = Tone::held(lot, [0.005, 0.02]);
                // What is not the pitch's own.
                (tone.air, tone.vibrato, tone.detune) = (0.0, [0.0, 5.0], 0.0);
                let mix = note(&tone, 1.0, hz);
                let period = (RATE as f32 / hz).round() as usize;
                assert!(alike(&mix, period) > 0.95, "{hz} Hz: {}", alike(&mix, period));
                assert!(alike(&mix, period * 3 / 5) < 0.9, "{hz} Hz: {}", alike(&mix, period * 3 / 5));
            }
        }
    }

    #[test]
    fn struck_ones_set_in_at_once_and_die_away_and_held_ones_swell_and_stay() {
        let lot = &mut Lot::new(6);
        let power = |mix: &[f32], at: f64| {
            mix[(at * RATE) as usize..((at + 0.2) * RATE) as usize].iter().map(|sample| sample * sample).sum::<f32>()
        };
        for _ in 0..6 {
            let (struck, held) = (Tone::struck(lot), Tone::held(lot, [0.3, 0.5]));
            assert!(struck.is_sudden() && !held.is_sudden());
            let [struck, held] = [struck, held].map(|tone| note(&tone, 1.5, 220.0));
            assert!(
                power(&struck, 0.0) > 10.0 * power(&struck, 2.5),
                "{} {}",
                power(&struck, 0.0),
                power(&struck, 2.5)
            );
            assert!(power(&held, 0.0) < 0.5 * power(&held, 1.2), "{} {}", power(&held, 0.0), power(&held, 1.2));
            assert!(power(&held, 2.7) < 0.01 * power(&held, 1.2), "it ends");
        }
    }
}
