//! Any rate and any number of channels to mono at 48 kHz, by linear interpolation: what it adds above 16 kHz does not
//! matter to the ear of this program, and it has no delay.

use splimo_hear::SAMPLE_RATE;

/// Which channels are listened to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Channels {
    /// The mean of all.
    #[default]
    All,
    /// One, counted from 0.
    One(usize),
    /// The mean of two.
    Pair(usize, usize),
}

impl std::str::FromStr for Channels {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let number = |text: &str| text.trim().parse::<usize>().ok().filter(|n| (1..=64).contains(n)).map(|n| n - 1);
        let found = match text {
            "mono" | "all" => Some(Self::All),
            "left" => Some(Self::One(0)),
            "right" => Some(Self::One(1)),
            _ => match text.split_once('+') {
                Some((one, other)) => number(one).zip(number(other)).map(|(one, other)| Self::Pair(one, other)),
                None => number(text).map(Self::One),
            },
        };
        found.ok_or_else(|| format!("\"{text}\" is no choice of channels: write mono, left, right, 3, or 3+4"))
    }
}

impl Channels {
    /// The sample of a frame. A channel that it does not have is its last.
    fn of(self, frame: &[f32]) -> f32 {
        let one = |channel: usize| frame.get(channel).or(frame.last()).copied().unwrap_or(0.0);
        match self {
            Self::All => frame.iter().sum::<f32>() / frame.len().max(1) as f32,
            Self::One(channel) => one(channel),
            Self::Pair(left, right) => (one(left) + one(right)) / 2.0,
        }
    }
}

/// Converts a stream of interleaved samples.
#[derive(Debug, Clone)]
pub struct ToMono48k {
    channels: usize,
    pick: Channels,
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
        Self::picking(channels, rate, Channels::All)
    }

    /// The same from some of the channels.
    #[must_use]
    pub fn picking(channels: usize, rate: u32, pick: Channels) -> Self {
        Self {
            channels: channels.max(1),
            pick,
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
            let mono = self.pick.of(frame);
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
    fn channels_are_picked_as_they_are_named() {
        for (name, expected) in [("mono", 0.5), ("left", 0.0), ("right", 1.0), ("2", 1.0), ("1+3", 0.25), ("9", 0.5)] {
            let mut converter = ToMono48k::picking(3, 48_000, name.parse().expect("a choice"));
            let mut out = Vec::new();
            converter.convert(&[0.0, 1.0, 0.5].repeat(20), &mut out);
            assert_eq!(out[10], expected, "{name}");
        }
        for bad in ["", "middle", "0", "1+", "65"] {
            assert!(bad.parse::<Channels>().is_err(), "{bad}");
        }
    }

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
