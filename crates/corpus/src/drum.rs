//! Drums: each hit is added to a mix.

use crate::RATE;
use crate::lot::Lot;
use crate::sound::{Low, Mix, fall, part, samples, share};

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

#[cfg(test)]
mod tests {
    use super::*;

    /// One hit of a drum, half a second in.
    fn hit(mut drum: Drum, lot: &mut Lot) -> Mix {
        let mut mix = vec![0.0; RATE as usize * 3];
        drum.hit(&mut mix, 0.5, 0.8, lot);
        mix
    }

    /// The share of the power that lies in what changes from sample to sample: small where it is low.
    fn height(mix: &[f32]) -> f32 {
        let power = mix.iter().map(|sample| sample * sample).sum::<f32>();
        mix.windows(2).map(|pair| (pair[1] - pair[0]).powi(2)).sum::<f32>() / power
    }

    #[test]
    fn nothing_sounds_before_a_hit_and_it_dies_away() {
        let lot = &mut Lot::new(1);
        for _ in 0..6 {
            for drum in [Drum::kick(lot), Drum::snare(lot), Drum::clap(lot), Drum::rim(lot), Drum::tom(lot)] {
                let mix = hit(drum, lot);
                let power = |from: f64, until: f64| {
                    let part = &mix[(from * RATE) as usize..(until * RATE) as usize];
                    part.iter().map(|sample| sample * sample).sum::<f32>()
                };
                assert_eq!(power(0.0, 0.5), 0.0);
                assert!(power(0.5, 0.6) > 10.0 * power(1.5, 1.6), "{} {}", power(0.5, 0.6), power(1.5, 1.6));
            }
        }
    }

    #[test]
    fn kicks_are_low_and_metal_is_high() {
        let lot = &mut Lot::new(2);
        for _ in 0..10 {
            let (kick, tom) = (Drum::kick(lot), Drum::tom(lot));
            let decay = lot.scale(0.02, 0.5);
            let metal = Drum::metal(lot, decay);
            let [kick, tom, metal] = [kick, tom, metal].map(|drum| height(&hit(drum, lot)));
            assert!(kick.max(tom) < metal, "{kick} {tom} {metal}");
        }
    }

    #[test]
    fn no_two_takes_are_the_same_and_there_are_three() {
        let lot = &mut Lot::new(3);
        let mut drum = Drum::snare(lot);
        let mut mix = vec![0.0; RATE as usize];
        (0..9).for_each(|_| drum.hit(&mut mix, 0.0, 1.0, lot));
        assert_eq!(drum.takes.len(), TAKES);
        assert!(drum.takes[0] != drum.takes[1] && drum.takes[1] != drum.takes[2]);
    }

    #[test]
    fn what_would_sound_after_the_end_is_left_out() {
        let lot = &mut Lot::new(4);
        let mut mix = vec![0.0; 100];
        let mut drum = Drum::kick(lot);
        drum.hit(&mut mix, 5.0, 1.0, lot);
        assert!(mix.iter().all(|sample| *sample == 0.0) && mix.len() == 100);
    }
}
