//! A column of fields that are edited in place: arrows nudge, Shift makes it coarse, typing replaces. A text has a cursor.

use std::borrow::Cow;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::Rect;

use super::pen::Pen;
use super::text_field::{TextField, Typed};
use super::theme::Theme;
use super::words::{columns, cut_at_a_word, folded, shortened};

/// The value of a field.
#[derive(Debug, Clone, PartialEq)]
pub(crate) enum Value {
    /// A number with its range and the step of an arrow; Shift makes ten of it.
    Number { value: f64, from: f64, to: f64, step: f64 },
    /// Any text.
    Text(String),
    /// One of a few words.
    Choice { words: Vec<String>, at: usize },
    /// Yes or no.
    Flag(bool),
}

/// One field.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Field {
    /// The name by which it is asked for.
    pub(crate) id: &'static str,
    /// Its name.
    pub(crate) label: Cow<'static, str>,
    pub(crate) value: Value,
    /// The hint that stands behind it.
    pub(crate) hint: String,
    /// True if it applies at the moment.
    pub(crate) shown: bool,
    /// True if a person has changed it.
    pub(crate) touched: bool,
    /// True if what it stands for differs from each other, as long as it is not touched.
    pub(crate) mixed: bool,
}

impl Field {
    fn new(id: &'static str, label: impl Into<Cow<'static, str>>, value: Value) -> Self {
        Self { id, label: label.into(), value, hint: String::new(), shown: true, touched: false, mixed: false }
    }

    pub(crate) fn number(id: &'static str, label: &'static str, value: f64, from: f64, to: f64, step: f64) -> Self {
        Self::new(id, label, Value::Number { value, from, to, step })
    }

    pub(crate) fn text(id: &'static str, label: impl Into<Cow<'static, str>>, text: impl Into<String>) -> Self {
        Self::new(id, label, Value::Text(text.into()))
    }

    pub(crate) fn flag(id: &'static str, label: &'static str, on: bool) -> Self {
        Self::new(id, label, Value::Flag(on))
    }

    pub(crate) fn choice<S: Into<String>>(
        id: &'static str,
        label: &'static str,
        words: impl IntoIterator<Item = S>,
        chosen: &str,
    ) -> Self {
        let words: Vec<String> = words.into_iter().map(Into::into).collect();
        let at = words.iter().position(|word| word == chosen).unwrap_or(0);
        Self::new(id, label, Value::Choice { words, at })
    }

    fn shown_value(&self) -> String {
        match &self.value {
            _ if self.mixed && !self.touched => "various".to_owned(),
            Value::Number { value, .. } => plain(*value),
            Value::Text(text) => text.clone(),
            Value::Choice { words, at } => words.get(*at).cloned().unwrap_or_default(),
            Value::Flag(on) => if *on { "yes" } else { "no" }.to_owned(),
        }
    }
}

/// A number with as many digits as it needs, four behind the point at the most.
fn plain(value: f64) -> String {
    let text = format!("{value:.4}");
    let text = text.trim_end_matches('0').trim_end_matches('.');
    if text == "-0" { "0".to_owned() } else { text.to_owned() }
}

/// The effect of a key on a form.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Reply {
    /// A value is another.
    Changed,
    /// Nothing that matters outside.
    Quiet,
    /// The person wants to keep what stands there.
    Keep,
    /// The person wants to have it as it was.
    Restore,
    /// The key means nothing here.
    Pass,
}

/// Some fields, one of which is edited.
#[derive(Debug, Clone, PartialEq, Default)]
pub(crate) struct Form {
    pub(crate) fields: Vec<Field>,
    at: usize,
    /// The text of the field with its cursor, or what was typed over its number or word, since it was entered.
    typed: Option<TextField>,
    /// The value that the field had before anything was typed into it.
    before: Option<Value>,
    /// True if what was typed into the field cannot be: it is not kept until it is mended or left.
    wrong: bool,
    /// The reason why what stands there cannot be.
    pub(crate) error: Option<String>,
    first: usize,
    rows: Vec<(Rect, usize)>,
}

impl Form {
    pub(crate) fn new(fields: Vec<Field>) -> Self {
        Self { fields, ..Self::default() }
    }

    fn field(&self, id: &str) -> Option<&Field> {
        self.fields.iter().find(|field| field.id == id)
    }

    pub(crate) fn field_mut(&mut self, id: &str) -> Option<&mut Field> {
        self.fields.iter_mut().find(|field| field.id == id)
    }

    pub(crate) fn show(&mut self, id: &str, shown: bool) {
        if let Some(field) = self.field_mut(id) {
            field.shown = shown;
        }
    }

