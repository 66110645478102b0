//! Any rate and any number of channels to mono at 48 kHz, by linear interpolation: what it adds above 16 kHz does not
//! matter to the ear of this program, and it has no delay.

use splimo_hear::SAMPLE_RATE;

/// Converts a stream of interleaved samples.
#[derive(Debug, Clone)]
pub struct ToMono48k {
    channels: usize,
    /// Input frames for each output sample.
    step: f64,
    /// Where the next output sample lies, in input frames after `last`.
    place: f64,
    last: f32,
    pending: Vec<f32>,
}

impl ToMono48k {
    /// From `channels` (at least 1) channels at `rate` hertz.
    #[must_use]
    pub fn new(channels: usize, rate: u32) -> Self {
        Self {
            channels: channels.max(1),
            step: f64::from(rate.max(1)) / f64::from(SAMPLE_RATE),
            place: 0.0,
            last: 0.0,
            pending: Vec::new(),
        }
    }

    /// Converts interleaved samples, in pieces of any length, and appends the result to `out`.
    pub fn convert(&mut self, samples: &[f32], out: &mut Vec<f32>) {
        self.pending.extend_from_slice(samples);
        let whole = self.pending.len() / self.channels * self.channels;
        for frame in self.pending[..whole].chunks_exact(self.channels) {
            let mono = frame.iter().sum::<f32>() / self.channels as f32;
            while self.place < 1.0 {
                out.push(self.last + (mono - self.last) * self.place as f32);
                self.place += self.step;
            }
            self.place -= 1.0;
            self.last = mono;
        }
        self.pending.drain(..whole);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_length_and_the_pitch_come_out_right() {
        for (channels, rate) in [(1, 8_000), (2, 44_100), (2, 48_000), (6, 192_000)] {
            let mut converter = ToMono48k::new(channels, rate);
            let input: Vec<f32> = (0..rate as usize * channels)
                .map(|i| (std::f32::consts::TAU * 100.0 * (i / channels) as f32 / rate as f32).sin())
                .collect();
            let mut out = Vec::new();
            input.chunks(1001).for_each(|chunk| converter.convert(chunk, &mut out));
            assert!(out.len().abs_diff(48_000) <= 6, "{rate} Hz: {}", out.len());
            let crossings = out.windows(2).filter(|w| w[0] < 0.0 && w[1] >= 0.0).count();
            assert!(crossings.abs_diff(100) <= 1, "{rate} Hz: {crossings}");
        }
    }
}
