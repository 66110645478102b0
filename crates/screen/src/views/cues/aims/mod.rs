//! The aims: where heads point, turned live by keys and the mouse, and recorded.

mod drawing;
mod form;

use std::collections::BTreeSet;

use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use ratatui::layout::{Position, Rect};
use splimo_document::edit::Edit;
use splimo_document::making::aims;
use splimo_engine::{HeadState, Snapshot};
use splimo_show::command::{EngineCommand, NamedLevel};
use splimo_show::{Aim, Show};

pub(super) use form::AimForm;

use super::action::Ask;
use crate::kit::list::List;

const NO_HEAD: &str = "no fixture of this show turns; one with the profile \"moving head\" does";
const NO_AIM: &str = "there is no aim yet; a records where the chosen heads point";
/// The percents by which a key turns heads, the finest first: a step of two slots, and so on.
const STEPS: [f32; 5] = [0.01, 0.1, 1.0, 5.0, 10.0];

/// The reply of the part to a key.
pub(super) enum Reply {
    /// These are asked for.
    Asks(Vec<Ask>),
    /// A form opens.
    Opens(Box<AimForm>),
    /// There is something to say.
    Says(String),
}

impl Reply {
    const NOTHING: Self = Self::Asks(Vec::new());

    fn says(words: &str) -> Self {
        Self::Says(words.to_owned())
    }
}

/// The part of the view for aims.
pub(super) struct AimPart {
    aims: List,
    heads: List,
    /// The fixtures that are marked, by their names.
    marked: BTreeSet<String>,
    /// The place of the step in [`STEPS`].
    step: usize,
    /// The field of pan and tilt, and where the mouse was last that drags heads over it.
    field: Rect,
    drag: Option<Position>,
}

impl Default for AimPart {
    fn default() -> Self {
        Self {
            aims: List::default(),
            heads: List::default(),
            marked: BTreeSet::new(),
            step: 2,
            field: Rect::default(),
            drag: None,
        }
    }
}

impl AimPart {
    /// The heads that are chosen, by the places of their fixtures: those that are marked, or the one at the cursor.
    fn chosen(&self, show: &Show) -> Vec<usize> {
        let heads = aims::heads_of(show);
        let marked: Vec<usize> =
            heads.iter().copied().filter(|at| self.marked.contains(&show.fixtures[*at].name)).collect();
        match marked.is_empty() {
            true => heads.get(self.heads.chosen).copied().into_iter().collect(),
            false => marked,
        }
    }

