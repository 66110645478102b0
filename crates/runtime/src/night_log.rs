//! The night log: everything that was fired, by whom, when in time and bar, and what changed on the stage with it. The last lines
//! are kept for screens; all go into a file, on a thread of its own.

use std::collections::VecDeque;
use std::fs::{self, File, OpenOptions};
use std::io::Write;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::thread::{Builder, JoinHandle};

use crossbeam_channel::{Receiver, Sender, bounded};
use splimo_document::Command;
use splimo_engine::{ClockState, Happening, StageEvent};
use splimo_link::night::{MOST_LINES, NightLine};
use splimo_show::Show;
use splimo_show::command::Origin;

use crate::clock;

/// The file is begun anew when it is larger than this; the one before is kept.
const LARGEST: u64 = 2 << 20;

/// Lines that wait to be written at the most.
const WAITING: usize = 1024;

/// The time within which a command that moves something on and on stays one line, in seconds of the day.
const ONE_LINE: u32 = 2;

/// The night log.
pub struct NightLog {
    path: Option<PathBuf>,
    lines: VecDeque<NightLine>,
    /// The number of the last line.
    last: u64,
    /// True if the last line is not in the file yet, since it may go on.
    open: bool,
    /// The words with which the last line goes on, who said them, and how often.
    continues: Option<(Origin, String, u32)>,
    writer: Option<(Sender<String>, JoinHandle<()>)>,
    /// The names of the inputs, by their numbers.
    inputs: Vec<Arc<str>>,
}

impl NightLog {
    /// A log in a file, or in memory only.
    #[must_use]
    pub fn new(path: Option<PathBuf>) -> Self {
        let writer = path.clone().and_then(|path| {
            let (send, receive) = bounded(WAITING);
            let thread = Builder::new().name("night".into()).spawn(move || write(&path, &receive)).ok()?;
            Some((send, thread))
        });
        Self {
            path,
            lines: VecDeque::with_capacity(MOST_LINES),
            last: 0,
            open: false,
            continues: None,
            writer,
            inputs: Vec::new(),
        }
    }

    /// The file that it is written into.
    #[must_use]
    pub fn path(&self) -> Option<&Path> {
        self.path.as_deref()
    }

    /// The number of the last line.
    #[must_use]
    pub fn last(&self) -> u64 {
        self.last
    }

    /// Takes note of the names of the inputs.
    pub fn name_inputs(&mut self, names: &[Arc<str>]) {
        if self.inputs != names {
            self.inputs = names.to_vec();
        }
    }

    /// The words for whoever did something.
    #[must_use]
    pub fn who(&self, by: Origin) -> String {
        match by {
            Origin::Session => "splimo".to_owned(),
            Origin::Screen(number) => format!("screen {number}"),
            Origin::CommandLine => "splimo do".to_owned(),
            Origin::ArtNet => "art-net".to_owned(),
            Origin::Input(number) => {
                self.inputs.get(usize::from(number)).map_or("an input".to_owned(), |name| name.to_string())
            }
            Origin::Rotation => "rotation".to_owned(),
            Origin::Timeline(_) => "a timeline".to_owned(),
            Origin::Schedule => "schedule".to_owned(),
            Origin::List(_) => "a cue list".to_owned(),
        }
    }

    /// The lines from a number on.
    pub fn since(&self, number: u64) -> impl Iterator<Item = &NightLine> {
        self.lines.iter().filter(move |line| line.number >= number)
    }

    /// Takes note of something that was asked for. What moves something on and on, such as a master, and what is done again and
    /// again, such as an edit of a look, goes on in one line.
    pub fn asked(&mut self, by: Origin, command: &Command, what: String, clock: &ClockState) {
        let time = now();
        let goes_on = words_that_go_on(command, &what).map(str::to_owned);
        let known = self.continues.take();
        let known = known.filter(|(who, words, _)| self.open && *who == by && goes_on.as_ref() == Some(words));
        let last = self.lines.back_mut().filter(|line| time.wrapping_sub(line.time) <= ONE_LINE);
        let times = match (last, known) {
            (Some(line), Some((.., times))) => {
                (line.what, line.time) = (format!("{what}, the last of {}", times + 1), time);
                times + 1
            }
            (_, _) => {
                self.add(time, clock.beat, clock.bar_beats, by, what, true);
                1
            }
        };
        self.continues = goes_on.map(|words| (by, words, times));
    }

