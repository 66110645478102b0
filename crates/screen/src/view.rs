//! A view of the screen: one trait, and what it asks for. A new view is a folder and a line of [`crate::views`].

use std::collections::BTreeMap;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseEvent};
use ratatui::layout::Rect;
use splimo_document::edit::Edit;
use splimo_document::{Command, DocumentCommand};
use splimo_link::subscription::Subscription;
use splimo_show::LightTest;
use splimo_show::command::{EngineCommand, SettingNudge};

use crate::kit::theme::Theme;
use crate::model::{Model, ViewContext};
use crate::ui_action::UiAction;

/// Something that a key, the mouse or a view asks for.
#[derive(Debug, Clone, PartialEq)]
#[expect(clippy::large_enum_variant, reason = "there are few at a time, and none outlives a key press")]
pub(crate) enum Ask<A> {
    /// A command to the session.
    Command(Command),
    /// An action of the view, or of the frame.
    Action(A),
    /// Another view, by its name.
    GoTo(&'static str),
    /// Something said on the hint line.
    Say(String),
    /// The palette with the name of a command or an action that needs an argument.
    Palette(&'static str),
}

impl<A> Ask<A> {
    /// A change of the show.
    pub(crate) fn edit(edit: Edit) -> Self {
        Self::Command(DocumentCommand::Edit(edit).into())
    }

    /// A look at what a change of the show would be like.
    pub(crate) fn try_edit(edit: Edit) -> Self {
        Self::Command(DocumentCommand::TryEdit(edit).into())
    }

    /// The end of what is only tried.
    pub(crate) fn drop_tried() -> Self {
        Self::Command(DocumentCommand::DropTried.into())
    }

    /// A test on the lights.
    pub(crate) fn test(test: LightTest) -> Self {
        Self::Command(EngineCommand::Test(test).into())
    }

    /// A command to the engine.
    pub(crate) fn engine(command: EngineCommand) -> Self {
        Self::Command(command.into())
    }

    /// A setting moved by some steps.
    pub(crate) fn nudge(name: &str, by: i32) -> Self {
        Self::Command(DocumentCommand::Nudge(SettingNudge { name: name.to_owned(), by }).into())
    }

    /// The same with its action among those of others.
    pub(crate) fn map<B>(self, of: impl FnOnce(A) -> B) -> Ask<B> {
        match self {
            Self::Command(command) => Ask::Command(command),
            Self::Action(action) => Ask::Action(of(action)),
            Self::GoTo(view) => Ask::GoTo(view),
            Self::Say(words) => Ask::Say(words),
            Self::Palette(name) => Ask::Palette(name),
        }
    }
}

/// A key, and what it asks for.
pub(crate) struct KeyBinding<A> {
    /// The key.
    pub(crate) code: KeyCode,
    /// The keys held with it; Shift is not looked at for characters.
    pub(crate) with: KeyModifiers,
    /// The key's name; empty for a second key that nobody needs to be told of.
    pub(crate) key: &'static str,
    /// The hint, in a word or two for the hint line; empty where it is not shown there.
    pub(crate) hint: &'static str,
    /// The request.
    pub(crate) ask: fn() -> Ask<A>,
}

/// A binding of a key alone.
pub(crate) const fn bind<A>(
    code: KeyCode,
    key: &'static str,
    hint: &'static str,
    ask: fn() -> Ask<A>,
) -> KeyBinding<A> {
    KeyBinding { code, with: KeyModifiers::NONE, key, hint, ask }
}

/// A binding of a key with others held.
pub(crate) const fn bind_with<A>(
    with: KeyModifiers,
    code: KeyCode,
    key: &'static str,
    hint: &'static str,
    ask: fn() -> Ask<A>,
) -> KeyBinding<A> {
    KeyBinding { code, with, key, hint, ask }
}

/// The specification of a view: name, keys and help.
pub(crate) struct ViewSpec {
    /// Its name.
    pub(crate) name: &'static str,
    /// The function key that shows it.
    pub(crate) function_key: u8,
    /// The digit that shows it with Alt.
    pub(crate) digit: char,
    /// The help: what one does here, in some sentences.
    pub(crate) help: &'static [&'static str],
    /// Keys that are no bindings: how they are called, and what they do, for the hint line and for the help.
    pub(crate) other_keys: &'static [[&'static str; 3]],
    /// True if Shift makes another key of an arrow here.
    pub(crate) shift_arrows: bool,
}

/// The answer of a view to a key before its bindings are looked up.
#[derive(Debug, Clone, PartialEq)]
pub(crate) enum Handled<A> {
    /// Nothing: the bindings are looked up.
    Not,
    /// All that there is to do.
    Done(Vec<Ask<A>>),
    /// Something that comes first; then the bindings are looked up.
    First(Vec<Ask<A>>),
}

