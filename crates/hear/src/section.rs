//! Which part of a piece is going on, causally: a small recurrent network tells it from what is seen twice a second
//! ([`crate::section_features`]). Its weights were found by `splimo-corpus` on tracks that are made by code.

use splimo_time::music::Section;

use crate::HOPS_PER_SECOND;
use crate::recurrent::{Layer, dense, likely};
use crate::section_features::{HopLevels, LOOK, SEEN, SectionFeatures};

/// Units of the network.
pub const UNITS: usize = 24;
/// Kinds of parts, in the order of [`Section::ALL`].
pub const PARTS: usize = Section::ALL.len();
/// The place at which the weights to what is told begin; before them are those of the recurrent layer, from below and from
/// itself.
pub const OUT: usize = 3 * UNITS * (SEEN + 1 + UNITS + 1);
/// The number of weights. A matrix has a row for each input; behind it stand the biases.
pub const WEIGHTS: usize = OUT + PARTS * (UNITS + 1);

/// The certainty that another part needs.
const SURE: f32 = 0.6;
/// From what on it was likely, before it was sure.
const LIKELY: f32 = 0.2;
/// The time after its beginning at which a part is likely, in seconds: what is seen are means over about a second.
const SEEN_LATE: f64 = 0.8;
/// The shortest length of a part, in seconds.
const LEAST: f64 = 3.0;
/// The length of the silence after a piece, in seconds, and the root of the mean square below which it is silent.
const OVER: f64 = 3.0;
const SILENT: f32 = 3e-4;

/// The part.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Part {
    /// Which.
    pub section: Section,
    /// The time at which it was known, in seconds since the start.
    pub start: f64,
    /// The time that it took to know, in seconds.
    pub delay: f64,
}

/// The network that tells parts.
#[derive(Debug, Clone)]
pub struct SectionNetwork {
    weights: Vec<f32>,
    layer: Layer,
}

impl SectionNetwork {
    /// One of these weights; none where there are not [`WEIGHTS`] of them.
    #[must_use]
    pub fn of(weights: Vec<f32>) -> Option<Self> {
        (weights.len() == WEIGHTS).then(|| Self { weights, layer: Layer::new(UNITS) })
    }

    /// The probability of each part after the next look, 0..1, all together 1. Allocates nothing.
    pub fn see(&mut self, seen: &[f32; SEEN]) -> [f32; PARTS] {
        self.layer.step(seen, &self.weights);
        let mut told = [0.0; PARTS];
        dense(self.layer.state(), &self.weights[OUT..], &mut told);
        likely(told)
    }
}

impl Default for SectionNetwork {
    /// The one that is shipped.
    fn default() -> Self {
        const BYTES: &[u8] = include_bytes!("../data/sections.weights");
        const { assert!(BYTES.len() == 4 * WEIGHTS, "as many as the network has") };
        let weights = BYTES.as_chunks::<4>().0.iter().map(|bytes| f32::from_le_bytes(*bytes)).collect();
        Self { weights, layer: Layer::new(UNITS) }
    }
}

/// Follows the parts.
#[derive(Debug, Clone)]
pub struct SectionMeter {
    network: SectionNetwork,
    features: SectionFeatures,
    time: f64,
    silent: f64,
    /// For how long each part has been likely, in seconds.
    held: [f64; PARTS],
    part: Part,
}

impl Default for SectionMeter {
    fn default() -> Self {
        Self::with(SectionNetwork::default())
    }
}

impl SectionMeter {
    /// One with another network.
    #[must_use]
    pub fn with(network: SectionNetwork) -> Self {
        Self {
            network,
            features: SectionFeatures::default(),
            time: 0.0,
            silent: 0.0,
            held: [0.0; PARTS],
            part: Part { section: Section::Intro, start: 0.0, delay: 0.0 },
        }
    }

    /// Takes a hop. Allocates nothing.
    pub fn hop(&mut self, cue: &HopLevels) -> Part {
        let step = 1.0 / HOPS_PER_SECOND;
        self.time += step;
        self.silent = if cue.level() < SILENT { self.silent + step } else { 0.0 };
        if self.silent > OVER {
            self.begin_anew();
        } else if let Some(seen) = self.features.hop(cue) {
            let told = self.network.see(&seen);
            // A pause tells nothing: the music may be over, or hold its breath.
            if self.silent < f64::from(LOOK) {
                self.decide(&told);
            }
        }
        self.part
    }

