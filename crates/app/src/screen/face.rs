//! What the screen is at a moment: which view, what is open over it, and what was said last.

use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use ratatui::layout::{Position, Rect};
use ratatui::style::Style;
use splimo_core::action::{Action, View};
use splimo_core::engine::Snapshot;
use splimo_core::rig::Rig;
use splimo_core::show::{Settings, Show};

use super::output::OutputView;
use super::overlay::{Help, Overlay, Palette, Quit};
use super::play::PlayView;
use super::theme::{Depth, Theme};
use super::{chrome, keys};
use crate::runtime::clock::Instant;
use crate::runtime::output::OutputStatus;
use crate::runtime::trouble::Trouble;

/// How long something that was said stays on the screen, in seconds.
const SAID: f64 = 4.0;
/// Smaller than this nothing can be shown.
const SMALLEST: (u16, u16) = (60, 18);

/// What a screen is drawn from.
pub(super) struct Seen<'a> {
    pub(super) show: &'a Arc<Show>,
    pub(super) unsaved: bool,
    pub(super) snapshot: &'a Snapshot,
    pub(super) output: &'a OutputStatus,
    pub(super) troubles: &'a [Trouble],
}

/// The screen.
pub(super) struct Face {
    pub(super) theme: Theme,
    pub(super) rig: Arc<Rig>,
    pub(super) view: View,
    overlay: Option<Overlay>,
    play: PlayView,
    output: OutputView,
    said: Option<(String, Instant)>,
    /// What a click does where.
    targets: Vec<(Rect, Action)>,
    leaves: bool,
}

impl Face {
    pub(super) fn new(show: &Arc<Show>, rig: Arc<Rig>) -> Self {
        Self::with_theme(show, rig, Theme { depth: Depth::of_environment() })
    }

    pub(super) fn with_theme(show: &Arc<Show>, rig: Arc<Rig>, theme: Theme) -> Self {
        Self {
            play: PlayView::new(show),
            output: OutputView::default(),
            theme,
            rig,
            view: View::Play,
            overlay: None,
            said: None,
            targets: Vec::new(),
            leaves: false,
        }
    }

    pub(super) fn leaves(&self) -> bool {
        self.leaves
    }

    pub(super) fn has_open(&self) -> bool {
        self.overlay.is_some()
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
            _ => None,
        }
    }

    /// Carries out an action that is the screen's.
    pub(super) fn act(&mut self, action: &Action, unsaved: bool) {
        match action {
            Action::ShowView(view) => {
                self.view = *view;
                self.overlay = None;
            }
            Action::PadBank(by) => self.play.turn_bank(*by),
            Action::NextUniverse(by) => self.output.choose_by(*by),
            Action::SlotBars => self.output.turn_bars(),
            Action::Help => self.overlay = Some(Overlay::Help(Help::default())),
            Action::FindAction => self.overlay = Some(Overlay::Palette(Palette::default())),
            Action::Quit => self.overlay = Some(Overlay::Quit(Quit { unsaved })),
            Action::QuitNow => self.leaves = true,
            Action::Back => self.overlay = None,
            _ => {}
        }
    }

    /// What a key asks for.
    pub(super) fn key(&mut self, key: KeyEvent) -> Option<Action> {
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
        keys::action(self.view, self.play.bank(), key)
    }

    /// What the mouse asks for.
    pub(super) fn mouse(&mut self, mouse: MouseEvent) -> Option<Action> {
        let at = Position::new(mouse.column, mouse.row);
        match mouse.kind {
            MouseEventKind::Down(MouseButton::Left) if self.overlay.is_some() => Some(Action::Back),
            MouseEventKind::Down(MouseButton::Left) => {
                self.output.click(at);
                self.targets.iter().find(|(area, _)| area.contains(at)).map(|(_, action)| action.clone())
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
            View::Output => Action::NextUniverse(-by),
            View::Play => Action::PadBank(-by),
        }
    }

    pub(super) fn paste(&mut self, text: &str) {
        if let Some(overlay) = &mut self.overlay {
            overlay.paste(text);
        }
        // Elsewhere a paste is a slip: it must not fire pads.
    }

    /// Draws everything.
    pub(super) fn draw(&mut self, seen: &Seen<'_>, area: Rect, buffer: &mut Buffer) {
        buffer.set_style(area, self.theme.text());
        self.targets.clear();
        if area.width < SMALLEST.0 || area.height < SMALLEST.1 {
            too_small(area, buffer, self.theme.bright());
            return;
        }
        let row = |y: u16, height: u16| Rect::new(area.x, area.y + y, area.width, height);
        chrome::status_line(seen, self.theme, row(0, 1), buffer);
        chrome::tabs(self.view, seen, self.theme, row(1, 1), buffer, &mut self.targets);
        let runway = if self.view == View::Play && area.height >= 30 { 3 } else { 1 };
        chrome::runway(seen, self.theme, row(2, runway), buffer);
        let body = row(2 + runway, area.height - 3 - runway);
        match self.view {
            View::Play => self.play.draw(seen, &self.rig, self.theme, body, buffer, &mut self.targets),
            View::Output => self.output.draw(seen, &self.rig, self.theme, body, buffer),
        }
        let said = self
            .said
            .as_ref()
            .filter(|(_, at)| Instant::now().seconds_since(*at) < SAID)
            .map(|(words, _)| words.as_str());
        chrome::hint_line(self.view, said, self.theme, row(area.height - 1, 1), buffer);
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
