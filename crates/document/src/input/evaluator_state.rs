//! The memory of a binding between events.

use splimo_base::Seconds;

/// The time for which a value has to stand still before it counts as meant, although it is near the edge of a band, in seconds.
const SETTLES: Seconds = 1.0;

/// The memory of a binding.
#[derive(Debug, Clone, Default, PartialEq)]
pub(super) struct State {
    /// True while it is held, or its value is high.
    pub(super) down: bool,
    /// True at every second press.
    pub(super) on: bool,
    /// True while its condition holds.
    pub(super) met: bool,
    /// True once soft take-over has come past where things are.
    pub(super) taken: bool,
    /// The last value that came in, 0..1.
    pub(super) last: Option<f32>,
    /// The number that it asked for last, and when.
    pub(super) sent: Option<(f32, Seconds)>,
    /// The band of its value.
    pub(super) band: BandState,
}

/// In which band a value is.
#[derive(Debug, Clone, Default, PartialEq)]
pub(super) struct BandState {
    now: Option<usize>,
    raw: f32,
    since: Seconds,
}

impl BandState {
    /// Takes a value; the band that it has come into, if that is another. Where it is within `hysteresis` of the one that it left, it
    /// has to be meant: to have come from far, or to stand still.
    pub(super) fn take(&mut self, bands: &[u16], hysteresis: u16, raw: f32, at: Seconds) -> Option<usize> {
        let jump = (raw - self.raw).abs();
        if jump > 0.0 || self.now.is_none() {
            (self.raw, self.since) = (raw, at);
        }
        let there = band_of(bands, raw)?;
        let Some(now) = self.now.filter(|now| *now < bands.len()) else {
            self.now = Some(there);
            return Some(there);
        };
        if there == now {
            return None;
        }
        let noise = f32::from(hysteresis.min(narrowest(bands, there)));
        let beyond = if there > now { raw - f32::from(bands[now + 1]) } else { f32::from(bands[now]) - 1.0 - raw };
        let meant = beyond >= noise || jump > 2.0 * noise;
        (meant || at - self.since >= SETTLES).then(|| {
            self.now = Some(there);
            there
        })
    }

    /// The band of a value that has stood still near an edge.
    pub(super) fn settle(&mut self, bands: &[u16], at: Seconds) -> Option<usize> {
        self.now?;
        let raw = self.raw;
        self.take(bands, u16::MAX, raw, at)
    }

    /// Forgets the band: the next value asks for its own again.
    pub(super) fn forget(&mut self) {
        self.now = None;
    }
}

/// The band that a value lies in: the last that begins at it or below it.
fn band_of(bands: &[u16], raw: f32) -> Option<usize> {
    bands.iter().rposition(|from| f32::from(*from) <= raw)
}

/// The counts of noise that a band has room for: less than half its width.
fn narrowest(bands: &[u16], band: usize) -> u16 {
    // The last one is as wide as the one before, as far as this goes.
    let from = if band + 1 < bands.len() { band } else { band.saturating_sub(1) };
    let width = bands.get(from + 1).map_or(1, |next| next - bands[from]);
    (width - 1) / 2
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The bands that values come into, which come so many seconds apart.
    fn run(bands: &[u16], values: &[u16], apart: f64) -> Vec<usize> {
        let mut state = BandState::default();
        let times = values.iter().enumerate();
        times.filter_map(|(n, raw)| state.take(bands, 2, f32::from(*raw), n as f64 * apart)).collect()
    }

    #[test]
    fn a_fader_comes_into_each_band_once_and_its_noise_into_none() {
        let bands = [0, 1, 17, 33];
        let up: Vec<u16> = (0..=40).collect();
        assert_eq!(run(&bands, &up, 0.02), [0, 1, 2, 3]);
        let down: Vec<u16> = (0..=40).rev().collect();
        assert_eq!(run(&bands, &down, 0.02), [3, 2, 1, 0]);
        let noise: Vec<u16> = (0..400).map(|n| if n < 20 { n } else { 16 + n % 2 }).collect();
        assert_eq!(run(&bands, &noise, 0.02), [0, 1, 2], "on the edge it stays where it came to");
    }

    #[test]
    fn a_value_that_is_set_to_the_edge_of_a_band_counts() {
        let bands = [0, 1, 17, 33];
        assert_eq!(run(&bands, &[0, 17, 16, 32], 0.5)[..2], [0, 2], "a jump is meant");
        assert_eq!(run(&bands, &[15, 17, 17, 17], 0.6), [1, 2], "standing still is meant");
        assert_eq!(run(&[0, 1, 2, 3], &[0, 1, 2, 3, 2], 0.02), [0, 1, 2, 3, 2], "bands of one value each");
    }

    #[test]
    fn what_was_forgotten_is_asked_for_again() {
        let mut state = BandState::default();
        assert_eq!(state.take(&[0, 10], 2, 50.0, 0.0), Some(1));
        assert_eq!(state.take(&[0, 10], 2, 50.0, 0.1), None);
        state.forget();
        assert_eq!(state.take(&[0, 10], 2, 50.0, 0.2), Some(1));
    }
}
