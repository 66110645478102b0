//! Recordings that are heard beforehand for timelines, on a thread of their own, one at a time.

use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::Builder;
use std::time::{Duration, Instant};

use splimo_document::DocumentCommand;
use splimo_document::Outcome;
use splimo_document::edit::Edit;
use splimo_hear::score::Score;
use splimo_show::command::Origin;
use splimo_show::{Follows, MOST_MARKS, Marks, PartMark, Show, TimeUnit, Timeline, time_of_bar};

use super::dispatch::told;
use super::{Message, Session};
use crate::sound::{self, Channels, Sound, SoundSource};

/// After so many seconds of a recording screens are told again how far it is heard.
const TOLD_EACH: u64 = 300;

/// The longest time for which it rests after each second of a recording.
const LONGEST_REST: Duration = Duration::from_millis(200);

/// A recording that has been heard, or could not be.
pub(super) struct Heard {
    timeline: String,
    path: PathBuf,
    by: Origin,
    score: Result<Score, String>,
}

/// Progress of a recording that is being heard.
pub(super) enum Progress {
    /// So many seconds of a file have been heard.
    Seconds(PathBuf, u64),
    /// It is over.
    Over(Box<Heard>),
}

/// The hearing of recordings beforehand.
pub(super) struct Beforehand {
    /// The sound of the session: a recording that it plays is the one that is meant where none is named.
    sound: Sound,
    stopped: Arc<AtomicBool>,
    now: Option<PathBuf>,
}

impl Drop for Beforehand {
    fn drop(&mut self) {
        self.stopped.store(true, Ordering::Relaxed);
    }
}

impl Beforehand {
    pub(super) fn new(sound: Sound) -> Self {
        Self { sound, stopped: Arc::default(), now: None }
    }

    /// The recording of a name, and its channels: one beside the show, or from where the session works.
    fn recording(&self, file: &str, show: Option<&Path>) -> Result<(PathBuf, Channels), String> {
        if file.is_empty() {
            return match &self.sound.source {
                SoundSource::File(path) => Ok((path.clone(), self.sound.channels)),
                SoundSource::Silence | SoundSource::Set | SoundSource::Device(_) | SoundSource::Raw(_) => {
                    Err("this session plays no recording; name the file behind the timeline".to_owned())
                }
            };
        }
        let beside = show.and_then(Path::parent).map(|folder| folder.join(file)).filter(|path| path.exists());
        Ok((beside.unwrap_or_else(|| PathBuf::from(file)), Channels::All))
    }
}

impl Session {
    /// Begins to hear a recording for a timeline: the name of that, which may have spaces, then the file.
    pub(super) fn hear_recording(&mut self, what: &str, by: Origin) -> Outcome {
        let (timeline, file) = match named(what, self.document.shown()) {
            Ok(named) => named,
            Err(why) => return Outcome::Refused(why),
        };
        if let Some(now) = &self.beforehand.now {
            return Outcome::Refused(format!("{} is being heard; ask again when that is over", now.display()));
        }
        let (path, channels) = match self.beforehand.recording(&file, self.path.as_deref()) {
            Ok(recording) => recording,
            Err(why) => return Outcome::Refused(why),
        };
        // What cannot be opened is said at once.
        if let Err(error) = sound::File::open(&path) {
            return Outcome::Refused(error.to_string());
        }
        let (stopped, messages) = (self.beforehand.stopped.clone(), self.messages.0.clone());
        let work = {
            let path = path.clone();
            move || {
                let mut since = Instant::now();
                let score = sound::score(&path, channels, |seconds| {
                    // It rests as long as it works: the lights come first, also where there are two cores.
                    std::thread::sleep(since.elapsed().min(LONGEST_REST));
                    since = Instant::now();
                    if seconds.is_multiple_of(TOLD_EACH) {
                        let _ = messages.try_send(Message::Heard(Progress::Seconds(path.clone(), seconds)));
                    }
                    !stopped.load(Ordering::Relaxed)
                });
                let heard = Heard { timeline, path, by, score };
                let _ = messages.send(Message::Heard(Progress::Over(Box::new(heard))));
            }
        };
        if let Err(error) = Builder::new().name("beforehand".into()).spawn(work) {
            return Outcome::Refused(format!("there is no thread to hear it: {error}"));
        }
        let said = told(&format!("{} is being heard", path.display()));
        self.beforehand.now = Some(path);
        said
    }

