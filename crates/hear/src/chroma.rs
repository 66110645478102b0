//! The strength of each of the twelve notes: the peaks of a spectrum folded into one octave (a pitch class profile, T.
//! Fujishima, "Realtime chord recognition of musical sound", ICMC 1999), each at its own frequency between the bins, against
//! the tuning of the music (E. Gómez, "Tonal description of polyphonic audio for music content processing", INFORMS Journal on
//! Computing 18(3), 2006).

use splimo_time::music::PITCHES;

use crate::quarter::{QUARTER_RATE, Quarter};
use crate::spectrum::Windowed;
use crate::{HOP, HOPS_PER_SECOND};

/// Samples of a window, of the quarter that is looked at: 171 ms. From about 400 Hz on two notes that are next to each other are
/// two peaks; below, one that sounds alone is itself.
const WINDOW: usize = 2048;
/// Peaks outside of these say little of notes: those of drums, and overtones. In hertz.
const LOWEST: f32 = 60.0;
const HIGHEST: f32 = 2_000.0;
/// Middle C in equal temperament with A at 440 Hz.
const MIDDLE_C: f32 = 261.625_58;
/// Peaks that are weaker than this share of the strongest are none.
const FAINT: f32 = 0.01;
/// Below this the strongest peak is none either, of full scale.
const SILENT: f32 = 1e-5;
/// The share of the way to the new notes that is gone in a hop.
const PACE: f32 = 0.25;
/// Seconds after which a peak counts half as much for the tuning.
const MEMORY: f64 = 10.0;
/// The most by which the tuning may be off before it is rather that of the next note, in semitones: more than a half, so that
/// it stays what it is where it is a quarter tone.
const OFF: f32 = 0.55;

/// Finds the notes of samples.
pub struct ChromaMeter {
    quarter: Quarter,
    spectrum: Windowed<WINDOW>,
    tuning: Tuning,
    smooth: [f32; PITCHES],
}

impl Default for ChromaMeter {
    fn default() -> Self {
        Self {
            quarter: Quarter::default(),
            spectrum: Windowed::default(),
            tuning: Tuning::default(),
            smooth: [0.0; PITCHES],
        }
    }
}

impl ChromaMeter {
    /// The strength of each note from C on in the samples that end with a hop, 0..1, the strongest of a sounding one 1.
    /// Allocates nothing.
    pub fn hop(&mut self, samples: &[f32; HOP]) -> [f32; PITCHES] {
        let quarter = self.quarter.hop(samples);
        let magnitudes = self.spectrum.hop(&quarter);
        let mut notes = [0.0; PITCHES];
        self.tuning.forget();
        for (place, strength) in peaks(magnitudes) {
            self.tuning.take(place, strength);
            let place = place - self.tuning.off;
            let nearest = place.round();
            // What lies between two notes says little of either.
            let share = 1.0 - 2.0 * (place - nearest).abs();
            notes[(nearest as i32).rem_euclid(PITCHES as i32) as usize] += strength * share;
        }
        let all: f32 = notes.iter().sum();
        for (smooth, note) in self.smooth.iter_mut().zip(notes) {
            let wanted = if all > 0.0 { note / all } else { 0.0 };
            *smooth += (wanted - *smooth) * PACE;
        }
        let strongest = self.smooth.iter().copied().fold(0.0, f32::max);
        if strongest < 1e-3 { [0.0; PITCHES] } else { self.smooth.map(|note| note / strongest) }
    }
}

/// The peaks of a spectrum: where they lie, in semitones from middle C on, and how strong they are.
fn peaks(magnitudes: &[f32]) -> impl Iterator<Item = (f32, f32)> {
    let bin = |hertz: f32| (hertz * WINDOW as f32 / QUARTER_RATE) as usize;
    let range = bin(LOWEST).max(1)..bin(HIGHEST).min(magnitudes.len() - 1);
    let strongest = magnitudes[range.clone()].iter().copied().fold(0.0, f32::max);
    let least = (strongest * FAINT).max(SILENT);
    range.filter_map(move |bin| {
        let [before, here, after] = [magnitudes[bin - 1], magnitudes[bin], magnitudes[bin + 1]];
        if here < least || here <= before || here < after {
            return None;
        }
        let hertz = (bin as f32 + between([before, here, after])) * QUARTER_RATE / WINDOW as f32;
        Some((12.0 * (hertz / MIDDLE_C).log2(), here))
    })
}

