//! What is wrong with a show: each problem with its severity, its place and its mend.

use std::fmt;

use serde::{Deserialize, Serialize};

use crate::Place;

/// The severity of a problem.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Severity {
    /// Worth knowing; everything works.
    Warning,
    /// Some light will not do what it should.
    Error,
    /// The show cannot be opened.
    Broken,
}

/// One thing that is wrong.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Problem {
    /// Its severity.
    pub severity: Severity,
    /// Its place in the document.
    pub place: Place,
    /// The thing that it concerns, as a person calls it.
    pub subject: String,
    /// The fault.
    pub message: String,
    /// The way to mend it.
    pub mend: String,
}

impl fmt::Display for Problem {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}: {}", self.subject, self.message)
    }
}
