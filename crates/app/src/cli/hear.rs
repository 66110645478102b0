//! `splimo hear`: what is heard in a recording, causally, as it would have been heard live.

use std::collections::BTreeMap;
use std::path::Path;
use std::process::ExitCode;

use nix::time::{ClockId, clock_gettime};
use serde::Serialize;
use splimo_draw::HearingChart;
use splimo_hear::pitch::PITCH_AGO;
use splimo_hear::score::{self, Scribe};
use splimo_hear::{HOP, HOPS_PER_SECOND, Hearing, Listener};
use splimo_time::music::Key;
use splimo_time::tempo::TRUSTED;

use super::progress::Progress;
use super::{Failure, print_json, standard};
use splimo_runtime::sound;

/// The hearing, from the start to the end.
#[derive(Debug, Clone, Default, Serialize)]
pub(super) struct Heard {
    /// The tempo that was heard longest, in beats a minute; 0 where none was.
    pub(super) tempo_bpm: f64,
    /// The mean confidence in it, 0..1.
    pub(super) confidence: f64,
    /// The times of beats, in seconds.
    pub(super) beats: Vec<f64>,
    /// Those that were the first of a bar.
    pub(super) downbeats: Vec<f64>,
    /// The times of onsets.
    pub(super) onsets: Vec<f64>,
    /// The key that was heard longest.
    pub(super) key: String,
    /// Parts, when each was known to have begun.
    pub(super) sections: Vec<Part>,
    /// The tempo each half second, where one was known.
    pub(super) tempo_track: Vec<[f64; 2]>,
    /// Whether the tempo was trusted at the end, or for most of the time.
    pub(super) locked: bool,
    /// The strongest pitch each hop, in hertz, or 0, and when it sounded, which is a little before it was known.
    pub(super) f0: Vec<[f64; 2]>,
    /// The length that was listened to, in seconds.
    pub(super) analysed_seconds: f64,
    /// The time that that took of one core, in seconds.
    pub(super) cpu_seconds: f64,
}

/// A part of a piece.
#[derive(Debug, Clone, Serialize)]
pub(super) struct Part {
    /// The time when it was known to have begun, in seconds.
    pub(super) start: f64,
    /// Its kind.
    pub(super) kind: &'static str,
    /// The time that it took to know, in seconds: for whoever reads it, not in the document.
    #[serde(skip)]
    pub(super) delay: f32,
}

/// Tells what is heard in a recording.
pub(super) fn run(path: &Path, json: bool) -> Result<ExitCode, Failure> {
    let heard = hear(path, |_, _| {})?;
    if json {
        print_json(&heard)?;
    } else {
        print(&heard);
    }
    Ok(ExitCode::SUCCESS)
}

/// Hears a recording from its start to its end; `each` gets every hop with its samples.
pub(super) fn hear(path: &Path, mut each: impl FnMut(&[f32; HOP], &Hearing)) -> Result<Heard, Failure> {
    let mut file = match standard::is_meant(path) {
        true => sound::File::of_bytes(standard::bytes()?)?,
        false => sound::File::open(path)?,
    };
    let progress = Progress::begin(&format!("hearing {}", standard::name(path)))?;
    let length = file.seconds();
    let began = cpu_seconds();
    let mut taking = Taking::default();
    let mut listener = Listener::default();
    let mut samples = [0.0; HOP];
    while file.next(&mut samples) {
        listener.listen(&samples, |_| {});
        taking.hop(&listener);
        each(&samples, listener.hearing());
        progress.at(length.map_or(0.0, |length| listener.hearing().time / length))?;
    }
    progress.end();
    if let Some(reason) = &file.broken {
        say_aside!("splimo: {} is damaged ({reason}); it was heard as far as it goes", standard::name(path));
    }
    if taking.hops == 0 {
        return Err(format!("there is no sound in {}; choose another file", standard::name(path)).into());
    }
    let mut heard = taking.finish();
    heard.cpu_seconds = cpu_seconds() - began;
    Ok(heard)
}

/// The hearing of a recording, to be drawn.
pub(super) fn chart(path: &Path) -> Result<HearingChart, Failure> {
    let mut all = Vec::new();
    let heard = hear(path, |_, hearing| all.push(*hearing))?;
    let first = |beat: &f64| heard.downbeats.contains(beat);
    let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
    let beats = heard.beats.iter().map(|beat| (*beat, first(beat))).collect();
    Ok(HearingChart { name, heard: all, beats, onsets: heard.onsets })
}

