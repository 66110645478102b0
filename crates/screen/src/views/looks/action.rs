//! The actions of the view, and their keys.

use ratatui::crossterm::event::{KeyCode, KeyModifiers};

use crate::ui_action::ui_actions;
use crate::view::{self, KeyBinding, bind, bind_with};

/// A request of the view.
pub(super) type Ask = view::Ask<LooksAction>;

ui_actions! {
    /// An action of the view Looks.
    LooksAction {
        /// Go to the next part of the view
        NextPane = "next-pane";
        /// Choose the next line, or the one before
        ChooseRow(by: i32) = "choose-row";
        /// Choose up to the next line as well, or up to the one before
        ChooseMore(by: i32) = "choose-more";
        /// Choose every look, or every layer
        ChooseAll = "choose-all";
        /// Choose only one look and one layer
        ChooseNone = "choose-none";
        /// Make a new look
        NewLook = "new-look";
        /// Add a layer: choose among all effects, moving on your own rig
        AddLayer = "add-layer";
        /// Change what is chosen: the look, the layer or the parameter
        ChangeHere = "change-here";
        /// Move the value of the chosen line up, or down
        NudgeValue(by: i32) = "nudge-value";
        /// Move the chosen layer or look up, or down
        MoveLayer(by: i32) = "move-layer";
        /// Leave the chosen layer out, or take it in again
        MuteLayer = "mute-layer";
        /// Show only the chosen layer, and others that are solo
        SoloLayer = "solo-layer";
        /// Choose which groups and fixtures the chosen layer lights
        TargetLayer = "target-layer";
        /// Choose which groups and fixtures all layers of the chosen looks light
        Retarget = "retarget";
        /// Take the next span for the chosen layer, or the one before
        NextSpan(by: i32) = "next-span";
        /// Set the area of the chosen layer on its span
        ShowArea = "area";
        /// Have something move the chosen parameter
        ShowModulator = "modulator";
        /// Set the colours of the chosen layer
        ShowColours = "colours";
        /// The palette: colours and gradients with names, and where they are used
        ShowPalette = "colour-palette";
        /// Spread two colours over the target, from one end to the other
        SpreadColours = "spread-colours";
        /// Spread two colours over the target, mirrored
        MirrorColours = "mirror-colours";
        /// Edit blind: nothing goes out until you keep it; or live again
        EditBlind = "blind";
        /// Hold the look as it was saved against the look as it is
        Compare = "compare";
        /// Show eight variations of the look, side by side
        Vary = "vary";
        /// Make a still look of what is on the lights now
        Freeze = "freeze";
        /// Make a new look in which the chosen looks take turns
        ChaseLooks = "chase-looks";
        /// Make a bank with a pad for each of the chosen looks
        BankOfLooks = "bank-of-looks";
        /// Copy the chosen layer, to put all or some of it onto others
        CopyLayer = "copy-layer";
        /// Put what was copied onto the chosen layers
        PasteLayer = "paste-layer";
        /// Change one thing in all chosen looks or layers
        ChangeMany = "change-many";
        /// Find a look by a part of its name or a tag
        FindLook = "find-look";
        /// Arm the chosen look
        ArmLook = "arm-look";
        /// Glide the chosen layer to the middle of its cycle
        CentreLayer = "centre-layer";
        /// Begin the chosen layer anew on the next beat
        RestartLayer = "restart-layer";
        /// Step the chosen layer on by one cycle, or back; of looks that take turns, to the next look
        StepLayer(by: i32) = "step-layer";
        /// Show the numbers of the next light, or of the one before
        ChooseLight(by: i32) = "choose-light";
        /// Show the numbers that leave for the chosen light
        ShowValues = "values";
        /// Copy the chosen looks or layers
        Duplicate = "duplicate";
        /// Take the chosen looks or layers out
        Remove = "remove";
    }
}

const SHIFT: KeyModifiers = KeyModifiers::SHIFT;
const CTRL: KeyModifiers = KeyModifiers::CONTROL;

