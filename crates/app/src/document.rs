//! The show while it is edited: every edit makes a new show, so that undoing is going back to the one before.

use std::path::PathBuf;
use std::sync::Arc;

use splimo_core::action::Action;
use splimo_core::show::{Boundary, Show};

use crate::files;

/// Steps that can be undone.
const STEPS: usize = 500;

/// A show, its file and its past.
#[derive(Debug, Clone)]
pub struct Document {
    show: Arc<Show>,
    saved: Arc<Show>,
    path: Option<PathBuf>,
    past: Vec<Arc<Show>>,
    future: Vec<Arc<Show>>,
}

/// What an edit did.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Outcome {
    /// There is a new show.
    Changed,
    /// Nothing changed; why, as one line.
    Said(String),
    /// Nothing changed.
    Nothing,
}

impl Document {
    /// A show that was opened from `path`, or from nowhere.
    #[must_use]
    pub fn new(show: Show, path: Option<PathBuf>) -> Self {
        let show = Arc::new(show);
        Self { saved: show.clone(), show, path, past: Vec::new(), future: Vec::new() }
    }

    /// The show as it is now.
    #[must_use]
    pub fn show(&self) -> &Arc<Show> {
        &self.show
    }

    /// Whether there is anything that is not saved.
    #[must_use]
    pub fn unsaved(&self) -> bool {
        self.show != self.saved
    }

    /// Carries out an action that is the document's.
    pub fn act(&mut self, action: &Action) -> Outcome {
        match action {
            Action::LandOn(boundary) => self.edit(|show| show.settings.lands = *boundary),
            Action::NudgeLanding(by) => self.edit(|show| show.settings.lands = nudged(show.settings.lands, *by)),
            Action::Fade(beats) => self.edit(|show| show.settings.fade_beats = beats.clamp(0.0, 64.0)),
            Action::NudgeFade(by) => {
                self.edit(|show| show.settings.fade_beats = nudged_fade(show.settings.fade_beats, *by))
            }
            Action::Undo => self.step("undo", true),
            Action::Redo => self.step("redo", false),
            Action::Save => self.save(),
            _ => Outcome::Nothing,
        }
    }

    fn edit(&mut self, edit: impl FnOnce(&mut Show)) -> Outcome {
        let mut show = Show::clone(&self.show);
        edit(&mut show);
        if show == *self.show {
            return Outcome::Nothing;
        }
        if self.past.len() == STEPS {
            self.past.remove(0);
        }
        self.past.push(std::mem::replace(&mut self.show, Arc::new(show)));
        self.future.clear();
        Outcome::Changed
    }

    fn step(&mut self, word: &str, back: bool) -> Outcome {
        let (from, to) = if back { (&mut self.past, &mut self.future) } else { (&mut self.future, &mut self.past) };
        match from.pop() {
            Some(show) => {
                to.push(std::mem::replace(&mut self.show, show));
                Outcome::Changed
            }
            None => Outcome::Said(format!("nothing to {word}")),
        }
    }

    fn save(&mut self) -> Outcome {
        // A show from nowhere, such as the demo, gets a name of its own where one works.
        let path = self.path.clone().unwrap_or_else(|| files::free_name(std::path::Path::new("."), &self.show.name));
        match files::save(&self.show, &path) {
            Ok(()) => {
                self.saved = self.show.clone();
                let said = format!("saved as {}", path.display());
                self.path = Some(path);
                Outcome::Said(said)
            }
            Err(error) => Outcome::Said(error.to_string()),
        }
    }
}

fn nudged(boundary: Boundary, by: i32) -> Boundary {
    let place = Boundary::ALL.iter().position(|&b| b == boundary).unwrap_or(0) as i32;
    Boundary::ALL[(place + by).clamp(0, Boundary::ALL.len() as i32 - 1) as usize]
}

fn nudged_fade(beats: f32, by: i32) -> f32 {
    match (beats, by.signum()) {
        (b, 1) if b < 0.25 => 0.25,
        (b, 1) => (b * 2.0).min(64.0),
        (b, -1) if b <= 0.25 => 0.0,
        (b, -1) => b / 2.0,
        (b, _) => b,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn undo_and_redo_are_each_others_inverse() {
        let mut document = Document::new(Show::empty("Test"), None);
        let edits =
            [Action::LandOn(Boundary::Phrase), Action::NudgeFade(1), Action::NudgeFade(1), Action::NudgeLanding(-1)];
        let mut seen = vec![document.show().clone()];
        for edit in &edits {
            assert_eq!(document.act(edit), Outcome::Changed);
            seen.push(document.show().clone());
        }
        for wanted in seen.iter().rev().skip(1) {
            document.act(&Action::Undo);
            assert_eq!(document.show(), wanted);
        }
        assert_eq!(document.act(&Action::Undo), Outcome::Said("nothing to undo".into()));
        assert!(!document.unsaved());
        for wanted in seen.iter().skip(1) {
            document.act(&Action::Redo);
            assert_eq!(document.show(), wanted);
        }
        assert!(document.unsaved());
    }

    #[test]
    fn fades_double_and_halve_down_to_none() {
        let mut beats = 1.0;
        let mut down = Vec::new();
        for _ in 0..4 {
            beats = nudged_fade(beats, -1);
            down.push(beats);
        }
        assert_eq!(down, [0.5, 0.25, 0.0, 0.0]);
        assert_eq!(nudged_fade(0.0, 1), 0.25);
        assert_eq!(nudged_fade(64.0, 1), 64.0);
    }

    #[test]
    fn an_edit_that_changes_nothing_is_no_step() {
        let mut document = Document::new(Show::empty("Test"), None);
        assert_eq!(document.act(&Action::LandOn(Boundary::Bar)), Outcome::Nothing);
        assert_eq!(document.act(&Action::Undo), Outcome::Said("nothing to undo".into()));
    }

    #[test]
    fn saving_takes_the_mark_away() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("test.splimo");
        let mut document = Document::new(Show::empty("Test"), Some(path.clone()));
        document.act(&Action::NudgeFade(1));
        assert!(document.unsaved());
        assert_eq!(document.act(&Action::Save), Outcome::Said(format!("saved as {}", path.display())));
        assert!(!document.unsaved());
        assert_eq!(files::open(&path).map(|o| o.show).ok().as_ref(), Some(&**document.show()));
    }
}
