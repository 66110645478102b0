//! Scores the hearing on made music, style by style: `cargo run --release -p splimo-corpus --bin score -- WEIGHTS [--seeds N]`.
//! With `--folder DIR` on recordings of one's own instead: each `x.wav` (16 bits, mono, 48 kHz) beside an `x.beats` that
//! has a line for each beat, its seconds and, where a bar begins, a 1 behind them.

use std::io;
use std::path::{Path, PathBuf};

use rayon::prelude::*;
use splimo_core::music::Hearing;
use splimo_corpus::measure::{after, continuity, f_measure, f_measure_of_some};
use splimo_corpus::noises::{Noise, noise};
use splimo_corpus::style::{Form, STYLES, Style};
use splimo_corpus::{Piece, RATE, Voice, piece};
use splimo_hear::hits::HIT_AGO;
use splimo_hear::network::Network;
use splimo_hear::onset::ONSET_AGO;
use splimo_hear::strike::Striker;
use splimo_hear::{Ears, HOP, Listener};

const SECONDS: f64 = 40.0;
/// The same where parts follow one another as in a club.
const LONG: f64 = 150.0;
const SETTLED: f64 = 5.0;

fn option(name: &str, usual: usize) -> usize {
    let mut arguments = std::env::args().skip_while(|a| a != name).skip(1);
    arguments.next().and_then(|text| text.parse().ok()).unwrap_or(usual)
}

/// What was heard.
struct Heard {
    beats: Vec<f64>,
    downbeats: Vec<f64>,
    /// Onsets of low, middle and high drums, and of anything.
    hits: [Vec<f64>; 3],
    onsets: Vec<f64>,
    /// The same, without being made sure of.
    early: Vec<f64>,
    bpm: f32,
    /// Which part it was from when on.
    parts: Vec<(f64, &'static str)>,
}

fn hear(samples: &[f32], weights: &[f32]) -> Heard {
    let network = Network::of(weights.to_vec()).unwrap_or_default();
    let mut listener = Listener::with(Ears::default(), network);
    let mut striker = Striker::default();
    let mut heard = Heard {
        beats: vec![],
        downbeats: vec![],
        hits: Default::default(),
        onsets: vec![],
        early: vec![],
        bpm: 0.0,
        parts: vec![(0.0, last_part(Listener::default().hearing()))],
    };
    let mut last = *listener.hearing();
    for hop in samples.as_chunks::<HOP>().0 {
        listener.listen(hop, |_| {});
        let now = *listener.hearing();
        if let Some(strike) = striker.hop(&now) {
            heard.beats.push(strike.time);
            if strike.first {
                heard.downbeats.push(strike.time);
            }
        }
        for (kind, times) in heard.hits.iter_mut().enumerate() {
            if now.hits[kind] > last.hits[kind] {
                times.push(now.time - HIT_AGO);
            }
        }
        if listener.mark().count > heard.onsets.len() as u64 {
            heard.onsets.push(listener.mark().time);
        }
        if now.onsets > last.onsets {
            heard.early.push(now.time - ONSET_AGO);
        }
        if last_part(&now) != last_part(&last) {
            heard.parts.push((now.time, last_part(&now)));
        }
        if now.tempo_bpm > 0.0 {
            heard.bpm = now.tempo_bpm;
        }
        last = now;
    }
    heard
}

fn last_part(hearing: &Hearing) -> &'static str {
    hearing.section.name()
}

