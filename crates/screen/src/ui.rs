//! The user interface: which view is shown, what is open over it, what was said last, and what keys and mouse ask for.

use std::collections::VecDeque;
use std::sync::Arc;
use std::time::{Duration, Instant};

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use ratatui::layout::{Position, Rect};
use ratatui::style::Style;
use splimo_document::Outcome;
use splimo_document::{Command, DocumentCommand};
use splimo_light::rig::Rig;
use splimo_link::message::Update;
use splimo_link::subscription::Subscription;
use splimo_show::command::{EngineCommand, SessionCommand};
use splimo_show::event::EventAddress;
use splimo_show::{Binding, Show};

use crate::chrome;
use crate::compact;
use crate::frame::FrameAction;
use crate::keyboard::name_of;
use crate::keymap::Keys;
use crate::kit::theme::Theme;
use crate::model::{Model, News};
use crate::overlay::{ChangedPanel, Help, Leave, Leaving, NightPanel, Overlay, OverlayReply, Palette, SettingsForm};
use crate::terminal::copy_out;
use crate::tutorial::Tutorial;
use crate::typed_path::path_from;
use crate::view::{Ask, Handled, Learn, Memory, Modality, Targets};
use crate::views::{AnyAction, AnyAsk, FIRST, ViewId, Views};

/// The time that something that was said stays on the screen.
const SAID: Duration = Duration::from_secs(4);
/// The time after which the next key takes it away: until then it may be what that key is the answer to.
const READ: Duration = Duration::from_millis(700);
/// The most time between two Ctrl-C for the second to leave the screen.
const TWICE: Duration = Duration::from_secs(1);
/// Smaller than this nothing can be shown.
const SMALLEST: (u16, u16) = (40, 12);
/// Smaller than this only what matters most is shown.
const WHOLE: (u16, u16) = (60, 18);

/// The name by which a show binds a key, such as `F5`, `x`, or `Ctrl-T`; none for those by which one backs out and leaves.
fn key_name(key: KeyEvent) -> Option<String> {
    let name = name_of(key.code, key.modifiers & (KeyModifiers::CONTROL | KeyModifiers::ALT))?;
    (!matches!(name.as_str(), "Esc" | "Shift-Tab" | "Ctrl-C" | "Ctrl-Q")).then_some(name)
}

/// The user interface.
pub(crate) struct Ui {
    pub(crate) theme: Theme,
    keys: Keys,
    pub(crate) model: Model,
    view: ViewId,
    views: Views,
    overlay: Option<Overlay>,
    /// The requests that are not done yet.
    queue: VecDeque<AnyAsk>,
    said: Option<(String, Instant)>,
    targets: Targets<AnyAction>,
    leaves: Option<Leaving>,
    asked_to_leave: Option<Instant>,
    economy: bool,
    begun: bool,
    /// The number of times that it was asked what is to become of a file that somebody else wrote too.
    asked: u32,
    /// The keys of the show's own that are held.
    own_held: Vec<String>,
    /// The bytes that go to the terminal beside the screen.
    aside: Vec<u8>,
    /// The tutorial, where it is gone through.
    tutorial: Option<Tutorial>,
    /// True if the next screen is copied as text.
    copies: bool,
    /// The show and rig that are drawn from as long as nothing is known.
    nothing: (Arc<Show>, Arc<Rig>),
}

impl Ui {
    pub(crate) fn new(theme: Theme, keys: Keys) -> Self {
        Self {
            theme,
            model: Model::on(keys.layout),
            keys,
            view: FIRST,
            views: Views::default(),
            overlay: None,
            queue: VecDeque::new(),
            said: None,
            targets: Vec::new(),
            leaves: None,
            asked_to_leave: None,
            economy: false,
            begun: false,
            asked: 0,
            own_held: Vec::new(),
            aside: Vec::new(),
            copies: false,
            tutorial: None,
            nothing: (Arc::new(Show::empty("")), Arc::default()),
        }
    }

    /// The view that is looked at.
    #[cfg(test)]
    pub(crate) fn view(&self) -> ViewId {
        self.view
    }

    /// Begins as the person has chosen.
    pub(crate) fn begin(&mut self, economy: bool, reduced_motion: bool) {
        self.economy = economy;
        self.model.reduced_motion = reduced_motion;
    }

