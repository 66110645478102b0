//! Recordings of one's own, in a folder.

use std::io;
use std::path::{Path, PathBuf};

use rayon::prelude::*;
use splimo_corpus::Piece;

use crate::heard::hear;
use crate::scores::{Score, print, score};

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

/// Scores the recordings of a folder, the worst first.
pub(crate) fn score_folder(folder: &Path, weights: &[Vec<f32>]) -> io::Result<()> {
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
