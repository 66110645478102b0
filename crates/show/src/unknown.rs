//! Fields that this program does not know: kept when a file is read, and put back where they were when it is written.

use serde::{Deserialize, Serialize};
use toml::Table;
use toml::Value;

use super::place::{Place, Step};

/// A field that is not ours, with its value.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Unknown {
    /// Its place.
    pub place: Place,
    /// Its value.
    pub value: Value,
}

impl Unknown {
    /// The unknown field at `place` of the document that it was read from. List entries that have a name are remembered
    /// by it, so that the field stays with them when the list changes.
    pub(super) fn found(document: &Table, place: &Place) -> Option<Self> {
        let mut here = Value::Table(document.clone());
        let mut named = Place::root();
        for step in &place.0 {
            let next = child(&here, step)?.clone();
            named.0.push(match (step, next.get("name").and_then(Value::as_str)) {
                (Step::Index(_), Some(name)) => Step::Named(name.to_owned()),
                _ => step.clone(),
            });
            here = next;
        }
        Some(Self { place: named, value: here })
    }

    /// Puts the field back, if the table that it stood in is still there.
    pub(super) fn restore(&self, document: &mut Value) {
        let Some((Step::Key(key), parents)) = self.place.0.split_last() else { return };
        let mut here = document;
        for step in parents {
            match child_mut(here, step) {
                Some(next) => here = next,
                None => return,
            }
        }
        if let Value::Table(table) = here {
            table.entry(key.clone()).or_insert_with(|| self.value.clone());
        }
    }
}

fn child<'a>(value: &'a Value, step: &Step) -> Option<&'a Value> {
    match step {
        Step::Key(key) => value.get(key),
        Step::Index(index) => value.get(*index),
        Step::Named(name) => value.as_array()?.iter().find(|entry| has_name(entry, name)),
    }
}

fn child_mut<'a>(value: &'a mut Value, step: &Step) -> Option<&'a mut Value> {
    match step {
        Step::Key(key) => value.get_mut(key),
        Step::Index(index) => value.get_mut(*index),
        Step::Named(name) => value.as_array_mut()?.iter_mut().find(|entry| has_name(entry, name)),
    }
}

fn has_name(entry: &Value, name: &str) -> bool {
    entry.get("name").and_then(Value::as_str) == Some(name)
}
