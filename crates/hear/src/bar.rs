//! Which beat is the first of a bar, and how many beats a bar has: a hidden Markov model over beats, followed by its forward
//! algorithm (after the meter part of S. Böck, F. Krebs and G. Widmer, "Joint beat and downbeat tracking with recurrent neural
//! networks", ISMIR 2016). How well a beat suits each place is told by a multinomial logistic regression of what was seen of
//! it and of the beats before, whose weights were found by `splimo-corpus` on music that is made by code.

use splimo_time::music::PITCHES;

use crate::bar_features::{BarFeatures, BeatFeatures, SEEN};
use crate::features::BANDS_SHOWN;
use crate::network::Activations;
use crate::recurrent::likely;

/// Beats that a bar may have.
const METERS: [usize; 3] = [4, 3, 2];
/// The probability of each to begin with.
const LIKELY: [f32; 3] = [0.78, 0.15, 0.07];
/// The share of the belief in each that counts on at each beat: where nothing tells first beats clearly, three beats suit by
/// chance more often than music has them.
const STAYS: [f32; 3] = [1.0, 0.97, 1.0];
/// The places in all bars together.
const PLACES: usize = 9;
/// The kind of each place: the first, the middle of four, those between, and the second and third of three.
const KIND: [usize; PLACES] = [0, 2, 1, 2, 0, 3, 3, 0, 2];
/// Kinds of places.
pub const KINDS: usize = 4;
/// Beats that are looked back at.
pub const BACK: usize = 4;
/// Numbers by which a place is told: what was seen of a beat, then of each one before; and 1.
pub const CLUES: usize = SEEN * (BACK + 1) + 1;
/// The probability that music goes over to another bar or slips a beat, at each beat.
const SLIP: f32 = 0.006;
/// The least that is believed of a single beat.
const DOUBT: f32 = 0.02;
/// The power to which what a beat says is taken: what one says is much the same as what the next one does.
const POWER: f32 = 0.2;

/// The kind of a place, from 0 on, in a bar of so many beats, if such bars are looked for.
#[must_use]
pub fn kind(beats: usize, place: usize) -> Option<usize> {
    let meter = METERS.iter().position(|meter| *meter == beats)?;
    let start: usize = METERS[..meter].iter().sum();
    (place < beats).then(|| KIND[start + place])
}

/// The weights by which kinds of places are told.
#[derive(Debug, Clone, PartialEq)]
pub struct BarWeights {
    /// For each clue, how much it speaks for each kind.
    pub weights: [[f32; KINDS]; CLUES],
    /// The share of each kind.
    pub often: [f32; KINDS],
}

impl BarWeights {
    /// From as many numbers as there are, one clue after the other.
    #[must_use]
    pub fn of(numbers: &[f32]) -> Option<Self> {
        let (rows, rest) = numbers.as_chunks::<KINDS>();
        let [weights @ .., often] = rows else { return None };
        let weights = weights.try_into().ok().filter(|_| rest.is_empty())?;
        Some(Self { weights, often: *often })
    }

    /// The probability of each kind, 0..1, all together 1.
    #[must_use]
    pub fn told(&self, clues: &[f32; CLUES]) -> [f32; KINDS] {
        let mut sums = [0.0f32; KINDS];
        for (clue, row) in clues.iter().zip(&self.weights) {
            sums.iter_mut().zip(row).for_each(|(sum, weight)| *sum += clue * weight);
        }
        likely(sums)
    }
}

impl Default for BarWeights {
    /// Those that the trainer has found.
    fn default() -> Self {
        const BYTES: &[u8] = include_bytes!("../data/bars.weights");
        const { assert!(BYTES.len() == 4 * KINDS * (CLUES + 1), "as many as there are clues, and how often") };
        let numbers: Vec<f32> = BYTES.as_chunks::<4>().0.iter().map(|bytes| f32::from_le_bytes(*bytes)).collect();
        Self::of(&numbers).expect("as many as was made sure of")
    }
}

