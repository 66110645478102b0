//! The flash guard: it measures how often the whole output flashes, and holds that to a limit.
//!
//! A light flares where its brightness, the largest of its colours, is more than half of full above the darkest that it was since
//! it flared last. More than a quarter of the lights that flare within a tenth of a second are a flash, whatever made them.
//! As many flashes as the limit within a second, and no light may rise by more than half until the second is over. The numbers
//! are those of the show's own rule; photosensitivity guidelines (ITU-R BT.1702) reckon with flashes of like size and with three a
//! second.

use multiversion::multiversion;
use wide::f32x4;

use splimo_base::Seconds;
use splimo_base::colour::Rgba;

/// The rise of brightness that makes a light flare.
const FLARE: f32 = 0.5;

/// The share of the lights that makes a flash.
const SHARE: f32 = 0.25;

/// The time within which lights flare together, in seconds.
const TOGETHER: f64 = 0.1;

/// The time for which the limit counts, in seconds.
const SECOND: f64 = 1.0;

/// Frames that are remembered for what flares together: at 200 frames a second.
const FRAMES: usize = 24;

/// The highest limit.
const MOST: usize = 25;

/// The state of the limit for a screen.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, serde::Serialize, serde::Deserialize)]
pub struct FlashLimit {
    /// The flashes of the last second.
    pub flashes: u32,
    /// True if it holds light back, or did within the last second.
    pub acts: bool,
}

/// The flash guard.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct FlashGuard {
    /// For each LED the darkest that it was since it flared last.
    darkest: Vec<f32>,
    /// For each LED the frame in which it flared last, as far as that counted.
    flared: Vec<u32>,
    /// The times of the last frames, and how many LEDs flared in them.
    flares: [(Seconds, u32); FRAMES],
    /// The number of the present frame, from 1.
    frame: u32,
    /// The first of the frames that count together with the present one.
    together: u32,
    /// The time of the last frame.
    time: Seconds,
    /// LEDs that flared in the present frame, and those that were held back.
    now: u32,
    held: u32,
    /// The times of the last flashes.
    flashes: [Seconds; MOST],
    flash: usize,
    /// True if no light may rise far in the present frame.
    limits: bool,
    acted: Seconds,
}

impl FlashGuard {
    pub(super) fn new(leds: usize) -> Self {
        Self {
            // A light that was not seen yet has not risen: another rig is no flash.
            darkest: vec![f32::INFINITY; leds],
            flared: vec![0; leds],
            flares: [(f64::MIN, 0); FRAMES],
            frame: 1,
            together: 1,
            time: 0.0,
            now: 0,
            held: 0,
            flashes: [f64::MIN; MOST],
            flash: 0,
            limits: false,
            acted: f64::MIN,
        }
    }

    /// Goes on where another one is, if it has as many LEDs.
    pub(super) fn take_over(&mut self, other: &mut Self) {
        if self.darkest.len() == other.darkest.len() {
            std::mem::swap(self, other);
        } else {
            // Whatever hangs there now, what flashed has flashed.
            (self.flashes, self.flash, self.limits) = (other.flashes, other.flash, other.limits);
        }
    }

    /// Watches the light of the LEDs from `first` on, and holds it back where it has to be.
    pub(super) fn pass(&mut self, first: usize, light: &mut [Rgba]) {
        let leds = first..first + light.len();
        let darkest = &mut self.darkest[leds.clone()];
        if self.limits {
            self.held += hold(light, darkest);
        } else {
            let flared = &mut self.flared[leds];
            self.now += watch(light, darkest, flared, self.frame, self.together);
        }
    }

