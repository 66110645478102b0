//! Which beat is the first of a bar, and how many beats a bar has: a hidden Markov model over beats, followed by its forward
//! algorithm (after the meter part of S. Böck, F. Krebs and G. Widmer, "Joint beat and downbeat tracking with recurrent neural
//! networks", ISMIR 2016).

use crate::network::Told;

/// Bars that are looked for, by their beats.
const METERS: [usize; 3] = [4, 3, 2];
/// How likely each is to begin with.
const LIKELY: [f32; 3] = [0.78, 0.15, 0.07];
/// The places in all bars together.
const PLACES: usize = 9;
/// How often music goes over to another bar or slips a beat, at each beat.
const SLIP: f32 = 0.004;
/// How little is believed of a single beat.
const DOUBT: f32 = 0.08;
/// How long after a beat what is told of it is complete, as a share of the beat.
const COMPLETE: f64 = 0.35;

/// How much later than the tracker's beat it is told, in beats.
const LATE: f64 = 0.02;

/// What is known of bars.
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
    belief: [f32; PLACES],
    /// The strongest that was told of the beat that is going on, and around the next.
    now: f32,
    weighed: i64,
    known: BarKnown,
}

impl Default for BarTracker {
    fn default() -> Self {
        Self { belief: first(), now: 0.0, weighed: 0, known: BarKnown { beats: 4, start: 0.0, confidence: 0.0 } }
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
    /// Takes what was told last and the position of the [`crate::beat`] in beats, each hop. Allocates nothing.
    pub fn hop(&mut self, told: &Told, position: f64) -> BarKnown {
        // The beat that what is told now belongs to.
        let place = position - LATE;
        let beat = (place + 0.5).floor();
        if (place - beat).abs() < 0.2 {
            self.now = self.now.max(told.downbeat);
        }
        let complete = (place - COMPLETE).floor() as i64;
        if complete > self.weighed {
            // Beats that were passed over in a jump are not weighed.
            if complete == self.weighed + 1 {
                self.weigh(self.now);
            }
            self.weighed = complete;
            self.now = 0.0;
            self.publish(complete);
        } else if complete + 2 < self.weighed {
            self.weighed = complete;
        }
        self.known
    }

    fn weigh(&mut self, downbeat: f32) {
        let mut moved = [0.0; PLACES];
        let mut at = 0;
        for meter in METERS {
            for place in 0..meter {
                moved[at + (place + 1) % meter] = self.belief[at + place];
            }
            at += meter;
        }
        let anew = first();
        let mut total = 0.0;
        at = 0;
        for meter in METERS {
            for place in 0..meter {
                let suits = if place == 0 { DOUBT + downbeat } else { DOUBT + 1.0 - downbeat };
                let belief = (moved[at + place] * (1.0 - SLIP) + anew[at + place] * SLIP) * suits;
                self.belief[at + place] = belief;
                total += belief;
            }
            at += meter;
        }
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

    /// What is known after bars of so many beats, of which the first begins at a beat.
    fn known(beats: u32, first: u32, seconds: f64) -> (BarKnown, f64) {
        let mut tracker = BarTracker::default();
        let (mut known, mut position) = (tracker.known, 0.0);
        for hop in 0..(seconds * 94.0) as u32 {
            position = f64::from(hop) * 2.0 / 94.0;
            let place = position - LATE;
            let beat = (place + 0.5).floor();
            let is_first = (beat as i64 - i64::from(first)).rem_euclid(i64::from(beats)) == 0;
            let downbeat = if (place - beat).abs() < 0.05 && is_first { 0.7 } else { 0.05 };
            known = tracker.hop(&Told { downbeat, ..Told::default() }, position);
        }
        (known, position)
    }

    #[test]
    fn bars_of_four_and_of_three_are_found_wherever_they_begin() {
        for (beats, first) in [(4, 0), (4, 3), (3, 1), (3, 2)] {
            let (known, position) = known(beats, first, 20.0);
            assert_eq!(known.beats, beats);
            assert_eq!((known.start as i64 - i64::from(first)).rem_euclid(i64::from(beats)), 0, "{beats} from {first}");
            assert!(known.confidence > 0.8 && position - known.start < f64::from(beats) + 1.0, "{known:?}");
        }
    }

    #[test]
    fn without_first_beats_nothing_is_sure() {
        let mut tracker = BarTracker::default();
        let mut known = tracker.known;
        for hop in 0..2000 {
            known = tracker.hop(&Told { downbeat: 0.1, ..Told::default() }, f64::from(hop) * 2.0 / 94.0);
        }
        // The clock takes bars over from 0.55 on.
        assert!(known.confidence < 0.5, "{known:?}");
    }
}
