//! Importers of parts of a show from files: an [`Importer`] makes a [`Proposal`] of the bytes of a file, which says what would change
//! and what cannot be read; whoever asks shows that, and keeps its edit like any other. A new one takes a file here, and a view that
//! opens it.

mod cue_sheet;
mod patch;

use std::fmt;

use splimo_show::Show;

use crate::edit::Edit;

pub use cue_sheet::CueSheet;
pub use patch::Patch;

/// A kind of file that something of a show is taken over from.
pub trait Importer: fmt::Debug {
    /// The kind of file, for who names another: `CSV`.
    fn file_kind(&self) -> &'static str;

    /// The longest file that is read, in bytes.
    fn longest(&self) -> u64;

    /// Reads a file.
    ///
    /// # Errors
    /// A message where nothing of it can be read at all, with the way to mend it.
    fn propose(&self, bytes: &[u8], show: &Show) -> Result<Proposal, String>;
}

/// The changes that a file would make.
#[derive(Debug, Clone, PartialEq)]
pub struct Proposal {
    /// The edit that takes over what can be read; none where nothing would change.
    pub edit: Option<Edit>,
    /// The changes in words, the sum first: `3 new fixtures, 1 changed, 7 the same`.
    pub changes: Vec<String>,
    /// The parts that are left out, each with the reason.
    pub warnings: Vec<Warning>,
    /// The things that were read, a line each.
    pub contents: Vec<String>,
}

impl Proposal {
    /// A sentence on how much of the file is left out.
    #[must_use]
    pub fn left_out(&self) -> String {
        match self.warnings.len() {
            0 => "every line can be read".to_owned(),
            1 => "1 line fails and is left out:".to_owned(),
            many => format!("{many} lines fail and are left out:"),
        }
    }
}

/// A part of a file that is left out.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Warning {
    /// The line of the file, from 1, where it has lines.
    pub line: Option<u64>,
    /// The fault in it, and the way to mend it.
    pub message: String,
}

impl fmt::Display for Warning {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.line {
            Some(line) => write!(f, "line {line}: {}", self.message),
            None => f.write_str(&self.message),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::making::write_sheet;
    use crate::patch::csv;
    use proptest::prelude::*;
    use splimo_show::CueList;

    fn show() -> Show {
        let text = std::fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/../../shows/lantern-quay.splimo"));
        crate::file::read(&text.expect("the demo")).expect("a good show").show
    }

    /// Every importer, with a file that it wrote of the show itself.
    fn all(show: &Show) -> Vec<(Box<dyn Importer>, String)> {
        vec![
            (Box::new(Patch), csv::write(show)),
            (Box::new(CueSheet { list: 0 }), write_sheet(&show.cue_lists[0], show)),
        ]
    }

    #[test]
    fn what_was_written_of_a_show_changes_nothing_in_it() {
        let show = show();
        for (importer, text) in all(&show) {
            let proposal = importer.propose(text.as_bytes(), &show).expect("it is read");
            assert_eq!((&proposal.edit, &proposal.warnings), (&None, &Vec::new()), "{importer:?}");
            assert!(!proposal.contents.is_empty() && proposal.changes[0].starts_with("0 new"), "{proposal:?}");
        }
    }

    #[test]
    fn a_line_that_fails_is_told_and_the_rest_is_taken_over() {
        let show = show();
        let mut empty = show.clone();
        for list in &mut empty.cue_lists {
            *list = CueList { cues: Vec::new(), ..list.clone() };
        }
        let last = empty.fixtures.len() - 1;
        empty.fixtures[last].x += 7.0;
        for (importer, text) in all(&show) {
            let broken = format!("{text}one,two\n");
            let proposal = importer.propose(broken.as_bytes(), &empty).expect("it is read");
            assert_eq!(proposal.warnings.len(), 1, "{importer:?}: {:?}", proposal.warnings);
            assert_eq!(proposal.warnings[0].line, Some(text.lines().count() as u64 + 1));
            assert!(proposal.left_out().starts_with("1 line fails"));
            let kept = proposal.edit.expect("an edit").apply(&empty).expect("it is kept");
            let again = importer.propose(text.as_bytes(), &kept).expect("it is read");
            assert_eq!(again.edit, None, "{importer:?}: all of it was taken over");
        }
    }

    proptest! {
        #[test]
        fn any_bytes_are_a_proposal_or_an_error(bytes in proptest::collection::vec(any::<u8>(), 0..200), cut in 0usize..4000) {
            let show = show();
            for (importer, text) in all(&show) {
                let _ = importer.propose(&bytes, &show);
                let cut = text.floor_char_boundary(cut.min(text.len()));
                let mixed = [&text.as_bytes()[..cut], &bytes].concat();
                if let Ok(Proposal { edit: Some(edit), .. }) = importer.propose(&mixed, &show) {
                    let _ = edit.apply(&show);
                }
            }
        }
    }
}
