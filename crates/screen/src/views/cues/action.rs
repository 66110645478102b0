//! The actions of the view, and their keys.

use ratatui::crossterm::event::KeyCode;

use crate::ui_action::ui_actions;
use crate::view::{self, KeyBinding, bind};

/// A request of the view.
pub(super) type Ask = view::Ask<CuesAction>;

ui_actions! {
    /// An action of the view Cues.
    CuesAction {
        /// Go on to the next part: cues, lists, schedule, timelines, patterns, aims
        NextList = "next-part-of-cues";
        /// Go back to the part before
        LastList = "last-part-of-cues";
        /// Add a cue, or a cue list
        Add = "add-here";
        /// Change the chosen cues, or the list
        Change = "change-here";
        /// Make a cue list of looks
        ListOfLooks = "list-of-looks";
        /// Number the cues of the list anew, from 1
        Renumber = "renumber-cues";
        /// Give the chosen cue looks of its own, which can be changed for it alone
        OwnLooks = "own-looks";
        /// Try the chosen cue blind: the stage here shows it, and nothing goes out
        TryBlind = "try-cue";
    }
}

/// The keys that are told; the others stand with the lists.
pub(super) const KEYS: &[KeyBinding<CuesAction>] = &[
    bind(KeyCode::Tab, "Tab", "lists, schedule", || Ask::Action(CuesAction::NextList)),
    bind(KeyCode::BackTab, "Shift-Tab", "", || Ask::Action(CuesAction::LastList)),
    bind(KeyCode::Char('a'), "a", "add", || Ask::Action(CuesAction::Add)),
    bind(KeyCode::Char('e'), "e", "change", || Ask::Action(CuesAction::Change)),
    bind(KeyCode::Char('w'), "w", "list of looks", || Ask::Action(CuesAction::ListOfLooks)),
    bind(KeyCode::Char('N'), "N", "", || Ask::Action(CuesAction::Renumber)),
    bind(KeyCode::Char('k'), "k", "", || Ask::Action(CuesAction::OwnLooks)),
    bind(KeyCode::Char('t'), "t", "try blind", || Ask::Action(CuesAction::TryBlind)),
];
