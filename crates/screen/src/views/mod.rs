//! The views that there are: one line each, and its module. Everything that the frame has to know of them follows from that.

pub(crate) mod cues;
pub(crate) mod inputs;
pub(crate) mod looks;
pub(crate) mod output;
pub(crate) mod play;
pub(crate) mod rig;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseEvent};
use ratatui::layout::Rect;
use splimo_link::subscription::Subscription;

use crate::frame::{self, FrameAction};
use crate::kit::theme::Theme;
use crate::model::{Model, ViewContext};
use crate::ui_action::{ActionInfo, UiAction};
use crate::view::{Ask, Handled, Hints, KeyBinding, Learn, Memory, Modality, Targets, View, ViewSpec};

/// An action of the frame, or of a view.
#[derive(Debug, Clone, PartialEq)]
pub(crate) enum AnyAction {
    /// Of the frame.
    Frame(FrameAction),
    /// Of a view.
    View(ViewAction),
}

/// A request of the frame or a view.
pub(crate) type AnyAsk = Ask<AnyAction>;

macro_rules! views {
    ($($name:ident $field:ident: $view:ty;)*) => {
        /// A view.
        #[derive(Debug, Clone, Copy, PartialEq, Eq)]
        pub(crate) enum ViewId {
            $(#[doc = stringify!($name)] $name,)*
        }

        /// An action of a view.
        #[derive(Debug, Clone, PartialEq)]
        pub(crate) enum ViewAction {
            $(#[doc = stringify!($name)] $name(<$view as View>::Action),)*
        }

        /// The views with their states.
        #[derive(Default)]
        pub(crate) struct Views {
            $($field: $view,)*
        }

        impl ViewId {
            /// Every view, in the order of the tabs.
            pub(crate) const ALL: &'static [Self] = &[$(Self::$name),*];

            /// Its specification: name, keys and help.
            pub(crate) fn spec(self) -> &'static ViewSpec {
                match self { $(Self::$name => &<$view as View>::SPEC,)* }
            }

            /// Its own actions.
            pub(crate) fn actions(self) -> &'static [ActionInfo] {
                match self { $(Self::$name => <<$view as View>::Action as UiAction>::ALL,)* }
            }

            /// The action of a name and an argument; none where they are no action of its own.
            pub(crate) fn action(self, name: &str, argument: &str) -> Option<AnyAction> {
                match self {
                    $(Self::$name => {
                        let action = <<$view as View>::Action as UiAction>::parse(name, argument)?;
                        Some(AnyAction::View(ViewAction::$name(action)))
                    })*
                }
            }

            /// The request that is bound to a key on it alone.
            fn bound(self, code: KeyCode, with: KeyModifiers) -> Option<AnyAsk> {
                match self {
                    $(Self::$name => {
                        let ask = find(<$view as View>::KEYS, code, with)?;
                        Some(ask.map(|action| AnyAction::View(ViewAction::$name(action))))
                    })*
                }
            }

            /// Its bindings, but for the keys that nobody needs to be told of.
            fn told(self) -> Vec<Told> {
                match self {
                    $(Self::$name => {
                        let of = |action| AnyAction::View(ViewAction::$name(action));
                        told(<$view as View>::KEYS, of)
                    })*
                }
            }
        }

        impl ViewAction {
            /// The view that owns it.
            pub(crate) fn owner(&self) -> ViewId {
                match self { $(Self::$name(_) => ViewId::$name,)* }
            }

            /// Its name.
            pub(crate) fn name(&self) -> &'static str {
                match self { $(Self::$name(action) => action.name(),)* }
            }

            /// Its name, and its argument behind it.
            pub(crate) fn text(&self) -> String {
                match self { $(Self::$name(action) => action.text(),)* }
            }
        }

        impl Views {
            /// Has every view take note of the model.
            pub(crate) fn sync(&mut self, model: &Model) {
                $(self.$field.sync(model);)*
            }

            /// Performs an action.
            pub(crate) fn act(&mut self, action: &ViewAction) -> Vec<AnyAsk> {
                match action { $(ViewAction::$name(action) => views!(@asks $name self.$field.act(action)),)* }
            }

            /// Handles a key before the bindings are looked up.
            pub(crate) fn key(&mut self, view: ViewId, key: KeyEvent) -> Handled<AnyAction> {
                match view {
                    $(ViewId::$name => match self.$field.key(key) {
                        Handled::Not => Handled::Not,
                        Handled::Done(asks) => Handled::Done(views!(@asks $name asks)),
                        Handled::First(asks) => Handled::First(views!(@asks $name asks)),
                    },)*
                }
            }

            /// Has every view take note of a key that was let go: it may have been pressed on another than the one that is shown.
            pub(crate) fn released(&mut self, key: KeyEvent) -> Vec<AnyAsk> {
                let mut asks = Vec::new();
                $(asks.extend(views!(@asks $name self.$field.released(key)));)*
                asks
            }

            /// Has every view let go what keys hold.
            pub(crate) fn let_all_go(&mut self) -> Vec<AnyAsk> {
                let mut asks = Vec::new();
                $(asks.extend(views!(@asks $name self.$field.let_all_go()));)*
                asks
            }

            /// Handles the mouse; none where it is not the view's own business.
            pub(crate) fn mouse(&mut self, view: ViewId, mouse: MouseEvent) -> Option<Vec<AnyAsk>> {
                match view { $(ViewId::$name => Some(views!(@asks $name self.$field.mouse(mouse)?)),)* }
            }

            /// The meaning of the wheel on a view.
            pub(crate) fn wheel(&self, view: ViewId, by: i32) -> AnyAsk {
                match view { $(ViewId::$name => views!(@ask $name self.$field.wheel(by)),)* }
            }

            /// Handles pasted text.
            pub(crate) fn paste(&mut self, view: ViewId, text: &str) -> Vec<AnyAsk> {
                match view { $(ViewId::$name => views!(@asks $name self.$field.paste(text)),)* }
            }

            /// The requests that follow from the time that has passed, on every view.
            pub(crate) fn tick(&mut self) -> Vec<AnyAsk> {
                let mut asks = Vec::new();
                $(asks.extend(views!(@asks $name self.$field.tick()));)*
                asks
            }

            /// Draws a view, and tells what can be clicked on.
            pub(crate) fn draw(
                &mut self,
                view: ViewId,
                context: &ViewContext<'_>,
                theme: Theme,
                area: Rect,
                buffer: &mut Buffer,
                targets: &mut Targets<AnyAction>,
            ) {
                match view {
                    $(ViewId::$name => {
                        let mut own = Vec::new();
                        self.$field.draw(context, theme, area, buffer, &mut own);
                        targets.extend(own.into_iter().map(|(area, ask)| (area, views!(@ask $name ask))));
                    })*
                }
            }

            /// The keys that work in what is open on a view.
            pub(crate) fn hints(&self, view: ViewId) -> Option<Hints> {
                match view { $(ViewId::$name => self.$field.hints(),)* }
            }

            /// The state of a view as to keys.
            pub(crate) fn modality(&self, view: ViewId) -> Modality {
                match view { $(ViewId::$name => self.$field.modality(),)* }
            }

            /// True if letters and numbers are keys by their place on a view.
            pub(crate) fn by_place(&self, view: ViewId) -> bool {
                match view { $(ViewId::$name => self.$field.by_place(),)* }
            }

            /// Ends what is open on a view.
            pub(crate) fn leave(&mut self, view: ViewId) -> Vec<AnyAsk> {
                match view { $(ViewId::$name => views!(@asks $name self.$field.leave()),)* }
            }

            /// Ends what was begun on a view on a show that is about to be another.
            pub(crate) fn before_undo(&mut self, view: ViewId) -> Vec<AnyAsk> {
                match view { $(ViewId::$name => views!(@asks $name self.$field.before_undo()),)* }
            }

            /// The target that the next moved control is to be bound to.
            pub(crate) fn learn(&mut self, view: ViewId) -> Learn {
                match view { $(ViewId::$name => self.$field.learn(),)* }
            }

            /// Has a view take note of why a command was refused.
            pub(crate) fn refused(&mut self, view: ViewId, why: &str) {
                match view { $(ViewId::$name => self.$field.refused(why),)* }
            }

            /// The words that there are to say since it was last asked.
            pub(crate) fn said(&mut self) -> Option<String> {
                let mut said = None;
                $(said = self.$field.said().or(said);)*
                said
            }

            /// Adds the subscription of the view that is shown.
            pub(crate) fn subscribe(&self, view: ViewId, subscription: &mut Subscription) {
                match view { $(ViewId::$name => self.$field.subscribe(subscription),)* }
            }

            /// Writes down what the next screen is to begin with.
            pub(crate) fn remember(&self, memory: &mut Memory) {
                $(self.$field.remember(memory);)*
            }

            /// Goes where another screen was.
            pub(crate) fn recall(&mut self, memory: &Memory) {
                $(self.$field.recall(memory);)*
            }
        }
    };
    (@ask $name:ident $ask:expr) => { $ask.map(|action| AnyAction::View(ViewAction::$name(action))) };
    (@asks $name:ident $asks:expr) => {
        $asks.into_iter().map(|ask| views!(@ask $name ask)).collect::<Vec<AnyAsk>>()
    };
}

