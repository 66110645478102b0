//! `splimo demo`, `open` and `run`: playing a show, with a screen or without.

use std::net::Ipv4Addr;
use std::path::Path;
use std::process::ExitCode;
use std::sync::Arc;
use std::sync::atomic::Ordering;
use std::time::Duration;

use serde::Serialize;
use splimo_document::file;
use splimo_light::rig::Rig;
use splimo_runtime::clock::Instant;
use splimo_runtime::file_error::Cause;
use splimo_runtime::replay::Replay;
use splimo_runtime::session::client;
use splimo_runtime::session::{Ends, Session, Start, place};
use splimo_runtime::sound::{Sound, SoundSource};
use splimo_runtime::{Beginning, Runtime, files, machine, output};
use splimo_screen::Elsewhere;
use splimo_show::Show;

use super::attach::{Left, Manner};
use super::launch::SessionArguments;
use super::mend::{MendArguments, readable};
use super::opening::{checked_source, with_standins};
use super::stop::StopSignal;
use super::troubles::{self, Teller};
use super::{Failure, RunArguments, attach, node as node_command, print_json, recent, standard};
use crate::standin::node;

/// The address of the stand-in node of the tutorial.
const TUTORIAL_NODE: Ipv4Addr = Ipv4Addr::new(127, 0, 15, 1);

/// A report of the demo, with what its stand-in nodes saw.
#[derive(Serialize)]
struct DemoReport {
    #[serde(flatten)]
    run: output::Report,
    #[serde(flatten)]
    nodes: node::Report,
}

/// `splimo demo`.
pub(super) fn demo(headless: bool, with_screen: bool, run: &RunArguments) -> Result<ExitCode, Failure> {
    if headless {
        return demo_without_screen(run);
    }
    if let Some(unused) = unused_with_a_screen(run) {
        say_aside!("splimo: {unused}");
        return Ok(ExitCode::from(2));
    }
    splimo_screen::terminal::check()?;
    let stop = StopSignal::register()?;
    let name = SessionArguments {
        show: None,
        audio: run.audio.clone().unwrap_or_else(|| "set".to_owned()),
        channels: run.channels,
        look: run.look.clone(),
        with_screen,
        span: run.span,
        node: None,
        inputs: run.inputs.clone(),
    }
    .launch()?;
    show(&name, &stop, Manner::default())
}

/// `splimo attach`: a screen on a running session.
pub(super) fn attach(name: Option<&str>) -> Result<ExitCode, Failure> {
    splimo_screen::terminal::check()?;
    let stop = StopSignal::register()?;
    show(&client::meant(name)?, &stop, Manner::default())
}

/// Shows a session, and those that the person goes on to, until they leave.
fn show(name: &str, stop: &StopSignal, manner: Manner) -> Result<ExitCode, Failure> {
    match attach::attach(name, stop, manner)? {
        Left::Done(code) => Ok(code),
        Left::For(Elsewhere::Join(other)) => show(&other, stop, Manner::default()),
        Left::For(Elsewhere::Open(path)) => open_plainly(&path),
    }
}

/// A message for an option that only a demo without a screen has.
fn unused_with_a_screen(run: &RunArguments) -> Option<&'static str> {
    match (&run.record, run.json) {
        (Some(_), _) => Some("demo --record needs --headless; with a screen, `r` on Output (F3) records"),
        (None, true) => Some("demo --json needs --headless: with a screen nothing is reported"),
        (None, false) => None,
    }
}

fn demo_without_screen(run: &RunArguments) -> Result<ExitCode, Failure> {
    let stop = StopSignal::register()?;
    let (show, nodes) = with_standins(&file::read(files::LANTERN_QUAY)?.show)?;
    let source = checked_source(run.audio.as_deref().unwrap_or("set"), run.channels)?;
    let report = headless_run(show, None, source, run, &stop)?;
    node::settle(&nodes);
    let report = DemoReport { run: report, nodes: node::report(&nodes) };
    if run.json {
        print_json(&report)?;
    } else {
        tell(&report.run);
        node_command::tell(&report.nodes);
    }
    Ok(troubles::exit_code(&report.run.troubles))
}

/// Opens a show as `splimo open` does without any options.
pub(super) fn open_plainly(show: &Path) -> Result<ExitCode, Failure> {
    let arguments = SessionArguments { show: Some(show.to_owned()), ..SessionArguments::plain("none") };
    open_asking(arguments, MendArguments::default(), false)
}

/// Plays the demo as `splimo demo` does without any options.
pub(super) fn demo_plainly() -> Result<ExitCode, Failure> {
    let stop = StopSignal::register()?;
    show(&SessionArguments::plain("set").launch()?, &stop, Manner::default())
}

/// Leads through the tutorial with a show of some file, and a stand-in node of its own.
pub(super) fn tutorial(path: &Path) -> Result<ExitCode, Failure> {
    splimo_screen::terminal::check()?;
    let stop = StopSignal::register()?;
    let node = Some(TUTORIAL_NODE);
    let arguments = SessionArguments { show: Some(path.to_owned()), node, ..SessionArguments::plain("none") };
    let name = match place::holder_of(path) {
        Some(name) => name,
        None => arguments.launch()?,
    };
    recent::remember(path);
    show(&name, &stop, Manner { tutorial: true, told: None })
}

