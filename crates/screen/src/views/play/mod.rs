//! The view Play: the stage, the tiers and what is on them, what will land, and the pads.

mod action;
mod editing;
mod forms;
mod lists;
mod manner;
mod pads;
mod part;
mod side;
#[cfg(test)]
mod tests;

use std::sync::Arc;
use std::time::{Duration, Instant};

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use ratatui::layout::{Position, Rect};
use splimo_core::command::{EngineCommand, NamedLevel};
use splimo_core::edit::Edit;
use splimo_core::engine::{RotationState, Snapshot};
use splimo_core::show::{Bank, Boundary, Manner, PADS, Show};
use splimo_link::subscription::Subscription;

use action::{Ask, KEYS, PlayAction};
use editing::PadEditing;
use forms::OpenForm;
use lists::{Kind, ListReply, OpenList};
use pads::{Pads, PadsState};
use part::Part;
use side::SideState;

use crate::kit::float::float;
use crate::kit::form::Reply;
use crate::kit::stage_map::{StageMap, enough_of};
use crate::kit::theme::Theme;
use crate::model::{Model, ViewContext};
use crate::view::{Handled, Hints, KeyBinding, Memory, Modality, Targets, View, ViewSpec};

/// The width of what stands beside the stage.
const SIDE: u16 = 44;

