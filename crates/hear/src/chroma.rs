//! How strong each of the twelve notes is: the magnitudes of a spectrum folded into one octave (a pitch class profile,
//! T. Fujishima, "Realtime chord recognition of musical sound", ICMC 1999).

use splimo_core::music::PITCHES;

use crate::spectrum::{BIN_HZ, BINS};

/// Below this a bin holds more than one note, and above there are mostly overtones, in hertz.
const LOWEST: f32 = 180.0;
const HIGHEST: f32 = 2_500.0;
/// Middle C in equal temperament with A at 440 Hz.
const MIDDLE_C: f32 = 261.625_58;
/// How much of the way to the new notes is gone in a hop.
const PACE: f32 = 0.25;

/// Finds the notes in spectra.
pub struct ChromaMeter {
    /// For each bin the note and its share of it; none outside the range.
    notes: Vec<Option<(usize, f32)>>,
    smooth: [f32; PITCHES],
}

impl Default for ChromaMeter {
    fn default() -> Self {
        let note = |bin: usize| {
            let hertz = bin as f32 * BIN_HZ;
            let place = 12.0 * (hertz / MIDDLE_C).log2();
            let nearest = place.round();
            // A bin between two notes says little of either.
            let share = 1.0 - 2.0 * (place - nearest).abs();
            (LOWEST..HIGHEST).contains(&hertz).then_some(((nearest as i32).rem_euclid(12) as usize, share))
        };
        Self { notes: (0..BINS).map(note).collect(), smooth: [0.0; PITCHES] }
    }
}

impl ChromaMeter {
    /// The strength of each note from C on in a spectrum of [`BINS`] magnitudes, 0..1, the strongest of a sounding one 1.
    /// Allocates nothing.
    pub fn hop(&mut self, magnitudes: &[f32]) -> [f32; PITCHES] {
        let mut energy = [0.0; PITCHES];
        for bin in 1..magnitudes.len().min(BINS) - 1 {
            let Some((note, share)) = self.notes[bin] else { continue };
            let magnitude = magnitudes[bin];
            // Only where something stands out: a broad noise has no note.
            if magnitude > magnitudes[bin - 1] && magnitude >= magnitudes[bin + 1] {
                energy[note] += magnitude * magnitude * share;
            }
        }
        let all: f32 = energy.iter().sum();
        for (smooth, energy) in self.smooth.iter_mut().zip(energy) {
            let wanted = if all > 1e-9 { energy / all } else { 0.0 };
            *smooth += (wanted - *smooth) * PACE;
        }
        let strongest = self.smooth.iter().copied().fold(0.0, f32::max);
        if strongest < 1e-3 { [0.0; PITCHES] } else { self.smooth.map(|note| note / strongest) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::spectrum::Spectrum;
    use crate::{HOP, SAMPLE_RATE};

    /// The notes of a chord of sines after half a second.
    fn notes(hertz: &[f32]) -> [f32; PITCHES] {
        let (mut spectrum, mut chroma) = (Spectrum::default(), ChromaMeter::default());
        let mut found = [0.0; PITCHES];
        for hop in 0..47 {
            let sample = |i: usize| {
                let time = (hop * HOP + i) as f32 / SAMPLE_RATE as f32;
                hertz.iter().map(|h| (std::f32::consts::TAU * h * time).sin() * 0.2).sum::<f32>()
            };
            found = chroma.hop(spectrum.hop(&std::array::from_fn(sample)));
        }
        found
    }

    #[test]
    fn a_chord_is_its_notes() {
        // A minor: A, C, E.
        let found = notes(&[440.0, 523.25, 659.26]);
        for (note, strength) in found.iter().enumerate() {
            let sounds = [0, 4, 9].contains(&note);
            assert!(if sounds { *strength > 0.3 } else { *strength < 0.15 }, "{note}: {found:?}");
        }
    }

    #[test]
    fn silence_has_no_notes() {
        assert_eq!(notes(&[]), [0.0; PITCHES]);
    }
}
