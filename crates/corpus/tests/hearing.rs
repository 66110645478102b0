//! The hearing against made music of which the truth is known, and against what is no music.

use splimo_corpus::measure::{after, f_measure};
use splimo_corpus::noises::{Noise, noise};
use splimo_corpus::{Piece, piece, style};
use splimo_hear::strike::Striker;
use splimo_hear::{HOP, Listener};

const SECONDS: f64 = 30.0;
const SETTLED: f64 = 8.0;

struct Heard {
    beats: Vec<f64>,
    firsts: Vec<f64>,
    onsets: Vec<f64>,
    bpm: f64,
    confidence: f32,
}

fn hear(samples: &[f32]) -> Heard {
    let (mut listener, mut striker) = (Listener::default(), Striker::default());
    let mut heard = Heard { beats: Vec::new(), firsts: Vec::new(), onsets: Vec::new(), bpm: 0.0, confidence: 0.0 };
    let mut onsets = 0;
    for hop in samples.as_chunks::<HOP>().0 {
        listener.listen(hop, |_| {});
        let now = listener.hearing();
        if let Some(strike) = striker.hop(now) {
            heard.beats.push(strike.time);
            heard.firsts.extend(strike.first.then_some(strike.time));
        }
        let mark = listener.mark();
        if mark.count > onsets {
            heard.onsets.push(mark.time);
            onsets = mark.count;
        }
        let now = listener.hearing();
        (heard.bpm, heard.confidence) = (f64::from(now.tempo_bpm), now.confidence);
    }
    heard
}

fn beats_of(made: &Piece, heard: &Heard) -> f64 {
    f_measure(&after(&made.beats, SETTLED), &after(&heard.beats, SETTLED), 0.07)
}

fn made(name: &str, seed: u64) -> Piece {
    piece(style::find(name).expect("a style"), SECONDS, seed)
}

/// Two pieces of each of these styles, from a seed on, with what they are called.
fn pieces(names: &[&str], seed: u64) -> Vec<(String, Piece)> {
    let seeds = names.iter().flat_map(|name| (seed..seed + 2).map(move |seed| (*name, seed)));
    seeds.map(|(name, seed)| (format!("{name} {seed}"), made(name, seed))).collect()
}

#[test]
fn the_same_seed_makes_the_same_piece() {
    let (one, two) = (made("funk", 5), made("funk", 5));
    assert!(one.samples == two.samples && one.beats == two.beats && one.samples != made("funk", 6).samples);
    assert!(one.beats.windows(2).all(|pair| pair[1] > pair[0]) && one.samples.iter().all(|s| s.abs() <= 1.0));
}

#[test]
fn most_pieces_of_usual_styles_are_followed_beat_by_beat() {
    let pieces = pieces(&["backbeat", "funk", "club set", "bend", "hands"], 610_000);
    let scores: Vec<(f64, String)> = pieces
        .iter()
        .map(|(name, made)| {
            let score = beats_of(made, &hear(&made.samples));
            (score, format!("{name}: {score:.2}"))
        })
        .collect();
    let told = || scores.iter().map(|(_, words)| words.as_str()).collect::<Vec<_>>().join(", ");
    let mean = scores.iter().map(|(score, _)| score).sum::<f64>() / scores.len() as f64;
    assert!(mean > 0.85, "{}", told());
    assert!(scores.iter().filter(|(score, _)| *score > 0.9).count() >= 7, "{}", told());
}

#[test]
fn where_drums_and_chords_say_so_bars_begin_where_they_do() {
    let pieces = pieces(&["backbeat", "rock", "disco", "march"], 620_000);
    let scores: Vec<(f64, String)> = pieces
        .iter()
        .map(|(name, made)| {
            let heard = hear(&made.samples);
            let score = f_measure(&after(&made.downbeats, 12.0), &after(&heard.firsts, 12.0), 0.07);
            (score, format!("{name}: {score:.2}"))
        })
        .collect();
    let told = || scores.iter().map(|(_, words)| words.as_str()).collect::<Vec<_>>().join(", ");
    let mean = scores.iter().map(|(score, _)| score).sum::<f64>() / scores.len() as f64;
    // Where the bar were guessed, a quarter would be right.
    assert!(mean > 0.6, "{}", told());
}