    /// Leads through the tutorial from now on.
    pub(crate) fn begin_tutorial(&mut self) {
        self.tutorial = Some(Tutorial::begin());
    }

    /// True if a key asks for something on the view that is looked at.
    pub(crate) fn is_bound(&self, key: KeyEvent) -> bool {
        self.keys.ask_of(self.view, self.translated(key)).is_some()
    }

    /// The bytes that are to go to the terminal beside the screen.
    pub(crate) fn take_aside(&mut self) -> Vec<u8> {
        std::mem::take(&mut self.aside)
    }

    /// The title of the window: the show, and what matters most about it.
    pub(crate) fn title(&self) -> String {
        let name = &self.model.document.kept().name;
        let dark = if self.model.snapshot.blackout { " - blackout" } else { "" };
        let trouble = if self.model.troubles.is_empty() { "" } else { " - trouble" };
        if name.is_empty() { "Splimo".to_owned() } else { format!("{name} - Splimo{dark}{trouble}") }
    }

    /// A key as it would be on a keyboard of the United States.
    fn translated(&self, key: KeyEvent) -> KeyEvent {
        let by_place = self.views.by_place(self.view) && self.overlay.is_none();
        self.keys.layout.translated(key, self.is_typed_into(), by_place)
    }

    /// The way the screen is to be left, if it is.
    pub(crate) fn leaves(&self) -> Option<&Leaving> {
        self.leaves.as_ref()
    }

    /// True if a person asked to spend less of the line.
    pub(crate) fn is_economical(&self) -> bool {
        self.economy
    }

    /// Takes an update of the session over, and returns what follows from it for whoever speaks with the session.
    pub(crate) fn take(&mut self, update: Update) -> News {
        let news = self.model.take(update);
        match &news {
            News::Said(words) => self.say(words.clone()),
            News::Remembered(bytes) => self.recall(bytes),
            News::None | News::Answer(..) | News::Ended(_) | News::Lost(_) => {}
        }
        news
    }

    /// Has the views take note of what the model has been told.
    pub(crate) fn sync(&mut self) {
        self.model.prepare();
        self.views.sync(&self.model);
        let told = self.model.document.edition() > 0 || !self.model.document.kept().name.is_empty();
        if told && !std::mem::replace(&mut self.begun, true) && self.model.document.kept().fixtures.is_empty() {
            // Where nothing hangs yet, that is the first thing to do.
            self.view = ViewId::Rig;
        }
        self.offer();
    }

    /// Offers what the session has to offer, once nothing else is open, and no longer than it stands.
    fn offer(&mut self) {
        let state = &self.model.state;
        match &self.overlay {
            None if state.found => self.overlay = Some(Overlay::Recover),
            None if state.ran.is_some() => self.overlay = state.ran.clone().map(Overlay::Resume),
            // Only who wants to save is asked: on a stage, keys are for the lights.
            None => {
                let asked = state.theirs.as_ref().map_or(0, |theirs| theirs.asked);
                if asked > std::mem::replace(&mut self.asked, asked) {
                    self.overlay = state.theirs.clone().map(|theirs| Overlay::Changed(ChangedPanel::new(theirs)));
                }
            }
            Some(Overlay::Recover) if !state.found => self.overlay = None,
            Some(Overlay::Resume(_)) if state.ran.is_none() => self.overlay = None,
            Some(Overlay::Changed(panel)) if state.theirs.as_ref() != Some(panel.theirs()) => self.overlay = None,
            Some(_) => {}
        }
    }

    /// Goes where another screen was.
    pub(crate) fn recall(&mut self, bytes: &[u8]) {
        let Ok(memory) = serde_json::from_slice::<Memory>(bytes) else { return };
        self.model.prepare();
        self.views.sync(&self.model);
        if let Some(view) = memory.get("view").and_then(|name| ViewId::named(name)) {
            (self.view, self.begun) = (view, true);
        }
        self.views.recall(&memory);
    }

    /// The memory that the next screen is to begin with.
    pub(crate) fn memory(&self) -> Vec<u8> {
        let mut memory = Memory::from([("view".to_owned(), self.view.spec().name.to_owned())]);
        self.views.remember(&mut memory);
        serde_json::to_vec(&memory).unwrap_or_default()
    }

    /// The subscription of this screen.
    pub(crate) fn subscription(&self) -> Subscription {
        let mut subscription = Subscription::default();
        self.views.subscribe(self.view, &mut subscription);
        subscription
    }

