//! The state of the start screen: which line is chosen, and the questions before a new show.

use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::{Position, Rect};

use super::item::{Item, name_of};
use super::new_show::{Made, NewShow, Point};
use super::offer::{Choice, Offers};

/// The state of the screen.
pub(crate) struct StartScreen {
    offers: Offers,
    pub(super) at: usize,
    pub(super) first: usize,
    pub(super) form: Option<NewShow>,
    pub(super) rows: Vec<(Rect, usize)>,
    pub(super) said: Option<String>,
}

impl StartScreen {
    pub(crate) fn new(offers: Offers) -> Self {
        Self { offers, at: 0, first: 0, form: None, rows: Vec::new(), said: None }
    }

    /// Says something above the hints.
    pub(crate) fn say(&mut self, words: String) {
        self.said = Some(words);
    }

    /// Takes note of what there is by now. What is chosen stays chosen.
    pub(crate) fn take(&mut self, offers: Offers) {
        let chosen = self.items().get(self.at).cloned();
        self.offers = offers;
        let items = self.items();
        let place = chosen.and_then(|chosen| items.iter().position(|item| *item == chosen));
        self.at = place.unwrap_or(self.at).min(items.len() - 1);
    }

    pub(super) fn items(&self) -> Vec<Item> {
        let running = self.offers.running.iter().cloned().map(Item::Join);
        let recent = self.offers.recent.iter().cloned().map(Item::Open);
        let new = Point::ALL.iter().map(|point| Item::New(*point));
        running.chain(recent).chain(new).chain([Item::Demo, Item::Tutorial]).collect()
    }

    fn move_by(&mut self, by: i64) {
        let last = self.items().len() as i64 - 1;
        self.at = (self.at as i64 + by).clamp(0, last) as usize;
    }

    /// Handles a key; what was chosen, where anything was.
    pub(crate) fn key(&mut self, key: KeyEvent) -> Option<Choice> {
        self.said = None;
        let control = key.modifiers.contains(KeyModifiers::CONTROL);
        if control && matches!(key.code, KeyCode::Char('c' | 'q')) {
            return Some(Choice::Leave);
        }
        if let Some(form) = &mut self.form {
            match form.key(key, &self.offers.folder) {
                Made::Not => {}
                Made::Back => self.form = None,
                Made::Show(path, show) => return Some(Choice::New(path, show)),
            }
            return None;
        }
        match key.code {
            KeyCode::Up => self.move_by(-1),
            KeyCode::Down | KeyCode::Tab => self.move_by(1),
            KeyCode::Home => self.at = 0,
            KeyCode::End => self.move_by(i64::MAX / 2),
            KeyCode::PageUp => self.move_by(-8),
            KeyCode::PageDown => self.move_by(8),
            KeyCode::Enter => return self.choose(),
            KeyCode::Esc | KeyCode::Char('q') => return Some(Choice::Leave),
            KeyCode::Char(letter) => self.go_to(letter),
            _ => {}
        }
        None
    }

    /// Goes on to the next line that begins with a letter.
    fn go_to(&mut self, letter: char) {
        let items = self.items();
        let begins = |item: &Item| name_of(item).to_lowercase().starts_with(letter.to_ascii_lowercase());
        let next = (1..=items.len()).map(|step| (self.at + step) % items.len()).find(|place| begins(&items[*place]));
        self.at = next.unwrap_or(self.at);
    }

    fn choose(&mut self) -> Option<Choice> {
        match self.items().get(self.at)?.clone() {
            Item::Join(running) => Some(Choice::Join(running.name)),
            Item::Open(recent) => Some(Choice::Open(recent.path)),
            Item::Demo => Some(Choice::Demo),
            Item::Tutorial => Some(Choice::Tutorial),
            Item::New(point) => {
                self.form = Some(NewShow::of(point, &self.offers.folder));
                None
            }
        }
    }

    /// Handles pasted text.
    pub(crate) fn paste(&mut self, text: &str) {
        if let Some(form) = &mut self.form {
            form.paste(text, &self.offers.folder);
        }
    }

    /// Handles a click: the first chooses a line, a second on the same takes it.
    pub(crate) fn click(&mut self, at: Position) -> Option<Choice> {
        if let Some(form) = &mut self.form {
            form.click(at);
            return None;
        }
        let place = self.rows.iter().find(|(row, _)| row.contains(at)).map(|(_, place)| *place)?;
        if std::mem::replace(&mut self.at, place) == place { self.choose() } else { None }
    }
}
