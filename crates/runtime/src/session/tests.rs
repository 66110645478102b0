use std::io::Write;
use std::os::unix::net::UnixStream;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::JoinHandle;

use proptest::prelude::*;
use splimo_document::Outcome;
use splimo_document::edit::Edit;
use splimo_document::file;
use splimo_document::{Command, DocumentCommand};
use splimo_engine::Snapshot;
use splimo_link::document::{DocumentCopy, DocumentState, DraftState};
use splimo_link::frame::{self, LONGEST_UPDATE};
use splimo_link::inputs::InputsStatus;
use splimo_link::light::LedSet;
use splimo_link::message::VERSION;
use splimo_link::night::NightLine;
use splimo_link::subscription::Subscription;
use splimo_show::LightTest;
use splimo_show::command::{EngineCommand, SessionCommand};
use splimo_show::{Canvas, Pad};

use super::*;

const PATIENCE: Duration = Duration::from_secs(60);

/// A session that runs on a thread of this test.
pub(super) struct Running {
    guests: Guests,
    pub(super) runtime: Arc<Runtime>,
    over: Arc<AtomicBool>,
    thread: Option<JoinHandle<()>>,
}

impl Running {
    pub(super) fn of(show: Show) -> Self {
        Self::start(Start::within_process(show))
    }

    fn demo() -> Self {
        Self::of(file::read(crate::files::LANTERN_QUAY).expect("a good show").show)
    }

    pub(super) fn start(start: Start) -> Self {
        let session = Session::start(start).expect("it starts");
        let (guests, runtime, over) =
            (session.guests.clone(), session.runtime.clone(), Arc::new(AtomicBool::new(false)));
        let until = over.clone();
        let run = move || drop(session.run(|| until.load(Ordering::Relaxed)));
        Self { guests, runtime, over, thread: Some(std::thread::spawn(run)) }
    }

    pub(super) fn screen(&self) -> Screening {
        Screening::of(self.guests.attach(Guest::Screen))
    }

    /// A connection as one through the socket is.
    fn connect(&self) -> UnixStream {
        let (theirs, ours) = UnixStream::pair().expect("two sockets");
        self.guests.enter(ours);
        theirs
    }
}

impl Drop for Running {
    fn drop(&mut self) {
        self.over.store(true, Ordering::Relaxed);
        if let Some(thread) = self.thread.take() {
            let ended = thread.join();
            assert!(ended.is_ok() || std::thread::panicking(), "the session has panicked");
        }
    }
}

/// A screen without a picture: it knows what it was told.
pub(super) struct Screening {
    link: Link,
    number: u64,
    pub(super) document: DocumentCopy,
    state: DocumentState,
    drafts: DraftState,
    pub(super) engine: Snapshot,
    pub(super) inputs: InputsStatus,
    remembered: Vec<u8>,
    pub(super) said: Vec<String>,
    pub(super) night: Vec<NightLine>,
    ended: Option<String>,
}

impl Screening {
    fn of(link: Link) -> Self {
        let mut screen = Self {
            link,
            number: 0,
            document: DocumentCopy::default(),
            state: DocumentState::default(),
            drafts: DraftState::default(),
            engine: Snapshot::default(),
            inputs: InputsStatus::default(),
            remembered: Vec::new(),
            said: Vec::new(),
            night: Vec::new(),
            ended: None,
        };
        screen
            .wait("all there is to tell", |screen| screen.engine.frame > 0 && !screen.document.kept().name.is_empty());
        screen
    }

    fn take(&mut self, update: Update) -> Option<(u64, Outcome)> {
        match update {
            Update::Answer { number, outcome } => return Some((number, outcome)),
            Update::Welcome { remembered, .. } => self.remembered = remembered,
            Update::Document(update) => self.document.take(*update).expect("it fits"),
            Update::State(state) => self.state = *state,
            Update::Drafts(drafts) => self.drafts = *drafts,
            Update::Engine(engine) => self.engine = *engine,
            Update::Inputs(inputs) => self.inputs = *inputs,
            Update::Said(words) => self.said.push(words),
            Update::Night(lines) => {
                let first = lines.first().map_or(u64::MAX, |line| line.number);
                self.night.retain(|line| line.number < first);
                self.night.extend(lines);
            }
            Update::Ended(why) => self.ended = Some(why),
            Update::Light(_)
            | Update::Slots(_)
            | Update::Led(_)
            | Update::Loads(_)
            | Update::Output(_)
            | Update::Network(_)
            | Update::Ports(_)
            | Update::Troubles(_)
            | Update::Problems(_)
            | Update::Media(_) => {}
        }
        None
    }

