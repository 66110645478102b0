//! Light on its way to a screen: 8 bits a colour, as screens have them (sRGB), of those lights that are shown.

use std::sync::LazyLock;

use serde::{Deserialize, Serialize};
use splimo_base::colour::{srgb_to_linear, to_screen};
use splimo_document::check::MOST_LEDS;

/// Linear light of the 256 levels of a screen code.
static LINEAR: LazyLock<[f32; 256]> = LazyLock::new(|| std::array::from_fn(|code| srgb_to_linear(code as f32 / 255.0)));

/// A set of LEDs.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum LedSet {
    /// Every nth, from the first on; 1 is all of them. The others look like the one before them.
    Every(u32),
    /// Some ranges: the first LED of each, and the one behind its last. The others are dark.
    Ranges(Vec<(u32, u32)>),
}

impl LedSet {
    /// The most ranges that can be asked for.
    pub const MOST_RANGES: usize = 16 << 10;

    /// The places of those among `leds` that are told, in order.
    fn places(&self, leds: usize) -> Box<dyn Iterator<Item = usize> + '_> {
        match self {
            Self::Every(nth) => Box::new((0..leds).step_by((*nth).max(1) as usize)),
            Self::Ranges(ranges) => Box::new(ranges.iter().flat_map(move |&(first, end)| {
                (first as usize).min(leds)..(end as usize).clamp((first as usize).min(leds), leds)
            })),
        }
    }
}

/// The light of some LEDs.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct LightUpdate {
    /// The edition of the show whose rig the LEDs are of.
    pub edition: u64,
    /// The number of LEDs that the rig has.
    pub leds: u32,
    /// The LEDs whose light is told.
    pub set: LedSet,
    /// Red, green and blue of each, one behind another.
    #[serde(with = "crate::bytes")]
    pub rgb: Vec<u8>,
}

impl LightUpdate {
    /// The light of a frame, as much of it as is wanted. A set that names LEDs again and again is cut off at the number of
    /// LEDs that there are.
    #[must_use]
    pub fn of(edition: u64, light: &[[f32; 3]], set: &LedSet) -> Self {
        let rgb = set.places(light.len()).take(light.len()).flat_map(|led| to_screen(light[led])).collect();
        Self { edition, leds: light.len() as u32, set: set.clone(), rgb }
    }

    /// Writes the linear light of all LEDs into `light`.
    pub fn expand(&self, light: &mut Vec<[f32; 3]>) {
        let leds = (self.leds as usize).min(MOST_LEDS as usize);
        light.clear();
        // A made-up number takes no memory for what it does not bring along.
        let most = self.rgb.len() / 3;
        match &self.set {
            LedSet::Every(nth) => {
                let nth = (*nth).max(1) as usize;
                let leds = leds.min(most.saturating_mul(nth));
                light.extend((0..leds).map(|led| self.linear(led / nth)));
            }
            set @ LedSet::Ranges(_) => {
                light.resize(leds, [0.0; 3]);
                for (place, led) in set.places(leds).enumerate().take(most) {
                    light[led] = self.linear(place);
                }
            }
        }
    }

    fn linear(&self, place: usize) -> [f32; 3] {
        let at = 3 * place;
        self.rgb.get(at..at + 3).map_or([0.0; 3], |rgb| [0, 1, 2].map(|c| LINEAR[usize::from(rgb[c])]))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn light() -> Vec<[f32; 3]> {
        (0..10).map(|led| [led as f32 / 9.0, 0.5, 1.0 - led as f32 / 9.0]).collect()
    }

    fn told(set: LedSet) -> Vec<[f32; 3]> {
        let mut back = Vec::new();
        LightUpdate::of(3, &light(), &set).expand(&mut back);
        back
    }

    fn near(a: [f32; 3], b: [f32; 3]) -> bool {
        a.iter().zip(b).all(|(a, b)| (a - b).abs() < 0.005)
    }

    #[test]
    fn all_lights_arrive_as_a_screen_shows_them() {
        let back = told(LedSet::Every(1));
        assert!(back.len() == 10 && back.iter().zip(light()).all(|(a, b)| near(*a, b)), "{back:?}");
    }

    #[test]
    fn of_many_lights_every_third_stands_for_its_neighbours() {
        let back = told(LedSet::Every(3));
        assert_eq!(LightUpdate::of(0, &light(), &LedSet::Every(3)).rgb.len(), 3 * 4);
        assert!((0..10).all(|led| near(back[led], light()[led / 3 * 3])), "{back:?}");
    }

    #[test]
    fn ranges_are_told_and_the_rest_is_dark() {
        let back = told(LedSet::Ranges(vec![(2, 4), (8, 99), (50, 3)]));
        let lit: Vec<usize> = (0..10).filter(|led| near(back[*led], light()[*led])).collect();
        assert_eq!(lit, [2, 3, 8, 9]);
        assert!(back[0] == [0.0; 3] && back.len() == 10);
    }

    #[test]
    fn made_up_numbers_take_no_memory() {
        let mut back = Vec::new();
        for set in [LedSet::Every(0), LedSet::Every(u32::MAX), LedSet::Ranges(vec![(0, u32::MAX); 4])] {
            LightUpdate { edition: 0, leds: u32::MAX, set, rgb: vec![255; 30] }.expand(&mut back);
            assert!(back.len() <= MOST_LEDS as usize, "{}", back.len());
            back = Vec::new();
        }
    }
}
