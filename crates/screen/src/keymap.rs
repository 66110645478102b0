//! The keys that a person has chosen for what can be done, in the place of the usual ones.

use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use splimo_base::nearest::meant;
use splimo_document::Command;

use crate::frame::FrameAction;
use crate::keyboard::{Layout, is_pad, key_of, name_of};
use crate::ui_action::UiAction;
use crate::view::Ask;
use crate::views::{AnyAction, AnyAsk, Told, Usual, ViewId, together};

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

/// The request that a name stands for, on a view or anywhere: one that usually has a key, else any command or action.
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
    /// Chooses keys for something on a keyboard of a layout.
    fn choose(&mut self, layout: Layout, view: Option<&str>, what: &str, keys: &[String]) -> Result<(), BadKey> {
        let view = view.map(|name| ViewId::named(name).ok_or_else(|| no_view(name))).transpose()?;
        let ask = ask_of(view, what).ok_or_else(|| unknown(view, what))?;
        let mut chosen = Vec::new();
        for name in keys {
            let key = key_of(name).ok_or_else(|| BadKey::Key(name.clone()))?;
            // Keys come as those of a US keyboard: pads by their place, all others by what they stand for.
            let key = layout.translated(key, false, view == Some(ViewId::Play));
            if FIXED.contains(&(key.code, key.modifiers)) {
                return Err(BadKey::Fixed(name.clone()));
            }
            chosen.push((key.code, key.modifiers));
        }
        self.0.push(Chosen { view, what: what_of(&ask), keys: chosen, ask });
        Ok(())
    }

    /// The first conflict of what was chosen: a key that something else has at the same place, as it is on a keyboard of a layout, with the
    /// place of what was chosen in its order.
    #[must_use]
    pub fn conflict(&self, layout: Layout) -> Option<(usize, BadKey)> {
        self.0.iter().enumerate().find_map(|(place, chosen)| {
            let key = chosen
                .keys
                .iter()
                .find_map(|key| Some((*key, self.taken(place, *key).or_else(|| self.hidden(place, *key))?)));
            let told = |code, with| layout.words(&name_of(code, with).unwrap_or_default());
            key.map(|((code, with), by)| (place, BadKey::Taken(told(code, with), by)))
        })
    }

    /// The name of something else that has a key at the same place.
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

    /// The request, with its view, that hides a key chosen for all views: a view's own keys and its pads come first.
    fn hidden(&self, place: usize, (code, with): (KeyCode, KeyModifiers)) -> Option<String> {
        let own = &self.0[place];
        let usual = Usual::bound_at(own.view, code, with).is_some_and(|ask| what_of(&ask) == own.what);
        if usual {
            return None;
        }
        let is_pad = matches!(code, KeyCode::Char(letter) if is_pad(letter)) && with.is_empty();
        if is_pad && matches!(own.view, None | Some(ViewId::Play)) {
            return Some("a pad on play".to_owned());
        }
        let views = ViewId::ALL.iter().filter(|_| own.view.is_none());
        let mut taken = views.filter_map(|view| Some((view, what_of(&Usual::bound_at(Some(*view), code, with)?))));
        let found = taken.find(|(view, what)| *what != own.what && !self.is_moved(Some(**view), what));
        found.map(|(view, what)| format!("{what} on {}", view.spec().name))
    }

    /// True if other keys were chosen for something at a place.
    pub(crate) fn is_moved(&self, view: Option<ViewId>, what: &str) -> bool {
        self.0.iter().any(|chosen| chosen.view == view && chosen.what == what)
    }

    /// The request that a key was chosen for at a place.
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

    /// The requests that have keys at a place though they usually have none.
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

    /// Chooses keys for something, on a view or everywhere, in the place of its usual ones; no keys leave it without.
    ///
    /// # Errors
    /// [`BadKey`].
    pub fn choose(&mut self, view: Option<&str>, what: &str, keys: &[String]) -> Result<(), BadKey> {
        self.chosen.choose(self.layout, view, what, keys)
    }

    /// The request to black out or to panic that a key makes whatever is open. While something is typed, what may be part of it is not
    /// such a key, however it was chosen.
    pub(crate) fn always(&self, key: KeyEvent, typing: bool) -> Option<AnyAsk> {
        let held = key.modifiers & (KeyModifiers::CONTROL | KeyModifiers::ALT);
        let text = matches!(key.code, KeyCode::Char(letter) if letter != '`') && held.is_empty();
        if typing && (text || !held.is_empty()) {
            return None;
        }
        let usual = || Usual::bound_at(None, key.code, held).filter(|ask| !self.is_moved(None, ask));
        let asked = self.chosen.ask(None, key.code, held).or_else(usual);
        asked.filter(|ask| matches!(what_of(ask).as_str(), "blackout" | "panic"))
    }

    /// The part of the help that something belongs to on a view.
    pub(crate) fn place_of(&self, view: ViewId, ask: &AnyAsk) -> Place {
        let what = what_of(ask);
        let among = |all: &[Told]| all.iter().any(|told| what_of(&told.ask) == what);
        if among(&Usual::all(Some(view))) || self.chosen.is_moved(Some(view), &what) {
            Place::View
        } else if matches!(ask, Ask::GoTo(_)) {
            Place::Tabs
        } else if among(&Usual::live()) {
            Place::Lights
        } else {
            Place::Frame
        }
    }

    /// The first key for something that works on every view.
    pub(crate) fn key_for(&self, what: &str) -> Option<String> {
        let usual = || Usual::all(None).into_iter().find(|told| what_of(&told.ask) == what);
        let keys = self.chosen.keys_of(None, what).or_else(|| usual().map(|told| told.keys))?;
        let keys = self.layout.words(&keys);
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
        let mut all = view.each_key();
        let mut seen = Vec::new();
        for told in &mut all {
            let what = what_of(&told.ask);
            let chosen = self.chosen.keys_of(Some(view), &what).or_else(|| self.chosen.keys_of(None, &what));
            if let Some(chosen) = chosen {
                // All keys that were chosen for something stand where the first of its usual ones did.
                told.keys = if seen.contains(&what) { String::new() } else { chosen };
            }
            seen.push(what);
        }
        for place in [Some(view), None] {
            let added = self.chosen.added(place).map(|(ask, keys)| Told { keys, hint: "", ask: ask.clone() });
            all.extend(added);
        }
        all.retain(|told| !told.keys.is_empty());
        let mut all = together(all);
        all.iter_mut().for_each(|told| told.keys = self.layout.words(&told.keys));
        all
    }
}

fn no_view(name: &str) -> BadKey {
    let all: Vec<&str> = ViewId::ALL.iter().map(|view| view.spec().name).collect();
    BadKey::View(name.to_owned(), all.join(", "))
}

fn unknown(view: Option<ViewId>, what: &str) -> BadKey {
    let usual: Vec<String> = Usual::all(view).iter().map(|told| what_of(&told.ask)).collect();
    let commands = splimo_show::command::COMMANDS.iter().map(|info| info.name);
    let near = meant(what, usual.iter().map(String::as_str).chain(commands));
    BadKey::What(what.to_owned(), near)
}
