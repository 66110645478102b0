//! The key, and when the chord changes, from the strengths of the notes (C. L. Krumhansl and E. J. Kessler, "Tracing the dynamic
//! changes in perceived tonal organization", 1982; the correlation of C. L. Krumhansl, "Cognitive foundations of musical pitch",
//! 1990, with the profiles of J. Albrecht and D. Shanahan, "The use of large corpora to train a new type of key-finding algorithm",
//! Music Perception 31(1), 2013).

use splimo_time::music::{Key, PITCHES};

use crate::HOPS_PER_SECOND;

/// The fit of each degree to a major and a minor key.
const MAJOR: [f32; PITCHES] = [0.238, 0.006, 0.111, 0.006, 0.137, 0.094, 0.016, 0.214, 0.009, 0.080, 0.008, 0.081];
const MINOR: [f32; PITCHES] = [0.220, 0.006, 0.104, 0.123, 0.019, 0.103, 0.012, 0.214, 0.062, 0.022, 0.061, 0.052];
/// The power to which the notes are taken: one that sounds all along counts for little more than one that is heard now and then.
const PRESSED: f32 = 0.4;
/// Seconds after which a note counts half as much for the key.
const MEMORY: f64 = 30.0;
/// The lead in fit that another key needs before it is believed.
const STAY: f32 = 0.03;
/// The lead of the best key at which it is trusted fully.
const CLEAR: f32 = 0.12;
/// The share of the way to the new notes that the notes of the chord go in a hop.
const CHORD_PACE: f32 = 0.08;
/// The likeness below which two chords are two.
const ALIKE: f32 = 0.88;
/// Hops between two changes, at the least: 0.64 s.
const REST: u32 = (0.64 * HOPS_PER_SECOND) as u32;
/// Hops after which a chord that has just begun is itself, and no mixture with the one before: 0.48 s.
const SETTLED: u32 = (0.48 * HOPS_PER_SECOND) as u32;

/// Follows key and chords.
#[derive(Debug, Clone)]
pub struct KeyMeter {
    notes: [f32; PITCHES],
    weight: f32,
    key: Key,
    confidence: f32,
    chord: [f32; PITCHES],
    held: [f32; PITCHES],
    rest: u32,
    hops: u32,
}

impl Default for KeyMeter {
    fn default() -> Self {
        Self {
            notes: [0.0; PITCHES],
            weight: 0.0,
            key: Key::default(),
            confidence: 0.0,
            chord: [0.0; PITCHES],
            held: [0.0; PITCHES],
            rest: 0,
            hops: 0,
        }
    }
}

impl KeyMeter {
    /// Takes the notes of a hop, each 0..1. Returns the key, how sure it is (0..1), and whether the chord changed. Allocates
    /// nothing.
    pub fn hop(&mut self, notes: &[f32; PITCHES]) -> (Key, f32, bool) {
        let fade = 0.5f64.powf(1.0 / (MEMORY * HOPS_PER_SECOND)) as f32;
        let sounds = notes.iter().any(|note| *note > 0.0);
        if sounds {
            self.weight = self.weight * fade + 1.0;
            for (sum, note) in self.notes.iter_mut().zip(notes) {
                *sum = *sum * fade + note;
            }
        }
        self.hops += 1;
        if self.hops.is_multiple_of(24) {
            self.weigh();
        }
        (self.key, self.confidence, sounds && self.changed(notes))
    }

    fn weigh(&mut self) {
        let notes = self.notes.map(|note| note.max(0.0).powf(PRESSED));
        let fit = |key: Key| {
            let profile = if key.minor { &MINOR } else { &MAJOR };
            correlation(|note| notes[(note + usize::from(key.tonic)) % PITCHES], profile)
        };
        let all = (0..24u8).map(|n| Key { tonic: n % 12, minor: n >= 12 });
        let (mut best, mut second) = ((Key::default(), -1.0f32), -1.0f32);
        for key in all {
            let fits = fit(key);
            if fits > best.1 {
                second = best.1;
                best = (key, fits);
            } else {
                second = second.max(fits);
            }
        }
        if best.1 > fit(self.key) + STAY || self.confidence == 0.0 {
            self.key = best.0;
        }
        // Two seconds of notes are needed before much is said.
        let heard = (self.weight / (2.0 * HOPS_PER_SECOND as f32)).min(1.0);
        self.confidence = heard * best.1.max(0.0) * ((best.1 - second) / CLEAR).clamp(0.0, 1.0).max(0.05);
    }

