//! The show while it is edited: every edit makes a new show, so that undoing is going back to the one before.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use splimo_core::action::Action;
use splimo_core::edit::{Edit, Refused};
use splimo_core::music::BANDS_RANGE;
use splimo_core::patch::csv;
use splimo_core::show::{Boundary, Show};

use crate::autosave::Autosave;
use crate::files;

/// Steps that can be undone, and how many fixtures all of them together may hold: they are what takes memory.
const STEPS: usize = 500;
const FIXTURES: usize = 1_000_000;
/// Steps that can be undone however large the show is.
const FEWEST_STEPS: usize = 64;

/// A show, its file and its past.
#[derive(Debug)]
pub struct Document {
    show: Arc<Show>,
    /// The show with an edit that is tried and not kept yet.
    tried: Option<Arc<Show>>,
    saved: Arc<Show>,
    path: Option<PathBuf>,
    past: Vec<Arc<Show>>,
    future: Vec<Arc<Show>>,
    autosave: Option<Autosave>,
    found: Option<Show>,
}

/// What an edit did.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Outcome {
    /// There is a new show.
    Changed,
    /// There is a new show, and something to say of it.
    Done(String),
    /// Nothing changed; why, as one line.
    Said(String),
    /// Nothing changed, as it cannot be; why, and how to mend it.
    Refused(String),
    /// Nothing changed.
    Nothing,
}

impl Document {
    /// A show that was opened from `path`, or from nowhere.
    #[must_use]
    pub fn new(show: Show, path: Option<PathBuf>) -> Self {
        let show = Arc::new(show);
        let (past, future) = (Vec::new(), Vec::new());
        Self { saved: show.clone(), show, tried: None, path, past, future, autosave: None, found: None }
    }

    /// The same document with what is not saved kept beside its file. What is found there from before is offered.
    #[must_use]
    pub fn with_autosave(mut self) -> Self {
        let autosave = Autosave::start(files::autosave_of(self.path.as_deref(), &self.show.name));
        self.found = autosave.found().filter(|found| *found != *self.show);
        self.autosave = Some(autosave);
        self
    }

    /// A name that tells it from other documents on this machine.
    #[must_use]
    pub fn id(&self) -> String {
        match &self.path {
            Some(path) => path.canonicalize().unwrap_or_else(|_| path.clone()).display().to_string(),
            None => self.show.name.clone(),
        }
    }

    /// Whether work that was not saved was found when the show was opened, and was neither taken nor left yet.
    #[must_use]
    pub fn offers_recovery(&self) -> bool {
        self.found.is_some()
    }

    /// The show as it is now, with an edit that is tried.
    #[must_use]
    pub fn show(&self) -> &Arc<Show> {
        self.tried.as_ref().unwrap_or(&self.show)
    }

    /// The show without an edit that is tried.
    #[must_use]
    pub fn kept(&self) -> &Arc<Show> {
        &self.show
    }

    /// Where the show is saved, if it is.
    #[must_use]
    pub fn path(&self) -> Option<&Path> {
        self.path.as_deref()
    }

    /// The show as it was saved last.
    #[must_use]
    pub fn saved(&self) -> &Arc<Show> {
        &self.saved
    }

    /// Whether there is anything that is not saved.
    #[must_use]
    pub fn unsaved(&self) -> bool {
        self.show != self.saved
    }

    /// Carries out an action that is the document's.
    pub fn act(&mut self, action: &Action) -> Outcome {
        match action {
            Action::LandOn(boundary) => self.change(|show| show.settings.lands = *boundary),
            Action::NudgeLanding(by) => self.change(|show| show.settings.lands = nudged(show.settings.lands, *by)),
            Action::Fade(beats) => self.change(|show| show.settings.fade_beats = beats.clamp(0.0, 64.0)),
            Action::NudgeFade(by) => {
                self.change(|show| show.settings.fade_beats = nudged_fade(show.settings.fade_beats, *by))
            }
            Action::NextLeader => self.change(|show| show.settings.leader = show.settings.leader.next()),
            Action::NudgeLatency(by) => self.change(|show| nudge(&mut show.settings.latency_ms, *by, [-500.0, 500.0])),
            Action::NudgeHearingGain(by) => {
                self.change(|show| nudge(&mut show.settings.hearing_gain, *by, [-40.0, 40.0]))
            }
            Action::NudgeHearingFloor(by) => {
                self.change(|show| nudge(&mut show.settings.hearing_floor, *by, [-90.0, 0.0]))
            }
            Action::NudgeBands(by) => self.change(|show| {
                let bands = &mut show.settings.hearing_bands;
                *bands = bands.saturating_add_signed(*by).clamp(BANDS_RANGE[0] as u32, BANDS_RANGE[1] as u32);
            }),
            Action::NudgeAttack(by) => {
                self.change(|show| nudge(&mut show.settings.hearing_attack_ms, *by, [0.0, 500.0]))
            }
            Action::NudgeDecay(by) => {
                self.change(|show| nudge(&mut show.settings.hearing_decay_ms, *by, [0.0, 2000.0]))
            }
            Action::Edit(edit) => self.edit(edit),
            Action::TryEdit(edit) => self.try_edit(edit),
            Action::DropTried => match self.tried.take() {
                Some(_) => Outcome::Changed,
                None => Outcome::Nothing,
            },
            Action::Undo => self.step("undo", true),
            Action::Redo => self.step("redo", false),
            Action::Save => self.save(None),
            Action::SaveAs(path) => self.save(Some(files::with_ending(path))),
            Action::ExportPatch(path) => self.export(Path::new(path)),
            Action::Recover => self.recover(),
            Action::LeaveFound => self.leave_found(),
            _ => Outcome::Nothing,
        }
    }

