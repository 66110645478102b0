//! The document: the show while it is edited, and everything that a function of a show can be: edits, references, checks, the patch,
//! what makes looks and cues, and bindings at work. Every edit makes a new show, so that undoing is going back to the one before.
//! Each change has an edition, a number that ascends; edits may say on which edition they were made.
//!
//! It may use `splimo-base`, `-time`, `-show`, `-light` and `-engine`. Its main types: [`Document`], the kept show with its past;
//! [`edit::Edit`], a change of a show; [`input::Evaluator`], bindings at work.

pub mod check;
mod drafts;
pub mod edit;
pub mod file;
pub mod import;
pub mod input;
pub mod making;
pub mod patch;
pub mod reference;
mod salvage;
#[cfg(test)]
mod tests;

use std::collections::VecDeque;
use std::sync::Arc;

use crate::edit::{Edit, Refused};
pub use drafts::Drafts;
pub use salvage::{Salvaged, salvage};
use splimo_show::command::{Origin, SettingChange, SettingNudge};
use splimo_show::setting::{self, SettingValue};
use splimo_show::{Settings, Show};

/// Something asked of a session.
pub type Command = splimo_show::command::Command<Edit>;
/// A command to the document.
pub type DocumentCommand = splimo_show::command::DocumentCommand<Edit>;

/// Steps that can be undone, and how many fixtures all of them together may hold: they are what takes memory.
const STEPS: usize = 500;
const FIXTURES: usize = 1_000_000;
/// Steps that can be undone however large the show is.
const FEWEST_STEPS: usize = 64;
/// Editions on which an edit may have been made and still be understood.
const EDITIONS: usize = 256;

/// A step of the past, or of what was taken back: the show on the other side of it, and what it does, in a few words.
#[derive(Debug, Clone)]
struct Step {
    show: Arc<Show>,
    did: String,
}

/// A show, what is tried on it, and its past.
#[derive(Debug)]
pub struct Document {
    kept: Arc<Show>,
    /// The kept show with everything that is tried.
    shown: Arc<Show>,
    tried: Vec<Tried>,
    saved: Arc<Show>,
    past: Vec<Step>,
    future: Vec<Step>,
    drafts: Drafts,
    edition: u64,
    /// The kept shows of the last editions, each from its edition on.
    editions: VecDeque<(u64, Arc<Show>)>,
    changes: Vec<EditionChange>,
}

/// An edit that somebody tries, until they keep or drop it.
#[derive(Debug, Clone, PartialEq)]
struct Tried {
    by: Origin,
    edit: Edit,
}

/// A change of the document, for those who follow it.
#[derive(Debug, Clone, PartialEq)]
pub struct EditionChange {
    /// The edition that it made.
    pub edition: u64,
    /// The change of the kept show.
    pub kept: KeptChange,
    /// Every edit that is tried now, in order.
    pub tried: Vec<Edit>,
}

/// A change of the kept show.
#[derive(Debug, Clone, PartialEq)]
pub enum KeptChange {
    /// It stays.
    None,
    /// An edit makes it of the edition before.
    Edited(Box<Edit>),
    /// It is another one.
    Whole(Arc<Show>),
}

/// The outcome of a command.
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Outcome {
    /// It is done.
    Done,
    /// It is done, and there is something to say of it.
    Told(String),
    /// Nothing was changed; the reason, as one line.
    Nothing(String),
    /// Nothing was changed, as it cannot be; the reason and the mend.
    Refused(String),
}

impl Document {
    /// The document of a show as it was opened.
    #[must_use]
    pub fn new(show: Show) -> Self {
        let show = Arc::new(show);
        Self {
            kept: show.clone(),
            shown: show.clone(),
            tried: Vec::new(),
            saved: show.clone(),
            past: Vec::new(),
            future: Vec::new(),
            drafts: Drafts::default(),
            edition: 0,
            editions: VecDeque::from([(0, show)]),
            changes: Vec::new(),
        }
    }

    /// The value that a setting would have after a command that sets it; none where the command does not.
    #[must_use]
    pub fn setting_after(&self, command: &DocumentCommand, name: &str) -> Option<SettingValue> {
        match command {
            DocumentCommand::Set(change) if change.name == name => Some(change.value.clone()),
            DocumentCommand::Nudge(nudge) if nudge.name == name => {
                let spec = setting::find(name)?;
                Some(spec.nudged(&spec.value(&self.kept.settings), nudge.by))
            }
            DocumentCommand::Edit(Edit::Set(set, value)) if set == name => Some(value.clone()),
            DocumentCommand::Set(_)
            | DocumentCommand::Nudge(_)
            | DocumentCommand::Edit(_)
            | DocumentCommand::TryEdit(_)
            | DocumentCommand::DropTried
            | DocumentCommand::Undo
            | DocumentCommand::Redo
            | DocumentCommand::EditBlind
            | DocumentCommand::Draft(_)
            | DocumentCommand::UndoDraft
            | DocumentCommand::RedoDraft
            | DocumentCommand::KeepDrafts
            | DocumentCommand::DropDrafts => None,
        }
    }

