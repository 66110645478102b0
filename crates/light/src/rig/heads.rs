//! Heads: the fixtures that turn, compiled: how far and fast they do, where they rest, and the slots that say where they point.

use super::Rig;
use splimo_show::{Channel, Fixture, Function, Profile};

/// A fixture that turns.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Head {
    /// Index of the fixture.
    pub fixture: u32,
    /// The ranges of pan and tilt, in degrees.
    pub ranges: [f64; 2],
    /// The highest speeds of pan and tilt, in degrees a second.
    pub speeds: [f64; 2],
    /// The direction in which it rests: pan and tilt in degrees from the beginning of their ranges.
    pub rest: [f64; 2],
}

impl Head {
    fn of(index: u32, fixture: &Fixture, profile: &Profile) -> Self {
        let swivel = profile.swivel.unwrap_or_default();
        let ranges = swivel.ranges();
        let rest = [f64::from(fixture.pan) / 100.0 * ranges[0], f64::from(fixture.tilt) / 100.0 * ranges[1]];
        Self { fixture: index, ranges, speeds: swivel.speeds(), rest }
    }

    /// A direction in degrees, from one in percent.
    #[must_use]
    pub fn degrees(&self, percent: [f64; 2]) -> [f64; 2] {
        std::array::from_fn(|axis| (percent[axis] / 100.0).clamp(0.0, 1.0) * self.ranges[axis])
    }

    /// A direction in percent, from one in degrees.
    #[must_use]
    pub fn percent(&self, degrees: [f64; 2]) -> [f64; 2] {
        std::array::from_fn(|axis| (degrees[axis] / self.ranges[axis]).clamp(0.0, 1.0) * 100.0)
    }

    /// The pan that points the same way as another and is nearest to `near`, within what the head can turn: if it can, with so
    /// many degrees of room on both sides.
    #[must_use]
    pub fn nearest(&self, pan: f64, near: f64, room: f64) -> f64 {
        let turns = ((near - pan) / 360.0).round();
        let within = |room: f64| {
            let candidates = [turns, turns - 1.0, turns + 1.0].map(|turns| pan + turns * 360.0);
            let within = candidates.into_iter().filter(|pan| (room..=self.ranges[0] - room).contains(pan));
            within.min_by(|a, b| (a - near).abs().total_cmp(&(b - near).abs()))
        };
        within(room).or_else(|| within(0.0)).unwrap_or(pan)
    }
}

/// A channel of pan or tilt.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct HeadSlot {
    /// Its place among all slots of a frame, of the coarse one where there are two.
    pub slot: u32,
    /// Index of the head in [`Rig::heads`].
    pub head: u32,
    /// The channel.
    pub channel: Channel,
}

impl HeadSlot {
    /// The axis that it turns: 0 is pan, 1 tilt.
    #[must_use]
    pub fn axis(&self) -> usize {
        usize::from(self.channel.does == Function::Tilt)
    }

    /// Writes a direction in degrees into the slots of a frame.
    pub fn write(&self, head: &Head, direction: [f64; 2], slots: &mut [u8]) {
        let axis = self.axis();
        let [coarse, fine] = self.channel.at((direction[axis] / head.ranges[axis]) as f32).to_be_bytes();
        let slot = self.slot as usize;
        if self.channel.wide {
            (slots[slot], slots[slot + 1]) = (coarse, fine);
        } else {
            slots[slot] = fine;
        }
    }
}

impl Rig {
    /// Takes note of a fixture that turns. Returns its place among the heads.
    pub(super) fn add_head(&mut self, index: u32, fixture: &Fixture, profile: &Profile) -> Option<u32> {
        profile.aims().then(|| {
            self.heads.push(Head::of(index, fixture, profile));
            self.heads.len() as u32 - 1
        })
    }

    /// The place of a fixture among the heads, if it is one.
    #[must_use]
    pub fn head_of(&self, fixture: usize) -> Option<usize> {
        self.heads.binary_search_by_key(&fixture, |head| head.fixture as usize).ok()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_nearest_pan_that_points_the_same_way_is_found_within_the_range() {
        let head = Head { fixture: 0, ranges: [540.0, 270.0], speeds: [100.0; 2], rest: [0.0; 2] };
        for (pan, near, wanted) in [
            (10.0, 350.0, 370.0),
            (370.0, 20.0, 10.0),
            (300.0, 10.0, 300.0),
            (200.0, 540.0, 200.0),
            (180.0, 540.0, 540.0),
            (90.0, 90.0, 90.0),
        ] {
            assert_eq!(head.nearest(pan, near, 0.0), wanted, "{pan} near {near}");
        }
        let narrow = Head { ranges: [180.0, 90.0], ..head };
        assert_eq!(narrow.nearest(170.0, 5.0, 0.0), 170.0, "it cannot go round");
        assert_eq!(head.nearest(170.0, 530.0, 20.0), 170.0, "there is no room for a circle at the end");
        assert_eq!(narrow.nearest(170.0, 5.0, 20.0), 170.0, "there is none anywhere");
    }
}
