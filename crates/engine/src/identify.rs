//! A test laid over the lights: cells that flash, a pixel that walks along the wiring, slots held at a value. All of it lies over
//! the show, which goes on beneath, and over master and blackout.

use serde::{Deserialize, Serialize};

use splimo_base::Seconds;
use splimo_base::colour::Rgba;
use splimo_light::rig::{Rig, TILE};
use splimo_show::{LightTest, SLOTS};

/// The number of times that what is to be found flashes, in hertz.
const FLASHES: f64 = 2.0;
/// The time that everything is lit where a flash is compared with a click, in seconds.
const FLASH: f64 = 0.08;

/// A walk as a screen is told of it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Walked {
    /// The LED that is lit.
    pub led: u32,
    /// The pixel that it is on, from 0.
    pub at: u32,
    /// The number of pixels.
    pub of: u32,
    /// The pixels that it goes on by itself each second.
    pub speed: f32,
}

/// LEDs of one fixture.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Stretch {
    first: u32,
    end: u32,
    level: f32,
    /// The number of pixels that come before it on the walk.
    before: u32,
}

/// A proof for a rig.
#[derive(Debug, Clone, Default)]
pub(super) struct Overlay {
    proof: LightTest,
    /// Ascending by LED.
    stretches: Vec<Stretch>,
    /// The same in the order of the walk.
    walked: Vec<Stretch>,
    pixels: u32,
    /// The place of the walk.
    at: f64,
    last: Option<Seconds>,
    flash: bool,
}

impl Overlay {
    pub(super) fn new(proof: &LightTest, rig: &Rig) -> Self {
        let mut overlay = Self { proof: proof.clone(), ..Self::default() };
        let every: Vec<u32> = (0..rig.fixtures.len() as u32).collect();
        let fixtures = match proof {
            LightTest::Identify(fixtures) | LightTest::Walk { fixtures, .. } => fixtures,
            LightTest::Flash => &every,
            LightTest::Off | LightTest::Hold(_) => return overlay,
        };
        for patched in fixtures.iter().filter_map(|&index| rig.fixtures.get(index as usize)) {
            let level = rig.profiles.get(patched.profile as usize).map_or(1.0, |p| p.highlight);
            let (first, end) = (patched.first, patched.first + patched.cells);
            overlay.walked.push(Stretch { first, end, level, before: overlay.pixels });
            overlay.pixels += patched.cells;
        }
        overlay.stretches.clone_from(&overlay.walked);
        overlay.stretches.sort_unstable_by_key(|s| s.first);
        if let LightTest::Walk { at, .. } = proof {
            overlay.at = f64::from((*at).min(overlay.pixels.saturating_sub(1)));
        }
        overlay
    }

    /// The same proof for another rig.
    pub(super) fn moved_to(&self, rig: &Rig) -> Self {
        let mut proof = self.proof.clone();
        if let LightTest::Walk { at, .. } = &mut proof {
            *at = self.at as u32;
        }
        Self { last: self.last, ..Self::new(&proof, rig) }
    }

    /// Goes some pixels on, around the end.
    pub(super) fn step(&mut self, by: i32) {
        if self.pixels > 0 {
            self.at = (self.at.floor() + f64::from(by)).rem_euclid(f64::from(self.pixels));
        }
    }

    /// Goes on to a time, by which light is to be early by so many seconds.
    pub(super) fn advance(&mut self, time: Seconds, early: Seconds) {
        self.flash = match self.proof {
            LightTest::Flash => (time + early).rem_euclid(1.0) < FLASH,
            _ => (time * FLASHES).fract() < 0.5,
        };
        let passed = time - self.last.replace(time).unwrap_or(time);
        if let LightTest::Walk { speed, .. } = self.proof
            && self.pixels > 0
            && speed > 0.0
        {
            self.at = (self.at + passed * f64::from(speed)).rem_euclid(f64::from(self.pixels));
        }
    }

    /// Lays itself over the light of a tile.
    pub(super) fn light(&self, tile: usize, light: &mut [Rgba]) {
        let lit = match self.proof {
            LightTest::Identify(_) | LightTest::Flash => None,
            LightTest::Walk { .. } => self.walked().map(|walked| walked.led),
            LightTest::Off | LightTest::Hold(_) => return,
        };
        let (start, end) = ((tile * TILE) as u32, (tile * TILE + light.len()) as u32);
        let first = self.stretches.partition_point(|s| s.end <= start);
        for stretch in self.stretches[first..].iter().take_while(|s| s.first < end) {
            for led in stretch.first.max(start)..stretch.end.min(end) {
                let level = match lit {
                    None if self.flash => stretch.level,
                    Some(lit) if lit == led => stretch.level,
                    _ => 0.0,
                };
                light[(led - start) as usize] = [level, level, level, 0.0];
            }
        }
    }

    /// Lays itself over the slots of a frame.
    pub(super) fn hold(&self, rig: &Rig, slots: &mut [u8]) {
        let LightTest::Hold(held) = &self.proof else { return };
        for slot in held.iter().filter(|slot| (1..=SLOTS).contains(&slot.channel)) {
            if let Some(index) = rig.slot_index(slot.universe, slot.channel - 1) {
                slots.iter_mut().skip(index).step_by(rig.stride()).for_each(|place| *place = slot.value);
            }
        }
    }

    /// True if slots are held, or were until now.
    pub(super) fn holds(&self) -> bool {
        matches!(self.proof, LightTest::Hold(_))
    }

    /// The place of the walk.
    pub(super) fn walked(&self) -> Option<Walked> {
        let LightTest::Walk { speed, .. } = self.proof else { return None };
        let at = (self.at as u32).min(self.pixels.checked_sub(1)?);
        let stretch =
            self.walked[..self.walked.partition_point(|s| s.before <= at)].iter().rfind(|s| s.first < s.end)?;
        Some(Walked { led: stretch.first + at - stretch.before, at, of: self.pixels, speed })
    }
}
