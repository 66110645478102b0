//! When something happens that a list or a timeline does.

/// A moment that is past, by so many beats.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub(super) struct Late {
    pub beats: f64,
    pub seconds: f64,
}

/// A beat, and by how much what happens there is late.
#[derive(Debug, Clone, Copy)]
pub(super) struct Moment {
    pub(super) beat: f64,
    pub(super) late: Late,
}
