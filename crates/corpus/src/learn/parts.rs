//! How the parts of a piece are learnt: what the hearing sees of tracks, and the way through the small network and back.

use rayon::prelude::*;
use splimo_hear::recurrent::likely;
use splimo_hear::section::{OUT, PARTS, UNITS, WEIGHTS};
use splimo_hear::section_features::{HopLevels, SEEN, SectionFeatures};
use splimo_hear::{HOP, HOPS_PER_SECOND, Listener};
use splimo_time::music::Section;

use super::descent::Descent;
use super::draw;
use super::layer::{Layer, fill_rows};
use super::matrix::{add_product, add_rows, add_transposed_product, transposed};
use crate::{Lot, Piece};

/// Tracks that are learnt side by side.
const SIDE: usize = 16;
const THREADS: usize = 2;
/// How long a step is at the most.
const LENGTH: f32 = 5e-3;
/// How strongly weights are held near nothing.
const HELD: f32 = 2e-4;
/// By how much what is seen is blurred, so that nothing is learnt by heart.
const BLUR: f32 = 0.12;

/// A track by what is heard of it.
#[derive(Debug, Clone)]
pub struct Track {
    cues: Vec<HopLevels>,
    /// The part at each hop.
    parts: Vec<usize>,
}

/// What is heard of a piece, hop by hop.
#[must_use]
pub fn heard(piece: &Piece) -> Track {
    let mut listener = Listener::default();
    let mut cues = Vec::with_capacity(piece.samples.len() / HOP);
    for hop in piece.samples.as_chunks::<HOP>().0 {
        listener.listen(hop, |_| {});
        cues.push(*listener.cue());
    }
    let part = |hop: usize| {
        let time = hop as f64 / HOPS_PER_SECOND;
        let kind = piece.sections.iter().rev().find(|(start, _)| *start <= time).map_or("intro", |(_, kind)| kind);
        Section::ALL.iter().position(|section| section.name() == kind).unwrap_or(0)
    };
    Track { parts: (0..cues.len()).map(part).collect(), cues }
}

/// One track and then another one, which somebody plays from some place on.
#[must_use]
pub fn together(first: &Track, second: &Track, lot: &mut Lot) -> Track {
    let until = (first.cues.len() as f32 * lot.range(0.8, 1.0)) as usize;
    let mut both = Track { cues: first.cues[..until].to_vec(), parts: first.parts[..until].to_vec() };
    both.cues.extend(&second.cues);
    both.parts.extend(&second.parts);
    both
}

/// What is seen of a track, look by look, and the part at each.
struct Looks {
    seen: Vec<[f32; SEEN]>,
    parts: Vec<usize>,
}

impl Looks {
    fn of(track: &Track) -> Self {
        let mut features = SectionFeatures::default();
        let (mut seen, mut parts) = (Vec::new(), Vec::new());
        for (cue, part) in track.cues.iter().zip(&track.parts) {
            if let Some(look) = features.hop(cue) {
                seen.push(look);
                parts.push(*part);
            }
        }
        Self { seen, parts }
    }
}

/// Weights to begin with.
#[must_use]
pub fn begin(seed: u64) -> Vec<f32> {
    let mut lot = Lot::new(seed);
    let mut weights = vec![0.0; WEIGHTS];
    for (start, inputs, outputs) in
        [(0, SEEN, 3 * UNITS), (3 * UNITS * (SEEN + 1), UNITS, 3 * UNITS), (OUT, UNITS, PARTS)]
    {
        draw(&mut weights[start..start + inputs * outputs], inputs + outputs.min(UNITS), &mut lot);
    }
    weights
}

/// Learns some tracks for so many rounds; tells of each round its number, and the mean loss and the share of looks that are
/// told right in it.
pub fn study(
    weights: &mut [f32],
    tracks: &[Track],
    rounds: usize,
    lot: &mut Lot,
    mut told: impl FnMut(usize, [f32; 2]),
) {
    let looks: Vec<Looks> = tracks.iter().map(Looks::of).collect();
    let steps = rounds * looks.len().div_ceil(SIDE);
    let mut descent = Descent::new(weights.len());
    let mut order: Vec<usize> = (0..looks.len()).collect();
    let mut step = 0;
    for round in 0..rounds {
        for place in (1..order.len()).rev() {
            order.swap(place, lot.below(place + 1));
        }
        let mut sums = [0.0; 3];
        for chosen in order.chunks(SIDE) {
            let chosen: Vec<&Looks> = chosen.iter().map(|&index| &looks[index]).collect();
            let parts: Vec<(&[&Looks], Lot)> =
                chosen.chunks(SIDE / THREADS).map(|part| (part, Lot::new(lot.below(usize::MAX) as u64))).collect();
            let weights_now = &*weights;
            let passes: Vec<Pass> =
                parts.into_par_iter().map(|(part, mut lot)| pass(weights_now, part, &mut lot)).collect();
            let mut slopes: Vec<f32> = weights.iter().map(|weight| HELD * weight).collect();
            for pass in &passes {
                slopes.iter_mut().zip(&pass.slopes).for_each(|(sum, slope)| *sum += slope / passes.len() as f32);
                sums.iter_mut().zip([pass.loss, pass.right, pass.count]).for_each(|(sum, of)| *sum += of);
            }
            let gone = step as f32 / steps as f32;
            descent.step(weights, &slopes, LENGTH * (0.5 + 0.5 * (gone * std::f32::consts::PI).cos()));
            step += 1;
        }
        told(round, [sums[0] / sums[2], sums[1] / sums[2]]);
    }
}

