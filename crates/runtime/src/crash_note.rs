//! The crash note: what runs, noted while it does. After a kill or a power cut the next start offers it.

use std::fs;
use std::path::PathBuf;
use std::sync::Arc;
use std::thread::{Builder, JoinHandle};

use crossbeam_channel::{Sender, bounded};
use serde::{Deserialize, Serialize};
use splimo_engine::{RotationState, Snapshot};
use splimo_show::Show;
use splimo_show::command::{CuePlace, CueTarget, EngineCommand, NamedLevel, Origin, TimelinePlace};
use splimo_time::tempo::ClockSource;

use crate::clock::Instant;
use crate::files;

/// The number of times that it is noted at the most, in seconds.
const PAUSE: f64 = 1.0;

/// The steps in which the place of a timeline is noted, in its unit.
const NOTED: f64 = 4.0;

/// The state of a running show.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Running {
    /// The look of the lowest tier that shows one.
    pub look: Option<String>,
    /// The tiers that show something, or are not as they begin.
    #[serde(default)]
    pub tiers: Vec<RunningTier>,
    /// The master, in percent.
    pub master: f32,
    /// True if all is dark.
    pub blackout: bool,
    /// The tempo, where nobody is heard who sets it.
    pub tempo: Option<f32>,
    /// True if the rotation is on.
    #[serde(default)]
    pub rotates: bool,
    /// The cue lists that run.
    #[serde(default)]
    pub lists: Vec<RunningList>,
    /// The timelines that run.
    #[serde(default)]
    pub timelines: Vec<RunningTimeline>,
}

/// The place of a cue list of a running show.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct RunningList {
    /// The cue that it is at.
    pub at: CuePlace,
    /// True if it is held.
    pub paused: bool,
}

/// The place of a timeline of a running show.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct RunningTimeline {
    /// Its name, and its place: that of a moment ago, so that not every moment is written down.
    pub at: TimelinePlace,
    /// True if it is held.
    pub paused: bool,
}

/// The state of a tier of a running show.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct RunningTier {
    /// Its name.
    pub name: String,
    /// The look that it shows for good.
    pub look: Option<String>,
    /// True if a cue list put the look there, and puts it there again.
    #[serde(default)]
    pub of_list: bool,
    /// Its level, in percent.
    pub level: f32,
    /// True if it is not seen.
    pub mute: bool,
    /// True if only it, and others that are solo, are seen.
    pub solo: bool,
}

impl Running {
    /// The running show according to a snapshot.
    #[must_use]
    pub fn of(show: &Show, snapshot: &Snapshot) -> Self {
        let by_hand = matches!(snapshot.clock.source, ClockSource::Set | ClockSource::Tapped | ClockSource::Held);
        let named = |look: usize| show.looks.get(look).map(|look| look.name.clone());
        let tiers = show.stack().iter().zip(&snapshot.tiers).map(|(tier, state)| RunningTier {
            name: tier.name.clone(),
            look: if state.held { state.below } else { state.look }.and_then(named),
            of_list: matches!(state.by, Origin::List(_) | Origin::Timeline(_)),
            level: (state.level * 100.0).round(),
            mute: state.mute,
            solo: state.solo,
        });
        let tiers: Vec<RunningTier> = tiers.filter(|tier| !tier.is_plain()).collect();
        Self {
            look: tiers.iter().find_map(|tier| tier.look.clone()),
            tiers,
            master: (snapshot.master * 100.0).round(),
            blackout: snapshot.blackout,
            tempo: by_hand.then(|| (snapshot.clock.bpm * 10.0).round() / 10.0),
            rotates: snapshot.rotation != RotationState::Off,
            lists: running_lists(show, snapshot),
            timelines: running_timelines(show, snapshot),
        }
    }

    /// In a few words.
    #[must_use]
    pub fn words(&self) -> String {
        let looks: Vec<&str> = self.tiers.iter().filter_map(|tier| tier.look.as_deref()).collect();
        let looks = if looks.is_empty() { self.look.as_deref().into_iter().collect() } else { looks };
        let on = if looks.is_empty() { "nothing".to_owned() } else { looks.join(" and ") };
        let dark = if self.blackout { ", blacked out" } else { "" };
        format!("{on} on stage, master {:.0}{dark}", self.master)
    }

