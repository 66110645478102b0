//! The features by which parts of music are told, twice a second: how loud it is from low to high, against the fullest that
//! there was, against the recent past and against everything; how much is struck; how bright it is; for how long it has been
//! going on; and whether it sounded like this before (cues of form: M. J. Butler, "Unlocking the groove", 2006; likeness to the
//! past: J. Foote, "Automatic audio segmentation using a measure of audio novelty", ICME 2000).

use crate::HOPS_PER_SECOND;
use crate::spectrum::BIN_HZ;

/// Hops from one look to the next: half a second.
pub const HOPS_A_LOOK: u32 = 47;
/// Seconds from one look to the next.
pub const LOOK: f32 = HOPS_A_LOOK as f32 / HOPS_PER_SECOND as f32;
/// The ends of the ranges from low to high, in hertz; the last has no end.
const ENDS: [f32; 3] = [150.0, 1_000.0, 5_000.0];
const RANGES: usize = ENDS.len() + 1;
/// Levels: of each range, and of everything.
const LEVELS: usize = RANGES + 1;
/// Kinds of what is struck: low, middle and high drums, anything for sure, and anything at once.
const KINDS: usize = 5;
/// Numbers that are seen at a look: two of each level and of each kind, one of each range against everything, two of
/// brightness, two of time, one of likeness.
pub const SEEN: usize = 2 * LEVELS + 2 * KINDS + RANGES + 5;

/// The present and the recent past, in seconds, of levels, of what is struck and of brightness.
const LEVEL: [f32; 2] = [0.8, 8.0];
const STRUCK: [f32; 2] = [1.5, 10.0];
const BRIGHT: [f32; 2] = [1.0, 8.0];
/// The time over which the fullest is averaged, in seconds, and by how much it falls in a second, in decibels.
const FULLEST: f32 = 1.5;
const FALLS: f32 = 6.0 / 90.0;
/// The least age of what the present is held to be like, in seconds, and the number of looks between
/// two that are remembered.
const AGO: usize = 8;
const APART: u32 = 4;
/// The number that are remembered: two minutes.
const REMEMBERED: usize = 60;
/// Nothing that is seen is further from 0.
const MOST: f32 = 4.0;

/// The measures of a hop.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct HopLevels {
    /// The power of each range, and of everything.
    pub powers: [f32; LEVELS],
    /// The middle of the spectrum, in hertz.
    pub centroid: f32,
    /// Whether each kind was struck: low, middle, high, anything for sure, anything at once.
    pub struck: [bool; KINDS],
}

impl HopLevels {
    /// Of a spectrum, and the root of the mean square of its samples. Nothing is struck.
    #[must_use]
    pub fn of(magnitudes: &[f32], rms: f32) -> Self {
        let mut powers = [rms * rms; LEVELS];
        let mut from = 1;
        for (power, end) in powers.iter_mut().zip(ENDS.into_iter().chain([f32::INFINITY])) {
            let until = ((end / BIN_HZ) as usize).clamp(from, magnitudes.len());
            *power = magnitudes[from..until].iter().map(|m| m * m).sum();
            from = until;
        }
        let weight: f32 = magnitudes.iter().sum();
        let sum: f32 = magnitudes.iter().enumerate().map(|(bin, m)| bin as f32 * m).sum();
        let centroid = if weight > 1e-4 { BIN_HZ * sum / weight } else { 0.0 };
        Self { powers, centroid, struck: [false; KINDS] }
    }

    /// The root of the mean square of everything.
    #[must_use]
    pub fn level(&self) -> f32 {
        self.powers[LEVELS - 1].sqrt()
    }
}

/// A mean over the past, which looks fade from; from the first one on it is one of what there was.
#[derive(Debug, Clone, Copy, Default)]
struct Mean {
    sum: f32,
    weight: f32,
}

impl Mean {
    fn take(&mut self, value: f32, seconds: f32) -> f32 {
        let share = 1.0 - (-LOOK / seconds).exp();
        self.sum += (value - self.sum) * share;
        self.weight += (1.0 - self.weight) * share;
        self.mean()
    }

    /// 0 where there was nothing yet.
    fn mean(&self) -> f32 {
        self.sum / self.weight.max(1e-6)
    }
}

/// Two means of the same.
fn both(means: &mut [Mean; 2], value: f32, seconds: [f32; 2]) -> [f32; 2] {
    [means[0].take(value, seconds[0]), means[1].take(value, seconds[1])]
}

/// The sounds of the past, by the levels of their ranges.
#[derive(Debug, Clone)]
struct Past {
    sounds: [[f32; RANGES]; REMEMBERED],
    count: usize,
}