    pub(crate) fn say(&mut self, words: String) {
        if !words.is_empty() {
            self.said = Some((words, Instant::now()));
        }
    }

    /// Takes note of the outcome of a command.
    pub(crate) fn answered(&mut self, outcome: Outcome) {
        match outcome {
            Outcome::Done => {}
            Outcome::Told(words) | Outcome::Nothing(words) => self.say(words),
            Outcome::Refused(why) => {
                self.views.refused(self.view, &why);
                if let Some(overlay) = &mut self.overlay {
                    overlay.refused(&why);
                }
                self.say(why);
            }
        }
    }

    /// The next command that the session is to carry out, after everything has been done that was asked for before it and only
    /// moves the screen.
    pub(crate) fn next_command(&mut self) -> Option<Command> {
        loop {
            match self.queue.pop_front() {
                Some(Ask::Command(command)) => {
                    self.before_command(&command);
                    if let Some(first) = self.take_first(&command) {
                        return Some(first);
                    }
                    return Some(command);
                }
                Some(Ask::Action(action)) => self.perform(&action),
                Some(Ask::GoTo(name)) => self.go_to(name),
                Some(Ask::Say(words)) => self.say(words),
                Some(Ask::Palette(name)) => self.overlay = Some(Overlay::Palette(Palette::asking(name))),
                None => {
                    if let Some(words) = self.views.said() {
                        self.say(words);
                    }
                    return None;
                }
            }
        }
    }

    /// Asks for something as a key would.
    #[cfg(test)]
    pub(crate) fn ask(&mut self, ask: AnyAsk) {
        self.queue.push_back(ask);
    }

    /// True if anything is open.
    #[cfg(test)]
    pub(crate) fn has_open(&self) -> bool {
        self.overlay.is_some() || self.views.modality(self.view) != Modality::Free
    }

    fn before_command(&mut self, _command: &Command) {
        if let Some(words) = self.views.said() {
            self.say(words);
        }
    }

    /// A command that has to come before another one: what is tried on a show that is about to be another is dropped first.
    fn take_first(&mut self, command: &Command) -> Option<Command> {
        if !matches!(command, Command::Document(DocumentCommand::Undo | DocumentCommand::Redo)) {
            return None;
        }
        let mut first = self.views.before_undo(self.view).into_iter();
        let Some(Ask::Command(before)) = first.next() else { return None };
        self.queue.push_front(Ask::Command(command.clone()));
        Some(before)
    }

    fn go_to(&mut self, name: &str) {
        let Some(view) = ViewId::named(name) else { return self.say(format!("there is no view \"{name}\"")) };
        if view != self.view {
            let asks = self.views.leave(self.view);
            self.put_first(asks);
            self.said = None;
        }
        (self.view, self.overlay) = (view, None);
    }

    /// Puts what follows from something before what was asked for after it.
    fn put_first(&mut self, asks: Vec<AnyAsk>) {
        asks.into_iter().rev().for_each(|ask| self.queue.push_front(ask));
    }

    fn perform(&mut self, action: &AnyAction) {
        match action {
            AnyAction::Frame(action) => self.perform_own(action),
            AnyAction::View(action) if action.owner() == self.view => {
                let asks = self.views.act(action);
                self.put_first(asks);
            }
            // Nothing that is not seen is acted upon.
            AnyAction::View(action) => {
                let spec = action.owner().spec();
                let (name, key) = (spec.name, spec.function_key);
                self.say(format!("{} is for the view {name}: F{key} goes there", action.name()));
            }
        }
    }

