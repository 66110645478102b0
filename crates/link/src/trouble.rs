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