impl Past {
    /// The distance of the present from the nearest that was `AGO` or more seconds ago, in decibels a range; none where there
    /// is nothing so old.
    fn distance(&self, now: &[f32; RANGES]) -> Option<f32> {
        let young = AGO.div_ceil((APART as f32 * LOOK) as usize);
        let old = self.count.saturating_sub(young);
        let of = |sound: &[f32; RANGES]| {
            sound.iter().zip(now).map(|(then, now)| (then - now).abs()).sum::<f32>() / now.len() as f32
        };
        let first = self.count.saturating_sub(REMEMBERED);
        (first..old).map(|index| of(&self.sounds[index % REMEMBERED])).min_by(f32::total_cmp)
    }

    fn remember(&mut self, now: [f32; RANGES]) {
        self.sounds[self.count % REMEMBERED] = now;
        self.count += 1;
    }
}

/// Sees the parts of the music.
#[derive(Debug, Clone)]
pub struct SectionFeatures {
    hops: u32,
    looks: u32,
    powers: [f32; LEVELS],
    centroid: f32,
    struck: [u32; KINDS],
    levels: [[Mean; 2]; LEVELS],
    smooth: [Mean; LEVELS],
    fullest: [f32; LEVELS],
    density: [[Mean; 2]; KINDS],
    bright: [Mean; 2],
    past: Past,
}

impl Default for SectionFeatures {
    fn default() -> Self {
        Self {
            hops: 0,
            looks: 0,
            powers: [0.0; LEVELS],
            centroid: 0.0,
            struck: [0; KINDS],
            levels: [[Mean::default(); 2]; LEVELS],
            smooth: [Mean::default(); LEVELS],
            fullest: [f32::NEG_INFINITY; LEVELS],
            density: [[Mean::default(); 2]; KINDS],
            bright: [Mean::default(); 2],
            past: Past { sounds: [[0.0; RANGES]; REMEMBERED], count: 0 },
        }
    }
}

impl SectionFeatures {
    /// Takes a hop; what is seen, where a look is complete with it. Each number is within -4..4. Allocates nothing.
    pub fn hop(&mut self, cue: &HopLevels) -> Option<[f32; SEEN]> {
        self.hops += 1;
        self.powers.iter_mut().zip(cue.powers).for_each(|(sum, power)| *sum += power);
        self.centroid += cue.centroid / HOPS_A_LOOK as f32;
        self.struck.iter_mut().zip(cue.struck).for_each(|(count, struck)| *count += u32::from(struck));
        (self.hops == HOPS_A_LOOK).then(|| self.look())
    }

    fn look(&mut self) -> [f32; SEEN] {
        let seconds = self.looks as f32 * LOOK;
        let mut seen = [0.0; SEEN];
        let (levels, rest) = seen.split_at_mut(2 * LEVELS);
        let (density, rest) = rest.split_at_mut(2 * KINDS);
        levels.copy_from_slice(self.levels().as_flattened());
        density.copy_from_slice(self.density().as_flattened());
        let (balance, rest) = rest.split_at_mut(RANGES);
        balance.copy_from_slice(&self.balance());
        let [now, recent] = both(&mut self.bright, self.centroid / 1000.0, BRIGHT);
        rest.copy_from_slice(&[
            now - recent,
            now / 3.0,
            seconds.min(60.0) / 30.0,
            (-seconds / 16.0).exp(),
            self.likeness(),
        ]);
        (self.hops, self.looks) = (0, self.looks + 1);
        (self.powers, self.centroid, self.struck) = ([0.0; LEVELS], 0.0, [0; KINDS]);
        seen.map(|number| number.clamp(-MOST, MOST))
    }

    /// Of each level how far it is under the fullest and over the recent past, in tens of decibels.
    fn levels(&mut self) -> [[f32; 2]; LEVELS] {
        std::array::from_fn(|level| {
            let decibels = 10.0 * (self.powers[level] / HOPS_A_LOOK as f32).max(1e-10).log10();
            let [now, recent] = both(&mut self.levels[level], decibels, LEVEL);
            let smooth = self.smooth[level].take(decibels, FULLEST);
            self.fullest[level] = smooth.max(self.fullest[level] - FALLS * LOOK);
            [(now - self.fullest[level]) / 10.0, (now - recent) / 10.0]
        })
    }

    /// Of each range how far it is under everything, in tens of decibels: drums alone leave the middle empty, also where they
    /// are the fullest that there was.
    fn balance(&self) -> [f32; RANGES] {
        std::array::from_fn(|range| (self.smooth[range].mean() - self.smooth[LEVELS - 1].mean()) / 10.0)
    }

    /// Of each kind how much is struck and how much more than in the recent past, in five a second.
    fn density(&mut self) -> [[f32; 2]; KINDS] {
        std::array::from_fn(|kind| {
            let often = self.struck[kind] as f32 / LOOK / 5.0;
            let [now, recent] = both(&mut self.density[kind], often, STRUCK);
            [now, now - recent]
        })
    }