    /// Takes note of what happened on the stage of a show.
    pub fn happened(&mut self, happening: &Happening, show: &Show) {
        let what = words(&happening.event, show);
        self.add(now(), happening.beat, happening.bar_beats, happening.by, what, false);
        self.continues = None;
    }

    fn add(&mut self, time: u32, beat: f64, bar_beats: u32, by: Origin, what: String, asked: bool) {
        self.close();
        // Somebody on the network may have given a name; whoever reads the file does so in a terminal.
        let what = splimo_wire::shown(&what);
        if self.lines.len() == MOST_LINES {
            self.lines.pop_front();
        }
        self.last += 1;
        let bar = f64::from(bar_beats.max(1));
        let place = [(beat / bar).floor() as i64 + 1, beat.rem_euclid(bar) as i64 + 1];
        let by = self.who(by);
        self.lines.push_back(NightLine { number: self.last, time, bar: place, by, what, asked });
        self.open = true;
    }

    /// Writes the last line: it does not go on.
    fn close(&mut self) {
        if let (true, Some(line), Some((writer, _))) = (std::mem::take(&mut self.open), self.lines.back(), &self.writer)
        {
            let mark = if line.asked { ">" } else { " " };
            // Where the disk takes nothing the lines are on the screens all the same.
            let _ = writer.try_send(format!(
                "{} {}  bar {:<8} {mark} {:<14} {}\n",
                chrono::Local::now().format("%Y-%m-%d"),
                line.clock(),
                line.place(),
                line.by,
                line.what
            ));
        }
    }

    /// Writes the last line where it has been the last for a while.
    pub fn settle(&mut self) {
        if self.open && self.lines.back().is_some_and(|line| now().wrapping_sub(line.time) > ONE_LINE) {
            self.close();
        }
    }
}

impl Drop for NightLog {
    fn drop(&mut self) {
        self.close();
        if let Some((writer, thread)) = self.writer.take() {
            drop(writer);
            let _ = thread.join();
        }
    }
}

/// The words that are the same each time a command is one of many that go on: those before a level, or all of an edit.
fn words_that_go_on<'w>(command: &Command, what: &'w str) -> Option<&'w str> {
    match command {
        Command::Engine(_) if command.is_gradual() => what.rsplit_once(' ').map(|(words, _)| words),
        Command::Document(_) => Some(what),
        Command::Engine(_) | Command::Session(_) => None,
    }
}

fn now() -> u32 {
    clock::time_of_day().map_or(0, |seconds| seconds as u32)
}

fn write(path: &Path, lines: &Receiver<String>) {
    let open = || -> std::io::Result<File> {
        if let Some(folder) = path.parent() {
            fs::create_dir_all(folder)?;
        }
        if fs::metadata(path).is_ok_and(|file| file.len() > LARGEST) {
            fs::rename(path, path.with_extension("night.1"))?;
        }
        OpenOptions::new().create(true).append(true).open(path)
    };
    for line in lines {
        let written = open().and_then(|mut file| {
            let more: String = lines.try_iter().collect();
            file.write_all(line.as_bytes())?;
            file.write_all(more.as_bytes())
        });
        if let Err(error) = written {
            tracing::warn!(%error, "the night log cannot be written");
        }
    }
}

