//! Two hands on one file: what somebody else wrote into the show's file, and what is to become of it.

use std::path::Path;

use similar::{ChangeTag, TextDiff};
use splimo_document::Outcome;
use splimo_document::file;
use splimo_link::document::Theirs;
use splimo_show::{Show, write_over};

use super::Session;
use super::dispatch::told;
use super::file_watch::Change;
use crate::files;

/// Lines of a difference that are told at the most.
const MOST_LINES: usize = 400;

impl Session {
    /// Takes note of what somebody else did to the file, and tells of it.
    pub(super) fn mind_file(&mut self) {
        let change = self.file.as_ref().and_then(|file| file.change());
        if change == self.seen_change {
            return;
        }
        self.theirs = change.as_deref().map(|change| theirs(change, self.document.kept()));
        match (&self.path, &self.theirs) {
            (Some(path), Some(theirs)) => {
                let words = format!("{}; Ctrl-S asks what to do", theirs.words);
                self.troubles().tell("file", format!("{}: {words}", files::told(path)));
            }
            _ => self.troubles().over("file"),
        }
        self.seen_change = change;
    }

    /// The reason not to write over a file now: somebody else did something to it.
    pub(super) fn refuses_to_write(&mut self, path: &Path) -> Option<String> {
        let change = self.file.as_ref().filter(|_| self.path.as_deref() == Some(path))?.change_now()?;
        self.mind_file();
        if let Some(theirs) = &mut self.theirs {
            theirs.asked += 1;
        }
        Some(format!("{}: {}; take theirs, keep mine, or save elsewhere", files::told(path), change.words()))
    }

    /// Takes over what somebody else wrote, as a step that can be undone.
    pub(super) fn take_theirs(&mut self) -> Outcome {
        let Some(change) = self.file.as_ref().and_then(|file| file.change()) else { return nothing() };
        let Change::Text(text) = &*change else { return Outcome::Refused(change.words()) };
        let opened = match file::read(text) {
            Ok(opened) => opened,
            Err(why) => return Outcome::Refused(format!("theirs cannot be read: {why}")),
        };
        self.document.take_over(opened.show);
        self.document.mark_saved();
        self.document_changed();
        self.saved = self.document.edition();
        self.settle_file();
        told("the show is as they wrote it; Ctrl-Z goes back to yours")
    }

    /// Keeps this show: the next save writes over what somebody else wrote.
    pub(super) fn keep_mine(&mut self) -> Outcome {
        if self.file.as_ref().and_then(|file| file.change()).is_none() {
            return nothing();
        }
        self.settle_file();
        told("yours stays; Ctrl-S writes it over theirs, which is kept as .bak")
    }

    /// Takes the file as it is for known.
    pub(super) fn settle_file(&mut self) {
        if let Some(file) = &self.file {
            file.settle();
        }
        self.mind_file();
    }
}

fn nothing() -> Outcome {
    Outcome::Nothing("nobody else has written the file".to_owned())
}

/// The words that a screen is told of a change.
fn theirs(change: &Change, mine: &Show) -> Theirs {
    let lines = match change {
        Change::Text(text) => difference(text, mine),
        Change::Gone | Change::Unreadable(_) => Vec::new(),
    };
    Theirs { words: change.words(), lines, asked: 0 }
}

/// The lines in which a show as it would be saved differs from their text: theirs with a minus, ours with a plus.
fn difference(theirs: &str, mine: &Show) -> Vec<String> {
    // Written over theirs, so that only what is different differs.
    let ours = match write_over(theirs, mine) {
        Ok(ours) => ours,
        Err(why) => return vec![format!("theirs cannot be read: {why}")],
    };
    let diff = TextDiff::from_lines(theirs, &ours);
    let changes = diff.iter_all_changes().filter_map(|change| {
        let mark = match change.tag() {
            ChangeTag::Equal => return None,
            ChangeTag::Delete => '-',
            ChangeTag::Insert => '+',
        };
        let line = change.old_index().or(change.new_index()).map_or(0, |line| line + 1);
        Some(format!("{line:>5} {mark} {}", change.value().trim_end()))
    });
    changes.take(MOST_LINES).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_difference_is_what_differs_and_nothing_else() {
        let mine = Show::empty("Mine");
        let text = file::write(&mine).expect("writes").replace("\"Mine\"", "\"Theirs\" # a note of theirs");
        let lines = difference(&text, &mine);
        assert_eq!(lines.len(), 2, "{lines:?}");
        assert!(lines[0].contains("- name = \"Theirs\"") && lines[1].contains("+ name = \"Mine\""), "{lines:?}");
    }
}
