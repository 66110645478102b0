//! The cues of a list out of a sheet.

use splimo_show::{CueList, Show, says_of_tiers};

use super::{Importer, Proposal, Warning};
use crate::edit::Edit;
use crate::making::{LONGEST_SHEET, read_sheet};

/// A sheet of cues as comma-separated values, as [`crate::making::write_sheet`] writes it, for a list by its place.
#[derive(Debug, Clone, Copy)]
pub struct CueSheet {
    /// The place of the list in the show.
    pub list: usize,
}

impl Importer for CueSheet {
    fn file_kind(&self) -> &'static str {
        "CSV"
    }

    fn longest(&self) -> u64 {
        LONGEST_SHEET as u64
    }

    fn propose(&self, bytes: &[u8], show: &Show) -> Result<Proposal, String> {
        let list = show.cue_lists.get(self.list).ok_or("the cue list is gone; open the sheet from another")?;
        let sheet = read_sheet(bytes, show)?;
        let before = |number| list.cues.iter().find(|cue| cue.number == number);
        let fresh = sheet.cues.iter().filter(|cue| before(cue.number).is_none()).count();
        let same = sheet.cues.iter().filter(|cue| before(cue.number) == Some(*cue)).count();
        let gone = list.cues.iter().filter(|cue| sheet.cues.iter().all(|other| other.number != cue.number)).count();
        let changed = sheet.cues.len() - fresh - same;
        let contents = sheet
            .cues
            .iter()
            .map(|cue| format!("{} {}: {}", cue.number, cue.name, says_of_tiers(&cue.tiers, cue.others_out)));
        let contents = contents.collect();
        let moved = CueList { cues: sheet.cues, ..list.clone() };
        Ok(Proposal {
            edit: (moved != *list).then(|| Edit::PutCueLists(vec![(self.list, moved)])),
            changes: vec![format!("{fresh} new cues, {changed} changed, {same} the same, {gone} go")],
            warnings: sheet.failures.into_iter().map(|f| Warning { line: Some(f.line), message: f.message }).collect(),
            contents,
        })
    }
}
