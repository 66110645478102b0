//! What the screen is at a moment: which view, what is open over it, and what was said last.

use std::collections::VecDeque;
use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use ratatui::layout::{Position, Rect};
use ratatui::style::Style;
use splimo_core::action::{Action, View};
use splimo_core::engine::Snapshot;
use splimo_core::rig::Rig;
use splimo_core::show::{Settings, Show};
use splimo_wire::Protocol;

use super::inputs::InputsView;
use super::looks::LooksView;
use super::output::OutputView;
use super::overlay::{Help, Overlay, Palette, Quit};
use super::play::PlayView;
use super::rig::{Desk, RigView};
use super::{chrome, keys};
use crate::kit::theme::{Depth, Theme};
use splimo_link::output::OutputStatus;
use splimo_link::output::PortStatus;
use splimo_runtime::clock::Instant;
use splimo_runtime::crash_note::Running;
use splimo_runtime::network::NetworkStatus;
use splimo_runtime::trouble::Trouble;

/// How long something that was said stays on the screen, in seconds.
const SAID: f64 = 4.0;
/// Smaller than this nothing can be shown.
const SMALLEST: (u16, u16) = (60, 18);

/// What a screen is drawn from.
pub(super) struct Seen<'a> {
    /// The show that the snapshot is of.
    pub(super) show: &'a Arc<Show>,
    /// Its rig.
    pub(super) rig: &'a Arc<Rig>,
    /// The show as it is edited.
    pub(super) desk: Desk,
    pub(super) unsaved: bool,
    pub(super) snapshot: &'a Snapshot,
    pub(super) output: &'a OutputStatus,
    pub(super) network: &'a NetworkStatus,
    /// How the serial ports are.
    pub(super) ports: &'a [PortStatus],
    pub(super) troubles: &'a [Trouble],
}

/// The screen.
pub(super) struct Face {
    pub(super) theme: Theme,
    pub(super) view: View,
    overlay: Option<Overlay>,
    /// The rig that was drawn last.
    drawn: Arc<Rig>,
    rig: RigView,
    play: PlayView,
    output: OutputView,
    inputs: InputsView,
    looks: LooksView,
    /// What follows from a key besides the action that it asked for.
    queue: VecDeque<Action>,
    said: Option<(String, Instant)>,
    /// What a click does where.
    targets: Vec<(Rect, Action)>,
    leaves: bool,
    /// What ran when it ended badly the last time, until the person says what is to become of it.
    ran: Option<Running>,
    /// Whether the person was asked to leave, and has not said that they stay.
    asked: bool,
}

impl Face {
    pub(super) fn new(show: &Arc<Show>) -> Self {
        Self::with_theme(show, Theme { depth: Depth::of_environment() })
    }

    pub(super) fn with_theme(show: &Arc<Show>, theme: Theme) -> Self {
        Self {
            rig: RigView::new(show),
            play: PlayView::default(),
            output: OutputView::new(show),
            inputs: InputsView::default(),
            looks: LooksView::new(show),
            theme,
            drawn: Arc::default(),
            queue: VecDeque::new(),
            // Where nothing hangs yet, that is the first thing to do.
            view: if show.fixtures.is_empty() { View::Rig } else { View::Play },
            overlay: None,
            said: None,
            targets: Vec::new(),
            leaves: false,
            ran: None,
            asked: false,
        }
    }

    /// The view that is looked at.
    pub(super) fn view(&self) -> View {
        self.view
    }

    pub(super) fn leaves(&self) -> bool {
        self.leaves
    }

    pub(super) fn has_open(&self) -> bool {
        self.overlay.is_some()
            || match self.view {
                View::Rig => self.rig.has_open(),
                View::Output => self.output.has_open(),
                View::Looks => self.looks.has_open(),
                View::Play | View::Inputs => false,
            }
    }

    /// Whether the question is open whether to leave.
    pub(super) fn asks_to_leave(&self) -> bool {
        self.asked
    }

    /// Takes note of the show as it is edited now.
    pub(super) fn see(&mut self, desk: Desk) {
        self.looks.see(&desk.kept);
        self.rig.see(desk);
    }

    /// Takes note of the show as it was saved last.
    pub(super) fn see_saved(&mut self, saved: &Arc<Show>) {
        self.looks.see_saved(saved);
    }

