//! Training of the network of `splimo-hear`: lessons, the way back through it, and the descent.

mod back;
mod descent;
mod lesson;
mod material;
mod matrix;

pub use back::{Memory, Pass, gradient};
pub use descent::Descent;
pub use lesson::Lesson;
pub use material::{Material, material};

use splimo_hear::network::{ENTRY, Shape, TOLD, UNITS, WEIGHTS};
use splimo_hear::sight::VIEW;

use crate::Lot;

/// Weights to begin with: evenly drawn, by the size of each layer (X. Glorot and Y. Bengio, AISTATS 2010).
#[must_use]
pub fn first_weights(seed: u64) -> Vec<f32> {
    let mut lot = Lot::new(seed);
    let mut weights = vec![0.0; WEIGHTS];
    let recurrent = |start: usize, inputs: usize| {
        [(start, inputs, 3 * UNITS), (start + (inputs + 1) * 3 * UNITS, UNITS, 3 * UNITS)]
    };
    let layers = [(Shape::IN, VIEW, ENTRY), (Shape::OUT, UNITS, TOLD)];
    let layers = layers.into_iter().chain(recurrent(Shape::FIRST, ENTRY)).chain(recurrent(Shape::SECOND, UNITS));
    for (start, inputs, outputs) in layers {
        let reach = (6.0 / (inputs + outputs.min(UNITS)) as f32).sqrt();
        weights[start..start + inputs * outputs].iter_mut().for_each(|weight| *weight = lot.both() * reach);
    }
    weights
}
