//! Trains the network of `splimo-hear` on made music and writes its weights: `cargo run --release -p splimo-corpus
//! --bin train -- WEIGHTS [--units N] [--lessons N] [--rounds N] [--seed N] [--on] [--judge] [--bank FILE,FILE] [--kits FILE,FILE]`. With
//! banks of sampled instruments (SoundFont) many pieces are played on those; kits are banks of nothing but drums. `--on` goes on
//! from the weights that are there. With `--judge` it learns nothing but what is music, of which half of the lessons are not. On an older machine with vectors of 512 bits it is a third faster if it is built with
//! `RUSTFLAGS="--cfg multiversion_allow_slow_avx512"`.

use std::time::Instant;

use rayon::prelude::*;
use splimo_corpus::learn::{Descent, Lesson, Material, Memory, first_weights, gradient, material};
use splimo_corpus::{Bank, Lot, options};
use splimo_hear::features::VIEWS_PER_SECOND;
use splimo_hear::network::{Shape, TOLD};

/// Lessons of a step, on each of the threads.
const SIDE: usize = 18;
const THREADS: usize = 2;
/// Seconds of a lesson.
const SECONDS: f64 = 24.0;
/// Views of a step: a third of a lesson.
const WINDOW: usize = (SECONDS * VIEWS_PER_SECOND / 3.0) as usize;
const WINDOWS: usize = 3;
/// The share of the units that a lesson leaves out.
const LEFT_OUT: f32 = 0.15;
/// How often another piece begins in the middle of a lesson.
const CHANGES: f32 = 0.15;
/// How often a lesson is no music, and where nothing else is to be learnt.
const NOISES: [f32; 2] = [0.1, 0.5];
/// How long a step is at the most, from the start and where one goes on.
const LENGTHS: [f32; 2] = [2.0e-3, 1.0e-3];

/// Whether it learns nothing but what is music.
fn judges() -> bool {
    options::given("--judge")
}

/// The banks whose paths an option names.
fn banks(name: &str) -> std::io::Result<Vec<Bank>> {
    Bank::open_all(&options::text(name).unwrap_or_default())
}

/// Material, some of it noise, that begins with a seed; long enough to be played faster.
fn materials(banks: &[Bank], count: usize, seed: u64) -> Vec<Material> {
    let bank = |index: usize| if banks.is_empty() { None } else { banks.get(index % banks.len()) };
    let noises = NOISES[usize::from(judges())];
    let one = |index: usize| material(bank(index), seed + index as u64, SECONDS * 1.14 + 0.1, noises);
    (0..count).into_par_iter().map(one).collect()
}

/// Lessons of some materials, each drawn anew.
fn lessons(materials: &[&Material], seed: u64) -> Vec<Lesson> {
    let one = |(index, material): (usize, &&Material)| {
        Lesson::of(material, WINDOWS * WINDOW, &mut Lot::new(seed + index as u64))
    };
    let mut lessons: Vec<Lesson> = materials.par_iter().enumerate().map(one).collect();
    let mut lot = Lot::new(seed ^ 0xc4a7);
    for index in 1..lessons.len() {
        if lot.chance(CHANGES) {
            let at = (WINDOWS * WINDOW) as f32 * lot.range(0.25, 0.75);
            let (before, rest) = lessons.split_at_mut(index);
            before[index - 1].go_over(at as usize, &rest[0]);
        }
    }
    if judges() {
        lessons.iter_mut().for_each(Lesson::ask_for_music_only);
    }
    lessons
}

/// Losses that are added up.
#[derive(Default)]
struct Losses([f64; TOLD], usize);

impl Losses {
    fn add(&mut self, loss: [f64; TOLD]) {
        self.0.iter_mut().zip(loss).for_each(|(sum, loss)| *sum += loss);
        self.1 += 1;
    }

    fn told(&self) -> String {
        self.0.map(|sum| format!("{:.4}", sum / self.1.max(1) as f64)).join(" ")
    }
}