    fn perform_own(&mut self, action: &FrameAction) {
        match action {
            FrameAction::ShowView(name) => self.go_to(name),
            FrameAction::Help => {
                let open = self.views.hints(self.view).unwrap_or_default();
                self.overlay = Some(Overlay::Help(Help::with(&open)));
            }
            FrameAction::FindAction => self.overlay = Some(Overlay::Palette(Palette::default())),
            FrameAction::ShowNight => self.overlay = Some(Overlay::Night(NightPanel::default())),
            FrameAction::ShowSettings => {
                let show = self.model.document.kept();
                self.overlay = Some(Overlay::Settings(SettingsForm::of(&show.settings, &show.looks)));
            }
            FrameAction::Economy => {
                self.economy = !self.economy;
                let words = if self.economy { "the line is spared" } else { "the line is used as it takes" };
                self.say(words.to_owned());
            }
            FrameAction::CopyScreen => {
                self.copies = true;
                self.say("the words of this screen are where you paste from, if the terminal allows it".to_owned());
            }
            FrameAction::LearnControl => match self.views.learn(self.view) {
                Learn::Target(text) => self.queue.push_front(Ask::Command(SessionCommand::Learn(text).into())),
                Learn::After(edit, text) => {
                    self.queue.push_front(Ask::Command(SessionCommand::Learn(text).into()));
                    self.queue.push_front(Ask::edit(*edit));
                }
                Learn::Choosing(words) | Learn::Nothing(words) => self.say(words.to_owned()),
            },
            FrameAction::NextCue => self.ask_of_cues(EngineCommand::GoCue),
            FrameAction::CueBefore => self.ask_of_cues(EngineCommand::BackCue),
            FrameAction::HoldCues => self.ask_of_cues(EngineCommand::PauseCues),
            FrameAction::TutorialSkip(by) => match &mut self.tutorial {
                Some(tutorial) => tutorial.skip(*by),
                None => self.say("no tutorial runs; `splimo tutorial` begins one".to_owned()),
            },
            FrameAction::TutorialEnd => self.tutorial = None,
            FrameAction::Back => self.back(),
            FrameAction::OpenShow(file) => {
                let session = self.model.session.as_ref();
                let folder = session.map(|session| session.folder()).unwrap_or_default();
                self.leave(Leaving::Open(path_from(&folder, file).into()));
            }
            FrameAction::JoinSession(name) => self.leave(Leaving::Join(name.clone())),
            FrameAction::Leave => self.ask_to_leave(),
            FrameAction::LeaveAtOnce => {
                let again = self.asked_to_leave.is_some_and(|asked| asked.elapsed() < TWICE);
                if again { self.leave(Leaving::RunOn) } else { self.ask_to_leave() }
            }
        }
    }

    /// Asks something of the cue list that is chosen; every view says which it is.
    fn ask_of_cues(&mut self, command: fn(String) -> EngineCommand) {
        match self.views.cue_list().map(|list| list.name.clone()) {
            Some(list) => self.queue.push_front(Ask::engine(command(list))),
            None => self.say("there is no cue list yet; F5 makes one".to_owned()),
        }
    }

    fn back(&mut self) {
        if self.overlay.take().is_some() {
            return;
        }
        if self.model.inputs.learning.is_some() {
            return self.queue.push_front(Ask::Command(SessionCommand::Learn("off".to_owned()).into()));
        }
        let free = self.views.modality(self.view) == Modality::Free;
        let asks = self.views.leave(self.view);
        // Backing out of nothing takes back what is armed.
        if free {
            self.queue.push_front(Ask::engine(EngineCommand::Disarm));
        }
        self.put_first(asks);
    }

    fn ask_to_leave(&mut self) {
        self.asked_to_leave = Some(Instant::now());
        let unsaved = self.model.state.unsaved;
        let blind = !self.model.drafts.looks.is_empty();
        let others = self.model.state.screens.saturating_sub(1);
        self.overlay = Some(Overlay::Leave(Leave { unsaved, blind, others }));
    }

    fn leave(&mut self, leaving: Leaving) {
        // Nothing that was only tried or tested outlives the screen.
        let asks = self.views.leave(self.view);
        self.queue.extend(asks);
        if leaving == Leaving::EndShow {
            self.queue.push_back(Ask::Command(splimo_show::command::SessionCommand::End.into()));
        }
        self.leaves = Some(leaving);
    }

    /// Does what follows from the time that has passed.
    pub(crate) fn tick(&mut self) {
        if let Some(tutorial) = &mut self.tutorial {
            tutorial.sync(&self.model, self.view);
            tutorial.tick();
        }
        let asks = self.views.tick();
        self.queue.extend(asks);
    }

