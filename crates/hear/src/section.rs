//! Which part of a piece is going on, causally: from how much low drums and bass there are against the most there was, how loud
//! it is, and whether hits and brightness rise (the cues of M. J. Butler, "Unlocking the groove", 2006, for the form of dance
//! music).

use splimo_core::music::Section;

use crate::HOPS_PER_SECOND;

/// Seconds over which the present is averaged.
const NOW: f64 = 1.2;
/// Seconds over which the recent past is averaged.
const RECENT: f64 = 6.0;
/// Seconds after which the fullest that there was counts half.
const FULLEST: f64 = 90.0;
/// How far below the fullest the low end is where it is away, in decibels.
const AWAY: f32 = 10.0;
/// How near to the fullest it is where everything plays, in decibels.
const NEAR: f32 = 5.0;
/// How much more hits and brightness there are than in the recent past where it rises.
const RISING: f32 = 0.22;
/// How long something has to be so before it is believed, in seconds.
const BELIEVED: f64 = 1.0;
/// How long the music has to go on whole before it is no intro any more, in seconds.
const LONG_INTRO: f64 = 14.0;
/// How long a part lasts at the least, in seconds.
const LEAST: f64 = 3.0;
/// How long there is silence where a piece is over, in seconds.
const OVER: f64 = 3.0;

/// What is known of a hop, for sections.
#[derive(Debug, Clone, Copy, Default)]
pub struct Cue {
    /// The level of what is below 150 Hz, linear.
    pub low: f32,
    /// The level of everything, linear.
    pub all: f32,
    /// The middle of the spectrum, in hertz.
    pub centroid: f32,
    /// Whether something was struck.
    pub struck: bool,
}

/// What part it is.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Part {
    /// Which.
    pub section: Section,
    /// When it began, in seconds since the start.
    pub start: f64,
    /// How long it took to know, in seconds.
    pub delay: f64,
}

/// Follows the parts.
#[derive(Debug, Clone)]
pub struct SectionMeter {
    time: f64,
    low: [f32; 2],
    all: [f32; 2],
    density: [f32; 2],
    bright: [f32; 2],
    fullest: [f32; 2],
    silent: f64,
    /// How long each condition has held: the low end away, everything there, rising, thin.
    held: [f64; 4],
    /// When the music began.
    began: f64,
    drops: u32,
    part: Part,
}

impl Default for SectionMeter {
    fn default() -> Self {
        Self {
            time: 0.0,
            low: [0.0; 2],
            all: [0.0; 2],
            density: [0.0; 2],
            bright: [0.0; 2],
            fullest: [1e-5; 2],
            silent: 0.0,
            held: [0.0; 4],
            began: 0.0,
            drops: 0,
            part: Part { section: Section::Intro, start: 0.0, delay: 0.0 },
        }
    }
}

fn decibels(over: f32, under: f32) -> f32 {
    20.0 * (over.max(1e-6) / under.max(1e-6)).log10()
}

impl SectionMeter {
    /// Takes a hop. Allocates nothing.
    pub fn hop(&mut self, cue: &Cue) -> Part {
        let step = 1.0 / HOPS_PER_SECOND;
        self.time += step;
        let paces = [NOW, RECENT].map(|seconds| (step / seconds) as f32);
        let follow = |means: &mut [f32; 2], value: f32| {
            means.iter_mut().zip(paces).for_each(|(mean, pace)| *mean += (value - *mean) * pace);
        };
        follow(&mut self.low, cue.low);
        follow(&mut self.all, cue.all);
        follow(&mut self.density, if cue.struck { HOPS_PER_SECOND as f32 } else { 0.0 });
        follow(&mut self.bright, cue.centroid / 1000.0);
        let fade = 0.5f64.powf(step / FULLEST) as f32;
        for (fullest, now) in self.fullest.iter_mut().zip([self.low[0], self.all[0]]) {
            *fullest = now.max(*fullest * fade).max(1e-5);
        }
        self.silent = if cue.all < 3e-4 { self.silent + step } else { 0.0 };
        if self.silent > OVER {
            // The next piece begins anew.
            let time = self.time;
            *self = Self {
                time,
                began: time,
                part: Part { section: Section::Intro, start: time, delay: 0.0 },
                ..Self::default()
            };
            self.silent = OVER + step;
            return self.part;
        }
        self.hold(step);
        self.decide();
        self.part
    }

