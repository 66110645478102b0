//! The descent (Adam: D. P. Kingma and J. Ba, ICLR 2015), with slopes that are too steep cut.

const FIRST: f32 = 0.9;
const SECOND: f32 = 0.999;
/// The length that the slopes have at most.
const STEEPEST: f32 = 0.5;

/// A descent that is under way.
pub struct Descent {
    mean: Vec<f32>,
    square: Vec<f32>,
    steps: i32,
}

impl Descent {
    /// One for so many weights.
    #[must_use]
    pub fn new(weights: usize) -> Self {
        Self { mean: vec![0.0; weights], square: vec![0.0; weights], steps: 0 }
    }

    /// A step of this length along the slopes.
    pub fn step(&mut self, weights: &mut [f32], slopes: &[f32], length: f32) {
        self.steps += 1;
        let steep = slopes.iter().map(|s| s * s).sum::<f32>().sqrt();
        let cut = (STEEPEST / steep.max(1e-12)).min(1.0);
        let (first, second) = (1.0 - FIRST.powi(self.steps), 1.0 - SECOND.powi(self.steps));
        for (((weight, slope), mean), square) in
            weights.iter_mut().zip(slopes).zip(&mut self.mean).zip(&mut self.square)
        {
            let slope = slope * cut;
            *mean += (slope - *mean) * (1.0 - FIRST);
            *square += (slope * slope - *square) * (1.0 - SECOND);
            *weight -= length * (*mean / first) / ((*square / second).sqrt() + 1e-8);
        }
    }
}