    /// Puts what was heard onto the ruler of its timeline.
    pub(super) fn take_heard(&mut self, progress: Progress) {
        let heard = match progress {
            Progress::Seconds(path, seconds) => {
                return self.say(&format!("{}: {} minutes are heard", path.display(), seconds / 60));
            }
            Progress::Over(heard) => *heard,
        };
        self.beforehand.now = None;
        let Heard { timeline, path, by, score } = heard;
        let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
        let marks = match score {
            Ok(score) => marks(name, score),
            Err(why) => return self.say(&why),
        };
        let (edition, show) = (self.document.edition(), self.document.shown());
        let Some(place) = show.timeline(&timeline) else {
            return self.say(&format!("{timeline} is gone; what was heard in {} is left out", marks.recording));
        };
        let counts = format!("{} beats, {} bars, {} parts", marks.beats.len(), marks.bars.len(), marks.parts.len());
        let said = format!("{timeline}: {counts} of {} are on the ruler", marks.recording);
        let line = Timeline { marks: Some(marks), ..show.timelines[place].clone() };
        let edit = DocumentCommand::Edit(Edit::PutTimeline(place, line));
        match self.dispatch(&edit.into(), by, Some(edition), None) {
            Outcome::Done => self.say(&said),
            Outcome::Told(why) | Outcome::Nothing(why) | Outcome::Refused(why) => self.say(&why),
        }
    }

    /// Has the recording that plays go to a place of a timeline that follows it, which leads the timeline there.
    pub(super) fn wind_recording(&self, name: &str, at: f64) {
        let show = self.document.shown();
        let Some(line) = show.timeline(name).and_then(|place| show.timelines.get(place)) else { return };
        let Some(now) = self.runtime.recording().filter(|_| line.follows == Follows::Recording) else {
            return;
        };
        let bars = line.marks.as_ref().map_or(&[][..], |marks| marks.bars.as_slice());
        let seconds = match line.unit {
            TimeUnit::Seconds => at,
            TimeUnit::Bars => time_of_bar(bars, at).unwrap_or(at * 240.0 / f64::from(show.settings.tempo.max(1.0))),
        };
        self.runtime.seek((seconds - now.seconds) as f32);
    }
}

/// The timeline of a text, and the file behind its name, which may be missing.
fn named(what: &str, show: &Show) -> Result<(String, String), String> {
    let what = what.trim();
    let found = show.timelines.iter().filter_map(|line| {
        let file = what.strip_prefix(line.name.as_str())?;
        (file.is_empty() || file.starts_with(' ')).then(|| (line.name.clone(), file.trim().to_owned()))
    });
    found.max_by_key(|(name, _)| name.len()).ok_or_else(|| {
        let known: Vec<&str> = show.timelines.iter().map(|line| line.name.as_str()).collect();
        match known.is_empty() {
            true => "there is no timeline yet; add one first (T on Cues, Timeline)".to_owned(),
            false => format!("\"{what}\" begins with no timeline; there is {}", known.join(", ")),
        }
    })
}

fn marks(recording: String, mut score: Score) -> Marks {
    score.beats.truncate(MOST_MARKS);
    score.bars.truncate(MOST_MARKS);
    score.parts.truncate(MOST_MARKS);
    let part = |part: splimo_hear::score::Part| PartMark { at: part.start, kind: part.kind.name().to_owned() };
    let positive = |times: Vec<f64>| times.into_iter().map(|time| time.max(0.0)).collect();
    Marks {
        recording,
        beats: positive(score.beats),
        bars: positive(score.bars),
        parts: score.parts.into_iter().map(part).collect(),
    }
}
