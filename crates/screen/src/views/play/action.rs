//! The actions of the view, and their keys.

use ratatui::crossterm::event::{KeyCode, KeyModifiers};

use crate::ui_action::ui_actions;
use crate::view::{self, KeyBinding, bind, bind_with};

/// A request of the view.
pub(super) type Ask = view::Ask<PlayAction>;

ui_actions! {
    /// An action of the view Play.
    PlayAction {
        /// Show the next bank of pads, or the one before
        PadBank(by: i32) = "pad-bank";
        /// Go on from the pads to the tiers, and to what waits
        NextPart = "next-part";
        /// Have the pads of this bank land on a later boundary, or on an earlier one below zero
        BankLands(by: i32) = "bank-lands";
        /// Have the next press land on a later boundary, once, or on an earlier one below zero
        OnceLands(by: i32) = "once-lands";
        /// Have the next press fade longer, once, or shorter below zero
        OnceFade(by: i32) = "once-fade";
        /// Edit the pads: letters choose them, and fire nothing
        EditPads = "edit-pads";
        /// Choose a pad of the bank, by its place from 1, or fire it while pads are not edited
        ChoosePad(place: i32) = "choose-pad";
        /// The banks of pads: make, name, order and fill them
        ShowBanks = "banks";
        /// The tiers of the stage: add, name, order and limit them
        ShowTiers = "tiers";
        /// The masters: all light, groups of lights, and the speed of effects
        ShowMasters = "masters";
        /// Switch the rotation on or off, or have it take its tier back
        ToggleRotation = "toggle-rotation";
        /// What is in the rotation, and when it turns
        ShowRotation = "rotation";
        /// Choose the next tier, or the one below
        ChooseTier(by: i32) = "choose-tier";
    }
}

const CTRL: KeyModifiers = KeyModifiers::CONTROL;
const SHIFT: KeyModifiers = KeyModifiers::SHIFT;

/// The keys.
pub(super) const KEYS: &[KeyBinding<PlayAction>] = &[
    bind(KeyCode::Up, "↑", "", || Ask::Action(PlayAction::BankLands(1))),
    bind(KeyCode::Down, "↓", "lands on", || Ask::Action(PlayAction::BankLands(-1))),
    bind(KeyCode::Left, "←", "", || Ask::Action(PlayAction::PadBank(-1))),
    bind(KeyCode::Right, "→", "bank", || Ask::Action(PlayAction::PadBank(1))),
    bind(KeyCode::Tab, "Tab", "tiers, waiting", || Ask::Action(PlayAction::NextPart)),
    bind_with(SHIFT, KeyCode::Up, "Shift-↑", "", || Ask::Action(PlayAction::OnceLands(1))),
    bind_with(SHIFT, KeyCode::Down, "Shift-↓", "", || Ask::Action(PlayAction::OnceLands(-1))),
    bind_with(SHIFT, KeyCode::Left, "Shift-←", "", || Ask::Action(PlayAction::OnceFade(-1))),
    bind_with(SHIFT, KeyCode::Right, "Shift-→", "", || Ask::Action(PlayAction::OnceFade(1))),
    bind_with(CTRL, KeyCode::Char('e'), "Ctrl-E", "edit pads", || Ask::Action(PlayAction::EditPads)),
    bind_with(CTRL, KeyCode::Char('b'), "Ctrl-B", "", || Ask::Action(PlayAction::ShowBanks)),
    bind_with(CTRL, KeyCode::Char('t'), "Ctrl-T", "", || Ask::Action(PlayAction::ShowTiers)),
    bind_with(CTRL, KeyCode::Char('g'), "Ctrl-G", "masters", || Ask::Action(PlayAction::ShowMasters)),
    bind_with(CTRL, KeyCode::Char('r'), "Ctrl-R", "rotation", || Ask::Action(PlayAction::ToggleRotation)),
    bind_with(CTRL, KeyCode::Char('o'), "Ctrl-O", "", || Ask::Action(PlayAction::ShowRotation)),
];
