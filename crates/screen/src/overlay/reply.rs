//! The reply of an overlay to a key.

use std::path::PathBuf;

use crate::views::AnyAsk;

/// The way a screen is left.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum Leaving {
    /// The show ends with it.
    EndShow,
    /// The show runs on.
    RunOn,
    /// The show runs on, and another is opened on this terminal.
    Open(PathBuf),
    /// The show runs on, and another session is shown on this terminal.
    Join(String),
}

/// The reply of an overlay to a key.
pub(crate) enum OverlayReply {
    /// It stays open.
    Stay,
    /// It closes.
    Close,
    /// It stays open, and something is asked for.
    Ask(Vec<AnyAsk>),
    /// It closes, and something is asked for.
    CloseAsking(Vec<AnyAsk>),
    /// The screen is left.
    Leave(Leaving),
}
