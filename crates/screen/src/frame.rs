//! The frame around all views: its own actions, and the keys that work everywhere.

use ratatui::crossterm::event::{KeyCode, KeyModifiers};
use splimo_document::DocumentCommand;
use splimo_show::command::{EngineCommand, SessionCommand};

use crate::ui_action::ui_actions;
use crate::view::{Ask, KeyBinding, bind, bind_with};

ui_actions! {
    /// An action of the frame.
    FrameAction {
        /// Go to a view
        ShowView(name: String) = "view";
        /// Help for this place
        Help = "help";
        /// Find anything that can be done, and looks, fixtures and groups, by name
        FindAction = "find-action";
        /// The settings of the show
        ShowSettings = "settings";
        /// The night log: what was fired, by whom, when, and what changed with it
        ShowNight = "night-log";
        /// Spend less of the line to this terminal, or as much as it takes
        Economy = "economy";
        /// Copy the words of this screen, to paste them elsewhere
        CopyScreen = "copy-screen";
        /// Learn: bind the next control that is moved to what is chosen
        LearnControl = "learn-control";
        /// Go on in the cue list that is chosen
        NextCue = "next-cue";
        /// Go back in the cue list that is chosen
        CueBefore = "cue-before";
        /// Hold the cue list that is chosen, or let it go on
        HoldCues = "hold-cues";
        /// Go on to another step of the tutorial, or back by -1
        TutorialSkip(by: i32) = "tutorial-skip";
        /// End the tutorial; what was made stays
        TutorialEnd = "tutorial-end";
        /// Back out of what is open, or take back what is armed
        Back = "back";
        /// Open another show on this terminal; the one that runs goes on
        OpenShow(file: String) = "open-show";
        /// Show another session that runs on this terminal; this one goes on
        JoinSession(name: String) = "join-session";
        /// Leave: end the show, or leave it running
        Leave = "leave";
        /// Leave the show running, and this screen at once; a first press asks
        LeaveAtOnce = "leave-at-once";
    }
}

const CTRL: KeyModifiers = KeyModifiers::CONTROL;

/// The keys for the lights, which work on every view and are told first.
pub(crate) const LIVE: &[KeyBinding<FrameAction>] = &[
    bind(KeyCode::Char(' '), "Space", "tap", || Ask::engine(EngineCommand::Tap)),
    bind(KeyCode::Enter, "Enter", "land now", || Ask::engine(EngineCommand::Go)),
    bind(KeyCode::Char('`'), "`", "black out", || Ask::engine(EngineCommand::Blackout)),
    bind(KeyCode::F(12), "F12", "panic", || Ask::engine(EngineCommand::Panic)),
    bind(KeyCode::Char(','), ",", "", || Ask::nudge("fade", -1)),
    bind(KeyCode::Char('.'), ".", "fade", || Ask::nudge("fade", 1)),
    bind(KeyCode::Char('-'), "-", "", || Ask::engine(EngineCommand::NudgeMaster(-5.0))),
    bind(KeyCode::Char('='), "=", "master", || Ask::engine(EngineCommand::NudgeMaster(5.0))),
    bind(KeyCode::Char('+'), "", "", || Ask::engine(EngineCommand::NudgeMaster(5.0))),
    bind(KeyCode::Char('/'), "/", "bar here", || Ask::engine(EngineCommand::BarHere)),
    bind(KeyCode::Char('\\'), "\\", "follow music", || Ask::engine(EngineCommand::FollowMusic)),
    bind(KeyCode::Char('|'), "|", "", || Ask::engine(EngineCommand::PhraseHere)),
    bind(KeyCode::Char('{'), "{", "", || Ask::engine(EngineCommand::TempoTimes(0.5))),
    bind(KeyCode::Char('}'), "}", "", || Ask::engine(EngineCommand::TempoTimes(2.0))),
    bind_with(CTRL, KeyCode::Left, "Ctrl-←", "", || Ask::engine(EngineCommand::NudgeBeat(-2))),
    bind_with(CTRL, KeyCode::Right, "Ctrl-→", "", || Ask::engine(EngineCommand::NudgeBeat(2))),
    bind(KeyCode::F(8), "F8", "", || Ask::engine(EngineCommand::NextSection(1))),
];

/// The other keys that work on every view.
pub(crate) const KEYS: &[KeyBinding<FrameAction>] = &[
    bind_with(CTRL, KeyCode::Char('s'), "Ctrl-S", "", || Ask::Command(SessionCommand::Save.into())),
    bind_with(CTRL, KeyCode::Char('w'), "Ctrl-W", "", || Ask::Palette("save-as")),
    bind_with(CTRL, KeyCode::Char('z'), "Ctrl-Z", "", || Ask::Command(DocumentCommand::Undo.into())),
    bind_with(CTRL, KeyCode::Char('y'), "Ctrl-Y", "", || Ask::Command(DocumentCommand::Redo.into())),
    bind(KeyCode::F(9), "F9", "", || Ask::Action(FrameAction::ShowSettings)),
    bind_with(CTRL, KeyCode::Char('l'), "Ctrl-L", "", || Ask::Action(FrameAction::ShowNight)),
    bind_with(CTRL, KeyCode::Char('k'), "Ctrl-K", "learn", || Ask::Action(FrameAction::LearnControl)),
    bind_with(CTRL, KeyCode::Char('n'), "Ctrl-N", "", || Ask::Action(FrameAction::NextCue)),
    bind_with(CTRL, KeyCode::Char('u'), "Ctrl-U", "", || Ask::Action(FrameAction::CueBefore)),
    bind_with(CTRL, KeyCode::Char('x'), "Ctrl-X", "", || Ask::Action(FrameAction::HoldCues)),
    bind(KeyCode::F(1), "F1", "help", || Ask::Action(FrameAction::Help)),
    bind_with(CTRL, KeyCode::Char('p'), "Ctrl-P", "any action", || Ask::Action(FrameAction::FindAction)),
    bind(KeyCode::Esc, "Esc", "", || Ask::Action(FrameAction::Back)),
    bind_with(CTRL, KeyCode::Char('q'), "Ctrl-Q", "leave", || Ask::Action(FrameAction::Leave)),
    bind_with(CTRL, KeyCode::Char('c'), "Ctrl-C", "", || Ask::Action(FrameAction::LeaveAtOnce)),
];