#[test]
fn the_tempo_of_a_machine_is_known_to_less_than_a_percent() {
    for seed in [620_001, 620_002, 620_003] {
        let made = made("club set", seed);
        let heard = hear(&made.samples);
        let truly = 60.0 / (made.beats[made.beats.len() - 1] - made.beats[made.beats.len() - 2]);
        let steady = made.beats.windows(3).all(|b| ((b[2] - b[1]) / (b[1] - b[0]) - 1.0).abs() < 1e-6);
        if steady && heard.confidence > 0.5 {
            let factor = (heard.bpm / truly).log2().round().exp2();
            assert!((heard.bpm / (truly * factor) - 1.0).abs() < 0.01, "{seed}: {} and {truly}", heard.bpm);
        }
    }
}

#[test]
fn the_key_of_most_pieces_is_told() {
    let pieces = pieces(&["backbeat", "rock", "combo", "no drums", "disco"], 660_000);
    let told: Vec<(bool, String)> = pieces
        .iter()
        .map(|(name, made)| {
            let mut listener = Listener::default();
            listener.listen(&made.samples, |_| {});
            let key = listener.hearing().key;
            let right = made.key == (usize::from(key.tonic), key.minor);
            (right, format!("{name}: {:?} heard as {key}", made.key))
        })
        .collect();
    // By chance it would be one of 24.
    let right = told.iter().filter(|(right, _)| *right).count();
    assert!(right >= 6, "{told:?}");
}

#[test]
fn hits_are_heard_where_they_were_struck() {
    let mut mean = 0.0;
    for seed in [630_000, 630_001, 630_002] {
        let made = made("club set", seed);
        let heard = hear(&made.samples);
        let mut truth: Vec<f64> = made.struck.iter().filter(|hit| hit.level > 0.22).map(|hit| hit.time).collect();
        truth.extend(&made.notes);
        truth.sort_by(f64::total_cmp);
        truth.dedup_by(|a, b| *a - *b < 0.03);
        mean += f_measure(&truth, &heard.onsets, 0.05) / 3.0;
    }
    assert!(mean > 0.75, "{mean}");
}

/// The parts that are told of a piece, and when.
fn parts_of(made: &Piece) -> Vec<(f64, &'static str)> {
    let mut listener = Listener::default();
    let mut told = vec![(0.0, "intro")];
    for hop in made.samples.as_chunks::<HOP>().0 {
        listener.listen(hop, |_| {});
        let (now, name) = (listener.hearing().time, listener.hearing().section.name());
        if told[told.len() - 1].1 != name {
            told.push((now, name));
        }
    }
    told
}

#[test]
fn builds_drops_and_breakdowns_of_tracks_are_told_soon_and_few_that_do_not_come() {
    // How long after its start a part may be told, and a little before.
    const SOON: std::ops::Range<f64> = -2.5..8.0;
    let style = style::find("club set").expect("a style");
    let (mut come, mut found, mut told, mut right) = (0, 0, 0, 0);
    let mut words = Vec::new();
    for seed in 650_000..650_008 {
        let made = piece(style, 110.0, seed);
        let heard = parts_of(&made);
        let soon =
            |(start, kind): &(f64, &str), (when, name): &(f64, &str)| kind == name && SOON.contains(&(when - start));
        let truth: Vec<_> = made.sections.iter().filter(|(start, _)| (1.0..104.0).contains(start)).collect();
        come += truth.len();
        found += truth.iter().filter(|part| heard.iter().any(|one| soon(part, one))).count();
        told += heard.len() - 1;
        right += heard[1..].iter().filter(|one| made.sections.iter().any(|part| soon(part, one))).count();
        words.push(format!("{seed}: {:.0?}, told {heard:.0?}", made.sections));
    }
    assert!(come >= 24 && found * 3 >= come * 2, "{found} of {come}: {}", words.join("; "));
    assert!(right * 2 >= told, "{right} of {told}: {}", words.join("; "));
}

#[test]
fn what_is_no_music_has_no_beat() {
    for kind in Noise::ALL {
        // Two times half a minute.
        let beats: usize = [640_000, 640_001].map(|seed| hear(&noise(kind, SECONDS, seed)).beats.len()).iter().sum();
        // Chords that beat, crowds and knocks may have a pulse for a while; of the others two a minute are forgiven.
        let most = if matches!(kind, Noise::Crowd | Noise::Drone | Noise::Knocks) { 12 } else { 2 };
        assert!(beats <= most, "{kind:?}: {beats} beats in a minute");
    }
}
