//! The schedule: what begins with the session, and what comes at its time.

use std::path::PathBuf;

use chrono::{DateTime, Datelike, Duration, Local, Utc};
use splimo_document::Outcome;
use splimo_link::document::NextEvent;
use splimo_show::CommandTemplate;
use splimo_show::command::Origin;
use splimo_show::due as schedule;

use super::Session;
use crate::clock::Instant;
use crate::files;

/// The time between two looks at the clock, in seconds.
const EVERY: f64 = 0.2;
/// From so many seconds on an event is missed, and not only late.
const LATE: i64 = 60;
/// What was missed longer ago than so many hours is not caught up.
const OLDEST: i64 = 24;
/// The number of events that are told beforehand.
const TOLD: usize = 7;
/// The last time that was looked at is written down every so many seconds.
const NOTED: i64 = 20;
/// A clock that shows an earlier year is not set.
const FIRST_YEAR: i32 = 2024;

/// The state of the schedule.
pub(super) struct Scheduler {
    looked: Option<Instant>,
    /// The time up to which events have come.
    seen: Option<DateTime<Utc>>,
    noted: Option<DateTime<Utc>>,
    path: Option<PathBuf>,
    /// The next events, of which edition of the show, and until when they are right.
    next: (u64, DateTime<Utc>, Vec<NextEvent>),
    begun: bool,
}

impl Scheduler {
    /// One that remembers, in a file of the state folder where a name is given, up to when events have come.
    pub(super) fn new(name: Option<&str>) -> Self {
        let path = name.map(|name| files::state_folder().join(format!("{name}.seen")));
        let read = |path: &PathBuf| {
            let seconds = std::fs::read_to_string(path).ok()?.trim().parse().ok()?;
            DateTime::from_timestamp(seconds, 0)
        };
        let seen = path.as_ref().and_then(read);
        Self { looked: None, seen, noted: None, path, next: (u64::MAX, DateTime::UNIX_EPOCH, Vec::new()), begun: false }
    }

    /// The events that come next, as they were looked for last.
    pub(super) fn next(&self) -> &[NextEvent] {
        &self.next.2
    }

    /// Writes down up to when events have come, so that what is missed meanwhile is known. Returns how that went, where it was time to.
    fn note(&mut self, now: DateTime<Utc>) -> Option<Result<(), String>> {
        let due = self.noted.is_none_or(|noted| (now - noted).num_seconds().abs() >= NOTED);
        let path = self.path.as_ref().filter(|_| due)?;
        self.noted = Some(now);
        Some(files::write(path, now.timestamp().to_string().as_bytes()).map_err(|error| error.to_string()))
    }
}

/// The fate of what is due after a time, up to the present.
#[derive(Debug, PartialEq)]
struct Judged {
    /// The events that come now, by their places.
    comes: Vec<usize>,
    /// Those that were missed and are not caught up.
    missed: Vec<usize>,
}

/// Judges what is due: what is late by less than a minute comes, what was missed comes if it says so.
fn judge(due: &[schedule::Due], catches_up: impl Fn(usize) -> bool, now: DateTime<Utc>) -> Judged {
    let comes = |due: &schedule::Due| (now - due.at).num_seconds() < LATE || catches_up(due.event);
    let (comes, missed): (Vec<&schedule::Due>, Vec<&schedule::Due>) = due.iter().partition(|due| comes(due));
    let events = |due: Vec<&schedule::Due>| due.into_iter().map(|due| due.event).collect();
    Judged { comes: events(comes), missed: events(missed) }
}

impl Session {
    /// Begins what begins with the session, and has come what is due.
    pub(super) fn mind_schedule(&mut self) {
        let now = Instant::now();
        if self.scheduler.looked.is_some_and(|looked| now.seconds_since(looked) < EVERY) {
            return;
        }
        self.scheduler.looked = Some(now);
        if !self.scheduler.begun && self.outlook.published.read().snapshot.frame > 0 {
            self.scheduler.begun = true;
            self.begin_by_itself();
        }
        if self.scheduler.begun {
            self.keep_time(Utc::now());
        }
    }

    /// Goes on where a session was that ended badly, if the show says so; else gives the commands of the start, where
    /// the schedule is on.
    fn begin_by_itself(&mut self) {
        let schedule = self.document.kept().schedule.clone();
        if schedule.go_on
            && let Some(ran) = &self.ran
        {
            let words = format!("goes on after it ended badly: {}", ran.words());
            self.say(&words);
            self.resume();
            return;
        }
        if schedule.on {
            self.give("the start", &schedule.start);
        }
    }

    fn give(&mut self, what: &str, commands: &[CommandTemplate]) {
        self.troubles().over("schedule");
        for text in commands {
            let outcome = match text.command() {
                Ok(command) => self.dispatch(&command.widened(), Origin::Schedule, None, None),
                Err(why) => Outcome::Refused(why.to_string()),
            };
            if let Outcome::Nothing(why) | Outcome::Refused(why) = outcome {
                self.say(&format!("schedule, {what}: {text}: {why}"));
                self.troubles().tell("schedule", format!("{what}: {text}: {why}"));
            }
        }
    }

