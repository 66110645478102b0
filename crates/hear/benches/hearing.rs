//! The cost of hearing: one hop is 10.67 ms of music, so 100 µs a hop is 0.94 % of a core.

use criterion::{Criterion, criterion_group, criterion_main};
use splimo_hear::beat::BeatTracker;
use splimo_hear::network::Activations;
use splimo_hear::{HOP, Listener};

fn hop(c: &mut Criterion) {
    let samples: [f32; HOP] = std::array::from_fn(|i| (i as f32 * 0.05).sin() * 0.3 + (i as f32 * 1.7).sin() * 0.1);
    let mut listener = Listener::default();
    c.bench_function("hop, whole", |b| b.iter(|| listener.listen(&samples, |_| {})));
    let mut tracker = BeatTracker::default();
    let mut hops = 0u32;
    c.bench_function("hop, beat alone", |b| {
        b.iter(|| {
            hops += 1;
            tracker.hop(&Activations {
                beat: if hops.is_multiple_of(45) { 1.0 } else { 0.05 },
                music: 1.0,
                ..Activations::default()
            })
        });
    });
}

criterion_group!(benches, hop);
criterion_main!(benches);