/// The keys.
pub(super) const KEYS: &[KeyBinding<LooksAction>] = &[
    bind(KeyCode::Tab, "Tab", "pane", || Ask::Action(LooksAction::NextPane)),
    bind(KeyCode::Up, "↑", "", || Ask::Action(LooksAction::ChooseRow(-1))),
    bind(KeyCode::Down, "↓", "choose", || Ask::Action(LooksAction::ChooseRow(1))),
    bind_with(SHIFT, KeyCode::Up, "Shift-↑", "", || Ask::Action(LooksAction::ChooseMore(-1))),
    bind_with(SHIFT, KeyCode::Down, "Shift-↓", "", || Ask::Action(LooksAction::ChooseMore(1))),
    bind(KeyCode::PageUp, "", "", || Ask::Action(LooksAction::ChooseRow(-10))),
    bind(KeyCode::PageDown, "", "", || Ask::Action(LooksAction::ChooseRow(10))),
    bind_with(CTRL, KeyCode::Char('a'), "Ctrl-A", "", || Ask::Action(LooksAction::ChooseAll)),
    bind(KeyCode::Left, "←", "", || Ask::Action(LooksAction::NudgeValue(-1))),
    bind(KeyCode::Right, "→", "nudge", || Ask::Action(LooksAction::NudgeValue(1))),
    bind_with(SHIFT, KeyCode::Left, "", "", || Ask::Action(LooksAction::NudgeValue(-10))),
    bind_with(SHIFT, KeyCode::Right, "", "", || Ask::Action(LooksAction::NudgeValue(10))),
    bind(KeyCode::Char('n'), "n", "new", || Ask::Action(LooksAction::NewLook)),
    bind(KeyCode::Char('a'), "a", "add layer", || Ask::Action(LooksAction::AddLayer)),
    bind(KeyCode::Char('e'), "e", "change", || Ask::Action(LooksAction::ChangeHere)),
    bind(KeyCode::Char('m'), "m", "modulator", || Ask::Action(LooksAction::ShowModulator)),
    bind(KeyCode::Char('c'), "c", "colours", || Ask::Action(LooksAction::ShowColours)),
    bind(KeyCode::Char('p'), "p", "palette", || Ask::Action(LooksAction::ShowPalette)),
    bind(KeyCode::Char('t'), "t", "target", || Ask::Action(LooksAction::TargetLayer)),
    bind(KeyCode::Char('s'), "s", "span", || Ask::Action(LooksAction::NextSpan(1))),
    bind(KeyCode::Char('r'), "r", "area", || Ask::Action(LooksAction::ShowArea)),
    bind(KeyCode::Char('b'), "b", "blind", || Ask::Action(LooksAction::EditBlind)),
    bind(KeyCode::Char('v'), "v", "vary", || Ask::Action(LooksAction::Vary)),
    bind(KeyCode::Char('z'), "z", "freeze", || Ask::Action(LooksAction::Freeze)),
    bind(KeyCode::Char('i'), "i", "in turn", || Ask::Action(LooksAction::ChaseLooks)),
    bind_with(CTRL, KeyCode::Char('b'), "Ctrl-B", "", || Ask::Action(LooksAction::BankOfLooks)),
    bind(KeyCode::Char('l'), "l", "arm", || Ask::Action(LooksAction::ArmLook)),
    bind(KeyCode::Char('f'), "f", "find", || Ask::Action(LooksAction::FindLook)),
    bind(KeyCode::Char('['), "[", "", || Ask::Action(LooksAction::MoveLayer(-1))),
    bind(KeyCode::Char(']'), "]", "", || Ask::Action(LooksAction::MoveLayer(1))),
    bind(KeyCode::Char('x'), "x", "", || Ask::Action(LooksAction::MuteLayer)),
    bind(KeyCode::Char('o'), "o", "", || Ask::Action(LooksAction::SoloLayer)),
    bind(KeyCode::Char('S'), "", "", || Ask::Action(LooksAction::NextSpan(-1))),
    bind(KeyCode::Char('T'), "T", "", || Ask::Action(LooksAction::Retarget)),
    bind(KeyCode::Char('w'), "w", "", || Ask::Action(LooksAction::SpreadColours)),
    bind(KeyCode::Char('W'), "W", "", || Ask::Action(LooksAction::MirrorColours)),
    bind(KeyCode::Char('k'), "k", "", || Ask::Action(LooksAction::Compare)),
    bind(KeyCode::Char('y'), "y", "", || Ask::Action(LooksAction::CopyLayer)),
    bind(KeyCode::Char('Y'), "Y", "", || Ask::Action(LooksAction::PasteLayer)),
    bind(KeyCode::Char('g'), "g", "", || Ask::Action(LooksAction::ChangeMany)),
    bind(KeyCode::Char('j'), "j", "", || Ask::Action(LooksAction::CentreLayer)),
    bind(KeyCode::Char('J'), "J", "", || Ask::Action(LooksAction::RestartLayer)),
    bind(KeyCode::Char('U'), "U", "", || Ask::Action(LooksAction::StepLayer(-1))),
    bind(KeyCode::Char('u'), "u", "", || Ask::Action(LooksAction::StepLayer(1))),
    bind(KeyCode::Char('h'), "h", "", || Ask::Action(LooksAction::ShowValues)),
    bind(KeyCode::Char(';'), ";", "", || Ask::Action(LooksAction::ChooseLight(-1))),
    bind(KeyCode::Char('\''), "'", "", || Ask::Action(LooksAction::ChooseLight(1))),
    bind(KeyCode::Char('d'), "d", "", || Ask::Action(LooksAction::Duplicate)),
    bind(KeyCode::Delete, "Del", "", || Ask::Action(LooksAction::Remove)),
];
