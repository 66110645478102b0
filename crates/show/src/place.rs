//! Places in a show's document, by which problems are found again in its file.

use std::fmt;

use serde::{Deserialize, Serialize};

/// One step on the way to a place.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub enum Step {
    /// The field of a table.
    Key(String),
    /// The entry of a list.
    Index(usize),
    /// The entry of a list of named tables that has this name, wherever it stands by now.
    Named(String),
}

/// The way to a place from the document's root, such as `looks[2].layers[0].target`.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
pub struct Place(pub Vec<Step>);

impl Place {
    /// The document itself.
    #[must_use]
    pub fn root() -> Self {
        Self::default()
    }

    /// The field `name` of this place.
    #[must_use]
    pub fn key(mut self, name: &str) -> Self {
        self.0.push(Step::Key(name.to_owned()));
        self
    }

    /// The entry `index` of this place.
    #[must_use]
    pub fn index(mut self, index: usize) -> Self {
        self.0.push(Step::Index(index));
        self
    }
}

impl fmt::Display for Place {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for (i, step) in self.0.iter().enumerate() {
            match step {
                Step::Key(key) if i == 0 => f.write_str(key)?,
                Step::Key(key) => write!(f, ".{key}")?,
                Step::Index(index) => write!(f, "[{}]", index + 1)?,
                Step::Named(name) => write!(f, "[{name}]")?,
            }
        }
        Ok(())
    }
}
