//! The view Play: the stage, the tiers and what is on them, what will land, and the pads.

mod action;
mod editing;
mod forms;
mod keys;
mod lists;
mod manner;
mod pads;
mod part;
mod side;

use std::sync::Arc;
use std::time::Instant;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use ratatui::layout::{Position, Rect};
use splimo_engine::{RotationState, Snapshot};
use splimo_link::subscription::Subscription;
use splimo_show::Show;
use splimo_show::command::EngineCommand;

use action::{Ask, KEYS, PlayAction};
use editing::PadEditing;
use forms::OpenForm;
use lists::{Kind, OpenList};
use pads::{Pads, PadsState};
use part::Part;
use side::SideState;

use crate::kit::beams;
use crate::kit::float::float;
use crate::kit::stage_map::{StageMap, enough_of};
use crate::kit::theme::Theme;
use crate::model::{Model, ViewContext};
use crate::view::{Handled, Hints, KeyBinding, Learn, Memory, Modality, Targets, View, ViewSpec};

/// The width of what stands beside the stage.
const SIDE: u16 = 44;

/// The state of the view.
#[derive(Default)]
pub(crate) struct PlayView {
    stage: StageMap,
    pads: Pads,
    bank: usize,
    part: Part,
    /// The tier that is chosen.
    tier: usize,
    /// The number of the waiting thing that is chosen.
    waiting: Option<usize>,
    editing: Option<PadEditing>,
    list: Option<OpenList>,
    form: Option<OpenForm>,
    /// The show as it is edited, and the engine.
    show: Option<Arc<Show>>,
    snapshot: Snapshot,
    /// True if this terminal tells when a key is let go.
    releases: bool,
    /// The pad that was pressed last, when, and whether its key was found to be held.
    pressed: Option<(usize, Instant, bool)>,
    /// The keys that are held, by the places of their pads, each with the number of the pad that it fired.
    held: Vec<(usize, usize)>,
    /// The bars of levels on the screen, each with its tier, and the tier whose bar is dragged.
    bars: Vec<(Rect, usize)>,
    dragged: Option<usize>,
    /// True if the pad that is pressed next is what the next control is to be bound to.
    learning: bool,
    /// The number of lights that are drawn.
    lights: usize,
}

impl View for PlayView {
    type Action = PlayAction;

    const SPEC: ViewSpec = ViewSpec {
        name: "play",
        function_key: 6,
        digit: '5',
        help: &[
            "Press a pad to fire what it does. A look lands on its tier at the boundary of its bank, and fades in from there; the same",
            "pad again takes back what waits. Tiers lie over one another; where the picture of one is clear, those below show.",
            "A pad is plain while it rests, ⟨armed⟩ with its beats left, filled on stage, ▣held▣ while it lies over another, and",
            "░marked░ while it fades out. ± is a toggle, ▲ a flash, ◔ one for some beats, ! a command.",
            "Tab goes on to the tiers (↑ ↓ choose, ← → level, Del releases, Home solo, End mute, Backspace clears all but the lowest)",
            "and to what waits (↑ ↓ choose, Home lands it, End pushes it to its next boundary, Del takes it back).",
            "Shift with an arrow chooses where the next press lands, and how it fades, once.",
        ],
        other_keys: &[["1-0 q-p a-l z-m", "pads", "The pads"]],
        shift_arrows: true,
    };

    const KEYS: &'static [KeyBinding<PlayAction>] = KEYS;

    fn sync(&mut self, model: &Model) {
        self.snapshot.clone_from(&model.snapshot);
        let show = model.document.shown();
        self.bank = self.bank.min(show.banks.len().saturating_sub(1));
        self.tier = self.tier.min(show.stack().len().saturating_sub(1));
        self.show = Some(show.clone());
        let queue = &self.snapshot.queue;
        if !queue.iter().any(|armed| Some(armed.number) == self.waiting) {
            self.waiting = queue.first().map(|armed| armed.number);
        }
    }

    fn key(&mut self, key: KeyEvent) -> Handled<PlayAction> {
        if let Some(handled) = self.key_of_open(key) {
            return handled;
        }
        let held = key.modifiers & (KeyModifiers::CONTROL | KeyModifiers::ALT);
        if !held.is_empty() {
            return Handled::Not;
        }
        if let KeyCode::Char(letter) = key.code {
            let Some(place) = pads::place_of(letter) else { return Handled::Not };
            return Handled::Done(self.press(place));
        }
        if self.editing.is_some() {
            return Handled::done(self.key_of_editing(key.code));
        }
        Handled::done(match self.part {
            Part::Pads => None,
            Part::Tiers => self.key_of_tiers(key),
            Part::Waiting => self.key_of_waiting(key),
        })
    }

