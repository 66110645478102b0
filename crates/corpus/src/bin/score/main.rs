//! Scores the hearing on made music, style by style: `cargo run --release -p splimo-corpus --bin score -- [WEIGHTS,WEIGHTS]
//! [--seeds N] [--aimed] [--styles NAME,NAME]`; without weights with those that are shipped, with `--aimed` on the styles alone
//! that have aims, with `--styles` on those named. Pieces of a style differ widely: behind the mean of beats stands its standard
//! error, and only many seeds make that small.
//! With `--folder DIR` on recordings of one's own instead: each `x.wav` (16 bits, mono, 48 kHz) beside an `x.beats` that
//! has a line for each beat, its seconds and, where a bar begins, a 1 behind them.

mod folder;
mod heard;
mod scores;

use std::io;
use std::path::Path;

use rayon::prelude::*;
use splimo_corpus::noises::{Noise, noise};
use splimo_corpus::style::{AIMED, Form, STYLES, Style};
use splimo_corpus::{options, piece, style};
use splimo_hear::network::Shape;

use folder::score_folder;
use heard::hear;
use scores::{Score, print, score};

const SECONDS: f64 = 40.0;
/// The same where parts follow one another as in a club.
const LONG: f64 = 150.0;

/// The styles that are named, if any are.
fn named() -> io::Result<Option<Vec<String>>> {
    let Some(text) = options::text("--styles") else { return Ok(None) };
    let names: Vec<String> = text.split(',').map(|name| name.trim().to_owned()).collect();
    match names.iter().find(|name| style::find(name).is_none()) {
        Some(name) => {
            let all: Vec<&str> = STYLES.iter().map(|style| style.name).collect();
            Err(io::Error::new(io::ErrorKind::InvalidInput, format!("no style is called {name}: {}", all.join(", "))))
        }
        None => Ok(Some(names)),
    }
}

fn main() -> io::Result<()> {
    let seeds = options::number("--seeds", 6);
    let paths = options::first().unwrap_or_default();
    let read = |path: &str| -> io::Result<Vec<f32>> {
        let bytes = std::fs::read(path)?;
        if !bytes.len().is_multiple_of(4) || Shape::of(bytes.len() / 4).is_none() {
            let why = format!("{path}: {} bytes, and no network has as many weights", bytes.len());
            return Err(io::Error::new(io::ErrorKind::InvalidData, why));
        }
        Ok(bytes.as_chunks::<4>().0.iter().map(|bytes| f32::from_le_bytes(*bytes)).collect())
    };
    let weights: Vec<Vec<f32>> =
        paths.split(',').filter(|path| !path.is_empty()).map(read).collect::<io::Result<_>>()?;
    if let Some(folder) = options::text("--folder") {
        return score_folder(Path::new(&folder), &weights);
    }
    let mut all = [Vec::new(), Vec::new()];
    let mut aimed = Vec::new();
    let (only_aimed, named) = (options::given("--aimed"), named()?);
    let chosen = |style: &Style| match &named {
        Some(names) => names.iter().any(|name| name == style.name),
        None => !only_aimed || AIMED.contains(&style.name),
    };
    for (index, style) in STYLES.iter().enumerate().filter(|(_, style)| chosen(style)) {
        // A seed of its own for each: pieces of the same seed are much alike, whatever their style.
        let first = 500_000 + 1000 * index as u64;
        let one = |seed: usize, style: &Style| {
            let seconds = if style.form == Form::Free { SECONDS } else { LONG };
            let made = piece(style, seconds, first + seed as u64);
            score(&made, &hear(&made.samples, &weights), &weights)
        };
        let scores: Vec<Score> = (0..seeds).into_par_iter().map(|seed| one(seed, style)).collect();
        print(&format!("{}{}", if style.held_out { "* " } else { "" }, style.name), &scores);
        if AIMED.contains(&style.name) {
            aimed.extend_from_slice(&scores);
        }
        all[usize::from(style.held_out)].extend(scores);
    }
    if !aimed.is_empty() {
        print("those aimed at", &aimed);
    }
    if only_aimed || named.is_some() {
        return Ok(());
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