/// The share of the parts of a piece that were heard while they went on, and how many seconds that took.
fn parts(piece: &Piece, heard: &Heard) -> [f64; 2] {
    if piece.sections.iter().all(|part| part.1 == "drop") {
        return [f64::NAN; 2];
    }
    let ends = piece.sections.iter().skip(1).map(|part| part.0).chain([piece.samples.len() as f64 / RATE]);
    let found = piece.sections.iter().zip(ends).map(|(&(start, kind), end)| {
        // What was heard a moment too early was heard at once.
        let ends = heard.parts.iter().skip(1).map(|part| part.0).chain([end]);
        let fits = |((told, heard), until): (&(f64, &str), f64)| {
            (*heard == kind && *told < end && until > start + 1.0).then_some((told - start).max(0.0))
        };
        heard.parts.iter().zip(ends).find_map(fits)
    });
    let found: Vec<Option<f64>> = found.collect();
    let delays: Vec<f64> = found.iter().flatten().copied().collect();
    let mean = if delays.is_empty() { f64::NAN } else { delays.iter().sum::<f64>() / delays.len() as f64 };
    [delays.len() as f64 / found.len() as f64, mean]
}

/// Whether one can hear that something sets in: in some part of the range of hearing it becomes louder by half at once. Hits
/// that others cover are not asked for.
fn stands_out(samples: &[f32], time: f64) -> bool {
    const WINDOW: usize = 1_440;
    let from = (time * RATE) as usize;
    let power = |start: usize, step: usize| {
        let part = &samples[start.min(samples.len())..(start + WINDOW).min(samples.len())];
        part.windows(step + 1).map(|pair| (pair[step] - pair[0]).powi(2)).sum::<f32>()
    };
    // Differences over few samples are of what is high, over many of all.
    [1, 6, 40].into_iter().any(|step| power(from, step) > 2.2 * power(from.saturating_sub(WINDOW), step) + 1e-6)
}

#[derive(Default, Clone, Copy)]
struct Score {
    beat: f64,
    offbeat: f64,
    downbeat: f64,
    continuity: f64,
    tempo: f64,
    octave: f64,
    lock: f64,
    bias: f64,
    /// Kicks, snares, hats, and anything.
    hits: [f64; 4],
    /// Onsets at once, and those of the drums without the rest: made sure of, and at once.
    onsets: [f64; 3],
    /// The share of the parts that were heard, and how late.
    parts: [f64; 2],
}