    /// Ends a frame: counts its flash, if it had one, and tells whether the next one is held back.
    pub(super) fn settle(&mut self, time: Seconds, limit: u32) {
        if self.held > 0 {
            self.acted = time;
        }
        let next = time + (time - std::mem::replace(&mut self.time, time));
        self.flares[self.frame as usize % FRAMES] = (time, std::mem::take(&mut self.now));
        self.frame = self.frame.wrapping_add(1);
        self.held = 0;
        let recent = self.flares.iter().filter(|(at, _)| time - at <= TOGETHER);
        let (frames, together) = recent.fold((0, 0), |(frames, sum), (_, flares)| (frames + 1, sum + flares));
        // A light that flares twice within that time, but for a flash between, counts once.
        self.together = self.together.max(self.frame.saturating_sub(frames));
        if together as f32 > SHARE * self.darkest.len() as f32 {
            self.flashes[self.flash] = time;
            self.flash = (self.flash + 1) % MOST;
            self.flares.iter_mut().for_each(|(_, flares)| *flares = 0);
            self.together = self.frame;
        }
        self.limits = limit > 0 && self.flashes_until(next) >= limit;
    }

    fn flashes_until(&self, time: Seconds) -> u32 {
        self.flashes.iter().filter(|at| time - **at < SECOND).count() as u32
    }

    /// The state for a screen.
    pub(super) fn state(&self, time: Seconds) -> FlashLimit {
        FlashLimit { flashes: self.flashes_until(time), acts: time - self.acted < SECOND }
    }
}

fn brightness(light: &Rgba) -> f32 {
    light[0].max(light[1]).max(light[2])
}

/// Takes note of lights in a frame. Returns how many flare that have not since the frame `together`.
#[multiversion(targets("x86_64+avx2+fma"))]
fn watch(light: &[Rgba], darkest: &mut [f32], flared: &mut [u32], frame: u32, together: u32) -> u32 {
    let (fours, rest) = light.as_chunks::<4>();
    let (dark_fours, dark_rest) = darkest.as_chunks_mut::<4>();
    let mut flares = 0;
    let mut take_note = |at: usize| {
        if flared[at] < together {
            flared[at] = frame;
            flares += 1;
        }
    };
    // Mostly none of four flares.
    for (four, (light, darkest)) in fours.iter().zip(dark_fours).enumerate() {
        let [red, green, blue, _] = f32x4::transpose(light.map(f32x4::from));
        let bright = red.fast_max(green).fast_max(blue).fast_min(f32x4::ONE);
        let before = f32x4::from(*darkest);
        let rises = (bright - before).simd_gt(f32x4::splat(FLARE));
        *darkest = rises.select(bright, before.fast_min(bright)).to_array();
        if rises.any() {
            let rises = rises.to_array();
            (0..4).filter(|at| rises[*at].to_bits() != 0).for_each(|at| take_note(4 * four + at));
        }
    }
    for (at, (light, darkest)) in rest.iter().zip(dark_rest).enumerate() {
        let bright = brightness(light).min(1.0);
        let rises = bright - *darkest > FLARE;
        *darkest = if rises { bright } else { darkest.min(bright) };
        if rises {
            take_note(4 * fours.len() + at);
        }
    }
    flares
}