/// The time within which a key that is pressed again is held: a terminal that tells nothing of that repeats it.
const REPEATS: Duration = Duration::from_millis(90);

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
        if self.form.take().is_none() && self.list.take().is_none() {
            let stays = self.editing.as_mut().is_some_and(PadEditing::back);
            if !stays {
                self.editing = None;
            }
        }
        Vec::new()
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
    fn turn_bank(&mut self, by: i32) {
        let banks = self.show.as_ref().map_or(1, |show| show.banks.len().max(1));
        self.bank = (self.bank as i64 + i64::from(by)).clamp(0, banks as i64 - 1) as usize;
    }

    fn is_there(&self, number: usize) -> bool {
        self.show.as_ref().is_some_and(|show| show.pad(number).is_some())
    }

    /// Handles a key of what is open over the view; none where nothing is.
    fn key_of_open(&mut self, key: KeyEvent) -> Option<Handled<PlayAction>> {
        let show = self.show.clone()?;
        if let Some(open) = &mut self.form {
            return Some(match open.form.key(key) {
                Reply::Pass => Handled::Not,
                Reply::Changed | Reply::Quiet => {
                    open.follow();
                    Handled::Done(Vec::new())
                }
                Reply::Restore => {
                    self.form = None;
                    Handled::Done(Vec::new())
                }
                Reply::Keep => match open.edit(&show).and_then(|edit| refused_by(&edit, &show).map_or(Ok(edit), Err)) {
                    Ok(edit) => {
                        self.form = None;
                        Handled::Done(vec![Ask::edit(edit)])
                    }
                    Err(why) => {
                        open.form.error = Some(why);
                        Handled::Done(Vec::new())
                    }
                },
            });
        }
        let reply = self.list.as_mut()?.key(key, &show, &self.snapshot);
        Some(match reply {
            ListReply::Pass => Handled::Not,
            ListReply::Asks(asks) => Handled::Done(asks),
            ListReply::Form(form) => {
                self.form = Some(form);
                Handled::Done(Vec::new())
            }
            ListReply::Close => {
                self.list = None;
                Handled::Done(Vec::new())
            }
        })
    }

    /// Fires a pad of the bank that is shown; or chooses it, while pads are edited.
    fn press(&mut self, place: usize) -> Vec<Ask> {
        let Some(show) = self.show.clone() else { return Vec::new() };
        if let Some(editing) = &mut self.editing {
            return editing.press(self.bank, place, &show).map(Ask::edit).into_iter().collect();
        }
        let number = self.bank * PADS + place;
        let now = Instant::now();
        let repeats = matches!(self.pressed, Some((last, at, _)) if last == number && now - at < REPEATS);
        let known = repeats && matches!(self.pressed, Some((.., true)));
        self.pressed = Some((number, now, repeats));
        // A key that is held is repeated. The first repetition has taken back what the press had armed: the second puts that right,
        // and all others do nothing.
        if known {
            return Vec::new();
        }
        if !self.releases || !self.is_there(number) {
            return vec![Ask::engine(EngineCommand::FirePad(number))];
        }
        self.held.retain(|(key, _)| *key != place);
        self.held.push((place, number));
        vec![Ask::engine(EngineCommand::HoldPad(number))]
    }

    fn key_of_editing(&mut self, code: KeyCode) -> Option<Vec<Ask>> {
        let show = self.show.clone()?;
        let editing = self.editing.as_mut()?;
        match code {
            KeyCode::Enter if !editing.chosen.is_empty() => self.form = Some(OpenForm::pads(&editing.chosen, &show)),
            KeyCode::Enter => return Some(vec![Ask::Say("choose pads first: press their letters".to_owned())]),
            KeyCode::Delete | KeyCode::Backspace => {
                return Some(editing.clear(&show).map(Ask::edit).into_iter().collect());
            }
            KeyCode::Home => editing.pick_up(false),
            KeyCode::End => editing.pick_up(true),
            _ => return None,
        }
        Some(Vec::new())
    }

    fn choose_tier(&mut self, by: i32) {
        let tiers = self.show.as_ref().map_or(1, |show| show.stack().len());
        self.tier = (self.tier as i64 + i64::from(by)).clamp(0, tiers as i64 - 1) as usize;
    }

    fn tier_name(&self, tier: usize) -> Option<String> {
        Some(self.show.as_ref()?.stack().get(tier)?.name.clone())
    }

    fn nudge_tier(&self, tier: usize, percent: f32) -> Vec<Ask> {
        let name = self.tier_name(tier).into_iter();
        name.map(|name| Ask::engine(EngineCommand::NudgeTier(NamedLevel { name, percent }))).collect()
    }

    fn level_at(&self, bar: Rect, tier: usize, column: u16) -> Option<Vec<Ask>> {
        Some(vec![Ask::engine(side::level_of(&self.tier_name(tier)?, side::level_at(bar, column)))])
    }

    fn key_of_tiers(&mut self, key: KeyEvent) -> Option<Vec<Ask>> {
        let step = if key.modifiers.contains(KeyModifiers::SHIFT) { 20.0 } else { 5.0 };
        let named = |command: fn(String) -> EngineCommand| Some(vec![Ask::engine(command(self.tier_name(self.tier)?))]);
        match key.code {
            KeyCode::Up => self.choose_tier(1),
            KeyCode::Down => self.choose_tier(-1),
            KeyCode::Left => return Some(self.nudge_tier(self.tier, -step)),
            KeyCode::Right => return Some(self.nudge_tier(self.tier, step)),
            KeyCode::Delete => return named(EngineCommand::ReleaseTier),
            KeyCode::Home => return named(EngineCommand::SoloTier),
            KeyCode::End => return named(EngineCommand::MuteTier),
            KeyCode::Backspace => return Some(vec![Ask::engine(EngineCommand::ClearTiers)]),
            _ => return None,
        }
        Some(Vec::new())
    }

    fn key_of_waiting(&mut self, key: KeyEvent) -> Option<Vec<Ask>> {
        let numbers: Vec<usize> = self.snapshot.queue.iter().map(|armed| armed.number).collect();
        let place = numbers.iter().position(|number| Some(*number) == self.waiting);
        let command = match key.code {
            KeyCode::Up | KeyCode::Down => {
                let by = if key.code == KeyCode::Up { -1 } else { 1 };
                let next = (place.unwrap_or(0) as i64 + by).clamp(0, (numbers.len() as i64 - 1).max(0));
                self.waiting = numbers.get(usize::try_from(next).unwrap_or(0)).copied();
                return Some(Vec::new());
            }
            KeyCode::Home => EngineCommand::Land,
            KeyCode::End => EngineCommand::Push,
            KeyCode::Delete | KeyCode::Backspace => EngineCommand::TakeBack,
            KeyCode::Left | KeyCode::Right => return Some(Vec::new()),
            _ => return None,
        };
        let Some(number) = place.map(|place| numbers[place]) else {
            return Some(vec![Ask::Say("nothing waits".to_owned())]);
        };
        Some(vec![Ask::engine(command(number))])
    }

    /// Moves the boundary of the bank, where it has one of its own; else that of the show.
    fn bank_lands(&self, by: i32, show: &Show) -> Vec<Ask> {
        let Some(bank) = show.banks.get(self.bank) else { return vec![Ask::nudge("lands", by)] };
        let Some(own) = bank.plays.lands else { return vec![Ask::nudge("lands", by)] };
        let lands = Some(moved(own, by));
        let plays = Manner { lands, ..bank.plays.clone() };
        vec![Ask::edit(Edit::PutBanks(vec![(self.bank, Bank { plays, ..bank.clone() })]))]
    }

    fn once_lands(&self, by: i32, show: &Show) -> Ask {
        let usual = show.banks.get(self.bank).map_or(show.settings.lands, |bank| bank.manner_of(None, show).lands);
        Ask::engine(EngineCommand::NextLands(moved(self.snapshot.once.lands.unwrap_or(usual), by)))
    }

    fn once_fade(&self, by: i32, show: &Show) -> Ask {
        let usual =
            show.banks.get(self.bank).map_or(show.settings.fade_beats, |bank| bank.manner_of(None, show).fade_in);
        let now = self.snapshot.once.fade.unwrap_or(usual);
        let next = match by {
            1.. if now < 0.25 => 0.25,
            1.. => (now * 2.0).min(64.0),
            _ if now <= 0.25 => 0.0,
            _ => now / 2.0,
        };
        Ask::engine(EngineCommand::NextFade(next))
    }

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
            self.stage.draw(rig, context.show.canvas, context.light, stage, theme, buffer);
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

/// A boundary some steps later, or earlier.
fn moved(boundary: Boundary, by: i32) -> Boundary {
    let at = Boundary::ALL.iter().position(|one| *one == boundary).unwrap_or(0) as i64 + i64::from(by);
    Boundary::ALL[at.clamp(0, Boundary::ALL.len() as i64 - 1) as usize]
}

/// The reason why an edit would be refused, so that its form can stay open.
fn refused_by(edit: &Edit, show: &Show) -> Option<String> {
    edit.apply(show).err().map(|why| why.to_string())
}
