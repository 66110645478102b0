//! Riffs: what a part plays for a bar or a few, and then again.

use crate::accompaniment::accompaniment;
use crate::groove::{Bar, weight};
use crate::lot::Lot;
use crate::rhythm::{Grid, Manner, Mask};

/// The parts that play riffs, in order; behind them stands what is held.
pub(crate) const BASS: usize = 0;
pub(crate) const CHORDS: usize = 1;
pub(crate) const ARPEGGIO: usize = 2;
pub(crate) const MELODY: usize = 3;

/// One stroke of a riff.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Stroke {
    /// From the start of the riff on.
    pub(crate) step: usize,
    /// In steps.
    pub(crate) length: f32,
    /// Of the scale, from the root of the chord on or from the tonic on.
    pub(crate) degree: i32,
    /// How hard, 0..1.
    pub(crate) level: f32,
}

/// What comes again.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Riff {
    pub(crate) bars: usize,
    pub(crate) strokes: Vec<Stroke>,
    /// Whether it moves with the chords.
    pub(crate) rooted: bool,
    /// How often a stroke is left out.
    pub(crate) omits: f32,
}

/// How the bars of a riff are alike.
const FORMS: [&[usize]; 9] =
    [&[0], &[0], &[0], &[0, 1], &[0, 1], &[0, 0, 0, 1], &[0, 1, 0, 2], &[0, 1, 0, 1], &[0, 0, 1, 2]];
/// How often each stroke has a level of its own.
const ACCENTED: f32 = 0.4;
/// How often chords, or the arpeggio, play with the bass.
const TOGETHER: f32 = 0.2;
/// How often bass, chords and arpeggio are written for each other, and how often the last bar of four is another one then.
const WRITTEN: f32 = 0.45;
const TURNS: f32 = 0.25;

