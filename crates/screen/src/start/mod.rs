//! The start screen: what runs, what was open before, and what can be begun. It belongs to no session, and asks for nothing of one.

mod drawing;
mod new_show;
#[cfg(test)]
mod tests;

use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::time::Duration;

use crossbeam_channel::RecvTimeoutError;
use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{Event, KeyCode, KeyEvent, KeyEventKind, KeyModifiers, MouseButton, MouseEventKind};
use ratatui::crossterm::terminal::size;
use ratatui::layout::{Position, Rect};
use splimo_core::show::Show;

use crate::config::Config;
use crate::encoder::Encoder;
use crate::events::{read_events, terminal_is_gone};
use crate::terminal::{Taken, set_title};
use new_show::{Made, NewShow, Point};

/// The time after which it is looked anew at what runs.
const ANEW: Duration = Duration::from_secs(1);

/// A session that runs.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Running {
    /// Its name.
    pub name: String,
    /// The file of its show; empty where it has none.
    pub show: String,
    /// The screens that are attached to it.
    pub screens: u32,
}

/// A show that was open before.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Recent {
    /// Its file.
    pub path: PathBuf,
    /// When it was saved last, in words.
    pub saved: String,
}

/// What there is to choose from.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Offers {
    /// The sessions that run on this machine.
    pub running: Vec<Running>,
    /// The shows that were open before, the last one first.
    pub recent: Vec<Recent>,
    /// The folder in which new shows are made.
    pub folder: PathBuf,
}

/// What was chosen.
#[derive(Debug, Clone, PartialEq)]
pub enum Choice {
    /// A session that runs.
    Join(String),
    /// A show that there is.
    Open(PathBuf),
    /// A new show, and its file, which is not there yet.
    New(PathBuf, Box<Show>),
    /// The demo.
    Demo,
    /// The tutorial.
    Tutorial,
    /// Nothing: the person left.
    Leave,
}

/// A line that can be chosen.
#[derive(Debug, Clone, PartialEq, Eq)]
enum Item {
    Join(Running),
    Open(Recent),
    New(Point),
    Demo,
    Tutorial,
}

/// The state of the screen.
pub(crate) struct StartScreen {
    offers: Offers,
    at: usize,
    first: usize,
    form: Option<NewShow>,
    rows: Vec<(Rect, usize)>,
    said: Option<String>,
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

    fn items(&self) -> Vec<Item> {
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
        let begins = |item: &Item| drawing::name_of(item).to_lowercase().starts_with(letter.to_ascii_lowercase());
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

/// Shows the start screen until something is chosen. `told` is said at first, such as why what was chosen before cannot be.
///
/// # Errors
/// If the terminal cannot be used.
pub fn run(look: impl Fn() -> Offers, told: Option<String>, config: &Config, log: &Path) -> io::Result<Choice> {
    let _taken = Taken::take(Some(log))?;
    let mut screen = StartScreen::new(look());
    if let Some(told) = told {
        screen.say(told);
    }
    let mut encoder = Encoder::new(config.ascii);
    let theme = config.theme();
    let events = read_events()?;
    io::stdout().write_all(&set_title("Splimo"))?;
    loop {
        let (width, height) = size()?;
        let area = Rect::new(0, 0, width, height);
        let mut buffer = Buffer::empty(area);
        screen.draw(theme, area, &mut buffer);
        let mut stdout = io::stdout().lock();
        stdout.write_all(encoder.encode(&buffer, false))?;
        stdout.flush()?;
        drop(stdout);
        if terminal_is_gone() {
            return Err(io::Error::other("it hung up"));
        }
        let event = match events.recv_timeout(ANEW) {
            Ok(event) => event,
            Err(RecvTimeoutError::Timeout) => {
                screen.take(look());
                continue;
            }
            Err(RecvTimeoutError::Disconnected) => return Err(io::Error::other("nothing can be read from it")),
        };
        let chosen = match event {
            Event::Key(key) if key.kind != KeyEventKind::Release => screen.key(key),
            Event::Paste(text) => {
                screen.paste(&text);
                None
            }
            Event::Mouse(mouse) => match mouse.kind {
                MouseEventKind::Down(MouseButton::Left) => screen.click(Position::new(mouse.column, mouse.row)),
                MouseEventKind::ScrollUp => screen.key(KeyCode::Up.into()),
                MouseEventKind::ScrollDown => screen.key(KeyCode::Down.into()),
                _ => None,
            },
            Event::Resize(..) => {
                encoder.forget();
                None
            }
            Event::Key(_) | Event::FocusGained | Event::FocusLost => None,
        };
        if let Some(chosen) = chosen {
            return Ok(chosen);
        }
    }
}
