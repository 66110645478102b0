//! Which chord is under a bar: degrees of the scale that come again after some bars.

use crate::lot::Lot;

/// Loops of chords, as degrees from the tonic on.
const LOOPS: [&[i32]; 12] = [
    &[0, 5, 3, 4],
    &[0, 3, 4, 4],
    &[0, 4, 5, 3],
    &[5, 3, 0, 4],
    &[0, 6, 5, 6],
    &[0, 0, 3, 0],
    &[1, 4, 0, 0],
    &[0, 3],
    &[0, 6],
    &[0, 5],
    &[0, 6, 3, 0],
    &[0, 2, 3, 3],
];
/// Twelve bars that every player knows.
const TWELVE: [i32; 12] = [0, 0, 0, 0, 3, 3, 0, 0, 4, 3, 0, 4];
/// How often there is a single chord all along.
const SINGLE: f32 = 0.12;
/// How often it is the twelve bars.
const TWELVES: f32 = 0.08;
/// How often chords change wherever chance has it, in the middle of a bar too.
const DRAWN: f32 = 0.25;

/// The chords of a piece.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Harmony {
    /// The degree of each half bar.
    halves: Vec<i32>,
}

/// A chord in a bar.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Held {
    /// Where it begins, as a share of the bar: 0 or a half.
    pub(crate) place: f64,
    /// How many bars it is held, up to two.
    pub(crate) bars: f64,
}

impl Harmony {
    /// Draws one. In bars that have no middle, chords change with the bar.
    pub(crate) fn new(bar: usize, lot: &mut Lot) -> Self {
        let even = bar.is_multiple_of(2);
        if lot.chance(SINGLE) {
            return Self { halves: vec![0; 2] };
        }
        if lot.chance(TWELVES) {
            return Self { halves: TWELVE.iter().flat_map(|degree| [*degree; 2]).collect() };
        }
        if lot.chance(DRAWN) {
            return Self { halves: drawn(even, lot) };
        }
        let hold = lot.pick(if even { &[1, 2, 2, 2, 4][..] } else { &[2, 2, 4] });
        Self { halves: lot.pick(&LOOPS).iter().flat_map(|degree| std::iter::repeat_n(*degree, hold)).collect() }
    }

    fn half(&self, half: usize) -> i32 {
        self.halves[half % self.halves.len()]
    }

    /// The degree at a place, in bars.
    pub(crate) fn root(&self, bar: f64) -> i32 {
        self.half((bar.max(0.0) * 2.0 + 1e-6).floor() as usize)
    }

    /// Where the chord becomes another one, in bars, of the first so many bars.
    pub(crate) fn changes(&self, bars: usize) -> impl Iterator<Item = f64> {
        let halves = (1..2 * bars).filter(|half| self.half(*half) != self.half(half - 1));
        halves.map(|half| half as f64 * 0.5)
    }

    /// The chords that begin in a bar. One that goes on begins anew with every other bar.
    pub(crate) fn held(&self, bar: usize) -> impl Iterator<Item = Held> {
        let begins = |half: usize| half.is_multiple_of(4) || self.half(half) != self.half(half - 1);
        [2 * bar, 2 * bar + 1].into_iter().filter(move |half| begins(*half)).map(move |half| {
            let length = (1..4).find(|further| begins(half + further)).unwrap_or(4);
            Held { place: (half % 2) as f64 * 0.5, bars: length as f64 * 0.5 }
        })
    }
}

/// Four or eight bars, the chord changing mostly with the bar.
fn drawn(even: bool, lot: &mut Lot) -> Vec<i32> {
    let halves = lot.pick(&[4, 8, 8, 16]);
    let mut degree = 0;
    (0..halves)
        .map(|half| {
            let likely = if half % 2 == 0 { 0.7 } else { 0.25 * f32::from(u8::from(even)) };
            if half > 0 && lot.chance(likely) {
                degree = lot.pick(&[0, 0, 1, 2, 3, 3, 4, 4, 5, 6]);
            }
            degree
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn changes_are_where_the_chord_is_another_one() {
        for seed in 0..50 {
            let harmony = Harmony::new(4, &mut Lot::new(seed));
            let changes: Vec<f64> = harmony.changes(12).collect();
            for half in 1..24 {
                let at = half as f64 * 0.5;
                let differs = harmony.root(at) != harmony.root(at - 0.5);
                assert_eq!(changes.contains(&at), differs, "seed {seed}, {at}: {harmony:?}");
            }
        }
    }

    #[test]
    fn chords_that_are_held_fill_all_bars_and_are_the_ones_that_are_told() {
        for seed in 0..200 {
            let bar = [4, 3, 2][seed as usize % 3];
            let harmony = Harmony::new(bar, &mut Lot::new(seed));
            let mut until = 0.0;
            for number in 0..40 {
                for held in harmony.held(number) {
                    let begins = number as f64 + held.place;
                    assert_eq!(begins, until, "seed {seed}: {harmony:?}");
                    until = begins + held.bars;
                    assert_eq!(harmony.root(begins), harmony.root(until - 0.5));
                    assert!(bar != 3 || held.place == 0.0, "no middle of three");
                }
            }
            assert!(until >= 40.0);
        }
    }
}
