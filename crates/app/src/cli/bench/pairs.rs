//! Two things measured against each other in one process: A, B, A, B in short samples, the ratio of each pair, and the
//! median of the pairs, which a noisy machine disturbs little.

use std::hint::black_box;
use std::net::SocketAddr;
use std::sync::Arc;

use splimo_base::colour::Rgba;
use splimo_engine::{Engine, Inputs};
use splimo_light::effect::{self, Cells, Effect, Moment, Params};
use splimo_light::rig::{Rig, TILE};
use splimo_show::Show;
use splimo_time::music::Hearing;
use splimo_time::rate::Step;
use splimo_wire::burst::Burst;
use splimo_wire::socket::{self, Outlet};

use splimo_runtime::clock::Instant;
use splimo_runtime::network::Network;
use splimo_runtime::output::identity;
use splimo_runtime::output::plan::plan;

/// Pairs that are taken.
const PAIRS: usize = 41;
/// Seconds that all pairs of one comparison may take.
const PATIENCE: f64 = 4.0;

/// The median of the ratios of pairs: how much longer the first takes than the second.
fn median_ratio(mut first: impl FnMut(), mut second: impl FnMut()) -> f64 {
    let start = Instant::now();
    let took = |what: &mut dyn FnMut()| {
        let before = Instant::now();
        what();
        Instant::now().since(before).max(1) as f64
    };
    // The first time touches memory that nobody has touched before.
    took(&mut first);
    took(&mut second);
    let mut ratios = Vec::new();
    while ratios.len() < PAIRS && (ratios.len() < 3 || Instant::now().seconds_since(start) < PATIENCE) {
        let (a, b) = (took(&mut first), took(&mut second));
        ratios.push(a / b);
    }
    ratios.sort_by(f64::total_cmp);
    ratios[ratios.len() / 2]
}

/// A whole frame of a show against the plasma kernel alone on as many lights.
pub(super) fn frame_to_kernel(show: &Arc<Show>) -> f64 {
    let mut engine = Engine::new(show.clone());
    super::cuts(show).for_each(|command| engine.apply(&command, 0.0));
    let rig = engine.rig().clone();
    let mut kernel = Kernel::new();
    let mut time = 0.0;
    median_ratio(
        || {
            time += 1.0 / 44.0;
            black_box(engine.tick(time, &Inputs::default()).slots.first());
        },
        || kernel.light(&rig),
    )
}

/// A whole frame of a show against one of another.
pub(super) fn frame_to_frame(first: &Arc<Show>, second: &Arc<Show>) -> f64 {
    let start = |show: &Arc<Show>| {
        let mut engine = Engine::new(show.clone());
        super::cuts(show).for_each(|command| engine.apply(&command, 0.0));
        let mut time = 0.0;
        move || {
            time += 1.0 / 44.0;
            black_box(engine.tick(time, &Inputs::default()).slots.first());
        }
    };
    median_ratio(start(first), start(second))
}

/// The plasma effect by itself.
struct Kernel {
    params: Params,
    effect: Box<dyn Effect>,
    out: Vec<Rgba>,
}

impl Kernel {
    fn new() -> Self {
        let spec = effect::find("plasma").unwrap_or(effect::EFFECTS[0]);
        let params =
            Params::compile(spec, &Default::default(), &[]).expect("defaults are right, as a test of the core has it");
        Self { params, effect: (spec.start)(1), out: vec![[0.0; 4]; TILE] }
    }

    fn light(&mut self, rig: &Rig) {
        let step = Step { seconds: 1.0 / 44.0, beats: 2.0 / 44.0 };
        self.effect.advance(&self.params, &Moment::at(0.0, 0.0, step, &Hearing::SILENCE));
        for tile in 0..rig.tiles() {
            let range = rig.tile(tile);
            let cells = Cells::on_plane(&rig.x[range.clone()], &rig.y[range.clone()], 400.0, 400.0);
            self.effect.light(&self.params, black_box(&cells), &mut self.out[..range.len()]);
            black_box(&self.out);
        }
    }
}

/// Sending a frame of a show against sending the same bytes, ready made, in a bare loop.
///
/// # Errors
/// If the system gives no socket.
pub(super) fn send_to_bare(show: &Show, rig: &Rig) -> std::io::Result<f64> {
    let plan = plan(show, rig, &Network::default());
    let lanes: Vec<_> = plan.lanes.iter().map(|lane| lane.lane.clone()).collect();
    let mut burst = Burst::new(&lanes, &identity(show, "bench"));
    let mut slots = vec![0u8; rig.slots()];
    burst.prepare(&slots, 0.0, false);
    let ready: Vec<(Vec<u8>, SocketAddr)> = (0..burst.lanes())
        .flat_map(|lane| burst.packets(lane, 0..burst.due_of(lane)).map(|(p, to)| (p.to_vec(), to)).collect::<Vec<_>>())
        .collect();
    let (ours, bare) = (socket::open(&Outlet::default())?, socket::open(&Outlet::default())?);
    let mut sender = socket::Sender::default();
    let mut frame = 0u8;
    Ok(median_ratio(
        || {
            frame = frame.wrapping_add(1);
            slots.iter_mut().step_by(7).for_each(|slot| *slot = frame);
            burst.prepare(&slots, f64::from(frame), false);
            for lane in 0..burst.lanes() {
                black_box(sender.send(&ours, burst.packets(lane, 0..burst.due_of(lane)), false));
            }
        },
        || ready.iter().for_each(|(packet, to)| drop(black_box(bare.send_to(packet, to)))),
    ))
}