    fn keep_time(&mut self, now: DateTime<Utc>) {
        let schedule = self.document.kept().schedule.clone();
        if !schedule.on {
            (self.scheduler.seen, self.scheduler.next.2) = (None, Vec::new());
            return self.troubles().over("clock");
        }
        if now.year() < FIRST_YEAR {
            let words = format!("it shows {}: nothing of the schedule comes until it is set", now.format("%Y-%m-%d"));
            return self.troubles().tell("clock", words);
        }
        self.troubles().over("clock");
        let seen = self.scheduler.seen.unwrap_or(now);
        // A clock that was put back brings nothing twice at once, and what it shows again comes again.
        if seen < now {
            let since = seen.max(now - Duration::hours(OLDEST));
            let due = schedule::between(&schedule, &Local, since, now);
            let judged = judge(&due, |event| schedule.events[event].catch_up, now);
            for event in judged.missed {
                self.say(&format!("schedule: {} was missed", schedule.events[event].name));
            }
            for event in judged.comes {
                let event = &schedule.events[event];
                self.say(&format!("schedule: {}", event.name));
                self.give(&event.name, &event.does);
            }
        }
        self.scheduler.seen = Some(now);
        // Where the disk is full the show goes on; what is missed then is not caught up.
        match self.scheduler.note(now) {
            None => {}
            Some(Ok(())) => self.troubles().over("notes"),
            Some(Err(why)) => self.troubles().tell(
                "notes",
                format!("{why}; it plays on, and does not know after a power cut where it was: make room on the disk"),
            ),
        }
        self.look_ahead(now);
    }

    /// Looks for the events that come next, where the show is another or one has come.
    fn look_ahead(&mut self, now: DateTime<Utc>) {
        let edition = self.document.edition();
        let (of, until, _) = &self.scheduler.next;
        if *of == edition && now < *until {
            return;
        }
        let schedule = &self.document.kept().schedule;
        let due = schedule::next(schedule, &Local, now, TOLD);
        // Without any, tomorrow is soon enough to look again.
        let until = due.first().map_or(now + Duration::days(1), |first| first.at);
        let told = due.iter().map(|due| NextEvent {
            at: due.at.with_timezone(&Local).format("%a %d %b %H:%M").to_string(),
            event: due.event,
        });
        self.scheduler.next = (edition, until, told.collect());
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_a_little_late_comes_and_what_was_missed_comes_if_it_says_so() {
        let now: DateTime<Utc> = "2026-11-29T22:00:30Z".parse().expect("a time");
        let at = |seconds: i64, event| schedule::Due { at: now - Duration::seconds(seconds), event };
        let due = [at(7200, 0), at(7100, 1), at(61, 2), at(30, 3), at(0, 0)];
        let judged = judge(&due, |event| event == 1, now);
        assert_eq!(judged, Judged { comes: vec![1, 3, 0], missed: vec![0, 2] });
    }

    /// A session whose schedule moves the tempo up from 100, by 1 at its first event and by 10 at its second; and the times of a day of
    /// winter.
    fn session() -> (Session, impl Fn(u32, u32, u32) -> DateTime<Utc>) {
        use chrono::TimeZone;
        let mut show = splimo_show::Show::empty("Clock");
        show.settings.tempo = 100.0;
        let event = |name: &str, hour: u32, catch_up: bool| splimo_show::ScheduledEvent {
            does: vec![format!("nudge tempo {}", if catch_up { 10 } else { 1 }).into()],
            catch_up,
            ..splimo_show::ScheduledEvent::new(name, splimo_show::DayTime::Clock(hour * 3600))
        };
        show.schedule.on = true;
        show.schedule.events = vec![event("Lamps", 20, false), event("Doors", 21, true)];
        let session = Session::start(super::super::Start::within_process(show)).expect("it starts");
        let at = |hour, minute, second| {
            let time = Local.with_ymd_and_hms(2026, 1, 20, hour, minute, second).single().expect("one such time");
            time.with_timezone(&Utc)
        };
        (session, at)
    }

    #[test]
    fn a_clock_that_is_set_brings_nothing_twice_at_once_and_what_was_missed_if_it_says_so() {
        let (mut session, at) = session();
        let come = |session: &mut Session, now: DateTime<Utc>| {
            session.keep_time(now);
            session.document.kept().settings.tempo as u32 - 100
        };
        let clock_trouble = |session: &Session| session.troubles().list().iter().any(|one| one.subject == "clock");
        // A box without a battery begins in 1970, and says that nothing comes.
        assert_eq!(come(&mut session, DateTime::UNIX_EPOCH + Duration::hours(20)), 0);
        assert!(clock_trouble(&session));
        // Set right, nothing of the years between comes.
        assert_eq!(come(&mut session, at(19, 59, 59)), 0);
        assert!(!clock_trouble(&session));
        assert_eq!(come(&mut session, at(20, 0, 0)), 1);
        assert_eq!(come(&mut session, at(20, 0, 1)), 1);
        // Put back by half an hour it brings nothing now, and the event again at its time.
        assert_eq!(come(&mut session, at(19, 30, 1)), 1);
        assert_eq!(come(&mut session, at(20, 0, 0)), 2);
        // Put on over both, what is caught up comes, once.
        assert_eq!(come(&mut session, at(19, 0, 0)), 2);
        assert_eq!(come(&mut session, at(23, 0, 0)), 12);
        // Put on by a year, what is older than a day does not come.
        assert_eq!(come(&mut session, at(12, 0, 0) + Duration::days(365)), 22);
    }
}
