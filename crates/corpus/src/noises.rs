//! What is not music: nobody should tap their foot to it.

use crate::RATE;
use crate::drum::Drum;
use crate::lot::Lot;
use crate::sound::{Mix, dull, part, room};
use crate::talk::talk;
use crate::tone::Tone;

/// What it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Noise {
    /// Nothing at all.
    Silence,
    /// White to brown noise.
    Hiss,
    /// The mains.
    Hum,
    /// Somebody who talks.
    Speech,
    /// Many who clap.
    Applause,
    /// Many who talk, with glasses.
    Crowd,
    /// One tone or chord, held.
    Drone,
    /// Knocks at odd times.
    Knocks,
    /// Insects and birds, each at a pace of its own.
    Chirps,
}

impl Noise {
    /// Every one.
    pub const ALL: [Self; 9] = [
        Self::Silence,
        Self::Hiss,
        Self::Hum,
        Self::Speech,
        Self::Applause,
        Self::Crowd,
        Self::Drone,
        Self::Knocks,
        Self::Chirps,
    ];
}

/// So many seconds of it.
#[must_use]
pub fn noise(kind: Noise, seconds: f64, seed: u64) -> Vec<f32> {
    let mut lot = Lot::new(seed ^ 0xa11_0c8e);
    let lot = &mut lot;
    let mut mix: Mix = vec![0.0; (seconds * RATE) as usize];
    match kind {
        Noise::Silence => {}
        Noise::Hiss => hiss(&mut mix, 0.2, lot),
        Noise::Hum => hum(&mut mix, lot),
        Noise::Speech => speech(&mut mix, 0.4, lot),
        Noise::Applause => applause(&mut mix, seconds, lot),
        Noise::Crowd => {
            let talkers = 3 + lot.below(6);
            (0..talkers).for_each(|_| speech(&mut mix, 0.12, lot));
            knocks(&mut mix, seconds, 1.2, lot);
            hiss(&mut mix, 0.02, lot);
        }
        Noise::Drone => {
            let tone = Tone::held(lot, [0.1, 1.0]);
            for _ in 0..1 + lot.below(4) {
                let hz = lot.scale(60.0, 900.0);
                tone.play(&mut mix, 0.1, seconds as f32, hz, 0.2, lot);
            }
        }
        Noise::Knocks => knocks(&mut mix, seconds, 2.5, lot),
        Noise::Chirps => {
            (0..1 + lot.below(5)).for_each(|_| chirps(&mut mix, lot));
            hiss(&mut mix, 0.01, lot);
        }
    }
    if lot.chance(0.6) && kind != Noise::Silence {
        let (wet, size) = (lot.range(0.05, 0.4), lot.range(0.6, 1.6));
        room(&mut mix, wet, size, lot);
    }
    let level = lot.scale(0.02, 1.0);
    mix.iter_mut().for_each(|sample| *sample = (*sample * level).clamp(-1.0, 1.0));
    mix
}

pub(crate) fn hiss(mix: &mut Mix, level: f32, lot: &mut Lot) {
    let mut noise: Vec<f32> = (0..mix.len()).map(|_| lot.both()).collect();
    if lot.chance(0.6) {
        let hz = lot.scale(200.0, 12000.0);
        dull(&mut noise, hz);
    }
    // It breathes a little, but in no time.
    let (mut swell, mut aim) = (1.0f32, 1.0f32);
    for (index, (mix, noise)) in mix.iter_mut().zip(noise).enumerate() {
        if index % 9600 == 0 {
            aim = lot.range(0.7, 1.3);
        }
        swell += (aim - swell) * 1e-4;
        *mix += noise * level * swell;
    }
}

fn hum(mix: &mut Mix, lot: &mut Lot) {
    let hz = lot.pick(&[50.0f32, 60.0]);
    let levels: Vec<f32> = (0..12).map(|n| lot.unit() / (n + 1) as f32).collect();
    for (index, mix) in mix.iter_mut().enumerate() {
        let turn = (index as f64 / RATE * f64::from(hz)).fract() as f32;
        let partial = |(n, level): (usize, &f32)| level * (turn * (n + 1) as f32 * std::f32::consts::TAU).sin();
        *mix += 0.2 * levels.iter().enumerate().map(partial).sum::<f32>();
    }
}

/// How often somebody talks as plainly as a toy does.
const TOY: f32 = 0.12;

/// Somebody talks, as people do or as a toy.
pub(crate) fn speech(mix: &mut Mix, level: f32, lot: &mut Lot) {
    if lot.chance(TOY) { toy(mix, level, lot) } else { talk(mix, level, lot) }
}

