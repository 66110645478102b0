//! `splimo demo`, `open` and `run`: playing a show, with a screen or without.

use std::collections::{BTreeMap, HashMap};
use std::net::{IpAddr, Ipv4Addr};
use std::path::Path;
use std::process::ExitCode;
use std::sync::Arc;
use std::sync::atomic::Ordering;
use std::time::Duration;

use serde::Serialize;
use splimo_core::rig::Rig;
use splimo_core::show::{Destination, Protocol, Show, file};

use super::stop::StopSignal;
use super::{Failure, LeaderArguments, RunArguments, node as node_command, print_json};
use crate::standin::node::{self, Node, NodeSpec};
use splimo_runtime::clock::Instant;
use splimo_runtime::document::Document;
use splimo_runtime::files;
use splimo_runtime::media::Library;
use splimo_runtime::replay::Replay;
use splimo_runtime::sound::{self, Channels, Sound, SoundSource};
use splimo_runtime::{Outlook, Runtime, output, supplies};
use splimo_screen as screen;

/// A report of the demo, with what its stand-in nodes saw.
#[derive(Serialize)]
struct DemoReport {
    #[serde(flatten)]
    run: output::Report,
    #[serde(flatten)]
    nodes: node::Report,
}

/// What a show begins with.
#[derive(Clone, Copy)]
pub(super) struct Start<'a> {
    /// The look; none is the first.
    pub(super) look: Option<&'a str>,
    pub(super) leaders: &'a LeaderArguments,
}

impl RunArguments {
    fn start(&self) -> Start<'_> {
        Start { look: self.look.as_deref(), leaders: &self.leaders }
    }
}

/// `splimo demo`.
pub(super) fn demo(headless: bool, run: &RunArguments) -> Result<ExitCode, Failure> {
    let stop = StopSignal::register()?;
    let shipped = file::read(files::LANTERN_QUAY)?.show;
    let (playing, nodes) = with_standins(&shipped)?;
    let source = checked_source(run.audio.as_deref().unwrap_or("set"), run.channels)?;
    if headless {
        let report = headless_run(&playing, source, run, Path::new("."), &stop)?;
        node::settle(&nodes);
        let report = DemoReport { run: report, nodes: node::report(&nodes) };
        if run.json {
            print_json(&report)?;
        } else {
            tell(&report.run);
            node_command::tell(&report.nodes);
        }
        return Ok(ExitCode::SUCCESS);
    }
    let document = Document::new(playing, None).with_autosave();
    full_screen(document, source, run.start(), run.span.map(|s| s.0), &stop)
}

/// `splimo open`.
pub(super) fn open(path: &Path, audio: &str, channels: Channels, start: &Start<'_>) -> Result<ExitCode, Failure> {
    let stop = StopSignal::register()?;
    let show = opened_or_new(path)?;
    let source = checked_source(audio, channels)?;
    full_screen(Document::new(show, Some(path.to_owned())).with_autosave(), source, *start, None, &stop)
}

/// `splimo run`.
pub(super) fn run(path: &Path, recording: Option<&Path>, run: &RunArguments) -> Result<ExitCode, Failure> {
    let stop = StopSignal::register()?;
    let show = opened(path)?;
    let source = checked_source(run.audio.as_deref().unwrap_or("none"), run.channels)?;
    if let Some(recording) = recording {
        return replay(&show, recording, run, &stop);
    }
    let report = headless_run(&show, source, run, &Library::folder_of(Some(path)), &stop)?;
    if run.json {
        print_json(&report)?;
    } else {
        tell(&report);
    }
    Ok(ExitCode::SUCCESS)
}

/// Lets a recording leave again through the routes of a show.
fn replay(show: &Show, recording: &Path, run: &RunArguments, stop: &StopSignal) -> Result<ExitCode, Failure> {
    let show = Arc::new(show.clone());
    let rig = Rig::compile(&show);
    let replay = Replay::open(recording, &show, &rig)?;
    let ended = replay.ended.clone();
    let strange = replay.strange_counter();
    let (runtime, _outlook) =
        Runtime::start_with(&show, rig, SoundSource::Silence.into(), Some(replay), Path::new("."))?;
    record_from_start(&runtime, run)?;
    let end = run.span.map(|span| Instant::now().plus((span.0 * 1e9) as i64));
    while !stop.came() && !ended.load(Ordering::Relaxed) && end.is_none_or(|end| Instant::now() < end) {
        std::thread::sleep(Duration::from_millis(10));
    }
    tell_troubles(&runtime);
    let report = runtime.stop().report(0.0);
    let strange = strange.load(Ordering::Relaxed);
    if strange > 0 {
        eprintln!("splimo: {strange} recorded frames are of universes that no route of this show carries");
    }
    if run.json {
        print_json(&report)?;
    } else {
        tell(&report);
    }
    Ok(ExitCode::SUCCESS)
}

/// Begins to record where that is asked for.
fn record_from_start(runtime: &Runtime, run: &RunArguments) -> Result<(), Failure> {
    match &run.record {
        None => Ok(()),
        Some(path) => {
            runtime.record(path).map_err(|e| format!("{} cannot be recorded into: {e}", path.display()).into())
        }
    }
}

fn tell_troubles(runtime: &Runtime) {
    for trouble in runtime.troubles().list() {
        eprintln!("splimo: trouble: {}: {}", trouble.subject, trouble.message);
    }
}

