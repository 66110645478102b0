//! Cues and the schedule of a session, from what is asked or due to what the engine does.

use std::time::Duration;

use chrono::{Local, Timelike};
use splimo_document::DocumentCommand;
use splimo_document::Outcome;
use splimo_show::command::{EngineCommand, LanePlace, SessionCommand, TimelinePlace};
use splimo_show::{
    Clip, Cue, CueList, DayTime, Follows, Input, InputKind, Lane, LaneKind, Look, Pattern, Schedule, ScheduledEvent,
    Show, Tier, TimeUnit, Timeline,
};

use super::Start;
use super::tests::{Running, Screening};

fn show() -> Show {
    let mut show = Show::empty("Evening");
    show.looks = ["Tide", "Gale", "Low"].map(|name| Look::new(name, Vec::new())).to_vec();
    show.tiers = ["base", "top"].map(Tier::new).to_vec();
    show.settings.lands = splimo_show::Boundary::Now;
    (show.settings.fade_beats, show.settings.cue_back_fade) = (0.0, 0.0);
    show.give_banks();
    let mut list = CueList::new("Opening");
    for (number, look) in [("1", "Tide"), ("2", "Gale"), ("3", "Low")] {
        list.cues.push(Cue::of_look(number.parse().expect("a number"), "base", look));
    }
    show.cue_lists = vec![list];
    show
}

fn go() -> EngineCommand {
    EngineCommand::GoCue("Opening".to_owned())
}

fn at(screen: &mut Screening, cue: Option<usize>) {
    screen.wait("the cue", |screen| screen.engine.lists.first().is_some_and(|list| list.at == cue));
}

#[test]
fn a_cue_gives_its_commands_and_says_what_it_could_not_do() {
    let mut show = show();
    show.cue_lists[0].cues[1].does = vec!["master 40".into(), "fire-pad 36".into(), "go-cue Opening".into()];
    let session = Running::of(show);
    let mut screen = session.screen();
    assert_eq!(screen.ask(go()), Outcome::Done);
    assert_eq!(screen.ask(go()), Outcome::Done);
    at(&mut screen, Some(2));
    screen.wait("the master", |screen| (screen.engine.master - 0.4).abs() < 1e-3);
    screen.wait("words", |screen| screen.said.iter().any(|said| said.contains("Opening, cue 2 asked for fire-pad 36")));
    screen.wait("the log", |screen| {
        let has = |words: &str| screen.night.iter().any(|line| line.what.contains(words));
        has("Opening begins cue 2") && has("Opening begins cue 3")
    });
}

#[test]
fn the_stage_is_recorded_updated_and_taken_back() {
    let session = Running::of(show());
    let mut screen = session.screen();
    assert_eq!(screen.ask(go()), Outcome::Done);
    screen.ask(EngineCommand::CutTo("top/Low".into()));
    let Outcome::Told(words) = screen.ask(SessionCommand::RecordChanges("Opening".into())) else { panic!("not told") };
    assert_eq!(words, "Opening: cue 1.5 is recorded");
    at(&mut screen, Some(1));
    let cue = screen.document.kept().cue_lists[0].cues[1].clone();
    assert_eq!(cue.tiers.iter().map(|tier| format!("{} {}", tier.tier, tier.words())).collect::<Vec<_>>(), ["top Low"]);
    screen.ask(EngineCommand::CutTo("top/Gale".into()));
    let Outcome::Told(words) = screen.ask(SessionCommand::UpdateCue("Opening".into())) else { panic!("not told") };
    assert_eq!(words, "Opening: cue 1.5 is as the stage is");
    assert_eq!(screen.document.kept().cue_lists[0].cues[1].tiers[0].look.as_deref(), Some("Gale"));
    for _ in 0..2 {
        assert!(matches!(screen.ask(DocumentCommand::Undo), Outcome::Told(_)));
    }
    assert_eq!(screen.document.kept().cue_lists[0].cues.len(), 3);
    at(&mut screen, Some(0));
    for (command, why) in [
        (SessionCommand::RecordCue("Encore".into()), "there is no cue list \"Encore\"; there is Opening"),
        (SessionCommand::RecordCue("Opening/2".into()), "there is a cue 2 already"),
    ] {
        let Outcome::Refused(said) = screen.ask(command) else { panic!("not refused") };
        assert!(said.contains(why), "{said}");
    }
    let Outcome::Nothing(said) = screen.ask(EngineCommand::GoCue("Encore".into())) else { panic!("not refused") };
    assert!(said.contains("there is no cue list \"Encore\""), "{said}");
}