    fn change(&mut self, change: impl FnOnce(&mut Show)) -> Outcome {
        let mut show = Show::clone(&self.show);
        change(&mut show);
        self.go_to(show)
    }

    fn edit(&mut self, edit: &Edit) -> Outcome {
        let tried = self.tried.take().is_some();
        match edit.apply(&self.show) {
            Ok(show) => match self.go_to(show) {
                Outcome::Nothing if tried => Outcome::Changed,
                outcome => outcome,
            },
            Err(Refused(why)) => Outcome::Refused(why),
        }
    }

    fn try_edit(&mut self, edit: &Edit) -> Outcome {
        match edit.apply(&self.show) {
            Ok(show) => {
                self.tried = Some(Arc::new(show));
                Outcome::Changed
            }
            Err(Refused(why)) => Outcome::Refused(why),
        }
    }

    fn go_to(&mut self, show: Show) -> Outcome {
        self.tried = None;
        if show == *self.show {
            return Outcome::Nothing;
        }
        let most = (FIXTURES / (show.fixtures.len() + 1)).clamp(FEWEST_STEPS, STEPS);
        if self.past.len() >= most {
            self.past.drain(..=self.past.len() - most);
        }
        self.past.push(std::mem::replace(&mut self.show, Arc::new(show)));
        self.future.clear();
        self.keep();
        Outcome::Changed
    }

    fn step(&mut self, word: &str, back: bool) -> Outcome {
        self.tried = None;
        let (from, to) = if back { (&mut self.past, &mut self.future) } else { (&mut self.future, &mut self.past) };
        match from.pop() {
            Some(show) => {
                to.push(std::mem::replace(&mut self.show, show));
                self.keep();
                Outcome::Changed
            }
            None => Outcome::Said(format!("nothing to {word}")),
        }
    }

    /// Has the show kept beside its file, if it is not saved.
    fn keep(&self) {
        if let Some(autosave) = &self.autosave {
            autosave.keep(self.unsaved().then(|| self.show.clone()));
        }
    }

    fn save(&mut self, elsewhere: Option<PathBuf>) -> Outcome {
        // A show from nowhere, such as the demo, gets a name of its own where one works.
        let free = || files::free_name(Path::new("."), &self.show.name);
        let path = elsewhere.or_else(|| self.path.clone()).unwrap_or_else(free);
        match files::save(&self.show, &path) {
            Ok(()) => {
                self.saved = self.show.clone();
                let said = format!("saved as {}", path.display());
                if let Some(autosave) = &mut self.autosave {
                    autosave.keep(None);
                    if self.path.as_deref() != Some(&path) {
                        *autosave = Autosave::start(files::autosave_of(Some(&path), &self.show.name));
                    }
                }
                self.path = Some(path);
                Outcome::Said(said)
            }
            Err(error) => Outcome::Refused(error.to_string()),
        }
    }

    fn export(&self, path: &Path) -> Outcome {
        match files::write(path, csv::write(&self.show).as_bytes()) {
            Ok(()) => Outcome::Said(format!("{} fixtures written to {}", self.show.fixtures.len(), path.display())),
            Err(error) => Outcome::Refused(error.to_string()),
        }
    }

    fn recover(&mut self) -> Outcome {
        match self.found.take().map(|found| self.go_to(found)) {
            Some(Outcome::Changed) => {
                Outcome::Done("the work is back; Ctrl-Z goes back to the file, Ctrl-S saves it".into())
            }
            _ => Outcome::Nothing,
        }
    }

    fn leave_found(&mut self) -> Outcome {
        self.found = None;
        match self.autosave.as_ref().and_then(Autosave::put_aside) {
            Some(path) => {
                Outcome::Said(format!("the file is shown as it was saved; the other work is in {}", path.display()))
            }
            None => Outcome::Nothing,
        }
    }

    /// Why what is not saved is not kept beside its file either, if it is not.
    #[must_use]
    pub fn autosave_failure(&self) -> Option<String> {
        self.autosave.as_ref().and_then(Autosave::failure)
    }

    /// The person leaves and knows what is not saved: nothing is kept of it.
    pub fn left(&mut self) {
        if let Some(autosave) = &self.autosave {
            autosave.keep(None);
        }
    }
}

fn nudged(boundary: Boundary, by: i32) -> Boundary {
    let place = Boundary::ALL.iter().position(|&b| b == boundary).unwrap_or(0) as i32;
    Boundary::ALL[(place + by).clamp(0, Boundary::ALL.len() as i32 - 1) as usize]
}