fn score(piece: &Piece, heard: &Heard, weights: &[f32]) -> Score {
    let Heard { beats, downbeats, bpm, .. } = heard;
    let truth = after(&piece.beats, SETTLED);
    let found = after(beats, SETTLED);
    let beat = f_measure(&truth, &found, 0.07);
    let shifted: Vec<f64> = truth.windows(2).map(|pair| (pair[0] + pair[1]) / 2.0).collect();
    let near: Vec<f64> = found
        .iter()
        .filter_map(|b| {
            truth.iter().map(|t| b - t).filter(|d| d.abs() < 0.07).min_by(|a, b| a.abs().total_cmp(&b.abs()))
        })
        .collect();
    let last = &piece.beats[piece.beats.len().saturating_sub(9)..];
    let truly = 60.0 * (last.len() - 1) as f64 / (last[last.len() - 1] - last[0]);
    let off = |factor: f64| (f64::from(*bpm) / (truly * factor) - 1.0).abs() < 0.04;
    let locked = |from: f64| {
        let (t, f) = (after(&piece.beats, from), after(beats, from));
        let until = |list: &[f64]| list.iter().copied().filter(|b| *b < from + 4.0).collect::<Vec<_>>();
        f_measure(&until(&t), &until(&f), 0.07) > 0.9
    };
    let lock = (0..80).map(|i| f64::from(i) * 0.5).find(|from| locked(*from)).unwrap_or(SECONDS);
    let struck = |voices: &[Voice]| {
        let hits = piece.struck.iter().filter(|hit| hit.level > 0.22 && voices.contains(&hit.voice));
        let mut times: Vec<f64> = hits.map(|hit| hit.time).collect();
        times.dedup_by(|a, b| *a - *b < 0.03);
        times
    };
    let mut any = struck(&[Voice::Kick, Voice::Snare, Voice::Hat, Voice::Ring, Voice::Tom, Voice::Rim]);
    let alone = if piece.stems[0].is_empty() || any.len() < 8 {
        [f64::NAN; 2]
    } else {
        let most = piece.stems[0].iter().fold(1e-6f32, |most, sample| most.max(sample.abs()));
        let stem: Vec<f32> = piece.stems[0].iter().map(|sample| 0.8 * sample / most).collect();
        let heard = hear(&stem, weights);
        let there: Vec<f64> = piece.struck.iter().map(|hit| hit.time).collect();
        let mut asked: Vec<f64> = there.iter().copied().filter(|time| stands_out(&stem, *time)).collect();
        asked.dedup_by(|a, b| *a - *b < 0.03);
        [&heard.onsets, &heard.early].map(|found| f_measure_of_some(&asked, &there, found, 0.05))
    };
    any.extend(&piece.notes);
    any.sort_by(f64::total_cmp);
    any.dedup_by(|a, b| *a - *b < 0.03);
    let kinds: [&[Voice]; 3] = [&[Voice::Kick], &[Voice::Snare, Voice::Tom, Voice::Rim], &[Voice::Hat, Voice::Ring]];
    let hit = |kind: usize| f_measure(&struck(kinds[kind]), &heard.hits[kind], 0.05);
    Score {
        parts: parts(piece, heard),
        onsets: [f_measure(&any, &heard.early, 0.05), alone[0], alone[1]],
        hits: [hit(0), hit(1), hit(2), f_measure(&any, &heard.onsets, 0.05)],
        beat,
        offbeat: f_measure(&shifted, &found, 0.07),
        downbeat: match piece.downbeats.len() {
            // Nobody says where bars begin.
            0 => f64::NAN,
            _ => f_measure(&after(&piece.downbeats, SETTLED), &after(downbeats, SETTLED), 0.07),
        },
        continuity: continuity(&truth, &found, 0.175),
        tempo: f64::from(u8::from(off(1.0))),
        octave: f64::from(u8::from([1.0, 2.0, 0.5, 3.0, 1.0 / 3.0, 1.5, 2.0 / 3.0].into_iter().any(off))),
        lock,
        bias: if near.is_empty() { 0.0 } else { near.iter().sum::<f64>() / near.len() as f64 },
    }
}

/// A recording of a folder, as if it were a piece.
fn recording(path: &Path) -> io::Result<Piece> {
    let bytes = std::fs::read(path)?;
    let samples = bytes[44.min(bytes.len())..].as_chunks::<2>().0.iter();
    let samples: Vec<f32> = samples.map(|pair| f32::from(i16::from_le_bytes(*pair)) / 32_768.0).collect();
    let (mut beats, mut downbeats) = (Vec::new(), Vec::new());
    for line in std::fs::read_to_string(path.with_extension("beats"))?.lines() {
        let mut words = line.split_whitespace();
        let Some(time) = words.next().and_then(|word| word.parse().ok()) else { continue };
        beats.push(time);
        if words.next() == Some("1") {
            downbeats.push(time);
        }
    }
    Ok(Piece { samples, beats, downbeats, ..Piece::default() })
}

fn score_folder(folder: &Path, weights: &[f32]) -> io::Result<()> {
    let entries = std::fs::read_dir(folder)?.filter_map(|entry| entry.ok().map(|entry| entry.path()));
    let mut paths: Vec<PathBuf> = entries.filter(|path| path.extension().is_some_and(|e| e == "wav")).collect();
    paths.sort();
    let one = |path: &PathBuf| {
        let piece = recording(path)?;
        let heard = hear(&piece.samples, weights);
        let bpm = 60.0 * (piece.beats.len() - 1) as f64 / (piece.beats[piece.beats.len() - 1] - piece.beats[0]);
        let name = path.file_stem().unwrap_or_default().to_string_lossy().into_owned();
        Ok((format!("{name} {bpm:.0}:{:.0}", heard.bpm), score(&piece, &heard, weights)))
    };
    let mut scores: Vec<(String, Score)> = paths.par_iter().map(one).collect::<io::Result<_>>()?;
    scores.sort_by(|a, b| a.1.beat.total_cmp(&b.1.beat));
    scores.iter().for_each(|(name, score)| print(name, &[*score]));
    let barred: Vec<Score> = scores.iter().map(|(_, score)| *score).filter(|score| !score.downbeat.is_nan()).collect();
    print("all", &scores.iter().map(|(_, score)| *score).collect::<Vec<_>>());
    print("those with bars", &barred);
    Ok(())
}

