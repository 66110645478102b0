//! A trouble of the moment.

use serde::{Deserialize, Serialize};

/// Something that is wrong, as one line.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Trouble {
    /// The subject; a newer trouble with the same one takes its place.
    pub subject: String,
    /// The fault, and the way to mend it.
    pub message: String,
}

/// A trouble that was, and may be over.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct PastTrouble {
    /// The subject.
    pub subject: String,
    /// The fault as it was told last, and the way to mend it.
    pub message: String,
    /// The number of times that it came.
    pub times: u64,
    /// True if it is over.
    pub over: bool,
}

impl PastTrouble {
    /// True if something did not leave, or was not recorded or replayed, as it was to. What is over counts only where nothing makes up
    /// for it.
    #[must_use]
    pub fn fails_output(&self) -> bool {
        let of_a_file = ["recording", "replay"].contains(&self.subject.as_str());
        let of_output = ["route ", "sending ", "network ", "node ", "port "];
        of_a_file || (!self.over && of_output.iter().any(|kind| self.subject.starts_with(kind)))
    }
}
