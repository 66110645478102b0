//! What lessons are made of: the bands of pieces, drums and the rest apart, and what happens in them.

use splimo_hear::HOP;
use splimo_hear::bands::FilterBank;
use splimo_hear::features::BANDS_SHOWN;
use splimo_hear::spectrum::Spectrum;

use crate::noises::{Noise, noise};
use crate::style::{STYLES, Style};
use crate::{Bank, Lot, Piece, RATE, Voice, piece_with};

/// What happens.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum What {
    /// A beat.
    Beat,
    /// The first beat of a bar.
    Downbeat,
    /// Something low is struck.
    Low,
    /// Something in the middle is struck.
    Mid,
    /// Something high is struck.
    High,
    /// A note sets in.
    Note,
}

/// A piece, or something that is no music, as it is kept for lessons.
#[derive(Debug, Clone)]
pub struct Material {
    /// The bands of each hop, one after the other, of one stem or two.
    pub stems: Vec<Vec<f32>>,
    /// The loudest band.
    pub loudest: f32,
    /// What happens when, in seconds.
    pub events: Vec<(f64, What)>,
    /// Whether it is music.
    pub music: bool,
}

/// How often what is no music is somebody who talks, which is most like it.
const TALK: f32 = 0.35;
/// How often it is of the plainest styles: the first and the last that are trained on.
const PLAIN: f32 = 0.15;
/// How often it is of a style whose bars have three beats, or its beats three steps, besides those that are drawn anyhow: two
/// threes and three twos are told apart by little.
const THREES: f32 = 0.3;
/// How often drums and the rest are kept apart, so that each lesson mixes them anew.
const APART: f32 = 0.6;
/// Hits that are softer than this are not asked for.
const SOFT: f32 = 0.22;

fn bands(samples: &[f32]) -> Vec<f32> {
    let (mut spectrum, bank) = (Spectrum::default(), FilterBank::new(BANDS_SHOWN));
    let mut bands = Vec::with_capacity(samples.len() / HOP * BANDS_SHOWN);
    for hop in samples.as_chunks::<HOP>().0 {
        let mut now = [0.0; BANDS_SHOWN];
        bank.apply(spectrum.hop(hop), &mut now);
        bands.extend_from_slice(&now);
    }
    bands
}

impl Material {
    fn of(stems: &[&[f32]], events: Vec<(f64, What)>, music: bool) -> Self {
        let stems: Vec<Vec<f32>> = stems.iter().map(|stem| bands(stem)).collect();
        let loudest = stems.iter().flatten().copied().fold(1e-6, f32::max);
        Self { stems, loudest, events, music }
    }

    /// What is kept of a piece from a time on.
    #[must_use]
    pub fn of_piece(piece: &Piece, from: f64, apart: bool) -> Self {
        let marked = |times: &[f64], what: What| times.iter().map(|t| (*t, what)).collect::<Vec<_>>();
        let mut events = marked(&piece.beats, What::Beat);
        events.extend(marked(&piece.downbeats, What::Downbeat));
        events.extend(marked(&piece.notes, What::Note));
        events.extend(piece.struck.iter().filter(|hit| hit.level > SOFT).map(|hit| {
            let what = match hit.voice {
                Voice::Kick => What::Low,
                Voice::Snare | Voice::Tom | Voice::Rim => What::Mid,
                Voice::Hat | Voice::Ring => What::High,
            };
            (hit.time, what)
        }));
        events.iter_mut().for_each(|(time, _)| *time -= from);
        events.retain(|(time, _)| *time >= 0.0);
        let start = ((from * RATE) as usize).min(piece.samples.len());
        if apart {
            Self::of(&[&piece.stems[0][start..], &piece.stems[1][start..]], events, true)
        } else {
            Self::of(&[&piece.samples[start..]], events, true)
        }
    }
}

/// The material of a seed: a piece of any style that is not held out, with instruments of the bank if there is one, or, this
/// often, something that is no music.
#[must_use]
pub fn material(bank: Option<&Bank>, seed: u64, seconds: f64, noises: f32) -> Material {
    let mut lot = Lot::new(seed ^ 0x1e55);
    if lot.chance(noises) {
        let kind = if lot.chance(TALK) { Noise::Speech } else { lot.pick(&Noise::ALL) };
        return Material::of(&[&noise(kind, seconds, seed)], Vec::new(), false);
    }
    // From anywhere in a piece, as one who comes in late hears it.
    let late = if lot.chance(0.5) { 0.0 } else { f64::from(lot.range(0.0, 12.0)) };
    let style = taught(&mut lot);
    Material::of_piece(&piece_with(bank, style, seconds + late, seed), late, lot.chance(APART))
}

/// A style that is not held out.
fn taught(lot: &mut Lot) -> &'static Style {
    let styles: Vec<_> = STYLES.iter().filter(|style| !style.held_out).collect();
    // The plainest is what one has to be surest of.
    if lot.chance(PLAIN) {
        styles[lot.below(2) * (styles.len() - 1)]
    } else if lot.chance(THREES) {
        lot.pick(&styles.into_iter().filter(|style| style.sub == 3 || style.bar == 3).collect::<Vec<_>>())
    } else {
        lot.pick(&styles)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{piece, style};

    #[test]
    fn what_is_kept_of_a_piece_begins_where_one_comes_in() {
        let made = piece(style::find("machine").expect("a style"), 12.0, 4);
        let [whole, late] = [0.0, 5.0].map(|from| Material::of_piece(&made, from, true));
        let beats = |material: &Material| {
            material.events.iter().filter(|(_, what)| *what == What::Beat).map(|(time, _)| *time).collect::<Vec<_>>()
        };
        assert_eq!(beats(&whole), made.beats);
        let expected: Vec<f64> = made.beats.iter().map(|beat| beat - 5.0).filter(|beat| *beat >= 0.0).collect();
        assert_eq!(beats(&late), expected);
        assert_eq!((whole.stems.len(), Material::of_piece(&made, 0.0, false).stems.len()), (2, 1));
        let seconds = |material: &Material| (material.stems[0].len() / BANDS_SHOWN * HOP) as f64 / RATE;
        assert!((seconds(&whole) - seconds(&late) - 5.0).abs() < 0.03);
        assert!(whole.music && whole.loudest > 0.0);
    }

    #[test]
    fn nothing_that_is_held_out_is_taught_and_threes_are_a_quarter_or_more() {
        let mut lot = Lot::new(12);
        let taught: Vec<_> = (0..600).map(|_| taught(&mut lot)).collect();
        assert!(taught.iter().all(|style| !style.held_out));
        let threes = taught.iter().filter(|style| style.sub == 3 || style.bar == 3).count();
        assert!((120..300).contains(&threes), "{threes}");
    }

    #[test]
    fn some_of_it_is_no_music_and_the_same_seed_gives_the_same() {
        let few: Vec<Material> = (0..40).map(|seed| material(None, seed, 1.0, 0.1)).collect();
        let noises = few.iter().filter(|material| !material.music).count();
        assert!((1..12).contains(&noises), "{noises}");
        assert!(few.iter().filter(|m| !m.music).all(|material| material.events.is_empty()));
        assert_eq!(material(None, 3, 1.0, 0.1).stems, few[3].stems);
    }
}