views! {
    Rig rig: rig::RigView;
    Output output: output::OutputView;
    Looks looks: looks::LooksView;
    Cues cues: cues::CuesView;
    Play play: play::PlayView;
    Inputs inputs: inputs::InputsView;
}

impl Views {
    /// The cue list that keys of every view go on in: the one that is chosen on the view Cues.
    pub(crate) fn cue_list(&self) -> Option<&splimo_show::CueList> {
        self.cues.list()
    }
}

/// The view on which one begins where lights hang.
pub(crate) const FIRST: ViewId = ViewId::Play;

/// A binding as it is told.
pub(crate) struct Told {
    /// The names of the keys.
    pub(crate) keys: String,
    /// The hint, in a word or two; empty where the hint line leaves them out.
    pub(crate) hint: &'static str,
    /// The request.
    pub(crate) ask: AnyAsk,
}

fn find<A>(keys: &[KeyBinding<A>], code: KeyCode, with: KeyModifiers) -> Option<Ask<A>> {
    keys.iter().find(|binding| binding.code == code && binding.with == with).map(|binding| (binding.ask)())
}

fn told<A>(keys: &[KeyBinding<A>], of: impl Fn(A) -> AnyAction) -> Vec<Told> {
    let named = keys.iter().filter(|binding| !binding.key.is_empty());
    named.map(|b| Told { keys: b.key.to_owned(), hint: b.hint, ask: (b.ask)().map(&of) }).collect()
}