/// The place of a peak beside the middle of three bins, in bins: a parabola through their logarithms.
fn between(bins: [f32; 3]) -> f32 {
    let [before, here, after] = bins.map(|bin| bin.max(1e-9).ln());
    let bend = before - 2.0 * here + after;
    if bend > -1e-6 { 0.0 } else { (0.5 * (before - after) / bend).clamp(-0.5, 0.5) }
}

/// The interval by which the music is tuned higher than to an A of 440 Hz, as records that are played faster are.
#[derive(Debug, Clone, Default)]
struct Tuning {
    /// The sum of the peaks as arrows, of which a turn is a semitone.
    sum: [f32; 2],
    /// In semitones.
    off: f32,
}

impl Tuning {
    fn forget(&mut self) {
        let kept = 0.5f64.powf(1.0 / (MEMORY * HOPS_PER_SECOND)) as f32;
        self.sum = self.sum.map(|sum| sum * kept);
        if self.sum != [0.0; 2] {
            let off = self.sum[1].atan2(self.sum[0]) / std::f32::consts::TAU;
            // The turn that is nearest to what it has been.
            let near = off + (self.off - off).round();
            self.off = if near.abs() > OFF { off } else { near };
        }
    }

    fn take(&mut self, place: f32, strength: f32) {
        let (sin, cos) = (std::f32::consts::TAU * place).sin_cos();
        self.sum[0] += strength * cos;
        self.sum[1] += strength * sin;
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::SAMPLE_RATE;

    /// The notes of a chord of sines after a second, and the tuning.
    fn notes(hertz: &[f32]) -> ([f32; PITCHES], f32) {
        let mut chroma = ChromaMeter::default();
        let mut found = [0.0; PITCHES];
        for hop in 0..94 {
            let sample = |i: usize| {
                let time = (hop * HOP + i) as f32 / SAMPLE_RATE as f32;
                hertz.iter().map(|h| (std::f32::consts::TAU * h * time).sin() * 0.2).sum::<f32>()
            };
            found = chroma.hop(&std::array::from_fn(sample));
        }
        (found, chroma.tuning.off)
    }

    fn hertz(note: f32) -> f32 {
        MIDDLE_C * (note / 12.0).exp2()
    }

    #[test]
    fn a_chord_is_its_notes() {
        // A minor: A, C, E.
        let (found, _) = notes(&[440.0, 523.25, 659.26]);
        for (note, strength) in found.iter().enumerate() {
            let sounds = [0, 4, 9].contains(&note);
            assert!(if sounds { *strength > 0.5 } else { *strength < 0.1 }, "{note}: {found:?}");
        }
    }

    #[test]
    fn each_note_of_five_octaves_is_itself() {
        for note in -24i32..36 {
            let (found, _) = notes(&[hertz(note as f32)]);
            let strongest = (0..PITCHES).max_by(|a, b| found[*a].total_cmp(&found[*b])).expect("some");
            assert_eq!(strongest, note.rem_euclid(12) as usize, "{note}: {found:?}");
            let second = (0..PITCHES).filter(|n| *n != strongest).map(|n| found[n]).fold(0.0, f32::max);
            assert!(second < 0.2, "{note}: {found:?}");
        }
    }

    #[test]
    fn a_record_that_is_played_faster_has_the_notes_it_has() {
        for off in [-0.4, -0.2, 0.3, 0.43] {
            let (found, tuning) = notes(&[0.0, 4.0, 7.0].map(|note| hertz(note + off)));
            assert!((tuning - off).abs() < 0.05, "{off}: {tuning}");
            let sounds: Vec<usize> = (0..PITCHES).filter(|note| found[*note] > 0.3).collect();
            assert_eq!(sounds, [0, 4, 7], "{off}: {found:?}");
        }
    }

    #[test]
    fn a_tuning_of_a_quarter_tone_stays_what_it_is() {
        let mut tuning = Tuning::default();
        let mut before = 0.0;
        for hop in 0..2000 {
            // About half a semitone, now a little less, now a little more.
            tuning.take(0.5 + 0.04 * (hop as f32 / 40.0).sin(), 1.0);
            tuning.forget();
            assert!(hop == 0 || (tuning.off - before).abs() < 0.1, "{hop}: {before} {}", tuning.off);
            before = tuning.off;
        }
    }

    #[test]
    fn silence_has_no_notes() {
        assert_eq!(notes(&[]).0, [0.0; PITCHES]);
    }
}