    /// Takes updates until it is as wanted.
    pub(super) fn wait(&mut self, what: &str, done: impl Fn(&Self) -> bool) {
        let start = std::time::Instant::now();
        while !done(self) {
            assert!(start.elapsed() < PATIENCE, "waited in vain for {what}");
            if let Ok(update) = self.link.updates().recv_timeout(Duration::from_millis(100)) {
                self.take(update);
            }
        }
    }

    /// Takes what is told within a while.
    pub(super) fn look(&mut self, within: Duration) {
        let until = std::time::Instant::now() + within;
        while let Ok(update) = self.link.updates().recv_deadline(until) {
            self.take(update);
        }
    }

    /// Asks on the edition that it knows, and waits for the answer.
    pub(super) fn ask(&mut self, command: impl Into<Command>) -> Outcome {
        let base = self.document.edition();
        self.ask_on(command, Some(base))
    }

    fn ask_on(&mut self, command: impl Into<Command>, base: Option<u64>) -> Outcome {
        self.number += 1;
        self.link.send(Request::Command { number: self.number, command: Box::new(command.into()), base });
        loop {
            let update = self.link.updates().recv_timeout(PATIENCE).expect("an answer");
            if let Some((number, outcome)) = self.take(update)
                && number == self.number
            {
                return outcome;
            }
        }
    }

    pub(super) fn edit(&mut self, edit: Edit) -> Outcome {
        self.ask(DocumentCommand::Edit(edit))
    }
}

fn canvas(width: f32) -> Edit {
    Edit::Canvas(Canvas { width, height: 80.0 })
}

#[test]
fn what_one_screen_does_all_of_them_show() {
    let session = Running::demo();
    let (mut one, mut two, mut three) = (session.screen(), session.screen(), session.screen());
    assert_eq!(one.edit(canvas(222.0)), Outcome::Done);
    assert_eq!(one.ask(EngineCommand::Master(40.0)), Outcome::Done);
    for screen in [&mut one, &mut two, &mut three] {
        screen.wait("the edit and the master", |screen| {
            screen.document.kept().canvas.width == 222.0 && (screen.engine.master - 0.4).abs() < 1e-3
        });
        screen.wait("that it is not saved", |screen| screen.state.unsaved && screen.state.screens == 3);
    }
    // What the other did can be taken back, and is shown to be.
    assert!(matches!(two.ask(DocumentCommand::Undo), Outcome::Told(_)));
    one.wait("what was taken back", |screen| screen.document.kept().canvas.width != 222.0);
    assert_eq!(one.document.kept(), two.document.kept());
}

#[test]
fn edits_that_meet_are_both_kept_or_one_is_refused_in_words() {
    let session = Running::demo();
    let (mut one, mut two) = (session.screen(), session.screen());
    let base = two.document.edition();
    let show = two.document.kept().clone();
    // One removes the first fixture and changes the second; two does not know of it yet.
    assert_eq!(one.edit(Edit::Remove(vec![0])), Outcome::Done);
    let mut third = show.fixtures[2].clone();
    third.x += 3.0;
    assert_eq!(two.ask_on(DocumentCommand::Edit(Edit::Put(vec![(2, third.clone())])), Some(base)), Outcome::Done);
    one.wait("both edits", |screen| screen.document.kept().fixtures[1].x == third.x);
    assert_eq!(one.document.kept().fixtures.len(), show.fixtures.len() - 1);
    // What is not there any more cannot be changed, and nothing else is struck instead.
    let mut first = show.fixtures[0].clone();
    first.x += 5.0;
    let before = one.document.kept().clone();
    let outcome = two.ask_on(DocumentCommand::Edit(Edit::Put(vec![(0, first)])), Some(base));
    let Outcome::Refused(why) = outcome else { panic!("{outcome:?}") };
    assert!(why.contains("another") || why.contains("meanwhile"), "{why}");
    two.wait("the last edition", |screen| screen.document.kept() == &before);
}

