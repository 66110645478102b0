//! Edges that are as soft as one light at the least, so that what moves glides from light to light: the part of a light
//! that something covers, found by filtering it with a box of one light.

use splimo_base::maths::{fract, round};

/// The share of a light that a bar lights: `behind` is how far the light lies behind the tip of the bar, `width` how wide the
/// bar is where it is as bright as half, `head` and `tail` over how many lights it rises and falls (1 at the least).
#[derive(Debug, Clone, Copy)]
pub(super) struct Bar {
    head: f32,
    tail: f32,
    /// From the first bit of light to the last.
    pub(super) length: f32,
}

impl Bar {
    pub(super) fn new(width: f32, head: f32, tail: f32) -> Self {
        let (head, tail) = (head.max(1.0), tail.max(1.0));
        Self { head, tail, length: width + (head + tail) / 2.0 }
    }

    /// The light at a place behind the very tip, in lights.
    #[inline(always)]
    pub(super) fn cover(self, behind: f32) -> f32 {
        (behind / self.head).clamp(0.0, 1.0) * ((self.length - behind) / self.tail).clamp(0.0, 1.0)
    }
}

/// A wave that is 1 for `share` of each turn and 0 for the rest, with edges of a light; `period` is a turn in lights.
#[inline(always)]
pub(super) fn band(turns: f32, share: f32, period: f32) -> f32 {
    // How far inside the band, in lights: it is centred on whole turns.
    let from_middle = (turns - round(turns)).abs();
    ((share * 0.5 - from_middle) * period + 0.5).clamp(0.0, 1.0)
}

/// Goes from 0 to 1 and back, once a turn.
#[inline(always)]
pub(super) fn there_and_back(turns: f32) -> f32 {
    1.0 - (2.0 * fract(turns) - 1.0).abs()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_moving_bar_keeps_its_light() {
        for (width, head, tail) in [(1.0, 0.0, 0.0), (3.0, 2.0, 1.0), (6.0, 1.0, 4.0)] {
            let bar = Bar::new(width, head, tail);
            for step in 0..100 {
                let tip = 20.0 + step as f32 * 0.1;
                let sum: f32 = (0..60).map(|light| bar.cover(tip - light as f32)).sum();
                assert!((sum - width).abs() < 0.01 * width, "{width} at {tip}: {sum}");
            }
        }
    }

    #[test]
    fn a_band_keeps_its_share() {
        let sum: f32 = (0..100).map(|light| band(light as f32 / 10.0 + 0.033, 0.3, 10.0)).sum();
        assert!((sum - 30.0).abs() < 0.1, "{sum}");
    }
}