#[test]
fn an_event_of_an_input_has_a_list_go_on_by_one_cue() {
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("cable");
    nix::unistd::mkfifo(&path, nix::sys::stat::Mode::S_IRWXU).expect("a pipe");
    let mut show = show();
    show.inputs = vec![Input { on: true, ..Input::new("box", InputKind::Midi, &path.display().to_string()) }];
    show.cue_lists[0].then = "on box note 36".parse().expect("a way");
    let session = Running::of(show);
    let mut screen = session.screen();
    let mut pipe = std::fs::OpenOptions::new().write(true).open(&path).expect("somebody reads");
    assert_eq!(screen.ask(go()), Outcome::Done);
    at(&mut screen, Some(0));
    for cue in [1, 2] {
        std::io::Write::write_all(&mut pipe, &[0x90, 36, 100, 0x80, 36, 0]).expect("written");
        at(&mut screen, Some(cue));
        // One note is one step.
        screen.look(Duration::from_millis(200));
        at(&mut screen, Some(cue));
    }
}

#[test]
fn what_begins_with_the_session_begins_and_what_is_due_comes() {
    let mut show = show();
    let soon = (Local::now().num_seconds_from_midnight() + 6) % 86_400;
    let event =
        ScheduledEvent { does: vec!["go-cue Opening".into()], ..ScheduledEvent::new("Late", DayTime::Clock(soon)) };
    let later = ScheduledEvent::new("Later", DayTime::Clock((soon + 7200) % 86_400));
    show.schedule = Schedule {
        on: true,
        start: vec!["cut-to top/Low".into(), "fire-look Nothing".into()],
        events: vec![later, event],
        ..Schedule::default()
    };
    let session = Running::of(show);
    let mut screen = session.screen();
    screen.wait("the start", |screen| screen.engine.tiers.get(1).is_some_and(|tier| tier.look == Some(2)));
    at(&mut screen, Some(0));
    screen.wait("the log", |screen| {
        screen.night.iter().any(|line| line.by == "schedule" && line.what.contains("go-cue"))
    });
}

/// A recording of a loudness at each time, so many seconds long, as a WAV file: 48 kHz, one channel, 16 bit (RIFF, PCM).
fn recording(path: &std::path::Path, seconds: u32, sound: impl Fn(f64) -> f64) {
    let data = seconds * 96_000;
    let mut bytes = b"RIFF".to_vec();
    bytes.extend((36 + data).to_le_bytes());
    bytes.extend(b"WAVEfmt ");
    bytes.extend(16u32.to_le_bytes());
    bytes.extend([1u16, 1].iter().flat_map(|number| number.to_le_bytes()));
    bytes.extend([48_000u32, 96_000].iter().flat_map(|number| number.to_le_bytes()));
    bytes.extend([2u16, 16].iter().flat_map(|number| number.to_le_bytes()));
    bytes.extend(b"data");
    bytes.extend(data.to_le_bytes());
    for sample in 0..data / 2 {
        bytes.extend(((sound(f64::from(sample) / 48_000.0) * 32_000.0) as i16).to_le_bytes());
    }
    std::fs::write(path, bytes).expect("written");
}

#[test]
fn a_timeline_follows_the_recording_through_winding_and_holding() {
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("song.wav");
    recording(&path, 60, |_| 0.0);
    let mut show = show();
    let clip = |at: f32, look: &str| Clip {
        at,
        length: 10.0,
        tier: "base".into(),
        look: Some(look.into()),
        ..Clip::default()
    };
    show.timelines = vec![Timeline {
        name: "Song".into(),
        unit: TimeUnit::Seconds,
        length: 50.0,
        loops: false,
        follows: Follows::Recording,
        priority: 0,
        clips: vec![clip(0.0, "Tide"), clip(20.0, "Gale"), clip(30.0, "Low")],
        marks: None,
    }];
    let sound = crate::sound::SoundSource::File(path).into();
    let session = Running::start(Start { sound, ..Start::within_process(show) });
    let mut screen = session.screen();
    assert_eq!(screen.ask(EngineCommand::PlayTimeline("Song".into())), Outcome::Done);
    let look = |screen: &Screening| screen.engine.tiers.first().and_then(|tier| tier.look);
    let place = |screen: &Screening| screen.engine.timelines.first().map_or(-1.0, |line| line.at);
    screen.wait("the first clip", |screen| look(screen) == Some(0) && place(screen) > 0.2);
    screen.ask(SessionCommand::SeekMusic(20.0));
    screen.wait("the second", |screen| look(screen) == Some(1) && place(screen) > 20.0);
    screen.ask(SessionCommand::PauseMusic);
    screen.look(Duration::from_millis(300));
    let held = place(&screen);
    screen.look(Duration::from_millis(700));
    assert!((place(&screen) - held).abs() < 0.1, "{} after {held}", place(&screen));
    screen.ask(SessionCommand::PauseMusic);
    screen.wait("that it goes on", |screen| place(screen) > held + 0.3);
    // It runs as fast as the session does. Where the machine keeps the sound waiting, it is later by that much, once.
    let since = std::cell::Cell::new((screen.engine.time, place(&screen)));
    screen.wait("that it keeps step", |screen| {
        let (now, (time, at)) = ((screen.engine.time, place(screen)), since.get());
        let kept = ((now.0 - time) - (now.1 - at)).abs() < 0.02;
        if !kept {
            since.set(now);
        }
        kept && now.0 - time > 1.0
    });
    screen.ask(SessionCommand::SeekMusic(10.0));
    screen.wait("the third", |screen| look(screen) == Some(2));
    // Put to a place, it has the recording go there, held or not.
    screen.ask(SessionCommand::PauseMusic);
    let seek = |at: f64| EngineCommand::SeekTimeline(TimelinePlace { name: "Song".into(), at });
    screen.ask(seek(5.0));
    screen.wait("the first again", |screen| look(screen) == Some(0) && (place(screen) - 5.0).abs() < 0.1);
    screen.ask(SessionCommand::PauseMusic);
    screen.wait("that it goes on from there", |screen| (5.2..6.0).contains(&place(screen)));
    screen.ask(seek(24.0));
    screen.wait("that it goes on from the second", |screen| {
        look(screen) == Some(1) && (24.2..25.0).contains(&place(screen))
    });
}