    /// The chord changed where its notes are not alike any more to those when it changed last.
    fn changed(&mut self, notes: &[f32; PITCHES]) -> bool {
        for (chord, note) in self.chord.iter_mut().zip(notes) {
            *chord += (note - *chord) * CHORD_PACE;
        }
        self.rest = self.rest.saturating_sub(1);
        let length = |v: &[f32; PITCHES]| v.iter().map(|x| x * x).sum::<f32>().sqrt();
        let (a, b) = (length(&self.chord), length(&self.held));
        if a < 0.2 {
            return false;
        }
        if self.rest > REST - SETTLED {
            self.held = self.chord;
            return false;
        }
        let alike = self.chord.iter().zip(&self.held).map(|(x, y)| x * y).sum::<f32>() / (a * b).max(1e-9);
        if alike >= ALIKE {
            // It may drift as long as it stays itself.
            for (held, chord) in self.held.iter_mut().zip(self.chord) {
                *held += (chord - *held) * 0.01;
            }
            return false;
        }
        if self.rest > 0 {
            return false;
        }
        self.held = self.chord;
        self.rest = REST;
        b > 0.0
    }
}

fn correlation(notes: impl Fn(usize) -> f32, profile: &[f32; PITCHES]) -> f32 {
    let mean = (0..PITCHES).map(&notes).sum::<f32>() / PITCHES as f32;
    let middle = profile.iter().sum::<f32>() / PITCHES as f32;
    let (mut both, mut one, mut other) = (0.0, 0.0, 0.0);
    for (note, fits) in profile.iter().enumerate() {
        let (x, y) = (notes(note) - mean, fits - middle);
        both += x * y;
        one += x * x;
        other += y * y;
    }
    both / (one * other).sqrt().max(1e-9)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn chord(notes: &[usize]) -> [f32; PITCHES] {
        let mut chord = [0.0; PITCHES];
        notes.iter().for_each(|note| chord[*note] = 1.0);
        chord
    }

    #[test]
    fn a_cadence_tells_its_key() {
        // The same chords a fourth higher have the key a fourth higher; in minor the relative major is not taken for it.
        for (chords, key) in [
            ([[0, 4, 7], [5, 9, 0], [7, 11, 2], [0, 4, 7]], "C major"),
            ([[5, 9, 0], [10, 2, 5], [0, 4, 7], [5, 9, 0]], "F major"),
            ([[9, 0, 4], [2, 5, 9], [4, 8, 11], [9, 0, 4]], "A minor"),
        ] {
            let mut meter = KeyMeter::default();
            let mut found = (Key::default(), 0.0);
            let mut changes = 0;
            for chord_notes in chords {
                for _ in 0..188 {
                    let (key, confidence, changed) = meter.hop(&chord(&chord_notes));
                    found = (key, confidence);
                    changes += u32::from(changed);
                }
            }
            assert_eq!(found.0.to_string(), key);
            assert!(found.1 > 0.3, "{key}: {}", found.1);
            assert_eq!(changes, 3, "{key}");
        }
    }

    #[test]
    fn each_of_the_24_keys_is_told_by_its_cadence() {
        for (minor, cadence) in
            [(false, [[0, 4, 7], [5, 9, 12], [7, 11, 14]]), (true, [[0, 3, 7], [5, 8, 12], [7, 11, 14]])]
        {
            for tonic in 0..PITCHES {
                let mut meter = KeyMeter::default();
                let mut key = Key::default();
                for notes in cadence.into_iter().chain([cadence[0]]) {
                    let notes = chord(&notes.map(|note| (note + tonic) % PITCHES));
                    key = (0..188).map(|_| meter.hop(&notes).0).last().expect("some");
                }
                assert_eq!(key, Key { tonic: tonic as u8, minor });
            }
        }
    }

    #[test]
    fn what_has_no_notes_has_no_key() {
        let mut meter = KeyMeter::default();
        let sure = (0..500).map(|_| meter.hop(&[0.0; PITCHES]).1).fold(0.0, f32::max);
        let even = (0..500).map(|_| meter.hop(&[0.7; PITCHES]).1).fold(0.0, f32::max);
        assert!(sure < 0.1 && even < 0.1, "{sure} {even}");
    }
}
