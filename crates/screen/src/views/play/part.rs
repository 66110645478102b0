//! The parts of the view.

/// The part of the view that the arrows move.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) enum Part {
    /// The banks of pads.
    #[default]
    Pads,
    /// The tiers.
    Tiers,
    /// Everything that waits.
    Waiting,
}
