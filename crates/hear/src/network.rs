//! Small recurrent networks that tell beats, first beats of bars and hits from views (gated recurrent units: K. Cho et
//! al., "Learning phrase representations using RNN encoder-decoder", EMNLP 2014; for beats: S. Böck, F. Krebs and G. Widmer,
//! "Joint beat and downbeat tracking with recurrent neural networks", ISMIR 2016). Their weights were found by the trainer of
//! `splimo-corpus` on music that is made by code, and lie in `data`
//! beside this file's crate as numbers; the second ones are those that the first were trained on from.

use multiversion::multiversion;

use crate::sight::VIEW;

/// Numbers that the network gives.
pub const TOLD: usize = 7;
/// Units of the first layer.
pub const ENTRY: usize = 64;
/// Units of each recurrent layer.
pub const UNITS: usize = 96;

/// How many weights there are.
pub const WEIGHTS: usize = Shape::OUT + UNITS * TOLD + TOLD;

/// Where each matrix begins in the list of weights. A matrix has a row for each input and a column for each output; behind
/// it stand the biases.
#[derive(Debug, Clone, Copy)]
pub struct Shape;

impl Shape {
    /// From a view to the first layer.
    pub const IN: usize = 0;
    /// The first recurrent layer: from below (and its bias), then from itself (and its bias). Columns: update, reset, new.
    pub const FIRST: usize = VIEW * ENTRY + ENTRY;
    /// The second one.
    pub const SECOND: usize = Self::FIRST + ENTRY * 3 * UNITS + 3 * UNITS + UNITS * 3 * UNITS + 3 * UNITS;
    /// To what is told.
    pub const OUT: usize = Self::SECOND + 2 * (UNITS * 3 * UNITS + 3 * UNITS);
}

/// What the network tells of a view, each 0..1.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Told {
    /// There is a beat.
    pub beat: f32,
    /// There is the first beat of a bar.
    pub downbeat: f32,
    /// There is music with a beat at all.
    pub music: f32,
    /// Something low was struck.
    pub low: f32,
    /// Something in the middle was struck.
    pub mid: f32,
    /// Something high was struck.
    pub high: f32,
    /// Anything set in.
    pub any: f32,
}

impl Told {
    /// What several have told, evenly.
    fn mean(told: impl Iterator<Item = [f32; TOLD]>) -> Self {
        let mut count = 0.0f32;
        let mut sums = [0.0; TOLD];
        for told in told {
            sums.iter_mut().zip(told).for_each(|(sum, told)| *sum += told);
            count += 1.0;
        }
        let [beat, downbeat, music, low, mid, high, any] = sums.map(|sum| sum / count.max(1.0));
        Self { beat, downbeat, music, low, mid, high, any }
    }
}

/// Several networks of the same shape, each with weights of its own, whose mean is told: they err in different places (L. K.
/// Hansen and P. Salamon, "Neural network ensembles", IEEE PAMI 12, 1990).
pub struct Network {
    members: Vec<Member>,
}

impl Default for Network {
    fn default() -> Self {
        // That there are as many as there should be is told when this is compiled.
        const WRITTEN: [&[u8; 4 * WEIGHTS]; 2] =
            [include_bytes!("../data/network.weights"), include_bytes!("../data/second.weights")];
        let numbers = |bytes: &[u8]| bytes.as_chunks::<4>().0.iter().map(|bytes| f32::from_le_bytes(*bytes)).collect();
        Self { members: WRITTEN.into_iter().map(|bytes| Member::of(numbers(bytes))).collect() }
    }
}

impl Network {
    /// A single one of these weights; none where they are not [`WEIGHTS`].
    #[must_use]
    pub fn of(weights: Vec<f32>) -> Option<Self> {
        Self { members: Vec::new() }.with(weights)
    }

    /// With a further one of these weights; none where they are not [`WEIGHTS`].
    #[must_use]
    pub fn with(mut self, weights: Vec<f32>) -> Option<Self> {
        if weights.len() != WEIGHTS {
            return None;
        }
        self.members.push(Member::of(weights));
        Some(self)
    }

    /// What they tell of the next view. Allocates nothing.
    pub fn see(&mut self, view: &[f32; VIEW]) -> Told {
        Told::mean(self.members.iter_mut().map(|member| member.see(view)))
    }
}