    /// The universe that comes in and is looked at.
    pub(super) fn watched(&self) -> Option<(Protocol, u16)> {
        self.output.watched().filter(|_| self.view == View::Output)
    }

    /// What is still to be done of what was asked for.
    pub(super) fn queued(&mut self) -> Option<Action> {
        self.queue.pop_front()
    }

    /// Says why the document would not have something.
    pub(super) fn refused(&mut self, why: String) {
        self.rig.refused(&why);
        self.output.refused(&why);
        self.looks.refused(&why);
        self.say(why);
    }

    /// Offers to go on with what ran, once nothing else is asked any more.
    pub(super) fn offer_resuming(&mut self, ran: Running) {
        self.ran = Some(ran);
        self.ask_whether_to_resume();
    }

    fn ask_whether_to_resume(&mut self) {
        if let (Some(ran), None) = (&self.ran, &self.overlay) {
            self.overlay = Some(Overlay::Resume(ran.words()));
        }
    }

    /// Whether it is still asked whether to go on.
    pub(super) fn asks_whether_to_resume(&self) -> bool {
        self.ran.is_some()
    }

    /// Offers work that was found.
    pub(super) fn offer_recovery(&mut self) {
        self.overlay = Some(Overlay::Recover);
    }

    pub(super) fn say(&mut self, words: String) {
        self.said = Some((words, Instant::now()));
    }

    /// What there is to say of an action that the engine carries out, where the screen does not show it anyway.
    pub(super) fn answer_to(&self, action: &Action, show: &Show) -> Option<String> {
        match action {
            Action::FirePad(pad) if *pad >= show.looks.len() => Some("there is no look on this pad".to_owned()),
            Action::FireLook(name) if show.look(name).is_none() => Some(format!("there is no look \"{name}\"")),
            Action::FollowMusic => Some("following the music".to_owned()),
            Action::BarHere => Some("a bar begins here".to_owned()),
            Action::PhraseHere => Some("a phrase begins here".to_owned()),
            Action::TempoTimes(by) => {
                Some(if *by > 1.0 { "twice as many beats" } else { "half as many beats" }.to_owned())
            }
            Action::NudgeBeat(by) => Some(format!("the beat comes {}", if *by > 0 { "earlier" } else { "later" })),
            Action::NextSection(_) => Some("the part is set by hand, until another is heard".to_owned()),
            _ => None,
        }
    }

    /// Carries out an action that is the screen's.
    pub(super) fn act(&mut self, action: &Action, unsaved: bool) {
        match action {
            Action::ShowView(view) => {
                if *view != View::Rig {
                    self.queue.extend(self.rig.leave());
                }
                if *view != View::Output {
                    self.queue.extend(self.output.leave());
                }
                if *view != View::Looks {
                    self.queue.extend(self.looks.leave());
                }
                self.view = *view;
                self.overlay = None;
            }
            Action::PadBank(by) => self.play.turn_bank(*by),
            Action::Help => self.overlay = Some(Overlay::Help(Help::default())),
            Action::FindAction => self.overlay = Some(Overlay::Palette(Palette::default())),
            Action::Ask(action) => self.overlay = Some(Overlay::Palette(Palette::asking(action))),
            Action::Quit => {
                self.asked = true;
                let blind = self.looks.holds_back();
                self.overlay = Some(Overlay::Quit(Quit { unsaved, blind }));
            }
            Action::QuitNow => {
                // Nothing that was only tried or proved outlives the screen.
                self.queue.extend(self.rig.leave());
                self.queue.extend(self.output.leave());
                self.queue.extend(self.looks.leave());
                self.queue.extend(self.looks.rescue());
                self.leaves = true;
            }
            Action::Resume => {
                let ran = self.ran.take();
                self.queue.extend(ran.iter().flat_map(Running::actions));
            }
            Action::Back if self.overlay.is_some() => {
                if matches!(self.overlay, Some(Overlay::Resume(_))) {
                    self.ran = None;
                }
                (self.overlay, self.asked) = (None, false);
            }
            Action::Back => {
                self.queue.extend(self.rig.leave());
                self.queue.extend(self.output.leave());
                self.queue.extend(self.looks.leave());
            }
            // The same key on another view.
            Action::NextUniverse(_) if self.view == View::Rig => self.act_on_rig(action),
            other => match self.looks.act(other, self.view == View::Looks) {
                Some(actions) => {
                    self.view = View::Looks;
                    self.overlay = None;
                    self.queue.extend(actions);
                    self.say_of_looks();
                }
                None => self.act_on_output(other),
            },
        }
    }

