//! Automatic gain: how loud something is against the loudest of the recent past.

/// The level below which nothing is turned up any further (-60 dB of full scale), so that silence stays dark.
const FLOOR: f32 = 0.001;

/// Follows a peak: up at once, down slowly.
#[derive(Debug, Clone)]
pub struct Gain {
    peak: f32,
    fall: f32,
}

impl Gain {
    /// A gain that forgets half of a peak in `half_life` hops.
    #[must_use]
    pub fn new(half_life: f64) -> Self {
        Self { peak: FLOOR, fall: 0.5f64.powf(1.0 / half_life) as f32 }
    }

    /// A level against the recent past, 0..1.
    pub fn apply(&mut self, level: f32) -> f32 {
        self.peak = level.max(self.peak * self.fall).max(FLOOR);
        (level / self.peak).clamp(0.0, 1.0)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn quiet_music_is_turned_up_and_silence_is_not() {
        let mut gain = Gain::new(100.0);
        assert_eq!(gain.apply(1.0), 1.0);
        for _ in 0..600 {
            gain.apply(0.02);
        }
        assert!(gain.apply(0.02) > 0.9);
        for _ in 0..5000 {
            gain.apply(0.0);
        }
        assert!(gain.apply(0.000_01) < 0.02);
    }
}