/// Holds lights back that would flare. Returns how many do.
#[multiversion(targets("x86_64+avx2+fma"))]
fn hold(light: &mut [Rgba], darkest: &mut [f32]) -> u32 {
    let mut held = 0;
    for (light, darkest) in light.iter_mut().zip(darkest) {
        let bright = brightness(light);
        // A little below what makes it flare.
        let most = *darkest + FLARE * 0.99;
        let down = if bright.min(1.0) > most { most / bright } else { 1.0 };
        held += u32::from(down < 1.0);
        light[..3].iter_mut().for_each(|part| *part *= down);
        *darkest = darkest.min(bright * down);
    }
    held
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Passes lights of some brightness at 44 frames a second, and returns what leaves.
    fn pass(frames: impl IntoIterator<Item = Vec<f32>>, limit: u32) -> (Vec<Vec<f32>>, FlashGuard) {
        let mut guard: Option<FlashGuard> = None;
        let mut out = Vec::new();
        for (number, frame) in frames.into_iter().enumerate() {
            let guard = guard.get_or_insert_with(|| FlashGuard::new(frame.len()));
            let mut light: Vec<Rgba> = frame.iter().map(|b| [*b, 0.0, b / 2.0, 1.0]).collect();
            guard.pass(0, &mut light);
            guard.settle(number as f64 / 44.0, limit);
            out.push(light.iter().map(|light| light[0]).collect());
        }
        (out, guard.expect("frames"))
    }

    /// The most frames within nine tenths of a second in which more than a quarter of the lights are more than half of full brighter
    /// than at some time in the tenth of a second before, each rise counted once. It may see a flash a tenth of a second later.
    fn most_flashes(frames: &[Vec<f32>]) -> usize {
        let mut flashes: Vec<usize> = Vec::new();
        let mut from = 0;
        for (now, frame) in frames.iter().enumerate() {
            let risen =
                |led: usize| (from.max(now.saturating_sub(4))..now).any(|at| frame[led] - frames[at][led] > 0.5);
            if (0..frame.len()).filter(|led| risen(*led)).count() * 4 > frame.len() {
                flashes.push(now);
                from = now;
            }
        }
        let within = |first: usize| flashes.iter().filter(|at| (first..first + 40).contains(at)).count();
        flashes.iter().map(|first| within(*first)).max().unwrap_or(0)
    }

    fn strobe(period: usize, leds: usize) -> impl Iterator<Item = Vec<f32>> {
        (0..220).map(move |frame| vec![if frame % period < period / 2 { 1.0 } else { 0.0 }; leds])
    }

    #[test]
    fn a_strobe_is_held_to_the_limit_and_a_slow_one_is_left_alone() {
        for period in [2, 4, 8] {
            let (out, guard) = pass(strobe(period, 40), 4);
            assert!(most_flashes(&strobe(period, 40).collect::<Vec<_>>()) > 4, "{period} is too fast");
            assert_eq!(most_flashes(&out), 4, "{period}");
            assert!(guard.state(5.0).acts);
        }
        let slow: Vec<_> = strobe(22, 40).collect();
        assert_eq!(pass(slow.clone(), 4).0, slow);
        let free: Vec<_> = strobe(4, 40).collect();
        assert_eq!(pass(free.clone(), 0).0, free, "without a limit");
    }

    #[test]
    fn what_flashes_on_few_lights_is_no_flash_of_the_output() {
        let few = strobe(4, 10).map(|mut frame| {
            frame.extend([0.3; 40]);
            frame
        });
        let few: Vec<_> = few.collect();
        assert_eq!(pass(few.clone(), 4).0, few);
    }

    #[test]
    fn light_that_stays_is_whole_again_when_the_second_is_over() {
        let flashes = strobe(4, 8).take(40).chain(std::iter::repeat_n(vec![1.0; 8], 60));
        let (out, guard) = pass(flashes, 4);
        assert!(out[42][0] < 0.6, "{}", out[42][0]);
        assert_eq!(out[99], vec![1.0; 8]);
        assert!(!guard.state(99.0).acts);
    }

    #[test]
    fn another_rig_is_no_flash() {
        let (mut first, mut second) = (FlashGuard::new(4), FlashGuard::new(8));
        for edit in 0..9 {
            let mut light = vec![[1.0; 4]; 8 - 4 * (edit % 2)];
            let (old, new) = if edit % 2 == 0 { (&mut first, &mut second) } else { (&mut second, &mut first) };
            *new = FlashGuard::new(light.len());
            new.take_over(old);
            new.pass(0, &mut light);
            new.settle(f64::from(edit as u32) / 44.0, 4);
            assert_eq!(new.state(0.3).flashes, 0);
        }
    }

    proptest! {
        #[test]
        fn whatever_comes_no_second_has_more_flashes_than_the_limit(
            frames in prop::collection::vec(prop::collection::vec(0f32..1.5, 12), 100..200), limit in 1u32..8
        ) {
            let clipped = |frames: &[Vec<f32>]| frames.iter().map(|f| f.iter().map(|b| b.min(1.0)).collect()).collect::<Vec<Vec<f32>>>();
            let (out, _) = pass(frames.clone(), limit);
            prop_assert!(most_flashes(&clipped(&out)) <= limit as usize);
            for (before, after) in frames.iter().zip(&out) {
                prop_assert!(before.iter().zip(after).all(|(before, after)| after <= before && *after >= 0.0));
            }
        }
    }
}