    /// Handles a key.
    pub(crate) fn key(&mut self, key: KeyEvent) {
        if matches!(key.code, KeyCode::Char(letter) if letter.is_control()) {
            // No key is called so, and nothing that is typed has such letters.
            return;
        }
        // The show binds keys by what they say.
        let own = key;
        let key = self.translated(key);
        // What was said is about what was done before.
        self.said = self.said.take().filter(|(_, at)| at.elapsed() < READ);
        let held = key.modifiers & (KeyModifiers::CONTROL | KeyModifiers::ALT);
        // Leaving is possible from everywhere.
        if held == KeyModifiers::CONTROL && key.code == KeyCode::Char('c') {
            return self.queue.push_back(Ask::Action(AnyAction::Frame(FrameAction::LeaveAtOnce)));
        }
        // Dark, and nothing but the safe look, are one key from everywhere, whatever is open or typed.
        if let Some(ask) = self.keys.always(key, self.is_typed_into()) {
            return self.queue.push_back(ask);
        }
        if self.overlay.is_some() {
            return self.key_of_overlay(key);
        }
        if let Some(name) = self.shows_own(own) {
            self.own_held.retain(|held| *held != name);
            self.own_held.push(name.clone());
            return self.queue.push_back(Ask::Command(SessionCommand::PressKey(name).into()));
        }
        match self.views.key(self.view, key) {
            Handled::Done(asks) => return self.queue.extend(asks),
            Handled::First(asks) => self.queue.extend(asks),
            Handled::Not => {
                // A letter that a form does not know is a slip, and must not do something else.
                let letter = matches!(key.code, KeyCode::Char(letter) if letter != '`') && held.is_empty();
                if letter && self.views.modality(self.view) == Modality::Typing {
                    return;
                }
            }
        }
        self.queue.extend(self.keys.ask_of(self.view, key));
    }

    /// Takes note of a key that was let go. What it held ends, whatever is open by now.
    pub(crate) fn released(&mut self, key: KeyEvent) {
        if let Some(name) = self.shows_own(key) {
            self.own_held.retain(|held| *held != name);
            self.queue.push_back(Ask::Command(SessionCommand::LetKeyGo(name).into()));
        }
        // It may have been pressed on another view than the one that is shown: what is held is let go by its place.
        let asks = self.views.released(self.keys.layout.translated(key, false, true));
        self.queue.extend(asks);
    }

    /// Lets go what is held by keys, as where the person goes on in another window: it is not told when they let them go.
    pub(crate) fn let_all_go(&mut self) {
        let own = std::mem::take(&mut self.own_held).into_iter();
        self.queue.extend(own.map(|name| Ask::Command(SessionCommand::LetKeyGo(name).into())));
        let asks = self.views.let_all_go();
        self.queue.extend(asks);
    }

    /// The name of a key that the show binds, where nothing is open or typed into.
    fn shows_own(&self, key: KeyEvent) -> Option<String> {
        let bindings = &self.model.document.shown().bindings;
        if bindings.iter().all(|binding| binding.source != "keys") || self.is_typed_into() {
            return None;
        }
        let name = key_name(key)?;
        let bound = |binding: &Binding| {
            binding.source == "keys" && matches!(&binding.event, EventAddress::Key(own) if *own == name)
        };
        bindings.iter().any(bound).then_some(name)
    }

    /// True if letters are typed into something.
    pub(crate) fn is_typed_into(&self) -> bool {
        self.overlay.is_some() || self.views.modality(self.view) == Modality::Typing
    }

    fn key_of_overlay(&mut self, key: KeyEvent) {
        let Some(overlay) = &mut self.overlay else { return };
        match overlay.key(key, self.view, &self.model) {
            OverlayReply::Stay => {}
            OverlayReply::Close => self.overlay = None,
            OverlayReply::Ask(asks) => self.queue.extend(asks),
            OverlayReply::CloseAsking(asks) => {
                self.overlay = None;
                self.queue.extend(asks);
            }
            OverlayReply::Leave(leaving) => self.leave(leaving),
        }
    }

    /// Handles the mouse.
    pub(crate) fn mouse(&mut self, mouse: MouseEvent) {
        let at = Position::new(mouse.column, mouse.row);
        let pressed = mouse.kind == MouseEventKind::Down(MouseButton::Left);
        if self.overlay.is_some() {
            // A click beside what is open closes it; what asks for an answer stays.
            let asks = matches!(self.overlay, Some(Overlay::Recover | Overlay::Resume(_)));
            if pressed && !asks {
                self.overlay = None;
            }
            return;
        }
        if let Some((_, ask)) = self.targets.iter().find(|(area, _)| pressed && area.contains(at)) {
            return self.queue.push_back(ask.clone());
        }
        let turned = match mouse.kind {
            MouseEventKind::ScrollUp => Some(1),
            MouseEventKind::ScrollDown => Some(-1),
            _ => None,
        };
        match turned {
            // The wheel moves the master on the status line, and what the arrows move elsewhere.
            Some(by) if at.y == 0 => {
                self.queue.push_back(Ask::engine(EngineCommand::NudgeMaster(by as f32 * 5.0)));
            }
            _ => match (self.views.mouse(self.view, mouse), turned) {
                (Some(asks), _) => self.queue.extend(asks),
                (None, Some(by)) => self.queue.push_back(self.views.wheel(self.view, by)),
                (None, None) => {}
            },
        }
    }

