//! A screen with a session of the test's own behind it: a real document, and an engine on a clock that stands.

use std::path::PathBuf;
use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseEvent};
use ratatui::layout::Rect;
use splimo_document::check::check;
use splimo_document::making;
use splimo_document::{Command, DocumentCommand};
use splimo_document::{Document, Outcome};
use splimo_engine::{Engine, Inputs, Published, led_values, trace_slot};
use splimo_light::rig::Rig;
use splimo_link::document::{DocumentState, DocumentUpdate, DraftState};
use splimo_link::light::LightUpdate;
use splimo_link::message::{SlotsUpdate, Update};
use splimo_link::network::NetworkStatus;
use splimo_link::output::OutputStatus;
use splimo_link::subscription::Subscription;
use splimo_link::testing;
use splimo_link::trouble::Trouble;
use splimo_show::Problem;
use splimo_show::command::{EngineCommand, Origin, SessionCommand};
use splimo_show::{Boundary, Show};
use splimo_time::music::{Bands, Hearing};

use crate::keymap::Keys;
use crate::kit::theme::Theme;
use crate::ui::Ui;
use crate::ui_action::UiAction;
use crate::view::Ask;
use crate::views::{AnyAction, AnyAsk, ViewId};

/// The origin of the screen's commands.
const SCREEN: Origin = Origin::Screen(1);

/// A screen and what it shows.
pub(crate) struct Scene {
    pub(crate) show: Arc<Show>,
    pub(crate) rig: Arc<Rig>,
    pub(crate) document: Document,
    pub(crate) ui: Ui,
    pub(crate) published: Published,
    pub(crate) output: OutputStatus,
    pub(crate) network: NetworkStatus,
    pub(crate) troubles: Vec<Trouble>,
    problems: Arc<Vec<Problem>>,
    /// The state of the document but for what follows from it.
    pub(crate) state: DocumentState,
    /// The commands that went to the engine and the session.
    pub(crate) asked: Vec<Command>,
}

impl Scene {
    /// The demo with Undertow on stage and Squall armed for the phrase, at the end of its seventh bar.
    pub(crate) fn demo() -> Self {
        let mut show = testing::lantern_quay();
        show.settings.lands = Boundary::Phrase;
        let script = [(0, EngineCommand::FirePad(3)), (0, EngineCommand::Go), (40, EngineCommand::FirePad(5))];
        Self::of(show, &script, 610)
    }

    pub(crate) fn of(show: Show, script: &[(u32, EngineCommand)], ticks: u32) -> Self {
        let show = Arc::new(show);
        let mut engine = Engine::new(show.clone());
        for tick in 0..ticks {
            let time = f64::from(tick) / 44.0;
            script.iter().filter(|(at, _)| *at == tick).for_each(|(_, command)| engine.apply(command, time));
            let hearing = Hearing {
                time,
                level: 0.7,
                peak: 0.5,
                bands: Bands::of(&std::array::from_fn::<f32, 24, _>(|band| 1.0 - band as f32 / 24.0)),
                tempo_bpm: 124.0,
                beat: time * 124.0 / 60.0,
                confidence: 0.9,
                ..Hearing::SILENCE
            };
            engine.tick(time, &Inputs { hearing, ..Inputs::default() });
        }
        let mut published = Published::default();
        engine.publish(&mut published);
        let rig: Arc<Rig> = engine.rig().clone();
        let mut streams = testing::streams(&show, &rig);
        for stream in &mut streams {
            (stream.packets, stream.rate, stream.gap_ms) = (610, 44.0, 22.8);
        }
        let output = OutputStatus { frames: 610, fps: 44.0, packets: 10_370, streams, ..OutputStatus::default() };
        let mut scene = Self {
            problems: Arc::new(check(&show)),
            rig,
            document: Document::new(Show::clone(&show)),
            ui: Ui::new(Theme::plain(), Keys::default()),
            published,
            output,
            network: NetworkStatus::default(),
            troubles: Vec::new(),
            state: DocumentState::default(),
            asked: Vec::new(),
            show,
        };
        scene.ui.take(Update::Document(Box::new(DocumentUpdate::whole(&scene.document))));
        scene.tell();
        scene
    }

