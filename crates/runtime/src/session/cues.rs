//! Cues: the commands that they give where they begin, and the recording of the stage as one.

use std::time::{Duration, Instant};

use splimo_document::Outcome;
use splimo_document::edit::Edit;
use splimo_document::making;
use splimo_document::{Command, DocumentCommand, reference};
use splimo_engine::{Happening, Snapshot, StageEvent};
use splimo_show::command::{CuePlace, CueTarget, EngineCommand, Origin};
use splimo_show::{CueNumber, Show};

use super::Session;
use super::dispatch::told;
use crate::runtime::{Outlook, Runtime};

/// The longest time for which the stage of now is waited for.
const LONGEST_WAIT: Duration = Duration::from_millis(200);

impl Session {
    /// Carries out what a cue or a clip gives that has begun.
    pub(super) fn give_what_began(&mut self, happening: &Happening, show: &Show) {
        let found = match happening.event {
            StageEvent::CueBegan { list, cue } => show.cue_lists.get(list).and_then(|list| {
                let place = list.place(cue)?;
                Some((format!("{}, cue {cue}", list.name), &list.cues[place].does))
            }),
            StageEvent::ClipBegan { timeline, clip } => show.timelines.get(timeline).and_then(|timeline| {
                let clip = timeline.clips.get(clip)?;
                Some((format!("{} at {}", timeline.name, clip.at), &clip.does))
            }),
            StageEvent::Landed { .. }
            | StageEvent::Cleared { .. }
            | StageEvent::Back { .. }
            | StageEvent::Chose { .. }
            | StageEvent::GaveWay
            | StageEvent::TookBack
            | StageEvent::FellBack { .. }
            | StageEvent::CuesPaused { .. }
            | StageEvent::CuesReleased { .. }
            | StageEvent::Kept { .. }
            | StageEvent::Limited(_) => None,
        };
        let Some((who, does)) = found else { return };
        for text in does {
            let outcome = match text.command() {
                Ok(command) => self.dispatch(&command.widened(), happening.by, None, None),
                Err(why) => Outcome::Refused(why.to_string()),
            };
            if let Outcome::Nothing(why) | Outcome::Refused(why) = outcome {
                self.say(&format!("{who} asked for {text}: {why}"));
            }
        }
    }

    /// Tells a person whose look waits below a list of priority which that is.
    pub(super) fn say_what_is_kept(&self, happening: &Happening, show: &Show) {
        let StageEvent::Kept { tier, owner } = happening.event else { return };
        if matches!(happening.by, Origin::Screen(_) | Origin::CommandLine | Origin::Input(_)) {
            let tier = show.stack().get(tier).map_or("", |tier| tier.name.as_str());
            let owner = owner.name(show).unwrap_or("a list");
            self.say(&format!("{owner} keeps {tier}: what was asked for is there when it is released"));
        }
    }

    /// Records all of the stage as a new cue of a list, under its number if one is named.
    pub(super) fn record_cue(&mut self, text: &str, by: Origin) -> Outcome {
        let (name, number) = match text.parse::<CuePlace>() {
            // A list whose name has a stroke of its own comes first.
            Ok(cue) if self.document.shown().cue_list(text).is_none() => (cue.list, Some(cue.number)),
            Ok(_) | Err(_) => (text.to_owned(), None),
        };
        self.keep_cue(&name, by, "is recorded", |show, now, list| making::recorded(show, now, list, number, false))
    }

    /// Records what has changed since the last cue of a list as a new one.
    pub(super) fn record_changes(&mut self, name: &str, by: Origin) -> Outcome {
        self.keep_cue(name, by, "is recorded", |show, now, list| making::recorded(show, now, list, None, true))
    }

    /// Changes the cue that a list is at to the stage.
    pub(super) fn update_cue(&mut self, name: &str, by: Origin) -> Outcome {
        self.keep_cue(name, by, "is as the stage is", making::updated)
    }

    /// Carries out what has waited for an edition that the engine plays now.
    pub(super) fn do_afterwards(&mut self) {
        if self.afterwards.is_empty() {
            return;
        }
        let edition = self.outlook.published.read().snapshot.edition;
        let (due, later) = std::mem::take(&mut self.afterwards).into_iter().partition(|(of, ..)| *of <= edition);
        self.afterwards = later;
        let due: Vec<(u64, EngineCommand, Origin)> = due;
        for (_, command, by) in due {
            self.dispatch_to_engine(&command, by, None);
        }
    }

    fn keep_cue(
        &mut self,
        name: &str,
        by: Origin,
        done: &str,
        make: impl FnOnce(&Show, &Snapshot, usize) -> Result<(Edit, CueNumber), String>,
    ) -> Outcome {
        let (edition, show) = (self.document.edition(), self.document.shown());
        let Some(list) = show.cue_list(name) else {
            let command = Command::from(EngineCommand::GoCue(name.to_owned()));
            return Outcome::Refused(reference::unknown(&command, show).unwrap_or_default());
        };
        let made = make(show, &stage_of_now(&mut self.outlook, &self.runtime, show.settings.rate), list);
        let (edit, number) = match made {
            Ok(made) => made,
            Err(why) => return Outcome::Refused(why),
        };
        let outcome = self.dispatch(&DocumentCommand::Edit(edit).into(), by, Some(edition), None);
        if outcome != Outcome::Done {
            return outcome;
        }
        // The list is at what the stage shows, so that it goes on from there.
        let cue = CuePlace { list: name.to_owned(), number };
        let go = EngineCommand::GoToCue(CueTarget { cue, seconds: 0.0 });
        self.afterwards.push((self.document.edition(), go, by));
        told(&format!("{name}: cue {number} {done}"))
    }
}

/// The stage once everything is on it that was asked for until now: of two frames later at the most.
pub(super) fn stage_of_now(outlook: &mut Outlook, runtime: &Runtime, rate: f32) -> Snapshot {
    let (asked, start) = (runtime.now() + 1.0 / f64::from(rate), Instant::now());
    while outlook.published.read().snapshot.time < asked && start.elapsed() < LONGEST_WAIT {
        std::thread::sleep(Duration::from_millis(1));
    }
    outlook.published.read().snapshot.clone()
}

/// The reason why a list cannot go on.
pub(super) fn refuse_go(name: &str, show: &Show) -> Option<String> {
    let cues = &show.cue_lists[show.cue_list(name)?].cues;
    cues.is_empty().then(|| format!("{name} has no cues yet"))
}

/// The reason why a list cannot go to a cue.
pub(super) fn refuse_cue(cue: &CuePlace, show: &Show) -> Option<String> {
    let list = &show.cue_lists[show.cue_list(&cue.list)?];
    list.place(cue.number).is_none().then(|| format!("{} has no cue {}", cue.list, cue.number))
}
