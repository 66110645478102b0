//! How the first beats of bars are learnt: what the hearing sees of the beats of a piece, and a multinomial logistic regression
//! of the kind of place that each one has (C. M. Bishop, "Pattern Recognition and Machine Learning", 2006, 4.3.4).

use splimo_hear::bar::{BarWeights, CLUES, Clues, KINDS, kind};
use splimo_hear::bar_features::BarFeatures;
use splimo_hear::beat::BeatTracker;
use splimo_hear::chroma::ChromaMeter;
use splimo_hear::features::Features;
use splimo_hear::network::{Activations, Network};
use splimo_hear::spectrum::Spectrum;
use splimo_hear::{BEAT_LATE, HOP};

use super::descent::Descent;
use crate::{Piece, RATE};

/// How far a beat may be from the true one, in seconds.
const NEAR: f64 = 0.07;
/// The share of a piece's beats that has to be found: where the tracker is lost there is nothing to learn.
const FOUND: f32 = 0.85;
/// Beats at the start of a piece of which nothing is learnt, since nothing was before them.
const EARLY: usize = 8;
/// How strongly weights are held near nothing.
const HELD: f32 = 1e-3;
const STEPS: usize = 600;
const LENGTH: f32 = 0.02;

/// A beat by what is seen of it, and the kind of its place.
#[derive(Debug, Clone, Copy)]
pub struct Example {
    /// What is seen.
    pub clues: [f32; CLUES],
    /// The kind.
    pub kind: usize,
}

/// The beats that the hearing finds in a piece; none where it is lost.
#[must_use]
pub fn examples(piece: &Piece) -> Vec<Example> {
    let (mut spectrum, mut notes, mut features) = (Spectrum::default(), ChromaMeter::default(), Features::default());
    let (mut network, mut told) = (Network::default(), Activations::default());
    let (mut beats, mut bars, mut clues) = (BeatTracker::default(), BarFeatures::default(), Clues::default());
    let (mut found, mut missed) = (Vec::new(), 0);
    for (hop, samples) in piece.samples.as_chunks::<HOP>().0.iter().enumerate() {
        let magnitudes = spectrum.hop(samples);
        let chroma = notes.hop(samples);
        if let Some(view) = features.hop(magnitudes) {
            told = network.see(view);
        }
        let position = beats.hop(&told).position;
        if let Some(seen) = bars.hop(&told, &chroma, features.loud(), position) {
            let time = (hop + 1 - seen.ago) as f64 * HOP as f64 / RATE - BEAT_LATE;
            let clues = clues.take(&seen.numbers);
            match place(piece, time) {
                Some([beats, place]) => found.push(kind(beats, place).map(|kind| Example { clues, kind })),
                None => missed += 1,
            }
        }
    }
    let all = piece.beats.len().max(found.len() + missed);
    if (found.len() as f32) < FOUND * all as f32 {
        return Vec::new();
    }
    found.into_iter().skip(EARLY).flatten().collect()
}

/// How many beats the bar around a time has, and which of them is there.
fn place(piece: &Piece, time: f64) -> Option<[usize; 2]> {
    let beat = piece.beats.iter().position(|beat| (beat - time).abs() < NEAR)?;
    let firsts: Vec<usize> = piece
        .downbeats
        .iter()
        .filter_map(|first| piece.beats.iter().position(|beat| (beat - first).abs() < 1e-6))
        .collect();
    let bar = firsts.iter().rposition(|first| *first <= beat)?;
    let beats = match (firsts.get(bar + 1), bar.checked_sub(1)) {
        (Some(next), _) => next - firsts[bar],
        (None, Some(before)) => firsts[bar] - firsts[before],
        (None, None) => return None,
    };
    Some([beats, beat - firsts[bar]])
}

/// The weights that tell the kinds of some examples best.
#[must_use]
pub fn fit(examples: &[Example]) -> BarWeights {
    let count = examples.len().max(1) as f32;
    let mut often = [0.0f32; KINDS];
    examples.iter().for_each(|example| often[example.kind] += 1.0 / count);
    let scale = Scale::of(examples);
    let scaled: Vec<_> = examples.iter().map(|example| (scale.apply(&example.clues), example.kind)).collect();
    let mut flat = vec![0.0f32; CLUES * KINDS];
    let mut descent = Descent::new(flat.len());
    for step in 0..STEPS {
        let weights = BarWeights { weights: rows(&flat), often };
        let mut slopes: Vec<f32> = flat.iter().map(|weight| 2.0 * HELD * weight).collect();
        for (clues, kind) in &scaled {
            let mut off = weights.told(clues);
            off[*kind] -= 1.0;
            for (slopes, clue) in slopes.chunks_exact_mut(KINDS).zip(clues) {
                slopes.iter_mut().zip(off).for_each(|(slope, off)| *slope += off * clue / count);
            }
        }
        descent.step(&mut flat, &slopes, LENGTH * (1.0 - step as f32 / STEPS as f32));
    }
    BarWeights { weights: scale.back(rows(&flat)), often }
}

