//! Training of the network of `splimo-hear`: lessons, the way back through it, and the descent.

mod back;
mod bars;
mod descent;
mod gate;
mod layer;
mod lesson;
mod material;
mod matrix;
pub mod parts;

pub use back::{Memory, Pass, gradient};
pub use bars::{Example, examples, fit};
pub use descent::Descent;
pub use lesson::Lesson;
pub use material::{Material, material};

use splimo_hear::features::VIEW;
use splimo_hear::network::{ENTRY, Shape, TOLD};

use crate::Lot;

/// Weights to begin with.
#[must_use]
pub fn first_weights(shape: Shape, seed: u64) -> Vec<f32> {
    let mut lot = Lot::new(seed);
    let mut weights = vec![0.0; shape.weights()];
    let (units, gates) = (shape.units, shape.gates());
    let recurrent =
        |start: usize, inputs: usize| [(start, inputs, gates), (start + (inputs + 1) * gates, units, gates)];
    let layers = [(0, VIEW, ENTRY), (shape.out(), units, TOLD)];
    let layers = layers.into_iter().chain(recurrent(shape.first(), ENTRY)).chain(recurrent(shape.second(), units));
    for (start, inputs, outputs) in layers {
        draw(&mut weights[start..start + inputs * outputs], inputs + outputs.min(units), &mut lot);
    }
    weights
}

/// Draws the weights of a matrix evenly, by how many units it lies between (X. Glorot and Y. Bengio, AISTATS 2010).
fn draw(matrix: &mut [f32], units: usize, lot: &mut Lot) {
    let reach = (6.0 / units as f32).sqrt();
    matrix.iter_mut().for_each(|weight| *weight = lot.both() * reach);
}