    pub(crate) fn hint(&mut self, id: &str, hint: String) {
        if let Some(field) = self.field_mut(id) {
            field.hint = hint;
        }
    }

    /// Puts a text into a field.
    pub(crate) fn set_text(&mut self, id: &str, text: String) {
        if let Some(field) = self.field_mut(id) {
            field.value = Value::Text(text);
        }
        if self.current() == id {
            self.typed = None;
        }
    }

    pub(crate) fn touched(&self, id: &str) -> bool {
        self.field(id).is_some_and(|field| field.touched)
    }

    pub(crate) fn number(&self, id: &str) -> f64 {
        match self.field(id).map(|f| &f.value) {
            Some(Value::Number { value, .. }) => *value,
            _ => 0.0,
        }
    }

    pub(crate) fn whole(&self, id: &str) -> u32 {
        self.number(id).round().clamp(0.0, f64::from(u32::MAX)) as u32
    }

    /// The text of a field, or the word that is chosen.
    pub(crate) fn text(&self, id: &str) -> String {
        match self.field(id).map(|f| &f.value) {
            Some(Value::Text(text)) => text.trim().to_owned(),
            Some(Value::Choice { words, at }) => words.get(*at).cloned().unwrap_or_default(),
            _ => String::new(),
        }
    }

    pub(crate) fn flag(&self, id: &str) -> bool {
        matches!(self.field(id).map(|f| &f.value), Some(Value::Flag(true)))
    }