    fn act_on_output(&mut self, action: &Action) {
        match self.output.act(action) {
            Some(actions) => {
                self.view = View::Output;
                self.overlay = None;
                self.queue.extend(actions);
                self.say_of_output();
            }
            None => self.act_on_rig(action),
        }
    }

    /// The rest is the rig's, and is seen there.
    fn act_on_rig(&mut self, action: &Action) {
        self.view = View::Rig;
        self.overlay = None;
        self.queue.extend(self.rig.act(action));
        if let Some(said) = self.rig.said() {
            self.say(said);
        }
    }

    fn say_of_looks(&mut self) {
        if let Some(said) = self.looks.said() {
            self.say(said);
        }
    }

    fn say_of_output(&mut self) {
        if let Some(said) = self.output.said() {
            self.say(said);
        }
    }

    /// What a key asks for.
    pub(super) fn key(&mut self, key: KeyEvent) -> Option<Action> {
        if matches!(key.code, KeyCode::Char(letter) if letter.is_control()) {
            // No key is called so, and nothing that is typed has such letters.
            return None;
        }
        let held = key.modifiers & (KeyModifiers::CONTROL | KeyModifiers::ALT);
        if let Some(overlay) = &mut self.overlay {
            // Leaving is possible from everywhere.
            if held == KeyModifiers::CONTROL && key.code == KeyCode::Char('c') {
                return Some(Action::QuitNow);
            }
            let action = overlay.key(key);
            if action.as_ref().is_some_and(|a| *a != Action::Back) {
                self.overlay = None;
            }
            return action;
        }
        if self.view == View::Rig
            && let Some(actions) = self.rig.key(key)
        {
            self.queue.extend(actions);
            if let Some(said) = self.rig.said() {
                self.say(said);
            }
            return None;
        }
        if self.view == View::Looks
            && let Some(actions) = self.looks.key(key)
        {
            self.queue.extend(actions);
            self.say_of_looks();
            return None;
        }
        if self.view == View::Output
            && let Some(actions) = self.output.key(key)
        {
            self.queue.extend(actions);
            self.say_of_output();
            return None;
        }
        // A letter that a form does not know is a slip, and must not do something else.
        let letter = matches!(key.code, KeyCode::Char(letter) if letter != '`') && held.is_empty();
        let types = match self.view {
            View::Rig => self.rig.has_open() && self.rig.types(),
            View::Output => self.output.types(),
            View::Looks => self.looks.types(),
            View::Play | View::Inputs => false,
        };
        if letter && types {
            return None;
        }
        let action = keys::action(self.view, self.play.bank(), key);
        if self.view == View::Rig && matches!(action, Some(Action::Undo | Action::Redo)) {
            self.queue.extend(self.rig.leave_editing());
        }
        action
    }

    /// What the mouse asks for.
    pub(super) fn mouse(&mut self, mouse: MouseEvent) -> Option<Action> {
        let at = Position::new(mouse.column, mouse.row);
        match mouse.kind {
            MouseEventKind::Down(MouseButton::Left) if self.overlay.is_some() => Some(Action::Back),
            MouseEventKind::Down(MouseButton::Left) => {
                let target = self.targets.iter().find(|(area, _)| area.contains(at)).map(|(_, action)| action.clone());
                match (self.view, &target) {
                    (View::Output, _) => self.output.click(at),
                    (View::Rig, None) => self.queue.extend(self.rig.mouse(mouse)),
                    (View::Looks, None) => self.queue.extend(self.looks.mouse(mouse)),
                    _ => {}
                }
                target
            }
            _ if self.overlay.is_some() => None,
            _ if self.view == View::Looks && at.y > 0 => {
                self.queue.extend(self.looks.mouse(mouse));
                self.say_of_looks();
                None
            }
            _ if self.view == View::Rig && at.y > 0 => {
                self.queue.extend(self.rig.mouse(mouse));
                None
            }
            MouseEventKind::ScrollUp => Some(self.wheel(at, 1)),
            MouseEventKind::ScrollDown => Some(self.wheel(at, -1)),
            _ => None,
        }
    }