/// How the pitch of a riff goes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Contour {
    /// Always the same.
    Still,
    /// These degrees, one after the other, begun anew with each bar, or, where threes are filled, with each beat.
    Cycle(&'static [i32]),
    /// These, over the bars; where threes are filled as before.
    Across(&'static [i32]),
    /// Low on the beat, high between.
    Bounce(i32),
    /// Steps up and down.
    Walk,
    /// Any of these, drawn once.
    Drawn(&'static [i32]),
}

const CONTOURS: [&[Contour]; 4] = {
    use Contour::{Across, Bounce, Cycle, Drawn, Still, Walk};
    [
        &[
            Still,
            Still,
            Still,
            Cycle(&[0, 4]),
            Cycle(&[0, 7]),
            Bounce(7),
            Bounce(4),
            Walk,
            Walk,
            Cycle(&[0, 2, 4, 5]),
            Drawn(&[0, 0, 0, 0, 4, 7]),
            Drawn(&[0, 0, 2, 3, 4, 6, 7]),
        ],
        &[Still, Still, Still, Still, Drawn(&[0, 0, 0, 1, -1]), Drawn(&[0, 0, 3, 4])],
        &[
            Cycle(&[0, 2, 4, 7]),
            Cycle(&[0, 2, 4, 2]),
            Cycle(&[7, 4, 2, 0]),
            Cycle(&[0, 4, 2, 4]),
            Cycle(&[0, 7]),
            Across(&[0, 2, 4]),
            Across(&[0, 2, 4, 7, 4, 2]),
            Across(&[7, 4, 2]),
            Across(&[0, 4, 7]),
            Still,
            Bounce(7),
            Drawn(&[0, 2, 4, 7]),
        ],
        &[Walk, Walk, Walk, Walk, Drawn(&[0, 0, 2, 4, 7]), Drawn(&[0, 1, 2, 4, 5, 7])],
    ]
};

impl Contour {
    /// The degree of a stroke, which is the `index`th of its bar and the `gone`th of the riff.
    fn degree(self, [index, gone]: [usize; 2], on_beat: bool, before: i32, lot: &mut Lot) -> i32 {
        match self {
            Self::Still => 0,
            Self::Cycle(degrees) => degrees[index % degrees.len()],
            Self::Across(degrees) => degrees[gone % degrees.len()],
            Self::Bounce(high) => high * i32::from(!on_beat),
            Self::Walk => (before + lot.pick(&[-2, -1, -1, 0, 1, 1, 2])).clamp(-4, 9),
            Self::Drawn(degrees) => lot.pick(degrees),
        }
    }
}

impl Riff {
    fn new(part: usize, grid: Grid, masks: &[Mask], lot: &mut Lot) -> Self {
        let steps = grid.steps();
        let contour = lot.pick(CONTOURS[part]);
        let short = lot.scale(0.3, 1.0);
        let accents: Option<[f32; 2]> = lot.chance(ACCENTED).then(|| [lot.range(0.3, 0.8), 1.0]);
        let places: Vec<usize> = masks
            .iter()
            .enumerate()
            .flat_map(|(bar, mask)| (0..steps).filter(|step| mask[*step]).map(move |step| bar * steps + step))
            .collect();
        let (mut degree, mut index, mut strokes) = (lot.pick(&[0, 0, 2, 4]), 0, Vec::with_capacity(places.len()));
        for (gone, &step) in places.iter().enumerate() {
            // What goes up and down across the beats makes another metre of threes.
            let filled = grid.in_threes() && masks[step / steps].iter().filter(|plays| **plays).count() > grid.bar;
            let anew = if filled { grid.sub } else { steps };
            index = if gone > 0 && places[gone - 1] / anew == step / anew { index + 1 } else { 0 };
            degree =
                contour.degree([index, if filled { index } else { gone }], step.is_multiple_of(grid.sub), degree, lot);
            let next = places.get(gone + 1).copied().unwrap_or(masks.len() * steps);
            let heavy = weight(step % steps, grid.sub, grid.bar);
            let level = match accents {
                Some([soft, hard]) => {
                    if lot.chance(0.15 + 0.35 * heavy) {
                        hard
                    } else {
                        soft
                    }
                }
                None => 0.75 + 0.25 * heavy,
            };
            strokes.push(Stroke { step, length: (next - step) as f32 * short, degree, level });
        }
        let rooted = part != MELODY || lot.chance(0.4);
        Self { bars: masks.len(), strokes, rooted, omits: if part == MELODY { lot.range(0.0, 0.3) } else { 0.0 } }
    }

    /// The strokes of a bar that is counted on and on, and the step of each in it.
    pub(crate) fn bar(&self, bar: usize, steps: usize) -> impl Iterator<Item = (usize, Stroke)> {
        let from = bar % self.bars * steps;
        let mine = self.strokes.iter().filter(move |stroke| (from..from + steps).contains(&stroke.step));
        mine.map(move |stroke| (stroke.step - from, *stroke))
    }
}

/// The bars of a part: some are alike.
fn masks(part: usize, grid: Grid, kicks: &Bar, lot: &mut Lot) -> Vec<Mask> {
    let manner = Manner::new(part, grid, kicks, lot);
    let bars = [0, 1, 2].map(|_| manner.bar(grid, kicks, lot));
    let mut masks: Vec<Mask> = lot.pick(&FORMS).iter().map(|index| bars[*index].clone()).collect();
    if part == MELODY && masks.len() > 1 && lot.chance(0.4) {
        // It breathes at the end.
        let (last, from) = (masks.len() - 1, grid.steps() / 2);
        masks[last][from..].fill(false);
    }
    masks
}

/// Whether drums that play so tell where the beat is: they strike half of the beats of a bar, and more than one.
pub(crate) fn beat_is_told(grid: Grid, drums: &Bar) -> bool {
    let struck = |beat: &usize| drums.iter().any(|(_, step, _)| *step == beat * grid.sub);
    let beats = (0..grid.bar).filter(struck).count();
    beats > 1 && 2 * beats >= grid.bar
}

/// The riffs of bass, chords, arpeggio and melody, of which those play in the piece. Where there are no drums, or such that do
/// not, one part at least that plays tells where the beat is.
pub(crate) fn riffs(grid: Grid, kicks: &Bar, plays: &[bool; 5], lot: &mut Lot) -> [Riff; 4] {
    let mut all: [Vec<Mask>; 4] = std::array::from_fn(|part| masks(part, grid, kicks, lot));
    for part in [CHORDS, ARPEGGIO] {
        if lot.chance(TOGETHER) {
            all[part] = all[BASS].clone();
        }
    }
    let written = lot.chance(WRITTEN);
    if written {
        for (riff, mask) in all.iter_mut().zip(accompaniment(grid, kicks, lot)) {
            if let Some(mask) = mask {
                *riff = with_turn(mask, riff, lot);
            }
        }
    }
    if !beat_is_told(grid, kicks) {
        mark_beats(grid, &mut all, plays, written, lot);
    }
    std::array::from_fn(|part| Riff::new(part, grid, &all[part], lot))
}

/// A bar again and again; now and then the last of four is another one.
fn with_turn(mask: Mask, own: &[Mask], lot: &mut Lot) -> Vec<Mask> {
    if lot.chance(TURNS) {
        let last = own.last().cloned().unwrap_or_else(|| mask.clone());
        return vec![mask.clone(), mask.clone(), mask, last];
    }
    vec![mask]
}

/// Has some parts play evenly, one at least of those that play. Where parts were written for each other, that one alone, if
/// none is even yet.
fn mark_beats(grid: Grid, all: &mut [Vec<Mask>; 4], plays: &[bool; 5], written: bool, lot: &mut Lot) {
    let even = |by: usize| vec![Manner::even(by)(grid)];
    // In threes there are no half beats, and what strikes each third does not tell two threes from three twos, nor do half beats
    // in bars of three.
    let half = if grid.in_threes() { grid.sub } else { grid.half() };
    let by = lot.pick(&[grid.sub, grid.sub, half, 2 * grid.sub]);
    let parts = [BASS, CHORDS, ARPEGGIO];
    for part in parts {
        if !written && lot.chance(0.5) {
            all[part] = even(by);
        }
    }
    let on_beats = |mask: &Mask| mask.iter().step_by(grid.sub).all(|plays| *plays);
    let tells = |mask: &Mask| mask.iter().step_by(grid.half()).any(|plays| !*plays);
    let marks = |mask: &Mask| on_beats(mask) && (!grid.in_threes() || tells(mask));
    let marked = |all: &[Vec<Mask>; 4]| parts.iter().any(|part| plays[*part] && all[*part].iter().all(marks));
    let playing: Vec<usize> = parts.into_iter().filter(|part| plays[*part]).collect();
    if !playing.is_empty() && !marked(all) {
        all[lot.pick(&playing)] = even(lot.pick(&[grid.sub, grid.sub, half]));
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::groove::Voice;

    #[test]
    fn a_riff_comes_again_and_its_strokes_do_not_overlap() {
        let mut lot = Lot::new(3);
        for (bar, sub) in [(4, 4), (4, 3), (3, 4), (2, 3)] {
            let grid = Grid { bar, sub };
            for riff in (0..50).flat_map(|_| riffs(grid, &Vec::new(), &[true; 5], &mut lot)).collect::<Vec<_>>() {
                let steps = grid.steps();
                assert!(matches!(riff.bars, 1 | 2 | 4));
                for pair in riff.strokes.windows(2) {
                    assert!(pair[0].step as f32 + pair[0].length <= pair[1].step as f32 + 1e-3, "{riff:?}");
                }
                let all: Vec<_> = (0..riff.bars).flat_map(|bar| riff.bar(bar, steps)).collect();
                assert_eq!(all.len(), riff.strokes.len());
                assert!(all.iter().all(|(step, stroke)| *step < steps && (0.2..=1.0).contains(&stroke.level)));
                let again: Vec<_> = (riff.bars..2 * riff.bars).flat_map(|bar| riff.bar(bar, steps)).collect();
                assert_eq!(all, again);
            }
        }
    }

    #[test]
    fn where_there_are_no_drums_one_part_that_plays_marks_each_beat() {
        let mut lot = Lot::new(13);
        for (bar, sub) in [(4, 4), (4, 3), (3, 4), (2, 3), (2, 4)] {
            let grid = Grid { bar, sub };
            for playing in [BASS, CHORDS, ARPEGGIO] {
                let plays: [bool; 5] = std::array::from_fn(|part| part == playing);
                for _ in 0..40 {
                    let riffs = riffs(grid, &Vec::new(), &plays, &mut lot);
                    let played: Vec<usize> = riffs[playing].strokes.iter().map(|stroke| stroke.step).collect();
                    let beats = (0..riffs[playing].bars * bar).map(|beat| beat * sub);
                    assert!(beats.into_iter().all(|beat| played.contains(&beat)), "{played:?} in {bar} by {sub}");
                    // Thirds that are all struck, or half beats in bars of three, are as well twos as threes.
                    let mut halves = (0..riffs[playing].bars * grid.steps()).step_by(grid.half());
                    let tells = halves.any(|step| !played.contains(&step));
                    assert!(!grid.in_threes() || tells, "{played:?} in {bar} by {sub}");
                }
            }
        }
    }

    #[test]
    fn what_goes_up_and_down_over_filled_threes_begins_anew_with_each_beat() {
        for (bar, sub) in [(2, 3), (4, 3), (3, 4)] {
            let grid = Grid { bar, sub };
            let mut lot = Lot::new(29);
            let mut moves = 0;
            for _ in 0..60 {
                let riff = Riff::new(ARPEGGIO, grid, &[vec![true; grid.steps()]], &mut lot);
                let degrees: Vec<i32> = riff.strokes.iter().map(|stroke| stroke.degree).collect();
                let again = degrees.chunks_exact(sub).all(|beat| beat == &degrees[..sub]);
                moves += usize::from(again && degrees[0] != degrees[1]);
                // What is drawn note by note, a twelfth of it, goes where it likes.
                assert!(again || degrees.iter().all(|degree| [0, 2, 4, 7].contains(degree)), "{degrees:?}");
            }
            assert!(moves > 30, "{moves} of 60 in {bar} by {sub}");
        }
    }

    #[test]
    fn drums_tell_the_beat_that_strike_half_of_the_beats_and_more_than_one() {
        let told = |bar: usize, sub: usize, steps: &[usize]| {
            beat_is_told(Grid { bar, sub }, &steps.iter().map(|step| (Voice::Kick, *step, 0.8)).collect())
        };
        assert!(told(4, 4, &[0, 8]) && told(3, 4, &[0, 6, 8]) && told(2, 3, &[0, 3]));
        assert!(!told(4, 4, &[]) && !told(4, 4, &[0, 6, 11]) && !told(3, 4, &[0, 3, 6]) && !told(2, 3, &[0, 2, 5]));
        // A drum on one and in the middle of three leaves it to the parts.
        let (grid, plays) = (Grid { bar: 3, sub: 4 }, [false, true, false, false, false]);
        for seed in 0..20 {
            let riff =
                &riffs(grid, &vec![(Voice::Kick, 0, 1.0), (Voice::Hat, 6, 0.8)], &plays, &mut Lot::new(seed))[CHORDS];
            let played: Vec<usize> = riff.strokes.iter().map(|stroke| stroke.step).collect();
            assert!((0..3 * riff.bars).all(|beat| played.contains(&(4 * beat))), "{played:?}");
        }
    }
}