    /// True if it is what a fresh start is too, so that there is nothing to go on with.
    fn is_plain(&self) -> bool {
        let Self { look, tiers, master, blackout, tempo: _, rotates, lists, timelines } = self;
        let nothing_runs = lists.is_empty() && timelines.is_empty() && !rotates;
        look.is_none() && tiers.is_empty() && *master == 100.0 && !blackout && nothing_runs
    }

    /// The commands that lead there from a fresh start.
    #[must_use]
    pub fn commands(&self) -> Vec<EngineCommand> {
        let mut commands = vec![EngineCommand::Master(self.master)];
        commands.extend(self.tempo.map(EngineCommand::Tempo));
        if let Some(look) = self.look.as_ref().filter(|_| self.tiers.is_empty()) {
            commands.push(EngineCommand::CutTo(look.clone()));
        }
        commands.extend(self.tiers.iter().flat_map(RunningTier::commands));
        for RunningList { at, paused } in &self.lists {
            commands.push(EngineCommand::GoToCue(CueTarget { cue: at.clone(), seconds: 0.0 }));
            commands.extend(paused.then(|| EngineCommand::PauseCues(at.list.clone())));
        }
        for RunningTimeline { at, paused } in &self.timelines {
            commands.push(EngineCommand::PlayTimeline(at.name.clone()));
            commands.push(EngineCommand::SeekTimeline(at.clone()));
            commands.extend(paused.then(|| EngineCommand::HoldTimeline(at.name.clone())));
        }
        if self.rotates {
            commands.push(EngineCommand::Rotate(true));
        }
        if self.blackout {
            commands.push(EngineCommand::Blackout);
        }
        commands
    }
}

impl RunningTier {
    fn is_plain(&self) -> bool {
        self.look.is_none() && self.level == 100.0 && !self.mute && !self.solo
    }

    fn commands(&self) -> Vec<EngineCommand> {
        let Self { name, look, level, mute, solo, of_list } = self;
        let mut commands: Vec<EngineCommand> =
            look.iter().filter(|_| !of_list).map(|look| EngineCommand::CutTo(format!("{name}/{look}"))).collect();
        let level = NamedLevel { name: name.clone(), percent: *level };
        commands.extend((level.percent != 100.0).then_some(EngineCommand::TierLevel(level)));
        commands.extend(mute.then(|| EngineCommand::MuteTier(name.clone())));
        commands.extend(solo.then(|| EngineCommand::SoloTier(name.clone())));
        commands
    }
}

/// The timelines that run.
fn running_timelines(show: &Show, snapshot: &Snapshot) -> Vec<RunningTimeline> {
    let timelines = show.timelines.iter().zip(&snapshot.timelines).filter(|(_, state)| state.runs);
    let place = |at: f64| (at / NOTED).floor() * NOTED;
    timelines
        .map(|(line, state)| RunningTimeline {
            at: TimelinePlace { name: line.name.clone(), at: place(state.at) },
            paused: state.paused,
        })
        .collect()
}

/// The lists that run, those of lower priority first, so that the others have what they share.
fn running_lists(show: &Show, snapshot: &Snapshot) -> Vec<RunningList> {
    let lists = show.cue_lists.iter().zip(&snapshot.lists);
    let mut running: Vec<(u8, RunningList)> = lists
        .filter_map(|(list, state)| {
            let number = list.cues.get(state.at?)?.number;
            let at = CuePlace { list: list.name.clone(), number };
            Some((list.priority, RunningList { at, paused: state.paused }))
        })
        .collect();
    running.sort_by_key(|(priority, _)| *priority);
    running.into_iter().map(|(_, list)| list).collect()
}

/// The content of the file: what runs, and the process that runs it.
#[derive(Debug, Serialize, Deserialize)]
struct Noted {
    process: u32,
    running: Running,
}

/// Notes what runs in a file of the state folder, on a thread of its own.
pub struct CrashNote {
    path: PathBuf,
    found: Option<Running>,
    last: Option<Running>,
    written: Option<Instant>,
    send: Option<Sender<Arc<Noted>>>,
    thread: Option<JoinHandle<()>>,
}

