//! Finds the weights by which the hearing tells first beats of bars, on made music, with the networks that are shipped:
//! `cargo run --release -p splimo-corpus --bin bars -- [WEIGHTS] [--pieces N] [--seed N] [--bank FILE,FILE]`.

use rayon::prelude::*;
use splimo_corpus::learn::{Example, examples, fit};
use splimo_corpus::style::STYLES;
use splimo_corpus::{Bank, options, piece_with};

/// Seconds of a piece.
const SECONDS: f64 = 45.0;

fn main() -> std::io::Result<()> {
    let path = options::first().unwrap_or_else(|| "crates/hear/data/bars.weights".to_owned());
    let banks = Bank::open_all(&options::text("--bank").unwrap_or_default())?;
    let styles: Vec<_> = STYLES.iter().filter(|style| !style.held_out).collect();
    let (count, seed) = (options::number("--pieces", 400), options::number("--seed", 1));
    let of_piece = |index: usize| {
        let bank = if banks.is_empty() { None } else { banks.get(index % banks.len()) };
        let seed = (seed * 1_000_003 + index) as u64;
        examples(&piece_with(bank, styles[index % styles.len()], SECONDS, seed))
    };
    let pieces: Vec<Vec<Example>> = (0..count).into_par_iter().map(of_piece).collect();
    let found = pieces.iter().filter(|examples| !examples.is_empty()).count();
    let all: Vec<Example> = pieces.into_iter().flatten().collect();
    let weights = fit(&all);
    let right = |example: &&Example| {
        let told = weights.told(&example.clues);
        told.iter().all(|other| *other <= told[example.kind])
    };
    let right = all.iter().filter(right).count();
    eprintln!("{} beats of {found} in {count} pieces; {right} are told as what they are", all.len());
    let numbers = weights.weights.iter().chain([&weights.often]).flatten();
    std::fs::write(path, numbers.flat_map(|number| number.to_le_bytes()).collect::<Vec<u8>>())
}
