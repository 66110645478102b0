//! What all instruments of a piece need to know: where steps lie in time, and which notes there are.

use crate::harmony::Harmony;
use crate::lot::Lot;
use crate::rhythm::Grid;
use crate::tempo::TempoMap;

/// Where a step of the grid lies, in beats, with its swing.
fn place(step: usize, sub: usize, swing: f32) -> f64 {
    let (whole, rest) = (step / sub, step % sub);
    if sub == 4 {
        // Halves of each half beat: the second is later.
        let (half, second) = (rest / 2, rest % 2);
        let inside = if second == 1 { f64::from(swing) } else { 0.0 };
        // Slow music swings in eighths, which comes to the same on a coarser grid.
        whole as f64 + 0.5 * (half as f64 + inside)
    } else {
        whole as f64 + rest as f64 / sub as f64
    }
}

/// What all instruments of a piece need to know.
pub(crate) struct Score<'a> {
    pub(crate) map: &'a TempoMap,
    pub(crate) grid: Grid,
    pub(crate) swing: f32,
    /// How far off its place a hit is at most, in seconds.
    pub(crate) loose: f32,
    pub(crate) tonic: f32,
    pub(crate) minor: bool,
    pub(crate) harmony: Harmony,
}

impl Score<'_> {
    pub(crate) fn time(&self, bar: usize, step: usize, lot: &mut Lot) -> f64 {
        let beat = (bar * self.grid.bar) as f64 + place(step, self.grid.sub, self.swing);
        self.map.time(beat) + f64::from(lot.bell() * self.loose)
    }

    pub(crate) fn scale(&self) -> [f32; 7] {
        if self.minor { [0.0, 2.0, 3.0, 5.0, 7.0, 8.0, 10.0] } else { [0.0, 2.0, 4.0, 5.0, 7.0, 9.0, 11.0] }
    }

    /// The pitch of a degree of the scale, which may lie octaves away.
    pub(crate) fn hz(&self, degree: i32, octave: f32) -> f32 {
        let semitones = self.scale()[degree.rem_euclid(7) as usize] + 12.0 * degree.div_euclid(7) as f32;
        self.tonic * ((semitones + 12.0 * octave) / 12.0).exp2()
    }

    pub(crate) fn steps(&self) -> usize {
        self.grid.steps()
    }

    pub(crate) fn step_seconds(&self, bar: usize) -> f32 {
        let beat = (bar * self.grid.bar) as f64;
        ((self.map.time(beat + 1.0) - self.map.time(beat)) / self.grid.sub as f64) as f32
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::tempo::Motion;

    fn with_score(minor: bool, test: impl FnOnce(&Score<'_>, &mut Lot)) {
        let mut lot = Lot::new(3);
        let map = TempoMap::new(120.0, Motion::Steady, 4, [1.0, 60.0], &mut lot);
        let harmony = Harmony::new(4, &mut lot);
        let grid = Grid { bar: 4, sub: 4 };
        test(&Score { map: &map, grid, swing: 0.6, loose: 0.0, tonic: 220.0, minor, harmony }, &mut lot);
    }

    #[test]
    fn the_second_half_of_each_half_beat_swings() {
        let places: Vec<f64> = (0..5).map(|step| place(step, 4, 0.6)).collect();
        for (place, truth) in places.iter().zip([0.0, 0.3, 0.5, 0.8, 1.0]) {
            assert!((place - truth).abs() < 1e-6, "{places:?}");
        }
        assert!((place(5, 3, 0.6) - 5.0 / 3.0).abs() < 1e-9, "what is counted in threes has its swing in them");
    }

    #[test]
    fn steps_lie_in_their_bars() {
        with_score(false, |score, lot| {
            // Bars of 2 s that begin after the first second.
            assert!((score.time(3, 8, lot) - 8.0).abs() < 1e-6);
            assert!((score.step_seconds(2) - 0.125).abs() < 1e-6);
            assert_eq!(score.steps(), 16);
        });
    }

    #[test]
    fn degrees_are_those_of_the_scale_in_every_octave() {
        for (minor, third) in [(false, 4.0), (true, 3.0f32)] {
            with_score(minor, |score, _| {
                let semitones = |degree, octave| 12.0 * (score.hz(degree, octave) / 220.0).log2();
                for (degree, octave, truth) in [(0, 0.0, 0.0), (2, 0.0, third), (9, -1.0, third), (-5, 1.0, third)] {
                    assert!((semitones(degree, octave) - truth).abs() < 1e-3, "{degree} {octave}");
                }
            });
        }
    }
}