    fn aim<'s>(&self, show: &'s Show) -> Option<(usize, &'s Aim)> {
        let place = self.aims.chosen.min(show.aims.len().checked_sub(1)?);
        Some((place, &show.aims[place]))
    }

    /// The name of the chosen aim.
    pub(super) fn aim_name<'s>(&self, show: &'s Show) -> Option<&'s str> {
        self.aim(show).map(|(_, aim)| aim.name.as_str())
    }

    /// Asks to turn the chosen heads.
    fn turn(&self, show: &Show, make: fn(NamedLevel) -> EngineCommand, percent: f32) -> Vec<Ask> {
        let ask = |at: usize| Ask::engine(make(NamedLevel { name: show.fixtures[at].name.clone(), percent }));
        self.chosen(show).into_iter().map(ask).collect()
    }

    /// Handles a key; none where it means nothing here.
    pub(super) fn key(&mut self, key: KeyEvent, show: &Show, now: &Snapshot) -> Option<Reply> {
        let shift = key.modifiers.contains(KeyModifiers::SHIFT);
        let turns_any = !aims::heads_of(show).is_empty();
        let step = STEPS[self.step];
        let reply = match key.code {
            KeyCode::Left if shift => Reply::Asks(self.turn(show, EngineCommand::NudgePan, -step)),
            KeyCode::Right if shift => Reply::Asks(self.turn(show, EngineCommand::NudgePan, step)),
            KeyCode::Up if shift => Reply::Asks(self.turn(show, EngineCommand::NudgeTilt, -step)),
            KeyCode::Down if shift => Reply::Asks(self.turn(show, EngineCommand::NudgeTilt, step)),
            KeyCode::Up => self.choose_head(-1),
            KeyCode::Down => self.choose_head(1),
            KeyCode::Left | KeyCode::Char('(') => self.choose_aim(-1),
            KeyCode::Right | KeyCode::Char(')') => self.choose_aim(1),
            KeyCode::Char('g') => self.step_to(self.step.saturating_sub(1)),
            KeyCode::Char('G') => self.step_to((self.step + 1).min(STEPS.len() - 1)),
            KeyCode::Char('v') => self.mark(show),
            KeyCode::Char('A') => self.mark_all(show),
            KeyCode::Char('n') => self.point(show),
            KeyCode::Char('z') => {
                let let_go = |at: usize| Ask::engine(EngineCommand::LetHeads(show.fixtures[at].name.clone()));
                Reply::Asks(self.chosen(show).into_iter().map(let_go).collect())
            }
            KeyCode::Char('a') => Reply::Opens(Box::new(AimForm::new(show, now.heads.clone(), self.chosen(show)))),
            KeyCode::Char('o') => self.record(show, &now.heads),
            KeyCode::Char('e') => match self.aim(show) {
                Some((place, aim)) => Reply::Opens(Box::new(AimForm::known(place, aim))),
                None => Reply::says(NO_AIM),
            },
            KeyCode::Char('M') => match self.aim(show) {
                Some((place, aim)) => Reply::Asks(vec![Ask::edit(Edit::PutAim(place, aims::mirrored(show, aim)))]),
                None => Reply::says(NO_AIM),
            },
            KeyCode::Char('X') => match self.aim(show) {
                Some((place, _)) => Reply::Asks(vec![Ask::edit(Edit::RemoveAim(place))]),
                None => Reply::says(NO_AIM),
            },
            KeyCode::Delete | KeyCode::Backspace => self.take_out(show),
            _ => return None,
        };
        Some(if turns_any { reply } else { Reply::says(NO_HEAD) })
    }

    fn choose_head(&mut self, by: i32) -> Reply {
        self.heads.choose_by(by);
        Reply::NOTHING
    }

    fn choose_aim(&mut self, by: i32) -> Reply {
        self.aims.choose_by(by);
        Reply::NOTHING
    }

    /// Chooses the aim that is about to be there.
    pub(super) fn go_to_last(&mut self, show: &Show) {
        self.aims.lay_out(show.aims.len() + 1, Rect { height: 1, ..Rect::default() });
        self.aims.chosen = show.aims.len();
    }

    fn step_to(&mut self, step: usize) -> Reply {
        self.step = step;
        Reply::Says(format!("Shift-arrows turn heads by {} percent", STEPS[step]))
    }

    fn mark(&mut self, show: &Show) -> Reply {
        if let Some(at) = aims::heads_of(show).get(self.heads.chosen) {
            let name = show.fixtures[*at].name.clone();
            if !self.marked.remove(&name) {
                self.marked.insert(name);
            }
            self.heads.choose_by(1);
        }
        Reply::NOTHING
    }

    fn mark_all(&mut self, show: &Show) -> Reply {
        let all: BTreeSet<String> = aims::heads_of(show).iter().map(|at| show.fixtures[*at].name.clone()).collect();
        self.marked = if self.marked == all { BTreeSet::new() } else { all };
        Reply::NOTHING
    }

    /// Points the chosen heads, as far as the aim has them.
    fn point(&self, show: &Show) -> Reply {
        let Some((_, aim)) = self.aim(show) else { return Reply::says(NO_AIM) };
        let chosen = self.chosen(show);
        let names = chosen.iter().map(|at| show.fixtures[*at].name.as_str()).filter(|name| aim.of(name).is_some());
        let asks: Vec<Ask> =
            names.map(|name| Ask::engine(EngineCommand::CallAim(format!("{name}/{}", aim.name)))).collect();
        match asks.is_empty() {
            true => Reply::Says(format!("{} points none of the chosen heads; A chooses all", aim.name)),
            false => Reply::Asks(asks),
        }
    }

    /// Records where the chosen heads point into the chosen aim.
    fn record(&self, show: &Show, heads: &[HeadState]) -> Reply {
        let Some((_, aim)) = self.aim(show) else { return Reply::says(NO_AIM) };
        match aims::recorded(show, heads, &self.chosen(show), &aim.name) {
            Ok(edit) => Reply::Asks(vec![Ask::edit(edit)]),
            Err(why) => Reply::Says(why),
        }
    }

    /// Takes the chosen heads out of the chosen aim.
    fn take_out(&self, show: &Show) -> Reply {
        let Some((place, aim)) = self.aim(show) else { return Reply::says(NO_AIM) };
        let chosen = self.chosen(show);
        let goes = |name: &str| chosen.iter().any(|at| show.fixtures[*at].name == name);
        let mut without = aim.clone();
        without.heads.retain(|head| !goes(&head.fixture));
        match without == *aim {
            true => Reply::Says(format!("{} has none of the chosen heads; X takes the aim out", aim.name)),
            false => Reply::Asks(vec![Ask::edit(Edit::PutAim(place, without))]),
        }
    }

    /// Handles the mouse: a click chooses, a drag over the field turns the chosen heads.
    pub(super) fn mouse(&mut self, mouse: MouseEvent, show: &Show) -> Vec<Ask> {
        let at = Position::new(mouse.column, mouse.row);
        match mouse.kind {
            MouseEventKind::Down(MouseButton::Left) if self.field.contains(at) => {
                self.drag = Some(at);
                // One head comes to the pointer; several stay as they are to one another.
                if self.chosen(show).len() == 1 { self.turn_to(show, at) } else { Vec::new() }
            }
            MouseEventKind::Drag(MouseButton::Left) => self.drag_to(show, at),
            MouseEventKind::Down(MouseButton::Left) => {
                let _ = self.aims.click(at) || self.heads.click(at);
                Vec::new()
            }
            MouseEventKind::Up(_) => {
                self.drag = None;
                Vec::new()
            }
            MouseEventKind::ScrollUp | MouseEventKind::ScrollDown => {
                self.heads.choose_by(if mouse.kind == MouseEventKind::ScrollUp { -1 } else { 1 });
                Vec::new()
            }
            _ => Vec::new(),
        }
    }

    /// The pan and tilt, in percent, of a place on the field.
    fn percent_at(&self, at: Position) -> [f32; 2] {
        let share = |at: u16, from: u16, length: u16| {
            f32::from(at.saturating_sub(from)) / f32::from(length.saturating_sub(1).max(1)) * 100.0
        };
        [share(at.x, self.field.x, self.field.width), share(at.y, self.field.y, self.field.height)]
            .map(|percent| percent.clamp(0.0, 100.0))
    }

    fn turn_to(&self, show: &Show, at: Position) -> Vec<Ask> {
        let [pan, tilt] = self.percent_at(at);
        let mut asks = self.turn(show, EngineCommand::HeadPan, pan);
        asks.extend(self.turn(show, EngineCommand::HeadTilt, tilt));
        asks
    }

    fn drag_to(&mut self, show: &Show, at: Position) -> Vec<Ask> {
        let Some(before) = self.drag.replace(at).filter(|_| !self.field.is_empty()) else {
            self.drag = None;
            return Vec::new();
        };
        if self.chosen(show).len() == 1 {
            return self.turn_to(show, at);
        }
        let (from, to) = (self.percent_at(before), self.percent_at(at));
        let mut asks = Vec::new();
        for (make, by) in [
            (EngineCommand::NudgePan as fn(NamedLevel) -> EngineCommand, to[0] - from[0]),
            (EngineCommand::NudgeTilt, to[1] - from[1]),
        ] {
            if by != 0.0 {
                asks.extend(self.turn(show, make, by));
            }
        }
        asks
    }
}