    /// Handles pasted text. Where nothing is typed it is a slip: it must not fire pads.
    pub(crate) fn paste(&mut self, text: &str) {
        if let Some(overlay) = &mut self.overlay {
            overlay.paste(text);
        } else {
            let asks = self.views.paste(self.view, text);
            self.queue.extend(asks);
        }
    }

    /// Draws everything.
    pub(crate) fn draw(&mut self, area: Rect, buffer: &mut Buffer) {
        buffer.set_style(area, self.theme.text());
        self.targets.clear();
        if area.width < WHOLE.0 || area.height < WHOLE.1 {
            let said = self.said.as_ref().filter(|(_, at)| at.elapsed() < SAID).map(|(words, _)| words.as_str());
            let context = self.model.context(&self.nothing);
            if area.width >= SMALLEST.0 && area.height >= SMALLEST.1 {
                let open = self.views.modality(self.view) != Modality::Free;
                let open = open.then(|| format!("something is open on {}: Esc closes it", self.view.spec().name));
                compact::draw(&context, &self.keys, open.as_deref().or(said), self.theme, area, buffer);
                if let Some(overlay) = &mut self.overlay {
                    overlay.draw((self.view, &self.keys), &self.model, self.theme, area, buffer);
                }
                return;
            }
        }
        if area.width < SMALLEST.0 || area.height < SMALLEST.1 {
            too_small(area, buffer, self.theme.bright());
            return;
        }
        let (view, theme) = (self.view, self.theme);
        let row = |y: u16, height: u16| Rect::new(area.x, area.y + y, area.width, height);
        let context = self.model.context(&self.nothing);
        chrome::status_line(&context, &self.keys, theme, row(0, 1), buffer);
        let list = self.views.cue_list();
        chrome::tabs(view, &context, list, theme, row(1, 1), buffer, &mut self.targets);
        let runway = if view == FIRST && area.height >= 30 { 3 } else { 1 };
        chrome::runway(&context, theme, row(2, runway), buffer);
        let lesson = self.tutorial.as_ref().map_or(0, |tutorial| tutorial.height(area.width, area.height));
        let body = row(2 + runway, area.height - 3 - runway - lesson);
        if let Some(tutorial) = &self.tutorial {
            tutorial.draw(&self.keys, theme, row(area.height - 1 - lesson, lesson), buffer);
        }
        self.views.draw(view, &context, theme, body, buffer, &mut self.targets);
        let said = self.said.as_ref().filter(|(_, at)| at.elapsed() < SAID).map(|(words, _)| words.as_str());
        let open = self.views.hints(view);
        chrome::hint_line((view, &self.keys), said, open.as_deref(), theme, row(area.height - 1, 1), buffer);
        if let Some(overlay) = &mut self.overlay {
            overlay.draw((view, &self.keys), &self.model, theme, area, buffer);
        }
        if std::mem::take(&mut self.copies) {
            self.aside.extend(copy_out(&text_of(area, buffer)));
        }
    }
}

/// The words of a screen, line by line.
fn text_of(area: Rect, buffer: &Buffer) -> String {
    let line = |y: u16| {
        let line: String = (area.left()..area.right()).map(|x| buffer[(x, y)].symbol()).collect();
        line.trim_end().to_owned()
    };
    (area.top()..area.bottom()).map(line).collect::<Vec<_>>().join("\n")
}

fn too_small(area: Rect, buffer: &mut Buffer, style: Style) {
    let words =
        format!("Splimo needs {} x {} characters; here are {} x {}", SMALLEST.0, SMALLEST.1, area.width, area.height);
    buffer.set_stringn(area.x, area.y, words, usize::from(area.width), style);
}