fn nudge(setting: &mut f32, by: f32, [low, high]: [f32; 2]) {
    *setting = (*setting + by).clamp(low, high);
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
    fn what_is_tried_is_seen_and_leaves_no_step() {
        let mut document = Document::new(Show::empty("Test"), None);
        let canvas = |width| Edit::Canvas(splimo_core::show::Canvas { width, height: 10.0 });
        assert_eq!(document.act(&Action::TryEdit(canvas(50.0))), Outcome::Changed);
        assert_eq!(document.act(&Action::TryEdit(canvas(60.0))), Outcome::Changed);
        assert_eq!((document.show().canvas.width, document.kept().canvas.width), (60.0, 120.0));
        assert!(!document.unsaved());
        assert!(matches!(document.act(&Action::TryEdit(canvas(-1.0))), Outcome::Refused(why) if why.contains("-1")));
        assert_eq!(document.act(&Action::DropTried), Outcome::Changed);
        assert_eq!(document.show().canvas.width, 120.0);
        document.act(&Action::TryEdit(canvas(60.0)));
        assert_eq!(document.act(&Action::Edit(canvas(70.0))), Outcome::Changed);
        assert_eq!(document.act(&Action::Undo), Outcome::Changed);
        assert_eq!(document.act(&Action::Undo), Outcome::Said("nothing to undo".into()));
    }

    #[test]
    fn the_past_has_an_end_and_a_large_show_a_nearer_one() {
        let mut document = Document::new(Show::empty("Test"), None);
        for step in 0..STEPS + 40 {
            document.act(&Action::Fade(if step % 2 == 0 { 3.0 } else { 4.0 }));
        }
        assert_eq!(document.past.len(), STEPS);
    }

    #[test]
    fn work_that_was_not_saved_comes_back() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("night.splimo");
        files::save(&Show::empty("Night"), &path).expect("saves");
        let open = || Document::new(files::open(&path).expect("opens").show, Some(path.clone())).with_autosave();
        let mut first = open();
        assert!(!first.offers_recovery());
        first.act(&Action::Fade(7.0));
        let wanted = first.show().clone();
        // As after a kill: the autosave writes at its end, and nobody says that the person left.
        drop(first);
        let mut second = open();
        assert!(second.offers_recovery());
        assert!(matches!(second.act(&Action::Recover), Outcome::Done(_)));
        assert_eq!(second.show(), &wanted);
        assert_eq!(second.act(&Action::Undo), Outcome::Changed, "it can be taken back");
        second.act(&Action::Redo);
        second.act(&Action::Save);
        drop(second);
        assert!(!open().offers_recovery(), "what is saved is not offered");
        let mut third = open();
        third.act(&Action::Fade(9.0));
        third.left();
        drop(third);
        assert!(!open().offers_recovery(), "nor what was left on purpose");
    }

    #[test]
    fn work_that_is_not_wanted_is_put_aside_and_not_lost() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("night.splimo");
        files::save(&Show::empty("Night"), &path).expect("saves");
        let open = || Document::new(files::open(&path).expect("opens").show, Some(path.clone())).with_autosave();
        let mut first = open();
        first.act(&Action::Fade(7.0));
        drop(first);
        let mut second = open();
        assert!(matches!(second.act(&Action::LeaveFound), Outcome::Said(said) if said.contains("autosave.old")));
        drop(second);
        assert!(!open().offers_recovery());
        let aside = files::open(&folder.path().join("night.splimo.autosave.old")).expect("it is there");
        assert_eq!(aside.show.settings.fade_beats, 7.0);
    }

    proptest::proptest! {
        #![proptest_config(proptest::prelude::ProptestConfig::with_cases(40))]

        #[test]
        fn undoing_all_and_redoing_all_is_the_identity(steps in proptest::collection::vec((0usize..40, -9f32..9.0, 0u8..7), 1..20)) {
            use splimo_core::edit::{Arrangement, Axis};
            let demo = splimo_core::show::file::read(files::LANTERN_QUAY).expect("a good show").show;
            let mut document = Document::new(demo, None);
            let first = document.show().clone();
            for (index, by, what) in steps {
                let edit = match what {
                    0 => Edit::Arrange(vec![index], Arrangement::Move(by, 1.0)),
                    1 => Edit::Arrange(vec![index, 3], Arrangement::Mirror(Axis::Y)),
                    2 => Edit::Remove(vec![index]),
                    3 => Edit::Duplicate(vec![index]),
                    4 => Edit::Unpatch(vec![index]),
                    5 => Edit::Reorder(vec![index], 2),
                    _ => Edit::MergeGroups(vec![0, 1]),
                };
                document.act(&Action::Edit(edit));
            }
            let last = document.show().clone();
            while document.act(&Action::Undo) == Outcome::Changed {}
            proptest::prop_assert_eq!(document.show(), &first);
            while document.act(&Action::Redo) == Outcome::Changed {}
            proptest::prop_assert_eq!(document.show(), &last);
        }
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