    fn released(&mut self, key: KeyEvent) -> Vec<Ask> {
        self.releases = true;
        let KeyCode::Char(letter) = key.code else { return Vec::new() };
        let Some(place) = pads::place_of(letter) else { return Vec::new() };
        self.pressed = None;
        // Whatever bank is shown by now: what the key held is let go.
        let held = self.held.iter().position(|(key, _)| *key == place).map(|at| self.held.swap_remove(at));
        held.map(|(_, number)| Ask::engine(EngineCommand::LetPadGo(number))).into_iter().collect()
    }

    fn let_all_go(&mut self) -> Vec<Ask> {
        self.pressed = None;
        let held = std::mem::take(&mut self.held).into_iter();
        held.map(|(_, number)| Ask::engine(EngineCommand::LetPadGo(number))).collect()
    }

    fn mouse(&mut self, mouse: MouseEvent) -> Option<Vec<Ask>> {
        let at = Position::new(mouse.column, mouse.row);
        let bar = |bars: &[(Rect, usize)], tier: usize| bars.iter().find(|(_, of)| *of == tier).map(|(bar, _)| *bar);
        match mouse.kind {
            MouseEventKind::Down(MouseButton::Left) => {
                let (_, tier) = *self.bars.iter().find(|(bar, _)| bar.contains(at))?;
                self.dragged = Some(tier);
                self.level_at(bar(&self.bars, tier)?, tier, mouse.column)
            }
            MouseEventKind::Drag(MouseButton::Left) => {
                let tier = self.dragged?;
                self.level_at(bar(&self.bars, tier)?, tier, mouse.column)
            }
            MouseEventKind::Up(_) => self.dragged.take().map(|_| Vec::new()),
            MouseEventKind::ScrollUp | MouseEventKind::ScrollDown => {
                let row = self.bars.iter().find(|(bar, _)| bar.y == at.y && at.x + SIDE > bar.x)?;
                let by = if mouse.kind == MouseEventKind::ScrollUp { 5.0 } else { -5.0 };
                Some(self.nudge_tier(row.1, by))
            }
            _ => None,
        }
    }

    fn wheel(&self, by: i32) -> Ask {
        Ask::Action(PlayAction::PadBank(-by))
    }

    fn act(&mut self, action: &PlayAction) -> Vec<Ask> {
        let Some(show) = self.show.clone() else { return Vec::new() };
        match action {
            PlayAction::PadBank(by) => self.turn_bank(*by),
            PlayAction::NextPart => {
                self.part = match self.part {
                    Part::Pads => Part::Tiers,
                    Part::Tiers => Part::Waiting,
                    Part::Waiting => Part::Pads,
                };
            }
            PlayAction::BankLands(by) => return self.bank_lands(*by, &show),
            PlayAction::OnceLands(by) => return vec![self.once_lands(*by, &show)],
            PlayAction::OnceFade(by) => return vec![self.once_fade(*by, &show)],
            PlayAction::EditPads => {
                self.editing = if self.editing.is_some() { None } else { Some(PadEditing::default()) }
            }
            PlayAction::ChoosePad(place) => return self.press((*place).max(1) as usize),
            PlayAction::ShowBanks => self.list = Some(OpenList::new(Kind::Banks, self.bank)),
            PlayAction::ShowTiers => {
                let last = show.stack().len().saturating_sub(1);
                self.list = Some(OpenList::new(Kind::Tiers, last.saturating_sub(self.tier)));
            }
            PlayAction::ShowMasters => self.list = Some(OpenList::new(Kind::Masters, 0)),
            PlayAction::ToggleRotation => {
                let on = self.snapshot.rotation != RotationState::On;
                return vec![Ask::engine(EngineCommand::Rotate(on))];
            }
            PlayAction::ShowRotation => self.form = Some(OpenForm::rotation(&show)),
            PlayAction::ChooseTier(by) => {
                self.part = Part::Tiers;
                self.choose_tier(*by);
            }
        }
        Vec::new()
    }

    fn draw(
        &mut self,
        context: &ViewContext<'_>,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
        targets: &mut Targets<PlayAction>,
    ) {
        self.draw_all(context, theme, area, buffer, targets);
    }

    fn hints(&self) -> Option<Hints> {
        if self.form.is_some() {
            return Some(vec![
                ("↑ ↓", "field"),
                ("← →", "change"),
                ("type", "replaces"),
                ("Enter", "keeps"),
                ("Esc", "not"),
            ]);
        }
        if let Some(list) = &self.list {
            return Some(list.hints());
        }
        if let Some(editing) = &self.editing {
            return Some(editing.hints());
        }
        let common = [("Tab", "next"), ("Enter", "land all"), ("`", "black out"), ("F12", "panic"), ("F1", "help")];
        let mut hints: Hints = match self.part {
            Part::Pads => return None,
            Part::Tiers => vec![
                ("↑ ↓", "tier"),
                ("← →", "level"),
                ("Del", "release"),
                ("Home", "solo"),
                ("End", "mute"),
                ("Backspace", "clear all above the lowest"),
            ],
            Part::Waiting => {
                vec![("↑ ↓", "choose"), ("Home", "land it"), ("End", "push it on"), ("Del", "take it back")]
            }
        };
        hints.extend(common);
        Some(hints)
    }