/// The features of a beat and of those before.
#[derive(Debug, Clone, Default)]
pub struct Clues {
    seen: [[f32; SEEN]; BACK + 1],
    count: usize,
}

impl Clues {
    /// Takes the next beat. What was not seen before the first is like the first.
    pub fn take(&mut self, seen: &[f32; SEEN]) -> [f32; CLUES] {
        self.seen.rotate_right(1);
        self.seen[0] = *seen;
        self.count = (self.count + 1).min(BACK + 1);
        let mut clues = [1.0; CLUES];
        for (back, clues) in clues.chunks_exact_mut(SEEN).enumerate() {
            clues.copy_from_slice(&self.seen[back.min(self.count - 1)]);
        }
        clues
    }
}

/// The belief about bars.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct BarKnown {
    /// Beats in a bar.
    pub beats: u32,
    /// The position, in beats, at which the present bar or an earlier one began.
    pub start: f64,
    /// 0..1.
    pub confidence: f32,
}

/// Follows the bars.
#[derive(Debug, Clone)]
pub struct BarTracker {
    weights: BarWeights,
    features: BarFeatures,
    clues: Clues,
    belief: [f32; PLACES],
    /// The beat that was seen last.
    last: i64,
    known: BarKnown,
}

impl Default for BarTracker {
    fn default() -> Self {
        Self {
            weights: BarWeights::default(),
            features: BarFeatures::default(),
            clues: Clues::default(),
            belief: first(),
            last: 0,
            known: BarKnown { beats: 4, start: 0.0, confidence: 0.0 },
        }
    }
}

fn first() -> [f32; PLACES] {
    let mut belief = [0.0; PLACES];
    let mut at = 0;
    for (meter, likely) in METERS.into_iter().zip(LIKELY) {
        belief[at..at + meter].fill(likely / meter as f32);
        at += meter;
    }
    belief
}

impl BarTracker {
    /// Takes what was told last, the notes, the bands as [`crate::features`] has them and the position of the [`crate::beat`] in
    /// beats, each hop. Allocates nothing.
    pub fn hop(
        &mut self,
        told: &Activations,
        notes: &[f32; PITCHES],
        bands: &[f32; BANDS_SHOWN],
        position: f64,
    ) -> BarKnown {
        if let Some(BeatFeatures { beat, numbers, .. }) = self.features.hop(told, notes, bands, position) {
            // Beats that were passed over in a jump have their places too; after twelve all bars are where they were.
            for _ in 0..(beat - self.last).rem_euclid(12) {
                self.move_on();
            }
            self.weigh(&numbers);
            self.last = beat;
            self.publish(beat);
        }
        self.known
    }

    /// Each place goes over to the next.
    fn move_on(&mut self) {
        let mut at = 0;
        for meter in METERS {
            self.belief[at..at + meter].rotate_right(1);
            at += meter;
        }
    }

    fn weigh(&mut self, seen: &[f32; SEEN]) {
        let told = self.weights.told(&self.clues.take(seen));
        let suits: [f32; KINDS] =
            std::array::from_fn(|kind| (told[kind] / self.weights.often[kind] + DOUBT).powf(POWER));
        let stays = METERS.into_iter().zip(STAYS).flat_map(|(meter, stays)| std::iter::repeat_n(stays, meter));
        for (((belief, anew), kind), stays) in self.belief.iter_mut().zip(first()).zip(KIND).zip(stays) {
            *belief = (*belief * (1.0 - SLIP) + anew * SLIP) * suits[kind] * stays;
        }
        let total: f32 = self.belief.iter().sum();
        self.belief.iter_mut().for_each(|belief| *belief /= total.max(1e-9));
    }