impl CrashNote {
    /// The note of a document, with what it says from before, unless the one that wrote it still runs.
    ///
    /// # Errors
    /// If the system gives no thread.
    pub fn of(document: &str) -> std::io::Result<Self> {
        Self::at(place_of(document))
    }

    /// Notes what runs for another document from now on, as after it was saved under another name: what the old name had is
    /// forgotten, since it does not run any more, and what the new one had is written over.
    ///
    /// # Errors
    /// If the system gives no thread; it goes on under the old name then.
    pub fn go_over(&mut self, document: &str) -> std::io::Result<()> {
        self.go_to(place_of(document))
    }

    fn go_to(&mut self, path: PathBuf) -> std::io::Result<()> {
        if path != self.path {
            let next = Self::at(path)?;
            self.left();
            *self = Self { found: None, ..next };
        }
        Ok(())
    }

    /// The note in a file.
    fn at(path: PathBuf) -> std::io::Result<Self> {
        let noted = fs::read_to_string(&path).ok().and_then(|text| serde_json::from_str::<Noted>(&text).ok());
        let ended = noted.filter(|noted| !runs(noted.process) && !noted.running.is_plain());
        let found = ended.map(|noted| noted.running);
        let (send, receive) = bounded::<Arc<Noted>>(1);
        let theirs = path.clone();
        let work = move || {
            for noted in receive {
                let text = serde_json::to_vec(noted.as_ref()).unwrap_or_default();
                if let Err(error) = files::write(&theirs, &text) {
                    tracing::warn!(%error, "what runs cannot be noted");
                }
            }
        };
        let thread = Some(Builder::new().name("running".into()).spawn(work)?);
        Ok(Self { path, found, last: None, written: None, send: Some(send), thread })
    }

    /// The show that ran when it ended badly the last time.
    #[must_use]
    pub fn found(&self) -> Option<&Running> {
        self.found.as_ref()
    }

    /// Notes what runs, if it is another and the last was noted a while ago. Never waits.
    pub fn keep(&mut self, running: Running) {
        let now = Instant::now();
        // What darkens the stage is noted at once.
        let light = |running: &Running| (running.blackout, running.master);
        let same = self.last.as_ref().is_some_and(|last| light(last) == light(&running));
        let early = same && self.written.is_some_and(|written| now.seconds_since(written) < PAUSE);
        if self.last.as_ref() == Some(&running) || early {
            return;
        }
        let noted = Arc::new(Noted { process: std::process::id(), running: running.clone() });
        if self.send.as_ref().is_some_and(|send| send.try_send(noted).is_ok()) {
            (self.last, self.written) = (Some(running), Some(now));
        }
    }

    /// Forgets it: a person left. What is being written is written first, or it would be there afterwards.
    pub fn left(&mut self) {
        self.send = None;
        if let Some(thread) = self.thread.take() {
            let _ = thread.join();
        }
        let _ = fs::remove_file(&self.path);
    }
}

/// The file of a document's note: a name that is the same for the same document, and can be a file's.
fn place_of(document: &str) -> PathBuf {
    let name: String = document.chars().map(|c| if c.is_alphanumeric() { c } else { '-' }).collect();
    let short = name.chars().rev().take(120).collect::<Vec<_>>().into_iter().rev().collect::<String>();
    files::state_folder().join(format!("{short}.running"))
}

/// True if another process of this number is there and is Splimo: after a new start of the machine the number may be anybody's,
/// and one that was killed may still be waited for.
fn runs(process: u32) -> bool {
    let stat = |process: u32| fs::read_to_string(format!("/proc/{process}/stat")).unwrap_or_default();
    process != std::process::id() && lives(&stat(process), &stat(std::process::id()))
}

/// True if the first of two processes lives and has the name of the second, by what the system tells of them: a number, the
/// name in brackets, the state (proc(5)).
fn lives(stat: &str, own: &str) -> bool {
    let parts = |stat: &str| {
        let (name, rest) = stat.split_once('(')?.1.rsplit_once(')')?;
        Some((name.to_owned(), rest.trim_start().chars().next()?))
    };
    match (parts(stat), parts(own)) {
        (Some((name, state)), Some((own, _))) => name == own && !matches!(state, 'Z' | 'X'),
        _ => false,
    }
}

