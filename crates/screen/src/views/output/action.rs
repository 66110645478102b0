//! The actions of the view, and their keys.

use ratatui::crossterm::event::KeyCode;
use splimo_show::command::SessionCommand;

use crate::ui_action::ui_actions;
use crate::view::{self, KeyBinding, bind};

/// A request of the view.
pub(super) type Ask = view::Ask<OutputAction>;

ui_actions! {
    /// An action of the view Output.
    OutputAction {
        /// Go to the next part of the view
        NextPane = "next-pane";
        /// Choose the next line, or the one before
        ChooseRow(by: i32) = "choose-row";
        /// Choose the next slot or universe, or the one before
        ChooseSlot(by: i32) = "choose-slot";
        /// Choose the next universe, or the one before
        NextUniverse(by: i32) = "next-universe";
        /// Add a route: which universes go where, and how
        AddRoute = "add-route";
        /// Change the chosen route
        ChangeRoute = "change-route";
        /// Switch the chosen route off, or on again
        SwitchRoute = "switch-route";
        /// Take the chosen route out
        RemoveRoute = "remove-route";
        /// Bring the universes that have no route to the chosen node
        RouteToNode = "route-to-node";
        /// Leave the chosen node alone, or no more
        IgnoreNode = "ignore-node";
        /// Send to these nodes only, whoever else answers; or to all again
        PinRoute = "only-these-nodes";
        /// Show the slots that come in, or those that go out
        ShowReceived = "received";
        /// Look at any universe that may come in: 12 or sacn 12, 0:1:0 or art-net 16
        LookAt(universe: String) = "look-at";
        /// Supplies: what the lights take, and what a supply may give
        ShowSupplies = "supplies";
        /// What listens on the network, and who may send it something
        ShowDoors = "listens";
        /// Show the slots as numbers, or as bars
        SlotBars = "slot-bars";
    }
}

/// The keys.
pub(super) const KEYS: &[KeyBinding<OutputAction>] = &[
    bind(KeyCode::Tab, "Tab", "pane", || Ask::Action(OutputAction::NextPane)),
    bind(KeyCode::Up, "↑", "", || Ask::Action(OutputAction::ChooseRow(-1))),
    bind(KeyCode::Down, "↓", "choose", || Ask::Action(OutputAction::ChooseRow(1))),
    bind(KeyCode::Left, "←", "", || Ask::Action(OutputAction::ChooseSlot(-1))),
    bind(KeyCode::Right, "→", "universe, slot", || Ask::Action(OutputAction::ChooseSlot(1))),
    bind(KeyCode::PageUp, "PgUp", "", || Ask::Action(OutputAction::NextUniverse(-1))),
    bind(KeyCode::PageDown, "PgDn", "", || Ask::Action(OutputAction::NextUniverse(1))),
    bind(KeyCode::Char('a'), "a", "add route", || Ask::Action(OutputAction::AddRoute)),
    bind(KeyCode::Char('e'), "e", "change", || Ask::Action(OutputAction::ChangeRoute)),
    bind(KeyCode::Char('x'), "x", "on/off", || Ask::Action(OutputAction::SwitchRoute)),
    bind(KeyCode::Delete, "Del", "", || Ask::Action(OutputAction::RemoveRoute)),
    bind(KeyCode::Char('n'), "n", "route to node", || Ask::Action(OutputAction::RouteToNode)),
    bind(KeyCode::Char('i'), "i", "", || Ask::Action(OutputAction::IgnoreNode)),
    bind(KeyCode::Char('o'), "o", "", || Ask::Action(OutputAction::PinRoute)),
    bind(KeyCode::Char('g'), "g", "", || Ask::Command(SessionCommand::ForgetNodes.into())),
    bind(KeyCode::Char('p'), "p", "supplies", || Ask::Action(OutputAction::ShowSupplies)),
    bind(KeyCode::Char('l'), "l", "", || Ask::Action(OutputAction::ShowDoors)),
    bind(KeyCode::Char('v'), "v", "in/out", || Ask::Action(OutputAction::ShowReceived)),
    bind(KeyCode::Char('u'), "u", "", || Ask::Palette("look-at")),
    bind(KeyCode::Char('b'), "b", "bars", || Ask::Action(OutputAction::SlotBars)),
    bind(KeyCode::Char('r'), "r", "record", || Ask::Palette("record")),
    bind(KeyCode::Char('R'), "R", "", || Ask::Command(SessionCommand::StopRecording.into())),
];
