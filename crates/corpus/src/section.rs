//! What plays from section to section of a piece.

use crate::groove::Voice;
use crate::lot::Lot;
use crate::riff::{ARPEGGIO, BASS, CHORDS};
use crate::style::{Form, Style};
use crate::track::track;

/// What plays in some bars.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Section {
    pub(crate) kind: &'static str,
    pub(crate) bars: usize,
    pub(crate) drums: bool,
    /// Hats only, or all of the drums.
    pub(crate) full: bool,
    pub(crate) parts: [bool; 5],
    /// How loud.
    pub(crate) level: f32,
    /// What rises towards the next one.
    pub(crate) rise: Rise,
}

/// What rises in a build.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(crate) struct Rise {
    /// Rolls of a drum thicken.
    pub(crate) rolls: Option<Voice>,
    /// A hiss becomes louder and brighter.
    pub(crate) hisses: bool,
    /// The low end goes away.
    pub(crate) thins: bool,
}

/// Which parts play in a piece: bass, chords, arpeggio, melody, pad.
pub(crate) fn parts(style: &Style, lot: &mut Lot) -> [bool; 5] {
    let mut mine = style.parts.map(|likely| lot.chance(likely));
    if style.form == Form::Club {
        (mine[BASS], mine[CHORDS]) = (true, true);
    }
    mine
}

/// The same with one that can tell the beat, where drums do not: something has to play, and a melody alone does not tell it.
pub(crate) fn telling(mut mine: [bool; 5], lot: &mut Lot) -> [bool; 5] {
    if ![BASS, CHORDS, ARPEGGIO].iter().any(|part| mine[*part]) {
        mine[if lot.chance(0.5) { CHORDS } else { ARPEGGIO }] = true;
    }
    mine
}

/// The sections of a piece of so many bars, in which those parts play, with drums that tell the beat or without.
pub(crate) fn sections(form: Form, told: bool, mine: [bool; 5], bars: usize, lot: &mut Lot) -> Vec<Section> {
    let all =
        Section { kind: "drop", bars: 8, drums: true, full: true, parts: mine, level: 1.0, rise: Rise::default() };
    let calm =
        Section { kind: "breakdown", drums: false, level: 0.6, parts: [false, true, mine[2], mine[3], true], ..all };
    match form {
        Form::Club => track(&all, lot),
        Form::Breakdown => {
            vec![Section { bars: 16, ..all }, Section { bars: 32, ..calm }, Section { bars: 64, ..all }]
        }
        Form::Free => {
            let mut list = Vec::new();
            let mut gone = 0;
            while gone < bars {
                let bars = lot.pick(&[2, 4, 4, 8, 8]);
                let mut section = Section { bars, ..all };
                section.drums = lot.chance(0.88);
                section.full = lot.chance(0.85);
                for part in &mut section.parts {
                    *part &= lot.chance(0.85);
                }
                if !section.drums || !told {
                    // Where there are no drums, what else there is goes on.
                    section.parts = mine;
                }
                section.level = lot.range(0.7, 1.0);
                gone += bars;
                list.push(section);
            }
            list
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::groove::Groove;
    use crate::style::STYLES;

    #[test]
    fn where_there_are_no_drums_something_else_plays_in_every_section() {
        let without = STYLES.iter().filter(|style| style.grooves.contains(&Groove::None) && style.form == Form::Free);
        for style in without {
            for seed in 0..50 {
                let lot = &mut Lot::new(seed);
                let mine = telling(parts(style, lot), lot);
                for section in sections(style.form, false, mine, 24, lot) {
                    let tells = [BASS, CHORDS, ARPEGGIO].iter().any(|part| section.parts[*part]);
                    assert!(tells && section.level > 0.5, "{}: {section:?}", style.name);
                }
            }
        }
    }

    #[test]
    fn a_long_breakdown_has_32_bars_without_drums() {
        let long = sections(Form::Breakdown, true, [true; 5], 100, &mut Lot::new(1));
        let bars: Vec<(usize, bool)> = long.iter().map(|section| (section.bars, section.drums)).collect();
        assert_eq!(bars, [(16, true), (32, false), (64, true)]);
    }

    #[test]
    fn sections_last_as_long_as_the_piece() {
        let total: usize = sections(Form::Free, true, [true; 5], 37, &mut Lot::new(4)).iter().map(|s| s.bars).sum();
        assert!((37..45).contains(&total), "{total}");
    }
}
