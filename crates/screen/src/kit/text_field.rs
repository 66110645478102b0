//! One line of text that is edited, the same wherever text is typed: a cursor, a selection, words, undoing.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::Rect;
use ratatui_textarea::{CursorMove, TextArea};
use unicode_width::UnicodeWidthChar;

use super::pen::Pen;
use super::theme::Theme;
use super::words::{shortened, that_fit};

/// The most letters that a paste brings.
const MOST: usize = 4000;

/// The effect of a key on a field.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Typed {
    /// The text is another.
    Changed,
    /// The cursor or the selection is elsewhere, or the key had nothing to do.
    Moved,
    /// The key is none of a field's.
    Not,
}

/// A line of text with its cursor.
#[derive(Debug, Clone, Default)]
pub(crate) struct TextField {
    // Much larger than what holds it, and one is edited at a time.
    area: Box<TextArea<'static>>,
    /// True as long as the first letter that is typed replaces everything.
    fresh: bool,
}

impl PartialEq for TextField {
    fn eq(&self, other: &Self) -> bool {
        self.text() == other.text() && self.cursor() == other.cursor() && self.fresh == other.fresh
    }
}

impl TextField {
    /// A text that is gone on with: the cursor is at its end.
    pub(crate) fn at_end(text: &str) -> Self {
        let mut area = TextArea::new(vec![text.to_owned()]);
        area.move_cursor(CursorMove::End);
        Self { area: Box::new(area), fresh: false }
    }

    /// A text that the first letter replaces; a cursor key or Backspace goes on with it.
    pub(crate) fn to_replace(text: &str) -> Self {
        Self { fresh: !text.is_empty(), ..Self::at_end(text) }
    }

    /// The text.
    pub(crate) fn text(&self) -> &str {
        self.area.lines().first().map_or("", String::as_str)
    }

    /// Puts another text there, and the cursor at its end.
    pub(crate) fn set(&mut self, text: &str) {
        *self = Self::at_end(text);
    }

    /// Takes all of it away.
    pub(crate) fn clear(&mut self) {
        self.set("");
    }

    /// True if the next letter replaces everything.
    pub(crate) fn is_fresh(&self) -> bool {
        self.fresh
    }

    /// True if there is no text.
    pub(crate) fn is_empty(&self) -> bool {
        self.text().is_empty()
    }

