//! The actions of the view, and their keys.

use ratatui::crossterm::event::{KeyCode, KeyModifiers};

use crate::ui_action::ui_actions;
use crate::view::{self, KeyBinding, bind, bind_with};

/// A request of the view.
pub(super) type Ask = view::Ask<RigAction>;

ui_actions! {
    /// An action of the view Rig.
    RigAction {
        /// Choose the next fixture, or the one before
        ChooseFixture(by: i32) = "choose-fixture";
        /// Choose up to the next fixture as well, or up to the one before
        ChooseMore(by: i32) = "choose-more";
        /// Choose every fixture
        ChooseAll = "choose-all";
        /// Choose no fixture
        ChooseNone = "choose-none";
        /// Choose a fixture, or the fixtures of a group, by name
        Choose(name: String) = "choose";
        /// Add fixtures: what, how many, where, and which addresses
        AddFixtures = "add";
        /// Change the chosen fixtures: name, profile, shape, wiring, place
        ChangeFixtures = "change";
        /// Move, turn, mirror, scale, align or distribute the chosen fixtures
        ArrangeFixtures = "arrange";
        /// Give the chosen fixtures addresses by a rule
        PatchFixtures = "patch";
        /// Copy the chosen fixtures
        Duplicate = "duplicate";
        /// Take the chosen fixtures out
        Remove = "remove";
        /// Groups: make, change, merge, choose
        ShowGroups = "groups";
        /// Profiles of your own: make, change
        ShowProfiles = "profiles";
        /// Every problem of the show, and go to where it is
        ShowProblems = "problems";
        /// Flash the chosen fixtures at full until you leave
        Identify = "identify";
        /// Walk one lit pixel along the wiring of the chosen fixtures
        Walk = "walk";
        /// Hold any slot at a value until you leave
        HoldSlots = "channel-test";
        /// Colour lights live, by fixture, universe, group or wiring order
        ColourLights = "colour-lights";
        /// Look nearer, or from farther off
        Zoom(by: i32) = "zoom";
        /// Look farther to the right, or to the left
        PanAcross(by: i32) = "pan-across";
        /// Look farther down, or up
        PanDown(by: i32) = "pan-down";
        /// Have all lights in sight, the chosen ones, or the whole canvas
        Fit = "fit";
        /// Set the size of the canvas
        SizeCanvas = "canvas";
        /// Read a patch from a CSV file, with a look at it first
        ImportPatch(file: String) = "import-patch";
        /// Show the next universe, or the one before
        NextUniverse(by: i32) = "next-universe";
    }
}

const SHIFT: KeyModifiers = KeyModifiers::SHIFT;
const CTRL: KeyModifiers = KeyModifiers::CONTROL;
const ALT: KeyModifiers = KeyModifiers::ALT;

/// The keys.
pub(super) const KEYS: &[KeyBinding<RigAction>] = &[
    bind(KeyCode::Up, "↑", "", || Ask::Action(RigAction::ChooseFixture(-1))),
    bind(KeyCode::Down, "↓", "choose", || Ask::Action(RigAction::ChooseFixture(1))),
    bind_with(SHIFT, KeyCode::Up, "Shift-↑", "", || Ask::Action(RigAction::ChooseMore(-1))),
    bind_with(SHIFT, KeyCode::Down, "Shift-↓", "more", || Ask::Action(RigAction::ChooseMore(1))),
    bind(KeyCode::PageUp, "", "", || Ask::Action(RigAction::ChooseFixture(-20))),
    bind(KeyCode::PageDown, "", "", || Ask::Action(RigAction::ChooseFixture(20))),
    bind_with(CTRL, KeyCode::Char('a'), "Ctrl-A", "", || Ask::Action(RigAction::ChooseAll)),
    bind(KeyCode::Char('a'), "a", "add", || Ask::Action(RigAction::AddFixtures)),
    bind(KeyCode::Char('e'), "e", "change", || Ask::Action(RigAction::ChangeFixtures)),
    bind(KeyCode::Char('m'), "m", "arrange", || Ask::Action(RigAction::ArrangeFixtures)),
    bind(KeyCode::Char('p'), "p", "patch", || Ask::Action(RigAction::PatchFixtures)),
    bind(KeyCode::Char('i'), "i", "identify", || Ask::Action(RigAction::Identify)),
    bind(KeyCode::Char('w'), "w", "walk", || Ask::Action(RigAction::Walk)),
    bind(KeyCode::Char('t'), "t", "channel test", || Ask::Action(RigAction::HoldSlots)),
    bind(KeyCode::Char('g'), "g", "groups", || Ask::Action(RigAction::ShowGroups)),
    bind(KeyCode::Char('k'), "k", "problems", || Ask::Action(RigAction::ShowProblems)),
    bind(KeyCode::Char('r'), "r", "profiles", || Ask::Action(RigAction::ShowProfiles)),
    bind(KeyCode::Char('c'), "c", "colour by", || Ask::Action(RigAction::ColourLights)),
    bind(KeyCode::Char('z'), "z", "", || Ask::Action(RigAction::Zoom(1))),
    bind(KeyCode::Char('x'), "x", "zoom", || Ask::Action(RigAction::Zoom(-1))),
    bind(KeyCode::Char('f'), "f", "fit", || Ask::Action(RigAction::Fit)),
    bind(KeyCode::Char('d'), "d", "", || Ask::Action(RigAction::Duplicate)),
    bind(KeyCode::Delete, "Del", "", || Ask::Action(RigAction::Remove)),
    bind(KeyCode::Char('s'), "s", "", || Ask::Action(RigAction::SizeCanvas)),
    bind(KeyCode::Char('I'), "I", "", || Ask::Palette("import-patch")),
    bind(KeyCode::Char('O'), "O", "", || Ask::Palette("export-patch")),
    bind(KeyCode::Left, "←", "", || Ask::Action(RigAction::NextUniverse(-1))),
    bind(KeyCode::Right, "→", "universes", || Ask::Action(RigAction::NextUniverse(1))),
    bind_with(ALT, KeyCode::Left, "Alt-←", "", || Ask::Action(RigAction::PanAcross(-1))),
    bind_with(ALT, KeyCode::Right, "Alt-→", "", || Ask::Action(RigAction::PanAcross(1))),
    bind_with(ALT, KeyCode::Up, "Alt-↑", "", || Ask::Action(RigAction::PanDown(-1))),
    bind_with(ALT, KeyCode::Down, "Alt-↓", "", || Ask::Action(RigAction::PanDown(1))),
];