fn rows(flat: &[f32]) -> [[f32; KINDS]; CLUES] {
    let mut rows = [[0.0; KINDS]; CLUES];
    rows.iter_mut().zip(flat.as_chunks::<KINDS>().0).for_each(|(row, flat)| *row = *flat);
    rows
}

/// Brings clues to a mean of 0 and a deviation of 1. The last one stays: it is 1 always.
struct Scale {
    mean: [f32; CLUES],
    deviation: [f32; CLUES],
}

impl Scale {
    fn of(examples: &[Example]) -> Self {
        let count = examples.len().max(1) as f32;
        let all = |of: &dyn Fn(usize, f32) -> f32| {
            std::array::from_fn(|clue| examples.iter().map(|e| of(clue, e.clues[clue])).sum::<f32>() / count)
        };
        let mut mean: [f32; CLUES] = all(&|_, clue| clue);
        let mut deviation: [f32; CLUES] = all(&|index, clue| (clue - mean[index]).powi(2));
        deviation = deviation.map(|square| square.sqrt().max(1e-3));
        (mean[CLUES - 1], deviation[CLUES - 1]) = (0.0, 1.0);
        Self { mean, deviation }
    }

    fn apply(&self, clues: &[f32; CLUES]) -> [f32; CLUES] {
        std::array::from_fn(|clue| (clues[clue] - self.mean[clue]) / self.deviation[clue])
    }

    /// Weights for scaled clues as weights for those that are not.
    fn back(&self, mut weights: [[f32; KINDS]; CLUES]) -> [[f32; KINDS]; CLUES] {
        let mut biases = weights[CLUES - 1];
        for ((row, mean), deviation) in weights.iter_mut().zip(self.mean).zip(self.deviation) {
            *row = row.map(|weight| weight / deviation);
            biases.iter_mut().zip(*row).for_each(|(bias, weight)| *bias -= weight * mean);
        }
        weights[CLUES - 1] = biases;
        weights
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Lot, piece, style};

    #[test]
    fn kinds_that_differ_in_a_clue_are_told_apart_by_it() {
        let mut lot = Lot::new(4);
        let few: Vec<Example> = (0..800)
            .map(|index| {
                let kind = index % KINDS;
                let mut clues: [f32; CLUES] = std::array::from_fn(|_| lot.bell());
                clues[3] = 5.0 + kind as f32 * 2.0 + 0.3 * lot.bell();
                clues[CLUES - 1] = 1.0;
                Example { clues, kind }
            })
            .collect();
        let weights = fit(&few);
        let right = |example: &&Example| {
            let told = weights.told(&example.clues);
            told.iter().all(|other| *other <= told[example.kind])
        };
        let right = few.iter().filter(right).count();
        assert!(right > 680, "{right} of 800");
        assert!(weights.often.iter().all(|often| (often - 0.25).abs() < 1e-3));
    }

    #[test]
    fn beats_of_a_piece_have_the_kinds_of_their_places() {
        let made = piece(style::find("waltz").expect("a style"), 20.0, 3);
        let [three, two] = [1, 0].map(|by| place(&made, made.downbeats[3] + f64::from(by) * 0.01));
        assert_eq!((three, two), (Some([3, 0]), Some([3, 0])));
        assert_eq!(place(&made, made.beats[11]), Some([3, 2]));
        assert_eq!(place(&made, made.beats[11] + 0.15), None);
        let made = piece(style::find("four on the floor").expect("a style"), 24.0, 3);
        let found = examples(&made);
        assert!(found.len() > 25, "{}", found.len());
        let firsts = found.iter().filter(|example| example.kind == 0).count();
        assert!((firsts as f32 / found.len() as f32 - 0.25).abs() < 0.04, "{firsts} of {}", found.len());
    }
}