    fn hold(&mut self, step: f64) {
        let low = decibels(self.low[0], self.fullest[0]);
        let all = decibels(self.all[0], self.fullest[1]);
        let rise = |means: [f32; 2]| means[0] / means[1].max(1e-3) - 1.0;
        let rising = rise(self.density).max(rise(self.bright)).max(rise(self.all));
        let away = low < -AWAY;
        let whole = low > -NEAR && all > -NEAR;
        let so = [away, whole, rising > RISING, !away && all < -NEAR];
        for (held, so) in self.held.iter_mut().zip(so) {
            *held = if so { *held + step } else { (*held - 3.0 * step).max(0.0) };
        }
    }

    fn decide(&mut self) {
        let [away, whole, rising, thin] = self.held;
        let gone = self.time - self.part.start;
        let playing = self.time - self.began;
        let next = match self.part.section {
            Section::Intro if whole > BELIEVED && (playing > LONG_INTRO || playing > 8.0 && self.grew()) => {
                Section::Drop
            }
            Section::Intro if rising > 2.0 * BELIEVED && playing > 6.0 && whole == 0.0 => Section::Build,
            Section::Intro if away > 2.0 && playing > 20.0 => Section::Breakdown,
            Section::Build if whole > 0.5 * BELIEVED => Section::Drop,
            Section::Build if away > 4.0 && rising == 0.0 => Section::Breakdown,
            Section::Breakdown if whole > BELIEVED => Section::Drop,
            Section::Breakdown if rising > BELIEVED => Section::Build,
            Section::Drop if away > 1.5 => Section::Breakdown,
            Section::Drop if thin > 6.0 && self.drops > 0 => Section::Outro,
            Section::Outro if whole > 2.0 => Section::Drop,
            Section::Outro if away > 4.0 => Section::Breakdown,
            other => other,
        };
        if next == self.part.section || gone < LEAST {
            return;
        }
        let delay = match next {
            Section::Breakdown => away,
            Section::Drop => whole,
            Section::Outro => thin,
            _ => rising,
        } + NOW * 0.5;
        self.drops += u32::from(next == Section::Drop);
        self.part = Part { section: next, start: self.time, delay };
        self.held = [0.0; 4];
    }

    /// Whether it is much louder than it was in the recent past, as where everything comes in at once.
    fn grew(&self) -> bool {
        decibels(self.low[0], self.low[1]) > 4.0 && decibels(self.all[0], self.all[1]) > 2.0
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_parts_of_a_club_track_are_told_in_their_order() {
        let mut meter = SectionMeter::default();
        let mut told: Vec<(Section, f64)> = vec![(Section::Intro, 0.0)];
        // Seconds, low, all, brightness, hits a second.
        for (seconds, low, all, bright, hits) in [
            (16.0, 0.1, 0.2, 1000.0, 2.0),
            (16.0, 0.5, 0.6, 2000.0, 6.0),
            (14.0, 0.02, 0.3, 1200.0, 1.0),
            (8.0, 0.02, 0.35, 2600.0, 9.0),
            (16.0, 0.5, 0.62, 2000.0, 6.0),
            (16.0, 0.35, 0.22, 1200.0, 2.0),
        ] {
            for hop in 0..(seconds * HOPS_PER_SECOND) as u32 {
                let struck = hits > 0.0 && hop.is_multiple_of((HOPS_PER_SECOND / hits) as u32);
                let part = meter.hop(&Cue { low, all, centroid: bright, struck });
                if told.last().is_none_or(|(section, _)| *section != part.section) {
                    told.push((part.section, part.start));
                }
            }
        }
        use Section::{Breakdown, Build, Drop, Intro, Outro};
        assert_eq!(told.iter().map(|(s, _)| *s).collect::<Vec<_>>(), [Intro, Drop, Breakdown, Build, Drop, Outro]);
        for ((section, start), truth) in told.iter().zip([0.0, 16.0, 32.0, 46.0, 54.0, 70.0]) {
            assert!((start - truth).abs() < 8.0, "{section:?} at {start}, truly {truth}");
        }
    }

    #[test]
    fn music_that_goes_on_as_it_is_stays_the_same_part() {
        let mut meter = SectionMeter::default();
        let mut changes = Vec::new();
        let mut last = Section::Intro;
        for hop in 0..(240.0 * HOPS_PER_SECOND) as u32 {
            let struck = hop.is_multiple_of(16);
            // It is never quite as loud as a moment ago.
            let sway = 1.0 + 0.1 * (f64::from(hop) * 0.37).sin() as f32;
            let part = meter.hop(&Cue { low: 0.5 * sway, all: 0.6 * sway, centroid: 2000.0, struck });
            if part.section != last {
                changes.push((part.section, f64::from(hop) / HOPS_PER_SECOND));
                last = part.section;
            }
        }
        assert!(changes.len() <= 1 && changes.iter().all(|(_, time)| *time < 30.0), "{changes:?}");
    }
}
