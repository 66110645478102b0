//! Pieces: a style and a seed make notes and hits, and these make samples and their truth.

use crate::RATE;
use crate::band::{Band, Turn};
use crate::effects::{effects, rise};
use crate::form::sections;
use crate::harmony::Harmony;
use crate::lot::Lot;
use crate::piece::Piece;
use crate::recording::finish;
use crate::rhythm::Grid;
use crate::riff::{beat_is_told, riffs};
use crate::sampled::Bank;
use crate::score::Score;
use crate::section::Rise;
use crate::style::{Moves, Style};
use crate::tempo::{Motion, TempoMap};

/// How often all strike once in the last bar of a section and are silent then.
const STOPS: f32 = 0.06;
/// What makes another lot of a seed, for what is done to what was played.
const EFFECTS: u64 = 0xeffe_c750;

/// Makes a piece of about so many seconds.
#[must_use]
pub fn piece(style: &Style, seconds: f64, seed: u64) -> Piece {
    piece_with(None, style, seconds, seed)
}

/// Makes a piece of about so many seconds, some of whose instruments are of a bank.
#[must_use]
pub fn piece_with(bank: Option<&Bank>, style: &Style, seconds: f64, seed: u64) -> Piece {
    let mut lot = Lot::new(seed);
    let lot = &mut lot;
    let bpm = lot.scale(style.bpm[0], style.bpm[1]);
    let human = Motion::Human(lot.scale(0.002, 0.02));
    let motion = match style.moves {
        Moves::Usual if lot.chance(0.75) => Motion::Steady,
        Moves::Usual | Moves::Human => human,
        Moves::Free if lot.chance(0.5) => Motion::Human(lot.scale(0.015, 0.05)),
        Moves::Free => Motion::Bend(lot.range(0.01, 0.06)),
        Moves::Ramp => Motion::Ramp(if lot.chance(0.5) { lot.range(1.1, 1.35) } else { lot.range(0.75, 0.9) }),
        Moves::Jump => Motion::Jump(if lot.chance(0.5) { lot.range(1.04, 1.2) } else { lot.range(0.85, 0.96) }),
        Moves::Bend => Motion::Bend(lot.range(0.01, 0.05)),
    };
    let start = f64::from(if lot.chance(0.5) { 0.0 } else { lot.range(0.0, 2.0) });
    let map = TempoMap::new(bpm, motion, style.bar, [start, seconds], lot);
    let minor = lot.chance(0.5);
    let tonic_class = lot.below(12);
    let score = Score {
        map: &map,
        grid: Grid { bar: style.bar, sub: style.sub },
        swing: lot.range(style.swing[0], style.swing[1]),
        loose: if motion == Motion::Steady { lot.range(0.0, 0.001) } else { lot.range(0.001, 0.009) },
        tonic: 261.625_58 * (tonic_class as f32 / 12.0 - if tonic_class > 6 { 1.0 } else { 0.0 }).exp2(),
        minor,
        harmony: Harmony::new(style.bar, lot),
    };
    let end = map.beats().iter().take_while(|time| **time < seconds).count();
    let bars = end / style.bar + 1;
    let mut piece = Piece {
        samples: Vec::new(),
        stems: [Vec::new(), Vec::new()],
        beats: map.beats()[..end].to_vec(),
        downbeats: map.beats()[..end].iter().step_by(style.bar).copied().collect(),
        struck: Vec::new(),
        notes: Vec::new(),
        sections: Vec::new(),
        key: (tonic_class, minor),
        chords: score.harmony.changes(bars).map(|bar| map.time(bar * style.bar as f64)).collect(),
    };
    let mut band = Band::new(bank, style, &score, (seconds * RATE) as usize, lot);
    let mut bar = 0;
    let mut rises = Vec::new();
    for section in sections(style.form, beat_is_told(score.grid, &band.pattern), band.plays, bars, lot) {
        if bar >= bars {
            break;
        }
        let [start, end] = [bar, bar + section.bars].map(|bar| map.time((bar * style.bar) as f64));
        if piece.sections.last().is_none_or(|(_, kind)| *kind != section.kind) {
            piece.sections.push((start, section.kind));
        }
        if section.rise != Rise::default() {
            rises.push((section.rise, [start, end]));
        }
        if lot.chance(0.3) {
            // Other parts of a song go otherwise.
            let kicks = band.pattern.clone();
            band.riffs = riffs(score.grid, &kicks, &band.plays, lot);
        }
        let stops = lot.chance(STOPS);
        for inside in 0..section.bars {
            band.stopped = stops && inside + 1 == section.bars;
            if bar < bars {
                band.play(&score, &Turn { section: &section, bar, inside }, &mut piece, lot);
            }
            bar += 1;
        }
    }
    if let Some(bank) = bank {
        band.perform(bank);
    }
    // Of a lot of its own, so that what a seed makes is the same but for this; another one for each style.
    let own = style.name.bytes().fold(EFFECTS, |sum, byte| sum.wrapping_mul(31).wrapping_add(u64::from(byte)));
    let mut own = Lot::new(seed ^ own);
    effects([&mut band.drums, &mut band.music], &score, &mut own);
    for (what, span) in rises {
        rise([&mut band.drums, &mut band.music], what, span, &mut own);
    }
    (piece.samples, piece.stems) = finish(band, style, lot);
    piece.struck.sort_by(|a, b| a.time.total_cmp(&b.time));
    piece.struck.retain(|hit| hit.time < seconds - 0.05);
    piece.notes.sort_by(f64::total_cmp);
    piece
}
