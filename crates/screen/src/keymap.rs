//! The keys that a person has chosen for what can be done, in the place of the usual ones.

use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use splimo_core::command::Command;
use splimo_core::nearest::meant;

use crate::frame::FrameAction;
use crate::keyboard::{Layout, key_of, name_of};
use crate::ui_action::UiAction;
use crate::view::Ask;
use crate::views::{AnyAction, AnyAsk, Told, Usual, ViewId};

/// Keys that stay what they are: the ways out.
const FIXED: [(KeyCode, KeyModifiers); 3] = [
    (KeyCode::Esc, KeyModifiers::NONE),
    (KeyCode::Char('c'), KeyModifiers::CONTROL),
    (KeyCode::Char('q'), KeyModifiers::CONTROL),
];

/// The reason why a key cannot be chosen.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum BadKey {
    /// Nothing that can be done is called so.
    #[error("nothing that can be done is called \"{0}\"{1}; `splimo config` lists all")]
    What(String, String),
    /// No key is called so.
    #[error("no key is called \"{0}\"; write one such as F5, x, Ctrl-N, Alt-1, Space or PgUp")]
    Key(String),
    /// The key stays what it is.
    #[error("{0} is a way out and stays one; take another key")]
    Fixed(String),
    /// Something else has the key.
    #[error("{0} is the key of \"{1}\" too; give one of them another key")]
    Taken(String, String),
    /// There is no such view.
    #[error("there is no view \"{0}\"; there are {1}")]
    View(String, String),
}

/// Something with the keys that were chosen for it, on one view or on all.
#[derive(Debug, Clone, PartialEq)]
struct Chosen {
    view: Option<ViewId>,
    what: String,
    keys: Vec<(KeyCode, KeyModifiers)>,
    ask: AnyAsk,
}

/// The keys that were chosen.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Keymap(Vec<Chosen>);

/// The keyboard in front of a person, with what they have chosen keys for.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Keys {
    /// The layout of the keyboard.
    pub layout: Layout,
    /// The keys that were chosen.
    pub chosen: Keymap,
}

/// The name of something that can be done, with what stands behind it.
pub(crate) fn what_of(ask: &AnyAsk) -> String {
    match ask {
        Ask::Command(command) => command.to_string(),
        Ask::Action(AnyAction::Frame(action)) => action.text(),
        Ask::Action(AnyAction::View(action)) => action.text(),
        Ask::GoTo(view) => format!("view {view}"),
        Ask::Palette(name) => (*name).to_owned(),
        Ask::Say(words) => words.clone(),
    }
}

/// What a name stands for on a view, or anywhere: what is usually bound to a key, else any command or action.
fn ask_of(view: Option<ViewId>, what: &str) -> Option<AnyAsk> {
    let usual = |ask: &AnyAsk| what_of(ask) == what;
    if let Some(found) = Usual::all(view).into_iter().map(|told| told.ask).find(usual) {
        return Some(found);
    }
    if let Ok(command) = what.parse::<Command>() {
        return Some(Ask::Command(command));
    }
    let (name, argument) = what.split_once(' ').unwrap_or((what, ""));
    let of_view = view.and_then(|view| view.action(name, argument)).map(Ask::Action);
    of_view.or_else(|| FrameAction::parse(name, argument).map(|action| Ask::Action(AnyAction::Frame(action))))
}

impl Keymap {
    /// Chooses keys for something, on a view or everywhere, in the place of its usual ones; no keys leave it without.
    ///
    /// # Errors
    /// [`BadKey`].
    pub fn choose(&mut self, view: Option<&str>, what: &str, keys: &[String]) -> Result<(), BadKey> {
        let view = view.map(|name| ViewId::named(name).ok_or_else(|| no_view(name))).transpose()?;
        let ask = ask_of(view, what).ok_or_else(|| unknown(view, what))?;
        let mut chosen = Vec::new();
        for name in keys {
            let key = key_of(name).ok_or_else(|| BadKey::Key(name.clone()))?;
            if FIXED.contains(&(key.code, key.modifiers)) {
                return Err(BadKey::Fixed(name.clone()));
            }
            chosen.push((key.code, key.modifiers));
        }
        self.0.push(Chosen { view, what: what.to_owned(), keys: chosen, ask });
        Ok(())
    }

    /// The first conflict of what was chosen: a key that something else has at the same place, with the place of what was chosen in its
    /// order.
    #[must_use]
    pub fn conflict(&self) -> Option<(usize, BadKey)> {
        self.0.iter().enumerate().find_map(|(place, chosen)| {
            let key = chosen.keys.iter().find_map(|key| Some((*key, self.taken(place, *key)?)));
            key.map(|((code, with), by)| (place, BadKey::Taken(name_of(code, with).unwrap_or_default(), by)))
        })
    }

    /// What else has a key of something at the same place.
    fn taken(&self, place: usize, key: (KeyCode, KeyModifiers)) -> Option<String> {
        let own = &self.0[place];
        let others = self.0.iter().take(place).filter(|other| other.view == own.view && other.keys.contains(&key));
        if let Some(other) = others.map(|other| other.what.clone()).find(|what| *what != own.what) {
            return Some(other);
        }
        let usual = Usual::bound_at(own.view, key.0, key.1)?;
        let what = what_of(&usual);
        let moved = self.is_moved(own.view, &what);
        (what != own.what && !moved).then_some(what)
    }

