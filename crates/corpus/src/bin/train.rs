//! Trains the network of `splimo-hear` on made music and writes its weights:
//! `cargo run --release -p splimo-corpus --bin train -- WEIGHTS [--lessons N] [--rounds N] [--on]`.

use std::time::Instant;

use rayon::prelude::*;
use splimo_corpus::Lot;
use splimo_corpus::learn::{Descent, Lesson, first_weights, gradient, lesson};
use splimo_hear::network::TOLD;

/// Lessons of a step, on each of the threads.
const SIDE: usize = 16;
const THREADS: usize = 2;
/// Seconds of a lesson.
const SECONDS: f64 = 24.0;
/// How long a step is at the most, from the start and where one goes on.
const LENGTHS: [f32; 2] = [2.5e-3, 1.2e-3];

fn option(name: &str, usual: usize) -> usize {
    let mut arguments = std::env::args().skip_while(|a| a != name).skip(1);
    arguments.next().and_then(|text| text.parse().ok()).unwrap_or(usual)
}

fn main() -> std::io::Result<()> {
    let path = std::env::args().nth(1).unwrap_or_else(|| "crates/hear/data/network.weights".to_owned());
    let (count, rounds, seed) = (option("--lessons", 1500), option("--rounds", 16), option("--seed", 1));
    let began = Instant::now();
    let make = |index: usize| lesson(seed as u64 * 1_000_003 + index as u64, SECONDS);
    let lessons: Vec<Lesson> = (0..count).into_par_iter().map(make).collect();
    let test: Vec<Lesson> = (0..96).into_par_iter().map(|index| lesson(77_000_000 + index, SECONDS)).collect();
    eprintln!("{count} lessons in {:.0} s", began.elapsed().as_secs_f64());
    let on = std::env::args().any(|a| a == "--on");
    let mut weights = match on.then(|| std::fs::read(&path)) {
        Some(bytes) => bytes?.as_chunks::<4>().0.iter().map(|b| f32::from_le_bytes(*b)).collect(),
        None => first_weights(1),
    };
    let mut descent = Descent::new(weights.len());
    let mut lot = Lot::new(9 + seed as u64);
    let steps = rounds * count / (SIDE * THREADS);
    let mut order: Vec<usize> = (0..count).collect();
    let (mut loss, mut step) = ([0.0; TOLD], 0);
    for round in 0..rounds {
        for place in (1..count).rev() {
            order.swap(place, lot.below(place + 1));
        }
        for chosen in order.chunks_exact(SIDE * THREADS) {
            let passes: Vec<_> = chosen
                .par_chunks(SIDE)
                .map(|part| gradient(&weights, &part.iter().map(|&index| &lessons[index]).collect::<Vec<_>>()))
                .collect();
            let mut slopes = vec![0.0; weights.len()];
            for pass in &passes {
                slopes.iter_mut().zip(&pass.slopes).for_each(|(sum, slope)| *sum += slope / THREADS as f32);
                loss.iter_mut().zip(pass.loss).for_each(|(mean, loss)| *mean += loss / THREADS as f64);
            }
            // Warms up, then falls as a cosine does.
            let gone = step as f32 / steps as f32;
            let length = LENGTHS[usize::from(on)]
                * (step as f32 / 60.0).min(1.0)
                * (0.5 + 0.5 * (gone * std::f32::consts::PI).cos());
            descent.step(&mut weights, &slopes, length.max(1e-5));
            step += 1;
        }
        let each = (count / (SIDE * THREADS)) as f64;
        let told = test.par_chunks(SIDE).map(|part| gradient(&weights, &part.iter().collect::<Vec<_>>()).loss);
        let tests: Vec<[f64; TOLD]> = told.collect();
        let mean = |output: usize| tests.iter().map(|loss| loss[output]).sum::<f64>() / tests.len() as f64;
        let tested: Vec<String> = (0..TOLD).map(|output| format!("{:.4}", mean(output))).collect();
        let trained: Vec<String> = loss.iter().map(|loss| format!("{:.4}", loss / each)).collect();
        eprintln!("{round:3} {:6.0} s  {}  |  {}", began.elapsed().as_secs_f64(), trained.join(" "), tested.join(" "));
        loss = [0.0; TOLD];
        let bytes: Vec<u8> = weights.iter().flat_map(|weight| weight.to_le_bytes()).collect();
        std::fs::write(&path, bytes)?;
    }
    Ok(())
}