#[test]
fn undo_and_drafts_outlive_the_screen_and_what_was_only_tried_does_not() {
    let session = Running::demo();
    let mut screen = session.screen();
    let before = screen.document.kept().clone();
    assert_eq!(screen.edit(canvas(201.0)), Outcome::Done);
    assert_eq!(screen.ask(DocumentCommand::TryEdit(canvas(150.0))), Outcome::Done);
    assert_eq!(screen.document.shown().canvas.width, 150.0);
    screen.ask(DocumentCommand::EditBlind);
    let mut look = before.looks[0].clone();
    look.layers.truncate(1);
    let name = look.name.clone();
    assert_eq!(screen.ask(DocumentCommand::Draft(vec![(name.clone(), look)])), Outcome::Done);
    screen.link.send(Request::Remember(b"the view".to_vec()));
    screen.ask(EngineCommand::Master(70.0));
    drop(screen);

    let mut next = session.screen();
    next.wait("that the other is gone", |screen| screen.document.shown().canvas.width == 201.0);
    assert_eq!(next.remembered, b"the view");
    next.wait("the draft", |screen| screen.drafts.blind && screen.drafts.looks.len() == 1);
    assert_eq!(next.drafts.looks[0].0, name);
    assert_eq!(next.document.kept().looks, before.looks, "it goes out only when it is kept");
    assert!(matches!(next.ask(DocumentCommand::KeepDrafts), Outcome::Done | Outcome::Told(_)));
    next.wait("what was drafted", |screen| screen.document.kept().looks[0].layers.len() == 1);
    for _ in 0..2 {
        assert!(matches!(next.ask(DocumentCommand::Undo), Outcome::Told(_)));
    }
    assert_eq!(next.document.kept(), &before);
}

#[test]
fn fields_that_are_not_known_survive_an_edit_by_a_screen() {
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("new.splimo");
    let text = "version = 1\nname = \"Newer\"\nmoon = \"full\"\n[settings]\ntide = 3\n[[fixtures]]\nname = \"Bar\"\nprofile = \"rgb\"\naddress = \"1.1\"\nshape = { line = { cells = 4 } }\nx = 5.0\ny = 5.0\nbuoy = true\n";
    std::fs::write(&path, text).expect("writes");
    let show = file::read(text).expect("a good show").show;
    let session = Running::start(Start { path: Some(path.clone()), ..Start::within_process(show) });
    let mut screen = session.screen();
    let mut bar = screen.document.kept().fixtures[0].clone();
    bar.x = 25.0;
    assert_eq!(screen.edit(Edit::Put(vec![(0, bar)])), Outcome::Done);
    assert!(matches!(screen.ask(SessionCommand::Save), Outcome::Told(_)));
    let saved = std::fs::read_to_string(&path).expect("a file");
    for kept in ["moon = \"full\"", "tide = 3", "buoy = true", "x = 25.0"] {
        assert!(saved.contains(kept), "{kept} is lost:\n{saved}");
    }
}

#[test]
fn a_test_of_the_lights_ends_with_the_screen_that_began_it() {
    let session = Running::demo();
    let mut watcher = session.screen();
    let mut screen = session.screen();
    let walk = LightTest::Walk { fixtures: vec![2], at: 3, speed: 0.0 };
    assert_eq!(screen.ask(EngineCommand::Test(walk)), Outcome::Done);
    watcher.wait("a walking pixel", |watcher| watcher.engine.walked.is_some());
    drop(screen);
    watcher.wait("no pixel", |watcher| watcher.engine.walked.is_none());
}

#[test]
fn who_ends_the_show_ends_every_screen() {
    let session = Running::demo();
    let (mut one, mut two) = (session.screen(), session.screen());
    one.ask(SessionCommand::End);
    two.wait("the end", |screen| screen.ended.is_some());
    assert!(two.ended.as_deref().is_some_and(|why| why.contains("the show was ended")), "{:?}", two.ended);
}

/// Says hello and reads until it is welcome.
fn hello(stream: &mut UnixStream, version: u32, guest: Guest) -> Update {
    frame::write(stream, &Request::Hello { version, guest }).expect("it is there");
    frame::read(stream, LONGEST_UPDATE).expect("an answer")
}

/// Checks that the session still answers who asks for something.
fn answers(session: &Running) {
    let mut stream = session.connect();
    let welcome = hello(&mut stream, VERSION, Guest::Sender);
    assert!(matches!(welcome, Update::Welcome { version: VERSION, .. }), "{welcome:?}");
    let command = Box::new(Command::from(EngineCommand::Disarm));
    frame::write(&mut stream, &Request::Command { number: 9, command, base: None }).expect("it is there");
    let answer: Update = frame::read(&mut stream, LONGEST_UPDATE).expect("an answer");
    assert!(matches!(answer, Update::Answer { number: 9, .. }), "{answer:?}");
}

#[test]
fn another_version_is_told_so_in_words() {
    let session = Running::demo();
    let mut stream = session.connect();
    let Update::Ended(why) = hello(&mut stream, VERSION + 1, Guest::Screen) else { panic!("it was let in") };
    assert!(why.contains("version"), "{why}");
    answers(&session);
}