fn cpu_seconds() -> f64 {
    clock_gettime(ClockId::CLOCK_PROCESS_CPUTIME_ID)
        .map_or(0.0, |time| time.tv_sec() as f64 + time.tv_nsec() as f64 * 1e-9)
}

/// The recording that is being written.
#[derive(Default)]
struct Taking {
    heard: Heard,
    scribe: Scribe,
    last: Hearing,
    hops: u64,
    marks: u64,
    confidence: f64,
    trusted: u64,
    /// The time that each tempo was heard, by quarters of a beat a minute, weighed by its confidence.
    tempi: BTreeMap<i64, f64>,
    /// The same of each key.
    keys: BTreeMap<Key, f64>,
}

impl Taking {
    fn hop(&mut self, listener: &Listener) {
        let now = *listener.hearing();
        self.hops += 1;
        self.confidence += f64::from(now.confidence);
        self.trusted += u64::from(now.confidence >= TRUSTED);
        self.scribe.hop(listener);
        if now.tempo_bpm > 0.0 {
            *self.tempi.entry((now.tempo_bpm * 4.0).round() as i64).or_default() += f64::from(now.confidence);
            if self.hops.is_multiple_of((HOPS_PER_SECOND / 2.0) as u64) {
                self.heard.tempo_track.push([to_ms(now.time), to_ms(f64::from(now.tempo_bpm))]);
            }
        }
        *self.keys.entry(now.key).or_default() += f64::from(now.key_confidence);
        let mark = listener.mark();
        if mark.count > self.marks {
            self.marks = mark.count;
            self.heard.onsets.push(to_ms(mark.time));
        }
        let sounded = now.time - PITCH_AGO;
        if sounded >= 0.0 {
            self.heard.f0.push([to_ms(sounded), to_ms(f64::from(now.pitch))]);
        }
        self.last = now;
    }

    fn finish(mut self) -> Heard {
        let hops = self.hops.max(1) as f64;
        self.heard.tempo_bpm = to_ms(self.usual_tempo());
        self.heard.confidence = to_ms(self.confidence / hops);
        let (last, score) = (self.last, self.scribe.finish());
        let keys = self.keys.iter().max_by(|a, b| a.1.total_cmp(b.1));
        self.heard.key = keys.map_or(last.key, |(key, _)| *key).to_string();
        self.heard.locked = self.trusted as f64 > 0.5 * hops || last.confidence >= TRUSTED;
        (self.heard.beats, self.heard.downbeats) = (score.beats, score.bars);
        let part = |part: score::Part| Part { start: part.start, kind: part.kind.name(), delay: part.delay };
        self.heard.sections = score.parts.into_iter().map(part).collect();
        self.heard.analysed_seconds = to_ms(self.hops as f64 / HOPS_PER_SECOND);
        self.heard
    }

    /// The tempo around which most was heard, and the mean there.
    fn usual_tempo(&self) -> f64 {
        let near = |at: i64| self.tempi.range(at - 8..=at + 8);
        let weight = |at: &i64| near(*at).map(|(_, weight)| *weight).sum::<f64>();
        let Some(best) = self.tempi.keys().copied().max_by(|a, b| weight(a).total_cmp(&weight(b))) else { return 0.0 };
        near(best).map(|(at, weight)| *at as f64 / 4.0 * weight).sum::<f64>() / weight(&best).max(1e-9)
    }
}

/// Without digits that nobody measured.
fn to_ms(number: f64) -> f64 {
    (number * 1000.0).round() / 1000.0
}

fn print(heard: &Heard) {
    let lock = if heard.locked { "locked" } else { "not locked" };
    say!("{:.1} bpm, {lock} (confidence {:.2})", heard.tempo_bpm, heard.confidence);
    say!("{} beats, {} bars, {} onsets", heard.beats.len(), heard.downbeats.len(), heard.onsets.len());
    say!("{}", heard.key);
    for part in &heard.sections {
        let known = if part.delay > 0.0 { format!("known after {:.1} s", part.delay) } else { String::new() };
        say!("{:7.1} s  {:9}  {known}", part.start, part.kind);
    }
    let speed = heard.analysed_seconds / heard.cpu_seconds.max(1e-6);
    say!(
        "{:.1} s heard in {:.2} s of one core, {speed:.0} times as fast as it plays",
        heard.analysed_seconds,
        heard.cpu_seconds
    );
}
