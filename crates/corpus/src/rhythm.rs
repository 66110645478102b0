//! When a part plays, on the grid of steps.

use crate::groove::{Bar, Voice, weight};
use crate::lot::Lot;

/// The grid of a bar.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Grid {
    /// Beats in a bar.
    pub(crate) bar: usize,
    /// Steps in a beat.
    pub(crate) sub: usize,
}

impl Grid {
    pub(crate) fn steps(self) -> usize {
        self.bar * self.sub
    }

    /// Steps of half a beat; one where there are three.
    pub(crate) fn half(self) -> usize {
        (self.sub / 2).max(1)
    }

    /// Whether bars have three beats or beats three steps, so that a bar is two threes or three twos by what is played.
    pub(crate) fn in_threes(self) -> bool {
        self.bar == 3 || self.sub == 3
    }
}

/// Which steps of a bar are played.
pub(crate) type Mask = Vec<bool>;

/// Rhythms that parts have, as masks for a bar.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Rhythm {
    /// On the first step only.
    Bar,
    /// On each beat.
    Beats,
    /// Between beats.
    Offbeats,
    /// On each half beat, or third.
    Halves,
    /// On each step.
    Steps,
    /// On one and in the middle of the bar; on the last beat where that is between beats.
    Middle,
    /// On every other beat, from the second on.
    Back,
    /// Wherever chance has it, the heavier a step the likelier.
    Drawn,
    /// Threes across the beat, begun anew with each bar; half beats where they would fill a bar of three evenly.
    Threes,
    /// On one, and half a beat after the next.
    Late,
    /// Where the kick is.
    Kick,
    /// Made of a few figures of a beat.
    Figures,
}

/// What each part tends to play: bass, chords, arpeggio, melody.
const RHYTHMS: [&[Rhythm]; 4] = {
    use Rhythm::{Back, Bar, Beats, Drawn, Figures, Halves, Kick, Late, Middle, Offbeats, Steps, Threes};
    [
        &[
            Kick, Kick, Kick, Beats, Beats, Halves, Halves, Offbeats, Middle, Drawn, Drawn, Threes, Steps, Bar,
            Figures, Figures, Figures, Figures,
        ],
        &[
            Bar, Bar, Beats, Beats, Offbeats, Halves, Halves, Middle, Back, Threes, Late, Kick, Steps, Drawn, Drawn,
            Figures, Figures, Figures, Figures,
        ],
        &[Halves, Halves, Halves, Steps, Steps, Steps, Threes, Drawn, Beats, Figures, Figures],
        &[Drawn, Drawn, Drawn, Halves, Beats, Threes, Figures, Figures, Figures, Figures],
    ]
};

/// Figures of a beat in four steps, the plainer the more often.
const FOURS: [&str; 18] = [
    "x...", "x...", "x...", "x.x.", "x.x.", "x.x.", "xxxx", "x.xx", "xxx.", "x..x", "..x.", "..x.", ".x.x", "..xx",
    "....", "....", "xx..", ".xx.",
];
/// In three.
const THREES: [&str; 9] = ["x..", "x..", "x.x", "x.x", "xxx", "..x", "xx.", "...", ".xx"];
/// Figures of two beats in four steps each, that do not begin anew with the second.
const PAIRS: [&str; 8] =
    ["x..x..x.", "x..x..x.", "..x...x.", "x..x.x..", "x.....x.", ".x..x..x", "x..x....", "x.x..x.x"];

/// The way a part of a piece is played for some bars.
#[derive(Debug, Clone)]
pub(crate) struct Manner {
    rhythm: Rhythm,
    /// How much is played where chance has it.
    density: f32,
    /// The first and the last of three, rather than all of them.
    shuffles: bool,
    figures: Vec<&'static str>,
    pair: Option<&'static str>,
    /// How likely a stroke on a beat comes half a beat early.
    early: f32,
}

impl Manner {
    /// Draws that of a part: 0 the bass, 1 chords, 2 arpeggio, 3 and above melodies.
    pub(crate) fn new(part: usize, grid: Grid, kicks: &Bar, lot: &mut Lot) -> Self {
        let rhythm = lot.pick(RHYTHMS[part.min(RHYTHMS.len() - 1)]);
        let has_kick = kicks.iter().any(|(voice, _, _)| *voice == Voice::Kick);
        let all: &[&str] = if grid.sub == 3 { &THREES } else { &FOURS };
        let few = 1 + lot.below(3);
        Self {
            rhythm: if rhythm == Rhythm::Kick && !has_kick { Rhythm::Middle } else { rhythm },
            density: lot.range(0.3, 1.2),
            shuffles: lot.chance(0.6),
            figures: (0..few).map(|_| lot.pick(all)).collect(),
            pair: (grid.sub == 4 && grid.bar.is_multiple_of(2) && lot.chance(0.35)).then(|| lot.pick(&PAIRS)),
            early: if lot.chance(0.3) { lot.range(0.1, 0.8) } else { 0.0 },
        }
    }

