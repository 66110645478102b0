//! An entry of the palette.

use serde::{Deserialize, Serialize};

/// A colour, or the stops of a gradient, under a name.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Swatch {
    /// The name, unique in the palette.
    pub name: String,
    /// The colours: a stop of the gradient each.
    pub colours: Vec<String>,
}

impl Swatch {
    /// An entry of a name and some colours.
    #[must_use]
    pub fn new(name: &str, colours: &[&str]) -> Self {
        Self { name: name.to_owned(), colours: colours.iter().map(|&c| c.to_owned()).collect() }
    }
}