/// Opens a show, or begins an empty one where there is no file yet; its first save makes it.
fn opened_or_new(path: &Path) -> Result<Show, Failure> {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    if path.exists() || !folder.is_dir() {
        return opened(path);
    }
    let name = path.file_stem().map_or_else(|| "New show".into(), |stem| stem.to_string_lossy().into_owned());
    Ok(Show::empty(&name))
}

/// Opens a show; what is odd about its file is told on standard error.
pub(super) fn opened(path: &Path) -> Result<Show, Failure> {
    let opened = files::open(path)?;
    for warning in &opened.warnings {
        eprintln!("splimo: {}: warning: {warning}", path.display());
    }
    Ok(opened.show)
}

/// A source that is there: a recording is tried before anything starts. A device may still come.
fn checked_source(text: &str, channels: Channels) -> Result<Sound, Failure> {
    let source = SoundSource::parse(text)?;
    if let SoundSource::File(path) = &source {
        sound::File::open(path)?;
    }
    Ok(Sound { source, channels })
}

/// Starts a stand-in node for every loopback address that the show sends to, with the ports that it needs, and gives the
/// show their true addresses.
fn with_standins(show: &Show) -> Result<(Show, Vec<Node>), Failure> {
    let mut wanted: BTreeMap<Ipv4Addr, NodeSpec> = BTreeMap::new();
    for route in &show.routes {
        for to in &route.to.0 {
            let Destination::Unicast(IpAddr::V4(address)) = to else { continue };
            if !address.is_loopback() {
                continue;
            }
            let spec = wanted.entry(*address).or_insert_with(|| NodeSpec::at(*address));
            spec.name = format!("{} box", route.name);
            if route.protocol == Protocol::ArtNet {
                spec.ports.extend(route.universes.numbers().filter_map(|universe| route.number_of(universe)));
                spec.ports.sort_unstable();
                spec.ports.dedup();
            }
        }
    }
    let specs: Vec<NodeSpec> = wanted.values().cloned().collect();
    let nodes =
        node::start_block(&specs).map_err(|e| format!("no stand-in nodes could be started on loopback: {e}"))?;
    let moved: HashMap<_, _> = wanted.into_keys().zip(nodes.iter().map(Node::address)).collect();
    let mut show = show.clone();
    output::redirect(&mut show, &moved);
    Ok((show, nodes))
}

fn chosen_look(show: &Show, name: Option<&str>) -> Result<Option<usize>, Failure> {
    match name {
        None => Ok((!show.looks.is_empty()).then_some(0)),
        Some(name) => match show.look(name) {
            Some((look, _)) => Ok(Some(look)),
            None => {
                let known: Vec<_> = show.looks.iter().map(|l| l.name.as_str()).collect();
                Err(format!("there is no look \"{name}\" in this show; it has: {}", known.join(", ")).into())
            }
        },
    }
}

fn started(
    show: &Arc<Show>,
    source: Sound,
    start: Start<'_>,
    folder: &Path,
) -> Result<(Arc<Runtime>, Outlook), Failure> {
    let look = chosen_look(show, start.look)?;
    let (runtime, outlook) = Runtime::start_in(show, source, folder)?;
    if let Some(path) = start.leaders.midi.clone() {
        runtime.follow(|follower| follower.midi(path))?;
    }
    if let Some(address) = start.leaders.osc {
        let followed = runtime.follow(|follower| follower.osc(address));
        followed.map_err(|e| format!("OSC cannot be listened for at {address}: {e}; choose another port"))?;
    }
    if let Some(look) = look {
        runtime.cut_to(look);
    }
    Ok((Arc::new(runtime), outlook))
}

fn headless_run(
    show: &Show,
    source: Sound,
    run: &RunArguments,
    folder: &Path,
    stop: &StopSignal,
) -> Result<output::Report, Failure> {
    let show = Arc::new(show.clone());
    let (runtime, mut outlook) = started(&show, source, run.start(), folder)?;
    record_from_start(&runtime, run)?;
    let end = run.span.map(|span| Instant::now().plus((span.0 * 1e9) as i64));
    while !stop.came() && end.is_none_or(|end| Instant::now() < end) {
        let left = end.map_or(i64::MAX, |end| end.since(Instant::now()));
        std::thread::sleep(Duration::from_nanos(left.clamp(0, 20_000_000) as u64));
        supplies::tell(&show, outlook.snapshot.read(), runtime.troubles());
    }
    tell_troubles(&runtime);
    let tempo = f64::from(outlook.snapshot.read().clock.bpm);
    Ok(runtime.stop().report(tempo))
}

fn full_screen(
    document: Document,
    source: Sound,
    start: Start<'_>,
    seconds: Option<f64>,
    stop: &StopSignal,
) -> Result<ExitCode, Failure> {
    screen::terminal::check()?;
    let (runtime, outlook) = started(document.show(), source, start, &Library::folder_of(document.path()))?;
    let end = seconds.map(|s| Instant::now().plus((s * 1e9) as i64));
    let stop = stop.clone();
    let ended: screen::Ended = Arc::new(move || stop.came() || end.is_some_and(|end| Instant::now() >= end));
    let result = screen::run(document, &runtime, outlook, &ended);
    runtime.stop();
    result.map(|()| ExitCode::SUCCESS).map_err(Into::into)
}

fn tell(report: &output::Report) {
    println!(
        "{} frames, {:.2} a second, to {} universes in {} packets, {} refused",
        report.frames, report.fps, report.universes, report.packets, report.send_errors
    );
    let late = report.late_ms;
    println!(
        "late by {:.3} ms at the median, {:.3} at p99, {:.3} at most; tempo {:.2}",
        late.p50, late.p99, late.max, report.tempo_bpm
    );
}
