//! The features of each beat, by which one tells the first of a bar: what the networks told of it, how far the chord and
//! the sound are others than before it, what was struck, and how loud it is, each against the beats before (beats as the
//! unit in which chords are compared: S. Durand, J. P. Bello, B. David and G. Richard, "Downbeat tracking with multiple
//! features and deep neural networks", ICASSP 2015).

use splimo_time::music::PITCHES;

use crate::features::BANDS_SHOWN;
use crate::network::Activations;

/// Numbers that are seen of a beat.
pub const SEEN: usize = 14;
/// The time after a beat at which all of it has been seen, as a share of the beat.
const COMPLETE: f64 = 0.6;
/// The time by which it is told later than the tracker's beat, in beats.
const LATE: f64 = 0.02;
/// Hops that are kept: two beats and a half of the slowest tempo.
const KEPT: usize = 360;
/// Hops a beat at the least and at the most, whatever the tracker says.
const BEATS: [usize; 2] = [20, 130];
/// Bands below this one are the low end.
const LOW: usize = 14;
/// Hops over which something becomes louder.
const RISE: usize = 8;
/// Beats that each one is compared with, itself among them.
const COMPARED: usize = 16;
/// The value of no difference at all.
const SAME: f32 = 0.01;
/// Those of the numbers that tell of differences, which are compared as quotients.
const DIFFERENCES: std::ops::Range<usize> = 1..7;

const NOTES: std::ops::Range<usize> = 0..PITCHES;
const LOW_END: std::ops::Range<usize> = PITCHES..PITCHES + LOW;
const REST: std::ops::Range<usize> = PITCHES + LOW..PITCHES + BANDS_SHOWN;
const BANDS: std::ops::Range<usize> = PITCHES..PITCHES + BANDS_SHOWN;
const TOLD_OF: usize = PITCHES + BANDS_SHOWN;
/// Numbers that are kept of a hop: notes, bands, and what was told: first beat, low, middle, high.
const ROW: usize = TOLD_OF + 4;

/// Sees beats.
#[derive(Debug, Clone)]
pub struct BarFeatures {
    rows: Vec<[f32; ROW]>,
    hops: usize,
    /// The hop in which the present beat was told, which one it is, and how many hops the one before was long.
    began: usize,
    beat: i64,
    length: usize,
    waits: bool,
    past: [[f32; SEEN]; COMPARED],
    beats: usize,
}

impl Default for BarFeatures {
    fn default() -> Self {
        Self {
            rows: vec![[0.0; ROW]; KEPT],
            hops: 0,
            began: 0,
            beat: 0,
            length: BEATS[0],
            waits: false,
            past: [[0.0; SEEN]; COMPARED],
            beats: 0,
        }
    }
}

/// A beat that was seen.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct BeatFeatures {
    /// Which one, counted by the tracker.
    pub beat: i64,
    /// Hops since it was told.
    pub ago: usize,
    /// The features that were seen of it.
    pub numbers: [f32; SEEN],
}

impl BarFeatures {
    /// Takes what was told last, the notes and the bands of a hop, and the position of the [`crate::beat`] in beats. Returns
    /// the beat that has been seen whole. Allocates nothing.
    pub fn hop(
        &mut self,
        told: &Activations,
        notes: &[f32; PITCHES],
        bands: &[f32; BANDS_SHOWN],
        position: f64,
    ) -> Option<BeatFeatures> {
        let row = &mut self.rows[self.hops % KEPT];
        row[NOTES].copy_from_slice(notes);
        row[BANDS].copy_from_slice(bands);
        row[TOLD_OF..].copy_from_slice(&[told.downbeat, told.low, told.mid, told.high]);
        let place = position - LATE;
        let beat = place.floor() as i64;
        if beat > self.beat {
            self.length = (self.hops - self.began).clamp(BEATS[0], BEATS[1]);
            (self.began, self.waits) = (self.hops, true);
        }
        self.beat = beat;
        let seen = self.waits && place - beat as f64 >= COMPLETE;
        let seen = seen.then(|| {
            self.waits = false;
            BeatFeatures { beat, ago: self.hops - self.began, numbers: self.numbers() }
        });
        self.hops += 1;
        seen
    }

    /// The mean of some numbers over hops from and to, counted from the start of the beat.
    fn mean<const N: usize>(&self, numbers: &std::ops::Range<usize>, from: isize, to: isize) -> [f32; N] {
        let at = |by: isize| (self.began as isize + by).clamp(0, self.hops as isize) as usize;
        let oldest = (self.hops + 1).saturating_sub(KEPT);
        let (from, to) = (at(from).max(oldest), at(to));
        let to = to.max(from + 1);
        let mut mean = [0.0; N];
        for hop in from..to {
            let row = &self.rows[hop % KEPT][numbers.clone()];
            mean.iter_mut().zip(row).for_each(|(sum, number)| *sum += number);
        }
        mean.map(|sum| sum / (to - from) as f32)
    }

    fn strongest(&self, number: usize, around: isize) -> f32 {
        let at = |by: isize| (self.began as isize + by).clamp(0, self.hops as isize) as usize;
        (at(-around)..=at(around)).map(|hop| self.rows[hop % KEPT][number]).fold(0.0, f32::max)
    }

