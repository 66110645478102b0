//! The document on its way to screens, and the copy that a screen has of it.

use std::collections::VecDeque;
use std::path::PathBuf;
use std::sync::Arc;

use serde::{Deserialize, Serialize};
use splimo_document::edit::Edit;
use splimo_document::{Document, Drafts, EditionChange, KeptChange};
use splimo_show::{Look, Show, Unknown};

/// A show with the fields that this program does not know, so that they survive the way to a screen and back.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Parcel {
    show: Arc<Show>,
    unknown: Vec<Unknown>,
}

impl Parcel {
    /// Packs a show.
    #[must_use]
    pub fn of(show: &Arc<Show>) -> Self {
        Self { show: show.clone(), unknown: show.unknown.clone() }
    }

    /// Unpacks it.
    #[must_use]
    pub fn open(self) -> Arc<Show> {
        if self.unknown == self.show.unknown {
            return self.show;
        }
        let mut show = Arc::unwrap_or_clone(self.show);
        show.unknown = self.unknown;
        Arc::new(show)
    }
}

/// A change of the document.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct DocumentUpdate {
    /// The edition that it makes.
    pub edition: u64,
    /// The change of the kept show.
    pub kept: KeptUpdate,
    /// Every edit that is tried now, in order.
    pub tried: Vec<Edit>,
}

/// A change of the kept show.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum KeptUpdate {
    /// It stays.
    None,
    /// This edit makes it of the edition before.
    Edited(Box<Edit>),
    /// It is another one. The show as it was saved last comes along where it is yet another.
    Whole {
        /// The kept show.
        show: Parcel,
        /// The show as it was saved last, where that is another.
        saved: Option<Parcel>,
    },
}

impl From<EditionChange> for DocumentUpdate {
    fn from(change: EditionChange) -> Self {
        let kept = match change.kept {
            KeptChange::None => KeptUpdate::None,
            KeptChange::Edited(edit) => KeptUpdate::Edited(edit),
            KeptChange::Whole(show) => KeptUpdate::Whole { show: Parcel::of(&show), saved: None },
        };
        Self { edition: change.edition, kept, tried: change.tried }
    }
}

impl DocumentUpdate {
    /// All of a document, for who has nothing of it yet.
    #[must_use]
    pub fn whole(document: &Document) -> Self {
        let saved = document.unsaved().then(|| Parcel::of(document.saved()));
        let kept = KeptUpdate::Whole { show: Parcel::of(document.kept()), saved };
        Self { edition: document.edition(), kept, tried: document.tried() }
    }
}

/// The document apart from the show.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct DocumentState {
    /// The file that it is saved in, if there is one.
    pub path: Option<PathBuf>,
    /// True if anything is not saved.
    pub unsaved: bool,
    /// The edition that was saved last.
    pub saved: u64,
    /// True if work that was not saved the last time was found, and is neither taken nor left yet.
    pub found: bool,
    /// The looks on stage when the session ended badly the last time, in words, until somebody says what is to become of them.
    pub ran: Option<String>,
    /// The number of screens that are attached.
    pub screens: u32,
    /// The events of the schedule that come next.
    pub next: Vec<NextEvent>,
    /// The folder from which the show takes its files.
    pub folder: PathBuf,
    /// The change of the file by somebody else, until it is said what is to become of it.
    pub theirs: Option<Theirs>,
}

/// A change of the show's file by somebody else.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Theirs {
    /// The change in words.
    pub words: String,
    /// The lines in which theirs and this show differ; none where theirs cannot be read.
    pub lines: Vec<String>,
    /// The number of times that somebody wanted to save all the same, and is to be asked.
    pub asked: u32,
}

/// An event of the schedule that is to come.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct NextEvent {
    /// The time, as the clock of the machine shows it, such as `Fri 27 Nov 22:00`.
    pub at: String,
    /// The event, by its place in the schedule.
    pub event: usize,
}

/// The looks that are edited blind.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct DraftState {
    /// True if looks are edited blind.
    pub blind: bool,
    /// The looks, each with the name that it has in the show.
    pub looks: Vec<(String, Look)>,
    /// True if there is a blind change to take back, and one to make again.
    pub steps: [bool; 2],
}

impl From<&Drafts> for DraftState {
    fn from(drafts: &Drafts) -> Self {
        Self { blind: drafts.is_blind(), looks: drafts.looks().to_vec(), steps: drafts.steps() }
    }
}

/// Editions that are remembered: more than can be on their way at once.
const REMEMBERED: usize = 64;

/// A screen's copy of the document.
#[derive(Debug, Clone)]
pub struct DocumentCopy {
    edition: u64,
    kept: Arc<Show>,
    shown: Arc<Show>,
    saved: Arc<Show>,
    /// The shown shows of the last editions.
    editions: VecDeque<(u64, Arc<Show>)>,
}

impl Default for DocumentCopy {
    fn default() -> Self {
        let show = Arc::new(Show::empty(""));
        Self { edition: 0, kept: show.clone(), shown: show.clone(), saved: show, editions: VecDeque::new() }
    }
}

impl DocumentCopy {
    /// The number of the present edition.
    #[must_use]
    pub fn edition(&self) -> u64 {
        self.edition
    }

    /// The show without what is only tried.
    #[must_use]
    pub fn kept(&self) -> &Arc<Show> {
        &self.kept
    }

    /// The show with everything that is tried.
    #[must_use]
    pub fn shown(&self) -> &Arc<Show> {
        &self.shown
    }

    /// The show as it was saved last.
    #[must_use]
    pub fn saved(&self) -> &Arc<Show> {
        &self.saved
    }

    /// The show that is played according to the engine, which may be an edition or two behind.
    #[must_use]
    pub fn played(&self, edition: u64) -> &Arc<Show> {
        let found = self.editions.iter().rev().find(|(number, _)| *number <= edition);
        found.or(self.editions.front()).map_or(&self.shown, |(_, show)| show)
    }

    /// Takes a change over. A change that is older than the copy, as after the whole has come, is left out.
    ///
    /// # Errors
    /// In words, where the change does not fit, so that the copy is not what the session has any more.
    pub fn take(&mut self, update: DocumentUpdate) -> Result<(), String> {
        let whole = matches!(update.kept, KeptUpdate::Whole { .. });
        if !whole && update.edition <= self.edition {
            return Ok(());
        }
        match update.kept {
            KeptUpdate::None => {}
            KeptUpdate::Edited(edit) => self.kept = Arc::new(edit.apply(&self.kept).map_err(|why| why.0)?),
            KeptUpdate::Whole { show, saved } => {
                let first = self.editions.is_empty();
                self.kept = show.open();
                match saved {
                    Some(saved) => self.saved = saved.open(),
                    None if first => self.saved = self.kept.clone(),
                    None => {}
                }
            }
        }
        self.shown = self.kept.clone();
        for edit in &update.tried {
            self.shown = Arc::new(edit.apply(&self.shown).map_err(|why| why.0)?);
        }
        self.edition = update.edition;
        if self.editions.len() == REMEMBERED {
            self.editions.pop_front();
        }
        self.editions.push_back((self.edition, self.shown.clone()));
        Ok(())
    }

    /// Takes note that the present show has been saved.
    pub fn mark_saved(&mut self) {
        self.saved = self.kept.clone();
    }
}