/// What came of a pass: sums over looks, and the slope of the mean loss for each weight.
struct Pass {
    loss: f32,
    right: f32,
    count: f32,
    slopes: Vec<f32>,
}

fn pass(weights: &[f32], tracks: &[&Looks], lot: &mut Lot) -> Pass {
    let side = tracks.len();
    let times = tracks.iter().map(|track| track.seen.len()).max().unwrap_or(0);
    let rows = times * side;
    let mut below = vec![0.0; rows * SEEN];
    for (row, below) in below.chunks_exact_mut(SEEN).enumerate() {
        if let Some(seen) = tracks[row % side].seen.get(row / side) {
            below.iter_mut().zip(seen).for_each(|(below, seen)| *below = seen + lot.bell() * BLUR);
        }
    }
    let layer = Layer::run(weights, [0, SEEN, UNITS], &below, &vec![0.0; side * UNITS]);
    let states = layer.out(side);
    let mut told = vec![0.0; rows * PARTS];
    fill_rows(&mut told, &weights[OUT + UNITS * PARTS..]);
    add_product(states, &weights[OUT..][..UNITS * PARTS], &mut told, [UNITS, PARTS]);

    let count = tracks.iter().map(|track| track.seen.len()).sum::<usize>() as f32;
    let mut pass = Pass { loss: 0.0, right: 0.0, count, slopes: vec![0.0; weights.len()] };
    for (row, told) in told.as_chunks_mut::<PARTS>().0.iter_mut().enumerate() {
        let Some(&part) = tracks[row % side].parts.get(row / side) else {
            // The track is over.
            *told = [0.0; PARTS];
            continue;
        };
        *told = likely(*told);
        pass.right += f32::from(u8::from(told.iter().all(|other| *other <= told[part])));
        pass.loss -= told[part].max(1e-9).ln();
        told[part] -= 1.0;
        told.iter_mut().for_each(|slope| *slope /= count);
    }
    let (matrix, bias) = (OUT, OUT + UNITS * PARTS);
    add_transposed_product(states, &told, &mut pass.slopes[matrix..bias], [UNITS, PARTS]);
    add_rows(&told, &mut pass.slopes[bias..]);
    let mut back = vec![0.0; rows * UNITS];
    add_product(&told, &transposed(&weights[matrix..bias], PARTS), &mut back, [PARTS, UNITS]);
    layer.back(weights, &below, &back, &mut pass.slopes, side);
    pass
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_hear::section::SectionNetwork;

    /// Tracks of two parts, one with a low end and one without.
    fn tracks(count: u64) -> Vec<Track> {
        let of = |seed: u64| {
            let mut lot = Lot::new(seed);
            let mut track = Track { cues: Vec::new(), parts: Vec::new() };
            for turn in 0..4 {
                let low = if turn % 2 == 0 { 1e-2 } else { 1e-5 };
                for _ in 0..800 + lot.below(800) {
                    let powers = [low * lot.range(0.5, 1.5), 1e-2, 1e-3, 1e-3, 1e-2];
                    track.cues.push(HopLevels { powers, centroid: 2000.0, ..HopLevels::default() });
                    track.parts.push(if turn % 2 == 0 { 2 } else { 3 });
                }
            }
            track
        };
        (0..count).map(of).collect()
    }

    #[test]
    fn slopes_are_those_of_the_loss() {
        let looks: Vec<Looks> = tracks(3).iter().map(Looks::of).collect();
        let looks: Vec<&Looks> = looks.iter().collect();
        let weights = begin(2);
        let loss = |weights: &[f32]| {
            let pass = pass(weights, &looks, &mut Lot::new(5));
            pass.loss / pass.count
        };
        let slopes = pass(&weights, &looks, &mut Lot::new(5)).slopes;
        for place in [3, 3 * UNITS * SEEN + 4, 3 * UNITS * (SEEN + 1) + 70, OUT + 11, WEIGHTS - 2] {
            let at = |by: f32| {
                let mut weights = weights.clone();
                weights[place] += by;
                loss(&weights)
            };
            let truth = (at(0.01) - at(-0.01)) / 0.02;
            assert!((slopes[place] - truth).abs() < 0.02 * truth.abs() + 2e-4, "{place}: {} {truth}", slopes[place]);
        }
    }

    #[test]
    fn parts_that_differ_are_told_apart() {
        let mut weights = begin(1);
        let mut last = [0.0; 2];
        study(&mut weights, &tracks(32), 30, &mut Lot::new(3), |_, told| last = told);
        assert!(last[1] > 0.9, "{last:?}");
        // And by the network as it runs in the hearing, of a track that it has not learnt.
        let unknown = &tracks(33)[32];
        let looks = Looks::of(unknown);
        let mut network = SectionNetwork::of(weights).expect("as many as there are");
        let right = looks.seen.iter().zip(&looks.parts).filter(|(seen, part)| network.see(seen)[**part] > 0.5).count();
        assert!(right * 10 > 8 * looks.seen.len(), "{right} of {}", looks.seen.len());
    }

    #[test]
    fn what_somebody_plays_next_follows_at_once() {
        let two = tracks(2);
        let both = together(&two[0], &two[1], &mut Lot::new(4));
        assert_eq!(both.cues.len(), both.parts.len());
        let next = &both.cues[both.cues.len() - two[1].cues.len()..];
        assert!(next == two[1].cues && both.cues.len() < two[0].cues.len() + two[1].cues.len());
    }
}
