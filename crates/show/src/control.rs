//! Controls that have names: values of a show that modulators, formulas, cues and bindings share.

use serde::{Deserialize, Serialize};

use super::Show;

/// The number of controls.
pub const CONTROLS: usize = 64;

/// A control that has a name.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct NamedControl {
    /// The control, 1..64.
    pub number: u8,
    /// Its name.
    pub name: String,
}

impl Show {
    /// The name of a control, if it has one.
    #[must_use]
    pub fn control_name(&self, number: u32) -> Option<&str> {
        self.controls.iter().find(|control| u32::from(control.number) == number).map(|control| control.name.as_str())
    }

    /// A control as people say it: `control 3 (haze)`.
    #[must_use]
    pub fn control_words(&self, number: u32) -> String {
        match self.control_name(number) {
            Some(name) => format!("control {number} ({name})"),
            None => format!("control {number}"),
        }
    }
}