    fn numbers(&mut self) -> [f32; SEEN] {
        let beat = self.length as isize;
        let until = beat * 11 / 20;
        let chord = |from: isize, to: isize| self.mean::<PITCHES>(&NOTES, from, to);
        let low = |from: isize, to: isize| self.mean::<LOW>(&LOW_END, from, to);
        let rest = |from: isize, to: isize| self.mean::<{ BANDS_SHOWN - LOW }>(&REST, from, to);
        let (notes, lows, rests) = (chord(1, until), low(1, until), rest(1, until));
        let [first, kick, snare, hat] = [0, 1, 2, 3].map(|told| self.strongest(TOLD_OF + told, beat / 5));
        let now = [
            (first + 0.03).ln() - (1.03 - first).ln(),
            apart(&notes, &chord(-beat / 2, 0)),
            apart(&notes, &chord(-beat, 0)),
            apart(&notes, &chord(-2 * beat, 0)),
            apart(&lows, &low(-beat, 0)),
            apart(&rests, &rest(-beat, 0)),
            apart(&lows, &low(-2 * beat, 0)),
            kick,
            snare,
            hat,
            risen(&low(-(RISE as isize), 0), &low(0, RISE as isize)),
            risen(&rest(-(RISE as isize), 0), &rest(0, RISE as isize)),
            level(&lows),
            level(&rests),
        ];
        self.against(&now)
    }

    /// Those of a beat against those of the beats before.
    fn against(&mut self, now: &[f32; SEEN]) -> [f32; SEEN] {
        self.past[self.beats % COMPARED] = *now;
        self.beats += 1;
        let known = &self.past[..self.beats.min(COMPARED)];
        std::array::from_fn(|number| {
            let mean = known.iter().map(|past| past[number]).sum::<f32>() / known.len() as f32;
            match number {
                0 => now[0],
                number if DIFFERENCES.contains(&number) => ((now[number] + SAME) / (mean + SAME)).ln(),
                _ => now[number] - mean,
            }
        })
    }
}

/// The distance of two spectra, whatever their level: 0 where they are alike, 1 where they have nothing in common.
fn apart(one: &[f32], other: &[f32]) -> f32 {
    let product = |a: &[f32], b: &[f32]| a.iter().zip(b).map(|(a, b)| a * b).sum::<f32>();
    (1.0 - product(one, other) / (product(one, one) * product(other, other)).sqrt().max(1e-9)).max(0.0)
}

fn risen(before: &[f32], after: &[f32]) -> f32 {
    before.iter().zip(after).map(|(before, after)| (after - before).max(0.0)).sum::<f32>() / before.len() as f32
}

fn level(bands: &[f32]) -> f32 {
    bands.iter().sum::<f32>() / bands.len() as f32
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The features of the beats of a bar of four whose chord changes on the first, and whose low end is struck there.
    fn seen(bars: usize) -> Vec<BeatFeatures> {
        const HOPS: usize = 44;
        let mut features = BarFeatures::default();
        let mut all = Vec::new();
        for hop in 0..bars * 4 * HOPS {
            let (beat, inside) = (hop / HOPS, hop % HOPS);
            let mut notes = [0.0; PITCHES];
            let root = 5 * (beat / 4) % 12;
            [0, 4, 7].into_iter().for_each(|tone| notes[(root + tone) % 12] = 1.0);
            let mut bands = [0.1; BANDS_SHOWN];
            bands[3] = if beat % 4 == 0 && inside < 10 { 2.0 } else { 0.2 };
            let told = Activations {
                downbeat: 0.5,
                mid: f32::from(u8::from(beat % 2 == 1 && inside < 3)),
                ..Activations::default()
            };
            all.extend(features.hop(&told, &notes, &bands, hop as f64 / HOPS as f64));
        }
        all
    }

    #[test]
    fn each_beat_is_seen_once_and_what_is_new_on_the_first_stands_out() {
        let all = seen(12);
        assert_eq!(all.len(), 48);
        for (seen, next) in all.iter().zip(&all[1..]) {
            assert_eq!((next.beat - seen.beat, seen.ago), (1, 27));
        }
        for seen in &all[20..] {
            let [chord, low, snare] = [2, 10, 8].map(|number| seen.numbers[number]);
            let place = seen.beat % 4;
            assert_eq!(chord > 1.0, place == 0, "{seen:?}");
            assert_eq!(low > 0.05, place == 0, "{seen:?}");
            assert_eq!(snare > 0.2, place % 2 == 1, "{seen:?}");
            assert!(seen.numbers.iter().all(|number| number.is_finite()));
        }
    }

    #[test]
    fn silence_is_seen_as_nothing_new() {
        let mut features = BarFeatures::default();
        for hop in 0..2000 {
            let seen =
                features.hop(&Activations::default(), &[0.0; PITCHES], &[0.0; BANDS_SHOWN], f64::from(hop) / 47.0);
            assert!(seen.is_none_or(|seen| seen.numbers[1..].iter().all(|number| number.abs() < 1e-3)));
        }
    }
}