    /// Tells the screen everything that there is to show.
    pub(crate) fn tell(&mut self) {
        let subscription = self.ui.subscription();
        for update in self.updates(&subscription) {
            self.ui.take(update);
        }
        self.ui.sync();
    }

    fn updates(&self, wanted: &Subscription) -> Vec<Update> {
        let Published { snapshot, light, slots, loads } = &self.published;
        let state = DocumentState { unsaved: self.document.unsaved(), ..self.state.clone() };
        let mut updates = vec![
            Update::State(Box::new(state)),
            Update::Drafts(Box::new(DraftState::from(self.document.drafts()))),
            Update::Engine(Box::new(snapshot.clone())),
            Update::Output(Box::new(self.output.clone())),
            Update::Network(Box::new(self.network.clone())),
            Update::Troubles(self.troubles.clone()),
            Update::Problems(Vec::clone(&self.problems)),
            Update::Loads(loads.clone()),
        ];
        if let Some(set) = &wanted.light {
            updates.push(Update::Light(Box::new(LightUpdate::of(snapshot.edition, light, set))));
        }
        if let Some((block, slot)) = wanted.slots {
            let trace = trace_slot(&self.show, &self.rig, light, snapshot.master, block, slot);
            let slots = slots[block * 512..block * 512 + 512].to_vec();
            updates.push(Update::Slots(Box::new(SlotsUpdate { block, slots, slot, trace })));
        }
        if let Some(led) = wanted.led {
            updates.push(Update::Led(led_values(&self.show, &self.rig, &self.published, led).map(Box::new)));
        }
        updates
    }

    /// Has done what was asked for: by the document, or written down.
    pub(crate) fn perform(&mut self) {
        while let Some(command) = self.ui.next_command() {
            match command {
                Command::Document(command) => self.apply(&command),
                Command::Engine(_) | Command::Session(_) => {
                    match &command {
                        Command::Session(SessionCommand::Save) => self.document.mark_saved(),
                        Command::Session(SessionCommand::HoldLight(name)) => self.hold_light(name),
                        Command::Session(_) | Command::Engine(_) | Command::Document(_) => {}
                    }
                    self.asked.push(command);
                }
            }
            self.tell();
        }
    }

    fn hold_light(&mut self, name: &str) {
        let add = making::frozen_light(name, &self.published, &self.show, &self.rig);
        self.apply(&DocumentCommand::Edit(add));
    }

    /// Puts another screen in the place of this one, which is gone.
    pub(crate) fn attach_anew(&mut self) {
        let memory = self.ui.memory();
        self.ui = Ui::new(Theme::plain(), Keys::default());
        self.ui.take(Update::Document(Box::new(DocumentUpdate::whole(&self.document))));
        self.tell();
        self.ui.recall(&memory);
    }

    /// Has the document carry a command out, as if this screen had sent it.
    pub(crate) fn apply(&mut self, command: &DocumentCommand) {
        let base = self.ui.model.document.edition();
        let outcome = self.document.apply(command, SCREEN, Some(base));
        self.follow();
        self.ui.answered(outcome);
    }

    /// Has the document carry a command out that another screen has sent.
    pub(crate) fn apply_elsewhere(&mut self, command: &DocumentCommand) -> Outcome {
        let outcome = self.document.apply(command, Origin::Screen(2), None);
        self.follow();
        self.tell();
        outcome
    }

    fn follow(&mut self) {
        for change in self.document.take_changes() {
            self.ui.take(Update::Document(Box::new(change.into())));
        }
    }

