//! The keys of the view: of what is open, of the pads, of the tiers, and of what waits.

use std::time::{Duration, Instant};

use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::Rect;
use splimo_document::edit::Edit;
use splimo_show::command::{EngineCommand, NamedLevel, SessionCommand};
use splimo_show::{Bank, Boundary, Manner, PADS, Show};

use super::action::{Ask, PlayAction};
use super::forms::OpenForm;
use super::lists::ListReply;
use super::{PlayView, side};
use crate::kit::form::Reply;
use crate::view::Handled;

/// The time within which a key that is pressed again is held: a terminal that tells nothing of that repeats it.
const REPEATS: Duration = Duration::from_millis(90);

impl PlayView {
    pub(super) fn turn_bank(&mut self, by: i32) {
        let banks = self.show.as_ref().map_or(1, |show| show.banks.len().max(1));
        self.bank = (self.bank as i64 + i64::from(by)).clamp(0, banks as i64 - 1) as usize;
    }

    pub(super) fn is_there(&self, number: usize) -> bool {
        self.show.as_ref().is_some_and(|show| show.pad(number).is_some())
    }

    /// Handles a key of what is open over the view; none where nothing is.
    pub(super) fn key_of_open(&mut self, key: KeyEvent) -> Option<Handled<PlayAction>> {
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
    pub(super) fn press(&mut self, place: usize) -> Vec<Ask> {
        let Some(show) = self.show.clone() else { return Vec::new() };
        if let Some(editing) = &mut self.editing {
            return editing.press(self.bank, place, &show).map(Ask::edit).into_iter().collect();
        }
        let number = self.bank * PADS + place;
        if std::mem::take(&mut self.learning) {
            return vec![Ask::Command(SessionCommand::Learn(format!("fire-pad {number}")).into())];
        }
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

    pub(super) fn key_of_editing(&mut self, code: KeyCode) -> Option<Vec<Ask>> {
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

    pub(super) fn choose_tier(&mut self, by: i32) {
        let tiers = self.show.as_ref().map_or(1, |show| show.stack().len());
        self.tier = (self.tier as i64 + i64::from(by)).clamp(0, tiers as i64 - 1) as usize;
    }

    pub(super) fn tier_name(&self, tier: usize) -> Option<String> {
        Some(self.show.as_ref()?.stack().get(tier)?.name.clone())
    }

    pub(super) fn nudge_tier(&self, tier: usize, percent: f32) -> Vec<Ask> {
        let name = self.tier_name(tier).into_iter();
        name.map(|name| Ask::engine(EngineCommand::NudgeTier(NamedLevel { name, percent }))).collect()
    }

    pub(super) fn level_at(&self, bar: Rect, tier: usize, column: u16) -> Option<Vec<Ask>> {
        Some(vec![Ask::engine(side::level_of(&self.tier_name(tier)?, side::level_at(bar, column)))])
    }

    pub(super) fn key_of_tiers(&mut self, key: KeyEvent) -> Option<Vec<Ask>> {
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

    pub(super) fn key_of_waiting(&mut self, key: KeyEvent) -> Option<Vec<Ask>> {
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
    pub(super) fn bank_lands(&self, by: i32, show: &Show) -> Vec<Ask> {
        let Some(bank) = show.banks.get(self.bank) else { return vec![Ask::nudge("lands", by)] };
        let Some(own) = bank.plays.lands else { return vec![Ask::nudge("lands", by)] };
        let lands = Some(moved(own, by));
        let plays = Manner { lands, ..bank.plays.clone() };
        vec![Ask::edit(Edit::PutBanks(vec![(self.bank, Bank { plays, ..bank.clone() })]))]
    }

    pub(super) fn once_lands(&self, by: i32, show: &Show) -> Ask {
        let usual = show.banks.get(self.bank).map_or(show.settings.lands, |bank| bank.manner_of(None, show).lands);
        Ask::engine(EngineCommand::NextLands(moved(self.snapshot.once.lands.unwrap_or(usual), by)))
    }

    pub(super) fn once_fade(&self, by: i32, show: &Show) -> Ask {
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
