//! The interface of the machine's own sound.

/// A source of samples for the machine's own sound.
pub(super) trait Samples: Send + 'static {
    /// Takes note that so many samples follow, of which the first is heard in so many seconds, at a rate in hertz.
    fn begin(&mut self, ahead: f64, count: usize, rate: f64);

    /// The next sample, -1 to 1.
    fn next(&mut self) -> f32;
}
