//! An event of an input.

use std::sync::Arc;

use super::EventAddress;
use splimo_base::Seconds;

/// The kind of change that an event is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Edge {
    /// Something was pressed, or happened.
    Press,
    /// Something was let go.
    Release,
    /// A value is another.
    Value,
}

/// An event of an input: what, where, and how much.
#[derive(Debug, Clone, PartialEq)]
pub struct InputEvent {
    /// The name of the input.
    pub source: Arc<str>,
    /// The place within it.
    pub address: EventAddress,
    /// The value as it came in, 0..`most`.
    pub raw: f32,
    /// The highest value that it can have, above 0.
    pub most: f32,
    /// The kind of change.
    pub edge: Edge,
    /// The time, on the time line of the show.
    pub at: Seconds,
}

impl InputEvent {
    /// The value, 0..1.
    #[must_use]
    pub fn value(&self) -> f32 {
        if self.most > 0.0 { (self.raw / self.most).clamp(0.0, 1.0) } else { 0.0 }
    }
}