    /// `beat` is the one that was weighed last.
    fn publish(&mut self, beat: i64) {
        let (mut best, mut at) = ((0, 0, 0.0), 0);
        for meter in METERS {
            for place in 0..meter {
                if self.belief[at + place] > best.2 {
                    best = (meter, place, self.belief[at + place]);
                }
            }
            at += meter;
        }
        let (meter, place, belief) = best;
        self.known = BarKnown { beats: meter as u32, start: (beat - place as i64) as f64, confidence: belief };
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The belief after bars of so many beats, of which the first begins at a beat, is told so, and brings a new chord.
    fn known(beats: i64, first: i64, seconds: f64) -> (BarKnown, f64) {
        let mut tracker = BarTracker::default();
        let (mut known, mut position) = (tracker.known, 0.0);
        for hop in 0..(seconds * 94.0) as u32 {
            position = f64::from(hop) * 2.0 / 94.0;
            let (beat, inside) = (position.floor() as i64, position.fract());
            let (bar, place) = ((beat - first).div_euclid(beats), (beat - first).rem_euclid(beats));
            let struck = inside < 0.1;
            let downbeat = if struck && place == 0 { 0.7 } else { 0.05 };
            let mut notes = [0.0; PITCHES];
            [0, 4, 7].into_iter().for_each(|tone| notes[(5 * bar + tone).rem_euclid(12) as usize] = 1.0);
            let mut bands = [0.2; BANDS_SHOWN];
            bands[3] = if struck && place == 0 { 2.0 } else { 0.3 };
            let low = if struck && place == 0 { 0.9 } else { 0.02 };
            let mid = if struck && place > 0 && (beats == 3 || place % 2 == 1) { 0.9 } else { 0.02 };
            known =
                tracker.hop(&Activations { downbeat, low, mid, ..Activations::default() }, &notes, &bands, position);
        }
        (known, position)
    }

    #[test]
    fn bars_of_four_and_of_three_are_found_wherever_they_begin() {
        for (beats, first) in [(4, 0), (4, 3), (3, 1), (3, 2)] {
            let (known, position) = known(beats, first, 30.0);
            assert_eq!(i64::from(known.beats), beats, "{known:?}");
            assert_eq!((known.start as i64 - first).rem_euclid(beats), 0, "{beats} from {first}: {known:?}");
            assert!(known.confidence > 0.6 && position - known.start < beats as f64 + 1.0, "{known:?}");
        }
    }

    #[test]
    fn without_first_beats_nothing_is_sure() {
        let mut tracker = BarTracker::default();
        let mut known = tracker.known;
        for hop in 0..2000 {
            let told = Activations { downbeat: 0.1, ..Activations::default() };
            known = tracker.hop(&told, &[0.0; PITCHES], &[0.1; BANDS_SHOWN], f64::from(hop) * 2.0 / 94.0);
        }
        // The clock takes bars over from 0.55 on.
        assert!(known.confidence < 0.5, "{known:?}");
    }

    #[test]
    fn of_bars_that_suit_as_well_those_of_three_are_given_up() {
        let mut tracker = BarTracker::default();
        let even = BarWeights { weights: [[0.0; KINDS]; CLUES], often: [0.25; KINDS] };
        tracker.weights = even;
        // All that is believed in is a bar of three.
        tracker.belief = [0.0; PLACES];
        tracker.belief[4] = 1.0;
        let mut threes = Vec::new();
        for _ in 0..120 {
            tracker.move_on();
            tracker.weigh(&[0.0; SEEN]);
            threes.push(tracker.belief[4..7].iter().sum::<f32>());
        }
        assert!(threes[0] > 0.9 && threes.is_sorted_by(|a, b| a >= b), "{threes:?}");
        assert!(threes[119] < LIKELY[1], "{}", threes[119]);
    }

    #[test]
    fn places_have_kinds_and_clues_look_back() {
        assert_eq!([0, 1, 2, 3, 4].map(|place| kind(4, place)), [Some(0), Some(2), Some(1), Some(2), None]);
        assert_eq!([kind(3, 2), kind(2, 1), kind(5, 0)], [Some(3), Some(2), None]);
        let mut clues = Clues::default();
        assert_eq!(clues.take(&[3.0; SEEN])[4 * SEEN], 3.0, "there was nothing before it");
        let second = clues.take(&[5.0; SEEN]);
        assert_eq!([second[0], second[SEEN], second[4 * SEEN], second[CLUES - 1]], [5.0, 3.0, 3.0, 1.0]);
    }
}
