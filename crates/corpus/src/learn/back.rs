//! The way through the network and back, for several lessons side by side. What is called a row is one lesson at one time;
//! rows of the same time lie behind one another.

use std::ops::Range;

use splimo_hear::features::VIEW;
use splimo_hear::network::{ENTRY, Shape, TOLD};
use splimo_hear::recurrent::logistic;

use super::layer::{Layer, fill_rows};
use super::lesson::Lesson;
use super::matrix::{add_product, add_rows, add_transposed_product, transposed};
use crate::Lot;

/// What came of a pass.
#[derive(Debug, Clone)]
pub struct Pass {
    /// The mean loss of each output.
    pub loss: [f64; TOLD],
    /// The slope of the loss for each weight.
    pub slopes: Vec<f32>,
}

/// How much each output counts.
const COUNTS: [f32; TOLD] = [1.0, 1.0, 0.15, 0.3, 0.3, 0.3, 0.3];
/// How much more a yes counts than a no.
const RARE: [f32; TOLD] = [2.0, 3.0, 1.0, 1.5, 1.5, 1.5, 1.5];

/// What the network remembers of some lessons side by side, from one pass to the next, and which units are left out there.
#[derive(Debug, Clone)]
pub struct Memory {
    states: [Vec<f32>; 2],
    /// What the units of the first layer and of both recurrent ones count, for each lesson.
    counts: Option<[Vec<f32>; 3]>,
}

impl Memory {
    /// Of so many lessons, before they begin.
    #[must_use]
    pub fn new(shape: Shape, lessons: usize) -> Self {
        Self { states: [0, 1].map(|_| vec![0.0; lessons * shape.units]), counts: None }
    }

    /// The same, where this share of the units is left out all the time, others in each lesson, so that none relies on a
    /// few (N. Srivastava et al., "Dropout", JMLR 15, 2014; the same ones at all times: Y. Gal and Z. Ghahramani, "A
    /// theoretically grounded application of dropout in recurrent neural networks", NIPS 2016).
    #[must_use]
    pub fn with_gaps(shape: Shape, lessons: usize, share: f32, lot: &mut Lot) -> Self {
        let mut count = |units: usize| {
            let one = |lot: &mut Lot| if lot.chance(share) { 0.0 } else { 1.0 / (1.0 - share) };
            (0..lessons * units).map(|_| one(lot)).collect::<Vec<f32>>()
        };
        let counts = [ENTRY, shape.units, shape.units].map(&mut count);
        Self { counts: Some(counts), ..Self::new(shape, lessons) }
    }

    /// Has units of a layer count as they do here, at all times.
    fn count(&self, layer: usize, rows: &mut [f32]) {
        if let Some(counts) = &self.counts {
            for rows in rows.chunks_exact_mut(counts[layer].len()) {
                rows.iter_mut().zip(&counts[layer]).for_each(|(unit, count)| *unit *= count);
            }
        }
    }
}

