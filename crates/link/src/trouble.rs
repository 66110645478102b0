//! A trouble of the moment.

use serde::{Deserialize, Serialize};

/// Something that is wrong, as one line.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Trouble {
    /// What it concerns; a newer trouble with the same subject takes its place.
    pub subject: String,
    /// What is wrong, and how to mend it.
    pub message: String,
}
