//! How bass, chords and arpeggio go together where they were written for each other: one takes the beat, another what lies
//! between, or all play as one.

use crate::groove::{Bar, Voice};
use crate::lot::Lot;
use crate::rhythm::{Grid, Mask};

/// Ways of going together.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Together {
    /// The bass on beats, chords half a beat after each, as loud or louder.
    Between,
    /// The bass on every other beat, chords on those after it; in three, on both that follow.
    LowHigh,
    /// Chords, or the notes of one after another, in half beats or steps over a bass that is slower.
    Broken,
    /// Bass and chords on each half beat.
    Pulse,
    /// Chords on beats, the bass on one and in the middle.
    Blocks,
    /// The bass on each beat, chords where they do not get in its way.
    Walk,
    /// All in threes across two beats.
    Across,
    /// Chords held for a bar or half of one, the arpeggio on beats.
    Held,
    /// The bass with the kick, chords with the snare.
    WithDrums,
}

/// Each, the plainer the more often.
const WAYS: [Together; 14] = {
    use Together::{Across, Between, Blocks, Broken, Held, LowHigh, Pulse, Walk, WithDrums};
    [Between, Between, Between, LowHigh, LowHigh, LowHigh, Broken, Broken, Pulse, Blocks, Walk, Across, Held, WithDrums]
};

/// Which steps of a bar bass, chords and arpeggio play; nothing of what each plays as it likes.
pub(crate) type Parts = [Option<Mask>; 3];

/// A way of going together, over the drums of a bar.
pub(crate) fn accompaniment(grid: Grid, drums: &Bar, lot: &mut Lot) -> Parts {
    let struck = |step: usize, voice: Voice| drums.iter().any(|hit| hit.0 == voice && hit.1 == step);
    let mask = |plays: &dyn Fn(usize) -> bool| (0..grid.steps()).map(plays).collect::<Mask>();
    let Grid { bar, sub } = grid;
    let off = if sub == 3 { 2 } else { grid.half() };
    let beats = |step: usize| step.is_multiple_of(sub);
    let between = |step: usize| step % sub == off;
    let one = |step: usize| step == 0;
    let middle = |step: usize| step == 0 || (bar.is_multiple_of(2) && bar > 2 && step == bar / 2 * sub);
    let low = |step: usize| if bar == 3 { step == 0 } else { step.is_multiple_of(2 * sub) };
    let high = |step: usize| beats(step) && !low(step);
    // Halves, or the first and the last of three.
    let halves = |step: usize| beats(step) || between(step);
    let all = |_: usize| true;
    let slow: &dyn Fn(usize) -> bool = if lot.chance(0.5) { &beats } else { &middle };
    let quick: &dyn Fn(usize) -> bool = if lot.chance(0.5) { &halves } else { &all };
    match lot.pick(&WAYS) {
        Together::Between => [Some(mask(slow)), Some(mask(&between)), None],
        Together::LowHigh => [Some(mask(&low)), Some(mask(&high)), None],
        Together::Broken if lot.chance(0.5) => [Some(mask(slow)), None, Some(mask(quick))],
        Together::Broken => [Some(mask(&one)), Some(mask(quick)), Some(mask(quick))],
        Together::Pulse => [Some(mask(&halves)), Some(mask(&halves)), None],
        Together::Blocks => [Some(mask(&middle)), Some(mask(&beats)), None],
        Together::Walk => [Some(mask(&beats)), Some(mask(if lot.chance(0.5) { &between } else { &high })), None],
        Together::Across if sub == 4 && bar.is_multiple_of(2) => {
            let threes = mask(&|step| [0, 3, 6].contains(&(step % 8)));
            [Some(threes.clone()), Some(threes), None]
        }
        Together::Across | Together::Held => [Some(mask(&one)), Some(mask(&middle)), Some(mask(slow))],
        Together::WithDrums => {
            let [kick, snare] = [Voice::Kick, Voice::Snare].map(|voice| mask(&|step| struck(step, voice)));
            let or = |own: Mask, other: &dyn Fn(usize) -> bool| if own.contains(&true) { own } else { mask(other) };
            [Some(or(kick, &low)), Some(or(snare, &high)), None]
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const GRIDS: [[usize; 2]; 5] = [[4, 4], [4, 3], [3, 4], [2, 3], [2, 4]];

    #[test]
    fn whatever_goes_together_fills_a_bar_and_is_never_silent() {
        let mut lot = Lot::new(31);
        for [bar, sub] in GRIDS {
            let grid = Grid { bar, sub };
            for _ in 0..200 {
                for mask in accompaniment(grid, &Vec::new(), &mut lot).into_iter().flatten() {
                    assert_eq!(mask.len(), grid.steps());
                    assert!(mask.contains(&true), "in {bar} by {sub}");
                }
            }
        }
    }

    #[test]
    fn one_of_the_parts_strikes_on_one() {
        // Where chords lie between beats, the bass lies on them.
        let mut lot = Lot::new(37);
        for [bar, sub] in GRIDS {
            for _ in 0..200 {
                let parts = accompaniment(Grid { bar, sub }, &Vec::new(), &mut lot);
                assert!(parts.iter().flatten().any(|mask| mask[0]), "{parts:?}");
            }
        }
    }

    #[test]
    fn bass_and_chords_go_with_the_drums_that_there_are() {
        let drums: Bar = vec![(Voice::Kick, 0, 1.0), (Voice::Kick, 7, 0.8), (Voice::Snare, 4, 1.0)];
        let mut lot = Lot::new(41);
        let with_drums = (0..400).map(|_| accompaniment(Grid { bar: 4, sub: 4 }, &drums, &mut lot)).any(|parts| {
            let steps = |part: usize| parts[part].iter().flatten().map(|plays| u8::from(*plays)).collect::<Vec<_>>();
            let at = |marked: &[usize]| (0..16).map(|step| u8::from(marked.contains(&step))).collect::<Vec<_>>();
            steps(0) == at(&[0, 7]) && steps(1) == at(&[4])
        });
        assert!(with_drums);
    }
}