    /// The show with everything that is tried: the one that is played.
    #[must_use]
    pub fn shown(&self) -> &Arc<Show> {
        &self.shown
    }

    /// The show without what is only tried: the one that is saved.
    #[must_use]
    pub fn kept(&self) -> &Arc<Show> {
        &self.kept
    }

    /// The show as it was saved last.
    #[must_use]
    pub fn saved(&self) -> &Arc<Show> {
        &self.saved
    }

    /// The number of the present edition.
    #[must_use]
    pub fn edition(&self) -> u64 {
        self.edition
    }

    /// Every edit that is tried, in order.
    #[must_use]
    pub fn tried(&self) -> Vec<Edit> {
        self.tried.iter().map(|tried| tried.edit.clone()).collect()
    }

    /// The looks that are edited blind.
    #[must_use]
    pub fn drafts(&self) -> &Drafts {
        &self.drafts
    }

    /// True if there is anything that is not saved.
    #[must_use]
    pub fn unsaved(&self) -> bool {
        self.kept != self.saved
    }

    /// Takes note that the kept show has been saved.
    pub fn mark_saved(&mut self) {
        self.saved = self.kept.clone();
    }

    /// The changes since they were last asked for, the oldest first.
    pub fn take_changes(&mut self) -> Vec<EditionChange> {
        std::mem::take(&mut self.changes)
    }

    /// Carries a command out. `by` says whose it is, and `base` on which edition it was made; without one it is meant for the
    /// show as it is now.
    pub fn apply(&mut self, command: &DocumentCommand, by: Origin, base: Option<u64>) -> Outcome {
        let done = match command {
            DocumentCommand::Edit(edit) => self.edit(edit, by, base),
            DocumentCommand::TryEdit(edit) => self.try_edit(edit, by, base),
            DocumentCommand::DropTried => Ok(self.drop_tried(by)),
            DocumentCommand::Set(change) => self.set(change, by, base),
            DocumentCommand::Nudge(nudge) => self.nudge(nudge, by),
            DocumentCommand::Undo => Ok(self.step(true)),
            DocumentCommand::Redo => Ok(self.step(false)),
            DocumentCommand::EditBlind => Ok(self.drafts.begin()),
            DocumentCommand::Draft(looks) => self.drafts.put(looks, &self.kept),
            DocumentCommand::UndoDraft => Ok(self.drafts.step(true)),
            DocumentCommand::RedoDraft => Ok(self.drafts.step(false)),
            DocumentCommand::KeepDrafts => self.keep_drafts(by),
            DocumentCommand::DropDrafts => Ok(self.drafts.end()),
        };
        done.unwrap_or_else(|Refused(why)| Outcome::Refused(why))
    }

    /// Puts another show in the place of the kept one, as a step that can be undone.
    pub fn take_over(&mut self, show: Show) -> Outcome {
        self.go_to(show, None)
    }

    /// Drops what somebody tried who is gone.
    pub fn forget(&mut self, by: Origin) {
        self.drop_tried(by);
    }

    /// The kept show of an edition.
    fn at(&self, edition: u64) -> Result<&Arc<Show>, Refused> {
        let found = self.editions.iter().rev().find(|(from, _)| *from <= edition).filter(|_| edition <= self.edition);
        let words = "the show has changed too often since; look at it, and do it again";
        found.map(|(_, show)| show).ok_or_else(|| Refused(words.to_owned()))
    }

    /// The edit as it is meant in the present edition.
    fn rebased(&self, edit: &Edit, base: Option<u64>) -> Result<Edit, Refused> {
        let Some(base) = base else { return Ok(edit.clone()) };
        let from = self.at(base)?;
        if Arc::ptr_eq(from, &self.kept) { Ok(edit.clone()) } else { edit.rebased(from, &self.kept) }
    }

    fn edit(&mut self, edit: &Edit, by: Origin, base: Option<u64>) -> Result<Outcome, Refused> {
        let dropped = self.take_tried(by);
        let made = self.rebased(edit, base).and_then(|edit| Ok((edit.apply(&self.kept)?, edit)));
        let (show, edit) = match made {
            Ok(made) => made,
            Err(refused) => {
                self.tried_changed(dropped);
                return Err(refused);
            }
        };
        let outcome = self.go_to(show, Some(edit));
        if matches!(outcome, Outcome::Nothing(_)) && dropped {
            self.tried_changed(true);
            return Ok(Outcome::Done);
        }
        Ok(outcome)
    }

    fn try_edit(&mut self, edit: &Edit, by: Origin, base: Option<u64>) -> Result<Outcome, Refused> {
        let edit = self.rebased(edit, base)?;
        // Refused already where it fails alone, so that it is never tried in vain.
        edit.apply(&self.kept)?;
        self.take_tried(by);
        self.tried.push(Tried { by, edit });
        self.tried_changed(true);
        Ok(Outcome::Done)
    }

    fn drop_tried(&mut self, by: Origin) -> Outcome {
        let dropped = self.take_tried(by);
        self.tried_changed(dropped);
        if dropped { Outcome::Done } else { Outcome::Nothing(String::new()) }
    }