/// The loss of some views of some lessons, which all are at least that long, and how each weight changes it. What is
/// remembered from before is where it begins, but the way back ends there (P. J. Werbos, "Backpropagation through time",
/// 1990, cut short).
#[must_use]
pub fn gradient(shape: Shape, weights: &[f32], lessons: &[&Lesson], window: Range<usize>, memory: &mut Memory) -> Pass {
    let (side, units) = (lessons.len(), shape.units);
    let times = window.len();
    let mut views = Vec::with_capacity(times * side * VIEW);
    let mut truth = Vec::with_capacity(times * side * TOLD);
    for time in window {
        for lesson in lessons {
            views.extend_from_slice(&lesson.views[time * VIEW..][..VIEW]);
            truth.extend_from_slice(&lesson.truth[time * TOLD..][..TOLD]);
        }
    }
    let rows = times * side;
    let mut entry = vec![0.0; rows * ENTRY];
    fill_rows(&mut entry, &weights[VIEW * ENTRY..][..ENTRY]);
    add_product(&views, &weights[..VIEW * ENTRY], &mut entry, [VIEW, ENTRY]);
    let mut bent: Vec<f32> = entry.iter().map(|unit| unit.max(0.1 * unit)).collect();
    memory.count(0, &mut bent);
    let first = Layer::run(weights, [shape.first(), ENTRY, units], &bent, &memory.states[0]);
    let mut between = first.out(side).to_vec();
    memory.count(1, &mut between);
    let second = Layer::run(weights, [shape.second(), units, units], &between, &memory.states[1]);
    let mut last = second.out(side).to_vec();
    memory.count(2, &mut last);
    memory.states = [&first, &second].map(|layer| layer.out(side)[(rows - side) * units..].to_vec());
    let mut told = vec![0.0; rows * TOLD];
    fill_rows(&mut told, &weights[shape.out() + units * TOLD..][..TOLD]);
    add_product(&last, &weights[shape.out()..][..units * TOLD], &mut told, [units, TOLD]);

    let mut slopes = vec![0.0; weights.len()];
    let mut loss = [0.0f64; TOLD];
    let mut back = vec![0.0; rows * TOLD];
    for (index, (told, truth)) in told.iter().zip(&truth).enumerate() {
        let output = index % TOLD;
        // A truth below nothing is not known.
        if *truth < 0.0 {
            continue;
        }
        let said = logistic(*told).clamp(1e-6, 1.0 - 1e-6);
        let weight = COUNTS[output] / rows as f32;
        loss[output] -= f64::from(truth * said.ln() * RARE[output] + (1.0 - truth) * (1.0 - said).ln()) / rows as f64;
        back[index] = weight * (said * (1.0 - truth) - RARE[output] * truth * (1.0 - said));
    }
    let (matrix, bias) = (shape.out(), shape.out() + units * TOLD);
    add_transposed_product(&last, &back, &mut slopes[matrix..bias], [units, TOLD]);
    add_rows(&back, &mut slopes[bias..bias + TOLD]);
    let turned = transposed(&weights[matrix..bias], TOLD);
    let mut to_second = vec![0.0; rows * units];
    add_product(&back, &turned, &mut to_second, [TOLD, units]);
    memory.count(2, &mut to_second);
    let mut to_first = second.back(weights, &between, &to_second, &mut slopes, side);
    memory.count(1, &mut to_first);
    let mut to_entry = first.back(weights, &bent, &to_first, &mut slopes, side);
    memory.count(0, &mut to_entry);
    to_entry.iter_mut().zip(&entry).filter(|(_, unit)| **unit < 0.0).for_each(|(slope, _)| *slope *= 0.1);
    let (matrix, bias) = (0, VIEW * ENTRY);
    add_transposed_product(&views, &to_entry, &mut slopes[matrix..bias], [VIEW, ENTRY]);
    add_rows(&to_entry, &mut slopes[bias..bias + ENTRY]);
    Pass { loss, slopes }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::learn::first_weights;
    use splimo_hear::network::Network;

    const SHAPE: Shape = Shape { units: 24 };

    fn lesson(times: usize, seed: u64) -> Lesson {
        let mut lot = Lot::new(seed);
        Lesson {
            views: (0..times * VIEW).map(|_| lot.unit()).collect(),
            truth: (0..times * TOLD).map(|_| f32::from(u8::from(lot.chance(0.3)))).collect(),
        }
    }

    fn whole(weights: &[f32], lessons: &[&Lesson]) -> Pass {
        gradient(SHAPE, weights, lessons, 0..lessons[0].times(), &mut Memory::new(SHAPE, lessons.len()))
    }

    /// With the same units left out each time.
    fn with_gaps(weights: &[f32], lessons: &[&Lesson]) -> Pass {
        let mut memory = Memory::with_gaps(SHAPE, lessons.len(), 0.3, &mut Lot::new(6));
        gradient(SHAPE, weights, lessons, 0..lessons[0].times(), &mut memory)
    }

    fn total(pass: &Pass) -> f64 {
        pass.loss.iter().zip(COUNTS).map(|(loss, counts)| loss * f64::from(counts)).sum()
    }

    #[test]
    fn slopes_are_those_of_the_loss() {
        check_slopes(whole);
    }

    #[test]
    fn slopes_are_those_of_the_loss_where_units_are_left_out() {
        check_slopes(with_gaps);
    }

    fn check_slopes(pass_of: fn(&[f32], &[&Lesson]) -> Pass) {
        let mut weights = first_weights(SHAPE, 3);
        let lessons = [lesson(9, 1), lesson(9, 2)];
        let both: Vec<&Lesson> = lessons.iter().collect();
        let pass = pass_of(&weights, &both);
        let mut lot = Lot::new(5);
        let starts = [0, SHAPE.first(), SHAPE.first() + (ENTRY + 1) * SHAPE.gates(), SHAPE.second(), SHAPE.out()];
        for place in starts.into_iter().flat_map(|start| (0..6).map(move |_| start)).map(|s| s + lot.below(160)) {
            let step = 3e-3;
            let own = weights[place];
            weights[place] = own + step;
            let more = total(&pass_of(&weights, &both));
            weights[place] = own - step;
            let less = total(&pass_of(&weights, &both));
            weights[place] = own;
            let slope = (more - less) / f64::from(2.0 * step);
            let said = f64::from(pass.slopes[place]);
            // Differences of single precision leave some 2e-5.
            assert!((slope - said).abs() < 4e-5 + 0.05 * slope.abs(), "weight {place}: {slope} and {said}");
        }
    }

    #[test]
    fn what_is_cut_in_two_goes_on_where_it_was() {
        let (weights, one) = (first_weights(SHAPE, 8), lesson(20, 4));
        let mut memory = Memory::new(SHAPE, 1);
        let parts = [0..8, 8..20].map(|window| {
            let share = window.len() as f64 / 20.0;
            gradient(SHAPE, &weights, &[&one], window, &mut memory).loss[0] * share
        });
        let all = whole(&weights, &[&one]).loss[0];
        assert!((parts[0] + parts[1] - all).abs() < 1e-6, "{parts:?} {all}");
    }

    #[test]
    fn the_network_that_runs_is_the_one_that_is_trained() {
        let weights = first_weights(SHAPE, 8);
        let one = lesson(20, 4);
        let mut network = Network::of(weights.clone()).expect("as many as there are");
        let mut loss = 0.0;
        for (view, truth) in one.views.as_chunks::<VIEW>().0.iter().zip(one.truth.chunks_exact(TOLD)) {
            let said = network.see(view).beat;
            loss -= f64::from(truth[0] * said.ln() * RARE[0] + (1.0 - truth[0]) * (1.0 - said).ln()) / 20.0;
        }
        let pass = whole(&weights, &[&one]);
        assert!((pass.loss[0] - loss).abs() < 1e-4, "{} {loss}", pass.loss[0]);
    }
}
