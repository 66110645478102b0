//! The cost of light: each effect on 170,000 LEDs (1,000 universes), the patch, and a whole tick on 17,000.

use std::hint::black_box;
use std::sync::Arc;

use criterion::{Criterion, Throughput, criterion_group, criterion_main};
use splimo_base::colour::Rgba;
use splimo_engine::{Engine, Inputs};
use splimo_light::effect::{Cells, EFFECTS, Effect, EffectSpec, Moment, Params};
use splimo_light::rig::{Rig, TILE};
use splimo_show::{
    Blend, EventShape, Fixture, Lane, LaneKind, Layer, Look, Note, Pattern, PatternEvent, Shape, Show, Ticks,
};
use splimo_time::music::{Bands, Hearing};
use splimo_time::rate::Step;

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

/// The same with a pattern of 64 bars and 16 lanes, each with an event on every 1/32; `later` has each light later than the one before.
fn patterned(later: Option<Note>) -> Arc<Show> {
    let mut show = Show::clone(&show(&[]));
    let step = Note::ThirtySecond.ticks().0;
    let mut pattern = Pattern::new(64);
    let count = pattern.length().0 / step;
    let event = |place: u32, kind: LaneKind| PatternEvent {
        at: Ticks(place * step),
        length: Ticks(step),
        level: (kind == LaneKind::Level).then_some(80.0),
        shape: EventShape::Decay,
        colour: (kind == LaneKind::Colour).then(|| "#40c0ff".to_owned()),
        ..PatternEvent::default()
    };
    pattern.lanes = (0..16)
        .map(|lane| {
            let kind = if lane % 2 == 0 { LaneKind::Colour } else { LaneKind::Level };
            Lane { later, events: (0..count).map(|place| event(place, kind)).collect(), ..Lane::new(kind) }
        })
        .collect();
    show.looks[0].pattern = Some(pattern);
    Arc::new(show)
}

/// A grid of 170,000 LEDs (1,000 universes), and an effect that has run for a while.
struct Grid {
    x: Vec<f32>,
    y: Vec<f32>,
}

const COLUMNS: usize = 425;
const ROWS: usize = 400;

impl Grid {
    fn new() -> Self {
        let leds = COLUMNS * ROWS;
        Self {
            x: (0..leds).map(|i| (i % COLUMNS) as f32 + 0.5).collect(),
            y: (0..leds).map(|i| (i / COLUMNS) as f32 + 0.5).collect(),
        }
    }

    fn light(&self, effect: &dyn Effect, params: &Params, out: &mut [Rgba]) {
        for start in (0..self.x.len()).step_by(TILE) {
            let range = start..(start + TILE).min(self.x.len());
            let (x, y) = (&self.x[range.clone()], &self.y[range.clone()]);
            let cells = Cells::on_plane(x, y, COLUMNS as f32, ROWS as f32);
            effect.light(params, black_box(&cells), &mut out[..range.len()]);
        }
    }
}

fn running(spec: &EffectSpec) -> (Params, Box<dyn Effect>) {
    let params = Params::compile(spec, &Default::default(), &[]).expect("defaults are right");
    let mut effect = (spec.start)(1);
    let hearing = Hearing { level: 0.7, bands: Bands::of(&[0.6; 24]), chroma: [0.4; 12], ..Hearing::SILENCE };
    let step = Step { seconds: 1.0 / 44.0, beats: 2.0 / 44.0 };
    for tick in 0..100 {
        effect.advance(&params, &Moment::at(0.0, f64::from(tick) * 2.0 / 44.0, step, &hearing));
    }
    (params, effect)
}

fn effects(c: &mut Criterion) {
    let grid = Grid::new();
    let mut out: Vec<Rgba> = vec![[0.0; 4]; TILE];
    let mut group = c.benchmark_group("effect");
    group.throughput(Throughput::Elements(grid.x.len() as u64));
    let source = vec![[0.25f32; 4]; TILE];
    group.bench_function("copy of the buffer", |b| b.iter(|| copy(&grid, &source, &mut out)));
    for spec in EFFECTS {
        let (params, effect) = running(spec);
        group.bench_function(spec.name, |b| b.iter(|| grid.light(effect.as_ref(), &params, &mut out)));
    }
    group.finish();
    ratios(&grid, &source, &mut out);
}

fn copy(grid: &Grid, source: &[Rgba], out: &mut [Rgba]) {
    for start in (0..grid.x.len()).step_by(TILE) {
        let count = TILE.min(grid.x.len() - start);
        black_box(&mut *out)[..count].copy_from_slice(&black_box(source)[..count]);
    }
}

/// Each effect against plasma and against a plain copy, sample by sample in turn, so that what the machine takes from us
/// falls on all of them: the medians of the ratios of such pairs.
fn ratios(grid: &Grid, source: &[Rgba], out: &mut [Rgba]) {
    let plasma = running(EFFECTS.iter().find(|spec| spec.name == "plasma").expect("it is there"));
    println!("{:<12} {:>9} {:>12} {:>12}", "effect", "ns/LED", "to plasma", "to a copy");
    for spec in EFFECTS {
        let (params, effect) = running(spec);
        let mut samples: Vec<[f64; 3]> = Vec::new();
        for _ in 0..41 {
            let mut took = [0.0; 3];
            for (which, took) in took.iter_mut().enumerate() {
                let start = std::time::Instant::now();
                match which {
                    0 => grid.light(effect.as_ref(), &params, out),
                    1 => grid.light(plasma.1.as_ref(), &plasma.0, out),
                    _ => copy(grid, source, out),
                }
                *took = start.elapsed().as_nanos() as f64 / grid.x.len() as f64;
            }
            samples.push(took);
        }
        let median = |value: &dyn Fn(&[f64; 3]) -> f64| {
            let mut values: Vec<f64> = samples.iter().map(value).collect();
            values.sort_by(f64::total_cmp);
            values[values.len() / 2]
        };
        println!(
            "{:<12} {:>9.2} {:>12.2} {:>12.2}",
            spec.name,
            median(&|s| s[0]),
            median(&|s| s[0] / s[1]),
            median(&|s| s[0] / s[2])
        );
    }
}

fn ticks(c: &mut Criterion) {
    let mut group = c.benchmark_group("tick");
    group.throughput(Throughput::Elements(17_000));
    let sixteen = ["plasma", "gradient", "ripple", "rain"].repeat(4);
    let cases: [(&str, &[&str]); 5] = [
        ("patch alone", &[]),
        ("plasma", &["plasma"]),
        ("2 layers", &["plasma", "gradient"]),
        ("4 layers", &["plasma", "gradient", "ripple", "rain"]),
        ("16 layers", &sixteen),
    ];
    let looks = cases.map(|(name, effects)| (name, show(effects)));
    let patterns = [("16 lanes", patterned(None)), ("16 lanes, each light later", patterned(Some(Note::ThirtySecond)))];
    for (name, show) in looks.into_iter().chain(patterns) {
        let mut engine = Engine::new(show);
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
