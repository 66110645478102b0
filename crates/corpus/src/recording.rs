//! What becomes of what a band plays: its room, the mix, and how it was recorded.

use crate::RATE;
use crate::band::Band;
use crate::lot::Lot;
use crate::noises::{hiss, speech};
use crate::sound::{Mix, compress, dull, room, tone_controls};
use crate::style::{Finish, Style};

/// How long the kick pushes the rest down, in seconds.
const PUMP: f64 = 0.25;

/// Each kick pushes the rest down by this share, from which it comes back.
pub(crate) fn pump(music: &mut [f32], kicks: &[f64], by: f32) {
    let length = (PUMP * RATE) as usize;
    for time in kicks {
        let start = ((time.max(0.0) * RATE) as usize).min(music.len());
        for (index, sample) in music[start..].iter_mut().take(length).enumerate() {
            *sample *= 1.0 - by * (1.0 - index as f32 / length as f32);
        }
    }
}

/// The band in its room and through its recorder.
pub(crate) fn finish(band: Band, style: &Style, lot: &mut Lot) -> (Mix, [Mix; 2]) {
    let Band { mut drums, mut music, kicks, pumps, .. } = band;
    pump(&mut music, &kicks, pumps);
    if lot.chance(0.7) {
        let (wet, size) = (lot.range(0.05, 0.6), lot.range(0.6, 1.8));
        room(&mut music, wet, size, lot);
    }
    if lot.chance(0.5) {
        let (wet, size) = (lot.range(0.02, 0.4), lot.range(0.4, 1.4));
        room(&mut drums, wet, size, lot);
    }
    let mut mix: Mix = drums.iter().zip(&music).map(|(d, m)| d + m).collect();
    if lot.chance(0.15) {
        // Somebody raps or talks over it.
        let level = lot.range(0.05, 0.4);
        speech(&mut mix, level, lot);
    }
    if lot.chance(0.08) {
        let level = lot.scale(0.003, 0.05);
        hiss(&mut mix, level, lot);
    }
    if lot.chance(0.7) {
        let (bass, treble) = (lot.scale(0.3, 2.0), lot.scale(0.3, 2.0));
        tone_controls(&mut mix, bass, treble);
    }
    if lot.chance(0.5) {
        let (amount, release) = (lot.range(0.2, 2.0), lot.range(0.05, 0.3));
        compress(&mut mix, amount, release);
    }
    if lot.chance(0.15) {
        let hz = lot.scale(2500.0, 9000.0);
        dull(&mut mix, hz);
    }
    let most = mix.iter().fold(1e-6f32, |most, sample| most.max(sample.abs()));
    let level = match style.finish {
        Finish::Usual => lot.scale(0.1, 1.3),
        Finish::Quiet => lot.scale(0.002, 0.02),
        Finish::Clipped => lot.range(3.0, 8.0),
    } / most;
    mix.iter_mut().for_each(|sample| *sample *= level);
    if lot.chance(0.3) || style.finish == Finish::Quiet {
        let floor = lot.scale(0.0002, 0.004) * if style.finish == Finish::Quiet { 0.1 } else { 1.0 };
        hiss(&mut mix, floor, lot);
    }
    mix.iter_mut().for_each(|sample| *sample = sample.clamp(-1.0, 1.0));
    (mix, [drums, music])
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn kicks_push_the_rest_down_for_a_quarter_of_a_second() {
        let mut music = vec![1.0; RATE as usize];
        // The last of them is cut off by the end.
        pump(&mut music, &[0.2, 0.9, 3.0], 0.8);
        let at = |time: f64| music[(time * RATE) as usize];
        for (time, level) in [(0.1, 1.0), (0.2, 0.2), (0.325, 0.6), (0.5, 1.0), (0.9, 0.2)] {
            assert!((at(time) - level).abs() < 1e-3, "{time}: {}", at(time));
        }
        let mut alone = vec![1.0; 100];
        pump(&mut alone, &[0.0], 0.0);
        assert_eq!(alone, [1.0; 100], "where nothing pumps");
    }
}
