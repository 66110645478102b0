//! A rig of 10,000 fixtures and 170,000 lights: compiled, checked, edited, read and prepared for the engine.

use std::hint::black_box;
use std::sync::Arc;

use criterion::{Criterion, criterion_group, criterion_main};
use splimo_document::check::check;
use splimo_document::edit::{Arrangement, Edit};
use splimo_document::file;
use splimo_document::patch::Occupancy;
use splimo_engine::Prepared;
use splimo_light::rig::Rig;
use splimo_show::{Canvas, Fixture, Shape, Show};

fn show() -> Show {
    let mut show = Show::empty("Large");
    show.canvas = Canvas { width: 1800.0, height: 110.0 };
    show.fixtures = (0..10_000u32)
        .map(|i| {
            let tube = Fixture::new(&format!("Tube {i}"), "rgb", Shape::Line { cells: 17 });
            tube.at((i % 100) as f32 * 18.0 + 9.0, (i / 100) as f32 + 2.0).patched(i / 10 + 1, (i % 10) as u16 * 51 + 1)
        })
        .collect();
    show
}

fn benches(c: &mut Criterion) {
    let show = show();
    let text = file::write(&show).expect("it can be written");
    let shared = Arc::new(show.clone());
    let rig = Arc::new(Rig::compile(&show));
    let mut group = c.benchmark_group("10,000 fixtures");
    group.sample_size(20);
    group.bench_function("compile the rig", |b| b.iter(|| Rig::compile(black_box(&show))));
    group.bench_function("prepare for the engine", |b| b.iter(|| Prepared::new(shared.clone(), rig.clone(), 0)));
    group.bench_function("who takes which slots", |b| b.iter(|| Occupancy::of(black_box(&show))));
    group.bench_function("check", |b| b.iter(|| check(black_box(&show))));
    group.bench_function("edit", |b| {
        let edit = Edit::Arrange(vec![77], Arrangement::Move(1.0, 0.0));
        b.iter(|| edit.apply(black_box(&show)));
    });
    group.bench_function("read the file", |b| b.iter(|| file::read(black_box(&text))));
    group.finish();
}

criterion_group!(rig, benches);
criterion_main!(rig);