    /// The id of the field that is edited.
    pub(crate) fn current(&self) -> &'static str {
        self.fields.get(self.at).map_or("", |field| field.id)
    }

    /// Goes to a field.
    pub(crate) fn go_to(&mut self, id: &str) {
        self.at = self.fields.iter().position(|field| field.id == id).unwrap_or(self.at);
        self.end_typing();
    }

    fn move_by(&mut self, by: i32) {
        self.end_typing();
        let mut at = self.at as i32;
        loop {
            at += by;
            match self.fields.get(usize::try_from(at).unwrap_or(usize::MAX)) {
                None => return,
                Some(field) if field.shown => break,
                Some(_) => {}
            }
        }
        self.at = at as usize;
    }

    /// The row in which a field was drawn last.
    pub(crate) fn row_of(&self, id: &str) -> Option<Rect> {
        let index = self.fields.iter().position(|field| field.id == id)?;
        self.rows.iter().find(|(_, field)| *field == index).map(|(row, _)| *row)
    }

    /// Goes to the field that was clicked.
    pub(crate) fn click(&mut self, at: ratatui::layout::Position) -> bool {
        let Some(&(_, field)) = self.rows.iter().find(|(row, _)| row.contains(at)) else { return false };
        self.at = field;
        self.end_typing();
        true
    }

    /// Writes a text into the field, as by typing it.
    pub(crate) fn paste(&mut self, text: &str) -> bool {
        if let Some(field) = self.text_field() {
            return field.insert(text) && self.take_text();
        }
        let mut changed = false;
        for letter in text.chars().filter(|c| !c.is_control()).take(4000) {
            changed |= self.type_letter(letter);
        }
        changed
    }

    pub(crate) fn key(&mut self, key: KeyEvent) -> Reply {
        if let Some(reply) = self.key_of_text(key) {
            return reply;
        }
        if key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT) {
            return Reply::Pass;
        }
        let coarse = if key.modifiers.contains(KeyModifiers::SHIFT) { 10.0 } else { 1.0 };
        match key.code {
            KeyCode::Enter if self.wrong => {}
            KeyCode::Enter => return Reply::Keep,
            KeyCode::Esc => return Reply::Restore,
            KeyCode::Down | KeyCode::Tab => self.move_by(1),
            KeyCode::Up | KeyCode::BackTab => self.move_by(-1),
            KeyCode::Right => return self.changed_if(|form| form.nudge(coarse)),
            KeyCode::Left => return self.changed_if(|form| form.nudge(-coarse)),
            KeyCode::Backspace => return self.changed_if(Self::backspace),
            KeyCode::Char('`') => return Reply::Pass,
            KeyCode::Char(letter) => return self.changed_if(|form| form.type_letter(letter)),
            _ => return Reply::Pass,
        }
        Reply::Quiet
    }

    /// The text that is edited, where the field has one.
    fn text_field(&mut self) -> Option<&mut TextField> {
        let field = self.fields.get(self.at)?;
        let Value::Text(text) = &field.value else { return None };
        let various = field.mixed && !field.touched;
        Some(self.typed.get_or_insert_with(|| TextField::to_replace(if various { "" } else { text })))
    }

    /// Has a text, or what was typed over something else, edited by the keys for that; none for other keys.
    fn key_of_text(&mut self, key: KeyEvent) -> Option<Reply> {
        if matches!(
            key.code,
            KeyCode::Enter | KeyCode::Esc | KeyCode::Up | KeyCode::Down | KeyCode::Tab | KeyCode::BackTab
        ) {
            return None;
        }
        if let Some(field) = self.text_field() {
            return match field.key(key) {
                Typed::Changed => Some(self.changed_if(Self::take_text)),
                Typed::Moved => Some(Reply::Quiet),
                Typed::Not => None,
            };
        }
        // The arrows nudge a number or choose a word; a letter and Backspace have their own way.
        let plain = key.modifiers.difference(KeyModifiers::SHIFT).is_empty();
        let own = match key.code {
            KeyCode::Left | KeyCode::Right | KeyCode::Backspace | KeyCode::Char(_) => plain,
            _ => false,
        };
        let field = self.typed.as_mut().filter(|_| !own)?;
        match field.key(key) {
            Typed::Changed => Some(self.changed_if(Self::take_typed)),
            Typed::Moved => Some(Reply::Quiet),
            Typed::Not => None,
        }
    }

    /// Takes the text that is edited over into the field; true if it is another.
    fn take_text(&mut self) -> bool {
        let typed = self.typed.as_ref().map_or_else(String::new, |typed| typed.text().to_owned());
        let Some(field) = self.fields.get_mut(self.at) else { return false };
        field.touched = true;
        let before = std::mem::replace(&mut field.value, Value::Text(typed));
        before != field.value
    }

    fn changed_if(&mut self, change: impl FnOnce(&mut Self) -> bool) -> Reply {
        if change(self) { Reply::Changed } else { Reply::Quiet }
    }

    /// Ends typing into the field. What could not be is not there any more, and why still stands below.
    fn end_typing(&mut self) {
        (self.typed, self.before, self.wrong) = (None, None, false);
    }

    fn nudge(&mut self, by: f64) -> bool {
        self.end_typing();
        let Some(field) = self.fields.get_mut(self.at) else { return false };
        field.touched = true;
        match &mut field.value {
            Value::Number { value, from, to, step } => {
                let next = (*value + by * *step).clamp(*from, *to);
                // Steps of a tenth do not add up to odd digits.
                *value = (next * 1e4).round() / 1e4;
            }
            Value::Choice { words, at } => {
                let last = words.len().saturating_sub(1) as i64;
                *at = (*at as i64 + by.signum() as i64).clamp(0, last) as usize;
            }
            Value::Flag(on) => *on = !*on,
            Value::Text(_) => return false,
        }
        true
    }

    fn backspace(&mut self) -> bool {
        self.typed.get_or_insert_default().key(KeyCode::Backspace.into());
        self.take_typed()
    }

    fn type_letter(&mut self, letter: char) -> bool {
        let Some(field) = self.fields.get_mut(self.at) else { return false };
        if let Value::Flag(on) = &mut field.value {
            let wanted = matches!(letter, 'y' | 'Y' | '1');
            let known = wanted || matches!(letter, 'n' | 'N' | '0' | ' ');
            let next = if letter == ' ' { !*on } else { wanted };
            field.touched |= known;
            return known && std::mem::replace(on, next) != next;
        }
        self.typed.get_or_insert_default().key(KeyCode::Char(letter).into());
        self.take_typed()
    }

    /// Takes what was typed over into a number or a choice, if it is one.
    fn take_typed(&mut self) -> bool {
        let Some(field) = self.fields.get_mut(self.at) else { return false };
        let typed = self.typed.as_ref().map_or_else(String::new, |typed| typed.text().to_owned());
        let before = self.before.get_or_insert_with(|| field.value.clone()).clone();
        (self.error, self.wrong) = (None, false);
        match &mut field.value {
            Value::Number { value, from, to, .. } => match typed.trim().parse::<f64>() {
                Ok(number) if number >= *from && number <= *to => {
                    field.touched = true;
                    std::mem::replace(value, number) != number
                }
                _ if typed.is_empty() || typed == "-" => false,
                Ok(_) => {
                    self.error =
                        Some(format!("{}: {typed} is out of range; type a number from {from} to {to}", field.label));
                    self.wrong = true;
                    // The digits before the one too many are no more what was meant.
                    std::mem::replace(&mut field.value, before.clone()) != before
                }
                Err(_) => {
                    self.error = Some(format!("{}: \"{typed}\" is not a number", field.label));
                    (self.typed, self.wrong) = (None, true);
                    std::mem::replace(&mut field.value, before.clone()) != before
                }
            },
            Value::Choice { words, at } => {
                let lower = typed.to_lowercase();
                let begins = words.iter().position(|word| word.to_lowercase().starts_with(&lower));
                match begins.or_else(|| words.iter().position(|word| word.to_lowercase().contains(&lower))) {
                    Some(found) => {
                        field.touched = true;
                        std::mem::replace(at, found) != found
                    }
                    None => {
                        self.error = Some(format!("{}: nothing is called \"{typed}\"; ← → show all", field.label));
                        (self.typed, self.wrong) = (None, true);
                        false
                    }
                }
            }
            _ => false,
        }
    }

    /// Draws the fields that apply, the one that is edited filled.
    pub(crate) fn draw(&mut self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        self.rows.clear();
        let shown: Vec<usize> = (0..self.fields.len()).filter(|&i| self.fields[i].shown).collect();
        let place = shown.iter().position(|&i| i == self.at).unwrap_or(0);
        let room = usize::from(area.height.saturating_sub(2)).max(1);
        self.first = self.first.min(place).max((place + 1).saturating_sub(room));
        let width = self.fields.iter().map(|f| f.label.chars().count()).max().unwrap_or(0).min(18);
        for (line, &index) in shown.iter().skip(self.first).take(room).enumerate() {
            let row = Rect { y: area.y + line as u16, height: 1, ..area };
            self.rows.push((row, index));
            let field = &self.fields[index];
            let mut pen = Pen::new(row, buffer);
            let edited = index == self.at;
            pen.put(if edited { "▸ " } else { "  " }, theme.bright());
            pen.put(&format!("{:<width$}  ", field.label), if edited { theme.bright() } else { theme.dim() });
            let space = usize::from(area.width).saturating_sub(width + 8);
            match (&field.value, edited) {
                (_, false) => drop(pen.put(&format!("  {}", shortened(&field.shown_value(), space)), theme.text())),
                (Value::Text(_), true) => {
                    let fresh = TextField::to_replace(&field.shown_value());
                    put_text(self.typed.as_ref().unwrap_or(&fresh), space, theme, row, &mut pen);
                }
                (Value::Number { .. } | Value::Choice { .. } | Value::Flag(_), true) => {
                    let number = matches!(field.value, Value::Number { .. });
                    let typed = self.typed.as_ref().filter(|typed| number && !typed.text().is_empty());
                    let value = typed.map_or_else(|| field.shown_value(), |typed| typed.text().to_owned());
                    pen.put("◂", theme.dim());
                    pen.put(&format!(" {} ", shortened(&value, space)), theme.filled());
                    pen.put("▸", theme.dim());
                }
            }
            let room = usize::from(pen.width().saturating_sub(pen.column() + 2));
            pen.put(&format!("  {}", cut_at_a_word(&field.hint, room)), theme.faint_text());
        }
        let rest = shown.len().saturating_sub(self.first + room);
        let (words, style) = match &self.error {
            Some(error) => (error.clone(), theme.armed()),
            None if rest > 0 => (format!("  ↓ {rest} more"), theme.dim()),
            None => return,
        };
        let lines = folded(&words, usize::from(area.width).max(10));
        let foot = area.bottom().saturating_sub(lines.len() as u16).max(area.y);
        for (line, words) in lines.iter().enumerate().take(usize::from(area.height)) {
            let row = Rect { y: foot + line as u16, height: 1, ..area };
            buffer.set_style(row, theme.text());
            Pen::new(row, buffer).put(&format!("{words:<width$}", width = usize::from(area.width)), style);
        }
    }
}