#[test]
fn any_bytes_end_the_guest_that_says_them_and_nothing_else() {
    let session = Running::of(Show::empty("Quiet"));
    let request = |number| Request::Command { number, command: Box::new(EngineCommand::Go.into()), base: None };
    let runner_config = ProptestConfig { cases: 64, ..ProptestConfig::default() };
    // Bytes that are nothing, with or without a hello before them, and requests in which one byte is another.
    let strategy = (any::<bool>(), prop::collection::vec(any::<u8>(), 0..600), any::<u16>(), 1u8..);
    let mut runner = proptest::test_runner::TestRunner::new(runner_config);
    runner
        .run(&strategy, |(greets, noise, place, by)| {
            let mut stream = session.connect();
            if greets {
                hello(&mut stream, VERSION, Guest::Screen);
            }
            let mut bent = frame::encode(&request(1)).expect("it can be written");
            let place = usize::from(place) % bent.len();
            bent[place] = bent[place].wrapping_add(by);
            // One that was sent away already takes no more.
            let _ = stream.write_all(&bent).and_then(|()| stream.write_all(&noise));
            drop(stream);
            Ok(())
        })
        .expect("none of them is a failure");
    answers(&session);
    let start = std::time::Instant::now();
    while session.guests.count() > 0 {
        assert!(start.elapsed() < PATIENCE, "guests who are gone are still known");
        std::thread::sleep(Duration::from_millis(10));
    }
}

/// Wants everything there is, as often as it can be had.
fn everything() -> Request {
    Request::Subscribe(Box::new(Subscription {
        rate: 60.0,
        light: Some(LedSet::Every(1)),
        slots: Some((0, 0)),
        led: Some(0),
        loads: true,
        received: None,
        media: true,
    }))
}

#[test]
fn a_screen_that_asks_for_everything_and_reads_nothing_costs_no_frame() {
    let session = Running::demo();
    let mut watcher = session.screen();
    // It says what it wants, and goes on asking; not a byte is read of what it is told.
    let mut greedy: Vec<UnixStream> = (0..4).map(|_| session.connect()).collect();
    let over = Arc::new(AtomicBool::new(false));
    let askers: Vec<_> = greedy
        .drain(..)
        .map(|mut stream| {
            let over = over.clone();
            std::thread::spawn(move || {
                let _ = frame::write(&mut stream, &Request::Hello { version: VERSION, guest: Guest::Screen });
                let _ = frame::write(&mut stream, &everything());
                let _ = stream.set_write_timeout(Some(Duration::from_millis(100)));
                let mut width = 100.0;
                while !over.load(Ordering::Relaxed) {
                    width += 1.0;
                    let command = Box::new(DocumentCommand::TryEdit(canvas(width)).into());
                    if frame::write(&mut stream, &Request::Command { number: 1, command, base: None }).is_err() {
                        std::thread::sleep(Duration::from_millis(20));
                    }
                }
            })
        })
        .collect();
    let first = watcher.engine.frame;
    watcher.wait("three seconds of frames", |watcher| watcher.engine.frame >= first + 132);
    let began = watcher.engine.clone();
    watcher.wait("three more seconds", |watcher| watcher.engine.frame >= began.frame + 132);
    let (frames, seconds) = ((watcher.engine.frame - began.frame) as f64, watcher.engine.time - began.time);
    over.store(true, Ordering::Relaxed);
    // A busy machine loses some by itself; who waited for those that do not read would make next to none.
    assert!((15.0..45.0).contains(&(frames / seconds)), "{frames} frames in {seconds} s");
    // Who behaves is still answered, and what was waited for was bounded.
    assert_eq!(watcher.ask(EngineCommand::Master(50.0)), Outcome::Done);
    assert!(session.runtime.troubles().list().iter().all(|trouble| trouble.subject != "engine"));
    for asker in askers {
        asker.join().expect("it ends");
    }
}

/// A command out of its text.
fn command(text: &str) -> Command {
    text.parse().expect(text)
}