fn print(name: &str, scores: &[Score]) {
    let mean = |part: fn(&Score) -> f64| scores.iter().map(part).sum::<f64>() / scores.len() as f64;
    let known = |part: fn(&Score) -> f64| {
        let known: Vec<f64> = scores.iter().map(part).filter(|part| !part.is_nan()).collect();
        known.iter().sum::<f64>() / known.len().max(1) as f64
    };
    let least = scores.iter().map(|s| s.beat).fold(1.0, f64::min);
    println!(
        "{name:30} beat {:.3} (least {least:.2}) off {:.2} down {:.3} cont {:.2} tempo {:.2} oct {:.2} lock {:4.1} bias {:+.1} ms  kick {:.2} snare {:.2} hat {:.2} any {:.2} (early {:.2}) drums {:.2} (early {:.2})  parts {:.2} after {:.1} s",
        mean(|s| s.beat),
        mean(|s| s.offbeat),
        mean(|s| s.downbeat),
        mean(|s| s.continuity),
        mean(|s| s.tempo),
        mean(|s| s.octave),
        mean(|s| s.lock),
        1000.0 * mean(|s| s.bias),
        mean(|s| s.hits[0]),
        mean(|s| s.hits[1]),
        mean(|s| s.hits[2]),
        mean(|s| s.hits[3]),
        known(|s| s.onsets[0]),
        known(|s| s.onsets[1]),
        known(|s| s.onsets[2]),
        known(|s| s.parts[0]),
        known(|s| s.parts[1])
    );
}

fn main() -> io::Result<()> {
    let seeds = option("--seeds", 6);
    let path = std::env::args().nth(1).unwrap_or_else(|| "crates/hear/data/network.weights".to_owned());
    let weights: Vec<f32> =
        std::fs::read(path)?.as_chunks::<4>().0.iter().map(|bytes| f32::from_le_bytes(*bytes)).collect();
    if let Some(folder) = std::env::args().skip_while(|a| a != "--folder").nth(1) {
        return score_folder(Path::new(&folder), &weights);
    }
    let mut all = [Vec::new(), Vec::new()];
    for style in STYLES {
        let one = |seed: usize, style: &Style| {
            let seconds = if style.form == Form::Free { SECONDS } else { LONG };
            let made = piece(style, seconds, 500_000 + seed as u64);
            score(&made, &hear(&made.samples, &weights), &weights)
        };
        let scores: Vec<Score> = (0..seeds).into_par_iter().map(|seed| one(seed, style)).collect();
        print(&format!("{}{}", if style.held_out { "* " } else { "" }, style.name), &scores);
        all[usize::from(style.held_out)].extend(scores);
    }
    print("all known", &all[0]);
    print("all held out", &all[1]);
    for kind in Noise::ALL {
        let counts: Vec<f64> = (0..seeds.max(4) as u64)
            .into_par_iter()
            .map(|seed| hear(&noise(kind, SECONDS, 900_000 + seed), &weights).beats.len() as f64 * 60.0 / SECONDS)
            .collect();
        let music = counts.iter().sum::<f64>() / counts.len() as f64;
        println!("{kind:?} {music:.1} beats a minute, most {:.1}", counts.iter().copied().fold(0.0, f64::max));
    }
    Ok(())
}