/// Writes a text with its cursor.
fn put_text(field: &TextField, space: usize, theme: Theme, row: Rect, pen: &mut Pen<'_>) {
    let width = (columns(field.text()) + 1).min(space.max(1));
    pen.put(" ", theme.dim());
    pen.put(" ", theme.filled());
    let at = Rect { x: row.x + pen.column(), width: width as u16, ..row };
    field.draw(theme, at.intersection(row), pen.buffer());
    pen.to(pen.column() + width as u16);
    pen.put(if field.is_fresh() { "▏" } else { " " }, theme.dim());
}

#[cfg(test)]
mod tests {
    use super::*;

    fn form() -> Form {
        Form::new(vec![
            Field::number("count", "how many", 1.0, 1.0, 100.0, 1.0),
            Field::choice("shape", "shape", ["line", "grid", "ring"], "line"),
            Field::flag("turns", "turns", false),
            Field::text("name", "name", "Light"),
        ])
    }

    fn press(form: &mut Form, keys: &str) -> Vec<Reply> {
        let key = |c: char| match c {
            '↓' => KeyCode::Down,
            '↑' => KeyCode::Up,
            '→' => KeyCode::Right,
            '←' => KeyCode::Left,
            '⌫' => KeyCode::Backspace,
            '⏎' => KeyCode::Enter,
            letter => KeyCode::Char(letter),
        };
        keys.chars().map(|c| form.key(KeyEvent::new(key(c), KeyModifiers::NONE))).collect()
    }

