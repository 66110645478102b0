//! `splimo bench`: what this machine can hold, with the real runtime sending to a socket on loopback.

mod pairs;

use std::net::{Ipv4Addr, UdpSocket};
use std::process::ExitCode;
use std::sync::Arc;
use std::time::Duration;

use nix::sys::resource::{UsageWho, getrusage};
use nix::sys::time::TimeValLike;
use serde::Serialize;
use splimo_base::histogram::Quantiles;
use splimo_light::rig::Rig;
use splimo_show::command::EngineCommand;
use splimo_show::{
    Blend, Canvas, Destination, Fixture, Layer, Look, Param, Route, Shape, Show, Tier, TransportKind, Unchanged,
    UniverseRange,
};

use super::stop::StopSignal;
use super::{Failure, print_json};
use splimo_runtime::Runtime;
use splimo_runtime::clock::Instant;
use splimo_runtime::sound::SoundSource;

/// RGB lights in a universe.
const LIGHTS: u32 = 170;

#[derive(Serialize)]
struct Report {
    universes: u32,
    leds: u32,
    layers: u32,
    tiers: u32,
    seconds: f64,
    frames: u64,
    fps: f64,
    late_ms: Quantiles,
    tick_ms: Quantiles,
    send_ms: Quantiles,
    cpu_percent: f64,
    packets: u64,
    send_errors: u64,
    /// A whole frame against the plasma kernel alone.
    frame_to_kernel: f64,
    /// A frame of four tiers with a layer each against one of a look with the same four layers.
    tiers_to_layers: f64,
    /// Sending a frame against sending the same bytes in a bare loop.
    send_to_bare: f64,
}

/// The load that is measured.
#[derive(Clone, Copy)]
pub(super) struct Load {
    /// Universes of 170 RGB lights.
    pub universes: u32,
    pub layers: u32,
    /// The tiers over which the layers lie, a look on each.
    pub tiers: u32,
}

/// Runs the benchmark.
pub(super) fn run(load: Load, seconds: f64, json: bool) -> Result<ExitCode, Failure> {
    let Load { universes, layers, tiers } = load;
    if !(seconds > 0.0 && seconds < 1e6) {
        return Err("--seconds has to be above 0".into());
    }
    let stop = StopSignal::register()?;
    // The sink only has to be there: what it does not read is dropped by the system behind the sending.
    let (sink, address) = sink()?;
    let show = Arc::new(bench_show(load, address));
    let (runtime, _outlook) = Runtime::start(&show, SoundSource::Silence)?;
    cuts(&show).for_each(|command| runtime.apply(&command));
    // Threads start and memory is touched for the first time in here.
    std::thread::sleep(Duration::from_millis(300));
    let (start, cpu) = (Instant::now(), cpu_seconds()?);
    while !stop.came() && Instant::now().seconds_since(start) < seconds {
        std::thread::sleep(Duration::from_millis(20));
    }
    let measured = Instant::now().seconds_since(start);
    let cpu_percent = (cpu_seconds()? - cpu) / measured * 100.0;
    let totals = runtime.stop();
    drop(runtime);
    let rounded = |ratio: f64| (ratio * 100.0).round() / 100.0;
    let frame_to_kernel = rounded(pairs::frame_to_kernel(&show));
    let four = |tiers: u32| Arc::new(bench_show(Load { universes, layers: 4, tiers }, address));
    let tiers_to_layers = rounded(pairs::frame_to_frame(&four(4), &four(1)));
    let send_to_bare = rounded(pairs::send_to_bare(&show, &Rig::compile(&show))?);
    drop(sink);
    let report = Report {
        universes,
        leds: universes * LIGHTS,
        layers,
        tiers,
        seconds: (measured * 1000.0).round() / 1000.0,
        frames: totals.output.frames,
        fps: totals.output.fps(),
        late_ms: totals.output.late.quantiles(),
        tick_ms: totals.tick.quantiles(),
        send_ms: totals.output.send.quantiles(),
        cpu_percent: (cpu_percent * 100.0).round() / 100.0,
        packets: totals.output.packets,
        send_errors: totals.output.errors,
        frame_to_kernel,
        tiers_to_layers,
        send_to_bare,
    };
    if json {
        print_json(&report)?;
    } else {
        tell(&report);
    }
    Ok(ExitCode::SUCCESS)
}