    /// On every so many steps.
    pub(crate) fn even(by: usize) -> impl Fn(Grid) -> Mask {
        move |grid| (0..grid.steps()).map(|step| step % by.max(1) == 0).collect()
    }

    /// A bar that is played so.
    pub(crate) fn bar(&self, grid: Grid, kicks: &Bar, lot: &mut Lot) -> Mask {
        if self.rhythm == Rhythm::Figures {
            return self.of_figures(grid, lot);
        }
        (0..grid.steps()).map(|step| self.plays(step, grid, kicks, lot)).collect()
    }

    fn plays(&self, step: usize, grid: Grid, kicks: &Bar, lot: &mut Lot) -> bool {
        let (steps, sub, half) = (grid.steps(), grid.sub, grid.half());
        let off = if sub == 3 { 2 } else { half };
        match self.rhythm {
            Rhythm::Bar => step == 0,
            Rhythm::Beats => step.is_multiple_of(sub),
            Rhythm::Offbeats => step % sub == off,
            Rhythm::Halves if sub == 3 => step % 3 != 1 || !self.shuffles,
            Rhythm::Halves => step.is_multiple_of(half),
            Rhythm::Steps => sub != 3 || step % 3 != 1 || !self.shuffles,
            Rhythm::Middle if grid.bar.is_multiple_of(2) => step == 0 || step == steps / 2,
            Rhythm::Middle => step == 0 || step == steps - sub,
            Rhythm::Back => step.is_multiple_of(sub) && (step / sub) % 2 == 1,
            Rhythm::Drawn => lot.chance(self.density * weight(step, sub, grid.bar)) || (step == 0 && lot.chance(0.7)),
            Rhythm::Threes if grid.bar == 3 && sub == 4 => step.is_multiple_of(half),
            Rhythm::Threes => step.is_multiple_of(3) && step + 2 < steps,
            Rhythm::Late => step == 0 || step == sub + off,
            // Those are not drawn step by step.
            Rhythm::Figures => false,
            Rhythm::Kick => kicks.iter().any(|(voice, at, _)| *voice == Voice::Kick && *at == step),
        }
    }

    fn of_figures(&self, grid: Grid, lot: &mut Lot) -> Mask {
        let strokes = |figure: &str| figure.bytes().map(|letter| letter == b'x').collect::<Vec<bool>>();
        let mut mask = Mask::new();
        while mask.len() < grid.steps() {
            let beat = mask.len() / grid.sub;
            match self.pair {
                Some(pair) if beat.is_multiple_of(2) && lot.chance(0.7) => mask.extend(strokes(pair)),
                _ => mask.extend(strokes(lot.pick(&self.figures))),
            }
        }
        mask.truncate(grid.steps());
        let half = grid.half();
        for beat in 1..grid.bar {
            let step = beat * grid.sub;
            if mask[step] && !mask[step - half] && lot.chance(self.early) {
                mask.swap(step, step - half);
            }
        }
        if !mask.contains(&true) {
            mask[0] = true;
        }
        mask
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn figures_are_as_long_as_a_beat() {
        assert!(FOURS.iter().all(|figure| figure.len() == 4));
        assert!(THREES.iter().all(|figure| figure.len() == 3));
        assert!(PAIRS.iter().all(|figure| figure.len() == 8));
    }

    #[test]
    fn a_bar_is_a_bar_long_whatever_is_drawn_and_figures_are_never_silent() {
        let mut lot = Lot::new(11);
        let kicks: Bar = vec![(Voice::Kick, 0, 1.0)];
        for (bar, sub) in [(4, 4), (4, 3), (3, 4), (2, 3), (2, 4)] {
            let grid = Grid { bar, sub };
            for round in 0..200 {
                let manner = Manner::new(round % 5, grid, &kicks, &mut lot);
                let mask = manner.bar(grid, &kicks, &mut lot);
                assert_eq!(mask.len(), grid.steps(), "{manner:?}");
                assert!(manner.rhythm != Rhythm::Figures || mask.contains(&true), "{manner:?}");
            }
        }
    }

    #[test]
    fn nothing_marks_half_a_bar_of_three_by_itself() {
        let (grid, mut lot) = (Grid { bar: 3, sub: 4 }, Lot::new(12));
        for rhythm in [Rhythm::Middle, Rhythm::Threes] {
            let manner = Manner { rhythm, ..Manner::new(0, grid, &Vec::new(), &mut lot) };
            let mask = manner.bar(grid, &Vec::new(), &mut lot);
            let struck: Vec<usize> = (0..grid.steps()).filter(|step| mask[*step]).collect();
            let beats = struck.iter().filter(|step| step.is_multiple_of(4)).count();
            assert!(beats >= 2 && struck.iter().all(|step| step.is_multiple_of(2)), "{rhythm:?}: {struck:?}");
        }
        let four = Manner { rhythm: Rhythm::Middle, ..Manner::new(0, grid, &Vec::new(), &mut lot) };
        assert!(four.bar(Grid { bar: 4, sub: 4 }, &Vec::new(), &mut lot)[8], "a bar of four has a middle");
    }
}