    #[test]
    fn typing_replaces_and_arrows_nudge() {
        let mut form = form();
        press(&mut form, "42");
        assert_eq!(form.whole("count"), 42);
        press(&mut form, "→→←");
        assert_eq!(form.whole("count"), 43);
        form.key(KeyEvent::new(KeyCode::Right, KeyModifiers::SHIFT));
        assert_eq!(form.whole("count"), 53);
        press(&mut form, "↓ri↓y↓Tube⌫s");
        assert_eq!((form.text("shape"), form.flag("turns"), form.text("name")), ("ring".into(), true, "Tubs".into()));
        assert_eq!(press(&mut form, "⏎"), [Reply::Keep]);
    }

    #[test]
    fn what_cannot_be_is_said_and_not_taken() {
        let mut form = form();
        assert_eq!(press(&mut form, "500"), [Reply::Changed, Reply::Changed, Reply::Changed]);
        assert_eq!(form.whole("count"), 1, "nothing is cut to what fits");
        assert!(form.error.as_ref().is_some_and(|e| e.contains("from 1 to 100")), "{:?}", form.error);
        assert_eq!(press(&mut form, "⏎⏎"), [Reply::Quiet, Reply::Quiet], "it is not kept");
        press(&mut form, "⌫");
        assert_eq!((form.whole("count"), press(&mut form, "⏎")), (50, vec![Reply::Keep]));
        press(&mut form, "⌫⌫q");
        assert!(form.error.as_ref().is_some_and(|e| e.contains("not a number")));
        assert_eq!(press(&mut form, "⏎"), [Reply::Quiet]);
        press(&mut form, "↓zz");
        assert!(form.error.as_ref().is_some_and(|e| e.contains("nothing is called")));
        assert_eq!(form.text("shape"), "line");
        assert_eq!(press(&mut form, "⏎→⏎"), [Reply::Quiet, Reply::Changed, Reply::Keep]);
    }

    #[test]
    fn of_a_long_choice_the_beginning_is_seen_and_of_a_long_text_the_end() {
        let mut form = Form::new(vec![
            Field::choice("to", "to", ["every light of the gangway and the floods"], ""),
            Field::text("name", "name", "every light of the gangway and the floods"),
        ]);
        let area = Rect::new(0, 0, 30, 5);
        let mut buffer = Buffer::empty(area);
        form.go_to("name");
        form.draw(Theme::plain(), area, &mut buffer);
        let line = |y: u16| (0..30).map(|x| buffer[(x, y)].symbol()).collect::<String>();
        assert!(line(0).contains("every light") && line(0).contains('…'), "{}", line(0));
        assert!(line(1).contains("the floods"), "{}", line(1));
    }

    #[test]
    fn words_are_folded_and_none_is_lost() {
        assert_eq!(folded("one two  three four", 9), ["one two ", "three", "four"]);
        assert_eq!(folded("", 9), [""]);
        assert_eq!(folded("averyverylongword x", 5), ["averyverylongword", "x"]);
    }

    #[test]
    fn a_paste_replaces_what_stands_there() {
        let mut form = form();
        form.go_to("name");
        assert!(form.paste("Big\nTube"));
        assert_eq!(form.text("name"), "BigTube");
        form.go_to("count");
        assert!(form.paste("12"));
        assert_eq!(form.whole("count"), 12);
    }

    #[test]
    fn what_differs_says_so_until_it_is_touched() {
        let mut form = form();
        form.fields[0].mixed = true;
        assert_eq!(form.fields[0].shown_value(), "various");
        press(&mut form, "7");
        assert_eq!(
            (form.fields[0].shown_value(), form.touched("count"), form.touched("name")),
            ("7".into(), true, false)
        );
    }

    #[test]
    fn fields_that_do_not_apply_are_passed_over() {
        let mut form = form();
        form.show("shape", false);
        form.show("turns", false);
        press(&mut form, "↓");
        assert_eq!(form.current(), "name");
        press(&mut form, "↓↑");
        assert_eq!(form.current(), "count");
    }
}