fn tell(r: &Report) {
    let (universes, leds, layers, tiers) = (r.universes, r.leds, r.layers, r.tiers);
    say!("{universes} universes, {leds} lights, {layers} layers on {tiers} tiers, {:.1} s", r.seconds);
    say!("frames {} at {:.2} a second, {} packets, {} refused", r.frames, r.fps, r.packets, r.send_errors);
    let row =
        |name: &str, q: Quantiles| say!("{name:<8} p50 {:>8.3}   p99 {:>8.3}   max {:>8.3} ms", q.p50, q.p99, q.max);
    row("late", r.late_ms);
    row("tick", r.tick_ms);
    row("send", r.send_ms);
    say!("processor {:.1} % of one core", r.cpu_percent);
    say!(
        "a frame against the plasma kernel alone {:.2}, sending it against a bare loop {:.2}",
        r.frame_to_kernel,
        r.send_to_bare
    );
    say!("a frame of four tiers against one of four layers {:.2}", r.tiers_to_layers);
}

/// A socket where Art-Net is received, at a loopback address that is free.
fn sink() -> Result<(UdpSocket, Ipv4Addr), Failure> {
    let addresses = (2..=250).map(|d| Ipv4Addr::new(127, 9, 0, d));
    let open =
        |address: Ipv4Addr| UdpSocket::bind((address, splimo_wire::artnet::PORT)).ok().map(|socket| (socket, address));
    addresses.into_iter().find_map(open).ok_or_else(|| "no loopback address is free for the sink".into())
}

/// Processor time of this process, in seconds.
fn cpu_seconds() -> Result<f64, Failure> {
    let usage = getrusage(UsageWho::RUSAGE_SELF)?;
    let micros = usage.user_time().num_microseconds() + usage.system_time().num_microseconds();
    Ok(micros as f64 / 1e6)
}

/// The commands that put a look on each tier.
fn cuts(show: &Show) -> impl Iterator<Item = EngineCommand> {
    let named = show.stack().iter().zip(&show.looks).map(|(tier, look)| format!("{}/{}", tier.name, look.name));
    named.map(EngineCommand::CutTo)
}

/// A wall of lights, and a look for each tier, with as many layers over all as were asked for.
fn bench_show(load: Load, sink: Ipv4Addr) -> Show {
    let Load { universes, layers, tiers } = load;
    let mut show = Show::empty("Bench");
    let columns = (f64::from(universes * LIGHTS)).sqrt().ceil();
    show.canvas = Canvas { width: columns as f32 + 1.0, height: columns as f32 + 1.0 };
    show.fixtures = (0..universes).map(|u| strip(u, columns)).collect();
    let effects = ["plasma", "gradient", "ripple", "rain"];
    let blends = [Blend::Normal, Blend::Screen, Blend::Add, Blend::Lighten];
    let layer = |index: usize| Layer {
        opacity: 0.8,
        blend: blends[index % blends.len()],
        params: [("speed".to_owned(), Param::Text("4 beats".to_owned()))].into(),
        ..Layer::new(effects[index % effects.len()])
    };
    for tier in 0..tiers.min(layers) as usize {
        let own: Vec<Layer> = (tier..layers as usize).step_by(tiers as usize).map(layer).collect();
        let blend = if tiers == 1 { Blend::Normal } else { own[0].blend };
        show.tiers.push(Tier { blend, ..Tier::new(&format!("tier {}", tier + 1)) });
        show.looks.push(Look::new(&format!("Bench {}", tier + 1), own));
    }
    let range = UniverseRange { first: 1, last: universes };
    let to = Destination::Unicast(sink.into()).into();
    show.routes =
        vec![Route { unchanged: Unchanged::Repeat, ..Route::new("Sink", range, TransportKind::ArtNet, 0, to) }];
    show
}

/// One universe of lights, along a row of the wall.
fn strip(universe: u32, columns: f64) -> Fixture {
    let first = f64::from(universe * LIGHTS);
    Fixture::new(&format!("Strip {}", universe + 1), "rgb", Shape::Line { cells: LIGHTS })
        .at((first % columns) as f32, (first / columns).floor() as f32)
        .patched(universe + 1, 1)
}