/// One network, with what it remembers.
struct Member {
    weights: Vec<f32>,
    first: [f32; UNITS],
    second: [f32; UNITS],
}

impl Member {
    fn of(weights: Vec<f32>) -> Self {
        Self { weights, first: [0.0; UNITS], second: [0.0; UNITS] }
    }

    fn see(&mut self, view: &[f32; VIEW]) -> [f32; TOLD] {
        let weights = &self.weights;
        let mut entry = [0.0; ENTRY];
        dense(view, &weights[Shape::IN..], &mut entry);
        entry.iter_mut().for_each(|unit| *unit = unit.max(0.1 * *unit));
        remember(&entry, &weights[Shape::FIRST..], &mut self.first);
        remember(&self.first, &weights[Shape::SECOND..], &mut self.second);
        let mut told = [0.0; TOLD];
        dense(&self.second, &weights[Shape::OUT..], &mut told);
        told.map(logistic)
    }
}

/// A number between 0 and 1 for any number.
#[must_use]
#[inline]
pub fn logistic(x: f32) -> f32 {
    1.0 / (1.0 + power(-x))
}

/// A number between -1 and 1 for any number: the hyperbolic tangent.
#[must_use]
#[inline]
pub fn bend(x: f32) -> f32 {
    1.0 - 2.0 / (1.0 + power(2.0 * x))
}

/// e to the power of `x` to a relative 1e-6, and for many numbers at once: the whole powers of two as bits of a number, what
/// is left by the first terms of its series.
#[inline]
fn power(x: f32) -> f32 {
    let twos = (x * std::f32::consts::LOG2_E).clamp(-120.0, 120.0);
    let whole = (twos + 12_582_912.0) - 12_582_912.0;
    let rest = (twos - whole) * std::f32::consts::LN_2;
    let terms = [1.0 / 720.0, 1.0 / 120.0, 1.0 / 24.0, 1.0 / 6.0, 0.5, 1.0, 1.0];
    let series = terms.into_iter().fold(0.0, |sum, term| sum * rest + term);
    series * f32::from_bits(((whole as i32 + 127) as u32) << 23)
}

/// `out` = weights times `from`, plus biases.
#[multiversion(targets("x86_64+avx2+fma"))]
fn dense(from: &[f32], weights: &[f32], out: &mut [f32]) {
    let columns = out.len();
    out.copy_from_slice(&weights[from.len() * columns..][..columns]);
    for (from, row) in from.iter().zip(weights.chunks_exact(columns)) {
        for (out, weight) in out.iter_mut().zip(row) {
            *out += from * weight;
        }
    }
}

/// A step of a recurrent layer.
fn remember(from: &[f32], weights: &[f32], state: &mut [f32; UNITS]) {
    let (mut below, mut own) = ([0.0; 3 * UNITS], [0.0; 3 * UNITS]);
    dense(from, weights, &mut below);
    dense(state, &weights[(from.len() + 1) * 3 * UNITS..], &mut own);
    for unit in 0..UNITS {
        let update = logistic(below[unit] + own[unit]);
        let reset = logistic(below[UNITS + unit] + own[UNITS + unit]);
        let new = bend(below[2 * UNITS + unit] + reset * own[2 * UNITS + unit]);
        state[unit] = (1.0 - update) * new + update * state[unit];
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_told_is_the_mean_of_what_each_tells() {
        let weights = |lean: usize| (0..WEIGHTS).map(|i| ((i * lean) % 17) as f32 / 170.0 - 0.05).collect::<Vec<f32>>();
        let [mut one, mut two] = [3, 5].map(|lean| Network::of(weights(lean)).expect("as many as there are"));
        let mut both = Network::of(weights(3)).and_then(|one| one.with(weights(5))).expect("as many as there are");
        for time in 0..20 {
            let view = std::array::from_fn(|i| ((i + time) % 7) as f32 / 7.0);
            let [one, two, both] = [&mut one, &mut two, &mut both].map(|network| network.see(&view));
            assert!((both.beat - (one.beat + two.beat) / 2.0).abs() < 1e-6, "{one:?} {two:?} {both:?}");
            assert!((both.any - (one.any + two.any) / 2.0).abs() < 1e-6);
        }
        assert!(Network::of(vec![0.0; WEIGHTS - 1]).is_none());
    }
}