    /// The next piece begins.
    fn begin_anew(&mut self) {
        self.features = SectionFeatures::default();
        self.network.layer.forget();
        self.held = [0.0; PARTS];
        self.part = Part { section: Section::Intro, start: self.time, delay: 0.0 };
    }

    fn decide(&mut self, told: &[f32; PARTS]) {
        for (held, told) in self.held.iter_mut().zip(told) {
            *held = if *told > LIKELY { *held + f64::from(LOOK) } else { 0.0 };
        }
        let now = self.part.section;
        let follows = |index: &usize| {
            let section = Section::ALL[*index];
            // The next piece begins over the end of one, not in the middle.
            section != now && (section != Section::Intro || now == Section::Outro)
        };
        let sure = (0..PARTS).filter(follows).find(|index| told[*index] > SURE);
        let Some(next) = sure.filter(|_| self.time - self.part.start >= LEAST) else { return };
        self.part = Part { section: Section::ALL[next], start: self.time, delay: self.held[next] + SEEN_LATE };
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A network that takes music without a low end for a breakdown and music with one for a drop, at once.
    fn by_the_low_end() -> SectionNetwork {
        let mut weights = vec![0.0; WEIGHTS];
        // The first unit is of the first number that is seen: how far the low end is under the fullest.
        let (update, new) = (0, 2 * UNITS);
        weights[SEEN * 3 * UNITS + update] = -50.0;
        weights[new] = 1.0;
        let [drop, breakdown] = [Section::Drop, Section::Breakdown]
            .map(|section| Section::ALL.iter().position(|other| *other == section).expect("a part"));
        weights[OUT + breakdown] = -20.0;
        weights[OUT + UNITS * PARTS + drop] = 10.0;
        SectionNetwork::of(weights).expect("as many as there are")
    }

    /// The parts that are told of a low end and of everything, each for some seconds.
    fn parts(of: &[(f64, f32, f32)]) -> Vec<Part> {
        let mut meter = SectionMeter::with(by_the_low_end());
        let mut told: Vec<Part> = Vec::new();
        for &(seconds, low, all) in of {
            for _ in 0..(seconds * HOPS_PER_SECOND) as u32 {
                let part = meter.hop(&HopLevels {
                    powers: [low, all, all, all, all],
                    centroid: 2000.0,
                    ..HopLevels::default()
                });
                if told.last().is_none_or(|last| last.section != part.section) {
                    told.push(part);
                }
            }
        }
        told
    }

    #[test]
    fn parts_are_told_where_the_network_is_sure_of_them() {
        let told = parts(&[(20.0, 1e-2, 1e-2), (20.0, 1e-6, 1e-2), (20.0, 1e-2, 1e-2)]);
        let kinds: Vec<Section> = told.iter().map(|part| part.section).collect();
        assert_eq!(kinds, [Section::Intro, Section::Drop, Section::Breakdown, Section::Drop]);
        for (part, truth) in told.iter().zip([0.0, 3.0, 20.0, 40.0]) {
            assert!((truth - 0.1..truth + 3.0).contains(&part.start), "{part:?} for {truth}");
            assert!((0.0..4.0).contains(&part.delay), "{part:?}");
        }
    }

    #[test]
    fn no_part_is_shorter_than_a_bar_or_so() {
        let told = parts(&[(1.0, 1e-2, 1e-2), (1.0, 1e-6, 1e-2)].repeat(20));
        assert!(told.windows(2).all(|pair| pair[1].start - pair[0].start >= LEAST), "{told:?}");
    }

    #[test]
    fn after_silence_the_next_piece_begins() {
        let told = parts(&[(20.0, 1e-2, 1e-2), (6.0, 0.0, 0.0), (20.0, 1e-2, 1e-2)]);
        let kinds: Vec<Section> = told.iter().map(|part| part.section).collect();
        assert_eq!(kinds, [Section::Intro, Section::Drop, Section::Intro, Section::Drop]);
        assert!((22.9..23.2).contains(&told[2].start), "{told:?}");
    }

    #[test]
    fn there_is_no_network_of_other_than_all_its_weights() {
        assert!(SectionNetwork::of(vec![0.0; WEIGHTS + 1]).is_none());
    }
}