impl<A> Handled<A> {
    /// All that there is to do, where there is anything.
    pub(crate) fn done(asks: Option<Vec<Ask<A>>>) -> Self {
        asks.map_or(Self::Not, Self::Done)
    }
}

/// The target that the next moved control is to be bound to, as a view says it.
#[derive(Debug, Clone, PartialEq)]
pub(crate) enum Learn {
    /// A command, or one that lacks its value.
    Target(String),
    /// A command, after the show is changed so that it moves what was chosen.
    After(Box<Edit>, String),
    /// Something that is still to be chosen; how.
    Choosing(&'static str),
    /// Nothing; why.
    Nothing(&'static str),
}

/// The state of a view as to keys.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Modality {
    /// Nothing is open.
    Free,
    /// Something is open, which Escape closes.
    Open,
    /// Letters are typed into something; one that it does not know is a slip and must do nothing else.
    Typing,
}

/// The memory of a screen for the next one that is attached, by names.
pub(crate) type Memory = BTreeMap<String, String>;

/// The keys that work in what is open, and what they do.
pub(crate) type Hints = Vec<(&'static str, &'static str)>;

/// Places that can be clicked on, and what that asks for.
pub(crate) type Targets<A> = Vec<(Rect, Ask<A>)>;

/// A view. Keys come to it first while something of its own is open; else its bindings and those of the frame are looked up.
pub(crate) trait View: Default {
    /// Its own actions.
    type Action: UiAction;

    /// Its specification: name, keys and help.
    const SPEC: ViewSpec;

    /// The bindings of its keys. The first that fits counts.
    const KEYS: &'static [KeyBinding<Self::Action>];

    /// Takes note of the model, which has changed.
    fn sync(&mut self, model: &Model);

    /// Handles a key, where it is the view's own business.
    fn key(&mut self, _key: KeyEvent) -> Handled<Self::Action> {
        Handled::Not
    }

    /// Takes note of a key that was let go, where the terminal tells that.
    fn released(&mut self, _key: KeyEvent) -> Vec<Ask<Self::Action>> {
        Vec::new()
    }

    /// Lets go what keys hold, as nobody tells when they are let go.
    fn let_all_go(&mut self) -> Vec<Ask<Self::Action>> {
        Vec::new()
    }

    /// Handles the mouse, where it is the view's own business; else none.
    fn mouse(&mut self, _mouse: MouseEvent) -> Option<Vec<Ask<Self::Action>>> {
        None
    }

    /// The meaning of the wheel, up or down below zero.
    fn wheel(&self, by: i32) -> Ask<Self::Action>;

    /// Handles pasted text. Where nothing is typed it is a slip, and does nothing.
    fn paste(&mut self, _text: &str) -> Vec<Ask<Self::Action>> {
        Vec::new()
    }

    /// Performs one of its actions.
    fn act(&mut self, action: &Self::Action) -> Vec<Ask<Self::Action>>;

    /// Does what follows from the time that has passed.
    fn tick(&mut self) -> Vec<Ask<Self::Action>> {
        Vec::new()
    }

    /// Draws itself, and tells what can be clicked on.
    fn draw(
        &mut self,
        context: &ViewContext<'_>,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
        targets: &mut Targets<Self::Action>,
    );

    /// The keys that work in what is open; none where nothing is.
    fn hints(&self) -> Option<Hints> {
        None
    }

    /// The state as to keys: whether something is open or typed into.
    fn modality(&self) -> Modality {
        Modality::Free
    }

    /// True if letters and numbers are keys by their place now, as those of pads are.
    fn by_place(&self) -> bool {
        false
    }

    /// Ends what is open, as when another view is shown: nothing that is only tried or tested outlives it.
    fn leave(&mut self) -> Vec<Ask<Self::Action>> {
        Vec::new()
    }

    /// Ends what was begun on a show that is about to be another, as by undoing.
    fn before_undo(&mut self) -> Vec<Ask<Self::Action>> {
        Vec::new()
    }

    /// Says what the next control that is moved is to be bound to.
    fn learn(&mut self) -> Learn {
        Learn::Nothing("Ctrl-K learns what a pad, a tier, a look or a line of the palette (Ctrl-P) does")
    }

    /// Takes note of why a command was refused.
    fn refused(&mut self, _why: &str) {}

    /// The words that there are to say since it was last asked.
    fn said(&mut self) -> Option<String> {
        None
    }

    /// Says what it wants to be told while it is shown.
    fn subscribe(&self, subscription: &mut Subscription);

    /// Writes down what the next screen is to begin with.
    fn remember(&self, _memory: &mut Memory) {}

    /// Goes where another screen was.
    fn recall(&mut self, _memory: &Memory) {}
}