#[test]
fn what_cannot_be_played_is_said_in_words() {
    let session = Running::demo();
    let mut screen = session.screen();
    for (text, why) in [
        ("fire-pad 9999", "there is no pad 9999; the last is 108"),
        ("fire-pad 80", "there is nothing on pad 8 of Over all"),
        ("fire-look Nowhere", "there is no look \"Nowhere\""),
        ("fire-look nowhere/Tide", "there is no tier \"nowhere\"; there is base, top, words"),
        ("release-tier roof", "there is no tier \"roof\"; there is base, top, words"),
        ("group-level Nobody 50", "there is no group \"Nobody\""),
    ] {
        let Outcome::Nothing(said) = screen.ask(command(text)) else { panic!("{text} was done") };
        assert!(said.contains(why), "{text}: {said}");
    }
    // What comes over the link is no text that was looked at.
    for (command, why) in [
        (EngineCommand::Master(300.0), "from 0 to 100"),
        (EngineCommand::Tempo(9999.0), "from 20 to 400"),
        (EngineCommand::Tempo(f32::NAN), "from 20 to 400"),
        (EngineCommand::Speed(99.0), "from 0 to 8"),
        (EngineCommand::NextFade(65.0), "from 0 to 64"),
    ] {
        let Outcome::Nothing(said) = screen.ask(command.clone()) else { panic!("{command:?} was done") };
        assert!(said.contains(why), "{command:?}: {said}");
    }
}

#[test]
fn a_pad_gives_its_command_and_never_that_of_another_pad() {
    let mut show = file::read(crate::files::LANTERN_QUAY).expect("a good show").show;
    let gives = |place, command: &str| Pad { place, command: Some(command.into()), ..Pad::default() };
    show.banks.truncate(1);
    show.banks[0].pads = vec![gives(1, "master 30"), gives(2, "fire-pad 1"), gives(3, "set fade 4")];
    let session = Running::of(show);
    let mut screen = session.screen();
    assert_eq!(screen.ask(command("fire-pad 1")), Outcome::Done);
    screen.wait("the master", |screen| (screen.engine.master - 0.3).abs() < 1e-3);
    assert!(matches!(screen.ask(command("fire-pad 2")), Outcome::Nothing(why) if why.contains("cannot fire another")));
    screen.ask(command("fire-pad 3"));
    screen.wait("the fade", |screen| screen.document.kept().settings.fade_beats == 4.0);
}

#[test]
fn what_a_screen_holds_ends_with_it_and_the_night_log_tells_all_of_it() {
    let session = Running::demo();
    let (mut one, mut two) = (session.screen(), session.screen());
    // The first pad of the third bank is a flash on the second tier.
    assert_eq!(one.ask(command("hold-pad 73")), Outcome::Done);
    two.wait("the flash", |screen| screen.engine.tiers[1].held);
    drop(one);
    two.wait("its end", |screen| !screen.engine.tiers[1].held && screen.engine.tiers[1].look.is_none());
    two.wait("the log", |screen| {
        let has = |words: &str| screen.night.iter().any(|line| line.what.contains(words));
        has("hold-pad 73 (Flashbulbs in Over all)") && has("Flashbulbs lands on top") && has("let-pad-go 73")
    });
    assert!(two.night.iter().filter(|line| line.asked).all(|line| line.by.starts_with("screen ")), "{:?}", two.night);
    // Who comes later is told what was before.
    let mut three = session.screen();
    three.wait("the log", |screen| screen.night.iter().any(|line| line.what.contains("hold-pad 73")));
}

#[test]
fn the_strobe_limit_goes_only_when_it_is_asked_for_twice() {
    let session = Running::demo();
    let mut screen = session.screen();
    let off = || command("set strobe-limit 0");
    assert!(matches!(screen.ask(off()), Outcome::Refused(why) if why.contains("ask once more")));
    assert_eq!(screen.document.kept().settings.strobe_limit, 4);
    assert!(matches!(screen.ask(off()), Outcome::Told(_) | Outcome::Done));
    screen.wait("that it is gone", |screen| screen.document.kept().settings.strobe_limit == 0);
    // Once in a session.
    screen.ask(command("set strobe-limit 3"));
    screen.wait("another", |screen| screen.document.kept().settings.strobe_limit == 3);
    assert!(matches!(screen.ask(off()), Outcome::Told(_) | Outcome::Done));
}

#[test]
fn panic_ends_a_test_and_says_what_is_left() {
    let session = Running::demo();
    let mut screen = session.screen();
    screen.ask(EngineCommand::Test(LightTest::Walk { fixtures: vec![0], at: 0, speed: 0.0 }));
    screen.wait("the walk", |screen| screen.engine.walked.is_some());
    screen.ask(EngineCommand::Blackout);
    screen.wait("dark", |screen| screen.engine.blackout);
    let outcome = screen.ask(EngineCommand::Panic);
    assert_eq!(outcome, Outcome::Told("panic: Low Tide is on, alone; still blacked out".into()));
    screen.wait("its end", |screen| screen.engine.walked.is_none());
    let look = screen.engine.tiers[0].look.map(|look| screen.document.kept().looks[look].name.clone());
    assert_eq!(look.as_deref(), Some("Low Tide"));
}
