//! Files of the session: saving, keeping what is not saved, and work that was found.

use std::path::{Path, PathBuf};

use splimo_document::Outcome;
use splimo_document::making;
use splimo_document::patch::csv;

use super::file_watch::FileWatch;
use super::{Session, id_of, place};
use crate::autosave::Autosave;
use crate::files;

impl Session {
    /// Has the show kept beside its file, if it is not saved.
    pub(super) fn keep_work(&self) {
        if let Some(autosave) = &self.autosave {
            autosave.keep(self.document.unsaved().then(|| self.document.kept().clone()));
        }
    }

    pub(super) fn save(&mut self, elsewhere: Option<PathBuf>) -> Outcome {
        // A show from nowhere, such as the demo, gets a name of its own where one works.
        let free = || files::free_name(Path::new("."), &self.document.kept().name);
        let path = elsewhere.or_else(|| self.path.clone()).unwrap_or_else(free);
        let another = self.path.as_deref() != Some(&path);
        let lock = match (another && self.place.is_some()).then(|| place::lock(&path)).transpose() {
            Ok(lock) => lock,
            Err(refusal) => return Outcome::Refused(refusal.to_string()),
        };
        if let Some(why) = self.refuses_to_write(&path) {
            return Outcome::Refused(why);
        }
        if let Err(error) = files::save(self.document.kept(), &path) {
            return Outcome::Refused(error.to_string());
        }
        self.document.mark_saved();
        self.saved = self.document.edition();
        let said = format!("saved as {}", files::told(&path));
        if let Some(autosave) = &mut self.autosave {
            autosave.keep(None);
            if another {
                *autosave = Autosave::start(files::autosave_of(Some(&path), &self.document.kept().name));
            }
        }
        if another {
            if let Some(lock) = lock {
                lock.write(&self.name);
                self._lock = Some(lock);
            }
            let id = id_of(Some(&path), self.document.kept());
            if let Some(note) = &mut self.note
                && let Err(error) = note.go_over(&id)
            {
                tracing::warn!(%error, "what runs goes on being noted under the old name");
            }
            self.file = self.place.is_some().then(|| FileWatch::start(&path));
            self.path = Some(path);
        }
        self.settle_file();
        Outcome::Told(said)
    }

    pub(super) fn export_patch(&self, file: &str) -> Outcome {
        let (path, show) = (Path::new(file), self.document.kept());
        match files::write(path, csv::write(show).as_bytes()) {
            Ok(()) => Outcome::Told(format!("{} fixtures written to {}", show.fixtures.len(), files::told(path))),
            Err(error) => Outcome::Refused(error.to_string()),
        }
    }

    /// Writes a cue list into a file: its name, which may have spaces, then the file.
    pub(super) fn export_cues(&self, what: &str) -> Outcome {
        let show = self.document.kept();
        let named = show.cue_lists.iter().filter_map(|list| {
            let file = what.strip_prefix(list.name.as_str())?.strip_prefix(' ')?.trim();
            (!file.is_empty()).then_some((list, file))
        });
        let Some((list, file)) = named.max_by_key(|(list, _)| list.name.len()) else {
            let known: Vec<&str> = show.cue_lists.iter().map(|list| list.name.as_str()).collect();
            let words = format!("\"{what}\" names no cue list and a file; lists are {}", known.join(", "));
            return Outcome::Refused(words);
        };
        let path = files::with_ending_of(file, "csv");
        match files::write(&path, making::write_sheet(list, show).as_bytes()) {
            Ok(()) => Outcome::Told(format!("{} cues written to {}", list.cues.len(), files::told(&path))),
            Err(error) => Outcome::Refused(error.to_string()),
        }
    }

    pub(super) fn recover(&mut self) -> Outcome {
        let Some(found) = self.found.take() else { return Outcome::Nothing("no work was found".to_owned()) };
        if let Some(autosave) = &self.autosave {
            autosave.adopt();
        }
        // After a crash it is shown already, and may have been gone on with.
        let outcome = if found.as_saved.is_some() { Outcome::Done } else { self.document.take_over(found.show) };
        self.document_changed();
        match outcome {
            Outcome::Done => {
                Outcome::Told("the work is back; Ctrl-Z goes back to the file, Ctrl-S saves it".to_owned())
            }
            other => other,
        }
    }

    pub(super) fn leave_found(&mut self) -> Outcome {
        let Some(found) = self.found.take() else { return Outcome::Nothing(String::new()) };
        if let Some(as_saved) = found.as_saved {
            self.document.take_over((*as_saved).clone());
            self.document_changed();
        }
        match self.autosave.as_ref().and_then(Autosave::put_aside) {
            Some(path) => {
                Outcome::Told(format!("the file is shown as it was saved; the other work is in {}", path.display()))
            }
            None => Outcome::Nothing(String::new()),
        }
    }

    /// Puts what was edited blind into the document, so that it is not lost with the session.
    pub(super) fn rescue_drafts(&mut self) {
        use splimo_document::DocumentCommand;
        use splimo_show::command::Origin;
        if !self.document.drafts().looks().is_empty() {
            self.document.apply(&DocumentCommand::KeepDrafts, Origin::Session, None);
            self.keep_work();
        }
    }
}
