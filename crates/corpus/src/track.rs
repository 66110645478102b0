//! The form of a track for a club, as chance has it: it begins with little, rises and drops once or twice, lets go in
//! between, and ends with little (M. J. Butler, "Unlocking the groove", 2006).

use crate::groove::Voice;
use crate::lot::Lot;
use crate::section::{Rise, Section};

/// How often each thing rises in a build: rolls of a drum, a hiss, and that the low end goes away.
const RISES: [f32; 3] = [0.65, 0.6, 0.35];
/// How often a build leads to a drop, and how often the kick goes on in it.
const BUILDS: f32 = 0.8;
const KICKS_ON: f32 = 0.5;
/// How often there is a bass in what is no drop, and has drums.
const BASS: f32 = 0.25;
/// How often all play from the start.
const BEGINS_WHOLE: f32 = 0.25;

/// A track, out of a section in which all play.
pub(crate) fn track(all: &Section, lot: &mut Lot) -> Vec<Section> {
    let mut list = if lot.chance(BEGINS_WHOLE) { Vec::new() } else { intro(all, lot) };
    let rounds = 1 + lot.below(2);
    for round in 0..=rounds {
        if round > 0 {
            list.push(breakdown(all, lot));
        }
        if !list.is_empty() && lot.chance(BUILDS) {
            list.push(build(all, lot));
        }
        list.extend(drop(all, lot));
    }
    list.push(outro(all, lot));
    list
}

/// Drums, or hats and then drums, or what has no drums, and mostly no bass.
fn intro(all: &Section, lot: &mut Lot) -> Vec<Section> {
    let level = lot.range(0.6, 0.95);
    let begin = Section { kind: "intro", bars: lot.pick(&[4, 8, 8, 16]), parts: [false; 5], level, ..*all };
    let [_, chords, arpeggio, _, pad] = all.parts;
    match lot.below(4) {
        0 => vec![Section { parts: [lot.chance(BASS), false, false, false, pad], ..begin }],
        1 => {
            let bars = (begin.bars / 2).max(4);
            vec![Section { full: false, bars, ..begin }, Section { bars, ..begin }]
        }
        2 => vec![Section { drums: false, parts: [false, true, arpeggio, false, pad], ..begin }],
        _ => vec![Section { parts: [false, chords, false, false, true], ..begin }],
    }
}

fn build(all: &Section, lot: &mut Lot) -> Section {
    let [rolls, hisses, thins] = RISES.map(|often| lot.chance(often));
    let drum = lot.pick(&[Voice::Snare, Voice::Snare, Voice::Kick, Voice::Hat]);
    let rise = Rise { rolls: (rolls || !hisses && !thins).then_some(drum), hisses, thins };
    let drums = lot.chance(0.75);
    let full = drums && lot.chance(KICKS_ON / 0.75);
    Section {
        kind: "build",
        bars: lot.pick(&[4, 8, 8, 8, 16]),
        drums,
        full,
        parts: [full && lot.chance(BASS), true, all.parts[2], all.parts[3] && lot.chance(0.5), true],
        level: lot.range(0.6, 0.9),
        rise,
    }
}

/// Twice the same, or with other parts the second time.
fn drop(all: &Section, lot: &mut Lot) -> Vec<Section> {
    let half = Section { bars: lot.pick(&[8, 8, 16]), ..*all };
    let mut other = half;
    other.parts[3] = lot.chance(0.6);
    other.parts[2] = lot.chance(0.5);
    vec![half, other]
}

fn breakdown(all: &Section, lot: &mut Lot) -> Section {
    let hats = lot.chance(0.25);
    let [_, _, arpeggio, melody, _] = all.parts;
    Section {
        kind: "breakdown",
        bars: lot.pick(&[4, 8, 8, 16, 16]),
        drums: hats,
        full: false,
        parts: [false, true, arpeggio, melody, true],
        level: lot.range(0.4, 0.8),
        ..*all
    }
}

fn outro(all: &Section, lot: &mut Lot) -> Section {
    let [_, chords, _, _, pad] = all.parts;
    let mut parts = if lot.chance(0.6) { [false; 5] } else { [false, chords, false, false, pad] };
    parts[0] = lot.chance(BASS);
    Section { kind: "outro", bars: lot.pick(&[8, 8, 16]), parts, level: lot.range(0.45, 0.8), ..*all }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn tracks() -> Vec<Vec<Section>> {
        let all = Section {
            kind: "drop",
            bars: 8,
            drums: true,
            full: true,
            parts: [true; 5],
            level: 1.0,
            rise: Rise::default(),
        };
        (0..200).map(|seed| track(&all, &mut Lot::new(seed))).collect()
    }

    #[test]
    fn a_track_begins_drops_twice_at_least_and_ends() {
        for track in tracks() {
            let mut kinds: Vec<&str> = track.iter().map(|section| section.kind).collect();
            kinds.dedup();
            assert!(["intro", "drop"].contains(&kinds[0]) && kinds[kinds.len() - 1] == "outro", "{kinds:?}");
            assert!((2..=3).contains(&kinds.iter().filter(|kind| **kind == "drop").count()), "{kinds:?}");
            let next = |kind: &str| kinds.iter().position(|k| *k == kind).map(|at| kinds[at + 1]);
            assert!(next("build").is_none_or(|next| next == "drop"), "{kinds:?}");
        }
    }

    #[test]
    fn something_rises_in_each_build_and_nothing_elsewhere() {
        for section in tracks().into_iter().flatten() {
            assert_eq!(section.kind == "build", section.rise != Rise::default(), "{section:?}");
            // In a drop all play; without drums there is no bass.
            assert!(section.kind != "drop" || section.full && section.parts[0] && section.level == 1.0, "{section:?}");
            assert!(section.drums || !section.parts[0], "{section:?}");
        }
    }
}
