//! How well what was heard fits the truth.

use splimo_corpus::measure::{after, continuity, f_measure, f_measure_of_some};
use splimo_corpus::{Piece, RATE, Voice};

use crate::heard::{Heard, hear};

/// Seconds that the hearing has to find the beat.
const SETTLED: f64 = 5.0;
/// Fewer hits than this are too few to tell how well they are heard.
const FEW: usize = 8;
/// How late a change of the chord may be told, in seconds.
const CHORD_LATE: f64 = 0.5;
/// What is told where the beat is not found at all, in seconds.
const NEVER: f64 = 40.0;

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

/// How well changes of the chord are heard: each may be up to [`CHORD_LATE`] late.
fn chords(piece: &Piece, heard: &Heard) -> f64 {
    let asked = after(&piece.chords, SETTLED);
    if asked.len() < FEW {
        return f64::NAN;
    }
    let found: Vec<f64> = after(&heard.chords, SETTLED).iter().map(|time| time - CHORD_LATE / 2.0).collect();
    f_measure(&asked, &found, CHORD_LATE / 2.0 + 0.05)
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

/// How well it was heard.
#[derive(Default, Clone, Copy)]
pub(crate) struct Score {
    pub(crate) beat: f64,
    pub(crate) offbeat: f64,
    pub(crate) downbeat: f64,
    pub(crate) continuity: f64,
    pub(crate) tempo: f64,
    pub(crate) octave: f64,
    pub(crate) lock: f64,
    pub(crate) bias: f64,
    /// Kicks, snares, hats, and anything.
    pub(crate) hits: [f64; 4],
    /// Onsets at once, and those of the drums without the rest: made sure of, and at once.
    pub(crate) onsets: [f64; 3],
    /// The share of the parts that were heard, and how late.
    pub(crate) parts: [f64; 2],
    /// Whether the key is right at the end.
    pub(crate) key: f64,
    /// How well changes of the chord are heard.
    pub(crate) chords: f64,
}

/// Scores what was heard of a piece.
pub(crate) fn score(piece: &Piece, heard: &Heard, weights: &[Vec<f32>]) -> Score {
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
    let lock = (0..80).map(|i| f64::from(i) * 0.5).find(|from| locked(*from)).unwrap_or(NEVER);
    let struck = |voices: &[Voice]| {
        let hits = piece.struck.iter().filter(|hit| hit.level > 0.22 && voices.contains(&hit.voice));
        let mut times: Vec<f64> = hits.map(|hit| hit.time).collect();
        times.dedup_by(|a, b| *a - *b < 0.03);
        times
    };
    let mut any = struck(&[Voice::Kick, Voice::Snare, Voice::Hat, Voice::Ring, Voice::Tom, Voice::Rim]);
    let alone = if piece.stems[0].is_empty() || any.len() < FEW {
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
    // A recording whose notes nobody wrote down.
    let of_any = |found: &[f64]| if any.is_empty() { f64::NAN } else { f_measure(&any, found, 0.05) };
    let kinds: [&[Voice]; 3] = [&[Voice::Kick], &[Voice::Snare, Voice::Tom, Voice::Rim], &[Voice::Hat, Voice::Ring]];
    // Where there are hardly any of a kind nothing is said of how well they are told.
    let hit = |kind: usize| match struck(kinds[kind]) {
        few if few.len() < FEW => f64::NAN,
        truth => f_measure(&truth, &heard.hits[kind], 0.05),
    };
    Score {
        parts: parts(piece, heard),
        // Nobody knows that of a recording.
        key: if piece.notes.is_empty() {
            f64::NAN
        } else {
            f64::from(u8::from(piece.key == (usize::from(heard.key.tonic), heard.key.minor)))
        },
        chords: chords(piece, heard),
        onsets: [of_any(&heard.early), alone[0], alone[1]],
        hits: [hit(0), hit(1), hit(2), of_any(&heard.onsets)],
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

/// The mean of what is known, or a dash where nothing is.
fn known(scores: &[Score], part: fn(&Score) -> f64) -> String {
    let known: Vec<f64> = scores.iter().map(part).filter(|part| !part.is_nan()).collect();
    match known.len() {
        0 => "-".to_owned(),
        count => format!("{:.2}", known.iter().sum::<f64>() / count as f64),
    }
}

/// How far the mean of some numbers may well be from that of all there could be: its standard error.
fn error(numbers: impl Iterator<Item = f64> + Clone) -> f64 {
    let count = numbers.clone().count() as f64;
    let mean = numbers.clone().sum::<f64>() / count;
    let spread = numbers.map(|number| (number - mean).powi(2)).sum::<f64>() / (count - 1.0).max(1.0);
    (spread / count).sqrt()
}

/// A line of a table: the means of some scores, and how far that of beats may well be off.
pub(crate) fn print(name: &str, scores: &[Score]) {
    let mean = |part: fn(&Score) -> f64| scores.iter().map(part).sum::<f64>() / scores.len() as f64;
    let known = |part: fn(&Score) -> f64| known(scores, part);
    let least = scores.iter().map(|s| s.beat).fold(1.0, f64::min);
    println!(
        "{name:30} beat {:.3} ±{:.3} (least {least:.2}) off {:.2} down {} cont {:.2} tempo {:.2} oct {:.2} lock {:4.1} bias {:+.1} ms",
        mean(|s| s.beat),
        error(scores.iter().map(|s| s.beat)),
        mean(|s| s.offbeat),
        known(|s| s.downbeat),
        mean(|s| s.continuity),
        mean(|s| s.tempo),
        mean(|s| s.octave),
        mean(|s| s.lock),
        1000.0 * mean(|s| s.bias),
    );
    println!(
        "{:30} kick {} snare {} hat {} any {} (early {}) drums {} (early {}) parts {} after {} s key {} chords {}",
        "",
        known(|s| s.hits[0]),
        known(|s| s.hits[1]),
        known(|s| s.hits[2]),
        known(|s| s.hits[3]),
        known(|s| s.onsets[0]),
        known(|s| s.onsets[1]),
        known(|s| s.onsets[2]),
        known(|s| s.parts[0]),
        known(|s| s.parts[1]),
        known(|s| s.key),
        known(|s| s.chords)
    );
}
