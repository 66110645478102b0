//! Hearing in real time: listening allocates nothing, whatever is played.

use std::alloc::System;
use std::f32::consts::TAU;

use splimo_hear::{Ears, Listener, SAMPLE_RATE};
use stats_alloc::{INSTRUMENTED_SYSTEM, Region, StatsAlloc};

#[global_allocator]
static COUNTED: &StatsAlloc<System> = &INSTRUMENTED_SYSTEM;

/// Some seconds of a beat with a tone that moves, then of the tone alone, of silence, of what is no number, and of too loud
/// noise.
fn anything() -> Vec<f32> {
    let mut seed = 7u32;
    (0..SAMPLE_RATE * 30)
        .map(|sample| {
            let time = sample as f32 / SAMPLE_RATE as f32;
            let kick = (-(time % 0.5) * 14.0).exp() * ((time % 0.5) * 60.0 * TAU).sin();
            let tone = 0.1 * (time * (220.0 + 110.0 * (time / 4.0).floor()) * TAU).sin();
            seed = seed.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            match time {
                16.0..20.0 => tone,
                20.0..23.0 => 0.0,
                23.0..25.0 => [f32::NAN, f32::INFINITY, tone][sample as usize % 3],
                25.0..27.0 => (seed >> 8) as f32 / 1_000_000.0 - 8.0,
                _ => 0.6 * kick + tone,
            }
        })
        .collect()
}

// One test in this file: the count is of the whole process.
#[test]
fn listening_allocates_nothing() {
    let samples = anything();
    let mut listener = Listener::default();
    let (mut hops, mut beats) = (0u32, 0.0);
    let mut play = |listener: &mut Listener, piece: usize| {
        let region = Region::new(COUNTED);
        for piece in samples.chunks(piece) {
            listener.listen(piece, |hearing| {
                hops += 1;
                beats = hearing.beat;
            });
        }
        region.change()
    };
    // The very first hop is as cheap as all others: a sound card does not wait.
    let change = play(&mut listener, 480);
    assert_eq!((change.allocations, change.reallocations), (0, 0), "{change:?}");
    listener.set_ears(Ears { gain: 4.0, floor: 0.01, bands: 64, swing: [0.1, 0.3] });
    let change = play(&mut listener, 1024);
    assert_eq!((change.allocations, change.reallocations), (0, 0), "with other ears: {change:?}");
    assert!(hops > 5600 && beats > 60.0, "{hops} hops, {beats} beats");
}
