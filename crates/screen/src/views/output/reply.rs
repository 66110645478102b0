//! The reply of what is open to a key.

use super::action::Ask;

/// The reply of a panel to a key.
#[derive(Default)]
pub(super) struct PanelReply {
    pub(super) asks: Vec<Ask>,
    pub(super) open: bool,
    pub(super) said: Option<String>,
}

impl PanelReply {
    pub(super) fn stay(asks: Vec<Ask>) -> Option<Self> {
        Some(Self { asks, open: true, said: None })
    }

    pub(super) fn close(asks: Vec<Ask>) -> Option<Self> {
        Some(Self { asks, open: false, said: None })
    }
}
