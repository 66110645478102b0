//! The actions of the view, and their keys.

use ratatui::crossterm::event::KeyCode;

use crate::ui_action::ui_actions;
use crate::view::{self, KeyBinding, bind};

/// A request of the view.
pub(super) type Ask = view::Ask<PlayAction>;

ui_actions! {
    /// An action of the view Play.
    PlayAction {
        /// Show the next bank of pads, or the one before
        PadBank(by: i32) = "pad-bank";
    }
}

/// The keys.
pub(super) const KEYS: &[KeyBinding<PlayAction>] = &[
    bind(KeyCode::Up, "↑", "", || Ask::nudge("lands", 1)),
    bind(KeyCode::Down, "↓", "lands on", || Ask::nudge("lands", -1)),
    bind(KeyCode::Left, "←", "", || Ask::Action(PlayAction::PadBank(-1))),
    bind(KeyCode::Right, "→", "bank", || Ask::Action(PlayAction::PadBank(1))),
];