#[test]
fn a_recording_is_heard_beforehand_for_a_timeline_and_what_cannot_be_is_said() {
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("clicks.wav");
    let loud = |beat: f64| if (beat as u32).is_multiple_of(4) { 0.9 } else { 0.5 };
    recording(&path, 20, |time| {
        let within = time % 0.5;
        loud(time / 0.5) * (within * 120.0 * std::f64::consts::TAU).sin() * (-within * 30.0).exp()
    });
    let mut show = show();
    show.timelines = vec![Timeline { name: "My Song".into(), length: 50.0, ..Timeline::default() }];
    let session = Running::of(show);
    let mut screen = session.screen();
    let hear = |what: &str| SessionCommand::HearRecording(what.to_owned());
    for (what, why) in [
        ("Nobody clicks.wav", "begins with no timeline; there is My Song"),
        ("My Song", "plays no recording"),
        ("My Song nowhere.wav", "cannot read nowhere.wav"),
    ] {
        let Outcome::Refused(said) = screen.ask(hear(what)) else { panic!("{what} is refused") };
        assert!(said.contains(why), "{said}");
    }
    let what = format!("My Song {}", path.display());
    assert!(matches!(screen.ask(hear(&what)), Outcome::Told(_)));
    screen.wait("its beats", |screen| screen.document.shown().timelines[0].marks.is_some());
    let marks = screen.document.shown().timelines[0].marks.clone().expect("marks");
    assert_eq!(marks.recording, "clicks.wav");
    assert!(marks.beats.len() > 20 && marks.bars.len() > 4 && !marks.parts.is_empty(), "{marks:?}");
    screen
        .wait("what it says", |screen| screen.said.iter().any(|said| said.contains("of clicks.wav are on the ruler")));
    screen.ask(DocumentCommand::Undo);
    screen.wait("that it is undone", |screen| screen.document.shown().timelines[0].marks.is_none());
}

#[test]
fn what_is_struck_comes_into_the_pattern_that_plays_and_what_cannot_be_is_said() {
    let mut show = show();
    let mut pattern = Pattern::new(1);
    pattern.lanes = vec![Lane::new(LaneKind::Level), Lane::new(LaneKind::Aim)];
    show.looks.push(Look { pattern: Some(pattern), ..Look::new("Hits", Vec::new()) });
    let session = Running::of(show);
    let mut screen = session.screen();
    let strike = |pattern: &str, lane: usize| SessionCommand::Strike(LanePlace { pattern: pattern.into(), lane });
    assert!(matches!(screen.ask(strike("Hits", 1)), Outcome::Nothing(why) if why.contains("does not play")));
    screen.ask(EngineCommand::CutTo("Hits".into()));
    screen.wait("it to play", |screen| screen.engine.stage.iter().any(|on| on.place.is_some()));
    let Outcome::Told(words) = screen.ask(strike("Hits", 1)) else { panic!("not told") };
    assert_eq!(words, "struck into Hits, lane 1");
    let events = screen.document.kept().looks[3].pattern.as_ref().expect("a pattern").lanes[0].events.clone();
    assert_eq!((events.len(), events[0].level, events[0].length.beats()), (1, Some(100.0), 0.25));
    for (pattern, lane, wanted) in [
        ("Hits", 2, "no aim yet"),
        ("Hits", 3, "there are 2"),
        ("Hits", 0, "there are 2"),
        ("Tide", 1, "is no pattern"),
        ("Gust", 1, "there is no pattern"),
    ] {
        let outcome = screen.ask(strike(pattern, lane));
        assert!(matches!(&outcome, Outcome::Refused(why) if why.contains(wanted)), "{pattern}/{lane}: {outcome:?}");
    }
    // Without heads there is nothing to record or to point.
    assert!(
        matches!(screen.ask(SessionCommand::RecordAim("Booth".into())), Outcome::Refused(why) if why.contains("turns"))
    );
    assert!(
        matches!(screen.ask(EngineCommand::CallAim("Booth".into())), Outcome::Nothing(why) if why.contains("no aim"))
    );
}