    /// The distance of the present sound from the likest of the past, in tens of decibels; 1 where there is none.
    fn likeness(&mut self) -> f32 {
        let now: [f32; RANGES] = std::array::from_fn(|level| self.smooth[level].mean());
        let distance = self.past.distance(&now).map_or(1.0, |decibels| decibels / 10.0);
        if self.looks.is_multiple_of(APART) {
            self.past.remember(now);
        }
        distance
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The looks at a steady sound of some powers, after those that there were.
    fn look(features: &mut SectionFeatures, powers: [f32; LEVELS], looks: u32, every: u32) -> [f32; SEEN] {
        let mut last = [0.0; SEEN];
        for hop in 0..looks * HOPS_A_LOOK {
            let struck = [hop % every == 0; KINDS];
            if let Some(seen) = features.hop(&HopLevels { powers, centroid: 2000.0, struck }) {
                last = seen;
            }
        }
        last
    }

    #[test]
    fn what_goes_away_is_seen_under_the_fullest_and_the_recent_past() {
        let mut features = SectionFeatures::default();
        let full = look(&mut features, [1e-2; LEVELS], 40, 10);
        assert!(full[..2 * LEVELS].iter().all(|level| level.abs() < 0.2), "{full:?}");
        // The low end is 20 dB softer for 3 s.
        let away = look(&mut features, [1e-4, 1e-2, 1e-2, 1e-2, 1e-2], 6, 10);
        assert!(away[0] < -1.7 && away[1] < -1.0 && away[2].abs() < 0.2, "{away:?}");
        // After a minute it is no news any more.
        let later = look(&mut features, [1e-4, 1e-2, 1e-2, 1e-2, 1e-2], 120, 10);
        assert!(later[0] < -1.2 && later[1] > -0.1, "{later:?}");
    }

    #[test]
    fn drums_alone_leave_the_middle_empty_also_where_they_are_the_fullest_so_far() {
        let mut features = SectionFeatures::default();
        let drums = look(&mut features, [1e-2, 1e-5, 1e-4, 1e-3, 1.111e-2], 20, 10);
        let balance = &drums[2 * LEVELS + 2 * KINDS..][..RANGES];
        let truth = [-0.05, -3.05, -2.05, -1.05];
        assert!(balance.iter().zip(truth).all(|(seen, truth)| (seen - truth).abs() < 0.05), "{balance:?}");
        assert!(drums[..2 * LEVELS].iter().all(|level| level.abs() < 0.2), "{drums:?}");
    }

    #[test]
    fn how_much_is_struck_is_counted_by_the_second() {
        let mut features = SectionFeatures::default();
        // A hit each 9.4 hops is ten a second: two in fives.
        let seen = look(&mut features, [1e-2; LEVELS], 60, 9);
        let often = HOPS_PER_SECOND as f32 / 9.0 / 5.0;
        assert!((seen[2 * LEVELS] - often).abs() < 0.1 && seen[2 * LEVELS + 1].abs() < 0.05, "{seen:?}");
        let more = look(&mut features, [1e-2; LEVELS], 6, 4);
        assert!(more[2 * LEVELS + 1] > 0.8, "{more:?}");
    }

    #[test]
    fn a_sound_that_comes_again_is_like_the_past_and_a_new_one_is_not() {
        let mut features = SectionFeatures::default();
        let (one, other) = ([1e-2; LEVELS], [1e-4, 1e-3, 1e-2, 1e-3, 1e-2]);
        assert!(look(&mut features, one, 8, 10)[SEEN - 1] > 0.9, "nothing is so old yet");
        look(&mut features, one, 40, 10);
        assert!(look(&mut features, other, 8, 10)[SEEN - 1] > 0.5);
        look(&mut features, other, 40, 10);
        assert!(look(&mut features, one, 12, 10)[SEEN - 1] < 0.15);
    }

    #[test]
    fn ranges_take_what_is_theirs() {
        let mut magnitudes = vec![0.0; 1025];
        magnitudes[(80.0 / BIN_HZ) as usize] = 0.5;
        magnitudes[(6_000.0 / BIN_HZ) as usize] = 0.1;
        let cue = HopLevels::of(&magnitudes, 0.3);
        let truth = [0.25, 0.0, 0.0, 0.01, 0.09];
        assert!(cue.powers.iter().zip(truth).all(|(power, truth)| (power - truth).abs() < 1e-6), "{cue:?}");
        assert!((cue.centroid - (0.5 * 80.0 + 0.1 * 6_000.0) / 0.6).abs() < 60.0, "{cue:?}");
        assert_eq!(HopLevels::of(&[0.0; 1025], 0.0).centroid, 0.0);
    }
}
