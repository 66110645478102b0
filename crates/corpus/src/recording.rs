//! What becomes of what a band plays: its room, the mix, and how it was recorded.

use crate::RATE;
use crate::band::Band;
use crate::lot::Lot;
use crate::noises::{hiss, speech};
use crate::sound::{Mix, compress, dull, room, tone_controls};
use crate::style::{Finish, Style};

/// The band in its room and through its recorder.
pub(crate) fn finish(band: Band, style: &Style, lot: &mut Lot) -> (Mix, [Mix; 2]) {
    let Band { mut drums, mut music, kicks, pumps, .. } = band;
    if pumps > 0.0 {
        for time in kicks {
            let start = ((time.max(0.0) * RATE) as usize).min(music.len());
            let length = (0.25 * RATE) as usize;
            for (index, sample) in music[start..].iter_mut().take(length).enumerate() {
                *sample *= 1.0 - pumps * (1.0 - index as f32 / length as f32);
            }
        }
    }
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
    use crate::compose::piece;
    use crate::style::find;

    /// The strongest sample of a piece, and the share of its samples that lie at the end of what there is.
    fn strongest(style: &str, seed: u64) -> (f32, f32) {
        let piece = piece(find(style).expect("a style"), 6.0, seed);
        let most = piece.samples.iter().fold(0.0f32, |most, sample| most.max(sample.abs()));
        let cut = piece.samples.iter().filter(|sample| sample.abs() >= 1.0).count();
        (most, cut as f32 / piece.samples.len() as f32)
    }

    #[test]
    fn quiet_recordings_are_quiet_and_far_too_loud_ones_are_cut() {
        for seed in 0..3 {
            let (most, cut) = strongest("quiet", seed);
            assert!(most < 0.03 && cut == 0.0, "{most} {cut}");
            let (most, cut) = strongest("clipped", seed);
            assert!(most == 1.0 && cut > 0.001, "{most} {cut}");
        }
    }
}