impl ViewId {
    /// The view of a name.
    pub(crate) fn named(name: &str) -> Option<Self> {
        Self::ALL.iter().copied().find(|view| view.spec().name == name)
    }

    /// The request of a key on it where nobody has chosen other keys.
    #[cfg(test)]
    pub(crate) fn ask_of(self, key: KeyEvent) -> Option<AnyAsk> {
        let (code, held) = self.looked_up(key);
        Usual::bound_at(Some(self), code, held).or_else(|| Usual::bound_at(None, code, held))
    }

    /// A key as it is looked up on it.
    pub(crate) fn looked_up(self, key: KeyEvent) -> (KeyCode, KeyModifiers) {
        // Of a letter Shift makes another letter; of an arrow it makes another key.
        let arrows = self.spec().shift_arrows && !matches!(key.code, KeyCode::Char(_) | KeyCode::BackTab);
        let shift = if arrows { KeyModifiers::SHIFT } else { KeyModifiers::NONE };
        let held = key.modifiers & (KeyModifiers::CONTROL | KeyModifiers::ALT | shift);
        (lower(key.code, held), held)
    }

    /// The keys that work on it and what they ask for, those that do the same together.
    #[cfg(test)]
    pub(crate) fn keys(self) -> Vec<Told> {
        together(self.each_key())
    }

    /// Every binding that works on it by itself, those for the lights first.
    pub(crate) fn each_key(self) -> Vec<Told> {
        let frame = told(frame::KEYS, AnyAction::Frame);
        let tabs = Self::ALL.iter().map(|view| tab(*view));
        Usual::live().into_iter().chain(self.told()).chain(frame).chain(tabs).collect()
    }
}

/// Bindings with those that do the same together.
pub(crate) fn together(each: Vec<Told>) -> Vec<Told> {
    let mut all: Vec<Told> = Vec::new();
    for told in each {
        match all.iter_mut().find(|known| does_the_same(&known.ask, &told.ask)) {
            Some(known) => {
                known.keys = format!("{} {}", known.keys, told.keys);
                known.hint = if known.hint.is_empty() { told.hint } else { known.hint };
            }
            None => all.push(told),
        }
    }
    all
}