    /// Handles a key for a list that is searched by what is typed: its arrows choose, and with nothing typed the keys that edit are
    /// not its own.
    pub(crate) fn key_of_search(&mut self, key: KeyEvent) -> Typed {
        let letter = matches!(key.code, KeyCode::Char(_))
            && !key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT);
        match key.code {
            KeyCode::Left | KeyCode::Right | KeyCode::Delete if !key.modifiers.contains(KeyModifiers::CONTROL) => {
                Typed::Not
            }
            _ if letter || !self.is_empty() => self.key(key),
            _ => Typed::Not,
        }
    }

    /// The letters before the cursor.
    fn cursor(&self) -> usize {
        self.area.cursor().1
    }

    /// The text with its cursor, where it is part of a line of words.
    pub(crate) fn with_cursor(&self) -> String {
        let letters = || self.text().chars();
        letters().take(self.cursor()).chain(['▏']).chain(letters().skip(self.cursor())).collect()
    }

    /// The letters that are selected, from the first to behind the last.
    fn selection(&self) -> Option<(usize, usize)> {
        if self.fresh {
            return Some((0, self.text().chars().count()));
        }
        self.area.selection_range().map(|((_, from), (_, to))| (from, to)).filter(|(from, to)| from < to)
    }

    /// Puts some text in the place of the selection, as by pasting it.
    pub(crate) fn insert(&mut self, text: &str) -> bool {
        let text: String = text.chars().filter(|letter| !letter.is_control()).take(MOST).collect();
        if text.is_empty() {
            return false;
        }
        self.replace_fresh();
        self.area.insert_str(text)
    }

    /// A text that the first letter replaces is selected now.
    fn replace_fresh(&mut self) {
        if std::mem::take(&mut self.fresh) {
            self.area.select_all();
        }
    }

    /// Handles a key. The black-out key is never text.
    pub(crate) fn key(&mut self, key: KeyEvent) -> Typed {
        let control = key.modifiers.contains(KeyModifiers::CONTROL);
        let alt = key.modifiers.contains(KeyModifiers::ALT);
        match key.code {
            KeyCode::Char('`') => Typed::Not,
            KeyCode::Char(letter) if letter.is_control() => Typed::Not,
            KeyCode::Char(letter) if control => self.control(letter.to_ascii_lowercase()),
            KeyCode::Char(letter) if alt => self.alternative(letter.to_ascii_lowercase()),
            KeyCode::Char(letter) => {
                self.replace_fresh();
                self.area.insert_char(letter);
                Typed::Changed
            }
            KeyCode::Backspace if alt || control => self.edit(TextArea::delete_word),
            KeyCode::Backspace => self.edit(TextArea::delete_char),
            KeyCode::Delete if alt || control => self.edit(TextArea::delete_next_word),
            KeyCode::Delete => self.delete(),
            KeyCode::Left | KeyCode::Right | KeyCode::Home | KeyCode::End => self.moved(key),
            _ => Typed::Not,
        }
    }

    fn control(&mut self, letter: char) -> Typed {
        match letter {
            'a' => self.go(CursorMove::Head, false),
            'e' => self.go(CursorMove::End, false),
            'u' => self.edit(TextArea::delete_line_by_head),
            'k' => self.edit(TextArea::delete_line_by_end),
            'w' => self.edit(TextArea::delete_word),
            'z' => self.edit(TextArea::undo),
            'y' => self.edit(TextArea::redo),
            _ => Typed::Not,
        }
    }

    fn alternative(&mut self, letter: char) -> Typed {
        match letter {
            'b' => self.go(CursorMove::WordBack, false),
            'f' => self.go(CursorMove::WordForward, false),
            'd' => self.edit(TextArea::delete_next_word),
            _ => Typed::Not,
        }
    }

    fn edit(&mut self, edit: fn(&mut TextArea<'static>) -> bool) -> Typed {
        self.fresh = false;
        if edit(&mut self.area) { Typed::Changed } else { Typed::Moved }
    }

    /// Takes away what is selected, or the letter behind the cursor.
    fn delete(&mut self) -> Typed {
        self.replace_fresh();
        self.edit(TextArea::delete_next_char)
    }

    fn moved(&mut self, key: KeyEvent) -> Typed {
        let words = key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT);
        let to = match (key.code, words) {
            (KeyCode::Left, true) => CursorMove::WordBack,
            (KeyCode::Left, false) => CursorMove::Back,
            (KeyCode::Right, true) => CursorMove::WordForward,
            (KeyCode::Right, false) => CursorMove::Forward,
            (KeyCode::Home, _) => CursorMove::Head,
            _ => CursorMove::End,
        };
        self.go(to, key.modifiers.contains(KeyModifiers::SHIFT))
    }

    /// Goes somewhere, and selects on the way or not.
    fn go(&mut self, to: CursorMove, selects: bool) -> Typed {
        if std::mem::take(&mut self.fresh) && !selects {
            // Of what is to be replaced as a whole the arrows go to its ends.
            let end =
                if matches!(to, CursorMove::Back | CursorMove::Head) { CursorMove::Head } else { CursorMove::End };
            self.area.move_cursor(end);
            return Typed::Moved;
        }
        match (selects, self.area.is_selecting()) {
            (true, false) => self.area.start_selection(),
            (false, true) => self.area.cancel_selection(),
            (true, true) | (false, false) => {}
        }
        self.area.move_cursor(to);
        // A line has no other lines to go on to.
        Typed::Moved
    }

    /// Draws as much of the text as has room around the cursor, filled, with the cursor and the selection on it; a letter of room before
    /// and behind is the caller's.
    pub(crate) fn draw(&self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let width = usize::from(area.width);
        if width == 0 || area.height == 0 {
            return;
        }
        let letters: Vec<char> = self.text().chars().collect();
        let cursor = self.cursor().min(letters.len());
        // In columns: ideographs take two.
        let span =
            |from: usize, to: usize| letters[from..to].iter().map(|letter| letter.width().unwrap_or(0)).sum::<usize>();
        // A place behind the last letter is the cursor's, and as much as has room is seen of what stands before it.
        let mut first = 0;
        while first < cursor && span(first, cursor) + letters.get(cursor).map_or(1, |c| c.width().unwrap_or(1)) > width
        {
            first += 1;
        }
        let shown: String = letters[first..].iter().collect();
        let place = |at: usize| span(first, at.max(first)).min(width);
        // The letter that the cursor is on is seen, even where the text goes on behind it.
        let is_at_end = place(cursor) + 1 >= width;
        let shown = if is_at_end { that_fit(&shown, width).to_owned() } else { shortened(&shown, width) };
        let row = Rect { height: 1, ..area };
        let mut pen = Pen::new(row, buffer);
        pen.put(&shown, theme.filled());
        let rest = usize::from(row.width - pen.column());
        pen.put(&" ".repeat(rest), theme.filled());
        if let Some((from, to)) = self.selection().filter(|_| !self.fresh) {
            let (from, to) = (place(from), place(to.min(letters.len())));
            let selected = Rect { x: row.x + from as u16, width: (to.saturating_sub(from)) as u16, ..row };
            buffer.set_style(selected, theme.selected());
        }
        if !self.fresh {
            let at = place(cursor).min(width - 1);
            buffer.set_style(Rect { x: row.x + at as u16, width: 1, ..row }, theme.cursor());
        }
        if first > 0 {
            buffer[(row.x, row.y)].set_symbol("…");
        }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use ratatui::style::Modifier;

    use super::*;

    fn press(field: &mut TextField, with: KeyModifiers, code: KeyCode) -> Typed {
        field.key(KeyEvent::new(code, with))
    }

    fn typed(field: &mut TextField, text: &str) {
        for letter in text.chars() {
            press(field, KeyModifiers::NONE, KeyCode::Char(letter));
        }
    }

    const NONE: KeyModifiers = KeyModifiers::NONE;
    const CTRL: KeyModifiers = KeyModifiers::CONTROL;
    const SHIFT: KeyModifiers = KeyModifiers::SHIFT;

    #[test]
    fn the_first_letter_replaces_and_a_cursor_key_goes_on() {
        let mut field = TextField::to_replace("Sail");
        typed(&mut field, "Mast");
        assert_eq!(field.text(), "Mast");
        let mut field = TextField::to_replace("Sail");
        press(&mut field, NONE, KeyCode::Home);
        typed(&mut field, "Top");
        assert_eq!(field.text(), "TopSail");
        let mut field = TextField::to_replace("Sail");
        press(&mut field, NONE, KeyCode::Backspace);
        assert_eq!(field.text(), "Sai");
        let mut field = TextField::to_replace("Sail");
        assert_eq!(press(&mut field, NONE, KeyCode::Delete), Typed::Changed);
        assert_eq!(field.text(), "");
    }

    #[test]
    fn words_lines_and_selections_are_taken_away_and_come_back() {
        let mut field = TextField::at_end("the long name");
        press(&mut field, CTRL, KeyCode::Char('w'));
        assert_eq!(field.text(), "the long ");
        press(&mut field, CTRL, KeyCode::Left);
        press(&mut field, CTRL, KeyCode::Char('k'));
        assert_eq!(field.text(), "the ");
        press(&mut field, CTRL, KeyCode::Char('z'));
        assert_eq!(field.text(), "the long ");
        press(&mut field, CTRL, KeyCode::Char('u'));
        press(&mut field, NONE, KeyCode::End);
        press(&mut field, SHIFT, KeyCode::Home);
        typed(&mut field, "x");
        assert_eq!(field.text(), "x");
        press(&mut field, SHIFT, KeyCode::Left);
        assert_eq!(press(&mut field, NONE, KeyCode::Delete), Typed::Changed);
        assert_eq!(field.text(), "");
        assert_eq!(press(&mut field, NONE, KeyCode::Backspace), Typed::Moved);
    }

    #[test]
    fn other_keys_are_not_its_own() {
        let mut field = TextField::at_end("x");
        for (with, code) in [
            (NONE, KeyCode::Enter),
            (NONE, KeyCode::Esc),
            (NONE, KeyCode::Up),
            (NONE, KeyCode::Tab),
            (CTRL, KeyCode::Char('s')),
            (CTRL, KeyCode::Char('c')),
            (NONE, KeyCode::Char('`')),
        ] {
            assert_eq!(press(&mut field, with, code), Typed::Not, "{code:?}");
        }
        assert_eq!(field.text(), "x");
    }

    #[test]
    fn the_cursor_is_always_seen() {
        let theme = Theme::plain();
        let area = Rect::new(0, 0, 10, 1);
        let mut field = TextField::at_end("abcdefghijklmnop");
        let seen = |field: &TextField| {
            let mut buffer = Buffer::empty(area);
            field.draw(theme, area, &mut buffer);
            let text: String = (0..10).map(|x| buffer[(x, 0)].symbol()).collect();
            let cursor = (0..10).position(|x| buffer[(x, 0)].modifier.contains(Modifier::UNDERLINED));
            (text, cursor)
        };
        assert_eq!(seen(&field), ("…ijklmnop ".to_owned(), Some(9)));
        press(&mut field, NONE, KeyCode::Home);
        assert_eq!(seen(&field), ("abcdefghi…".to_owned(), Some(0)));
        (0..9).for_each(|_| assert_ne!(press(&mut field, NONE, KeyCode::Right), Typed::Not));
        assert_eq!(seen(&field), ("abcdefghij".to_owned(), Some(9)), "the letter under the cursor is seen");
    }

    proptest! {
        #[test]
        fn no_keys_break_it(keys in proptest::collection::vec((0usize..14, 0usize..4, any::<char>()), 0..60)) {
            let mut field = TextField::to_replace("Größe 船");
            for (key, with, letter) in keys {
                let code = [
                    KeyCode::Left, KeyCode::Right, KeyCode::Home, KeyCode::End, KeyCode::Backspace, KeyCode::Delete,
                    KeyCode::Char('w'), KeyCode::Char('u'), KeyCode::Char('k'), KeyCode::Char('z'), KeyCode::Char('y'),
                    KeyCode::Char('b'), KeyCode::Char(letter), KeyCode::Char('é'),
                ][key];
                press(&mut field, [NONE, SHIFT, CTRL, KeyModifiers::ALT][with], code);
                prop_assert!(field.cursor() <= field.text().chars().count());
                let area = Rect::new(0, 0, 7, 1);
                field.draw(Theme::plain(), area, &mut Buffer::empty(area));
            }
        }
    }
}
