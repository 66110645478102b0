//! A drag of the mouse over the lanes of a pattern, and the rows where these are.

use splimo_show::Ticks;

/// The thing that is dragged.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Grip {
    /// An event, by its place in its lane.
    Event(usize),
    /// The end of an event.
    End(usize),
    /// Nothing: a time of some lanes is chosen.
    Choice,
}

/// A drag that is under way.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Drag {
    pub(super) grip: Grip,
    pub(super) lane: usize,
    /// The place of the grid at which it was taken.
    pub(super) from: Ticks,
}

/// The rows of the lanes as they were drawn last.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) struct Rows {
    /// The row of the first that is in sight, and which lane that is.
    pub(super) first: u16,
    pub(super) from: usize,
    /// The row behind the last.
    pub(super) end: u16,
}
