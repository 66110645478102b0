//! What light costs: each effect, the patch, and a whole tick, on 17,000 LEDs (100 universes).

use std::hint::black_box;
use std::sync::Arc;

use criterion::{Criterion, Throughput, criterion_group, criterion_main};
use splimo_core::colour::Rgba;
use splimo_core::effect::{Cells, EFFECTS, Moment, Params};
use splimo_core::engine::{Engine, Inputs};
use splimo_core::music::Hearing;
use splimo_core::rate::Step;
use splimo_core::rig::{Rig, TILE};
use splimo_core::show::{Blend, Fixture, Layer, Look, Shape, Show};

const UNIVERSES: u32 = 100;

fn show(effects: &[&str]) -> Arc<Show> {
    let mut show = Show::empty("Bench");
    show.fixtures = (0..UNIVERSES)
        .map(|u| {
            let name = format!("Strip {u}");
            Fixture::new(&name, "rgb", Shape::Line { cells: 170 }).at(85.0, u as f32).patched(u + 1, 1)
        })
        .collect();
    let blends = [Blend::Normal, Blend::Screen, Blend::Add, Blend::Lighten];
    let layers = effects.iter().zip(blends.iter().cycle()).map(|(effect, &blend)| Layer {
        opacity: 0.8,
        blend,
        ..Layer::new(effect)
    });
    show.looks = vec![Look::new("Bench", layers.collect())];
    Arc::new(show)
}

fn effects(c: &mut Criterion) {
    let leds = 17_000usize;
    let x: Vec<f32> = (0..leds).map(|i| (i % 170) as f32 + 0.5).collect();
    let y: Vec<f32> = (0..leds).map(|i| (i / 170) as f32 + 0.5).collect();
    let mut out: Vec<Rgba> = vec![[0.0; 4]; TILE];
    let mut group = c.benchmark_group("effect");
    group.throughput(Throughput::Elements(leds as u64));
    let source = vec![[0.25f32; 4]; leds];
    let mut copy = source.clone();
    group.bench_function("copy of the buffer", |b| b.iter(|| copy.copy_from_slice(black_box(&source))));
    for spec in EFFECTS {
        let params = Params::compile(spec, &Default::default(), &[]).expect("defaults are right");
        let mut effect = (spec.start)(1);
        let hearing = Hearing { level: 0.7, bands: [0.6; 24], ..Hearing::SILENCE };
        let step = Step { seconds: 1.0 / 44.0, beats: 2.0 / 44.0 };
        for tick in 0..100 {
            effect.advance(&params, &Moment::at(0.0, f64::from(tick) * 2.0 / 44.0, step, &hearing));
        }
        group.bench_function(spec.name, |b| {
            b.iter(|| {
                for start in (0..leds).step_by(TILE) {
                    let range = start..(start + TILE).min(leds);
                    let cells = Cells::on_plane(&x[range.clone()], &y[range.clone()], 170.0, 100.0);
                    effect.light(&params, black_box(&cells), &mut out[..range.len()]);
                }
            });
        });
    }
    group.finish();
}

fn ticks(c: &mut Criterion) {
    let mut group = c.benchmark_group("tick");
    group.throughput(Throughput::Elements(17_000));
    let cases: [(&str, &[&str]); 4] = [
        ("patch alone", &[]),
        ("plasma", &["plasma"]),
        ("2 layers", &["plasma", "gradient"]),
        ("4 layers", &["plasma", "gradient", "ripple", "rain"]),
    ];
    for (name, effects) in cases {
        let mut engine = Engine::new(show(effects));
        engine.cut_to(0);
        let mut time = 0.0;
        group.bench_function(name, |b| {
            b.iter(|| {
                time += 1.0 / 44.0;
                black_box(engine.tick(time, &Inputs::default()).slots[0])
            });
        });
    }
    group.finish();
    let show = show(&["plasma"]);
    c.bench_function("compile the rig of 100 universes", |b| b.iter(|| Rig::compile(black_box(&show))));
}

criterion_group!(benches, effects, ticks);
criterion_main!(benches);
