//! Levels of the bands of what is heard, of which there are as many as the show asks for.

use std::ops::{Deref, DerefMut, Range};

use serde::{Deserialize, Serialize};

/// The number of bands that there usually are.
pub const BANDS: usize = 24;
/// The least and the most that there are.
pub const BANDS_RANGE: [usize; 2] = [16, 64];
/// The most that there are.
pub const MOST_BANDS: usize = BANDS_RANGE[1];

/// Levels from the lowest band to the highest, 0..1 each: at most [`MOST_BANDS`].
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Bands {
    levels: [f32; MOST_BANDS],
    count: usize,
}

impl Bands {
    /// As many as usual, all of them silent.
    pub const SILENCE: Self = Self { levels: [0.0; MOST_BANDS], count: BANDS };

    /// So many, all of them silent; those beyond [`MOST_BANDS`] are left out.
    #[must_use]
    pub fn silent(count: usize) -> Self {
        Self { count: count.clamp(1, MOST_BANDS), ..Self::SILENCE }
    }

    /// These levels; those beyond [`MOST_BANDS`] are left out.
    #[must_use]
    pub fn of(levels: &[f32]) -> Self {
        let mut bands = Self::silent(levels.len());
        bands.iter_mut().zip(levels).for_each(|(band, level)| *band = *level);
        bands
    }

    /// The mean of the bands whose middle lies within these shares of the whole range, 0..1; 0 where none does.
    #[must_use]
    pub fn mean(&self, shares: Range<f32>) -> f32 {
        let middle = |band: usize| (band as f32 + 0.5) / self.count as f32;
        let inside = self.iter().enumerate().filter(|(band, _)| shares.contains(&middle(*band)));
        let (sum, count) = inside.fold((0.0, 0.0f32), |(sum, count), (_, level)| (sum + level, count + 1.0));
        sum / count.max(1.0)
    }

    /// The level at a share of the whole range, gliding from band to band.
    #[must_use]
    pub fn at(&self, share: f32) -> f32 {
        let place = (share * self.count as f32 - 0.5).clamp(0.0, self.count as f32 - 1.0);
        let band = (place as usize).min(self.count.max(2) - 2);
        let next = (band + 1).min(self.count - 1);
        self.levels[band] + (self.levels[next] - self.levels[band]) * (place - band as f32)
    }
}

impl Deref for Bands {
    type Target = [f32];

    fn deref(&self) -> &[f32] {
        &self.levels[..self.count]
    }
}

impl DerefMut for Bands {
    fn deref_mut(&mut self) -> &mut [f32] {
        &mut self.levels[..self.count]
    }
}

impl Serialize for Bands {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        (**self).serialize(serializer)
    }
}

impl<'de> Deserialize<'de> for Bands {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let levels = Vec::<f32>::deserialize(deserializer)?;
        match levels.len() {
            1..=MOST_BANDS => Ok(Self::of(&levels)),
            _ => Err(serde::de::Error::custom(format!("there are 1 to {MOST_BANDS} bands"))),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn shares_mean_the_same_range_whatever_the_number_of_bands() {
        for count in [16, 24, 64] {
            let mut bands = Bands::silent(count);
            let low = count / 4;
            bands[..low].fill(1.0);
            assert_eq!((bands.len(), bands.mean(0.0..0.25), bands.mean(0.25..1.0)), (count, 1.0, 0.0));
            assert!(bands.at(0.0) == 1.0 && bands.at(1.0) == 0.0 && (bands.at(0.25) - 0.5).abs() < 0.01);
        }
        assert_eq!(Bands::of(&[0.5; 100]).len(), MOST_BANDS);
    }
}
