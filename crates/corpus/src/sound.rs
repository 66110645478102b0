//! The mix that instruments play into, and what is done to one: rooms, tone, loudness.

use crate::RATE;
use crate::lot::Lot;

/// The mix of an instrument or of all of them.
pub(crate) type Mix = Vec<f32>;

/// So many seconds in samples.
pub(crate) fn samples(seconds: f32) -> usize {
    (seconds.max(0.0) * RATE as f32) as usize
}

/// The part of a mix from a time on, and how many samples of a note of so many seconds fit.
pub(crate) fn part(mix: &mut Mix, time: f64, seconds: f32) -> &mut [f32] {
    let start = ((time.max(0.0) * RATE) as usize).min(mix.len());
    let end = (start + samples(seconds)).min(mix.len());
    &mut mix[start..end]
}

/// A low-pass of one pole.
#[derive(Clone, Copy, Default)]
pub(crate) struct Low(f32);

impl Low {
    /// With the share of the way that is gone each sample.
    pub(crate) fn step(&mut self, sample: f32, share: f32) -> f32 {
        self.0 += (sample - self.0) * share;
        self.0
    }
}

/// The share of the way that a [`Low`] goes each sample, where it lets through what is below this.
pub(crate) fn share(hz: f32) -> f32 {
    1.0 - (-std::f32::consts::TAU * hz / RATE as f32).exp()
}

/// By what a level is multiplied each sample, where it falls to a third in this time.
pub(crate) fn fall(seconds: f32) -> f32 {
    (-1.0 / (seconds.max(1e-4) * RATE as f32)).exp()
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

#[cfg(test)]
mod tests {
    use super::*;

    fn tone(hz: f32, level: f32, seconds: f32) -> Mix {
        (0..samples(seconds)).map(|i| level * (i as f32 * hz * std::f32::consts::TAU / RATE as f32).sin()).collect()
    }

    /// The power of what has settled.
    fn power(mix: &[f32]) -> f32 {
        let settled = &mix[mix.len() / 2..];
        settled.iter().map(|sample| sample * sample).sum::<f32>() / settled.len() as f32
    }

    #[test]
    fn bass_and_treble_are_turned_up_and_down_and_the_rest_is_not() {
        for (hz, changed) in [(40.0, 4.0), (900.0, 1.0), (14_000.0, 0.25)] {
            let plain = tone(hz, 0.5, 0.4);
            let mut turned = plain.clone();
            tone_controls(&mut turned, 2.0, 0.5);
            let by = power(&turned) / power(&plain);
            assert!((by / changed).ln().abs() < 0.5, "{hz} Hz by {by}");
        }
    }

    #[test]
    fn what_is_dulled_keeps_its_low_end() {
        let by = |hz: f32| {
            let plain = tone(hz, 0.5, 0.4);
            let mut dulled = plain.clone();
            dull(&mut dulled, 2_500.0);
            power(&dulled) / power(&plain)
        };
        assert!(by(100.0) > 0.95 && by(10_000.0) < 0.01, "{} {}", by(100.0), by(10_000.0));
    }

    #[test]
    fn loud_becomes_less_loud_and_soft_hardly() {
        let by = |level: f32| {
            let mut mix = tone(300.0, level, 0.6);
            compress(&mut mix, 1.0, 0.1);
            (power(&mix) / power(&tone(300.0, level, 0.6))).sqrt()
        };
        assert!(by(0.8) < 0.5 && by(0.01) > 0.95, "{} {}", by(0.8), by(0.01));
    }

    #[test]
    fn a_room_goes_on_where_the_sound_is_over_and_falls_silent() {
        let mut mix = vec![0.0; samples(4.0)];
        mix[..480].fill(0.5);
        room(&mut mix, 0.5, 1.0, &mut Lot::new(7));
        let power = |from: f32, until: f32| mix[samples(from)..samples(until)].iter().map(|s| s * s).sum::<f32>();
        let tail = [power(0.1, 0.3), power(0.5, 0.7), power(3.0, 3.2)];
        assert!(tail[0] > 1e-3 && tail[0] > tail[1] && tail[1] > 10.0 * tail[2], "{tail:?}");
    }
}