    /// True if other keys were chosen for something at a place.
    pub(crate) fn is_moved(&self, view: Option<ViewId>, what: &str) -> bool {
        self.0.iter().any(|chosen| chosen.view == view && chosen.what == what)
    }

    /// What a key was chosen for at a place.
    pub(crate) fn ask(&self, view: Option<ViewId>, code: KeyCode, with: KeyModifiers) -> Option<AnyAsk> {
        let chosen = self.0.iter().rev().find(|chosen| chosen.view == view && chosen.keys.contains(&(code, with)))?;
        Some(chosen.ask.clone())
    }

    /// The names of the keys that were chosen for something at a place; none where its usual ones stand.
    pub(crate) fn keys_of(&self, view: Option<ViewId>, what: &str) -> Option<String> {
        let chosen = self.0.iter().rev().find(|chosen| chosen.view == view && chosen.what == what)?;
        let names = chosen.keys.iter().filter_map(|(code, with)| name_of(*code, *with));
        Some(names.collect::<Vec<_>>().join(" "))
    }

    /// What has keys at a place beside what usually has some.
    pub(crate) fn added(&self, view: Option<ViewId>) -> impl Iterator<Item = (&AnyAsk, String)> {
        let here = self.0.iter().filter(move |chosen| chosen.view == view);
        let added = here.filter(move |chosen| Usual::all(view).iter().all(|told| what_of(&told.ask) != chosen.what));
        added.map(move |chosen| (&chosen.ask, self.keys_of(view, &chosen.what).unwrap_or_default()))
    }
}

/// A part of the help.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Place {
    /// On the view that is shown.
    View,
    /// On every view, for the lights.
    Lights,
    /// The views.
    Tabs,
    /// Everything else that works on every view.
    Frame,
}

impl Keys {
    /// The request of a key on a view.
    pub(crate) fn ask_of(&self, view: ViewId, key: KeyEvent) -> Option<AnyAsk> {
        let (code, held) = view.looked_up(key);
        let at = |place: Option<ViewId>| {
            let usual = || Usual::bound_at(place, code, held).filter(|ask| !self.is_moved(place, ask));
            self.chosen.ask(place, code, held).or_else(usual)
        };
        at(Some(view)).or_else(|| at(None))
    }

    fn is_moved(&self, place: Option<ViewId>, ask: &AnyAsk) -> bool {
        self.chosen.is_moved(place, &what_of(ask))
    }

    /// The request to black out or to panic that a key makes whatever is open.
    pub(crate) fn always(&self, key: KeyEvent) -> Option<AnyAsk> {
        let held = key.modifiers & (KeyModifiers::CONTROL | KeyModifiers::ALT);
        let usual = || Usual::bound_at(None, key.code, held).filter(|ask| !self.is_moved(None, ask));
        let asked = self.chosen.ask(None, key.code, held).or_else(usual);
        asked.filter(|ask| matches!(what_of(ask).as_str(), "blackout" | "panic"))
    }

    /// The part of the help that something belongs to on a view.
    pub(crate) fn place_of(&self, view: ViewId, ask: &AnyAsk) -> Place {
        let what = what_of(ask);
        let among = |all: &[Told]| all.iter().any(|told| what_of(&told.ask) == what);
        match ask {
            _ if among(&Usual::all(Some(view))) || self.chosen.is_moved(Some(view), &what) => Place::View,
            Ask::GoTo(_) => Place::Tabs,
            _ if among(&Usual::live()) => Place::Lights,
            _ => Place::Frame,
        }
    }

    /// The first key for something that works on every view.
    pub(crate) fn key_for(&self, what: &str) -> Option<String> {
        let usual = || Usual::all(None).into_iter().find(|told| what_of(&told.ask) == what);
        let keys = self.chosen.keys_of(None, what).or_else(|| usual().map(|told| self.layout.words(&told.keys)))?;
        keys.split(' ').next().filter(|key| !key.is_empty()).map(str::to_owned)
    }

    /// The names of keys that are no bindings, such as those of the pads, as they are on this keyboard.
    pub(crate) fn in_words(&self, names: &str) -> String {
        match names == Layout::Us.pads_in_words() {
            true => self.layout.pads_in_words(),
            false => self.layout.words(names),
        }
    }

    /// The keys that work on a view and what they ask for, as they are on this keyboard.
    pub(crate) fn told(&self, view: ViewId) -> Vec<Told> {
        let mut all = view.keys();
        for told in &mut all {
            let what = what_of(&told.ask);
            let chosen = self.chosen.keys_of(Some(view), &what).or_else(|| self.chosen.keys_of(None, &what));
            told.keys = chosen.unwrap_or_else(|| self.layout.words(&told.keys));
        }
        for place in [Some(view), None] {
            let added = self.chosen.added(place).map(|(ask, keys)| Told { keys, hint: "", ask: ask.clone() });
            all.extend(added);
        }
        all.retain(|told| !told.keys.is_empty());
        all
    }
}

fn no_view(name: &str) -> BadKey {
    let all: Vec<&str> = ViewId::ALL.iter().map(|view| view.spec().name).collect();
    BadKey::View(name.to_owned(), all.join(", "))
}

fn unknown(view: Option<ViewId>, what: &str) -> BadKey {
    let usual: Vec<String> = Usual::all(view).iter().map(|told| what_of(&told.ask)).collect();
    let commands = splimo_core::command::COMMANDS.iter().map(|info| info.name);
    let near = meant(what, usual.iter().map(String::as_str).chain(commands));
    BadKey::What(what.to_owned(), near)
}
