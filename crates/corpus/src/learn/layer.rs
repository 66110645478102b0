//! The way through a recurrent layer and back, for several lessons side by side. What is called a row is one lesson at one
//! time; rows of the same time lie behind one another.

use super::gate::Kept;
use super::matrix::{add_product, add_rows, add_transposed_product, transposed};

/// What a recurrent layer did, for the way back.
pub(super) struct Layer {
    inputs: usize,
    units: usize,
    /// Where its weights begin.
    start: usize,
    /// The state before each time, and after the last.
    states: Vec<f32>,
    kept: Kept,
}

impl Layer {
    fn own(&self) -> usize {
        self.start + (self.inputs + 1) * 3 * self.units
    }

    /// The way there, of rows that begin with what is remembered: one state for each lesson.
    pub(super) fn run(weights: &[f32], [start, inputs, units]: [usize; 3], below: &[f32], memory: &[f32]) -> Self {
        let all = 3 * units;
        let side = memory.len() / units;
        let rows = below.len() / inputs;
        let (states, kept) = (vec![0.0; (rows + side) * units], Kept::new(rows, units));
        let mut layer = Self { inputs, units, start, states, kept };
        layer.states[..memory.len()].copy_from_slice(memory);
        let mut gates = vec![0.0; rows * all];
        fill_rows(&mut gates, &weights[start + inputs * all..][..all]);
        add_product(below, &weights[start..][..inputs * all], &mut gates, [inputs, all]);
        let own = &weights[layer.own()..][..(units + 1) * all];
        let mut mine = vec![0.0; side * all];
        for (time, gates) in gates.chunks_exact(side * all).enumerate() {
            fill_rows(&mut mine, &own[units * all..]);
            let (before, after) = layer.states[time * side * units..].split_at_mut(side * units);
            add_product(before, &own[..units * all], &mut mine, [units, all]);
            let states = before.chunks_exact(units).zip(after.chunks_exact_mut(units));
            let gates = gates.chunks_exact(all).zip(mine.chunks_exact(all));
            for (row, ((gates, mine), (before, after))) in gates.zip(states).enumerate() {
                layer.kept.go(time * side + row, gates, mine, before, after);
            }
        }
        layer
    }

    /// The states after each time, where so many lessons are side by side.
    pub(super) fn out(&self, side: usize) -> &[f32] {
        &self.states[side * self.units..]
    }

    /// From the slopes of what it gave to those of what it got; adds to those of its weights.
    pub(super) fn back(
        &self,
        weights: &[f32],
        below: &[f32],
        slopes: &[f32],
        grads: &mut [f32],
        side: usize,
    ) -> Vec<f32> {
        let (units, all) = (self.units, 3 * self.units);
        let rows = below.len() / self.inputs;
        let own_turned = transposed(&weights[self.own()..][..units * all], all);
        let (mut outer, mut inner) = (vec![0.0; rows * all], vec![0.0; rows * all]);
        let mut later = vec![0.0; side * units];
        for time in (0..rows / side).rev() {
            for (row, later) in later.chunks_exact_mut(units).enumerate() {
                let row = time * side + row;
                let [before, slopes] = [&self.states, slopes].map(|of_units| &of_units[row * units..][..units]);
                let gates = [&mut outer, &mut inner].map(|of_gates| &mut of_gates[row * all..][..all]);
                self.kept.back(row, before, slopes, later, gates);
            }
            add_product(&inner[time * side * all..][..side * all], &own_turned, &mut later, [all, units]);
        }
        let (matrix, bias) = (self.start, self.start + self.inputs * all);
        add_transposed_product(below, &outer, &mut grads[matrix..bias], [self.inputs, all]);
        add_rows(&outer, &mut grads[bias..bias + all]);
        let (matrix, bias) = (self.own(), self.own() + units * all);
        add_transposed_product(&self.states[..rows * units], &inner, &mut grads[matrix..bias], [units, all]);
        add_rows(&inner, &mut grads[bias..bias + all]);
        let turned = transposed(&weights[self.start..][..self.inputs * all], all);
        let mut out = vec![0.0; rows * self.inputs];
        add_product(&outer, &turned, &mut out, [all, self.inputs]);
        out
    }
}

/// Has all rows begin as one.
pub(super) fn fill_rows(rows: &mut [f32], row: &[f32]) {
    rows.chunks_exact_mut(row.len()).for_each(|out| out.copy_from_slice(row));
}