    /// Takes what somebody tries out, without showing that yet; whether there was anything.
    fn take_tried(&mut self, by: Origin) -> bool {
        let before = self.tried.len();
        self.tried.retain(|tried| tried.by != by);
        self.tried.len() != before
    }

    fn tried_changed(&mut self, changed: bool) {
        if changed {
            self.next_edition(KeptChange::None);
        }
    }

    fn set(&mut self, change: &SettingChange, by: Origin, base: Option<u64>) -> Result<Outcome, Refused> {
        let edit = Edit::Set(change.name.clone(), change.value.clone());
        let outcome = self.edit(&edit, by, base)?;
        Ok(self.told_of_setting(outcome, &change.name))
    }

    fn nudge(&mut self, nudge: &SettingNudge, by: Origin) -> Result<Outcome, Refused> {
        let spec = setting::find(&nudge.name);
        let spec = spec.ok_or_else(|| Refused(format!("there is no setting \"{}\"", nudge.name)))?;
        let value = spec.nudged(&spec.value(&self.kept.settings), nudge.by);
        let outcome = self.edit(&Edit::Set(nudge.name.clone(), value), by, None)?;
        Ok(self.told_of_setting(outcome, &nudge.name))
    }

    fn told_of_setting(&self, outcome: Outcome, name: &str) -> Outcome {
        if outcome == Outcome::Done { Outcome::Told(words_of(&self.kept.settings, name)) } else { outcome }
    }

    fn go_to(&mut self, show: Show, edit: Option<Edit>) -> Outcome {
        if show == *self.kept {
            return Outcome::Nothing(String::new());
        }
        let most = (FIXTURES / (show.fixtures.len() + 1)).clamp(FEWEST_STEPS, STEPS);
        if self.past.len() >= most {
            self.past.drain(..=self.past.len() - most);
        }
        let show = Arc::new(show);
        let did = edit.as_ref().map_or_else(|| "takes over what was not saved".to_owned(), Edit::words);
        self.past.push(Step { show: self.kept.clone(), did });
        self.future.clear();
        let change = edit.map_or_else(|| KeptChange::Whole(show.clone()), |edit| KeptChange::Edited(Box::new(edit)));
        self.keep(show, change);
        Outcome::Done
    }

    fn step(&mut self, back: bool) -> Outcome {
        let (from, to, word, done) = match back {
            true => (&mut self.past, &mut self.future, "undo", "taken back"),
            false => (&mut self.future, &mut self.past, "redo", "made again"),
        };
        let Some(Step { show, did }) = from.pop() else { return Outcome::Nothing(format!("nothing to {word}")) };
        if self.drafts.is_blind() && show.looks != self.kept.looks {
            let words = format!("no {word} while looks are edited blind: it {did}, and that would go out; b ends it");
            from.push(Step { show, did });
            return Outcome::Nothing(words);
        }
        let words = format!("{done}: {did}{}", if back { "; Ctrl-Y makes it again" } else { "" });
        to.push(Step { show: self.kept.clone(), did });
        self.tried.clear();
        self.keep(show.clone(), KeptChange::Whole(show));
        Outcome::Told(words)
    }

    fn keep_drafts(&mut self, by: Origin) -> Result<Outcome, Refused> {
        let edit = self.drafts.edit(&self.kept)?;
        if let Some(edit) = edit {
            self.edit(&edit, by, None)?;
        }
        self.drafts.end();
        Ok(Outcome::Told("kept; live again".to_owned()))
    }

    /// Makes a show the kept one.
    fn keep(&mut self, show: Arc<Show>, change: KeptChange) {
        let before = std::mem::replace(&mut self.kept, show);
        // What others try goes on where it still means something.
        let kept = self.kept.clone();
        self.tried.retain_mut(|tried| match tried.edit.rebased(&before, &kept) {
            Ok(edit) => {
                tried.edit = edit;
                true
            }
            Err(_) => false,
        });
        self.drafts.follow(&before, &self.kept);
        self.next_edition(change);
        if self.editions.len() == EDITIONS {
            self.editions.pop_front();
        }
        self.editions.push_back((self.edition, self.kept.clone()));
    }

    fn next_edition(&mut self, kept: KeptChange) {
        let mut shown = self.kept.clone();
        self.tried.retain(|tried| match tried.edit.apply(&shown) {
            Ok(show) => {
                shown = Arc::new(show);
                true
            }
            Err(_) => false,
        });
        self.shown = shown;
        self.edition += 1;
        self.changes.push(EditionChange { edition: self.edition, kept, tried: self.tried() });
    }
}

/// A setting in words, as it is said after it was changed.
fn words_of(settings: &Settings, name: &str) -> String {
    if matches!(name, "lands" | "fade") {
        let fade = match settings.fade_beats {
            0.0 => "without a fade".to_owned(),
            1.0 => "fading in over 1 beat".to_owned(),
            beats => format!("fading in over {beats} beats"),
        };
        return format!("looks land on the {}, {fade}", settings.lands.name()).replace("on the now", "at once");
    }
    let Some(spec) = setting::find(name) else { return String::new() };
    format!("{name} {} {}", spec.value(settings), spec.unit).trim_end().to_owned()
}
