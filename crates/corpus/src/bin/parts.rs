//! Finds the weights by which the hearing tells the parts of a track, on made tracks, with the networks that are shipped:
//! `cargo run --release -p splimo-corpus --bin parts -- [WEIGHTS] [--tracks N] [--rounds N] [--seed N] [--bank FILE,FILE]`.

use rayon::prelude::*;
use splimo_corpus::learn::parts::{Track, begin, heard, study, together};
use splimo_corpus::style::{Form, STYLES, Style};
use splimo_corpus::{Bank, Groove, Lot, options, piece_with};

/// Seconds of a track.
const SECONDS: f64 = 165.0;
/// One of so many has a long breakdown instead of a form of its own.
const LONG: usize = 10;
/// How often somebody plays another track behind one.
const TOGETHER: f32 = 0.3;

fn main() -> std::io::Result<()> {
    let path = options::first().unwrap_or_else(|| "crates/hear/data/sections.weights".to_owned());
    let banks = Bank::open_all(&options::text("--bank").unwrap_or_default())?;
    let (count, rounds) = (options::number("--tracks", 400), options::number("--rounds", 80));
    let seed = options::number("--seed", 1) as u64;
    let drums = |style: &&Style| !style.held_out && !style.grooves.contains(&Groove::None);
    let styles: Vec<&Style> = STYLES.iter().filter(drums).collect();
    let of_track = |index: usize| {
        let bank = index.checked_rem(banks.len() + 1).and_then(|bank| banks.get(bank));
        let form = if index.is_multiple_of(LONG) { Form::Breakdown } else { Form::Club };
        let style = Style { form, ..*styles[index % styles.len()] };
        heard(&piece_with(bank, &style, SECONDS, seed * 1_000_003 + index as u64))
    };
    let single: Vec<Track> = (0..count).into_par_iter().map(of_track).collect();
    let mut lot = Lot::new(seed);
    let next = |index: usize| &single[(index + 1) % count];
    let mut tracks = Vec::with_capacity(count);
    for (index, track) in single.iter().enumerate() {
        let both = lot.chance(TOGETHER).then(|| together(track, next(index), &mut lot));
        tracks.push(both.unwrap_or_else(|| track.clone()));
    }
    let mut weights = begin(seed);
    study(&mut weights, &tracks, rounds, &mut lot, |round, [loss, right]| {
        eprintln!("{round:3} loss {loss:.3}, {right:.3} of all looks are told right");
    });
    std::fs::write(path, weights.iter().flat_map(|weight| weight.to_le_bytes()).collect::<Vec<u8>>())
}
