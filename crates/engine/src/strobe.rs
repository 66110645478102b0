//! The strobe: all light flashes at a rate, half of the time dark. The flash guard limits it as it does everything.

use splimo_show::command::MOST_STROBE;

/// The strobe of the stage.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub(super) struct Strobe {
    rate: f32,
    /// Flashes since it began; it begins with light.
    turns: f64,
}

impl Strobe {
    pub(super) fn rate(&self) -> f32 {
        self.rate
    }

    /// Flashes so often a second from now on; 0 ends it.
    pub(super) fn set(&mut self, rate: f32) {
        if self.rate == 0.0 {
            self.turns = 0.0;
        }
        self.rate = if rate.is_finite() { rate.clamp(0.0, MOST_STROBE) } else { 0.0 };
    }

    pub(super) fn advance(&mut self, seconds: f64) {
        self.turns = (self.turns + seconds * f64::from(self.rate)).fract();
    }

    pub(super) fn is_dark(&self) -> bool {
        self.rate > 0.0 && self.turns >= 0.5
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_is_dark_half_of_the_time_and_light_when_it_ends() {
        let mut strobe = Strobe::default();
        strobe.set(5.0);
        let dark = (0..1000).filter(|_| {
            strobe.advance(0.001);
            strobe.is_dark()
        });
        assert!((495..=505).contains(&dark.count()));
        strobe.set(0.0);
        assert!(!strobe.is_dark());
        strobe.set(f32::NAN);
        assert_eq!(strobe.rate(), 0.0);
    }
}
