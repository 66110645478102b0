//! The actions of the view, and their keys.

use ratatui::crossterm::event::KeyCode;
use splimo_show::command::SessionCommand;

use crate::ui_action::ui_actions;
use crate::view::{self, KeyBinding, bind};

/// A request of the view.
pub(super) type Ask = view::Ask<InputsAction>;

ui_actions! {
    /// An action of the view Inputs.
    InputsAction {
        /// Go on: what is heard, the inputs, the bindings, what came in last
        NextList = "next-list";
        /// Add an input
        AddInput = "add-input";
        /// Bind an event to a command by hand
        AddBinding = "add-binding";
        /// Have bands of one channel pick looks
        ChooseByValue = "choose-by-value";
    }
}

/// The keys of the page of what is heard; those of the lists stand with them.
pub(super) const KEYS: &[KeyBinding<InputsAction>] = &[
    bind(KeyCode::Tab, "Tab", "inputs, bindings", || Ask::Action(InputsAction::NextList)),
    bind(KeyCode::Up, "↑", "", || Ask::nudge("gain", 1)),
    bind(KeyCode::Down, "↓", "gain", || Ask::nudge("gain", -1)),
    bind(KeyCode::Left, "←", "", || Ask::nudge("latency", -1)),
    bind(KeyCode::Right, "→", "light earlier", || Ask::nudge("latency", 1)),
    bind(KeyCode::PageUp, "PgUp", "", || Ask::nudge("silence", 1)),
    bind(KeyCode::PageDown, "PgDn", "floor", || Ask::nudge("silence", -1)),
    bind(KeyCode::Char('c'), "c", "flash and click", || Ask::Command(SessionCommand::FlashAndClick.into())),
    bind(KeyCode::Char('b'), "b", "bands", || Ask::nudge("bands", 1)),
    bind(KeyCode::Char('B'), "B", "", || Ask::nudge("bands", -1)),
    bind(KeyCode::Char('a'), "a", "", || Ask::nudge("attack", 1)),
    bind(KeyCode::Char('A'), "A", "", || Ask::nudge("attack", -1)),
    bind(KeyCode::Char('d'), "d", "", || Ask::nudge("decay", 1)),
    bind(KeyCode::Char('D'), "D", "", || Ask::nudge("decay", -1)),
    bind(KeyCode::Char('l'), "l", "who leads", || Ask::nudge("sync", 1)),
    bind(KeyCode::Char('p'), "p", "pause", || Ask::Command(SessionCommand::PauseMusic.into())),
    bind(KeyCode::Char('['), "[", "", || Ask::Command(SessionCommand::SeekMusic(-10.0).into())),
    bind(KeyCode::Char(']'), "]", "seek", || Ask::Command(SessionCommand::SeekMusic(10.0).into())),
];
