//! The sections of a piece, by its form.

use crate::lot::Lot;
use crate::section::{Rise, Section};
use crate::style::Form;
use crate::track::track;

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
    use crate::riff::{ARPEGGIO, BASS, CHORDS};
    use crate::section::{parts, telling};
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