#[cfg(test)]
mod tests {
    use splimo_document::Command;

    use super::*;

    fn tide() -> Running {
        Running {
            look: Some("Tide".into()),
            tiers: Vec::new(),
            master: 80.0,
            blackout: false,
            tempo: None,
            rotates: false,
            lists: Vec::new(),
            timelines: Vec::new(),
        }
    }

    #[test]
    fn what_ran_is_reached_again() {
        let tier = |name: &str, look: Option<&str>| RunningTier {
            name: name.into(),
            look: look.map(str::to_owned),
            of_list: false,
            level: 100.0,
            mute: false,
            solo: false,
        };
        let tiers = vec![tier("base", Some("Tide")), RunningTier { level: 40.0, mute: true, ..tier("top", None) }];
        let lists = vec![RunningList { at: "Opening/4.5".parse().expect("a cue"), paused: true }];
        let tiers = [tiers, vec![RunningTier { of_list: true, ..tier("words", Some("Beacon")) }]].concat();
        let at = TimelinePlace { name: "Song".into(), at: 12.0 };
        let timelines = vec![RunningTimeline { at, paused: false }];
        let running = Running { tiers, blackout: true, rotates: true, tempo: Some(127.5), lists, timelines, ..tide() };
        let commands = running.commands().into_iter().map(|command| Command::from(command).to_string());
        assert_eq!(
            commands.collect::<Vec<_>>(),
            [
                "master 80",
                "tempo 127.5",
                "cut-to base/Tide",
                "tier-level top 40",
                "mute-tier top",
                "go-to-cue Opening/4.5",
                "pause-cues Opening",
                "play-timeline Song",
                "seek-timeline Song 12",
                "rotate on",
                "blackout"
            ]
        );
        assert_eq!(running.words(), "Tide and Beacon on stage, master 80, blacked out");
        let text = serde_json::to_string(&running).expect("it can be written");
        assert_eq!(serde_json::from_str::<Running>(&text).ok(), Some(running));
    }

    #[test]
    fn one_that_runs_is_not_offered_and_one_that_is_gone_is() {
        let own = "77 (splimo) R 1 77";
        assert!(lives("99 (splimo) S 1 99", own));
        for gone in ["", "99 (splimo) Z 1 99", "99 (sh) S 1 99", "99 (a) splimo) S 1 99", "nonsense"] {
            assert!(!lives(gone, own), "{gone}");
        }
        assert!(!runs(std::process::id()) && !runs(4_194_305));
    }

    #[test]
    fn what_a_person_left_is_not_offered_even_where_it_was_just_being_noted() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("night.running");
        let running = tide();
        for _ in 0..20 {
            let mut note = CrashNote::at(path.clone()).expect("a thread");
            note.keep(running.clone());
            note.left();
            assert!(!path.exists());
        }
        // Where nobody left, it is there the next time, for another process.
        let mut note = CrashNote::at(path.clone()).expect("a thread");
        note.keep(running.clone());
        while !path.exists() {
            std::thread::sleep(std::time::Duration::from_millis(5));
        }
        let text = fs::read_to_string(&path).expect("it is there");
        let other = text.replace(&std::process::id().to_string(), "4194305");
        fs::write(&path, other).expect("writes");
        assert_eq!(CrashNote::at(path).expect("a thread").found(), Some(&running));
    }

    #[test]
    fn what_was_saved_under_another_name_is_noted_under_that() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("old.running");
        let running = tide();
        let written = |path: &std::path::Path| {
            while !path.exists() {
                std::thread::sleep(std::time::Duration::from_millis(5));
            }
        };
        let mut note = CrashNote::at(path.clone()).expect("a thread");
        note.keep(running.clone());
        written(&path);
        let other = folder.path().join("new.running");
        note.go_to(other.clone()).expect("a thread");
        assert!(!path.exists() && note.found().is_none());
        // The same is noted again, at once.
        note.keep(running);
        written(&other);
        note.go_to(other.clone()).expect("it is there already");
        assert!(other.exists());
        note.left();
        assert!(!other.exists());
        assert_ne!(place_of("/shows/night.splimo"), place_of("/shows/day.splimo"));
    }
}
