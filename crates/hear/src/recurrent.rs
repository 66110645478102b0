//! Layers of gated recurrent units (K. Cho et al., "Learning phrase representations using RNN encoder-decoder", EMNLP 2014).

use multiversion::multiversion;

/// A recurrent layer: its state, and what its gates get from below and from the state.
#[derive(Debug, Clone)]
pub(crate) struct Layer {
    state: Vec<f32>,
    below: Vec<f32>,
    own: Vec<f32>,
}

impl Layer {
    /// One of so many units that remembers nothing yet.
    pub(crate) fn new(units: usize) -> Self {
        let gates = vec![0.0; 3 * units];
        Self { state: vec![0.0; units], below: gates.clone(), own: gates }
    }

    /// Forgets what it remembers.
    pub(crate) fn forget(&mut self) {
        self.state.fill(0.0);
    }

    /// The outputs.
    pub(crate) fn state(&self) -> &[f32] {
        &self.state
    }

    /// The next time: `weights` are a matrix from below to the gates (update, reset, new) and its biases, then one from its
    /// own state and its biases; more may lie behind them. Allocates nothing.
    pub(crate) fn step(&mut self, from: &[f32], weights: &[f32]) {
        let Self { state, below, own } = self;
        dense(from, weights, below);
        dense(state, &weights[(from.len() + 1) * below.len()..], own);
        pass(below, own, state);
    }
}

/// Numbers as likelihoods, each 0..1, all together 1: the larger a number, the likelier.
#[must_use]
pub fn likely<const N: usize>(numbers: [f32; N]) -> [f32; N] {
    let most = numbers.iter().copied().fold(f32::NEG_INFINITY, f32::max);
    let powers = numbers.map(|number| (number - most).exp());
    let all: f32 = powers.iter().sum();
    powers.map(|power| power / all)
}

/// A number between 0 and 1 for any number.
#[must_use]
#[inline(always)]
pub fn logistic(x: f32) -> f32 {
    1.0 / (1.0 + power(-x))
}

/// A number between -1 and 1 for any number: the hyperbolic tangent.
#[must_use]
#[inline(always)]
pub fn bend(x: f32) -> f32 {
    1.0 - 2.0 / (1.0 + power(2.0 * x))
}

/// e to the power of `x` to a relative 1e-6, and for many numbers at once: the whole powers of two as bits of a number, what
/// is left by the first terms of its series.
#[inline(always)]
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
pub(crate) fn dense(from: &[f32], weights: &[f32], out: &mut [f32]) {
    let columns = out.len();
    out.copy_from_slice(&weights[from.len() * columns..][..columns]);
    for (from, row) in from.iter().zip(weights.chunks_exact(columns)) {
        for (out, weight) in out.iter_mut().zip(row) {
            *out += from * weight;
        }
    }
}

/// From what the gates get to the next state.
#[multiversion(targets("x86_64+avx2+fma"))]
fn pass(below: &[f32], own: &[f32], state: &mut [f32]) {
    let units = state.len();
    let [below, own] = [below, own].map(|numbers| [0, 1, 2].map(|gate| &numbers[gate * units..][..units]));
    for (unit, state) in state.iter_mut().enumerate() {
        let update = logistic(below[0][unit] + own[0][unit]);
        let reset = logistic(below[1][unit] + own[1][unit]);
        let new = bend(below[2][unit] + reset * own[2][unit]);
        *state = (1.0 - update) * new + update * *state;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn likelihoods_are_one_together_however_large_the_numbers() {
        for numbers in [[0.0; 5], [1e30, 0.0, -1e30, 5.0, 5.0], [-300.0; 5]] {
            let likely = likely(numbers);
            assert!((likely.iter().sum::<f32>() - 1.0).abs() < 1e-5 && likely.iter().all(|one| *one >= 0.0));
        }
    }

    #[test]
    fn curves_are_those_of_the_books() {
        for step in -400..400 {
            let x = step as f32 / 20.0;
            let (truth, bent) = (1.0 / (1.0 + (-x).exp()), x.tanh());
            assert!((logistic(x) - truth).abs() < 2e-6 && (bend(x) - bent).abs() < 2e-6, "{x}");
        }
        assert!(logistic(1e30) == 1.0 && logistic(-1e30) >= 0.0 && bend(f32::MAX) == 1.0);
    }

    #[test]
    fn a_gate_that_is_shut_keeps_the_state_and_an_open_one_takes_the_new() {
        // Two units of one number: the first one's update gate is shut by its bias, the second one's is open.
        let mut weights = vec![0.0; (1 + 1) * 6 + (2 + 1) * 6];
        let bias = 6;
        (weights[bias], weights[bias + 1]) = (50.0, -50.0);
        // What is new is what comes from below.
        (weights[4], weights[5]) = (1.0, 1.0);
        let mut layer = Layer::new(2);
        layer.step(&[0.5], &weights);
        assert_eq!(layer.state()[0], 0.0);
        assert!((layer.state()[1] - 0.5f32.tanh()).abs() < 1e-5);
        layer.step(&[-0.25], &weights);
        assert!((layer.state()[1] + 0.25f32.tanh()).abs() < 1e-5);
    }
}