fn words(event: &StageEvent, show: &Show) -> String {
    let look = |place: usize| show.looks.get(place).map_or("a look that is gone", |look| look.name.as_str());
    let tier = |place: usize| show.stack().get(place).map_or("a tier that is gone", |tier| tier.name.as_str());
    let list = |place: usize| show.cue_lists.get(place).map_or("a cue list that is gone", |list| list.name.as_str());
    match *event {
        StageEvent::Landed { tier: on, look: what, fade } if fade > 0.0 => {
            format!("{} lands on {}, fading in over {fade} beats", look(what), tier(on))
        }
        StageEvent::Landed { tier: on, look: what, .. } => format!("{} lands on {}", look(what), tier(on)),
        StageEvent::Cleared { tier: on } => format!("{} is cleared", tier(on)),
        StageEvent::Back { tier: on, look: Some(what) } => format!("{} is back on {}", look(what), tier(on)),
        StageEvent::Back { tier: on, look: None } => format!("{} is clear again", tier(on)),
        StageEvent::Chose { look: what, section, of } => {
            format!("chose {}: one of {of} that fit, {} is heard", look(what), section.name())
        }
        StageEvent::GaveWay => "the rotation gives way".to_owned(),
        StageEvent::TookBack => "the rotation takes its tier back".to_owned(),
        StageEvent::FellBack { look: Some(what) } => format!("nothing else is on: {} is", look(what)),
        StageEvent::FellBack { look: None } => "the fallback ends".to_owned(),
        StageEvent::CueBegan { list: of, cue } => format!("{} begins cue {cue}", list(of)),
        StageEvent::CuesPaused { list: of, paused: true } => format!("{} is held", list(of)),
        StageEvent::CuesPaused { list: of, paused: false } => format!("{} goes on", list(of)),
        StageEvent::ClipBegan { timeline, clip } => {
            let of = show.timelines.get(timeline);
            let at = of.and_then(|of| of.clips.get(clip)).map_or(0.0, |clip| clip.at);
            format!("{} is at {at}", of.map_or("a timeline that is gone", |of| of.name.as_str()))
        }
        StageEvent::CuesReleased { list: of } => format!("{} is released", list(of)),
        StageEvent::Kept { tier: on, owner } => {
            format!("{} keeps {} until it is released", owner.name(show).unwrap_or("a list that is gone"), tier(on))
        }
        StageEvent::Limited(true) => "the strobe limit holds light back".to_owned(),
        StageEvent::Limited(false) => "the strobe limit rests".to_owned(),
    }
}

#[cfg(test)]
mod tests {
    use splimo_show::Look;

    use super::*;

    fn landed(beat: f64) -> Happening {
        let event = StageEvent::Landed { tier: 0, look: 0, fade: 2.0 };
        Happening { edition: 0, time: 1.0, beat, bar_beats: 4, by: Origin::Screen(2), event }
    }

    #[test]
    fn what_is_asked_and_what_happens_is_a_line_each_in_the_file() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("night/one.night");
        let mut show = Show::empty("Night");
        show.looks = vec![Look::new("Tide", Vec::new())];
        let clock = ClockState { beat: 6.5, ..ClockState::default() };
        let mut log = NightLog::new(Some(path.clone()));
        let command = |text: &str| text.parse::<Command>().expect("a command");
        log.asked(Origin::Screen(2), &command("fire-pad 1"), "fire-pad 1 (Tide)".into(), &clock);
        log.happened(&landed(8.0), &show);
        for percent in [90, 80, 70] {
            let what = format!("master {percent}");
            log.asked(Origin::CommandLine, &command(&what), what, &clock);
        }
        assert_eq!(
            log.since(2).map(|line| line.what.as_str()).collect::<Vec<_>>(),
            ["Tide lands on base, fading in over 2 beats", "master 70, the last of 3"]
        );
        drop(log);
        let text = fs::read_to_string(&path).expect("the file");
        let lines: Vec<&str> = text.lines().map(|line| &line[21..]).collect();
        assert_eq!(
            lines,
            [
                "bar 2.3      > screen 2       fire-pad 1 (Tide)",
                "bar 3.1        screen 2       Tide lands on base, fading in over 2 beats",
                "bar 2.3      > splimo do      master 70, the last of 3",
            ]
        );
    }

    #[test]
    fn memory_and_file_are_bounded() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("long.night");
        fs::write(&path, vec![b'x'; LARGEST as usize + 1]).expect("a long one");
        let mut log = NightLog::new(Some(path.clone()));
        for beat in 0..2 * MOST_LINES {
            log.happened(&landed(beat as f64), &Show::empty("Gone"));
        }
        assert_eq!((log.since(0).count(), log.last()), (MOST_LINES, 2 * MOST_LINES as u64));
        assert!(log.since(0).all(|line| line.what.contains("a look that is gone")));
        drop(log);
        assert!(fs::metadata(&path).expect("the file").len() < LARGEST);
        assert!(path.with_extension("night.1").exists());
    }
}