/// Syllables of odd lengths with pauses between words and sentences; vowels through two resonances, and hissed consonants.
fn toy(mix: &mut Mix, level: f32, lot: &mut Lot) {
    let end = mix.len() as f64 / RATE;
    let mut time = f64::from(lot.range(0.0, 1.0));
    let pitch = lot.scale(85.0, 240.0);
    let mut consonant = Drum::clap(lot);
    while time < end {
        for _ in 0..2 + lot.below(9) {
            if lot.chance(0.6) {
                consonant.hit(mix, time, level * lot.range(0.05, 0.3), lot);
                time += f64::from(lot.range(0.02, 0.09));
            }
            let length = lot.scale(0.05, 0.28);
            let vowel = Tone::sung(lot);
            let hz = pitch * lot.range(0.8, 1.3);
            vowel.play(mix, time, length, hz, level * lot.range(0.5, 1.0), lot);
            time += f64::from(length + lot.range(0.0, 0.07));
        }
        time += f64::from(lot.scale(0.08, 1.2));
    }
}

fn applause(mix: &mut Mix, seconds: f64, lot: &mut Lot) {
    let mut hands: Vec<Drum> = (0..12).map(|_| Drum::clap(lot)).collect();
    let people = 6 + lot.below(50);
    for _ in 0..people {
        let hand = lot.below(hands.len());
        let pace = f64::from(lot.range(0.16, 0.4));
        let mut time = f64::from(lot.unit());
        let level = lot.range(0.02, 0.2);
        while time < seconds {
            hands[hand].hit(mix, time, level * lot.range(0.6, 1.0), lot);
            time += pace * f64::from(lot.range(0.75, 1.3));
        }
    }
}

fn knocks(mix: &mut Mix, seconds: f64, rate: f32, lot: &mut Lot) {
    let mut time = 0.0;
    while time < seconds {
        let mut drum = match lot.below(4) {
            0 => Drum::rim(lot),
            1 => Drum::tom(lot),
            2 => Drum::kick(lot),
            _ => Drum::clap(lot),
        };
        drum.hit(mix, time, lot.range(0.1, 0.6), lot);
        // As rain falls: no knock knows of the last.
        time += f64::from(-lot.unit().max(1e-4).ln() / rate);
    }
}

/// One animal that calls: a few short tones, over and over, at about the same pace, for a while.
fn chirps(mix: &mut Mix, lot: &mut Lot) {
    let end = mix.len() as f64 / RATE;
    let (hz, bend) = (lot.scale(900.0, 7_000.0), lot.bell() * 0.2);
    let (tones, length, gap) = (1 + lot.below(6), lot.scale(0.012, 0.12), lot.scale(0.01, 0.08));
    let (pace, uneven) = (lot.scale(0.25, 3.0), lot.scale(0.01, 0.6));
    let level = lot.scale(0.02, 0.3);
    let mut time = f64::from(lot.range(0.0, 3.0));
    while time < end {
        for tone in 0..tones {
            call(mix, time + f64::from(tone as f32 * (length + gap)), length, [hz, bend], level);
        }
        let rest = if lot.chance(0.04) { lot.range(1.0, 8.0) } else { 0.0 };
        time += f64::from(tones as f32 * (length + gap) + pace * (uneven * lot.bell()).exp() + rest);
    }
}

/// A short tone that glides.
fn call(mix: &mut Mix, time: f64, length: f32, [hz, bend]: [f32; 2], level: f32) {
    let part = part(mix, time, length);
    let (count, mut turn) = (part.len() as f32, 0.0f32);
    for (index, sample) in part.iter_mut().enumerate() {
        let gone = index as f32 / count;
        turn = (turn + hz * (bend * gone).exp() / RATE as f32).fract();
        *sample += level * (gone * std::f32::consts::PI).sin() * (turn * std::f32::consts::TAU).sin();
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_noise_is_another_with_another_seed_and_none_is_broken() {
        for kind in Noise::ALL {
            let [one, again, other] = [3, 3, 4].map(|seed| noise(kind, 2.0, seed));
            assert_eq!((one.len(), &one), (2 * RATE as usize, &again));
            assert_eq!(one == other, kind == Noise::Silence, "{kind:?}");
            assert!(one.iter().chain(&other).all(|sample| sample.abs() <= 1.0), "{kind:?}");
            assert_eq!(one.iter().all(|sample| *sample == 0.0), kind == Noise::Silence, "{kind:?}");
        }
    }

    #[test]
    fn animals_call_in_short_tones_with_silence_between() {
        for seed in 0..6 {
            let mut mix = vec![0.0; 20 * RATE as usize];
            chirps(&mut mix, &mut Lot::new(seed));
            let loud: Vec<bool> = mix.chunks(480).map(|part| part.iter().any(|sample| sample.abs() > 0.005)).collect();
            let calls = loud.windows(2).filter(|pair| !pair[0] && pair[1]).count();
            let share = loud.iter().filter(|loud| **loud).count() as f32 / loud.len() as f32;
            assert!(calls >= 3 && share < 0.8, "{seed}: {calls} calls, {share}");
        }
    }
}