    /// The wheel moves the master on the status line, and what the arrows move elsewhere.
    fn wheel(&self, at: Position, by: i32) -> Action {
        match self.view {
            _ if at.y == 0 => Action::NudgeMaster(by as f32 * 5.0),
            View::Rig => Action::ChooseFixture(-by),
            View::Output | View::Looks => Action::ChooseRow(-by),
            View::Play => Action::PadBank(-by),
            View::Inputs => Action::NudgeHearingGain(by as f32),
        }
    }

    pub(super) fn paste(&mut self, text: &str) {
        if let Some(overlay) = &mut self.overlay {
            overlay.paste(text);
        } else if self.view == View::Rig {
            self.queue.extend(self.rig.paste(text));
        } else if self.view == View::Output {
            self.queue.extend(self.output.paste(text));
        } else if self.view == View::Looks {
            self.queue.extend(self.looks.paste(text));
        }
        // Elsewhere a paste is a slip: it must not fire pads.
    }

    /// Draws everything.
    pub(super) fn draw(&mut self, seen: &Seen<'_>, area: Rect, buffer: &mut Buffer) {
        self.ask_whether_to_resume();
        buffer.set_style(area, self.theme.text());
        self.targets.clear();
        if area.width < SMALLEST.0 || area.height < SMALLEST.1 {
            too_small(area, buffer, self.theme.bright());
            return;
        }
        let row = |y: u16, height: u16| Rect::new(area.x, area.y + y, area.width, height);
        chrome::status_line(seen, self.theme, row(0, 1), buffer);
        chrome::tabs(self.view, seen, self.theme, row(1, 1), buffer, &mut self.targets);
        self.rig.see(seen.desk.clone());
        if !Arc::ptr_eq(&self.drawn, seen.rig) {
            self.drawn = seen.rig.clone();
            self.play.rig_changed();
            self.output.rig_changed();
            self.inputs.rig_changed();
        }
        self.inputs.listen(&seen.snapshot.hearing);
        let runway = if self.view == View::Play && area.height >= 30 { 3 } else { 1 };
        chrome::runway(seen, self.inputs.parts(), self.theme, row(2, runway), buffer);
        let body = row(2 + runway, area.height - 3 - runway);
        match self.view {
            View::Rig => {
                let (light, walked) = (&seen.snapshot.light, seen.snapshot.walked);
                self.rig.draw(light, walked, self.theme, body, buffer, &mut self.targets);
            }
            View::Play => self.play.draw(seen, seen.rig, self.theme, body, buffer, &mut self.targets),
            View::Output => self.output.draw(seen, seen.rig, self.theme, body, buffer),
            View::Inputs => self.inputs.draw(seen, seen.rig, self.theme, body, buffer),
            View::Looks => {
                let actions = self.looks.draw(seen, self.theme, body, buffer);
                self.queue.extend(actions);
            }
        }
        let said = self
            .said
            .as_ref()
            .filter(|(_, at)| Instant::now().seconds_since(*at) < SAID)
            .map(|(words, _)| words.as_str());
        let open = match self.view {
            View::Rig => self.rig.hints(),
            View::Output => self.output.hints(),
            View::Looks => self.looks.hints(),
            View::Play | View::Inputs => None,
        };
        chrome::hint_line(self.view, said, open.as_deref(), self.theme, row(area.height - 1, 1), buffer);
        if let Some(overlay) = &mut self.overlay {
            overlay.draw(self.view, self.theme, area, buffer);
        }
    }
}

fn too_small(area: Rect, buffer: &mut Buffer, style: Style) {
    let words =
        format!("Splimo needs {} x {} characters; here are {} x {}", SMALLEST.0, SMALLEST.1, area.width, area.height);
    buffer.set_stringn(area.x, area.y, words, usize::from(area.width), style);
}

/// How an armed look lands now, as one line.
pub(super) fn said_of_settings(settings: &Settings) -> String {
    let fade = if settings.fade_beats > 0.0 {
        format!("fading in over {}", beats(settings.fade_beats))
    } else {
        "without a fade".to_owned()
    };
    format!("looks land on the {}, {fade}", settings.lands.name()).replace("on the now", "at once")
}

/// A number of beats in words.
pub(super) fn beats(beats: f32) -> String {
    let number = format!("{beats:.2}");
    let number = number.trim_end_matches('0').trim_end_matches('.');
    if beats == 1.0 { "1 beat".to_owned() } else { format!("{number} beats") }
}