/// The bindings as they are where a person has chosen no others.
pub(crate) struct Usual;

impl Usual {
    /// The bindings of a view alone, or of all views.
    pub(crate) fn all(view: Option<ViewId>) -> Vec<Told> {
        if let Some(view) = view {
            return view.told();
        }
        let mut all = Self::live();
        all.extend(told(frame::KEYS, AnyAction::Frame));
        all.extend(ViewId::ALL.iter().map(|view| tab(*view)));
        all
    }

    /// The bindings for the lights, which work on all views.
    pub(crate) fn live() -> Vec<Told> {
        told(frame::LIVE, AnyAction::Frame)
    }

    /// The request that is bound to a key on a view alone, or on all views.
    pub(crate) fn bound_at(view: Option<ViewId>, code: KeyCode, with: KeyModifiers) -> Option<AnyAsk> {
        if let Some(view) = view {
            return view.bound(code, with);
        }
        let own = find(frame::LIVE, code, with).or_else(|| find(frame::KEYS, code, with));
        let tab = || tab_of(code, with).map(|view| Ask::GoTo(view.spec().name));
        own.map(|ask| ask.map(AnyAction::Frame)).or_else(tab)
    }
}

/// The keys that show a view.
fn tab(view: ViewId) -> Told {
    let spec = view.spec();
    Told { keys: format!("F{} Alt-{}", spec.function_key, spec.digit), hint: "", ask: Ask::GoTo(spec.name) }
}

/// True if two bindings belong together, as both that move the master do.
fn does_the_same(a: &AnyAsk, b: &AnyAsk) -> bool {
    use splimo_document::{Command, DocumentCommand};
    match (a, b) {
        (
            Ask::Command(Command::Document(DocumentCommand::Nudge(a))),
            Ask::Command(Command::Document(DocumentCommand::Nudge(b))),
        ) => a.name == b.name,
        (Ask::Command(a), Ask::Command(b)) => a.name() == b.name(),
        (Ask::Action(AnyAction::Frame(a)), Ask::Action(AnyAction::Frame(b))) => a.name() == b.name(),
        (Ask::Action(AnyAction::View(a)), Ask::Action(AnyAction::View(b))) => a.name() == b.name(),
        (a, b) => a == b,
    }
}

/// The view that a key shows.
fn tab_of(code: KeyCode, with: KeyModifiers) -> Option<ViewId> {
    let shows = |view: &&ViewId| match code {
        KeyCode::F(number) => with.is_empty() && number == view.spec().function_key,
        KeyCode::Char(digit) => with == KeyModifiers::ALT && digit == view.spec().digit,
        _ => false,
    };
    ViewId::ALL.iter().find(shows).copied()
}

/// Control codes come in either case, depending on the terminal.
fn lower(code: KeyCode, held: KeyModifiers) -> KeyCode {
    match code {
        KeyCode::Char(letter) if !held.is_empty() => KeyCode::Char(letter.to_ascii_lowercase()),
        other => other,
    }
}

/// The keys that were pressed, one after the other. A terminal sends Alt and a key as it sends Escape and then the key,
/// and who is quick, or whose machine is slow, has pressed the two: so it is taken, but for what Alt is bound to, for digits,
/// which with Alt mean views, and for Backspace, before which nobody backs out.
pub(crate) fn pressed(key: KeyEvent, is_bound: impl Fn(KeyEvent) -> bool) -> impl Iterator<Item = KeyEvent> {
    let of_one_code = match key.code {
        KeyCode::Char(letter) => !letter.is_ascii_digit(),
        code => matches!(code, KeyCode::Enter | KeyCode::Tab),
    };
    let two = key.modifiers.contains(KeyModifiers::ALT) && of_one_code && !is_bound(key);
    let escape = two.then(|| KeyEvent::from(KeyCode::Esc));
    let modifiers = if two { key.modifiers - KeyModifiers::ALT } else { key.modifiers };
    escape.into_iter().chain([KeyEvent { modifiers, ..key }])
}

#[cfg(test)]
mod tests {
    use splimo_document::Command;
    use splimo_show::command::EngineCommand;

    use super::*;

    const ALT: KeyModifiers = KeyModifiers::ALT;
    const CTRL: KeyModifiers = KeyModifiers::CONTROL;