/// The losses of lessons that nothing is learnt from.
fn tested(shape: Shape, weights: &[f32], test: &[Lesson]) -> Losses {
    let mut losses = Losses::default();
    let pass = |part: &[Lesson]| {
        let lessons: Vec<&Lesson> = part.iter().collect();
        gradient(shape, weights, &lessons, 0..WINDOWS * WINDOW, &mut Memory::new(shape, part.len())).loss
    };
    test.par_chunks(SIDE).map(pass).collect::<Vec<_>>().into_iter().for_each(|loss| losses.add(loss));
    losses
}

/// Warms up, then falls as a cosine does.
fn length(most: f32, step: usize, steps: usize) -> f32 {
    let gone = step as f32 / steps as f32;
    (most * (step as f32 / 100.0).min(1.0) * (0.5 + 0.5 * (gone * std::f32::consts::PI).cos())).max(1e-5)
}

fn main() -> std::io::Result<()> {
    let path = options::first().unwrap_or_else(|| "crates/hear/data/network.weights".to_owned());
    let (count, rounds, seed) =
        (options::number("--lessons", 4000), options::number("--rounds", 12), options::number("--seed", 1));
    let began = Instant::now();
    let on = options::given("--on");
    let mut weights: Vec<f32> = match on.then(|| std::fs::read(&path)) {
        Some(bytes) => bytes?.as_chunks::<4>().0.iter().map(|b| f32::from_le_bytes(*b)).collect(),
        None => first_weights(Shape { units: options::number("--units", 144) }, seed as u64),
    };
    let none = || std::io::Error::new(std::io::ErrorKind::InvalidData, format!("{path}: no weights of a network"));
    let shape = Shape::of(weights.len()).ok_or_else(none)?;
    let kits = banks("--kits")?;
    let banks: Vec<Bank> = banks("--bank")?.into_iter().map(|bank| bank.with_kits(&kits)).collect();
    let test = materials(&banks, 96, 77_000_000);
    let test = lessons(&test.iter().collect::<Vec<_>>(), 1);
    let materials = materials(&banks, count, seed as u64 * 1_000_003);
    eprintln!("{count} lessons in {:.0} s", began.elapsed().as_secs_f64());
    let mut descent = Descent::new(weights.len());
    let mut lot = Lot::new(9 + seed as u64);
    let steps = WINDOWS * rounds * (count / (SIDE * THREADS));
    let mut order: Vec<usize> = (0..count).collect();
    let mut step = 0;
    for round in 0..rounds {
        for place in (1..count).rev() {
            order.swap(place, lot.below(place + 1));
        }
        let mut losses = Losses::default();
        for chosen in order.chunks_exact(SIDE * THREADS) {
            let chosen: Vec<&Material> = chosen.iter().map(|&index| &materials[index]).collect();
            let chosen = lessons(&chosen, (step as u64) << 20 ^ seed as u64);
            let mut memories = [0; THREADS].map(|_| Memory::with_gaps(shape, SIDE, LEFT_OUT, &mut lot));
            for window in 0..WINDOWS {
                let pass = |(part, memory): (&[Lesson], &mut Memory)| {
                    let lessons: Vec<&Lesson> = part.iter().collect();
                    gradient(shape, &weights, &lessons, window * WINDOW..(window + 1) * WINDOW, memory)
                };
                let passes: Vec<_> = chosen.par_chunks(SIDE).zip(&mut memories).map(pass).collect();
                let mut slopes = vec![0.0; weights.len()];
                for pass in &passes {
                    slopes.iter_mut().zip(&pass.slopes).for_each(|(sum, slope)| *sum += slope / THREADS as f32);
                    losses.add(pass.loss);
                }
                descent.step(&mut weights, &slopes, length(LENGTHS[usize::from(on)], step, steps));
                step += 1;
            }
        }
        let seconds = began.elapsed().as_secs_f64();
        eprintln!("{round:3} {seconds:6.0} s  {}  |  {}", losses.told(), tested(shape, &weights, &test).told());
        let bytes: Vec<u8> = weights.iter().flat_map(|weight| weight.to_le_bytes()).collect();
        std::fs::write(&path, bytes)?;
    }
    Ok(())
}