    fn by_place(&self) -> bool {
        // In forms and lists letters stand for words.
        self.form.is_none() && self.list.is_none()
    }

    fn modality(&self) -> Modality {
        match (&self.form, &self.list, &self.editing) {
            (Some(_), ..) => Modality::Typing,
            (None, Some(_), _) | (None, None, Some(_)) => Modality::Open,
            (None, None, None) => Modality::Free,
        }
    }

    fn paste(&mut self, text: &str) -> Vec<Ask> {
        if let Some(open) = &mut self.form {
            open.form.paste(text);
            open.follow();
        }
        Vec::new()
    }

    fn leave(&mut self) -> Vec<Ask> {
        self.learning = false;
        if self.form.take().is_none() && self.list.take().is_none() {
            let stays = self.editing.as_mut().is_some_and(PadEditing::back);
            if !stays {
                self.editing = None;
            }
        }
        Vec::new()
    }

    fn learn(&mut self) -> Learn {
        let Some(show) = &self.show else { return Learn::Nothing("there is no show yet") };
        if let Some(list) = &self.list {
            return match list.moves(show) {
                Some(text) => Learn::Target(text),
                None => Learn::Nothing("of the lists only masters can be learnt: Ctrl-G shows them"),
            };
        }
        match self.part {
            Part::Tiers => match self.tier_name(self.tier) {
                Some(name) => Learn::Target(format!("tier-level {name}")),
                None => Learn::Nothing("choose a tier first"),
            },
            Part::Waiting => Learn::Target("go".to_owned()),
            Part::Pads => {
                self.learning = true;
                Learn::Choosing("press the pad that a control is to fire; Esc does not")
            }
        }
    }

    fn refused(&mut self, why: &str) {
        if let Some(open) = &mut self.form {
            open.form.error = Some(why.to_owned());
        }
    }

    fn subscribe(&self, subscription: &mut Subscription) {
        subscription.light = Some(enough_of(self.lights));
        subscription.media = true;
    }

    fn remember(&self, memory: &mut Memory) {
        memory.insert("bank".into(), self.bank.to_string());
    }

    fn recall(&mut self, memory: &Memory) {
        self.bank = memory.get("bank").and_then(|bank| bank.parse().ok()).unwrap_or(self.bank);
    }
}

impl PlayView {
    fn draw_all(
        &mut self,
        context: &ViewContext<'_>,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
        targets: &mut Targets<PlayAction>,
    ) {
        let rig = context.rig;
        self.lights = rig.len();
        let edited = self.editing.as_ref().map(|editing| &editing.chosen);
        let state = PadsState { bank: self.bank, edited, releases: self.releases };
        let pads_height = Pads::height(context, &state, area).min(area.height);
        let top = Rect { height: area.height - pads_height, ..area };
        let pads = Rect { y: top.bottom(), height: pads_height, ..area };
        let side = if area.width >= 110 { SIDE } else { 0 };
        let below = u16::from(side == 0);
        let stage =
            Rect { x: area.x + 1, width: area.width - side - 2, height: top.height.saturating_sub(below), ..top };
        if rig.is_empty() {
            buffer.set_string(stage.x, stage.y + 1, "No fixtures yet: F2, then a adds them.", theme.text());
        } else {
            beams::live_stage(&mut self.stage, context, theme, stage, buffer);
        }
        let shown = SideState { part: self.part, tier: self.tier, waiting: self.waiting };
        if side > 0 {
            let side = Rect { x: area.right() - side, width: side - 1, y: top.y, height: top.height };
            self.bars = side::draw(context, &shown, theme, side, buffer, targets);
        } else {
            self.bars.clear();
            side::draw_line(context, &shown, theme, Rect { y: stage.bottom(), height: below, ..area }, buffer);
        }
        self.pads.draw(context, &state, theme, [area, pads], buffer, targets);
        if let Some(list) = &mut self.list {
            list.draw(context, theme, area, buffer);
        }
        if let Some(open) = &mut self.form {
            let inside = float(&open.title, 84, open.form.fields.len() as u16 + 5, theme, area, buffer);
            open.form.draw(theme, inside, buffer);
        }
        if self.list.is_some() || self.form.is_some() {
            // What floats is not clicked through.
            targets.clear();
            self.bars.clear();
        }
    }
}

#[cfg(test)]
mod tests;