/// Joins a session that runs.
pub(super) fn join(name: &str) -> Result<ExitCode, Failure> {
    show(name, &StopSignal::register()?, Manner::default())
}

/// `splimo open`.
pub(super) fn open(arguments: SessionArguments, mend: MendArguments) -> Result<ExitCode, Failure> {
    open_asking(arguments, mend, true)
}

fn open_asking(mut arguments: SessionArguments, mend: MendArguments, asks: bool) -> Result<ExitCode, Failure> {
    splimo_screen::terminal::check()?;
    let stop = StopSignal::register()?;
    // A show that runs is joined.
    let running = arguments.show.as_deref().and_then(place::holder_of);
    let mut told = None;
    let name = match running {
        Some(name) => {
            // What a session listens to was said when it was started.
            told = arguments
                .beyond_the_show()
                .map(|options| format!("{name} runs already: {options} count from its next start on"));
            name
        }
        None => {
            arguments.show = arguments.show.map(|show| readable(&show, mend, asks)).transpose()?;
            if let Some(show) = &arguments.show {
                recent::remember(show);
            }
            arguments.launch()?
        }
    };
    show(&name, &stop, Manner { tutorial: false, told })
}

/// `splimo run`.
pub(super) fn run(path: &Path, recording: Option<&Path>, run: &RunArguments) -> Result<ExitCode, Failure> {
    let stop = StopSignal::register()?;
    let show = standard::opened(path)?;
    let source = checked_source(run.audio.as_deref().unwrap_or("none"), run.channels)?;
    if let Some(recording) = recording {
        return replay(&show, recording, run, &stop);
    }
    // What came from standard input has no file of its own.
    let file = Some(path).filter(|path| !standard::is_meant(path));
    let report = headless_run(show, file, source, run, &stop)?;
    if run.json {
        print_json(&report)?;
    } else {
        tell(&report);
    }
    Ok(troubles::exit_code(&report.troubles))
}

/// Lets a recording leave again through the routes of a show.
fn replay(show: &Show, recording: &Path, run: &RunArguments, stop: &StopSignal) -> Result<ExitCode, Failure> {
    let show = Arc::new(show.clone());
    let rig = Rig::compile(&show);
    let replay = Replay::open(recording, &show, &rig)?;
    let ended = replay.ended.clone();
    let strange = replay.strange_counter();
    let (runtime, _outlook) = Runtime::start_with(
        &show,
        rig,
        SoundSource::Silence.into(),
        Some(replay),
        Path::new("."),
        Beginning::default(),
    )?;
    record_from_start(&runtime, run)?;
    let teller = Teller::start(runtime.troubles().clone())?;
    let end = run.span.map(|span| Instant::now().plus((span.0 * 1e9) as i64));
    while !stop.came() && !ended.load(Ordering::Relaxed) && end.is_none_or(|end| Instant::now() < end) {
        std::thread::sleep(Duration::from_millis(10));
    }
    let report = runtime.stop().report(0.0);
    drop(teller);
    let strange = strange.load(Ordering::Relaxed);
    if strange > 0 {
        say_aside!("splimo: {strange} recorded frames are of universes that no route of this show carries");
    }
    if run.json {
        print_json(&report)?;
    } else {
        tell(&report);
    }
    Ok(troubles::exit_code(&report.troubles))
}

/// Begins to record where that is asked for.
fn record_from_start(runtime: &Runtime, run: &RunArguments) -> Result<(), Failure> {
    match &run.record {
        None => Ok(()),
        Some(path) => runtime
            .record(path)
            .map_err(|error| format!("{} cannot be recorded into: {}", path.display(), Cause::of(path, &error)).into()),
    }
}

/// A session in this process, without a screen of its own; others may be attached to it.
fn headless_run(
    show: Show,
    path: Option<&Path>,
    sound: Sound,
    run: &RunArguments,
    stop: &StopSignal,
) -> Result<output::Report, Failure> {
    let ends = Ends { after: run.span.map(|span| Duration::from_secs_f64(span.0)), ..Ends::default() };
    let (path, look) = (path.map(Path::to_owned), run.look.clone());
    // A box that nobody attends remembers where it was; a run for a while, to look at it, does not.
    let keeps = path.is_some() && (run.span.is_none() || show.schedule.on || show.schedule.go_on);
    let session =
        Session::start(Start { show, path, sound, inputs: run.inputs.inputs(), look, ends, keeps, listens: true })?;
    let runtime = session.runtime().clone();
    record_from_start(&runtime, run)?;
    machine::lock_memory();
    let _teller = Teller::start(runtime.troubles().clone())?;
    let (totals, tempo) = session.run(|| stop.came());
    Ok(totals.report(tempo))
}

fn tell(report: &output::Report) {
    say!(
        "{} frames, {:.2} a second, to {} universes in {} packets, {} refused",
        report.frames,
        report.fps,
        report.universes,
        report.packets,
        report.send_errors
    );
    let late = report.late_ms;
    say!(
        "late by {:.3} ms at the median, {:.3} at p99, {:.3} at most; tempo {:.2}",
        late.p50,
        late.p99,
        late.max,
        report.tempo_bpm
    );
}
