//! What is said of made music holds of what one hears of it: whoever is trained on a wrong truth learns it.

use std::sync::LazyLock;

use splimo_corpus::style::{Finish, Form, Moves, STYLES, Style};
use splimo_corpus::{Groove, Piece, RATE, Voice, piece};

const SECONDS: f64 = 12.0;

/// A piece of each style, made once for all tests.
static PIECES: LazyLock<Vec<Piece>> = LazyLock::new(|| STYLES.iter().map(|style| piece(style, SECONDS, 41)).collect());

fn every(of: impl FnMut((&Style, &Piece))) {
    STYLES.iter().zip(&*PIECES).for_each(of);
}

/// The loudest sample of some seconds around a time.
fn peak(samples: &[f32], from: f64, until: f64) -> f32 {
    let at = |time: f64| ((time.max(0.0) * RATE) as usize).min(samples.len());
    samples[at(from)..at(until)].iter().fold(0.0, |most, sample| most.max(sample.abs()))
}

#[test]
fn beats_are_as_fast_as_the_style_says_and_bars_as_long() {
    every(|(style, made)| {
        let gaps: Vec<f64> = made.beats.windows(2).map(|two| two[1] - two[0]).collect();
        let bpm = 60.0 * gaps.len() as f64 / gaps.iter().sum::<f64>();
        // Tempi that go elsewhere do so within these bounds.
        let bend =
            if matches!(style.moves, Moves::Ramp | Moves::Jump | Moves::Bend | Moves::Free) { 1.4 } else { 1.06 };
        let [least, most] = style.bpm.map(f64::from);
        assert!((least / bend..most * bend).contains(&bpm), "{}: {bpm}", style.name);
        assert!(made.beats.iter().all(|beat| (0.0..SECONDS).contains(beat)), "{}", style.name);
        let bars: Vec<f64> = made.beats.iter().copied().step_by(style.bar).collect();
        assert_eq!(made.downbeats, bars, "{}", style.name);
    });
}

#[test]
fn all_that_is_said_to_happen_happens_within_the_piece_and_in_order() {
    every(|(style, made)| {
        assert!((made.samples.len() as f64 / RATE - SECONDS).abs() < 0.01, "{}", style.name);
        assert!(made.samples.iter().all(|sample| sample.abs() <= 1.0), "{}", style.name);
        assert!(made.struck.windows(2).all(|two| two[0].time <= two[1].time), "{}", style.name);
        assert!(made.struck.iter().all(|hit| hit.time >= 0.0 && hit.time < SECONDS && hit.level > 0.0));
        assert!(made.notes.is_sorted(), "{}", style.name);
        assert!(made.sections.windows(2).all(|two| two[0].0 < two[1].0), "{}", style.name);
        assert!(made.key.0 < 12);
    });
}

#[test]
fn where_a_drum_is_struck_it_becomes_loud() {
    let (mut counted, mut hidden) = (0, Vec::new());
    // Few kicks stand alone in a piece.
    let seeds = 41..45u64;
    let mut look = |style: &Style, made: &Piece| {
        let drums = &made.stems[0];
        let all = peak(drums, 0.0, SECONDS);
        // Those that stand alone: what else sounds hides none of them, unless the one before still rings.
        for (index, hit) in made.struck.iter().enumerate() {
            let apart = |other: usize| made.struck.get(other).is_none_or(|o| (o.time - hit.time).abs() > 0.12);
            let alone = index > 0 && apart(index - 1) && apart(index + 1) && hit.time > 0.2 && hit.time < SECONDS - 0.2;
            if !alone || hit.voice != Voice::Kick || hit.level < 0.5 {
                continue;
            }
            let [before, after] =
                [peak(drums, hit.time - 0.03, hit.time - 0.005), peak(drums, hit.time - 0.002, hit.time + 0.05)];
            counted += 1;
            if after <= 1.3 * before || after <= 0.05 * all {
                hidden.push(format!("{} at {:.2}: {before} {after}", style.name, hit.time));
            }
        }
    };
    let with_drums = |style: &&Style| !style.grooves.contains(&Groove::None);
    for style in STYLES.iter().filter(with_drums) {
        seeds.clone().for_each(|seed| look(style, &piece(style, SECONDS, seed)));
    }
    assert!(counted > 60, "{counted} kicks stood alone");
    assert!(hidden.len() * 10 < counted, "of {counted}: {hidden:?}");
}

#[test]
fn the_drums_of_a_style_are_those_that_it_names() {
    let voices = |name: &str| {
        let style = splimo_corpus::style::find(name).expect("a style");
        (0..6).flat_map(|seed| piece(style, SECONDS, seed).struck).map(|hit| hit.voice).collect::<Vec<_>>()
    };
    assert!(voices("no drums").is_empty() && voices("strings").is_empty());
    for name in ["four on the floor", "heavy", "backbeat"] {
        let voices = voices(name);
        let kicks = voices.iter().filter(|voice| **voice == Voice::Kick).count();
        assert!(kicks > 40, "{name}: {kicks} of {}", voices.len());
    }
    assert!(voices("heavy").contains(&Voice::Snare));
}

#[test]
fn quiet_pieces_are_quiet_and_clipped_ones_are_clipped() {
    every(|(style, made)| {
        let loud = peak(&made.samples, 0.0, SECONDS);
        let clipped = made.samples.iter().filter(|sample| sample.abs() >= 1.0).count();
        match style.finish {
            Finish::Quiet => assert!(loud < 0.03, "{}: {loud}", style.name),
            Finish::Clipped => assert!(clipped > 200, "{}: {clipped}", style.name),
            Finish::Usual => assert!(loud > 0.05, "{}: {loud}", style.name),
        }
    });
}

#[test]
fn parts_follow_one_another_as_in_a_club() {
    let style = STYLES.iter().find(|style| style.form == Form::Club).expect("a style");
    let kinds = |made: &Piece| made.sections.iter().map(|(_, kind)| *kind).collect::<Vec<&str>>();
    let tracks: Vec<Piece> = (0..8).map(|seed| piece(style, 150.0, seed)).collect();
    // Some begin with all there is, most with less.
    let begun: Vec<&Piece> = tracks.iter().filter(|made| made.sections[0].1 == "intro").collect();
    assert!(begun.len() >= 4, "{:?}", tracks.iter().map(kinds).collect::<Vec<_>>());
    let made = begun.iter().find(|made| kinds(made).contains(&"breakdown")).expect("one that lets go");
    let kinds = kinds(made);
    assert!(kinds.contains(&"drop") && kinds.len() >= 4, "{kinds:?}");
    assert!(kinds.windows(2).all(|pair| pair[0] != pair[1]), "{kinds:?}");
    // Nobody kicks in a breakdown.
    let at = kinds.iter().position(|kind| *kind == "breakdown").expect("a breakdown");
    let [from, until] = [at, at + 1].map(|at| made.sections.get(at).map_or(150.0, |part| part.0));
    let kicks = made.struck.iter().filter(|hit| hit.voice == Voice::Kick);
    assert!(kicks.clone().count() > 40, "no kicks");
    assert!(kicks.into_iter().all(|hit| hit.time < from - 0.01 || hit.time > until - 0.6), "{from} to {until}");
}