    /// Does what a command, or an action of the frame or of the view that is shown, would do if it were bound to a key.
    pub(crate) fn run(&mut self, text: &str) {
        let (name, argument) = text.split_once(' ').unwrap_or((text, ""));
        let frame = || crate::frame::FrameAction::parse(name, argument).map(AnyAction::Frame);
        let action = self.ui.view().action(name, argument).or_else(frame);
        let ask: AnyAsk = match action {
            Some(action) => Ask::Action(action),
            None => Ask::Command(text.parse().unwrap_or_else(|why| panic!("{text}: {why}"))),
        };
        self.ask(ask);
    }

    pub(crate) fn ask(&mut self, ask: AnyAsk) {
        self.ui.ask(ask);
        self.perform();
    }

    /// Goes to a view.
    pub(crate) fn go(&mut self, view: ViewId) {
        self.ask(Ask::GoTo(view.spec().name));
        self.tell();
    }

    /// Presses keys, and has done what follows from them.
    pub(crate) fn type_keys(&mut self, keys: &str) {
        for letter in keys.chars() {
            self.press(match letter {
                '↓' => KeyCode::Down,
                '↑' => KeyCode::Up,
                '→' => KeyCode::Right,
                '←' => KeyCode::Left,
                '⏎' => KeyCode::Enter,
                '⎋' => KeyCode::Esc,
                '⇥' => KeyCode::Tab,
                letter => KeyCode::Char(letter),
            });
        }
    }

    pub(crate) fn key(&mut self, key: KeyEvent) {
        self.ui.key(key);
        self.perform();
    }

    pub(crate) fn press(&mut self, code: KeyCode) {
        self.key(KeyEvent::new(code, KeyModifiers::NONE));
    }

    pub(crate) fn press_with(&mut self, code: KeyCode, with: KeyModifiers) {
        self.key(KeyEvent::new(code, with));
    }

    pub(crate) fn mouse(&mut self, mouse: MouseEvent) {
        self.ui.mouse(mouse);
        self.perform();
    }

    pub(crate) fn paste(&mut self, text: &str) {
        self.ui.paste(text);
        self.perform();
    }

    /// Sets the hearing.
    pub(crate) fn hear(&mut self, hearing: Hearing) {
        self.published.snapshot.hearing = hearing;
    }

    pub(crate) fn buffer(&mut self, width: u16, height: u16) -> Buffer {
        self.tell();
        let area = Rect::new(0, 0, width, height);
        let mut buffer = Buffer::empty(area);
        self.ui.draw(area, &mut buffer);
        // What is shown may want to be told other things than what was shown before.
        self.tell();
        buffer.reset();
        self.ui.draw(area, &mut buffer);
        buffer
    }

    /// The screen as text.
    pub(crate) fn screen(&mut self, width: u16, height: u16) -> String {
        let buffer = self.buffer(width, height);
        let line = |y: u16| (0..width).map(|x| buffer[(x, y)].symbol()).collect::<String>().trim_end().to_owned();
        (0..height).map(line).collect::<Vec<_>>().join("\n")
    }

    /// Has the engine go on to the show as it is edited, as the session would.
    pub(crate) fn adopt(&mut self) {
        self.show = self.document.shown().clone();
        let mut engine = Engine::new(self.show.clone());
        let undertow = self.show.looks.iter().position(|look| look.name == "Undertow");
        engine.cut_to(undertow.unwrap_or(0));
        engine.tick(0.0, &Inputs::default());
        engine.publish(&mut self.published);
        self.published.snapshot.edition = self.document.edition();
        self.rig = engine.rig().clone();
        self.tell();
    }

    /// A file for this test alone, with some text.
    pub(crate) fn file(name: &str, text: &str) -> PathBuf {
        let path = std::env::temp_dir().join(format!("splimo-screen-{}-{name}", std::process::id()));
        std::fs::write(&path, text).expect("writes");
        path
    }
}