    fn press(view: ViewId, code: KeyCode, modifiers: KeyModifiers) -> Option<AnyAsk> {
        view.ask_of(KeyEvent::new(code, modifiers))
    }

    #[test]
    fn tap_land_and_blackout_are_one_key_on_every_view() {
        let engine = |command: EngineCommand| Some(Ask::Command(Command::from(command)));
        for &view in ViewId::ALL {
            assert_eq!(press(view, KeyCode::Char(' '), KeyModifiers::NONE), engine(EngineCommand::Tap));
            assert_eq!(press(view, KeyCode::Enter, KeyModifiers::NONE), engine(EngineCommand::Go));
            assert_eq!(press(view, KeyCode::Char('`'), KeyModifiers::NONE), engine(EngineCommand::Blackout));
        }
    }

    #[test]
    fn every_view_is_shown_by_its_keys_on_every_view() {
        for &view in ViewId::ALL {
            for shown in ViewId::ALL {
                let spec = shown.spec();
                let wanted = Some(Ask::GoTo(spec.name));
                assert_eq!(press(view, KeyCode::F(spec.function_key), KeyModifiers::NONE), wanted);
                assert_eq!(press(view, KeyCode::Char(spec.digit), ALT), wanted);
                assert_eq!(ViewId::named(spec.name), Some(*shown));
            }
        }
        assert_eq!(press(ViewId::Output, KeyCode::Char('q'), KeyModifiers::NONE), None);
    }

    #[test]
    fn escape_and_a_key_in_one_breath_are_two_keys() {
        let (escape, p) = (KeyEvent::from(KeyCode::Esc), KeyEvent::from(KeyCode::Char('p')));
        let all = |code, held| {
            pressed(KeyEvent::new(code, held), |key| ViewId::Output.ask_of(key).is_some()).collect::<Vec<_>>()
        };
        assert_eq!(all(KeyCode::Char('p'), ALT), [escape, p]);
        assert_eq!(all(KeyCode::Char('s'), ALT | CTRL), [escape, KeyEvent::new(KeyCode::Char('s'), CTRL)]);
        assert_eq!(all(KeyCode::Enter, ALT), [escape, KeyCode::Enter.into()]);
        assert_eq!(all(KeyCode::Char('p'), KeyModifiers::NONE), [p]);
        // Views, bound or not, stay what they are, and so does what a terminal has a code of its own for.
        for code in [KeyCode::Char('6'), KeyCode::Char('4'), KeyCode::Left, KeyCode::Backspace] {
            assert_eq!(all(code, ALT), [KeyEvent::new(code, ALT)]);
        }
    }

    #[test]
    fn no_two_bindings_share_a_key_in_one_place() {
        fn keys<A>(keys: &[KeyBinding<A>]) -> Vec<(KeyCode, KeyModifiers)> {
            keys.iter().map(|binding| (binding.code, binding.with)).collect()
        }
        let frame = [keys(frame::LIVE), keys(frame::KEYS)].concat();
        let views = [
            keys(rig::RigView::KEYS),
            keys(output::OutputView::KEYS),
            keys(looks::LooksView::KEYS),
            keys(cues::CuesView::KEYS),
            keys(play::PlayView::KEYS),
            keys(inputs::InputsView::KEYS),
        ];
        assert_eq!(views.len(), ViewId::ALL.len());
        for own in views {
            let all: Vec<_> = frame.iter().chain(&own).collect();
            for (place, key) in all.iter().enumerate() {
                assert!(!all[..place].contains(key), "{key:?} is bound twice");
                assert!(tab_of(key.0, key.1).is_none(), "{key:?} shows a view");
            }
        }
    }

    #[test]
    fn names_are_unique_within_a_view_and_every_action_says_what_it_does() {
        for actions in ViewId::ALL.iter().map(|view| view.actions()).chain([FrameAction::ALL]) {
            for (place, info) in actions.iter().enumerate() {
                assert!(actions[..place].iter().all(|other| other.name != info.name), "{}", info.name);
                assert!(splimo_show::command::info(info.name).is_none(), "{} is a command too", info.name);
                assert!(info.help().starts_with(char::is_uppercase) && !info.help().ends_with('.'), "{}", info.name);
                assert!(!info.help().contains("(1)") && !info.help().contains("(-1)"), "{}", info.name);
            }
        }
    }
}
